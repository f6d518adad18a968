"""Single pictures of lifelike lifts, what the pose model sees in them, and where the body truly is."""

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from bench.eye_films import drawn_film
from keen_kettle.core.simulate import Filming, simulate_lift
from keen_kettle.core.simulate.film import film_frames
from keen_kettle.core.simulate.film_truth import truth_document
from keen_kettle.core.simulate.lifelike import LifelikePainter
from keen_kettle.core.simulate.lift import SimulatedLift
from keen_kettle.core.simulate.scene import LIMB_DEPTH_M
from keen_kettle.core.track.body import LANDMARKS, PoseNet
from keen_kettle.core.track.body.holder import LEAST_PERSON, settled
from keen_kettle.core.track.body.landmarks import crop_side_of
from keen_kettle.core.track.body.net import JOINTS, Crop, Sighting, crop_between

__all__ = ["BodyScene", "scenes_of"]

Array = NDArray[np.float64]
Dice = np.random.Generator

SEED, IN_A_ROW, JERK_EACH = 50_000, 60, 5
FAULTS = ("hips-shoot", "back-behind-bar", "incomplete-hip", "early-arms", "early-toes")
LONGEST_EXPOSURE_S, ASIDE_DEG, FARTHEST_ASIDE_DEG = 0.006, 13.0, 38.0
OTHERWISE = np.array([5.0, 0.008, 0.045])
"""How lifters differ in shank lean (degrees), heel (m) and how far the shoulder is ahead of the bar (m); half as much
again from one instant of the lift to the next."""
HEADROOM_M = 0.3
TRUNK = 0.41
"""The trunk as a share of shank, thigh and trunk together; the square to begin with need not be exact."""
HIP, SHOULDER = LANDMARKS.index("hip"), LANDMARKS.index("shoulder")
ORDER = np.array([JOINTS[name] for name in LANDMARKS]).T


@dataclass(frozen=True)
class BodyScene:
    """What the model sees, as if the lifter faced to the right: `points` (2, 9, 2) and `presence` (2, 9) of
    the near and the far side, the plate's middle `bar` (2,) and radius, `truth` (9, 2) of the near side, and
    shank, thigh and trunk together; pixels. `lifter` tells whose body it is."""

    points: Array
    presence: Array
    bar: Array
    plate: float
    truth: Array
    body: float
    lifter: str


