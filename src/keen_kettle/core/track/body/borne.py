"""Whether what rises in a film may be the plate of a bar: told by whoever has it."""

from collections.abc import Callable

import numpy as np

from keen_kettle.core.track.body.holder import LEAST_PERSON, holder, people_round, settled, trunk_of
from keen_kettle.core.track.body.net import JOINTS, PoseModel, Sighting
from keen_kettle.core.track.mark import MarkedPicture, PlateMark, Risen

__all__ = ["as_a_plate_is_lifted"]

LEAST_PLATE = 0.18
"""A plate's diameter against the square round its lifter (about a stature): 0.20 to 0.33 in 80 lifelike films
and 16 path-traced ones; the far plate seen from aside comes to 0.17, bells, hubs and rings of letters to 0.1."""
ON_HEAD, LARGEST_HEAD, IN_HEAD = 0.6, 0.2, 0.09
"""What is centred on a head to so much of its radius, and no wider than so much of that square, is the head (a
head is about 0.14 of a stature high); what lies all within so much of the square from the middle of the head
is part of it, an ear perhaps."""
WITH_THE_FEET, TOLD_BY_FEET = 0.35, 1.2
"""What rises by so many radii or more, but over its bearer's ankles by less than so much of that, is part of who
walks there. Plates on 13 path-traced films in which both are seen rise over the ankles by 0.95 to 1.6 of what they
rise in the picture."""
UPRIGHT = 1.1
"""Who walks has his hips so many trunks over his lower ankle, or more (one and a half where the legs are straight);
bodies made of arms and plate have shorter legs, and so has who is bent to a bar."""


def as_a_plate_is_lifted(net: Callable[[], PoseModel]) -> Callable[[Risen], bool]:
    """Tells whether what rises is as large as a plate beside the one who holds it, nobody's head, and rises from
    his feet; it may be one where nobody is seen to hold it."""

    def fits(risen: Risen) -> bool:
        return _no_bell_and_no_head(net(), risen.marked) and not _goes_with_the_feet(net(), risen)

    return fits


def _no_bell_and_no_head(net: PoseModel, marked: MarkedPicture) -> bool:
    picture, mark = marked.picture, marked.mark
    crop = holder(net, picture, np.array([mark.x_px, mark.y_px]))
    if crop is not None:
        return 2 * mark.r_px >= LEAST_PLATE * crop.side
    looks = (settled(net, picture, one) for one in people_round(net, picture))
    return not any(_is_head(one, mark) for one in looks if one.person >= LEAST_PERSON)


def _is_head(sighting: Sighting, mark: PlateMark) -> bool:
    """Whether a mark is round somebody's head, and no larger than one, or within it: from behind heads look as
    round as plates, and go up and down as they do."""
    head, side = sighting.points[list(JOINTS["ear"])].mean(axis=0), sighting.next_crop().side
    off = float(np.hypot(*(head - [mark.x_px, mark.y_px])))
    round_it = off < ON_HEAD * mark.r_px and 2 * mark.r_px < LARGEST_HEAD * side
    return round_it or off + mark.r_px < IN_HEAD * side


def _goes_with_the_feet(net: PoseModel, risen: Risen) -> bool:
    """Whether it keeps its height over the feet of the one who has it, while it rises in the picture."""
    if risen.rise < TOLD_BY_FEET:
        return False
    low, high = (_over_feet(net, one) for one in (risen.lowest, risen.highest))
    return abs(high - low) < WITH_THE_FEET * risen.rise


def _over_feet(net: PoseModel, marked: MarkedPicture) -> float:
    """How many of its radii a mark is over its holder's lower ankle; NaN where that is not seen, or no body that
    stands on its legs."""
    picture, mark = marked.picture, marked.mark
    crop = holder(net, picture, np.array([mark.x_px, mark.y_px]))
    if crop is None:
        return np.nan
    look = net.look(picture, crop)
    foot, hips = (look.points[list(JOINTS[joint]), 1] for joint in ("ankle", "hip"))
    stands = foot.max() - hips.mean() > UPRIGHT * trunk_of(look) and look.person >= LEAST_PERSON
    if not stands or foot.max() >= len(picture):
        return np.nan
    return float(foot.max() - mark.y_px) / mark.r_px
