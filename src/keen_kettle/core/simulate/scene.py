"""Paints one instant of a simulated lift: lifter with clothes, bar and plates, or a bell.

Everything moving is painted with sub-pixel coordinates (1/256 of a pixel), so that the picture's
plate centre is the truth's plate centre. Colours are BGR.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.simulate.body import Body, Pose
from keen_kettle.core.simulate.camera import PLATE_DEPTH_M, Camera

__all__ = ["JOINT_DEPTHS_M", "Look", "bell_centre_m", "paint_bell", "paint_lift", "paint_plate"]

Picture = NDArray[np.uint8]
Array = NDArray[np.float64]
Colour = tuple[float, float, float]

SHIFT = 8
LIMB_DEPTH_M, SLEEVE_M = 0.13, 0.14
JOINT_DEPTHS_M = {
    "toe": 0.15,
    "heel": 0.11,
    "ankle": 0.12,
    "knee": 0.13,
    "hip": 0.10,
    "shoulder": 0.16,
    "elbow": 0.24,
    "wrist": 0.36,
    "ear": 0.07,
}
"""How far the near side's joints lie in front of the lifter's middle (the far side's behind it)."""
SEAT_M, TIP_M, BACK_M = 0.026, 0.038, 0.014
"""The seat stands out behind the hip joint, the shoe before the toe and behind the heel."""
FAT_PX = 0.6
"""OpenCV's smooth circles come out this much too wide (measured by their area)."""


@dataclass(frozen=True)
class Look:
    """Colours and sizes of what is painted.

    `stack` is the number of plates on each end, `racked` puts like plates on a rack behind;
    `implement` is "bar", "dumbbell" or "kettlebell" (its diameter is then `plate_diameter_m`).
    """

    shirt: Colour = (138, 92, 48)
    shorts: Colour = (58, 52, 46)
    skin: Colour = (128, 158, 205)
    hair: Colour = (34, 42, 58)
    shoe: Colour = (205, 208, 214)
    plate: Colour = (52, 50, 48)
    plate_ring: Colour = (70, 96, 172)
    wall: Colour = (148, 152, 150)
    plate_diameter_m: float = 0.45
    girth: float = 1.0
    stack: int = 1
    racked: bool = False
    implement: str = "bar"


def paint_lift(
    picture: Picture,
    pose: Pose,
    bar: Array,
    spin_rad: float,
    body: Body,
    camera: Camera,
    look: Look,
) -> None:
    """Paint lifter, bar (shape (2,), metres) and plates (or bell) into `picture` (in place)."""
    k = camera.px_per_m
    sign = 1.0 if camera.facing == "right" else -1.0
    unit = body.stature_m / 1.75 * look.girth * k
    far_bar, near_bar = _bar_ends(camera, bar)
    if look.implement == "bar":
        paint_plate(picture, camera, far_bar, -PLATE_DEPTH_M, spin_rad, look, dim=0.5)
    for shade, side in ((0.72, -1.0), (1.0, 1.0)):
        px = _seen(camera, pose, side)
        _leg(picture, px, unit, look, shade, sign)
        if shade < 1:
            _arm(picture, px, _hand(camera, bar, side), unit, look, shade)
    if look.implement == "bar" and not camera.plain:
        _bar(picture, camera, bar)
    far, near = _seen(camera, pose, -1.0), _seen(camera, pose, 1.0)
    _trunk(picture, (far, near), _seen(camera, pose, 0.0), unit, look, camera)
    _arm(picture, near, _hand(camera, bar, 1.0), unit, look, 1.0)
    if look.implement == "bar":
        for inner in range(look.stack - 1, -1, -1):
            depth_m = PLATE_DEPTH_M - 0.055 * inner
            dim = 1.0 if inner == 0 else 0.8
            paint_plate(picture, camera, near_bar, depth_m, spin_rad, look, dim)
        if not camera.plain:
            _sleeve(picture, camera, bar)
    else:
        paint_bell(picture, camera, bell_centre_m(look.implement, bar, pose), look)


def _bar_ends(camera: Camera, bar: Array) -> tuple[Array, Array]:
    """The far and the near end; a plain view shows the far plate a little aside."""
    if not camera.plain:
        return bar, bar
    return bar + np.array([0.03, 0.012]), bar


def _seen(camera: Camera, pose: Pose, side: float) -> dict[str, Array]:
    """The near (1), far (-1) or middle (0) landmarks in the picture.

    A plain view shows the far side a little aside.
    """
    aside = np.array([0.018, 0.0072]) if camera.plain and side < 0 else np.zeros(2)
    points = dict(pose.points)
    if side < 0 and pose.far_leg is not None:
        points |= pose.far_leg
    return {
        name: camera.to_px(point + aside, side * JOINT_DEPTHS_M[name])
        for name, point in points.items()
    }


def _hand(camera: Camera, bar: Array, side: float) -> Array:
    aside = np.array([0.018, 0.0072]) if camera.plain and side < 0 else np.zeros(2)
    return camera.to_px(bar + aside, side * (JOINT_DEPTHS_M["wrist"] + 0.03))


def _bar(picture: Picture, camera: Camera, bar: Array) -> None:
    ends = camera.to_px(bar, -PLATE_DEPTH_M), camera.to_px(bar, PLATE_DEPTH_M)
    _limb(picture, *ends, 0.014 * camera.px_per_m, 0.014 * camera.px_per_m, (150, 152, 156), 1.0)


def _sleeve(picture: Picture, camera: Camera, bar: Array) -> None:
    """The sleeve's end, which stands out from the plate."""
    begin, cap = (
        camera.to_px(bar, PLATE_DEPTH_M),
        camera.to_px(bar, PLATE_DEPTH_M + SLEEVE_M),
    )
    r = 0.025 * camera.scale_at(PLATE_DEPTH_M + SLEEVE_M)
    _limb(picture, begin, cap, r, r, (120, 122, 126), 0.9)
    _disc(picture, cap, r, (196, 200, 204))
    _disc(picture, cap, 0.5 * r, (70, 72, 76))


def bell_centre_m(implement: str, bar: Array, pose: Pose) -> Array:
    """Where the bell's middle is, shape (2,), metres: a dumbbell's in the hand, a kettlebell's beyond it.

    A kettlebell hangs under the hand, and lies on the forearm's back once the hand is above the
    elbow.
    """
    if implement == "dumbbell":
        return np.asarray(bar, float)
    above = float(np.clip((bar[1] - pose["elbow"][1]) / 0.1 + 0.5, 0.0, 1.0))
    turn = np.pi * above
    return np.asarray(
        bar + 0.17 * np.array([-np.sin(turn) * 0.7 - 0.3 * above, -np.cos(0.6 * turn)])
    )


def paint_bell(picture: Picture, camera: Camera, centre: Array, look: Look) -> None:
    """A dumbbell's round head or a kettlebell's ball round `centre` (shape (2,), metres), with a band that
    tells them from a hole."""
    r = look.plate_diameter_m / 2
    at = camera.to_px(centre, LIMB_DEPTH_M)
    k = camera.scale_at(LIMB_DEPTH_M)
    for share, light in ((1.0, 0.75), (0.9, 1.0), (0.62, 1.3)):
        _disc(picture, at, share * r * k, tuple(min(c * light, 255.0) for c in look.plate))
    _disc(picture, at, 0.42 * r * k, look.plate_ring)
    _disc(picture, at, 0.3 * r * k, look.plate)


def _leg(
    picture: Picture,
    px: dict[str, Array],
    unit: float,
    look: Look,
    shade: float,
    sign: float,
) -> None:
    hip, knee, ankle, heel, toe = (px[name] for name in ("hip", "knee", "ankle", "heel", "toe"))
    _limb(picture, knee, ankle, 0.062 * unit, 0.042 * unit, look.skin, shade)
    _limb(picture, hip, knee, 0.092 * unit, 0.064 * unit, look.skin, shade)
    _limb(picture, hip, hip + 0.62 * (knee - hip), 0.098 * unit, 0.084 * unit, look.shorts, shade)
    along = (toe - heel) / max(float(np.hypot(*(toe - heel))), 1e-9)
    up = np.array([along[1], -along[0]]) * sign
    tip, back = toe + along * TIP_M * unit, heel - along * BACK_M * unit
    sole = np.array(
        [back, tip, tip + up * 0.035 * unit, ankle + up * 0.05 * unit, back + up * 0.085 * unit]
    )
    _polygon(picture, sole, look.shoe, shade)


def _trunk(
    picture: Picture,
    sides: tuple[dict[str, Array], dict[str, Array]],
    middle: dict[str, Array],
    unit: float,
    look: Look,
    camera: Camera,
) -> None:
    sign = (1.0 if camera.facing == "right" else -1.0) * float(np.cos(np.radians(camera.yaw_deg)))
    shoulder, ear = middle["shoulder"], middle["ear"]
    _limb(picture, shoulder, ear, 0.05 * unit, 0.05 * unit, look.skin, 0.9)
    seats, waists, tops = [], [], []
    for px in sides:
        # Painted inside the joints, so that arms and thighs have room beside it.
        hip = 0.35 * middle["hip"] + 0.65 * px["hip"]
        top = 0.35 * middle["shoulder"] + 0.65 * px["shoulder"]
        up = (top - hip) / max(float(np.hypot(*(top - hip))), 1e-9)
        behind = np.array([up[1], -up[0]]) * sign
        seats.append(hip + behind * SEAT_M * unit)
        waists.append(hip + 0.35 * (top - hip))
        tops.append(top + 0.04 * (hip - top))
    _slab(picture, (seats, waists), (0.112 * unit, 0.1 * unit), look.shorts)
    _slab(picture, (waists, tops), (0.105 * unit, 0.112 * unit), look.shirt)
    radius = 0.098 * unit
    _disc(picture, ear, radius, look.skin)
    _disc(picture, ear + np.array([-0.25 * sign, -0.3]) * radius, 0.86 * radius, look.hair)
    face = ear + np.array([0.42 * sign, 0.12]) * radius
    _disc(picture, face, 0.66 * radius, look.skin)
    _disc(picture, face + np.array([0.3 * sign, -0.2]) * radius, 0.1 * radius, (40, 44, 52))
    nose = face + np.array([[0.5 * sign, -0.12], [0.86 * sign, 0.16], [0.5 * sign, 0.24]]) * radius
    _polygon(picture, nose, look.skin, 0.96)


def _slab(
    picture: Picture,
    ends: tuple[list[Array], list[Array]],
    radii: tuple[float, float],
    colour: Colour,
) -> None:
    """A part of the trunk between two ends, each with a far and a near corner; darker at its edges."""
    for share, light in ((1.0, 0.78), (0.74, 0.93), (0.42, 1.05)):
        tone = tuple(min(c * light, 255.0) for c in colour)
        turn = np.linspace(0, 2 * np.pi, 48, endpoint=False)
        ring = np.column_stack([np.cos(turn), np.sin(turn)])
        round_ = [
            corner + ring * (r * share - FAT_PX)
            for end, r in zip(ends, radii, strict=True)
            for corner in end
        ]
        hull = cv2.convexHull(np.vstack(round_).astype(np.float32))[:, 0]
        _polygon(picture, np.asarray(hull, np.float64), tone, 1.0)


def _arm(
    picture: Picture,
    px: dict[str, Array],
    hand: Array,
    unit: float,
    look: Look,
    shade: float,
) -> None:
    shoulder, elbow = px["shoulder"], px["elbow"]
    _limb(picture, elbow, hand, 0.042 * unit, 0.032 * unit, look.skin, shade)
    _limb(picture, shoulder, elbow, 0.056 * unit, 0.044 * unit, look.skin, shade)
    _limb(
        picture,
        shoulder,
        shoulder + 0.45 * (elbow - shoulder),
        0.062 * unit,
        0.054 * unit,
        look.shirt,
        shade,
    )
    _disc(picture, hand, 0.042 * unit, tuple(c * shade for c in look.skin))


def _limb(
    picture: Picture, a: Array, b: Array, ra: float, rb: float, colour: Colour, shade: float
) -> None:
    """A tapered round limb, darker at its edges than along its middle."""
    for share, light in ((1.0, 0.78), (0.74, 0.93), (0.42, 1.05)):
        tone = tuple(min(c * shade * light, 255.0) for c in colour)
        _disc(picture, a, ra * share, tone)
        _disc(picture, b, rb * share, tone)
        way = b - a
        apart = float(np.hypot(*way))
        if apart > 1e-6:
            side = np.array([-way[1], way[0]]) / apart * share
            _polygon(
                picture,
                np.array([a + side * ra, b + side * rb, b - side * rb, a - side * ra]),
                tone,
                1.0,
            )


def paint_plate(
    picture: Picture,
    camera: Camera,
    centre: Array,
    depth_m: float,
    spin_rad: float,
    look: Look,
    dim: float,
) -> None:
    """A bumper plate round `centre` (shape (2,), metres): rubber, moulded ring, blocks of lettering, steel
    hub and the sleeve's end."""
    r = look.plate_diameter_m / 2
    plate, ring = look.plate, look.plate_ring
    grey = ((150, 152, 156), (98, 100, 104), (176, 180, 184))
    rings = (
        *((1.0, plate, 1.7), (0.97, plate, 0.8), (0.91, plate, 1.0)),
        *((0.80, ring, 1.0), (0.72, plate, 0.86)),
    )
    hub = ((0.26, grey[0], 1.0), (0.2, grey[1], 1.0), (0.11, grey[2], 1.0))

    def discs(rows: tuple[tuple[float, Colour, float], ...]) -> None:
        for share, colour, light in rows:
            tone = tuple(c * light * dim for c in colour)
            _round(picture, camera, centre, depth_m, share * r, tone)

    discs(rings)
    for step, width in ((0.0, 0.5), (2.1, 0.36), (4.0, 0.62)):
        angles = spin_rad + step + np.linspace(0, width, 8)
        rim = np.column_stack([np.cos(angles), np.sin(angles)])
        block = np.vstack([rim * 0.66 * r, rim[::-1] * 0.48 * r])
        _polygon(picture, _facing(camera, centre, block, depth_m), (196, 198, 200), dim)
    discs(hub)
    mark = 0.055 * r * np.array([[np.cos(spin_rad), np.sin(spin_rad)]])
    spot = _facing(camera, centre, mark, depth_m)[0]
    _disc(picture, spot, 0.03 * r * camera.scale_at(depth_m), (60, 60, 62))


def _facing(camera: Camera, centre: Array, away: Array, depth_m: float) -> Array:
    """Points on the plate's face, given from its centre as they lie in the picture (y down)."""
    sign = 1.0 if camera.facing == "right" else -1.0
    return camera.to_px(centre + away * np.array([sign, -1.0]), depth_m)


def _round(
    picture: Picture,
    camera: Camera,
    centre: Array,
    depth_m: float,
    radius_m: float,
    tone: tuple[float, ...],
) -> None:
    """A disc that faces along the bar: an ellipse in the picture unless the view is plain."""
    if camera.plain:
        _disc(picture, camera.to_px(centre, depth_m), radius_m * camera.px_per_m, tone)
        return
    angles = np.linspace(0, 2 * np.pi, 96, endpoint=False)
    slim = radius_m - FAT_PX / camera.scale_at(depth_m)
    rim = slim * np.column_stack([np.cos(angles), np.sin(angles)])
    _polygon(picture, _facing(camera, centre, rim, depth_m), tone, 1.0)


def _disc(picture: Picture, centre: Array, radius: float, colour: tuple[float, ...]) -> None:
    scale = 1 << SHIFT
    at = (round(centre[0] * scale), round(centre[1] * scale))
    cv2.circle(
        picture, at, max(round((radius - FAT_PX) * scale), 1), colour, -1, cv2.LINE_AA, SHIFT
    )


def _polygon(
    picture: Picture, points: Array, colour: Colour | tuple[float, ...], shade: float
) -> None:
    fixed = np.round(points * (1 << SHIFT)).astype(np.int32)
    tone = tuple(min(c * shade, 255.0) for c in colour)
    cv2.fillPoly(picture, [fixed], tone, cv2.LINE_AA, SHIFT)
