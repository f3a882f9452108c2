"""A road test as any phone logger exports it: a CSV of time, acceleration and speed, read or refused for a reason."""

import csv
import io
import math
from array import array
from dataclasses import dataclass
from typing import Any, Final

import numpy as np

from compass.ground.arrays import FloatArray
from compass.ground.errors import CompassError

ROLLING: Final = 4.0  # m/s under which nothing is analysed
MAX_BYTES: Final = 20_000_000
MAX_ROWS: Final = 200_000  # half an hour at a hundred a second
_MOST_COLUMNS: Final = 60
_MOST_KM: Final = 80.0
_FASTEST_MPS: Final = 100.0
_LEAST_SECONDS: Final = 5.0
_LEAST_RATE_HZ: Final = 20.0  # order 2 at 80 km/h of a small wheel is near 25 Hz; slower loggers see order 1 only
_TIME: Final = ("time_s", "time", "t", "seconds")
_SPEED: Final = {"speed_kmh": 1 / 3.6, "speed_mps": 1.0, "speed_ms": 1.0, "speed": 1.0, "speed_mph": 0.44704}


class RecordingError(CompassError):
    """Refuse a recording: ``code`` and its figures; the caller makes the words."""

    def __init__(self, code: str, **figures: Any) -> None:
        super().__init__(code)
        self.code = code
        self.figures = figures


@dataclass(frozen=True, slots=True, eq=False)
class Recording:
    """A recording: time (n,) s, acceleration (n, axes) m/s², speed (n,) m/s."""

    time_s: FloatArray
    acceleration: FloatArray
    speed: FloatArray


def read_recording(raw: bytes) -> Recording:
    """Read a CSV with a time column, one to three acceleration columns (a…) and a speed column.

    Raises ``RecordingError`` for anything broken, endless, too short or too slow, and says which.
    """
    if len(raw) > MAX_BYTES:
        raise RecordingError("too_large", megabytes=len(raw) / 1e6)
    try:
        text = io.TextIOWrapper(io.BytesIO(raw), encoding="utf-8-sig", newline="")  # read as it goes, never whole
        names = text.readline()  # below it, commas may be decimal signs
        text.seek(0)
        dialect = csv.excel if names.count(",") >= names.count(";") else _semicolons()
        rows = csv.reader(text, dialect, strict=True)
        head = [name.strip().lower() for name in next(rows, [])]
        if len(head) > _MOST_COLUMNS:
            raise RecordingError("too_many_columns", most=_MOST_COLUMNS)
        time, speed, factor, axes = _columns(head)
        wanted = [time, speed, *axes]
        table = array("d")  # a list of rows would take six times as much
        for number, row in enumerate(rows, start=2):
            if number > MAX_ROWS:
                raise RecordingError("too_many_rows", most=MAX_ROWS)
            if not row:
                continue
            table.extend(_number(row, k, number, head) for k in wanted)
    except UnicodeDecodeError as error:
        raise RecordingError("not_text") from error
    except csv.Error as error:
        raise RecordingError("not_csv", why=str(error)) from error
    values = np.frombuffer(table, dtype=np.float64).reshape(-1, len(wanted))
    recording = Recording(values[:, 0], values[:, 2:], values[:, 1] * factor)
    _refuse_useless(recording)
    return recording


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
    if recording.speed.max() < ROLLING:
        raise RecordingError("stood_still")
    if recording.speed.max() > _FASTEST_MPS:
        raise RecordingError("too_fast", kmh=float(recording.speed.max()) * 3.6, most=_FASTEST_MPS * 3.6)
    # What is analysed is as long as the way, not as the file: a gap or a slip of the unit must not make it endless.
    km = float(np.sum((recording.speed[1:] + recording.speed[:-1]) / 2 * np.diff(t))) / 1000
    if km > _MOST_KM:
        raise RecordingError("too_far", km=km, most=_MOST_KM)
