"""From the landmarks of a side view to the turn and place of every bone.

The spine follows the way from hip to shoulder, the legs the joints of the side view (knees apart as
they bend), the arms reach the load by two links, the hands close round it. Joint centres stand where
the landmarks are, to the millimetre; limbs that are not as long as the baked ones are stretched.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.body3d.lifter import Lifter
from keen_kettle.core.simulate.body3d.rotations import (
    about,
    part,
    stretch,
    swing,
    unit,
    vector_product,
)

__all__ = ["Bones", "Held", "pose_bones"]

Array = NDArray[np.float64]
Points = Mapping[str, Array]
FEET_APART, KNEES_APART, KNEES_OUT = 0.14, 0.125, 0.07
"""Half the distance between ankles and between knees standing, and how far deep knees go out (m)."""
SPLAY_RAD = np.radians(12.0)
FINGERS_DEG = ((1, 70.0), (2, 80.0), (3, 45.0))
TRUNK = ("root", "spine", "pelvis", "breast")
NECK = (("neck01", 0.8), ("neck02", 0.62), ("neck03", 0.45))


@dataclass(frozen=True)
class Held:
    """What a hand holds: where (x, y in metres), how far aside, and how far it is in the rack (0 to
    1) or overhead (0 to 1). Without a `place` the arm hangs to the wrist of the side view. The arm is
    `longer` than the lifter's own by this factor."""

    place: Array | None
    aside_m: float = 0.29
    rack: float = 0.0
    up: float = 0.0
    longer: float = 1.0


@dataclass
class Bones:
    """Turn (B, 3, 3) and place (B, 3) of every bone; limbs' stretches at rest by bone: axis, factor."""

    turns: Array
    places: Array
    stretches: dict[int, tuple[Array, float]] = field(default_factory=dict)


class _Posing:
    """One pose in the making."""

    def __init__(self, lifter: Lifter, points: Points) -> None:
        self.lifter, self.points = lifter, points
        self.turns: dict[str, Array] = {}
        self.places: dict[str, Array] = {}
        self.stretches: dict[int, tuple[Array, float]] = {}
        rest_hip, rest_shoulder = lifter.head("upperleg01.R"), lifter.head("upperarm01.R")
        self._rest_middle = rest_hip * [1, 1, 0]
        rest_way = (rest_shoulder - rest_hip) * [1, 1, 0]
        self._hip = np.append(points["hip"], 0.0)
        way = np.append(points["shoulder"], 0.0) - self._hip
        lean = np.arctan2(way[1], way[0]) - np.arctan2(rest_way[1], rest_way[0])
        self.lean = float(np.arctan2(np.sin(lean), np.cos(lean)))
        self.upright = about(np.array([0.0, 0.0, 1.0]), self.lean)
        factor = float(np.linalg.norm(way) / np.linalg.norm(rest_way))
        self._longer = stretch(rest_way, factor)
        for name, bone in lifter.index.items():
            if name.startswith(TRUNK):
                self.stretches[bone] = (unit(rest_way), factor)

    def on_trunk(self, rest: Array) -> Array:
        """Where a point of the trunk at rest now is."""
        return np.asarray(self.upright @ self._longer @ (rest - self._rest_middle) + self._hip)

    def put(self, bone: str, turn: Array, place: Array | None = None) -> None:
        self.turns[bone] = turn
        if place is not None:
            self.places[bone] = np.asarray(place, float)

    def limb(self, bone: str, rest_way: Array, turn: Array, begin: Array, end: Array) -> None:
        """A bone from one joint to the next, as long as they are apart."""
        self.put(bone, turn, begin)
        factor = float(np.linalg.norm(end - begin) / np.linalg.norm(rest_way))
        for one in (bone, bone.replace("01", "02")):
            self.stretches[self.lifter.index[one]] = (unit(rest_way), factor)

    def finish(self) -> Bones:
        """Every bone that was not placed goes with its parent."""
        lifter = self.lifter
        parents, offs = lifter.parents.tolist(), lifter.offsets
        turns: list[Array] = []
        places: list[Array] = []
        for name, bone in lifter.index.items():
            parent = parents[bone]
            turn, place = self.turns.get(name), self.places.get(name)
            if place is None:
                off = offs[bone]
                if parent in self.stretches:
                    axis, factor = self.stretches[parent]
                    off = off + (factor - 1) * axis * (axis @ off)
                place = turns[parent] @ off + places[parent]
            turns.append(turns[parent] if turn is None else turn)
            places.append(place)
        return Bones(np.array(turns), np.array(places), self.stretches)


