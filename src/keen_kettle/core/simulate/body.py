"""A planar lifter whose shoulder hangs from the bar.

The bar leads; the body follows. For every instant the bar, the shoulder's offset from the bar,
the shank's lean and the heel's height are given. From these the whole figure is solved:

1. the foot stands on the toe, lifted by the heel; the shank's lean places the knee;
2. the shoulder is the bar plus its offset; thigh and trunk meet at the hip (two-link triangle,
   hip to the rear); where they cannot reach, the shank straightens and then the heel rises;
3. upper arm and forearm meet at the elbow (two-link triangle; in the front rack the elbow is led
   forward and up) and end in the hand on the bar.

So hands never leave the bar, and every landmark is exact.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.track.body import LANDMARKS

__all__ = [
    "LANDMARKS",
    "REACH_SHARE",
    "Body",
    "Pose",
    "knee_place",
    "solve_pose",
    "split_legs",
    "two_link",
]

Array = NDArray[np.float64]

REACH_SHARE = 0.9995
"""A limb is never quite straight."""


@dataclass(frozen=True)
class Body:
    """Segment lengths in metres, from stature by the usual anthropometric shares.

    Shares follow the averages of classic segment tables (shank 0.246, thigh 0.245, trunk 0.288,
    upper arm 0.186, forearm 0.146, hand to grip 0.06 of stature).
    """

    stature_m: float = 1.75
    leg_share: float = 1.0
    trunk_share: float = 1.0

    @property
    def shank_m(self) -> float:
        return 0.246 * self.stature_m * self.leg_share

    @property
    def thigh_m(self) -> float:
        return 0.245 * self.stature_m * self.leg_share

    @property
    def trunk_m(self) -> float:
        return 0.288 * self.stature_m * self.trunk_share

    @property
    def upper_arm_m(self) -> float:
        return 0.186 * self.stature_m

    @property
    def forearm_m(self) -> float:
        return 0.206 * self.stature_m

    @property
    def ankle_m(self) -> float:
        return 0.045 * self.stature_m

    @property
    def foot_m(self) -> float:
        return 0.15 * self.stature_m

    def arm_seen_m(self, grip: str) -> float:
        """Arm length as a side view sees it: a wide grip leans the arm out of the plane."""
        spread_deg = 42.0 if grip == "snatch" else 12.0
        return (self.upper_arm_m + self.forearm_m) * float(np.cos(np.radians(spread_deg)))

    def standing_shoulder_m(self) -> float:
        """Height of the shoulder when the lifter stands tall, in metres."""
        return self.ankle_m + 0.995 * (self.shank_m + self.thigh_m) + 0.99 * self.trunk_m


@dataclass(frozen=True)
class Pose:
    """Landmarks in metres, x to the front of the lifter, y up, floor at 0; shape (2,) each.

    `far_leg` is given where it is not as the near one (a split).
    """

    points: dict[str, Array]
    far_leg: dict[str, Array] | None = None

    def __getitem__(self, name: str) -> Array:
        return self.points[name]


def two_link(a: Array, b: Array, first_m: float, second_m: float, side: float) -> Array:
    """The joint between two links that start in `a` and end in `b`.

    Parameters
    ----------
    a, b : shape (2,), metres
    first_m, second_m : link lengths in metres
    side : +1 puts the joint to the left of the way from a to b, -1 to the right

    Returns
    -------
    shape (2,); on the straight line when the ends are too far apart (law of cosines otherwise).
    """
    way = b - a
    apart = float(np.hypot(*way))
    if apart < 1e-9:
        return np.asarray(a + np.array([first_m * side, 0.0]))
    along = way / apart
    across = np.array([-along[1], along[0]])
    foot = (first_m**2 - second_m**2 + apart**2) / (2 * apart)
    foot = min(max(foot, -first_m), first_m)
    off = float(np.sqrt(max(first_m**2 - foot**2, 0.0)))
    if apart >= first_m + second_m:
        return np.asarray(a + along * first_m)
    return np.asarray(a + along * foot + across * off * side)


def solve_pose(
    body: Body,
    bar: Array,
    shoulder_offset: Array,
    shank_lean_deg: float,
    heel_m: float,
    grip: str,
    rack_share: float,
    foot_x_m: float = 0.0,
    shrug_m: float = 0.0,
) -> Pose:
    """The whole figure for one instant (see the module's own words).

    Parameters
    ----------
    bar : shape (2,), metres; the floor is y = 0 and the mid-foot x = 0
    shoulder_offset : shape (2,), shoulder minus bar, metres
    shank_lean_deg : forward lean of the shank from the vertical
    heel_m : height of the heel above the floor
    rack_share : 0 with the arms hanging or overhead, 1 with the elbows up in the front rack
    foot_x_m : where the mid-foot stands
    shrug_m : how far the shoulders are drawn up
    """
    trunk_m = body.trunk_m + shrug_m
    shoulder = bar + shoulder_offset
    toe, heel, ankle, knee = _leg(body, shank_lean_deg, heel_m, foot_x_m)
    reach = body.thigh_m + trunk_m
    for _ in range(60):
        apart = float(np.hypot(*(shoulder - knee)))
        if apart <= REACH_SHARE * reach:
            break
        if shank_lean_deg > 2.0:
            shank_lean_deg -= 1.0
        elif heel_m < 0.14:
            heel_m += 0.004
        else:
            break
        toe, heel, ankle, knee = _leg(body, shank_lean_deg, heel_m, foot_x_m)
    hip = two_link(knee, shoulder, body.thigh_m, trunk_m, side=+1.0)
    seen = body.arm_seen_m(grip) / (body.upper_arm_m + body.forearm_m)
    upper, fore = body.upper_arm_m * seen, body.forearm_m * seen
    elbow = two_link(shoulder, bar, upper, fore, side=-1.0)
    if rack_share > 0:
        racked = shoulder + body.upper_arm_m * np.array([0.97, -0.16])
        elbow = elbow + rack_share * (racked - elbow)
    trunk = (shoulder - hip) / max(float(np.hypot(*(shoulder - hip))), 1e-9)
    upright = trunk * 0.55 + np.array([0.06, 0.83])
    ear = shoulder + upright / float(np.hypot(*upright)) * 0.13 * body.stature_m
    wrist = bar + (elbow - bar) / max(float(np.hypot(*(elbow - bar))), 1e-9) * 0.05
    return Pose(
        {
            "toe": toe,
            "heel": heel,
            "ankle": ankle,
            "knee": knee,
            "hip": hip,
            "shoulder": shoulder,
            "elbow": elbow,
            "wrist": wrist,
            "ear": ear,
        }
    )


def split_legs(body: Body, pose: Pose, split: float) -> tuple[dict[str, Array], dict[str, Array]]:
    """Both legs of a split under an upright trunk: the front one flat, the rear one on its ball. Points by
    name, shape (2,), metres."""
    points = dict(pose.points)
    shoulder = points["shoulder"]
    upright = shoulder - np.array([0.0, body.trunk_m])
    hip = (1 - split) * points["hip"] + split * upright
    points["hip"] = hip
    step = 0.25 * body.stature_m * split
    for name in ("toe", "heel", "ankle"):
        points[name] = pose[name] + np.array([step, 0.0])
    points["knee"] = two_link(points["ankle"], hip, body.shank_m, body.thigh_m, side=-1.0)
    lift = 0.42 * body.foot_m * split
    toe = pose["toe"] - np.array([1.35 * step, 0.0])
    heel = toe + np.array([-body.foot_m * 0.75, lift + 0.02])
    ankle = heel + np.array([0.2 * body.foot_m, body.ankle_m])
    knee = two_link(ankle, hip, body.shank_m, body.thigh_m, side=-1.0)
    return points, {"toe": toe, "heel": heel, "ankle": ankle, "knee": knee, "hip": hip}


def knee_place(body: Body, lean_deg: float, heel_m: float, foot_x_m: float = 0.0) -> Array:
    """Where the knee is, shape (2,) in metres, over a foot on the floor (as in `solve_pose`)."""
    return _leg(body, lean_deg, heel_m, foot_x_m)[3]


def _leg(
    body: Body, lean_deg: float, heel_m: float, foot_x_m: float
) -> tuple[Array, Array, Array, Array]:
    toe = np.array([foot_x_m + 0.55 * body.foot_m, 0.02])
    lift = float(np.arcsin(min(max(heel_m / body.foot_m, 0.0), 0.9)))
    back = np.array([-np.cos(lift), np.sin(lift)])
    up = np.array([np.sin(lift), np.cos(lift)])
    heel = toe + back * body.foot_m
    ankle = toe + back * 0.78 * body.foot_m + up * (body.ankle_m - 0.02)
    lean = np.radians(lean_deg)
    knee = ankle + body.shank_m * np.array([np.sin(lean), np.cos(lean)])
    return toe, heel, ankle, knee
