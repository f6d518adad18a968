"""Small scenes with and without a plate, everything in them drawn at random, to teach a plate's look.

No hall, body or plate of the bench's films is used: walls, floors, limbs and plates are drawn here by
other means, so that what is learnt from these scenes is judged on pictures that were never seen.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["Scene", "draw_scene"]

Array = NDArray[np.float64]
Picture = NDArray[np.uint8]
Dice = np.random.Generator
Circle = tuple[float, float, float]

SIDE, RADIUS = 224, 32.0
PLATE_COLOURS = np.array(
    [
        *((34, 34, 36), (24, 24, 24), (40, 80, 36), (40, 160, 190), (40, 38, 150)),
        *((140, 76, 36), (100, 102, 104), (60, 58, 58), (190, 190, 190), (60, 60, 200)),
    ],
    float,
)


@dataclass(frozen=True)
class Scene:
    """A picture, the plate in it (None without one) and what else is round: centres and half heights in
    pixels. `narrow` is the plate's width as a share of its height, `tilt` how it leans in degrees."""

    picture: Picture
    plate: Circle | None
    others: tuple[Circle, ...] = ()
    narrow: float = 1.0
    tilt: float = 0.0


def draw_scene(dice: Dice, plate: bool, dressed: bool = False) -> Scene:
    """A scene of its own: wall, floor, people; with a plate in its middle or without any. A dressed plate
    may have a stripe near its rim, others behind it and a smaller one before it."""
    picture = _behind(dice)
    middle = SIDE / 2 + dice.uniform(-6, 6, 2)
    if dice.uniform() < 0.85:
        _body(picture, dice, middle)
    others = []
    if dice.uniform() < (0.3 if plate else 0.6):
        others.append(_other_round_thing(picture, dice, middle, plate))
    found, narrow, tilt = None, 1.0, 0.0
    if plate:
        if dice.uniform() < 0.35:
            aside = np.array([dice.uniform(-1.6, 1.6), dice.uniform(-0.4, 0.3)]) * RADIUS
            _plate(picture, dice, middle + aside, RADIUS * dice.uniform(0.55, 0.85), far=True)
        if dice.uniform() < 0.35:
            _contact_shadow(picture, dice, middle)
        draw = _dressed_plate if dressed else _plate
        narrow, tilt = draw(picture, dice, middle, RADIUS)
        found = (float(middle[0]), float(middle[1]), RADIUS)
    if dice.uniform() < 0.12:
        _in_front(picture, dice)
    shown = _as_filmed(picture, dice, HARD if dressed else PLAIN)
    return Scene(shown, found, tuple(others), narrow, tilt)


# What is behind


def _behind(dice: Dice) -> Picture:
    base = dice.uniform(15, 235, 3) * dice.uniform(0.4, 1.0)
    base = 0.6 * base.mean() + 0.4 * base
    slope = dice.normal(0, 0.25, 2)
    ramp = np.linspace(-1, 1, SIDE)
    light = 1 + slope[0] * ramp[:, None] + slope[1] * ramp[None]
    picture = np.clip(base * light[..., None], 0, 255).astype(np.uint8)
    for _ in range(int(dice.integers(0, 9))):
        _thing(picture, dice)
    if dice.uniform() < 0.3:
        _pattern(picture, dice)
    if dice.uniform() < 0.7:
        _floor(picture, dice)
    return np.asarray(picture, np.uint8)


def _thing(picture: Picture, dice: Dice) -> None:
    colour = (dice.uniform(5, 245) * (0.6 + 0.4 * dice.uniform(0, 1, 3))).tolist()
    a, b = dice.uniform(-30, SIDE + 30, 2), dice.uniform(-30, SIDE + 30, 2)
    kind = dice.integers(5)
    thick = int(dice.integers(1, 14))
    pa, pb = (int(a[0]), int(a[1])), (int(b[0]), int(b[1]))
    if kind == 0:
        cv2.rectangle(picture, pa, pb, colour, -1 if dice.uniform() < 0.6 else thick)
    elif kind == 1:
        cv2.line(picture, pa, pb, colour, thick, cv2.LINE_AA)
    elif kind == 2:
        x = int(a[0])
        cv2.line(picture, (x, 0), (x + int(dice.normal(0, 8)), SIDE), colour, thick, cv2.LINE_AA)
    elif kind == 3:
        cv2.fillPoly(picture, [dice.uniform(-20, SIDE + 20, (4, 2)).astype(np.int32)], colour)
    else:
        r = int(dice.uniform(4, 50))
        cv2.circle(picture, pa, r, colour, -1 if dice.uniform() < 0.5 else thick, cv2.LINE_AA)


