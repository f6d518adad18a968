"""Prescribe: correctives, warm-ups, complexes, the session sheet, the drill library."""
