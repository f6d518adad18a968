"""The near plate of a bar of which only the far one was found.

Seen from aside both plates are in the picture, and the far one, before a plain wall, is often the
clearer. The near one looks larger, k times say, and as it is so much nearer it also goes k times as
far. So for every k the votes for circles k times as large are laid over one another along that way;
what does not travel with the bar washes out.
"""

from collections.abc import Callable
from functools import partial

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.plate_looks import plate_at
from keen_kettle.core.track.rounds import Round, centre_votes, colour_round
from keen_kettle.core.track.side_by_side import side_by_side
from keen_kettle.core.track.travellers import Traveller, heights_of
from keen_kettle.core.track.views import Views, go_on

__all__ = ["nearer_mate"]

Array = NDArray[np.float64]

LARGER_BY = 1.09 * 1.055 ** np.arange(10)
"""So many times as large the near plate looks: a bar of 1.3 m between its plates, a camera from 2 m on."""
ASIDE, ABOVE, NOT_ITSELF, ITSELF = 7.0, 2.0, 0.6, 0.15
"""It is looked for within so many radii aside, above and below; nearer than this lie rings of the plate
itself."""
HALF_SEEN, LEAST_VOTES, NEARLY = 0.5, 0.2, 0.85
"""It has so much of the votes that the plate itself has (0.27 to 0.65 at true ones, up to 0.3 at others, on
drawn films; those look like no plate). Of sizes with nearly as many votes the one counts at which it looks
most like a plate."""


def nearer_mate(
    views: Views, one: Traveller, r: float, cancelled: Callable[[], bool]
) -> Traveller | None:
    """The larger plate of a bar on which one of radius `r` (small pixels) travels; None where nothing round
    goes with it as the near plate would.

    Raises
    ------
    Cancelled
    """
    places = {view: views.in_reference(view, at.x, at.y) for view, at in one.seen.items()}
    middle = np.mean(list(places.values()), axis=0)
    ways = {view: place - middle for view, place in places.items()}
    offs, votes = _stacked_votes(views, ways, middle, r, cancelled)
    away = np.hypot(*offs)
    own = float(votes[0][away < ITSELF * r + 2].max(initial=0.0))
    others = np.where(away < NOT_ITSELF * r, 0.0, votes[1:])
    best = float(others.max())
    if best < max(LEAST_VOTES * own, 1e-6):
        return None
    mates = []
    for size, votes_for in zip(LARGER_BY, others, strict=True):
        if votes_for.max() >= NEARLY * best:
            row, column = np.unravel_index(int(votes_for.argmax()), votes_for.shape)
            start = middle + offs[:, row, column]
            there = {view: start + size * way for view, way in ways.items()}
            seen = _rounds_at(views, there, float(size) * r, cancelled)
            mates.append(Traveller(seen, heights_of(views, seen), float(size) * r, one.score))
    return max(mates, key=lambda mate: mate.sure)


def _stacked_votes(
    views: Views,
    ways: dict[int, Array],
    middle: Array,
    r: float,
    cancelled: Callable[[], bool],
) -> tuple[Array, Array]:
    """Places (2, rows, columns) off the plate, in the reference's small pixels, and the votes for circles
    there in the mean of all views, (1 + sizes, rows, columns): for the plate's own size, then larger."""
    sizes = np.concatenate([[1.0], LARGER_BY])
    shape = (round(ABOVE * r) | 1, round(ASIDE * r) | 1)
    rows, columns = np.indices(shape)
    offs = np.stack([2.0 * columns + 1 - shape[1], 2.0 * rows + 1 - shape[0]])

    def votes_in(view: int) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        edges, way = views.edges[view], ways[view]
        total = np.zeros((len(sizes), *shape), np.float32)
        count = np.zeros_like(total)
        if edges is None:
            return total, count
        votes = centre_votes(edges, sizes * r)
        back = cv2.invertAffineTransform(views.laid[view])
        there = np.ones(votes.shape[1:], np.float32)
        for k, size in enumerate(sizes):
            begin = back[:, :2] @ (middle + size * way + offs[:, 0, 0]) + back[:, 2]
            # Votes are kept at half the resolution, for places 1, 3, 5 ...
            grid = np.column_stack([back[:, :2], (begin - 1) / 2])
            for into, what in ((total, votes[k]), (count, there)):
                into[k] = cv2.warpAffine(
                    what, grid, shape[::-1], flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
                )
        return total, count

    each = side_by_side(votes_in, ways, partial(go_on, cancelled))
    total, count = (np.sum(part, axis=0) for part in zip(*each, strict=True))
    enough = count >= HALF_SEEN * len(ways)
    return offs, np.where(enough, total / np.maximum(count, 1), 0.0).astype(np.float64)


def _rounds_at(
    views: Views, places: dict[int, Array], r: float, cancelled: Callable[[], bool]
) -> dict[int, Round]:
    """What is at places of the reference: the plates that are seen there, or the places themselves."""
    found = {}
    for view, place in places.items():
        go_on(cancelled)
        x, y = views.from_reference(view, place)
        picture = views.pictures[view]
        seen = plate_at(picture, x, y, r)
        found[view] = seen or Round(x, y, r, 0.0, colour_round(picture, x, y, r))
    return found