def _pattern(picture: Picture, dice: Dice) -> None:
    """Bricks, bars, a lattice or a rack of round things."""
    colour = dice.uniform(5, 245, 3).tolist()
    step = int(dice.integers(9, 46))
    kind = dice.integers(3)
    if kind == 2:
        y, r = int(dice.uniform(0, SIDE)), int(dice.uniform(8, 34))
        for x in range(int(dice.integers(step)), SIDE, max(step, r // 2)):
            cv2.circle(picture, (x, y), r, colour, -1, cv2.LINE_AA)
            cv2.circle(picture, (x, y), r, (0.5 * np.array(colour)).tolist(), 2, cv2.LINE_AA)
        return
    for x in range(int(dice.integers(step)), SIDE, step):
        cv2.line(picture, (x, 0), (x, SIDE), colour, 1 + step // 12, cv2.LINE_AA)
        if kind == 1:
            cv2.line(picture, (0, x), (SIDE, x), colour, 1 + step // 12, cv2.LINE_AA)


def _floor(picture: Picture, dice: Dice) -> None:
    y = int(dice.uniform(0.45, 1.0) * SIDE)
    colour = dice.uniform(15, 170) * (0.85 + 0.15 * dice.uniform(0, 1, 3))
    rough = dice.normal(0, dice.uniform(1, 14), (SIDE - y, SIDE, 1)) if y < SIDE else 0
    picture[y:] = np.clip(colour + rough, 0, 255).astype(np.uint8)


# Who is there


def _body(picture: Picture, dice: Dice, middle: Array) -> None:
    """Limbs behind the plate: shins, thighs, trunk, arms, a head; straight strokes in skin and cloth."""
    skin = np.array([dice.uniform(60, 200), dice.uniform(80, 210), dice.uniform(100, 235)])
    skin = np.sort(skin)
    shirt = dice.uniform(10, 230) * (0.5 + 0.5 * dice.uniform(0, 1, 3))
    shorts = shirt if dice.uniform() < 0.3 else dice.uniform(10, 160, 3)
    size = RADIUS * dice.uniform(0.75, 1.25)
    ankle = middle + RADIUS * np.array([dice.uniform(-1.5, 1.0), dice.uniform(0.2, 2.0)])
    knee = ankle + size * np.array([dice.uniform(-0.2, 1.0), -dice.uniform(1.5, 2.0)])
    hip = knee + size * np.array([-dice.uniform(0.2, 2.0), -dice.uniform(-0.3, 1.9)])
    shoulder = hip + size * np.array([dice.uniform(-0.4, 2.0), -dice.uniform(1.2, 2.3)])
    head = shoulder + size * np.array([dice.uniform(-0.1, 0.6), -dice.uniform(0.6, 1.0)])
    hand = middle if dice.uniform() < 0.8 else shoulder + size * dice.normal(0, 1.5, 2)
    if dice.uniform() < 0.5:
        for one in (ankle, knee, hip, shoulder, head):
            one[0] = 2 * middle[0] - one[0]
    cloth = dice.uniform() < 0.5
    strokes = (
        (ankle, knee, 0.48, shorts if cloth else skin),
        (knee, hip, 0.72, shorts),
        (hip, shoulder, 1.05, shirt),
        (shoulder, hand, 0.34, skin),
    )
    for a, b, wide, colour in strokes:
        _limb(picture, dice, a, b, wide * size, colour)
    shoe = dice.uniform(10, 240, 3)
    toe = ankle + size * np.array([0.7 * np.sign(dice.normal()), 0.12])
    _limb(picture, dice, ankle, toe, 0.34 * size, shoe)
    axes = (int(0.36 * size), int(0.46 * size))
    _ellipse(picture, head, axes, 0, skin)
    top = head - [0.08 * size, 0.16 * size]
    _ellipse(picture, top, (axes[0], int(0.3 * size)), 0, dice.uniform(10, 120, 3))


def _limb(picture: Picture, dice: Dice, a: Array, b: Array, wide: float, colour: Array) -> None:
    for share, light in ((1.0, 0.8), (0.7, 1.0), (0.35, 1.12)):
        shown = np.clip(light * colour, 0, 255).tolist()
        pa, pb = (tuple(np.round(one).astype(int).tolist()) for one in (a, b))
        cv2.line(picture, pa, pb, shown, max(int(share * wide), 1), cv2.LINE_AA)


def _ellipse(
    picture: Picture, at: Array, axes: tuple[int, int], turn: float, colour: Array
) -> None:
    place = (int(at[0]), int(at[1]))
    cv2.ellipse(
        picture, place, axes, turn, 0, 360, np.clip(colour, 0, 255).tolist(), -1, cv2.LINE_AA
    )


def _other_round_thing(picture: Picture, dice: Dice, middle: Array, aside: bool) -> Circle:
    """A ball or a bell with its handle: round, but no plate."""
    at = middle + (dice.uniform(1.2, 2.6) * RADIUS if aside else 0) * np.array(
        [np.sign(dice.normal()), dice.uniform(-0.6, 0.6)]
    )
    r = RADIUS * dice.uniform(0.5, 1.1)
    colour = dice.uniform(15, 220) * (0.6 + 0.4 * dice.uniform(0, 1, 3))
    if dice.uniform() < 0.5:
        top = at - [0, r]
        axes = (int(0.55 * r), int(0.6 * r))
        place, ink = (int(top[0]), int(top[1])), (0.8 * colour).tolist()
        cv2.ellipse(picture, place, axes, 0, 180, 360, ink, max(int(0.2 * r), 2))
    shine, flat = dice.uniform(0, 0.4), dice.uniform() < 0.35
    for share in np.linspace(1, 0.1, 14):
        lit = at - np.array([0.25, 0.35]) * r * (1 - share)
        half = round(share * r)
        _ellipse(picture, lit, (half, half), 0, colour * (1 if flat else 1 + shine - shine * share))
    return float(at[0]), float(at[1]), float(r)


# The plate


def _plate(
    picture: Picture, dice: Dice, at: Array, r: float, far: bool = False
) -> tuple[float, float]:
    """A plate: thickness, face, rings, letters or holes, hub, sleeve; lit from somewhere. How narrow it
    looks, and its lean in degrees."""
    narrow = 1.0 if dice.uniform() < 0.45 else dice.uniform(0.78, 1.0)
    tilt = dice.uniform(-14, 14) if narrow < 0.97 else 0.0
    colour = _painted(dice)
    axes = np.array([narrow * r, r])
    if narrow < 0.98:
        deep = r * np.sqrt(1 - narrow**2) * dice.uniform(0.1, 0.7) * np.sign(dice.normal())
        behind = at + np.array([deep, 0.0])
        side = 0.6 * colour
        steps = max(int(abs(deep)) * 2, 2)
        for share in np.linspace(1, 0, steps):
            place = at + share * (behind - at)
            _fine_ellipse(picture, place, axes, tilt, side)
    face, cover = _face(dice, colour, far)
    _lay(picture, face, cover, at, axes, tilt, dice.uniform(0, 360))
    if not far and dice.uniform() < 0.8:
        _sleeve(picture, dice, at, r)
    return float(narrow), float(tilt)


def _dressed_plate(picture: Picture, dice: Dice, at: Array, r: float) -> tuple[float, float]:
    """A plate as it is loaded: with others behind it, a stripe near its rim, a smaller one before it; now and
    then in the floor's own colour."""
    narrow = 1.0 if dice.uniform() < 0.35 else dice.uniform(0.6, 1.0)
    tilt = dice.uniform(-18, 18) if narrow < 0.97 else 0.0
    axes = np.array([narrow * r, r])
    away = (
        np.sqrt(1 - narrow**2) * np.sign(dice.normal()) * r * np.array([1.0, dice.normal(0, 0.1)])
    )
    colour = _painted(dice) if dice.uniform() < 0.75 else _as_below(picture, dice, at, r)
    deep, farther = dice.uniform(0.1, 0.9), dice.uniform(0.9, 1.0)
    sides = [0.6 * (colour if dice.uniform() < 0.5 else _painted(dice)) for _ in range(3)]
    steps = max(int(2 * deep * np.hypot(*away)), 3)
    for share in np.linspace(1, 0, steps):
        side = sides[min(int(3 * share), 2)]
        smaller = 1 - share * (1 - farther)
        _fine_ellipse(picture, at + share * deep * away, smaller * axes, tilt, side)
    face, cover = _face(dice, colour, far=False)
    if dice.uniform() < 0.35:
        _stripe(face, dice)
    if dice.uniform() < 0.35:
        bevel = dice.uniform(0.86, 0.97)
        face[bevel <= AWAY] *= dice.uniform(0.5, 1.3)
    _lay(picture, face, cover, at, axes, tilt, dice.uniform(0, 360))
    if dice.uniform() < 0.3:
        at = _smaller_before(picture, dice, at, away, axes, tilt)
    if dice.uniform() < 0.8:
        _sleeve(picture, dice, at, r, None if narrow > 0.97 else -away)
    return float(narrow), float(tilt)


def _as_below(picture: Picture, dice: Dice, at: Array, r: float) -> Array:
    """About the colour of what lies below the plate."""
    x, y = (int(one) for one in at)
    below = picture[y + int(0.8 * r) : y + int(1.4 * r), x - int(r) : x + int(r)]
    return np.asarray(np.clip(below.mean(axis=(0, 1)) + dice.normal(0, 9, 3), 4, 250))


def _smaller_before(
    picture: Picture, dice: Dice, at: Array, away: Array, axes: Array, tilt: float
) -> Array:
    """A smaller plate before another one, with its thickness; where its middle is."""
    smaller = dice.uniform(0.4, 0.88) * axes
    before = at - dice.uniform(0.0, 0.35) * away
    face, cover = _face(dice, _painted(dice), far=False)
    for share in np.linspace(0, 1, 6):
        _fine_ellipse(picture, at + share * (before - at), smaller, tilt, dice.uniform(0, 90, 3))
    _lay(picture, face, cover, before, smaller, tilt, dice.uniform(0, 360))
    return np.asarray(before)


def _painted(dice: Dice) -> Array:
    colour = PLATE_COLOURS[dice.integers(len(PLATE_COLOURS))] * dice.uniform(0.6, 1.35)
    return np.asarray(np.clip(colour + dice.normal(0, 8, 3), 4, 250))


def _stripe(face: NDArray[np.float32], dice: Dice) -> None:
    """A ring of another colour near the rim."""
    low, wide = dice.uniform(0.7, 0.93), dice.uniform(0.02, 0.12)
    colour = (
        dice.uniform(20, 245, 3) if dice.uniform() < 0.7 else np.full(3, dice.uniform(150, 250))
    )
    face[(low <= AWAY) & (low + wide >= AWAY)] = colour


def _fine_ellipse(picture: Picture, at: Array, axes: Array, turn: float, colour: Array) -> None:
    place = tuple(np.round(16 * at).astype(int).tolist())
    half = tuple(np.round(16 * axes).astype(int).tolist())
    ink = np.clip(colour, 0, 255).tolist()
    cv2.ellipse(picture, place, half, turn, 0, 360, ink, -1, cv2.LINE_AA, 4)


FACE = 128
_yy, _xx = np.mgrid[:FACE, :FACE].astype(np.float32)
AWAY = np.hypot(_xx - FACE / 2 + 0.5, _yy - FACE / 2 + 0.5) / (FACE / 2)
TURN = np.arctan2(_yy - FACE / 2, _xx - FACE / 2)


def _face(dice: Dice, colour: Array, far: bool) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """A plate's face as a square picture with its cover (0 to 1)."""
    face = np.empty((FACE, FACE, 3), np.float32)
    face[:] = colour
    for _ in range(int(dice.integers(0, 4))):
        low = dice.uniform(0.2, 0.95)
        ring = (low <= AWAY) & (low + dice.uniform(0.02, 0.15) >= AWAY)
        face[ring] *= dice.uniform(0.6, 1.6)
    if dice.uniform() < 0.55:
        low = dice.uniform(0.45, 0.68)
        beat = np.sin(TURN * dice.integers(5, 24) + dice.uniform(0, 6)) > dice.uniform(-0.3, 0.6)
        where = (low <= AWAY) & (low + dice.uniform(0.06, 0.2) >= AWAY) & beat
        if dice.uniform() < 0.7:
            where &= np.abs(np.sin(TURN + dice.uniform(0, 3))) > dice.uniform(0.2, 0.8)
        letter = dice.uniform(150, 250) if dice.uniform() < 0.8 else dice.uniform(0, 60)
        strength = dice.uniform(0.2, 1.0)
        face[where] = (1 - strength) * face[where] + strength * letter
    if dice.uniform() < 0.18:
        count, where_r, hole = dice.integers(3, 7), dice.uniform(0.55, 0.75), dice.uniform(0.1, 0.2)
        for number in range(count):
            turn = 2 * np.pi * number / count
            hx, hy = where_r * np.cos(turn), where_r * np.sin(turn)
            x, y = (_xx - FACE / 2) / (FACE / 2) - hx, (_yy - FACE / 2) / (FACE / 2) - hy
            face[np.hypot(x, y) < hole] *= dice.uniform(0.2, 0.8)
    hub = dice.uniform(0.14, 0.5)
    if dice.uniform() < 0.75:
        steel = dice.uniform(50, 220)
        strength = dice.uniform(0.1, 1.0)
        inner = hub - dice.uniform(0.03, 0.12) if dice.uniform() < 0.5 else 0.0
        where = (hub >= AWAY) & (inner <= AWAY)
        face[where] = (1 - strength) * face[where] + strength * steel
    hole = dice.uniform(0.08, 0.15)
    face[hole >= AWAY] = dice.uniform(10, 230) if not far else dice.uniform(10, 120)
    lit = dice.uniform(0, 0.45)
    way = dice.uniform(0, 2 * np.pi) if dice.uniform() < 0.4 else -np.pi / 2
    face *= (1 + lit * AWAY * np.cos(TURN - way))[..., None]
    if dice.uniform() < 0.3:
        shine = np.exp(-0.5 * ((TURN - dice.uniform(-3, 3)) / 0.3) ** 2) * (hub < AWAY)
        face += (dice.uniform(10, 70) * shine)[..., None].astype(np.float32)
    face += dice.normal(0, dice.uniform(0, 6), (FACE, FACE, 1)).astype(np.float32)
    cover = np.clip((1 - AWAY) * FACE / 2 + 0.5, 0, 1).astype(np.float32)
    return face, cover


def _lay(
    picture: Picture,
    face: NDArray[np.float32],
    cover: NDArray[np.float32],
    at: Array,
    axes: Array,
    tilt: float,
    spin: float,
) -> None:
    """Lay a face into the picture: spun, narrowed and tilted."""
    # The light stays where it is for a face that is spun only a little; spin is for rings and letters.
    c, s = np.cos(np.radians(tilt)), np.sin(np.radians(tilt))
    cs, ss = np.cos(np.radians(spin)), np.sin(np.radians(spin))
    squeeze = np.array([[axes[0], 0], [0, axes[1]]]) / (FACE / 2)
    turn = np.array([[c, -s], [s, c]]) @ squeeze @ np.array([[cs, -ss], [ss, cs]])
    matrix = np.column_stack([turn, at - turn @ [FACE / 2, FACE / 2]])
    size = (SIDE, SIDE)
    shown = cv2.warpAffine(face, matrix, size, flags=cv2.INTER_LINEAR)
    over = cv2.warpAffine(cover, matrix, size, flags=cv2.INTER_LINEAR)[..., None]
    picture[:] = np.clip(picture * (1 - over) + shown * over, 0, 255).astype(np.uint8)


def _sleeve(
    picture: Picture, dice: Dice, at: Array, r: float, to_camera: Array | None = None
) -> None:
    """The bar's end that comes towards the camera, in a direction where that is known."""
    light = dice.uniform(70, 235)
    thick = 2 * r * dice.uniform(0.07, 0.13)
    way = np.array([dice.normal(0, 0.35), dice.normal(0, 0.1)]) * r
    if to_camera is not None:
        way = dice.uniform(0.2, 1.9) * to_camera + np.array([0.0, dice.normal(0, 0.12)]) * r
    _limb(picture, dice, at, at + way, thick, np.full(3, light))
    half = int(max(thick / 2, 1))
    _ellipse(picture, at + way, (half, half), 0, np.full(3, light * dice.uniform(0.5, 1.1)))


def _contact_shadow(picture: Picture, dice: Dice, middle: Array) -> None:
    dark = np.zeros((SIDE, SIDE), np.float32)
    at = middle + RADIUS * np.array([dice.normal(0, 0.1), dice.uniform(0.92, 1.04)])
    axes = (int(RADIUS * dice.uniform(0.5, 1.2)), int(RADIUS * dice.uniform(0.06, 0.22)))
    cv2.ellipse(dark, (int(at[0]), int(at[1])), axes, 0, 0, 360, 1.0, -1)
    dark = cv2.GaussianBlur(dark, (0, 0), dice.uniform(1.5, 6)) * dice.uniform(0.2, 0.9)
    picture[:] = (picture * (1 - dark[..., None])).astype(np.uint8)


def _in_front(picture: Picture, dice: Dice) -> None:
    """A caption, a post or somebody's limb before everything."""
    a = dice.uniform(0, SIDE, 2)
    b = a + dice.normal(0, 80, 2)
    _limb(picture, dice, a, b, dice.uniform(4, 26), dice.uniform(10, 240, 3))


# The camera


@dataclass(frozen=True)
class Filming:
    """How often a picture is dim, by what share of its light at the darkest, how often its edge cuts the plate, and
    how near to its middle (radii)."""

    dim: float
    darkest: float
    cut: float
    nearest: float


PLAIN, HARD = Filming(0.0, 0.35, 0.18, 0.2), Filming(0.3, 0.1, 0.35, 0.12)


def _as_filmed(picture: Picture, dice: Dice, filming: Filming) -> Picture:
    """With the camera's light, blur, noise and compression; now and then cut by its edge."""
    shown: NDArray[np.floating] = picture.astype(np.float32)
    gain = dice.uniform(0.35, 1.15)
    if filming.dim and dice.uniform() < filming.dim:
        gain = float(np.exp(dice.uniform(np.log(filming.darkest), np.log(0.5))))
    shown = 255 * np.power(np.clip(shown * gain / 255, 0, 1), dice.uniform(0.75, 1.4))
    shown = shown * (1 + dice.normal(0, 0.05, 3)) + dice.uniform(0, 22)
    if dice.uniform() < 0.15:
        shown = np.repeat(shown.mean(axis=2, keepdims=True), 3, axis=2)
    if dice.uniform() < 0.4:
        length = dice.uniform(1, 12)
        way = -np.pi / 2 + dice.normal(0, 0.4)
        shown = _moved(shown, length, way)
    shown = np.asarray(cv2.GaussianBlur(shown, (0, 0), dice.uniform(0.3, 2.4)))
    shrink = dice.uniform(0.3, 1.0)
    rough = cv2.resize(shown, None, fx=shrink, fy=shrink, interpolation=cv2.INTER_AREA)
    rough = rough + dice.normal(0, dice.uniform(0.5, 6), rough.shape)
    small = np.clip(rough, 0, 255).astype(np.uint8)
    if dice.uniform() < 0.7:
        quality = [cv2.IMWRITE_JPEG_QUALITY, int(dice.integers(18, 85))]
        packed = cv2.imencode(".jpg", small, quality)[1]
        small = np.asarray(cv2.imdecode(packed, cv2.IMREAD_COLOR), np.uint8)
    whole = np.asarray(cv2.resize(small, (SIDE, SIDE), interpolation=cv2.INTER_LINEAR), np.uint8)
    if dice.uniform() < filming.cut:
        _cut(whole, dice, filming.nearest)
    return whole


def _moved(shown: NDArray[np.floating], length: float, way: float) -> NDArray[np.floating]:
    half = int(np.ceil(length / 2)) + 1
    kernel = np.zeros((2 * half + 1, 2 * half + 1), np.float32)
    reach = np.array([np.cos(way), np.sin(way)]) * length / 2
    a, b = half - reach, half + reach
    cv2.line(
        kernel,
        tuple(np.round(a).astype(int).tolist()),
        tuple(np.round(b).astype(int).tolist()),
        1.0,
    )
    return np.asarray(cv2.filter2D(shown, -1, kernel / kernel.sum()), np.float32)


def _cut(picture: Picture, dice: Dice, nearest: float) -> None:
    """The picture ends within the plate: what lies beyond repeats its edge, as the judge's crops do."""
    edge = int(SIDE / 2 + RADIUS * dice.uniform(nearest, 1.3))
    if dice.uniform() < 0.7:
        picture[edge:] = picture[edge - 1]
    elif dice.uniform() < 0.5:
        picture[:, edge:] = picture[:, edge - 1 : edge]
    else:
        picture[:, : SIDE - edge] = picture[:, SIDE - edge : SIDE - edge + 1]
