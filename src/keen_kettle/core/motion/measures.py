"""Bar measures that need no body landmarks, each with its uncertainty or the reason it is missing.

Signs: forward is positive, rearward is negative, heights are above lift-off. Every length carries
the scale's share of uncertainty and the noise of its points; what hangs on an instant also
carries what one frame earlier or later would change.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from keen_kettle.core.lifts import Derivative
from keen_kettle.core.motion.bar import BarMotion
from keen_kettle.core.motion.events import Event
from keen_kettle.core.motion.pause import pause_on_the_way

__all__ = ["G_MPS2", "Measure", "bar_measures"]

Array = NDArray[np.float64]
Frames = dict[str, int]

G_MPS2 = 9.81
DEEPEST = 1.6
"""The deepest fall of many is rather one that an error made deeper: so much less sure than a single one (96 lifelike
films)."""
OF_ONE_GO = ("velocity_dip", "rhythm", "time_to_peak_velocity")
"""What tells something only of a pull without a pause, of which there are pictures enough."""
USUAL_STEP_S = 1 / 30
"""So often pictures come in the films on which the uncertainty of events was calibrated."""
LONGEST_UNSEEN_S = 0.14
"""Where pictures of the pull are farther apart, ratios of its speeds come out 0.7 wrong, and as surely (exact
paths with repeated and dropped pictures)."""
NO_CATCH = {
    "forward_bump": "in a pull with long arms the bar goes round the thighs by itself; a strike shows in its forward speed",
    "loop": "a pull is not turned over, so there is no loop",
}


@dataclass(frozen=True)
class Measure:
    """One number: SI value, standard uncertainty, unit, and the frame that shows it.

    `value` is None when it cannot be judged; `why` then says so in plain words. `assumed` is set
    where a point that it rests on was not seen.
    """

    id: str
    value: float | None
    sigma: float | None
    unit: str
    frame: int | None = None
    why: str = ""
    assumed: bool = False


@dataclass(frozen=True)
class _Rule:
    id: str
    unit: str
    needs: tuple[str, ...]
    read: Callable[[BarMotion, Frames], tuple[float, int]]
    floor_only: bool = False
    catch_only: bool = False
    kind: str = "length"
    across_from: str = ""
    """For what is read forwards: the event whose height it is set against."""


def bar_measures(
    motion: BarMotion,
    events: dict[str, Event],
    derivative: Derivative,
    mass_kg: float | None = None,
    stature_m: float | None = None,
    plate_diameter_m: float = 0.45,
    from_plate: bool = True,
) -> dict[str, Measure]:
    """All bar measures of a lift by id; those that cannot be judged say why.

    A lift from the floor starts with the bar half a plate above it, which gives heights above
    the floor; only where the plate itself is followed (`from_plate`).
    """
    frames = {name: event.frame for name, event in events.items()}
    sigmas = {name: event.sigma_s for name, event in events.items()}
    found = {rule.id: _measure(rule, motion, frames, sigmas, derivative) for rule in RULES}
    why = _why_no_course(motion, events)
    if why:
        found.update(
            {
                one: replace(found[one], value=None, sigma=None, frame=None, why=why)
                for one in OF_ONE_GO
                if found[one].value is not None
            }
        )
    radius_m = plate_diameter_m / 2 if from_plate else None
    found.update(_above_floor(found["rise"], derivative, stature_m, radius_m))
    found.update(_power(motion, frames, mass_kg))
    return found


def _why_no_course(motion: BarMotion, events: dict[str, Event]) -> str:
    """Why it cannot be told how the speed changes in the pull; empty where it can."""
    pause = pause_on_the_way(motion, events)
    if pause is not None:
        return f"the bar is held for {pause.seconds:.1f} s on its way up, so its speeds are those of a pause"
    if not motion.even or not {"lift_off", "peak_velocity"} <= set(events):
        return ""
    apart_s = motion.apart_s(events["lift_off"].frame, events["peak_velocity"].frame)
    if apart_s <= LONGEST_UNSEEN_S:
        return ""
    return f"in the pull {apart_s:.2f} s pass from one picture to the next, too long to see how its speed changes"


def _measure(
    rule: _Rule,
    motion: BarMotion,
    frames: Frames,
    sigmas: dict[str, float],
    derivative: Derivative,
) -> Measure:
    def missing(why: str) -> Measure:
        return Measure(rule.id, None, None, rule.unit, None, why)

    if derivative.family == "jerk" and {"lift_off", "power_position"} & set(rule.needs):
        return missing("a jerk has no pull")
    if rule.floor_only and derivative.start != "floor":
        return missing("a lift from the hang or from blocks has no first pull")
    if rule.catch_only and not derivative.has_catch:
        return missing(NO_CATCH.get(rule.id, "a pull has no catch"))
    absent = [name for name in rule.needs if name not in frames]
    if absent:
        return missing(
            "the bar is not followed through this part of the lift"
            if frames
            else "no lift was found"
        )
    value, frame = rule.read(motion, frames)
    parts = _event_shares(rule, motion, frames, sigmas, value)
    parts += _own_shares(rule, motion, frames, value, frame)
    return Measure(rule.id, value, float(np.sqrt(np.sum(np.square(parts)))), rule.unit, frame)


def _own_shares(
    rule: _Rule, motion: BarMotion, frames: Frames, value: float, frame: int
) -> list[float]:
    """The measure's own uncertainty: of velocity, or of scale and points."""
    if rule.kind == "upward":
        return [float(motion.vy_sigma_mps[frame])]
    if rule.kind == "forward":
        return [
            float(motion.vx_sigma_mps[frame]),
            float(motion.vy_mps[frame]) * motion.lean_sigma,
        ]
    if rule.kind == "dip":
        fastest = _greatest(motion.vy_mps, _span(motion, frames, "lift_off", "first_pull_end"))[0]
        scaled = motion.scale_sigma * motion.vy_mps[frame]  # a ratio knows no scale
        own = np.sqrt(max(motion.vy_sigma_mps[frame] ** 2 - scaled**2, 0.0))
        return [float(DEEPEST * np.sqrt(2) * own / max(fastest, 0.1))]
    if rule.kind == "length":
        own = [abs(value) * motion.scale_sigma, motion.place_sigma_m]
        if rule.across_from:
            rise = float(motion.y_m[frame] - motion.y_m[frames[rule.across_from]])
            own.append(rise * motion.lean_sigma)
        return own
    if rule.kind == "ratio":
        # The second pull is short against the time from one picture to the next, where that is long.
        took_s = float(motion.t_s[frames["peak_velocity"]] - motion.t_s[frames["power_position"]])
        apart_s = motion.apart_s(frames["power_position"], frames["peak_velocity"]) - USUAL_STEP_S
        return [value * max(apart_s, 0.0) / (np.sqrt(12) * max(took_s, motion.frame_s))]
    return []


