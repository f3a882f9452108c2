"""Looking back on a vehicle: what each corner's disc has lost over distance, and how far it will last. Reads only."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, NamedTuple

from django.utils.translation import gettext as _

from compass.evidence.records import WearRate
from compass.files.read_case import wear_from_data
from compass.ground.positions import axle_of
from compass.ground.units import Unit
from compass.measure.wear_rate import Life, Metal, falls, life, unswept_edge
from compass.words.figures import plain_text
from compass.words.places import between_studs
from drawing.wear_line import WearLine, draw_life
from jobs.adapters import Past as RecordedPast
from jobs.kept import KeptCorner
from jobs.look_fields import read_look
from jobs.models import Corner, Job, RotorFitting
from jobs.odometer import since_changed
from workshop.models import POSITION_NAMES, AxleLimits, Vehicle
from workshop.words import distance_text

_VISITS = 40  # of a vehicle looked back on: more say nothing new of a disc
_FEWEST_DAYS = 14  # between two visits, to tell a daily distance
_NOMINAL_U_MM = 0.06  # a new rotor against the maker's figure: ±0.1 mm, an even bound; our estimate


@dataclass(frozen=True)
class Past:
    """One thickness of the past: metal, the job it came from (None: a fitting), and what it rests on."""

    metal: Metal
    job_id: int | None
    words: str


@dataclass(frozen=True)
class CornerHistory:
    """What one corner's disc has lost and how long it lasts; ``note`` says what the estimate rests on."""

    position: str
    name: str
    past: list[Past]
    life: Life | None
    svg: str
    note: str
    limits: AxleLimits | None

    @property
    def rate_mm(self) -> float | None:
        """Wear each 10,000 km, mm."""
        return None if self.life is None else 10 * self.life.rate_mm

    @property
    def expanded_rate_mm(self) -> float | None:
        """Its expanded uncertainty, mm."""
        return None if self.life is None else 10 * self.life.expanded_rate_mm


def vehicle_history(vehicle: Vehicle, *, unit: Unit) -> list[CornerHistory]:
    """Return the history of every corner of a vehicle, in two queries and the vehicle's limits."""
    return [_told(reckoned, unit) for reckoned in _reckon(vehicle)]


def past_of(job: Job) -> RecordedPast:
    """Return what is on record beside a job's evidence: as an imported case told it, else as the vehicle's history."""
    if "wear" in job.case_rest:
        told = {position: wear_from_data(rate) for position, rate in job.case_rest["wear"].items()}
        return RecordedPast(told, frozenset(job.case_rest.get("plates", ())))
    wear = {
        r.position: WearRate(mm_per_1000_km=r.life.rate_mm, expanded_mm=r.life.expanded_rate_mm)
        for r in _reckon(job.vehicle)
        if r.life is not None and r.life.rate_mm > 0
    }
    fitted = [plate.position for plate in job.vehicle.fitted_plates.all() if not plate.taken_out]
    return RecordedPast(wear, frozenset(fitted))


def daily_km(vehicle: Vehicle) -> float | None:
    """Return what a vehicle drives a day by its own visits; None where they say nothing."""
    visits = vehicle.jobs.filter(odometer_km__isnull=False).order_by("-created_at")[:_VISITS]
    read = since_changed(visits.values_list("created_at", "odometer_km"))
    if len(read) < 2:
        return None
    days = (read[-1][0] - read[0][0]).total_seconds() / 86_400
    return (read[-1][1] - read[0][1]) / days if days >= _FEWEST_DAYS else None


def plates_of(vehicle: Vehicle, *, unit: Unit) -> list[dict[str, Any]]:
    """Return the correction plates on a vehicle's record, newest first."""
    rows = vehicle.fitted_plates.select_related("plate", "created_by").order_by("-pk")
    return [
        {
            "row": row,
            "name": POSITION_NAMES[row.position],
            "plate": plain_text(row.plate.correction_mm, unit=unit),
            "place": between_studs(row.thin_deg, row.plate.studs, translate=_),
            "at": distance_text(row.odometer_km, unit) if row.odometer_km is not None else "",
        }
        for row in rows
    ]


def fittings_of(vehicle: Vehicle, *, unit: Unit) -> list[dict[str, Any]]:
    """Return the rotors fitted that are on a vehicle's record, newest first."""
    rows = vehicle.rotor_fittings.select_related("created_by").order_by("-odometer_km", "-pk")
    return [
        {
            "row": row,
            "name": POSITION_NAMES[row.position],
            "thickness": plain_text(row.thickness_mm, unit=unit),
            "at": distance_text(row.odometer_km, unit),
        }
        for row in rows
    ]


@dataclass(frozen=True)
class _Reckoned:
    position: str
    past: list[Past]
    life: Life | None
    note: str
    fitted_km: int | None
    limits: AxleLimits | None


class _Visit(NamedTuple):
    """What one earlier visit knows of one corner: values only, since a vehicle has many."""

    at: datetime
    position: str
    job_id: int
    odometer_km: int
    verdict: dict[str, Any]
    look: dict[str, str] | None
    look_unit: str | None


