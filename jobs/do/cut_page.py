"""Context of the cut plan: passes, dial lines, expected readings, the drawn section. Records in, words out."""

from typing import Any, Final

from django.utils.translation import gettext as _

from compass.choose.axle import Chosen
from compass.choose.rules import REASONS
from compass.do.cut_plan import SCRATCH_MEANS, CutPlan, Pass, Scratch, section
from compass.evidence.shop import Lathe as LatheRecord
from compass.ground.units import Unit
from compass.words.codes import SCRATCH
from compass.words.figures import odds_text, plain_text
from drawing.cut_section import CutSection, draw_section
from drawing.gauge import Gauge, draw_gauge
from jobs.choose.axle import AxleChoice
from jobs.do.cut import carried_by, check_failed, chosen_lathe, cuts_of_work, plan_for, refused_by
from jobs.models import Corner, Cut, Job
from jobs.words import about, axle_name
from workshop.adapters import lathe_of
from workshop.addresses import address
from workshop.models import POSITION_NAMES, Lathe, User

CLEAN_ODDS: Final = 0.9  # under which nobody calls a face clean without looking
_GAUGE_WIDTH: Final = 440.0  # as wide as the figures above it


def cut_context(
    user: User, job: Job, corner: Corner, choice: AxleChoice | None, lathes: list[Lathe], *, chosen: str
) -> dict[str, Any]:
    """Return the cut plan of one corner under one lathe."""
    side = choice.corner(corner.position) if choice is not None else None
    mate = next((c for c in job.corners.all() if c.axle == corner.axle and c.pk != corner.pk), None)
    context: dict[str, Any] = {
        "axle": corner.axle,
        "axle_name": axle_name(job.vehicle, corner.axle),
        "name": POSITION_NAMES[corner.position],
        "mate": mate,
        "decided": corner.axle in job.decided,
        "holed": bool({"slotted", "drilled"} & set(corner.limits.features)) if corner.limits is not None else False,
    }
    lathe = chosen_lathe(lathes, corner, asked=chosen)
    if choice is None or side is None or lathe is None:
        return context | {
            "lathes": [],
            "refusal_words": _("No lathe is in the store. Add one with its profile."),
            "plan": None,
        }
    cut = next((c for c in cuts_of_work(corner) if c.lathe_id == lathe.pk), None)
    record = lathe_of(lathe)
    plan = plan_for(side.measured, record, choice.shop, cut)
    unit = user.unit
    context |= {
        "lathe": lathe,
        "lathes": [
            {
                "row": row,
                "url": f"{address('jobs:cut', job.pk, corner.position)}?lathe={row.pk}",
                "here": row == lathe,
            }
            for row in lathes
        ],
        "cut": cut,
        "scratch_words": _(SCRATCH[SCRATCH_MEANS[lathe.kind, Scratch(cut.scratch)]]) if cut and cut.scratch else "",
        "check": _compensation(cut, lathe, side, unit),
        "refusal_words": _refusal(side, lathe, plan, cut),
        "plan": None,
        "large_unit": (unit if unit is Unit.MM else Unit.INCH).value,
        "unit": unit.value,
    }
    if plan is None:
        return context
    drawn, factor = _section(side, record, plan)
    return context | {
        "plan": plan,
        "section": drawn,
        "factor": factor,
        # No dial lines for a disc that no tip may touch.
        "steps": [] if context["refusal_words"] else [_step(ahead, record, unit) for ahead in plan.passes],
        "off": _off(plan, unit),
        "clean": odds_text(plan.odds_clean),
        "is_clean": plan.finished and plan.odds_clean >= CLEAN_ODDS,
        "done_rows": _done(cut, unit),
        "gauge": _gauge(side, plan, unit),
        "least": _large(plan.least_mm[1], unit),
        "least_spread": f"{_large(plan.least_mm[0], unit)}–{_large(plan.least_mm[2], unit)}",
        "machine_to": _large(plan.machine_to_mm, unit),
        "machine_to_given": side.measured.corner.spec.machine_to_thickness_mm is not None,
        "metal_odds": odds_text(plan.odds_metal),
        "total": _fed(plan.out_mm, plan.in_mm, unit),
    }


def _off(plan: CutPlan, unit: Unit) -> str:
    """Say how much less or more came off than was fed; empty where the reading fits."""
    if not plan.off_mm:
        return ""
    shown = about(abs(plan.off_mm), unit, expanded_mm=0.005)
    words = (
        _("%(mm)s %(unit)s less came off than was fed")
        if plan.off_mm > 0
        else _("%(mm)s %(unit)s more came off than was fed")
    )
    return words % {"mm": shown.figure, "unit": shown.unit}


def _large(mm: float, unit: Unit) -> str:
    return about(mm, unit).figure


def _fed(out_mm: float, in_mm: float, unit: Unit) -> str:
    out, inn = about(out_mm, unit, expanded_mm=0.005), about(in_mm, unit, expanded_mm=0.005)
    return _("outboard %(out)s, inboard %(inn)s %(unit)s") % {"out": out.figure, "inn": inn.figure, "unit": out.unit}


