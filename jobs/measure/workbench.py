"""What the workbench shows of a corner: rows in, drawings and words out. No request, no writing."""

from dataclasses import dataclass
from functools import partial
from typing import Any

from django.utils.translation import gettext as _

from compass.cause.verdict import CornerVerdict
from compass.evidence.records import Sweep as SweepRecord
from compass.ground.units import Unit, from_mm
from compass.measure.sweep import SweepResult, analyse_sweep
from compass.words.codes import REMEDIES, STATES, STATES_OF_A_FIGURE
from compass.words.figures import plain_text
from compass.words.places import place_text
from compass.words.reasons import sentence
from drawing.trace import draw_trace
from jobs.adapters import moved_mm, sweep_record
from jobs.judging import Judged
from jobs.measure.actions import unread
from jobs.measure.doubts import doubtful_thicknesses, standing_alone
from jobs.measure.layers import Curves, Layer, available_layers, draw_layer
from jobs.models import Corner, Sweep, Tape, ThicknessRound
from workshop.adapters import spec_of
from workshop.words import plain_number

_REASONS_OPEN = 4  # more would push the brass act off the screen
_SHOWN_BIG = frozenset({"runout_stands", "minimum_stands", "minimum_open", "variation_stands", "variation_open"})


@dataclass(frozen=True)
class Cell:
    """One cell of the reading tape."""

    slot: int
    label: str
    name: str
    text: str
    closing: bool
    flagged: bool
    wrong: bool
    row_label: str


@dataclass(frozen=True)
class Figure:
    """One big figure: name, value and U in mm, limit in mm with its name, state."""

    name: str
    value_mm: float | None
    expanded_mm: float | None
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
    expanded_mm: float
    place: str


@dataclass(frozen=True)
class Workbench:
    """All that the workbench of one corner draws, for the tape that is open."""

    tape: Tape
    rose: str
    layers: list[Layer]
    view: str
    caption: str
    factor: int
    trace: str
    cells: list[Cell]
    figures: list[Figure]
    reasons: list[str]
    more_reasons: list[str]
    remedy: str | None
    high: str | None
    high_mm: float | None
    high_expanded_mm: float | None
    parts: list[tuple[str, float]]
    vectors: list[Carried]
    do_not_drive: bool
    turn: int
    turned: bool
    notes: list[str]
    provisional: bool


def build(
    corner: Corner,
    tape: Tape,
    *,
    judged: Judged,
    unit: Unit,
    current: int = 0,
    view: str = "",
) -> Workbench:
    """Draw a corner with limits that has been judged, and put its verdict into words."""
    spec = spec_of(corner.limits)
    sweeps, verdict = judged.sweeps, judged.verdict
    turns = _turns(tape, sweeps)
    result = _result_of(turns, sweeps, verdict, spec)
    curves = Curves.of(judged, turns, result, spec=spec)
    layers = available_layers(judged, view=view)
    view = next(layer.code for layer in layers if layer.here)
    stations = tuple(tape.stations_deg)
    at = current if current < len(stations) else 0
    drawn = draw_layer(view, curves, judged, spec=spec, tape=tape, at=at, unit=unit, title=_rose_title(corner, verdict))
    rose, factor, caption = drawn.svg, drawn.factor, drawn.caption
    sweeping = isinstance(tape, Sweep)
    swept = curves.installed if view == "joint" and curves.installed is not None else curves.runout
    trace = draw_trace(
        swept if sweeping else curves.thickness,
        studs=spec.studs,
        stations=len(stations),
        title=_("Runout unrolled over one turn") if sweeping else _("Thickness unrolled over one turn"),
        mark_label=_("high") if sweeping else _("thin"),
        before=curves.before if sweeping and view == "joint" else None,
    )
    words = partial(sentence, unit=unit, translate=_)
    reasons = [words(reason) for reason in verdict.because if reason.code not in _SHOWN_BIG]
    estimate = verdict.measured.runout.tir
    return Workbench(
        tape=tape,
        rose=rose,
        layers=layers,
        view=view,
        caption=caption,
        factor=factor,
        trace=trace,
        cells=_cells(tape, result if isinstance(tape, Sweep) else None, unit),
        figures=_figures(verdict, spec),
        reasons=reasons[:_REASONS_OPEN],
        more_reasons=reasons[_REASONS_OPEN:],
        remedy=None if verdict.recommended is None else _(REMEDIES.get(verdict.recommended, verdict.recommended)),
        high=None
        if verdict.measured.runout.high_deg is None
        else place_text(verdict.measured.runout.high_deg, spec.studs, translate=_),
        high_mm=None if estimate is None else estimate.value_mm,
        high_expanded_mm=None if estimate is None else estimate.expanded_mm,
        parts=_parts(result),
        vectors=_vectors(verdict, spec.studs),
        do_not_drive=verdict.do_not_drive,
        turn=len(turns),
        turned=tape.index_deg != 0,
        notes=_notes(tape, unit),
        provisional=bool(verdict.provisional),
    )


def _turns(tape: Tape, sweeps: list[Sweep]) -> list[Sweep]:
    """Return the turns the drawing shows: those of the open set-up, or of the last one when miking."""
    shown = tape if isinstance(tape, Sweep) else next((s for s in reversed(sweeps) if not s.struck), None)
    return [] if shown is None else [s for s in sweeps if s.set_up == shown.set_up and s.struck == shown.struck]


def _result_of(turns: list[Sweep], sweeps: list[Sweep], verdict: CornerVerdict, spec: Any) -> SweepResult | None:
    records = [record for record in map(sweep_record, turns) if record.readings_mm.size]
    if not records:
        return None
    for analysed in verdict.measured.analysed:
        if isinstance(analysed.evidence, SweepRecord) and analysed.evidence.same_conditions(records[0]):
            return analysed.result
    return analyse_sweep(records, spec=spec)