def _reckon(vehicle: Vehicle) -> list[_Reckoned]:
    visits = vehicle.jobs.filter(odometer_km__isnull=False).order_by("-created_at")[:_VISITS]
    rows = Corner.on_jobs(visits).order_by("job__odometer_km", "job_id")
    names = ("job__created_at", "position", "job_id", "job__odometer_km", "verdict", "look__typed", "look__unit")
    corners = [_Visit(*row) for row in rows.values_list(*names)]
    fittings = list(vehicle.rotor_fittings.filter(withdrawn=False))
    by_one_clock = since_changed((visit.at, visit.odometer_km) for visit in corners)
    if len(by_one_clock) < len(corners):  # kilometres of another clock are no distance from these
        changed = by_one_clock[0][0]
        corners = [visit for visit in corners if visit.at >= changed]
        fittings = [fitting for fitting in fittings if fitting.created_at >= changed]
    in_force: dict[str, AxleLimits] = {}
    for limits in vehicle.limits.order_by("created_at", "pk"):
        in_force[limits.axle] = limits
    return [
        _reckon_corner(
            position,
            [c for c in corners if c.position == position],
            [f for f in fittings if f.position == position],
            in_force.get(axle_of(position)),
        )
        for position in vehicle.positions
    ]


def _reckon_corner(
    position: str, corners: list[_Visit], fittings: list[RotorFitting], limits: AxleLimits | None
) -> _Reckoned:
    kept_visits = ((visit, KeptCorner.read(visit.verdict)) for visit in corners)
    # Readings that are far apart may put the thinnest place under nothing: that is no metal to count from.
    measured = [_measured(visit, kept) for visit, kept in kept_visits if kept is not None and (kept.min_mm or 0) > 0]
    fitted = max(fittings, key=lambda f: f.odometer_km, default=None)
    note = ""
    past = measured
    if fitted is not None:
        past = [_fitted(fitted), *(m for m in measured if m.metal.distance_km > fitted.odometer_km)]
    elif measured and not falls([m.metal for m in measured]):
        note = _("thickness has grown between two visits: a rotor was fitted. Record it to count from there.")
        return _Reckoned(position, past, None, note, None, limits)
    elif len({m.metal.distance_km for m in measured}) == 1:
        past, note = _from_edge(measured, corners, limits)
    ends = {"discard": limits.discard_thickness_mm} if limits is not None else {}
    if limits is not None and limits.machine_to_thickness_mm:
        ends["machine_to"] = limits.machine_to_thickness_mm
    lasting = life([p.metal for p in past], ends)
    if lasting is None and not note and fitted is None:
        note = _("two thicknesses at two distances are needed")
    return _Reckoned(position, past, lasting, note, fitted.odometer_km if fitted is not None else None, limits)


def _told(r: _Reckoned, unit: Unit) -> CornerHistory:
    note = r.note
    if r.fitted_km is not None:
        note = _("from the rotor fitted at %(at)s") % {"at": distance_text(r.fitted_km, unit)}
    drawn = _draw(r.past, r.life, r.limits, unit)
    return CornerHistory(r.position, str(POSITION_NAMES[r.position]), r.past, r.life, drawn, note, r.limits)


def _measured(visit: _Visit, kept: KeptCorner) -> Past:
    u_mm = kept.min_expanded_mm / 2  # U is about two standard uncertainties
    return Past(Metal(visit.odometer_km, kept.min_mm, u_mm), visit.job_id, _("measured"))


def _fitted(fitting: RotorFitting) -> Past:
    u_mm = 0.002 if fitting.source == RotorFitting.Source.MEASURED else _NOMINAL_U_MM
    return Past(Metal(fitting.odometer_km, fitting.thickness_mm, u_mm), None, str(fitting.get_source_display()))


def _from_edge(measured: list[Past], corners: list[_Visit], limits: AxleLimits | None) -> tuple[list[Past], str]:
    """Start from the unswept edge, else the maker's figure, as if the disc had run since the vehicle was new."""
    edges = [
        read_look(visit.look, Unit(visit.look_unit)).one("edge") for visit in corners if visit.look and visit.look_unit
    ]
    edge = next((mm for mm in reversed(edges) if mm), None)
    if edge is not None:
        original, u_mm = unswept_edge(edge)
        note = _("estimate: original thickness from the unswept edge, run since the vehicle was new at the longest")
    elif limits is not None and limits.nominal_thickness_mm:
        original, u_mm = limits.nominal_thickness_mm, _NOMINAL_U_MM
        note = _("estimate: original thickness by the maker, run since the vehicle was new at the longest")
    else:
        return measured, ""
    return [Past(Metal(0.0, original, u_mm), None, _("original, estimated")), *measured], note


def _draw(past: list[Past], lasting: Life | None, limits: AxleLimits | None, unit: Unit) -> str:
    if not past or limits is None:
        return ""
    line = WearLine(
        points=tuple((p.metal.distance_km, p.metal.thickness_mm) for p in past),
        rate_mm=lasting.rate_mm if lasting is not None else None,
        low_km=lasting.to["discard"].low_km if lasting is not None else None,
        high_km=lasting.to["discard"].high_km if lasting is not None else None,
        discard_mm=limits.discard_thickness_mm,
        machine_to_mm=limits.machine_to_thickness_mm,
        nominal_mm=limits.nominal_thickness_mm,
    )
    labels: dict[str, Any] = {"discard": _("discard"), "machine_to": _("machine-to"), "nominal": _("new")}
    labels["here"] = distance_text(max(p.metal.distance_km for p in past), unit)
    return draw_life(line, labels=labels, title=_("Thickness over distance driven"))
