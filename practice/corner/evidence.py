"""What was noted at the bench as the job's own evidence, so that the core judges it as it judges a job."""

from typing import Any, Final

import numpy as np

from compass.cause.corner import diagnose_corner
from compass.cause.verdict import CornerVerdict
from compass.evidence.records import Corner, Surface, Sweep, ThicknessRound
from compass.simulate.bench import HUB_RADIUS_MM
from practice.corner.standing import DIAL, FEWEST, AtBench

_SURFACES: Final = {"hub": Surface.ROTOR_OUTBOARD, "bare": Surface.HUB_FACE, "arbor": Surface.ARBOR}
_READ_TO: Final = 0.5  # of a division, as a practised eye reads
_MICROMETER_MM: Final = 0.001


def corner_of(bench: AtBench, position: str) -> Corner:
    """Return what was noted at a corner as a record of the core: sweeps by set-up, the newest round of thickness."""
    spec = bench.specs[position]
    rows = [row for row in bench.attempt.noted if row["at"] == position]
    dial = [row for row in rows if row["kind"] == "dial"]
    sets: list[list[Any]] = []
    for row in dial:
        if row["set"] not in sets:
            sets.append(row["set"])
    sweeps = [sweep_of([row for row in dial if row["set"] == one], studs=spec.studs) for one in sets]
    played = [row["mm"] for row in rows if row["kind"] == "play"]
    return Corner(
        position=position,
        spec=spec,
        sweeps=tuple(sweep for sweep in sweeps if sweep is not None),
        thickness=_round([row for row in rows if row["kind"] == "mike"], studs=spec.studs),
        bearing_play_mm=played[-1] if played else None,
        seen=frozenset(bench.exercise.seen if position == bench.exercise.at else ()),
    )


def judged(bench: AtBench, position: str) -> CornerVerdict | None:
    """Return what the core says of what was noted; None where nothing was."""
    corner = corner_of(bench, position)
    return diagnose_corner(corner) if corner.sweeps or corner.thickness is not None else None


def sweep_of(rows: list[dict[str, Any]], *, studs: int) -> Sweep | None:
    """Return the readings of one set-up as a sweep, the first at each place; None with fewer than four places."""
    angles, first = [], {}
    for row in rows:
        if row["deg"] not in first:
            first[row["deg"]] = row["mm"]
            angles.append(row["deg"])
    if len(angles) < FEWEST:
        return None
    back = [row["mm"] for row in rows[FEWEST:] if row["deg"] == angles[0]]
    told, order = rows[-1], np.argsort(angles)
    return Sweep(
        surface=_SURFACES[told["on"]],
        radius_mm=HUB_RADIUS_MM if told["on"] == "bare" else told["radius_mm"],
        stations_deg=np.array(angles)[order],
        readings_mm=np.array([first[angle] for angle in angles])[order],
        graduation_mm=DIAL.graduation_mm,
        read_to=_READ_TO,
        index_deg=360.0 / studs * told["index"] if told["on"] == "hub" else 0.0,
        cleaned=bool(told["clean"]),
        nuts_torqued=bool(told["clamped"]),
        closing_mm=back[-1] if back and angles[0] == min(angles) else None,
    )


def _round(rows: list[dict[str, Any]], *, studs: int) -> ThicknessRound | None:
    """Return the readings of the newest set-up of the micrometer, one radius."""
    if not rows:
        return None
    last = rows[-1]
    newest = {
        row["deg"]: row["mm"]
        for row in rows
        if row["index"] == last["index"] and abs(row["radius_mm"] - last["radius_mm"]) < 1
    }
    if len(newest) < FEWEST:
        return None
    angles = sorted(newest)
    return ThicknessRound(
        stations_deg=np.array(angles),
        radii_mm=np.array([last["radius_mm"]]),
        readings_mm=np.array([[newest[angle] for angle in angles]]),
        graduation_mm=_MICROMETER_MM,
        index_deg=360.0 / studs * last["index"],
    )
