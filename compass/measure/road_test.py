"""A road test as any phone logger exports it: time, acceleration and speed as CSV, analysed by orders of the wheel.

The wheel's angle is the integral of speed over the rolling circumference; acceleration is resampled to even steps of
that angle (order tracking by resampling, Fyfe & Munck 1997), so that what a disc, a hub or a wheel does stands still at
order 1 or 2 whatever the speed. Braking is told from the speed itself.
"""

from dataclasses import dataclass
from enum import StrEnum
from typing import Any, Final

import numpy as np
from scipy import signal

from compass.ground.arrays import FloatArray
from compass.measure.recording import ROLLING, Recording, RecordingError

_A_TURN: Final = 24  # samples a wheel's turn after resampling
_WINDOW_TURNS: Final = 16  # turns a spectrum is made over: it tells orders apart by 1/16
_BRAKES: Final = -0.6  # m/s² of the speed under which the brakes are on
_COASTS: Final = -0.25  # m/s² over which they are surely off
_STANDS_OUT: Final = 3.0  # times the floor beside it: a peak at wheel order
_MORE_BRAKING: Final = 1.7  # times as strong under braking: the brakes make it
_ORDER_WIDTH: Final = 0.12


class Shake(StrEnum):
    """What a recording shows, in the words of the likelihood table."""

    ONLY_BRAKING = "only when braking"
    ALWAYS = "without braking too"
    NONE = "no shake recorded"
    OTHER = "not at wheel order"


@dataclass(frozen=True, slots=True, eq=False)
class OrderAnalysis:
    """Amplitude (m/s²) over orders, braked and not (None where too little was driven so), and what it shows.

    ``order`` is the strongest wheel order (1 or 2), None where none stands out; ``seconds`` driven braked and not.
    """

    orders: FloatArray
    braked: FloatArray | None
    free: FloatArray | None
    order: int | None
    other_order: float | None
    shake: Shake
    seconds: tuple[float, float]


def analyse_orders(recording: Recording, *, circumference_mm: float) -> OrderAnalysis:
    """Find what shakes at the wheel's orders, with the brakes on and off.

    A circumference outside 0.5 to 6 m is taken as the nearer of the two: no wheel of a road vehicle has it.
    Raises ``RecordingError`` where it cannot show what it would be read for: a wheel too quick for the logger (also for
    what shakes twice a turn, where nothing once a turn is seen), no braking, no driving between the brakings. To have
    recorded no shake there would clear a brake that nobody pressed.
    """
    circumference_mm = min(max(circumference_mm, 500.0), 6000.0)
    rate_hz = (recording.time_s.size - 1) / (recording.time_s[-1] - recording.time_s[0])
    even = np.arange(recording.time_s[0], recording.time_s[-1], 1 / rate_hz)
    speed = _smooth(np.interp(even, recording.time_s, recording.speed), rate_hz)
    axes = np.stack([np.interp(even, recording.time_s, column) for column in recording.acceleration.T])
    axes = signal.detrend(axes, axis=1)
    slope = np.gradient(speed, even)
    turns = np.concatenate([[0.0], np.cumsum((speed[1:] + speed[:-1]) / 2 / rate_hz)]) / (circumference_mm / 1000)
    masks = {
        "braked": (slope < _BRAKES) & (speed > ROLLING),
        "free": (slope > _COASTS) & (speed > ROLLING),
    }
    orders = np.fft.rfftfreq(_WINDOW_TURNS * _A_TURN, 1 / _A_TURN)
    spectra = {name: _spectrum(axes, turns, mask) for name, mask in masks.items()}
    # The logger cannot see past half its rate; at the usual speeds that bounds the orders.
    usual = float(np.median(speed[speed > ROLLING])) if (speed > ROLLING).any() else ROLLING
    turns_a_second = usual / (circumference_mm / 1000)
    seen = orders <= min(0.45 * rate_hz / turns_a_second, 5.0)
    pace = {"kmh": usual * 3.6, "turns": turns_a_second, "rate": rate_hz}
    if orders[seen].max() < 1 + _ORDER_WIDTH:
        raise RecordingError("wheel_too_quick", **pace)
    seconds = (float(masks["braked"].sum() / rate_hz), float(masks["free"].sum() / rate_hz))
    shown = _conclude(orders[seen], {k: None if s is None else s[seen] for k, s in spectra.items()}, seconds)
    if shown.braked is None and shown.shake is Shake.NONE:
        raise RecordingError("not_braked", turns=_WINDOW_TURNS)
    if shown.order is None and orders[seen].max() < 2 + _ORDER_WIDTH:
        raise RecordingError("twice_a_turn_unseen", **pace)
    if shown.free is None and shown.order is not None:
        raise RecordingError("never_free", turns=_WINDOW_TURNS)
    return shown


