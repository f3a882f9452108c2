"""The lanes of an axle as rows of a page: words, figures and drawings of one remedy each. Records in, words out."""

from collections.abc import Mapping
from typing import Any, Final

from django.utils.translation import gettext as _

from compass.cause.causes import Cause
from compass.choose.axle import Chosen, Lane
from compass.choose.remedies.comeback import NEVER_KM
from compass.choose.remedies.outcome import Remedy
from compass.ground.limits import State
from compass.ground.units import KM_PER_MILE, Unit
from compass.words.codes import remedy_name
from compass.words.figures import odds_text
from drawing.gauge import Gauge, draw_gauge
from drawing.lane import LaneTrace, draw_lane_trace
from jobs.choose.axle import AxleChoice
from jobs.words import about, money_text, setting_words
from workshop.models import POSITION_NAMES
from workshop.words import about_km, distance_text

_WHOSE_EVER: Final = (
    "none",
    "clean_and_torque",
    "plate",
    "on_vehicle_cut",
    "new_rotors+on_vehicle_cut",
)  # hub's or rotor's
_REACH_MM: Final = 0.03  # the least that half a lane's height shows


def lane_rows(
    choice: AxleChoice, unit: Unit, currency: str, *, decided: Mapping[str, str | None]
) -> list[dict[str, Any]]:
    """Return the lanes that are open, best first; ``decided`` is what is decided, by position. One is picked."""
    open_lanes = [lane for lane in choice.lanes if lane.feasible]
    reach = _reach(choice, open_lanes)
    advised = choice.advised
    stands = next((lane.code for lane in open_lanes if lane.code == decided.get(lane.lead)), None)
    return [
        {
            "number": number,
            "code": lane.code,
            "name": _(remedy_name(lane.code, lane.lead)),
            "note": _note(choice, lane, unit),
            "others": _other_sides(choice, lane),
            "trace": _trace(choice, lane, reach),
            "odds": _odds(lane.own.odds_within),
            "rough": _is_rough(choice, lane),
            "gauge": _gauge(choice, lane, unit),
            "metal_odds": _metal_odds(lane),
            "price": money_text(lane.price, currency),
            "minutes": round(lane.minutes),
            "km": _km_text(lane, unit),
            "per": _per_distance(lane, unit, currency),
            "advised": advised is not None and lane.code == advised.code,
            "decided": lane.code == stands,
            "picked": lane.code == stands if stands is not None else number == 1,
            "turns": lane.code in ("index", "plate"),
            "words": f"{_(remedy_name(lane.code, lane.lead))} · {money_text(lane.price, currency)}",
        }
        for number, lane in enumerate(open_lanes, start=1)
    ]


def _reach(choice: AxleChoice, lanes: list[Lane]) -> float:
    """Return what half a lane's height shows, mm: the largest of what was and what would be."""
    lead = choice.lanes[0].lead
    corner = choice.corner(lead)
    sizes = [_REACH_MM]
    if corner is not None:
        sizes.append(0.7 * corner.measured.corner.spec.max_runout_mm)
        before = _before(corner)
        if before is not None and before.size:
            sizes.append(float(abs(before).max()) * 1.05)
    sizes += [lane.own.runout_mm[2] / 2 for lane in lanes if lane.own.runout_mm is not None]
    return max(sizes)


def _before(corner: Chosen) -> Any:
    stays = next((r for r in corner.remedies if r.code == "none"), None)
    return stays.trace_mm if stays is not None else None


def _trace(choice: AxleChoice, lane: Lane, reach: float) -> str:
    corner = choice.corner(lane.lead)
    before = _before(corner) if corner is not None else None
    if corner is None or before is None:
        return ""
    trace = LaneTrace(before, lane.own.trace_mm, lane.own.runout_mm, corner.measured.corner.spec.max_runout_mm)
    return draw_lane_trace(trace, reach_mm=reach, title=_("Runout before (dashed) and after, over one turn"))


def _is_rough(choice: AxleChoice, lane: Lane) -> bool:
    """Whether the odds hang on whose the runout is while nobody knows that yet."""
    corner = choice.corner(lane.lead)
    return lane.code not in _WHOSE_EVER and corner is not None and not corner.measured.whose.told_apart


def _odds(within: float | None) -> dict[str, Any] | None:
    if within is None:
        return None
    return {"text": odds_text(within), "marks": [k < round(within * 20) for k in range(20)]}


def _other_sides(choice: AxleChoice, lane: Lane) -> list[str]:
    """Say what every other side gets, that it waits for this one, or that it is still to be measured."""
    words = []
    for corner in choice.corners:
        name, remedy = POSITION_NAMES[corner.position], lane.remedies.get(corner.position)
        if corner.position == lane.lead:
            continue
        if remedy is None and lane.lead in choice.plan.waits_for:
            words.append(_("%(name)s: waits for that") % {"name": name})
        elif remedy is None:
            words.append(_("%(name)s: still to be measured") % {"name": name})
        elif remedy.code == lane.code and remedy.odds_within is not None:
            words.append(_("%(name)s: %(odds)s within") % {"name": name, "odds": odds_text(remedy.odds_within)})
        else:
            words.append(f"{name}: {_(remedy_name(remedy.code, corner.position))}")
    return words


def _metal_side(choice: AxleChoice, lane: Lane) -> tuple[str, Remedy] | None:
    """Return the side with the least metal left over what must stay."""
    odds = [
        (r.thickness_mm[0] - corner.measured.corner.spec.discard_thickness_mm, p, r)
        for p, r in lane.remedies.items()
        if r.thickness_mm is not None and (corner := choice.corner(p)) is not None
    ]
    if not odds:
        return None
    _spare, position, remedy = min(odds, key=lambda item: item[0])
    return position, remedy


