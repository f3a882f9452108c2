"""What the workbench shows of a corner: rows in, drawings and words out. No request, no writing."""

import cmath
import math
from dataclasses import dataclass
from functools import partial
from typing import Any

from django.utils.translation import gettext as _

from compass.diagnose import CornerVerdict
from compass.sweep import SweepResult, analyse_sweep
from compass.units import Unit, from_mm
from compass.wording import REMEDIES, STATES, place_text, sentence
from drawing.curves import runout_curve, thickness_curve
from drawing.rose import Rose, draw_rose
from drawing.trace import draw_trace
from jobs.actions import Judged
from jobs.adapters import round_readings, station_readings, sweep_record
from jobs.models import Corner, Sweep, Tape
from workshop.adapters import spec_of

_SHOWN_BIG = frozenset({"runout_stands", "minimum_stands", "variation_stands"})


@dataclass(frozen=True)
class Cell:
    """One cell of the reading tape."""

    slot: int
    label: str
    text: str
    closing: bool


@dataclass(frozen=True)
class Figure:
    """One big figure: name, value and U in mm, limit in mm with its name, state."""

    name: str
    value_mm: float | None
    u_mm: float | None
    limit_name: str
    limit_mm: float
    state: str
    state_words: str


@dataclass(frozen=True)
class Carried:
    """What hub or rotor carries of the runout: TIR and U in mm, and where it is high."""

    kind: str
    name: str
    tir_mm: float
    u_mm: float
    place: str


@dataclass(frozen=True)
class Workbench:
    """All that the workbench of one corner draws, for the tape that is open."""

    tape: Tape
    rose: str
    factor: int
    trace: str
    cells: list[Cell]
    figures: list[Figure]
    reasons: list[str]
    remedy: str | None
    high: str | None
    high_mm: float | None
    high_u_mm: float | None
    parts: list[tuple[str, float]]
    vectors: list[Carried]
    do_not_drive: bool
    turn: int
    turned: bool
    notes: list[str]


def build(
    corner: Corner,
    tape: Tape,
    *,
    judged: Judged,
    unit: Unit,
    current: int = 0,
) -> Workbench:
    """Draw a corner with limits that has been judged, and put its verdict into words."""
    spec = spec_of(corner.limits)
    sweeps, rounds, verdict = judged.sweeps, judged.rounds, judged.verdict
    turns = _turns(tape, sweeps)
    result = _result_of(turns, sweeps, verdict, spec)
    shown_state = verdict.runout.state.value
    runout = runout_curve(
        result, [station_readings(t) for t in turns if station_readings(t)], spec=spec, state=shown_state
    )
    thickness = verdict.thickness
    last_round = next((r for r in reversed(rounds) if not r.is_empty), None)
    ring = thickness_curve(
        thickness.result,
        round_readings(last_round) if last_round else [],
        spec=spec,
        state=thickness.state_variation.value,
    )
    whose = verdict.whose
    stations = tuple(tape.stations_deg)
    at = current if current < len(stations) else 0
    rose, factor = draw_rose(
        Rose(
            spec=spec,
            stations_deg=stations,
            runout=runout,
            thickness=ring,
            at_deg=stations[at],
            current=at,
            hub=whose.hub.vector if whose.hub else None,
            rotor=_turned(whose.rotor.vector, tape.index_deg) if whose.rotor else None,
        ),
        title=_rose_title(corner, verdict),
    )
    sweeping = isinstance(tape, Sweep)
    trace = draw_trace(
        runout if sweeping else ring,
        studs=spec.studs,
        stations=len(stations),
        title=_("Runout unrolled over one turn") if sweeping else _("Thickness unrolled over one turn"),
        mark_label=_("high") if sweeping else _("thin"),
    )
    words = partial(sentence, unit=unit, translate=_)
    estimate = verdict.runout.tir
    return Workbench(
        tape=tape,
        rose=rose,
        factor=factor,
        trace=trace,
        cells=_cells(tape),
        figures=_figures(verdict, spec),
        reasons=[words(reason) for reason in verdict.because if reason.code not in _SHOWN_BIG],
        remedy=None if verdict.recommended is None else _(REMEDIES.get(verdict.recommended, verdict.recommended)),
        high=None if verdict.runout.high_deg is None else place_text(verdict.runout.high_deg, spec.studs, translate=_),
        high_mm=None if estimate is None else estimate.value_mm,
        high_u_mm=None if estimate is None else estimate.u_mm,
        parts=_parts(result),
        vectors=_vectors(verdict, spec.studs),
        do_not_drive=verdict.do_not_drive,
        turn=len(turns),
        turned=tape.index_deg != 0,
        notes=_notes(tape, unit),
    )