def scenes_of(number: int, net: PoseNet) -> list[BodyScene]:
    """Twelve pictures of the lift of a number, two before lift-off, six of the pull, four of the whole; each
    looked at twice."""
    film = drawn_film(number % IN_A_ROW, SEED + 1000 * (number // IN_A_ROW))
    dice = np.random.default_rng([SEED, number, 77])
    faults = {name: float(dice.uniform(0.3, 1.3)) for name in FAULTS if dice.uniform() < 0.2}
    script = replace(film.script, faults=faults)
    if number % JERK_EACH == JERK_EACH - 1:
        receive = ("power", "split")[number // JERK_EACH % 2]
        script = replace(script, family="jerk", start="rack", receive=receive, faults={})
    lift = simulate_lift(script)
    filming = _filmed(film.filming, lift, dice)
    lift = _otherwise(lift, dice)
    times = _instants(lift, dice)
    truth = truth_document(lift, filming, times)
    painter = filming.painter
    assert isinstance(painter, LifelikePainter)
    long_m = painter.body.shank_m + painter.body.thigh_m + painter.body.trunk_m
    body = long_m * filming.camera.scale_at(LIMB_DEPTH_M)
    scenes = []
    for k, (_, picture) in enumerate(film_frames(lift, filming, times)):
        at = np.array([truth["landmarks_px"][name][k] for name in LANDMARKS])  # type: ignore[index]
        bar, plate = np.array(truth["bar_px"])[k], float(str(truth["plate_radius_px"]))
        size = picture.shape[1], picture.shape[0]
        for seen in _looks(net, _compressed(picture, dice), at, body, dice):
            whole = BodyScene(*_both_sides(seen, size), bar, plate, at, body, painter.lifter)
            scenes.append(whole if truth["facing"] == "right" else _turned(whole))
    return scenes


def _filmed(filming: Filming, lift: SimulatedLift, dice: Dice) -> Filming:
    """As an eye film is, from all sides a little, with the whole lift in the picture, and with nothing done to
    its time."""
    aside = float(np.clip(dice.normal(0, ASIDE_DEG), -FARTHEST_ASIDE_DEG, FARTHEST_ASIDE_DEG))
    painter, camera = filming.painter, filming.camera
    assert isinstance(painter, LifelikePainter)
    top = float(lift.path.y_m(np.linspace(0, lift.duration_s, 100)).max()) + HEADROOM_M
    largest = 0.97 * camera.floor_px / top
    return replace(
        filming,
        exposure_s=min(filming.exposure_s, LONGEST_EXPOSURE_S),
        camera=replace(camera, yaw_deg=aside, px_per_m=min(camera.px_per_m, largest)),
        repeat=1,
        dropped=0.0,
        stuttered=0.0,
        painter=replace(painter, reflects=False),
    )


def _otherwise(lift: SimulatedLift, dice: Dice) -> SimulatedLift:
    """The lift of somebody who holds himself otherwise than lifters of a book do."""
    at = lift.keyed.x
    off = dice.normal(0, OTHERWISE) + dice.normal(0, OTHERWISE / 2, (len(at), 3))
    rows = lift.keyed(at) + off
    rows[:, 1] = np.maximum(rows[:, 1], 0)
    return replace(lift, keyed=PchipInterpolator(at, rows))


def _instants(lift: SimulatedLift, dice: Dice) -> Array:
    events = lift.path.events_s
    off, peak = events["lift_off"], events["peak_height"]
    parts = (
        dice.uniform(max(off - 0.5, 0), off, 2),
        dice.uniform(off, events.get("peak_velocity", peak) + 0.1, 6),
        dice.uniform(off, lift.duration_s - 0.02, 4),
    )
    return np.sort(np.concatenate(parts))


def _compressed(picture: NDArray[np.uint8], dice: Dice) -> NDArray[np.uint8]:
    quality = [cv2.IMWRITE_JPEG_QUALITY, int(dice.integers(35, 92))]
    packed = cv2.imencode(".jpg", picture, quality)[1]
    return np.asarray(cv2.imdecode(packed, cv2.IMREAD_COLOR), np.uint8)


def _looks(
    net: PoseNet, picture: NDArray[np.uint8], truth: Array, body: float, dice: Dice
) -> list[Sighting]:
    """What the model sees through a square that lies along the trunk, as that of a body that is followed does,
    and through an upright one, in which it may make a body of its own of one who is bent; both are somewhat
    beside the body."""
    hip, way = truth[HIP], truth[SHOULDER] - truth[HIP]
    seen = []
    for up in (way / np.hypot(*way), np.array([0.0, -1.0])):
        square = crop_between(hip, hip + up * crop_side_of(TRUNK * body))
        x, y = (at + dice.normal(0, 0.03) * square.side for at in (square.x, square.y))
        side = square.side * float(np.exp(dice.normal(0, 0.08)))
        turn = square.turn_deg + float(dice.normal(0, 12))
        seen.append(settled(net, picture, Crop(x, y, side, turn)))
    return [one for one in seen if one.person >= LEAST_PERSON]


def _both_sides(seen: Sighting, size: tuple[int, int]) -> tuple[Array, Array]:
    """Points (2, 9, 2) and presence (2, 9) of the right and the left side, as sightings are kept."""
    points = seen.points[ORDER][::-1]
    presence = np.minimum(seen.presence, seen.visible)[ORDER][::-1].copy()
    presence[((points < 0) | (points >= np.array(size))).any(axis=-1)] = 0.0
    return points, presence


def _turned(scene: BodyScene) -> BodyScene:
    """One that faces to the left as in a mirror."""
    way = np.array([-1.0, 1.0])
    return replace(
        scene,
        points=scene.points[::-1] * way,
        presence=scene.presence[::-1],
        bar=scene.bar * way,
        truth=scene.truth * way,
    )
