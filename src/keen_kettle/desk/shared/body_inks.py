"""The colours of the body that shows, mixed from the tokens of the theme in use."""

from keen_kettle.core.simulate.body3d import Inks3d
from keen_kettle.desk.kit.theme import colour

__all__ = ["body_inks"]


def body_inks(ground: str = "ground") -> Inks3d:
    """Colours for the theme in use, on a surface of it."""
    return Inks3d(
        skin=_mixed("flesh", "flesh", 0.0),
        hair=_mixed("shade", "quiet", 0.35),
        shoe=_mixed("quiet", "raised", 0.15),
        shirt=_mixed("chalk", "shade", 0.25),
        shorts=_mixed("edge", "quiet", 0.30),
        load=_mixed("chalk", "quiet", 0.25),
        floor=_mixed("edge", "quiet", 0.25),
        ground=_mixed(ground, ground, 0.0),
    )


def _mixed(first: str, second: str, share: float) -> tuple[int, int, int]:
    """A token with a share of another."""
    a, b = colour(first), colour(second)
    pairs = ((a.red(), b.red()), (a.green(), b.green()), (a.blue(), b.blue()))
    red, green, blue = (round((1 - share) * x + share * y) for x, y in pairs)
    return red, green, blue