def _smooth(speed: FloatArray, rate_hz: float) -> FloatArray:
    """Smooth a logger's stepwise speed over about a second (Savitzky & Golay 1964)."""
    window = int(rate_hz) | 1
    if speed.size <= window:
        return speed
    smooth: FloatArray = np.maximum(signal.savgol_filter(speed, window, 2), 0.0)
    return smooth


def _spectrum(axes: FloatArray, turns: FloatArray, mask: Any) -> FloatArray | None:
    """Return the root-sum-square amplitude of all axes over orders, averaged over the stretches of ``mask``."""
    window = signal.windows.hann(_WINDOW_TURNS * _A_TURN, sym=False)
    powers = []
    edges = np.flatnonzero(np.diff(np.concatenate([[False], mask, [False]]).astype(int)))
    for first, last in zip(edges[::2], edges[1::2], strict=True):
        if last - first < 3:
            continue
        even = np.arange(turns[first], turns[last - 1], 1 / _A_TURN)
        if even.size < window.size:
            continue
        resampled = np.stack([np.interp(even, turns[first:last], axis[first:last]) for axis in axes])
        resampled = signal.detrend(resampled, axis=1)
        for start in range(0, even.size - window.size + 1, window.size // 2):
            part = resampled[:, start : start + window.size] * window
            powers.append((np.abs(np.fft.rfft(part, axis=1)) ** 2).sum(axis=0))
    if not powers:
        return None
    amplitude: FloatArray = 2 * np.sqrt(np.mean(powers, axis=0)) / window.sum()
    return amplitude


def _conclude(orders: FloatArray, spectra: dict[str, FloatArray | None], seconds: tuple[float, float]) -> OrderAnalysis:
    braked, free = spectra["braked"], spectra["free"]
    strongest = braked if braked is not None else free
    order, other, shake = None, None, Shake.NONE
    if strongest is not None:
        heights = {n: _height(orders, strongest, float(n)) for n in (1, 2)}
        best = max(heights, key=lambda n: heights[n][0])
        peak, floor = heights[best]
        if peak > _STANDS_OUT * floor:
            order = best
            beside = _height(orders, free, float(best)) if free is not None and braked is not None else None
            made_by_brakes = beside is not None and peak > _MORE_BRAKING * beside[0]
            shake = Shake.ONLY_BRAKING if made_by_brakes else Shake.ALWAYS
        else:
            beyond = orders > 0.4
            k = int(np.argmax(np.where(beyond, strongest, 0)))
            if strongest[k] > 1.5 * _STANDS_OUT * float(np.median(strongest[beyond])):
                other, shake = float(orders[k]), Shake.OTHER
    return OrderAnalysis(orders, braked, free, order, other, shake, seconds)


def _height(orders: FloatArray, amplitude: FloatArray, order: float) -> tuple[float, float]:
    """Return the peak at an order and the floor beside it."""
    at = np.abs(orders - order) <= _ORDER_WIDTH
    beside = (np.abs(orders - order) > 0.2) & (np.abs(orders - order) < 0.5)
    if not at.any() or not beside.any():
        return 0.0, 1.0
    return float(amplitude[at].max()), float(np.median(amplitude[beside]))
