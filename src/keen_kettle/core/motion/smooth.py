"""Zero-lag low-pass smoothing, with a cut-off found by residual analysis."""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

__all__ = ["choose_cutoff", "low_pass", "noise_gain"]

Array = NDArray[np.float64]

LOWEST_HZ, HIGHEST_HZ = 4.0, 10.0


def low_pass(values: Array, rate_hz: float, cutoff_hz: float) -> Array:
    """Second-order Butterworth run forwards and backwards (fourth order, no lag).

    The cut-off is that of the two passes together: each pass is set higher by 1/0.802
    (Winter, Biomechanics and Motor Control of Human Movement, chapter on data processing).

    Parameters
    ----------
    values : shape (n,), evenly spaced, no gaps
    """
    from scipy.signal import sosfilt  # loaded here: it takes about a second

    sections, settled = _sections(min(cutoff_hz / 0.802, 0.45 * rate_hz), rate_hz)
    pad = min(len(values) - 1, max(int(rate_hz / 2), 9))
    before, after = values[pad:0:-1], values[-2 : -pad - 2 : -1]
    way = np.concatenate([2 * values[0] - before, values, 2 * values[-1] - after])
    for _ in range(2):
        way = sosfilt(sections, way, zi=settled * way[0])[0][::-1]
    return np.asarray(way[pad : len(way) - pad])


@lru_cache(maxsize=256)
def _sections(once_hz: float, rate_hz: float) -> tuple[Array, Array]:
    """The filter of one pass, in second-order sections, and its state after a long time at 1: finding both
    takes longer than using them (why this is not `sosfiltfilt`, whose numbers it gives)."""
    from scipy.signal import butter, sosfilt_zi

    sections = np.asarray(butter(2, once_hz, fs=rate_hz, output="sos"))
    return sections, np.asarray(sosfilt_zi(sections))


def choose_cutoff(values: Array, rate_hz: float) -> float:
    """Cut-off in Hz by residual analysis (Winter): where the residual equals the noise's share.

    The residual's straight tail is extended to zero frequency; the cut-off is the first one
    whose residual falls to that height. Held between 4 and 10 Hz.
    """
    highest = min(0.4 * rate_hz, 20.0)
    tries = np.arange(2.0, highest + 0.01, 0.5)
    if len(values) < 12 or len(tries) < 6:
        return float(min(6.0, highest))
    residual = np.array(
        [np.sqrt(np.mean((values - low_pass(values, rate_hz, fc)) ** 2)) for fc in tries]
    )
    tail = tries >= 0.6 * highest
    _, noise = np.polyfit(tries[tail], residual[tail], 1)
    below = np.flatnonzero(residual <= max(float(noise), 0.0))
    chosen = tries[below[0]] if len(below) else highest
    return float(np.clip(chosen, LOWEST_HZ, min(HIGHEST_HZ, highest)))


def noise_gain(rate_hz: float, cutoff_hz: float) -> tuple[float, float]:
    """How noise in position shows after smoothing: gain for position, and for velocity (1/s).

    Both are the root of the summed squared weights of the linear filter (and of the central
    difference behind it), so sigma_v = gain_v × sigma_position for white noise.
    """
    count = 2 * max(int(rate_hz), 16) + 1
    spike = np.zeros(count)
    spike[count // 2] = 1.0
    answer = low_pass(spike, rate_hz, cutoff_hz)
    slope = np.gradient(answer, 1.0 / rate_hz)
    return float(np.sqrt(np.sum(answer**2))), float(np.sqrt(np.sum(slope**2)))