def _vectors(verdict: CornerVerdict, studs: int) -> list[Carried]:
    """Return what hub and rotor carry, for the legend of the triangle; empty while they cannot be told apart."""
    whose = verdict.measured.whose
    parts = (("hub", _("hub"), whose.hub), ("rotor", _("rotor"), whose.rotor), ("joint", _("joint"), whose.joint))
    return [
        Carried(kind, name, part.tir_mm, part.expanded_mm, place_text(part.high_deg, studs, translate=_))
        for kind, name, part in parts
        if part is not None and (kind != "joint" or part.tir_mm > part.expanded_mm)
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


def _cells(tape: Tape, result: SweepResult | None, unit: Unit) -> list[Cell]:
    """Return the cells; a reading the core says stands alone, or is of no such disc, is flagged: to be read again."""
    stations = len(tape.stations_deg)
    jumps = {round(angle, 3) for angle in result.jumps_deg} if result is not None and isinstance(tape, Sweep) else set()
    flagged = {k for k, angle in enumerate(tape.stations_deg) if round(angle % 360, 3) in jumps}
    if isinstance(tape, ThicknessRound) and tape.pk:
        flagged = doubtful_thicknesses(tape) | standing_alone(tape)
    wrong = unread(tape)
    return [
        Cell(
            slot=slot,
            label=_cell_label(tape, slot),
            name=_cell_name(tape, slot, unit),
            text=text,
            closing=isinstance(tape, Sweep) and slot >= stations,
            flagged=slot in flagged,
            wrong=slot in wrong,
            row_label=_row_label(tape, slot, unit),
        )
        for slot, text in enumerate(tape.typed)
    ]


def _cell_label(tape: Tape, slot: int) -> str:
    stations = len(tape.stations_deg)
    if isinstance(tape, ThicknessRound):
        return str(slot % stations + 1)
    return _("back at 1") if slot >= stations else str(slot + 1)


def _cell_name(tape: Tape, slot: int, unit: Unit) -> str:
    """Name the cell in full, for who does not see where it stands."""
    stations = len(tape.stations_deg)
    if not isinstance(tape, ThicknessRound):
        named = {"n": slot + 1}
        return _("back at station 1, runout") if slot >= stations else _("station %(n)s, runout") % named
    if len(tape.radii_mm) == 1:
        return _("station %(n)s, thickness") % {"n": slot % stations + 1}
    radius = plain_text(tape.radii_mm[slot // stations], unit=unit)
    return _("station %(n)s, thickness at radius %(r)s %(unit)s") % {
        "n": slot % stations + 1,
        "r": radius.figure,
        "unit": radius.unit,
    }


def _row_label(tape: Tape, slot: int, unit: Unit) -> str:
    """Name the radius above its first cell, where thickness is taken at several."""
    stations = len(tape.stations_deg)
    if not isinstance(tape, ThicknessRound) or len(tape.radii_mm) == 1 or slot % stations:
        return ""
    radius = plain_text(tape.radii_mm[slot // stations], unit=unit)
    return f"r {radius.figure} {radius.unit}"


def _figures(verdict: CornerVerdict, spec: Any) -> list[Figure]:
    thickness = verdict.measured.thickness.result
    rows = (
        (
            _("Lateral runout"),
            verdict.measured.runout.tir,
            _("limit"),
            spec.max_runout_mm,
            verdict.measured.runout.state,
        ),
        (
            _("Thickness variation"),
            thickness.variation if thickness else None,
            _("limit"),
            spec.max_thickness_variation_mm,
            verdict.measured.thickness.state_variation,
        ),
        (
            _("Thinnest"),
            thickness.minimum if thickness else None,
            _("discard"),
            spec.discard_thickness_mm,
            verdict.measured.thickness.state_discard,
        ),
    )
    return [
        Figure(
            name=name,
            value_mm=None if estimate is None else estimate.value_mm,
            expanded_mm=None if estimate is None else estimate.expanded_mm,
            limit_name=limit_name,
            limit_mm=limit_mm,
            state=state.value,
            state_words=_((STATES if estimate is None else STATES_OF_A_FIGURE)[state.value]),
        )
        for name, estimate, limit_name, limit_mm, state in rows
    ]


def _notes(tape: Tape, unit: Unit) -> list[str]:
    """Say what a bare number on this tape means, and what was brought round."""
    notes = []
    if tape.unit is Unit.DIVISION:
        step = plain_number(round(from_mm(tape.graduation_mm, unit), 4))
        notes = [_("divisions of %(step)s %(unit)s") % {"step": step, "unit": unit.value}]
    else:
        notes = [str(Tape.EntryUnit(tape.entry_unit).label)]
    brought = moved_mm(tape).unwrapped if isinstance(tape, Sweep) else ()
    if brought:
        stations = ", ".join(_cell_label(tape, slot) for slot in brought)
        notes.append(_("continuous dial: brought round at %(stations)s") % {"stations": stations})
    return notes


def _rose_title(corner: Corner, verdict: CornerVerdict) -> str:
    if verdict.measured.runout.high_deg is None or corner.limits is None:
        return _("%(corner)s: the disc as seen from outside, runout not measured yet") % {"corner": corner}
    place = place_text(verdict.measured.runout.high_deg, corner.limits.studs, translate=_)
    return _("%(corner)s: the disc as seen from outside, high spot at %(place)s") % {
        "corner": corner,
        "place": place,
    }
