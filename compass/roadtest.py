"""A road test as any phone logger exports it: time, acceleration and speed as CSV, analysed by orders of the wheel.

The wheel's angle is the integral of speed over the rolling circumference; acceleration is resampled to even steps of
that angle (order tracking by resampling, Fyfe & Munck 1997), so that what a disc, a hub or a wheel does stands still at
order 1 or 2 whatever the speed. Braking is told from the speed itself.
"""

import csv
import io
import math
from dataclasses import dataclass
from enum import StrEnum
from typing import Any, Final

import numpy as np
from scipy import signal

from compass.errors import CompassError
from compass.numbers import FloatArray

MAX_BYTES: Final = 20_000_000
MAX_ROWS: Final = 400_000
_LEAST_SECONDS: Final = 5.0
_LEAST_RATE_HZ: Final = 20.0  # order 2 at 80 km/h of a small wheel is near 25 Hz; slower loggers see order 1 only
_A_TURN: Final = 24  # samples a wheel's turn after resampling
_WINDOW_TURNS: Final = 16  # turns a spectrum is made over: it tells orders apart by 1/16
_ROLLING: Final = 4.0  # m/s under which nothing is analysed
_BRAKES: Final = -0.6  # m/s² of the speed under which the brakes are on
_COASTS: Final = -0.25  # m/s² over which they are surely off
_STANDS_OUT: Final = 3.0  # times the floor beside it: a peak at wheel order
_MORE_BRAKING: Final = 1.7  # times as strong under braking: the brakes make it
_ORDER_WIDTH: Final = 0.12
_TIME: Final = ("time_s", "time", "t", "seconds")
_SPEED: Final = {"speed_kmh": 1 / 3.6, "speed_mps": 1.0, "speed_ms": 1.0, "speed": 1.0, "speed_mph": 0.44704}


class RecordingError(CompassError):
    """Refuse a recording: ``code`` and its figures; the caller makes the words."""

    def __init__(self, code: str, **figures: Any) -> None:
        super().__init__(code)
        self.code = code
        self.figures = figures


class Shake(StrEnum):
    """What a recording shows, in the words of the likelihood table."""

    ONLY_BRAKING = "only when braking"
    ALWAYS = "without braking too"
    NONE = "no shake recorded"
    OTHER = "not at wheel order"


@dataclass(frozen=True, slots=True, eq=False)
class Recording:
    """A recording: time (n,) s, acceleration (n, axes) m/s², speed (n,) m/s."""

    time_s: FloatArray
    acceleration: FloatArray
    speed: FloatArray


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


def read_recording(raw: bytes) -> Recording:
    """Read a CSV with a time column, one to three acceleration columns (a…) and a speed column.

    Raises ``RecordingError`` for anything broken, endless, too short or too slow, and says which.
    """
    if len(raw) > MAX_BYTES:
        raise RecordingError("too_large", megabytes=len(raw) / 1e6)
    try:
        text = raw.decode("utf-8-sig")
        sample = text[:2000]
        dialect = csv.excel if sample.count(",") >= sample.count(";") else _semicolons()
        rows = csv.reader(io.StringIO(text), dialect, strict=True)
        head = [name.strip().lower() for name in next(rows, [])]
        time, speed, factor, axes = _columns(head)
        wanted = [time, speed, *axes]
        table = []
        for number, row in enumerate(rows, start=2):
            if not row:
                continue
            if number > MAX_ROWS:
                raise RecordingError("too_many_rows", most=MAX_ROWS)
            table.append([_number(row, k, number, head) for k in wanted])
    except UnicodeDecodeError as error:
        raise RecordingError("not_text") from error
    except csv.Error as error:
        raise RecordingError("not_csv", why=str(error)) from error
    values = np.array(table, dtype=np.float64).reshape(-1, len(wanted))
    recording = Recording(values[:, 0], values[:, 2:], values[:, 1] * factor)
    _refuse_useless(recording)
    return recording