def _step(ahead: Pass, lathe: LatheRecord, unit: Unit) -> dict[str, Any]:
    """Return one pass ahead: lines of the knob for each face, and what the micrometer should say after it."""
    low, middle, high = ahead.reading_mm
    faces = []
    for name, mm, lines in (
        (_("outboard"), ahead.out_mm, ahead.out_lines),
        (_("inboard"), ahead.in_mm, ahead.in_lines),
    ):
        fed = about(mm, unit, expanded_mm=0.005)
        faces.append({"name": name, "lines": lines, "fed": f"{fed.figure} {fed.unit}"})
    return {
        "number": ahead.number,
        "finish": ahead.finish,
        "faces": faces,
        "reading": _large(middle, unit),
        "spread": f"{_large(low, unit)}–{_large(high, unit)}",
        "stop": _large(ahead.stop_mm, unit),
    }


def _done(cut: Cut | None, unit: Unit) -> list[dict[str, Any]]:
    if cut is None:
        return []
    return [
        {
            "number": one.number,
            "fed": _fed(one.out_mm, one.in_mm, unit),
            "reading": _large(one.reading_mm, unit) if one.reading_mm is not None else "–",
        }
        for one in cut.passes.all()
        if not one.withdrawn
    ]


def _compensation(cut: Cut | None, lathe: Lathe, side: Chosen, unit: Unit) -> dict[str, Any] | None:
    """Hold the compensation check against what the lathe's profile says it leaves: x·r_cut/L."""
    carried = carried_by(cut, side)
    if carried is None:
        return None
    figure, limit = about(carried, unit, expanded_mm=0.005), plain_text(lathe.runout_left_mm, unit=unit)
    good = not check_failed(cut, lathe, side)
    words = _("carries %(mm)s %(unit)s to the cut, its profile says %(limit)s: ") % {
        "mm": figure.figure,
        "unit": figure.unit,
        "limit": limit.figure,
    }
    return {"good": good, "words": words + (_("good, cut.") if good else _("compensate again before the tip touches."))}


def _refusal(side: Chosen, lathe: Lathe, plan: CutPlan | None, cut: Cut | None) -> str:
    begun = plan is not None and bool(plan.done)
    rule = None if begun else refused_by(side, lathe)
    if rule is None and plan is not None:
        rule = plan.refused
    if rule is None and plan is None:
        rule = "thickness_unknown"
    return refused_words(rule) if rule is not None else ""


def refused_words(reason: str) -> str:
    """Say why no tip may touch a disc, or not any further."""
    if reason == "compensate_again":
        return _("The compensation check failed: compensate again before the tip touches.")
    return _(REASONS[reason]) if reason in REASONS else _("This disc is not cut any further.")


def _gauge(side: Chosen, plan: CutPlan, unit: Unit) -> str:
    """Draw what is left of the metal: discard, what must stay after a cut, what will be left, what is there now."""
    spec, result = side.measured.corner.spec, side.measured.thickness.result
    now = result.minimum.value_mm if result is not None else None
    new = spec.nominal_thickness_mm or max(now or 0.0, plan.machine_to_mm) + 1.0
    labels = {
        "after": _("left %(mm)s") % {"mm": _large(plan.least_mm[1], unit)},
        "least": _("machine-to %(mm)s") % {"mm": _large(plan.machine_to_mm, unit)},
        "new": _("new %(mm)s") % {"mm": _large(new, unit)} if spec.nominal_thickness_mm else "",
    }
    title = _("Metal: %(left)s left after the cut, at least %(least)s must stay, discard at %(discard)s %(unit)s") % {
        "left": _large(plan.least_mm[1], unit),
        "least": _large(plan.machine_to_mm, unit),
        "discard": _large(spec.discard_thickness_mm, unit),
        "unit": (unit if unit is Unit.MM else Unit.INCH).value,
    }
    metal = Gauge(new, now, plan.least_mm, plan.machine_to_mm, spec.discard_thickness_mm)
    return draw_gauge(metal, labels=labels, title=title, width=_GAUGE_WIDTH)


def drawn_section(side: Chosen | None, lathe: Lathe | None, plan: CutPlan | None) -> str:
    """Draw the rotor unrolled with the planes of its passes; empty where its thickness is not known."""
    if side is None or lathe is None or plan is None:
        return ""
    return _section(side, lathe_of(lathe), plan)[0]


def _section(side: Chosen, lathe: LatheRecord, plan: CutPlan) -> tuple[str, int]:
    spec = side.measured.corner.spec
    seen = section(side.measured, lathe, plan)
    if seen is None:
        return "", 0
    labels = {
        "pass": _("pass {number}"),
        "outboard": _("outboard face"),
        "inboard": _("inboard face"),
    }
    drawn = CutSection(
        outboard_mm=seen.outboard_mm,
        inboard_mm=seen.inboard_mm,
        out_mm=seen.out_mm,
        in_mm=seen.in_mm,
        done=len(plan.done),
        studs=spec.studs,
        radius_mm=spec.measuring_radius_mm,
    )
    return draw_section(drawn, labels=labels, title=_("The rotor unrolled: both faces and the planes to be cut"))