def pose_bones(
    lifter: Lifter,
    points: Points,
    right: Held,
    left: Held,
    far_leg: Points | None = None,
) -> Bones:
    """The bones of a pose.

    Parameters
    ----------
    points : landmarks of the side view by name, shape (2,) each, metres, floor at 0: hip, knee, ankle,
        toe, heel, shoulder, elbow, wrist
    right, left : what the hands hold; right is nearer to a camera that sees the lifter face right
    far_leg : hip, knee, ankle, toe and heel of the left leg, where it is not as the right one
    """
    posing = _Posing(lifter, points)
    _trunk(posing)
    for side, sign, held in (("R", 1.0, right), ("L", -1.0, left)):
        own = {**points, **far_leg} if far_leg is not None and sign < 0 else points
        _leg(posing, side, sign, own)
        _arm(posing, side, sign, held)
    return posing.finish()


def _trunk(posing: _Posing) -> None:
    lifter = posing.lifter
    posing.put("root", posing.upright, posing.on_trunk(lifter.head("root")))
    straight = 0.22 if posing.lean < 0 else 0.5
    for name, share in (*NECK, ("head", straight)):
        posing.put(name, about(np.array([0.0, 0.0, 1.0]), share * posing.lean))


def _leg(posing: _Posing, side: str, sign: float, points: Points) -> None:
    lifter = posing.lifter
    hip = posing.on_trunk(lifter.head(f"upperleg01.{side}"))
    hip[:2] = posing.points["hip"]
    thigh = lifter.between(f"upperleg01.{side}", f"lowerleg01.{side}")
    deep = np.clip((0.9 * thigh - (points["hip"][1] - points["knee"][1])) / thigh, 0, 1)
    knee = np.append(points["knee"], sign * (KNEES_APART + KNEES_OUT * deep))
    ankle = np.append(points["ankle"], sign * FEET_APART)
    upper = lifter.head(f"lowerleg01.{side}") - lifter.head(f"upperleg01.{side}")
    lower = lifter.head(f"foot.{side}") - lifter.head(f"lowerleg01.{side}")
    first = swing(posing.upright @ upper, knee - hip) @ posing.upright
    posing.limb(f"upperleg01.{side}", upper, first, hip, knee)
    second = swing(first @ lower, ankle - knee) @ first
    posing.limb(f"lowerleg01.{side}", lower, second, knee, ankle)
    rise = points["heel"][1] - points["toe"][1]
    pitch = float(np.arctan2(rise, points["toe"][0] - points["heel"][0]))
    out = about(np.array([0.0, 1.0, 0.0]), -SPLAY_RAD * sign)
    flat = np.array([0.0, 0.0, 1.0])
    posing.put(f"foot.{side}", out @ about(flat, -pitch), ankle)
    for number in range(1, 6):
        posing.put(f"toe{number}-1.{side}", out @ about(flat, -0.15 * pitch))


def _arm(posing: _Posing, side: str, sign: float, held: Held) -> None:
    lifter = posing.lifter
    rest_shoulder = lifter.head(f"upperarm01.{side}")
    rest_elbow, rest_wrist = lifter.head(f"lowerarm01.{side}"), lifter.head(f"wrist.{side}")
    shoulder = posing.on_trunk(rest_shoulder)
    shoulder[:2] = posing.points["shoulder"]
    shoulder[2] *= 1 - 0.06 * held.up
    elbow, wrist, hand = _reach(posing, sign, shoulder, held)
    upper, lower = rest_elbow - rest_shoulder, rest_wrist - rest_elbow
    turn = swing(posing.upright @ upper, elbow - shoulder) @ posing.upright
    twist = _hinge_twist(turn, upper, lower, shoulder, elbow, wrist)
    along = elbow - shoulder
    whole = about(along, twist) @ turn
    posing.limb(f"upperarm01.{side}", upper, about(along, 0.45 * twist) @ turn, shoulder, elbow)
    posing.put(f"upperarm02.{side}", whole)
    fore = swing(whole @ lower, wrist - elbow) @ whole
    grip, knuckles = _hand(lifter, side, sign, hand, rest_wrist)
    roll = _roll(fore, grip, knuckles, wrist - elbow)
    ahead = wrist - elbow
    posing.limb(f"lowerarm01.{side}", lower, about(ahead, 0.3 * roll) @ fore, elbow, wrist)
    posing.put(f"lowerarm02.{side}", about(ahead, 0.75 * roll) @ fore)
    posing.put(f"wrist.{side}", grip, wrist)
    _fingers(posing, side, sign, grip, hand, closed=held.place is not None)
    _girdle(posing, side, rest_shoulder, shoulder, upper, along)


