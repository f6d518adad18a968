"""Grip widths, overhead height and the bar's start height from body lengths, by plane geometry.

Seen from the front the arm is a straight line of length `arm` from the shoulder joint to the grip.
With hands a width w apart and shoulder joints b apart, the arm leans out by asin((w - b) / 2 arm)
and hangs sqrt(arm² - ((w - b) / 2)²) deep. The snatch grip is the width that hangs the bar in the
hip crease; overhead the same arm stands the same amount above the shoulder.
"""

from dataclasses import dataclass
from math import sqrt

__all__ = ["BodyLengths", "Fit", "StartHeight", "fit_grips", "start_height"]

# Shares of stature where a length was not measured: shoulder joint height, joint to grip, joint to
# joint, hip crease height (between crotch and trochanter), hip-width stance, mid-thigh and knee
# (classic segment tables).
SHOULDER_SHARE = 0.80
ARM_SHARE = 0.38
BREADTH_SHARE = 0.20
CREASE_SHARE = 0.49
STANCE_SHARE = 0.17
KNEE_SHARE = 0.285
SHIN_AND_HAND_M = 0.09
"""From the middle of a shin to the middle of a hand that grips just outside it."""
LIFT_SHARE = 0.03
"""How far an active push up raises the shoulder, as a share of stature."""
SIGMA_GUESSED = 0.02
"""One sigma of a length taken from stature, as a share of stature."""
SIGMA_MEASURED_M = 0.01


@dataclass(frozen=True)
class BodyLengths:
    """Lengths in metres; those that are None are taken from stature.

    `arm_m` runs from the shoulder joint to the grip, `breadth_m` from joint to joint,
    `shoulder_m` and `crease_m` are heights above the floor when standing tall, without shoes.
    """

    stature_m: float
    arm_m: float | None = None
    breadth_m: float | None = None
    shoulder_m: float | None = None
    crease_m: float | None = None


@dataclass(frozen=True)
class Fit:
    """Grips in metres between the middles of the hands, with one sigma.

    `overhead_m` is the bar's height above the crown with the snatch grip; `contact_share` is where
    the clean's bar hangs on the thigh: 0 at the knee, 1 in the hip crease. Where the snatch grip
    cannot put the bar in the crease, `why_not` says so.
    """

    snatch_m: float | None
    snatch_sigma_m: float
    clean_m: float
    clean_sigma_m: float
    overhead_m: float | None
    contact_share: float
    guessed: tuple[str, ...]
    why_not: str = ""


def fit_grips(body: BodyLengths) -> Fit:
    """Starting widths for both grips, for the coach to confirm."""
    arm, breadth, shoulder, crease, guessed = _lengths(body)
    snatch = _snatch_width(arm, breadth, shoulder, crease)
    clean = max(STANCE_SHARE * body.stature_m + 2 * SHIN_AND_HAND_M, breadth + 0.06)
    deep = sqrt(max(arm**2 - ((clean - breadth) / 2) ** 2, 0.0))
    knee = KNEE_SHARE * body.stature_m
    contact = (shoulder - deep - knee) / (crease - knee)
    if snatch is None:
        overhead = None
        why = (
            "With these lengths no grip hangs the bar in the hip crease: measure arm and heights "
            "again, or fit by eye."
        )
    else:
        up = sqrt(max(arm**2 - ((snatch - breadth) / 2) ** 2, 0.0))
        overhead = shoulder + up + LIFT_SHARE * body.stature_m - body.stature_m
        why = ""
    return Fit(
        snatch,
        _sigma(body, arm, breadth, shoulder, crease),
        clean,
        0.03 if "shoulder breadth" in guessed else 0.02,
        overhead,
        contact,
        guessed,
        why,
    )


def _lengths(
    body: BodyLengths,
) -> tuple[float, float, float, float, tuple[str, ...]]:
    tall = body.stature_m
    given = {
        "arm": (body.arm_m, ARM_SHARE),
        "shoulder breadth": (body.breadth_m, BREADTH_SHARE),
        "shoulder height": (body.shoulder_m, SHOULDER_SHARE),
        "hip crease height": (body.crease_m, CREASE_SHARE),
    }
    values = [length if length is not None else share * tall for length, share in given.values()]
    guessed = tuple(name for name, (length, _) in given.items() if length is None)
    return values[0], values[1], values[2], values[3], guessed


def _snatch_width(arm: float, breadth: float, shoulder: float, crease: float) -> float | None:
    """w = b + 2 sqrt(arm² - (shoulder - crease)²); None when the arm is too short for it."""
    drop = shoulder - crease
    if drop <= 0 or drop >= arm:
        return None
    return breadth + 2 * sqrt(arm**2 - drop**2)


def _sigma(body: BodyLengths, arm: float, breadth: float, shoulder: float, crease: float) -> float:
    """One sigma of the snatch width by small differences in each length (first order)."""
    lengths = [arm, breadth, shoulder, crease]
    given = (body.arm_m, body.breadth_m, body.shoulder_m, body.crease_m)
    base = _snatch_width(*lengths)
    if base is None:
        return float("nan")
    total = 0.0
    for number, length in enumerate(given):
        sigma = SIGMA_MEASURED_M if length is not None else SIGMA_GUESSED * body.stature_m / 2
        moved = list(lengths)
        moved[number] += 0.001
        other = _snatch_width(*moved)
        if other is not None:
            total += ((other - base) / 0.001 * sigma) ** 2
    return sqrt(total)


@dataclass(frozen=True)
class StartHeight:
    """Where the bar's centre should be at the start, and what goes under each plate."""

    wanted_m: float
    plate_radius_m: float
    raise_m: float
    says: str


STARTS = {"floor": None, "mid-shin": 0.17, "below knee": 0.26}
"""Bar heights as shares of stature; the floor start has the height of a full-size plate."""
FULL_RADIUS_M = 0.225


def start_height(stature_m: float, plate_diameter_m: float, start: str = "floor") -> StartHeight:
    """What to put under the plates so that the bar begins where it should.

    Parameters
    ----------
    plate_diameter_m : of the largest plate on the bar; the bar's own 0.05 m sleeve when unloaded
    start : "floor", or "mid-shin" or "below knee" for those who cannot reach the floor start yet
    """
    share = STARTS[start]
    wanted = FULL_RADIUS_M if share is None else max(share * stature_m, FULL_RADIUS_M)
    radius = plate_diameter_m / 2
    up = max(wanted - radius, 0.0)
    if up < 0.005:
        says = "Nothing: the plates stand at the right height."
    else:
        says = f"{100 * up:.0f} cm of blocks or plates under each side. Light loads, never dropped on to them."
    return StartHeight(wanted, radius, up, says)