def _event_shares(
    rule: _Rule, motion: BarMotion, frames: Frames, sigmas: dict[str, float], value: float
) -> list[float]:
    """What moving each event by its uncertainty (a frame at least, then scaled) would change."""
    shares = []
    for name in rule.needs:
        step = max(1, round(sigmas[name] / motion.frame_s))
        changes = [0.0]
        for moved in (frames[name] - step, frames[name] + step):
            if 0 <= moved < len(motion.t_s):
                other = rule.read(motion, {**frames, name: moved})[0]
                if np.isfinite(other):
                    changes.append(abs(other - value))
        change = sum(changes) / max(len(changes) - 1, 1)
        shares.append(change * sigmas[name] / (step * motion.frame_s))
    return shares


def _span(motion: BarMotion, frames: Frames, first: str, last: str) -> NDArray[np.intp]:
    a, b = frames[first], frames[last]
    return np.arange(a, max(b, a) + 1)


def _greatest(values: Array, span: NDArray[np.intp]) -> tuple[float, int]:
    part = values[span]
    if not np.isfinite(part).any():
        return float("nan"), int(span[0])
    at = int(span[np.nanargmax(part)])
    return float(values[at]), at


def _peak_velocity(m: BarMotion, f: Frames) -> tuple[float, int]:
    return float(m.vy_mps[f["peak_velocity"]]), f["peak_velocity"]


def _time_to_peak(m: BarMotion, f: Frames) -> tuple[float, int]:
    return float(m.t_s[f["peak_velocity"]] - m.t_s[f["lift_off"]]), f["peak_velocity"]


def _height_at(event: str) -> Callable[[BarMotion, Frames], tuple[float, int]]:
    def read(m: BarMotion, f: Frames) -> tuple[float, int]:
        return float(m.y_m[f[event]] - m.y_m[f["lift_off"]]), f[event]

    return read


