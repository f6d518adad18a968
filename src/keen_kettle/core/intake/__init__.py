"""What a film's name and its day tell: whose it is and what was trained."""

from keen_kettle.core.intake.file_name import Guess, Trained, guess_from_name

__all__ = ["Guess", "Trained", "guess_from_name"]
