"""Rows of this app into records of the core: the only place that maps one to the other."""

from collections.abc import Iterable

import numpy as np

from compass.evidence import Corner as CornerRecord
from compass.evidence import Surface
from compass.evidence import Sweep as SweepRecord
from compass.evidence import ThicknessRound as ThicknessRecord
from jobs.models import Corner, Sweep, ThicknessRound
from workshop.adapters import spec_of


def sweep_record(sweep: Sweep) -> SweepRecord:
    """Return a sweep as evidence; stations not read are left out."""
    pairs = station_readings(sweep)
    return SweepRecord(
        surface=Surface(sweep.surface),
        radius_mm=sweep.radius_mm,
        stations_deg=np.array([angle for angle, _ in pairs]),
        readings_mm=np.array([z for _, z in pairs]),
        graduation_mm=sweep.graduation_mm,
        read_to=sweep.read_to,
        index_deg=sweep.index_deg,
        cleaned=sweep.cleaned,
        nuts_torqued=sweep.nuts_torqued,
        instrument_error_mm=sweep.instrument_error_mm,
        # The way back can only be judged against a first reading.
        closing_mm=sweep.readings_mm[-1] if sweep.readings_mm[0] is not None else None,
    )


def thickness_record(measured: ThicknessRound) -> ThicknessRecord | None:
    """Return a round as evidence, or None while nothing was read; a station not read at all radii is left out."""
    rows = np.array([[np.nan if t is None else t for t in measured.readings_mm]], dtype=np.float64).reshape(
        len(measured.radii_mm), len(measured.stations_deg)
    )
    whole = np.isfinite(rows).all(axis=0)
    if not whole.any():
        return None
    return ThicknessRecord(
        stations_deg=np.array(measured.stations_deg)[whole],
        radii_mm=np.array(measured.radii_mm),
        readings_mm=rows[:, whole],
        graduation_mm=measured.graduation_mm,
        instrument_error_mm=measured.instrument_error_mm,
        index_deg=measured.index_deg,
    )


def corner_record(corner: Corner, *, sweeps: Iterable[Sweep], rounds: Iterable[ThicknessRound]) -> CornerRecord | None:
    """Return a corner's evidence, or None while it has no limits. The newest thickness round with readings counts."""
    if corner.limits is None:
        return None
    measured = [record for record in map(thickness_record, rounds) if record is not None]
    return CornerRecord(
        position=corner.position,
        spec=spec_of(corner.limits),
        sweeps=tuple(record for record in map(sweep_record, sweeps) if record.readings_mm.size),
        thickness=measured[-1] if measured else None,
    )


def station_readings(sweep: Sweep) -> list[tuple[float, float]]:
    """Return (hub angle, reading mm) of the stations that were read, without the way back."""
    return [
        (angle, z)
        for angle, z in zip(sweep.stations_deg, sweep.readings_mm[: len(sweep.stations_deg)], strict=True)
        if z is not None
    ]


def round_readings(measured: ThicknessRound) -> list[tuple[float, float]]:
    """Return (hub angle, thickness mm) of the first radius."""
    count = len(measured.stations_deg)
    return [
        (angle, t)
        for angle, t in zip(measured.stations_deg, measured.readings_mm[:count], strict=True)
        if t is not None
    ]