def _velocity_dip(m: BarMotion, f: Frames) -> tuple[float, int]:
    span = _span(m, f, "lift_off", "power_position")
    reached = np.fmax.accumulate(m.vy_mps[span])
    fall, at = _greatest(reached - m.vy_mps[span], np.arange(len(span)))
    pulled, _ = _greatest(m.vy_mps, _span(m, f, "lift_off", "first_pull_end"))
    fastest = max(float(reached[at]), pulled)
    return (fall / fastest if fastest > 0 else float("nan")), int(span[at])


def _rhythm(m: BarMotion, f: Frames) -> tuple[float, int]:
    def mean_velocity(first: str, last: str) -> float:
        rise = m.y_m[f[last]] - m.y_m[f[first]]
        took = m.t_s[f[last]] - m.t_s[f[first]]
        return float(rise / took) if took > 0 else float("nan")

    first = mean_velocity("lift_off", "first_pull_end")
    second = mean_velocity("power_position", "peak_velocity")
    return (second / first if first > 0 else float("nan")), f["first_pull_end"]


def _rearward_shift(m: BarMotion, f: Frames) -> tuple[float, int]:
    return float(m.x_m[f["lift_off"]] - m.x_m[f["first_pull_end"]]), f["first_pull_end"]


def _forward_bump(m: BarMotion, f: Frames) -> tuple[float, int]:
    furthest, at = _greatest(m.x_m, _span(m, f, "power_position", "peak_height"))
    return float(furthest - m.x_m[f["power_position"]]), at


def _forward_velocity(m: BarMotion, f: Frames) -> tuple[float, int]:
    return _greatest(m.vx_mps, _span(m, f, "power_position", "peak_height"))


def _loop(m: BarMotion, f: Frames) -> tuple[float, int]:
    # Where the catch is not seen, what comes after the top may be lowering.
    last = "lowest" if {"catch", "lowest"} <= set(f) else "peak_height"
    furthest, at = _greatest(m.x_m, _span(m, f, "power_position", last))
    return float(furthest - m.x_m[f["lift_off"]]), at


def _drop(m: BarMotion, f: Frames) -> tuple[float, int]:
    return float(m.y_m[f["peak_height"]] - m.y_m[f["lowest"]]), f["lowest"]


def _net_shift(m: BarMotion, f: Frames) -> tuple[float, int]:
    return float(m.x_m[f["catch"]] - m.x_m[f["lift_off"]]), f["catch"]


def _overhead_travel(m: BarMotion, f: Frames) -> tuple[float, int]:
    span = _span(m, f, "lowest", "stand")
    furthest, at = _greatest(np.abs(m.x_m - m.x_m[f["lowest"]]), span)
    return furthest, at


_PULL = ("lift_off", "first_pull_end", "power_position", "peak_velocity")

RULES = (
    _Rule("peak_velocity", "m/s", ("peak_velocity",), _peak_velocity, kind="upward"),
    _Rule("time_to_peak_velocity", "s", ("lift_off", "peak_velocity"), _time_to_peak, kind="ratio"),
    _Rule(
        "height_at_peak_velocity", "m", ("lift_off", "peak_velocity"), _height_at("peak_velocity")
    ),
    _Rule("velocity_dip", "1", _PULL[:3], _velocity_dip, floor_only=True, kind="dip"),
    _Rule("rhythm", "1", _PULL, _rhythm, floor_only=True, kind="ratio"),
    _Rule("rise", "m", ("lift_off", "peak_height"), _height_at("peak_height")),
    _Rule("catch_height", "m", ("lift_off", "catch"), _height_at("catch"), catch_only=True),
    _Rule("drop", "m", ("peak_height", "lowest"), _drop, catch_only=True),
    _Rule(
        "rearward_shift",
        "m",
        ("lift_off", "first_pull_end"),
        _rearward_shift,
        floor_only=True,
        across_from="lift_off",
    ),
    _Rule(
        "forward_bump",
        "m",
        ("power_position", "peak_height"),
        _forward_bump,
        catch_only=True,
        across_from="power_position",
    ),
    _Rule(
        "forward_velocity",
        "m/s",
        ("power_position", "peak_height"),
        _forward_velocity,
        kind="forward",
    ),
    _Rule(
        "loop",
        "m",
        ("lift_off", "power_position", "peak_height"),
        _loop,
        catch_only=True,
        across_from="lift_off",
    ),
    _Rule(
        "recovery_travel",
        "m",
        ("lowest", "stand"),
        _overhead_travel,
        catch_only=True,
        across_from="lowest",
    ),
    _Rule(
        "net_shift",
        "m",
        ("lift_off", "catch"),
        _net_shift,
        catch_only=True,
        across_from="lift_off",
    ),
)