def _turns(tape: Tape, sweeps: list[Sweep]) -> list[Sweep]:
    """Return the turns the drawing shows: those of the open set-up, or of the last one when miking."""
    shown = tape if isinstance(tape, Sweep) else (sweeps[-1] if sweeps else None)
    return [] if shown is None else [s for s in sweeps if s.set_up == shown.set_up]


def _result_of(turns: list[Sweep], sweeps: list[Sweep], verdict: CornerVerdict, spec: Any) -> SweepResult | None:
    records = [record for record in map(sweep_record, turns) if record.readings_mm.size]
    if not records:
        return None
    if len({s.set_up for s in sweeps}) == 1:
        return verdict.runout.sweep
    return analyse_sweep(records, spec=spec)


def _turned(vector: complex, index_deg: float) -> complex:
    """Return a rotor's vector as it stands when the rotor has been turned on by ``index_deg``."""
    return vector * cmath.rect(1.0, math.radians(index_deg))


def _vectors(verdict: CornerVerdict, studs: int) -> list[Carried]:
    """Return what hub and rotor carry, for the legend of the triangle; empty while they cannot be told apart."""
    whose = verdict.whose
    if whose.hub is None or whose.rotor is None:
        return []
    return [
        Carried(kind, name, part.tir_mm, part.u_mm, place_text(part.high_deg, studs, translate=_))
        for kind, name, part in (("hub", _("hub"), whose.hub), ("rotor", _("rotor"), whose.rotor))
    ]


def _parts(result: SweepResult | None) -> list[tuple[str, float]]:
    """Return what the runout is made of, name and mm: wobble, saddle, the plain range, the closing error."""
    if result is None:
        return []
    parts = (
        (_("wobble"), result.wobble_mm),
        (_("saddle"), result.saddle_mm),
        (_("as read"), result.station_range_mm),
        (_("back at 1 off by"), result.closing_error_mm),
    )
    return [(name, value) for name, value in parts if value is not None]


def _cells(tape: Tape) -> list[Cell]:
    stations = len(tape.stations_deg)
    return [
        Cell(
            slot=slot,
            label=_("back at 1") if slot >= stations else str(slot % stations + 1),
            text=text,
            closing=slot >= stations,
        )
        for slot, text in enumerate(tape.typed)
    ]


def _figures(verdict: CornerVerdict, spec: Any) -> list[Figure]:
    thickness = verdict.thickness.result
    rows = (
        (_("Lateral runout"), verdict.runout.tir, _("limit"), spec.max_runout_mm, verdict.runout.state),
        (
            _("Thickness variation"),
            thickness.variation if thickness else None,
            _("limit"),
            spec.max_thickness_variation_mm,
            verdict.thickness.state_variation,
        ),
        (
            _("Thinnest"),
            thickness.minimum if thickness else None,
            _("discard"),
            spec.discard_thickness_mm,
            verdict.thickness.state_discard,
        ),
    )
    return [
        Figure(
            name=name,
            value_mm=None if estimate is None else estimate.value_mm,
            u_mm=None if estimate is None else estimate.u_mm,
            limit_name=limit_name,
            limit_mm=limit_mm,
            state=state.value,
            state_words=_(STATES[state.value]),
        )
        for name, estimate, limit_name, limit_mm, state in rows
    ]


def _notes(tape: Tape, unit: Unit) -> list[str]:
    """Say what a bare number on this tape means."""
    if tape.unit is Unit.DIVISION:
        step = from_mm(tape.graduation_mm, unit)
        return [_("divisions of %(step)s %(unit)s") % {"step": f"{step:.4f}".rstrip("0"), "unit": unit.value}]
    return [str(Tape.EntryUnit(tape.entry_unit).label)]


def _rose_title(corner: Corner, verdict: CornerVerdict) -> str:
    if verdict.runout.high_deg is None or corner.limits is None:
        return _("%(corner)s: the disc as seen from outside, runout not measured yet") % {"corner": corner}
    place = place_text(verdict.runout.high_deg, corner.limits.studs, translate=_)
    return _("%(corner)s: the disc as seen from outside, high spot at %(place)s") % {
        "corner": corner,
        "place": place,
    }