def _reach(posing: _Posing, sign: float, shoulder: Array, held: Held) -> tuple[Array, Array, Array]:
    """Elbow, wrist, and the direction of the hand, from the shoulder to what is held."""
    lifter, points, rack = posing.lifter, posing.points, held.rack
    aim = points["wrist"] if held.place is None else held.place
    grip = np.append(aim, sign * held.aside_m)
    first = held.longer * lifter.between("upperarm01.R", "lowerarm01.R")
    second = held.longer * lifter.between("lowerarm01.R", "wrist.R")
    hand = unit(grip - shoulder)
    knuckle = np.array([0.0, 0.0, sign])
    back = unit(np.array([-0.75, 0.6, 0.12 * sign]))
    pole_seen = 2 * np.append(points["elbow"] - (points["shoulder"] + aim) / 2, 0.0)
    pole_seen += np.array([-0.05, -0.1, sign * (0.35 * (1 - rack) + 0.05)])
    pole_seen += rack * np.array([0.7, 0.35, 0.0])
    elbow = wrist = grip
    for _ in range(4):  # the hand's direction and the wrist's place hang on each other
        across = unit(knuckle - hand * (knuckle @ hand))
        palm = -sign * vector_product(across, hand)
        wrist = grip - hand * lifter.palm_m * (1 - 0.15 * rack) - palm * 0.028 * (1 - rack)
        way = wrist - shoulder
        far = float(np.linalg.norm(way))
        near = float(np.clip(far, abs(first - second) + 0.01, 0.9995 * (first + second)))
        wrist = shoulder + way / far * near if far > near else wrist
        ahead = unit(way)
        pole = unit(pole_seen - ahead * (pole_seen @ ahead))
        share = (first**2 + near**2 - second**2) / (2 * first * near)
        elbow = (
            shoulder
            + ahead * first * share
            + pole * first * float(np.sqrt(max(1 - share * share, 0.0)))
        )
        hand = unit((1 - rack) * unit(wrist - elbow) + rack * back)
    return elbow, wrist, hand


def _hinge_twist(
    turn: Array, upper: Array, lower: Array, shoulder: Array, elbow: Array, wrist: Array
) -> float:
    """How far the upper arm turns about itself so that the elbow bends as a hinge (radians)."""
    along = unit(elbow - shoulder)
    bend = float(np.arccos(np.clip(along @ unit(wrist - elbow), -1, 1)))
    if bend <= 0.05:
        return 0.0
    now = turn @ unit(vector_product(upper, lower))
    wanted = unit(vector_product(elbow - shoulder, wrist - elbow))
    now, wanted = unit(now - along * (now @ along)), unit(wanted - along * (wanted @ along))
    angle = float(np.arctan2(vector_product(now, wanted) @ along, now @ wanted))
    return float(np.clip(angle * np.clip((bend - 0.15) / 0.5, 0, 1), -1.6, 1.6))


def _frame(a: Array, b: Array) -> Array:
    return np.column_stack([a, b, vector_product(a, b)])


def _hand(
    lifter: Lifter, side: str, sign: float, hand: Array, rest_wrist: Array
) -> tuple[Array, Array]:
    """The turn of the hand, and the direction of its knuckles at rest."""
    rest = unit(lifter.head(f"finger3-1.{side}") - rest_wrist)
    row = unit(lifter.head(f"finger5-1.{side}") - lifter.head(f"finger2-1.{side}"))
    row = unit(row - rest * (row @ rest))
    knuckle = np.array([0.0, 0.0, sign])
    across = unit(knuckle - hand * (knuckle @ hand))
    return np.asarray(_frame(hand, across) @ _frame(rest, row).T), row


def _roll(fore: Array, grip: Array, knuckles: Array, way: Array) -> float:
    """How far the forearm turns about itself so that the hand comes to lie as it does (radians)."""
    along = unit(way)
    have, want = fore @ knuckles, grip @ knuckles
    have, want = unit(have - along * (have @ along)), unit(want - along * (want @ along))
    return float(np.arctan2(vector_product(have, want) @ along, have @ want))


def _fingers(
    posing: _Posing, side: str, sign: float, grip: Array, hand: Array, closed: bool
) -> None:
    knuckle = np.array([0.0, 0.0, sign])
    across = unit(knuckle - hand * (knuckle @ hand))
    curl = 1.0 if closed else 0.35
    for finger in range(2, 6):
        turn = np.eye(3)
        for joint, degrees in FINGERS_DEG:
            turn = about(across, -sign * np.radians(degrees) * curl) @ turn
            posing.put(f"finger{finger}-{joint}.{side}", turn @ grip)
    thumb = about(unit(hand + 0.2 * across), sign * np.radians(35 * curl))
    posing.put(f"finger1-1.{side}", thumb @ about(across, -sign * np.radians(45 * curl)) @ grip)


def _girdle(
    posing: _Posing, side: str, rest_shoulder: Array, shoulder: Array, upper: Array, along: Array
) -> None:
    """The collar bone ends where the upper arm begins; the shoulder blade follows a little."""
    rest = posing.lifter.head(f"clavicle.{side}")
    begin = posing.on_trunk(rest)
    collar = swing(posing.upright @ (rest_shoulder - rest), shoulder - begin) @ posing.upright
    posing.put(f"clavicle.{side}", collar, begin)
    half = part(swing(posing.upright @ upper, along), 0.25)
    posing.put(f"shoulder01.{side}", half @ collar)