def _above_floor(
    rise: Measure, derivative: Derivative, stature_m: float | None, radius_m: float | None
) -> dict[str, Measure]:
    """Peak height above the floor, and as a share of stature."""

    def missing(why: str) -> dict[str, Measure]:
        return {
            "peak_height": Measure("peak_height", None, None, "m", None, why),
            "peak_height_of_stature": Measure("peak_height_of_stature", None, None, "1", None, why),
        }

    if rise.value is None or rise.sigma is None:
        return missing(rise.why)
    if derivative.start != "floor":
        return missing("the floor's height is not known in a lift from the hang or from blocks")
    if radius_m is None:
        return missing("only the plate itself tells how high the bar begins")
    height = rise.value + radius_m
    found = {"peak_height": Measure("peak_height", height, rise.sigma, "m", rise.frame)}
    if stature_m is None:
        why = "the athlete's height is not known"
        found["peak_height_of_stature"] = Measure(
            "peak_height_of_stature", None, None, "1", None, why
        )
    else:
        share, sigma = height / stature_m, rise.sigma / stature_m
        found["peak_height_of_stature"] = Measure(
            "peak_height_of_stature", share, sigma, "1", rise.frame
        )
    return found


def _power(motion: BarMotion, frames: Frames, mass_kg: float | None) -> dict[str, Measure]:
    """Work, power and force on the bar: F = m(a + g), P = F v, W = the integral of P over time.

    Work is reckoned as the change in the bar's energy, m(g h + v²/2), which needs no
    acceleration; sigma follows from those of height and velocity.
    """
    units = {
        "work_whole": "J",
        "work_second": "J",
        "mean_power_whole": "W",
        "mean_power_second": "W",
    }
    units |= {"peak_power": "W", "peak_force": "N"}
    why = "the bar's mass is not given" if mass_kg is None else "no pull was found"
    if mass_kg is None or not {"lift_off", "power_position", "peak_velocity"} <= set(frames):
        return {name: Measure(name, None, None, unit, None, why) for name, unit in units.items()}
    top = frames["peak_velocity"]
    found: dict[str, Measure] = {}
    for part, begin in (("whole", frames["lift_off"]), ("second", frames["power_position"])):
        rise = motion.y_m[top] - motion.y_m[begin]
        v0, v1 = motion.vy_mps[begin], motion.vy_mps[top]
        work = mass_kg * (G_MPS2 * rise + (v1**2 - v0**2) / 2)
        rise_sigma = np.hypot(rise * motion.scale_sigma, motion.place_sigma_m)
        sigma = mass_kg * np.hypot(G_MPS2 * rise_sigma, v1 * motion.vy_sigma_mps[top])
        took = max(float(motion.t_s[top] - motion.t_s[begin]), motion.frame_s)
        blur = motion.frame_s / np.sqrt(3) / took
        found[f"work_{part}"] = Measure(f"work_{part}", float(work), float(sigma), "J", top)
        mean_sigma = abs(work / took) * np.hypot(sigma / max(abs(work), 1e-9), blur)
        found[f"mean_power_{part}"] = Measure(
            f"mean_power_{part}", float(work / took), float(mean_sigma), "W", top
        )
    span = np.arange(frames["lift_off"], top + 1)
    force = mass_kg * (motion.ay_mps2 + G_MPS2)
    force_sigma = mass_kg * motion.vy_sigma_mps * 2 * np.pi * max(motion.cutoff_hz, 1.0) / 2
    for name, values in (("peak_force", force), ("peak_power", force * motion.vy_mps)):
        value, at = _greatest(values, span)
        spread = force_sigma[at] * (1.0 if name == "peak_force" else abs(motion.vy_mps[at]))
        found[name] = Measure(name, value, float(spread), units[name], at)
    return found