def analyse_orders(recording: Recording, *, circumference_mm: float) -> OrderAnalysis:
    """Find what shakes at the wheel's orders, with the brakes on and off."""
    rate_hz = (recording.time_s.size - 1) / (recording.time_s[-1] - recording.time_s[0])
    even = np.arange(recording.time_s[0], recording.time_s[-1], 1 / rate_hz)
    speed = _smooth(np.interp(even, recording.time_s, recording.speed), rate_hz)
    axes = np.stack([np.interp(even, recording.time_s, column) for column in recording.acceleration.T])
    axes = signal.detrend(axes, axis=1)
    slope = np.gradient(speed, even)
    turns = np.concatenate([[0.0], np.cumsum((speed[1:] + speed[:-1]) / 2 / rate_hz)]) / (circumference_mm / 1000)
    masks = {
        "braked": (slope < _BRAKES) & (speed > _ROLLING),
        "free": (slope > _COASTS) & (speed > _ROLLING),
    }
    orders = np.fft.rfftfreq(_WINDOW_TURNS * _A_TURN, 1 / _A_TURN)
    spectra = {name: _spectrum(axes, turns, mask) for name, mask in masks.items()}
    # The logger cannot see past half its rate; at the usual speeds that bounds the orders.
    usual = float(np.median(speed[speed > _ROLLING])) if (speed > _ROLLING).any() else _ROLLING
    seen = orders <= min(0.45 * rate_hz / (usual / (circumference_mm / 1000)), 5.0)
    seconds = (float(masks["braked"].sum() / rate_hz), float(masks["free"].sum() / rate_hz))
    return _conclude(orders[seen], {k: None if s is None else s[seen] for k, s in spectra.items()}, seconds)


def made_recording(
    generator: np.random.Generator,
    *,
    circumference_mm: float = 2000.0,
    order: float = 1.0,
    amplitude: float = 0.5,
    braking_only: bool = True,
    rate_hz: float = 100.0,
    noise: float = 0.15,
) -> Recording:
    """Make a recording: three brakings from 100 to 50 km/h with free driving between, a shake at ``order``."""
    seconds = 66.0
    t = np.arange(0, seconds, 1 / rate_hz)
    phase = np.mod(t, 22.0)
    # 6 s at speed, 8 s braking, 8 s picking up again
    speed = np.interp(phase, [0, 6, 14, 22], [100.0, 100.0, 50.0, 100.0]) / 3.6
    braking = (phase > 6) & (phase < 14)
    angle = 2 * math.pi * np.cumsum(speed / rate_hz) / (circumference_mm / 1000)
    strength = amplitude * (braking if braking_only else np.ones_like(t))
    shake = strength * np.sin(order * angle + 0.7)
    road = signal.lfilter([0.2], [1, -0.8], generator.normal(0, noise, (3, t.size)), axis=1) + generator.normal(
        0, noise, (3, t.size)
    )
    axes = road + np.array([0.3, 1.0, 0.4])[:, None] * shake
    axes[0] += np.gradient(speed, t)
    return Recording(t, axes.T, speed)


def recording_csv(recording: Recording) -> str:
    """Write a recording as the CSV that is read back."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["time_s", *(f"a{axis}" for axis in "xyz"[: recording.acceleration.shape[1]]), "speed_kmh"])
    for t, a, v in zip(recording.time_s, recording.acceleration, recording.speed, strict=True):
        writer.writerow([f"{t:.3f}", *(f"{x:.4f}" for x in a), f"{v * 3.6:.2f}"])
    return out.getvalue()


def _semicolons() -> type[csv.Dialect]:
    class Semicolons(csv.excel):
        delimiter = ";"

    return Semicolons


def _columns(head: list[str]) -> tuple[int, int, float, list[int]]:
    time = next((k for k, name in enumerate(head) if name in _TIME), None)
    speed = next((k for k, name in enumerate(head) if name in _SPEED), None)
    axes = [k for k, name in enumerate(head) if name.startswith(("a", "acc")) and k not in (time, speed)][:3]
    if time is None or speed is None or not axes:
        missing = [n for n, k in (("time_s", time), ("speed_kmh", speed), ("ax", axes or None)) if k is None]
        raise RecordingError("missing_columns", missing=", ".join(missing), found=", ".join(head)[:120] or "nothing")
    return time, speed, _SPEED[head[speed]], axes


def _number(row: list[str], k: int, number: int, head: list[str]) -> float:
    try:
        value = float(row[k].strip().replace(",", "."))
    except (ValueError, IndexError) as error:
        raise RecordingError("not_a_number", row=number, column=head[k]) from error
    if not math.isfinite(value) or abs(value) > 1e7:
        raise RecordingError("not_a_number", row=number, column=head[k])
    return value


def _refuse_useless(recording: Recording) -> None:
    t = recording.time_s
    if t.size < 2 or t[-1] - t[0] < _LEAST_SECONDS:
        raise RecordingError("too_short", seconds=float(t[-1] - t[0]) if t.size > 1 else 0.0, least=_LEAST_SECONDS)
    if (np.diff(t) <= 0).any():
        raise RecordingError("time_runs_back", row=int(np.flatnonzero(np.diff(t) <= 0)[0]) + 3)
    rate_hz = (t.size - 1) / float(t[-1] - t[0])
    if rate_hz < _LEAST_RATE_HZ:
        raise RecordingError("too_slow", rate=rate_hz, least=_LEAST_RATE_HZ)
    if recording.speed.max() < _ROLLING:
        raise RecordingError("stood_still")


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
