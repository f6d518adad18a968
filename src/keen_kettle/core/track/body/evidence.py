"""All that tells where the points of a body are, laid out for the solver.

What the model saw, what the coach set, where bar, plate and camera were; which points lie behind the
plate, whether the hand is at the bar, and how long the segments usually are.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.body.landmarks import LANDMARKS, BodyHand, Sightings
from keen_kettle.core.track.body.misread import reread
from keen_kettle.core.track.body.own_time import own_time
from keen_kettle.core.track.mark import BarTrack, State

__all__ = [
    "COUNT",
    "FAR_GRIP_SIGMA",
    "FLOOR_SIGMA",
    "ROW_OF",
    "SHARES",
    "Evidence",
    "behind_plate",
    "camera_of",
    "covered_by_plate",
    "gather",
    "gripping",
    "how_fast",
    "repeats_of",
    "usual_lengths",
]

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

ROW_OF = {name: number for number, name in enumerate(LANDMARKS)}
COUNT = len(LANDMARKS)
SHARES = {
    ("toe", "heel"): 0.19,
    ("heel", "ankle"): 0.055,
    ("toe", "ankle"): 0.155,
    ("ankle", "knee"): 0.315,
    ("knee", "hip"): 0.315,
    ("hip", "shoulder"): 0.37,
    ("shoulder", "ear"): 0.17,
}
"""Usual lengths as shares of the body, where a clip does not show them (Body's segment table)."""
FLOOR_SIGMA = {"toe": 0.006, "heel": 0.006, "ankle": 0.010}
"""Feet stand at the height at which they mostly do; heels are held there only while unseen."""
ASTRIDE = 0.3
"""Feet seen so far apart: which of them is the near one cannot be told."""
WELL_OUTSIDE, FEW_LENGTHS = 1.3, 6
SEEN_LENGTH, SURE_LENGTH, EDGE_DOUBT, BUILD, OBLIQUE = 0.06, 0.03, 0.25, 0.10, 0.35
"""Relative uncertainty of a length that is seen well, between points that are surely where they are, or not
seen well; how people differ; seen from aside."""
SURE = 0.02
SQUARE_BREADTH = 0.18
"""Shoulders that look further apart than this share of the trunk: the bar's end is not at the hand."""
FAR_GRIP, GRIP_LOOKS, GRIP_SHARE, FAR_GRIP_SIGMA = 0.1, 5, 0.25, 0.06
"""A hand beside the bar's end is so far from it, seen so in so many looks and such a share of them."""
LET_GO = 0.6
"""A hand that is seen this far from the bar has let go."""
VOTES = 11
LEG = np.array([name in ("toe", "heel", "ankle", "knee") for name in LANDMARKS])
FAST_BAR = 1.2
"""Bodies per second: the bar of a second pull."""
BEHIND = 1.04
"""A point within so many plate radii of its middle lies behind the plate."""


@dataclass(frozen=True)
class Evidence:
    """All that pulls at the points of the looks (`nodes`), in units of the body.

    `t_s` (n,) are the times the lifter had (`own_time`); `seen` (n, 9, 2), NaN where not; `spread` (n, 9)
    its standard uncertainty, NaN where only the usual one is known; `sure` (n, 9) presence; `hand`
    (n, 9, 2); `hidden` (n, 9); `planted` (n,) from this node to the next; `bar` (n, 2); `plate` (n,) radius, NaN if none;
    `astride` (n,) where one foot is far before the other; `floor` where feet mostly stand. `square`:
    the lifter is seen from the side; `front` is 1 where the toes point to the right, else -1; `grip`
    (2,) is the way from the bar's end to a hand that is seen beside it; `moves` (n - 1, segments, 2, 3)
    tells how each half of a `CARRIED` segment moves to the next node: share along it, across, down;
    `carried` (n,) marks nodes whose points were carried there.
    """

    nodes: NDArray[np.int32]
    t_s: Array
    seen: Array
    sure: Array
    hand: Array
    hidden: Mask
    planted: Mask
    bar: Array
    plate: Array
    astride: Mask
    spread: Array
    unit: float
    floor: dict[str, float]
    square: bool = True
    front: float = 1.0
    grip: Array | None = None
    moves: Array | None = None
    carried: Mask | None = None

    @property
    def reread(self) -> Mask:
        """Sightings (n, 9) that are taken as the model is known to misread them."""
        return np.isfinite(self.spread)

    @property
    def gripped(self) -> Array:
        """Where a hand on the bar is (n, 2)."""
        return self.bar if self.grip is None else self.bar + self.grip

    def part(self, looks: slice) -> "Evidence":
        """That of some looks in a row."""
        rows = (
            "nodes",
            "t_s",
            "seen",
            "sure",
            "hand",
            "hidden",
            "planted",
            "bar",
            "plate",
            "astride",
            "spread",
        )
        moves = self.moves[looks.start : looks.stop - 1] if self.moves is not None else None
        carried = self.carried[looks] if self.carried is not None else None
        return replace(
            self,
            moves=moves,
            carried=carried,
            **{name: getattr(self, name)[looks] for name in rows},
        )


def gather(
    t_s: Array,
    facing: str,
    sightings: Sightings | None,
    hand: BodyHand,
    bar: BarTrack | None,
    with_plate: bool,
) -> Evidence | None:
    """All that is known of the body in a clip; None where that is nothing. `t_s` (frames,) and the rest as
    in `solve_body`."""
    count = len(t_s)
    nodes = _nodes(t_s, sightings, hand, repeats_of(bar, count))
    if nodes is None:
        return None
    camera = camera_of(bar, count)[nodes]
    front = 1.0 if facing == "right" else -1.0
    seen, sure, apart = _sighted(sightings, nodes, 1 if facing == "right" else 0)
    by_hand, hidden, planted = _set_by_hand(hand, nodes)
    place, plate = _bar_at(bar, nodes, with_plate)
    size = _unit(seen, by_hand)
    rather, spread = _reread(sightings, nodes, front, seen, place, plate, size)
    # Which leg is the near one is not told of feet that are far apart, and nothing of what is not seen.
    silent = (apart > ASTRIDE * size)[:, None] & LEG | hidden | ~np.isfinite(seen[..., 0])
    seen, spread = np.where(silent[..., None], seen, rather), np.where(silent, np.nan, spread)
    seen -= camera[:, None]
    by_hand -= camera[:, None]
    unit = _unit(seen, by_hand)
    gathered = Evidence(
        nodes=nodes,
        t_s=own_time(t_s[nodes], (place - camera) / unit),
        seen=seen / unit,
        sure=sure,
        hand=by_hand / unit,
        hidden=hidden,
        planted=planted,
        bar=(place - camera) / unit,
        plate=plate / unit,
        astride=apart > ASTRIDE * unit,
        spread=spread / unit,
        unit=unit,
        floor={},
        square=sightings is None or not sightings.breadth() > SQUARE_BREADTH,
        front=front,
        moves=_moves(sightings, nodes, camera, unit),
        carried=_carried(sightings, nodes),
    )
    gathered = replace(gathered, grip=_grip_offset(gathered))
    return replace(gathered, floor=_floor(gathered))


def _nodes(
    t_s: Array, sightings: Sightings | None, hand: BodyHand, again: Mask
) -> NDArray[np.int32] | None:
    """The frames that are solved, (n,): what was looked at between the first and the last in which
    anything is known, and what the hand has set; no repeated pictures."""
    looked = np.zeros(0, np.int32)
    if sightings is not None and sightings.found.any():
        looked = sightings.frames[sightings.found]
    by_hand = np.array([p.frame for p in hand.points if 0 <= p.frame < len(t_s)], np.int32)
    known = np.concatenate([looked, by_hand])
    if not len(known):
        return None
    steps = sightings.frames if sightings is not None else _evenly(t_s, known.min(), known.max())
    inside = steps[(steps >= known.min()) & (steps <= known.max())]
    nodes = np.unique(np.concatenate([inside, known])).astype(np.int32)
    nodes = nodes[~again[nodes] | np.isin(nodes, by_hand)]
    return nodes if len(nodes) else None


def _sighted(
    sightings: Sightings | None, nodes: NDArray[np.int32], side: int
) -> tuple[Array, Array, Array]:
    """What the model saw of one side: points (n, 9, 2) and presence (n, 9), and how far apart the ankles
    were (n,); pixels."""
    seen = np.full((len(nodes), COUNT, 2), np.nan)
    sure, apart = np.zeros((len(nodes), COUNT)), np.zeros(len(nodes))
    if sightings is not None:
        fresh = np.flatnonzero(sightings.found & np.isin(sightings.frames, nodes))
        rows = np.searchsorted(nodes, sightings.frames[fresh])
        seen[rows] = sightings.possible(side)[fresh]
        sure[rows] = sightings.presence[fresh, side]
        feet = sightings.points[fresh, :, ROW_OF["ankle"], 0]
        apart[rows] = np.abs(feet[:, 0] - feet[:, 1])
    return seen, sure, apart


def _reread(
    sightings: Sightings | None,
    nodes: NDArray[np.int32],
    front: float,
    seen: Array,
    place: Array,
    plate: Array,
    unit: float,
) -> tuple[Array, Array]:
    """What the model saw of the near side (n, 9, 2), taken as it is known to misread lifters, and how
    uncertain each point is (n, 9), NaN where no plate tells; pixels."""
    spread = np.full(seen.shape[:2], np.nan)
    known = np.isfinite(place[:, 0]) & np.isfinite(plate)
    if sightings is None:
        return seen, spread
    fresh = np.flatnonzero(sightings.found & np.isin(sightings.frames, nodes))
    rows = np.searchsorted(nodes, sightings.frames[fresh])
    fresh, rows = fresh[known[rows]], rows[known[rows]]
    if not len(rows):
        return seen, spread
    sides = [1, 0] if front > 0 else [0, 1]
    points = sightings.points[fresh][:, sides].astype(float)
    presence = sightings.presence[fresh][:, sides].astype(float)
    mended = seen.copy()
    for _again in range(2):  # how large the body looks depends on where its points are
        rather = reread(points / unit, presence, place[rows] / unit, plate[rows] / unit, front)
        mended[rows] = np.where(np.isfinite(seen[rows]), rather.points * unit, np.nan)
        spread[rows] = rather.sigma * unit
        unit = _unit(mended, np.full_like(mended, np.nan))
    return mended, spread


def _moves(
    sightings: Sightings | None, nodes: NDArray[np.int32], camera: Array, unit: float
) -> Array | None:
    """How halves of segments move from each node to the next (n - 1, segments, 2, 3), bodies, before a
    camera that stands still; over looks that are no nodes (repeated pictures) the moves add up."""
    if sightings is None or sightings.moves is None or len(nodes) < 2:
        return None
    told = sightings.moves.astype(float)
    way = np.concatenate([np.zeros_like(told[:1]), np.cumsum(np.nan_to_num(told), axis=0)])
    gaps = np.concatenate([np.zeros_like(told[:1]), np.cumsum(np.isnan(told), axis=0)])
    rows = np.searchsorted(sightings.frames, nodes)
    rows = np.minimum(rows, len(told) - 1)
    moves = np.diff(way[rows], axis=0)
    moves[..., 0] /= np.maximum(np.diff(rows), 1)[:, None, None]
    moves[np.diff(gaps[rows], axis=0) > 0] = np.nan
    moves[np.diff(rows) < 1] = np.nan
    moves[..., 1:] -= np.diff(camera, axis=0)[:, None, None]
    moves[..., 1:] /= unit
    return moves


def _carried(sightings: Sightings | None, nodes: NDArray[np.int32]) -> Mask | None:
    """Nodes (n,) whose points were carried there by patches of the picture."""
    if sightings is None or sightings.carried is None:
        return None
    return np.isin(nodes, sightings.frames[sightings.carried])


def _set_by_hand(hand: BodyHand, nodes: NDArray[np.int32]) -> tuple[Array, Mask, Mask]:
    """Points that the hand has set (n, 9, 2) in pixels, points that it has hidden (n, 9), and whether the
    foot stands from a look to the next (n,)."""
    points = np.full((len(nodes), COUNT, 2), np.nan)
    row_of = {int(frame): row for row, frame in enumerate(nodes)}
    for p in hand.points:
        if p.frame in row_of and p.name in ROW_OF:
            points[row_of[p.frame], ROW_OF[p.name]] = p.x, p.y
    hidden, planted = np.zeros((len(nodes), COUNT), bool), np.zeros(len(nodes), bool)
    for span in hand.spans:
        frames = (nodes >= span.first) & (nodes <= span.last)
        if span.kind == "hidden" and span.name in ROW_OF:
            hidden[frames, ROW_OF[span.name]] = True
        elif span.kind == "planted":
            planted[:-1] |= frames[:-1] & frames[1:]
    return points, hidden, planted


def _floor(e: Evidence) -> dict[str, float]:
    """The height at which each point of the foot mostly is when it can be seen (median)."""
    hidden = behind_plate(e, e.seen) | e.hidden
    found = {}
    for name in FLOOR_SIGMA:
        y = np.where(hidden[:, ROW_OF[name]] | e.astride, np.nan, e.seen[:, ROW_OF[name], 1])
        y = y[np.isfinite(y)]
        if len(y) >= 5:
            found[name] = float(np.median(y))
    return found


def _evenly(t_s: Array, first: int, last: int) -> NDArray[np.int32]:
    step = max(round(1 / 30 / max(float(np.median(np.diff(t_s))), 1e-6)), 1)
    return np.arange(first, last + 1, step, dtype=np.int32)


def repeats_of(bar: BarTrack | None, count: int) -> Mask:
    """Frames (count,) whose picture is the one before again: they show no new place at their time."""
    return np.zeros(count, bool) if bar is None else bar.held


def camera_of(bar: BarTrack | None, count: int) -> Array:
    """How far the camera's movement carried things, (frames, 2)."""
    return np.zeros((count, 2)) if bar is None else bar.camera_in_all_frames_px()


def _bar_at(
    bar: BarTrack | None, nodes: NDArray[np.int32], with_plate: bool
) -> tuple[Array, Array]:
    """The bar's place and the plate's radius at the nodes; NaN where unknown."""
    if bar is None:
        return np.full((len(nodes), 2), np.nan), np.full(len(nodes), np.nan)
    place = np.column_stack([bar.x_px, bar.y_px])[nodes]
    place[(bar.state == State.LOST)[nodes]] = np.nan
    radius = max(bar.rim.axes_px) if with_plate else np.nan
    return place, np.full(len(nodes), radius)


def _unit(seen: Array, by_hand: Array) -> float:
    """Shank, thigh and trunk together in pixels, from whatever shows them (median)."""
    points = np.where(np.isfinite(by_hand), by_hand, seen)
    sizes = []
    for (a, b), share in SHARES.items():
        if share < 0.3:
            continue
        way = points[:, ROW_OF[a]] - points[:, ROW_OF[b]]
        apart = np.hypot(way[:, 0], way[:, 1])
        apart = apart[np.isfinite(apart)]
        if len(apart):
            sizes.append(float(np.median(apart)) / share)
    if sizes:
        return max(float(np.median(sizes)), 8.0)
    known = points[np.isfinite(points[..., 0])]
    return max(float(np.ptp(known, axis=0).max(initial=0.0)), 100.0)


def usual_lengths(e: Evidence) -> dict[tuple[str, str], float]:
    """Usual length of every segment: the median over looks in which both its ends can be seen."""
    points = np.where(np.isfinite(e.hand), e.hand, e.seen)
    clear = np.isfinite(e.hand[..., 0]) | (~covered_by_plate(e, e.seen) & ~e.hidden)
    # Of limbs behind the plate the model likes to put the ends at its edge: only what lies well
    # outside tells a length, and that is weighed against what is usual in people.
    away = np.hypot(*(points - e.bar[:, None]).transpose(2, 0, 1))
    with np.errstate(invalid="ignore"):
        outside = ~(away < WELL_OUTSIDE * e.plate[:, None])
        sure = e.spread < SURE
    # Where it is said how unsure each point is, that tells which are plain.
    clear = np.where(e.reread & ~np.isfinite(e.hand[..., 0]), sure & ~e.hidden, clear)
    outside = np.where(e.reread, sure, outside)
    found = {}
    for (a, b), share in SHARES.items():
        way = points[:, ROW_OF[a]] - points[:, ROW_OF[b]]
        apart = np.hypot(way[:, 0], way[:, 1])
        both = clear[:, ROW_OF[a]] & clear[:, ROW_OF[b]] & np.isfinite(apart)
        well = both & (
            outside[:, ROW_OF[a]] & outside[:, ROW_OF[b]] | np.isfinite(e.hand[:, ROW_OF[a], 0])
        )
        few = well.sum() < FEW_LENGTHS
        used = both if few else well
        if not used.any():
            found[a, b] = share
            continue
        seen = max(float(np.median(apart[used])), 1e-3)
        spread = EDGE_DOUBT if few else SURE_LENGTH if e.reread.any() else SEEN_LENGTH
        firm, usual = 1 / spread**2, 1 / (BUILD if e.square else OBLIQUE) ** 2
        found[a, b] = float(np.exp((firm * np.log(seen) + usual * np.log(share)) / (firm + usual)))
    return found


def behind_plate(e: Evidence, points: Array) -> Mask:
    """Which points (n, 9, 2) lie behind the plate."""
    away = np.hypot(*(points - e.bar[:, None]).transpose(2, 0, 1))
    with np.errstate(invalid="ignore"):
        return np.asarray(away < BEHIND * e.plate[:, None])


def covered_by_plate(e: Evidence, points: Array) -> Mask:
    """What the plate hides of `points` (n, 9, 2), as (n, 9): all that lies behind it, and the wrist of a
    hand on the bar."""
    hidden = behind_plate(e, points)
    # Beyond the picture's edge (a presence of exactly nothing) the model only guesses.
    hidden |= np.isfinite(e.seen[..., 0]) & (e.sure <= 0.0)
    if e.grip is None:
        hidden[:, ROW_OF["wrist"]] |= gripping(e) & np.isfinite(e.plate)
    return hidden


def _grip_offset(e: Evidence) -> Array | None:
    """Where the near hand is seen beside the bar's end; None where it is hidden by it.

    Seen from aside, or with a wide grip, the hand is not in front of the bar's end but a constant
    way from it.
    """
    if e.square:
        return None
    way = e.seen[:, ROW_OF["wrist"]] - e.bar
    with np.errstate(invalid="ignore"):
        far = np.hypot(way[:, 0], way[:, 1])
        clear = (far > BEHIND * e.plate) & (far < LET_GO)
        holds = np.isfinite(far) & (far < LET_GO)
    if clear.sum() < max(GRIP_LOOKS, GRIP_SHARE * holds.sum()):
        return None
    offset = np.median(way[clear], axis=0)
    spread = float(np.median(np.hypot(*(way[clear] - offset).T)))
    if spread > 1.5 * FAR_GRIP_SIGMA:
        return None
    return offset if float(np.hypot(*offset)) > FAR_GRIP else None


def how_fast(e: Evidence) -> Array:
    """How fast the bar is at each look (n,), as a share of a fast one, at most 1; 0 where it is not known."""
    if len(e.nodes) < 2:
        return np.zeros(len(e.nodes))
    speed = np.hypot(*np.gradient(e.bar, e.t_s, axis=0).T)
    return np.asarray(np.clip(np.nan_to_num(speed) / FAST_BAR, 0, 1))


def gripping(e: Evidence) -> Mask:
    """Looks (n,) in which the hand is on the bar, as far as can be seen."""
    away = np.hypot(*(e.seen[:, ROW_OF["wrist"]] - e.bar).T)
    with np.errstate(invalid="ignore"):
        near = (~(away > LET_GO)).astype(float)
    # One wild sighting is no hand that lets go: the looks round it vote.
    window = np.ones(min(VOTES, len(near)))
    votes = np.convolve(near, window, mode="same")
    votes /= np.convolve(np.ones(len(near)), window, mode="same")
    return np.asarray(np.isfinite(e.bar[:, 0]) & (votes >= 0.5))