def _gauge(choice: AxleChoice, lane: Lane, unit: Unit) -> str:
    side = _metal_side(choice, lane)
    corner = choice.corner(side[0] if side is not None else lane.lead)
    if side is None or corner is None:
        return ""
    spec, after = corner.measured.corner.spec, side[1].thickness_mm
    result = corner.measured.thickness.result
    minimum = result.minimum if result is not None else None
    least = spec.machine_to_thickness_mm if "cut" in lane.code else None
    least_name = _("machine-to") if least is not None else _("discard")
    nominal = spec.nominal_thickness_mm or max(after[2] if after else 0.0, minimum.value_mm if minimum else 0.0)

    def say(mm: float) -> str:
        return about(mm, unit).figure

    labels = {
        "after": say(after[1]) if after else "",
        "least": f"{least_name} {say(least or spec.discard_thickness_mm)}",
        "new": _("new %(mm)s") % {"mm": say(nominal)},
    }
    gauge = Gauge(nominal, minimum.value_mm if minimum else None, after, least, spec.discard_thickness_mm)
    low, high = (say(after[0]), say(after[2])) if after else ("", "")
    title = _("%(corner)s: metal left %(low)s to %(high)s") % {
        "corner": POSITION_NAMES[side[0]],
        "low": low,
        "high": high,
    }
    return draw_gauge(gauge, labels=labels, title=title)


def _metal_odds(lane: Lane) -> str:
    odds = [r.odds_metal for r in lane.remedies.values() if r.odds_metal is not None]
    return _("metal %(odds)s") % {"odds": odds_text(min(odds))} if odds else ""


def _km_text(lane: Lane, unit: Unit) -> dict[str, str]:
    """Say the distance to the next complaint: an estimate, and never more than two figures of it."""
    distances = [r.comeback.middle_km for r in lane.remedies.values() if r.comeback is not None]
    if not distances:
        return {"figure": "–", "unit": ""}
    km = min(distances)
    if km >= NEVER_KM:
        return {"figure": _("lasts"), "unit": _("no comeback foreseen")}
    figure, _space, name = distance_text(about_km(km, unit), unit).rpartition(" ")
    return {"figure": figure, "unit": _("%(km)s to next") % {"km": name}}


def _per_distance(lane: Lane, unit: Unit, currency: str) -> str:
    rates = [r.per_1000_km for r in lane.remedies.values() if r.per_1000_km is not None]
    if len(rates) < len(lane.remedies):
        return ""
    if unit is Unit.THOU:
        return _("%(money)s / 1,000 mi") % {"money": money_text(sum(rates) * KM_PER_MILE, currency)}
    return _("%(money)s / 1,000 km") % {"money": money_text(sum(rates), currency)}


def _note(choice: AxleChoice, lane: Lane, unit: Unit) -> str:
    """Say what is done in a lane, what was tried in vain before, and what it leaves as it is."""
    corner = choice.corner(lane.lead)
    if corner is None:
        return ""
    notes = [_what_is_done(corner, lane, unit)]
    if lane.code == "index" and lane.own.settings.get("index_deg") and corner.measured.corner.turned_before:
        notes.append(_("turned before and read over again: odds lowered"))
    if corner.corner.root_cause == Cause.BENT and lane.code != "hub_unit":
        notes.append(_("the hub stays bent, and the wheel on it"))
    return " · ".join(note for note in notes if note)


def _what_is_done(corner: Chosen, lane: Lane, unit: Unit) -> str:
    spec, settings = corner.measured.corner.spec, lane.own.settings
    hub = corner.measured.whose.hub
    notes = {
        "none": _("leave it as it is"),
        "clean_and_torque": _("to bright metal, all nuts in star order, then sweep again"),
        "new_rotors": _("on the hub as it is, at whatever angle they come"),
        "new_rotors+index": _("sweep as fitted, then the best of %(n)s positions") % {"n": len(spec.positions_deg)},
        "new_rotors+plate": _("taper and place as measured when fitted"),
        "bench_cut+plate": _("true the rotor, measure as fitted, then tilt it back"),
        "hub_unit": _("then measure again before anything else"),
    }
    if lane.code in ("index", "plate"):
        return setting_words(settings, spec.studs, unit)
    if "cut_out_mm" in settings:
        out, inn = (about(settings[name], unit) for name in ("cut_out_mm", "cut_in_mm"))
        fed = _("%(out)s + %(inn)s %(unit)s off the faces") % {"out": out.figure, "inn": inn.figure, "unit": out.unit}
        where = {
            "on_vehicle_cut": _("true to this hub"),
            "bench_cut": _("true on the arbor, the hub stays"),
            "bench_cut+plate": notes["bench_cut+plate"],
        }.get(lane.code, _("true to this hub"))
        return f"{where} · {fed}"
    note = notes.get(lane.code, "")
    if lane.code == "hub_unit" and corner.measured.thickness.state_variation is State.OVER:
        return _("then measure again: the disc is still uneven, and is cut or renewed on its new hub")
    hub_over = hub is not None and (corner.measured.hub_state is State.OVER or hub.tir_mm > spec.max_runout_mm)
    if lane.code == "new_rotors" and hub is not None and hub_over:
        figure = about(hub.tir_mm, unit)
        return _("the hub alone carries %(hub)s %(unit)s: a new rotor hides that only by luck") % {
            "hub": figure.figure,
            "unit": figure.unit,
        }
    return note
