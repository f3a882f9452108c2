"""What was measured, axle by axle: sizes against their limits, where it is high, whose it is. Reads only."""

from typing import Any, Final

from django.utils.translation import gettext as _

from compass.cause.verdict import CornerVerdict
from compass.ground.uncertainty import Estimate
from compass.ground.units import Unit
from compass.words.codes import CAUSES, STATES_OF_A_FIGURE
from compass.words.figures import length_text, plain_text
from compass.words.places import place_text
from compass.words.reasons import sentence
from drawing.against import draw_against
from jobs.judging import JudgedJob
from jobs.models import Corner, Job

# What the figure shows needs no words; a taper nobody asked for is no finding.
_IN_THE_FIGURE: Final = frozenset(
    {
        "runout_stands",
        "minimum_stands",
        "minimum_open",
        "variation_stands",
        "variation_open",
        "hub_carries",
        "rotor_carries",
        "one_radius",
    }
)


def measured_pairs(job: Job, judged: JudgedJob, unit: Unit) -> list[dict[str, Any]]:
    """Return the axles with anything measured, the most suspect first, both sides of each."""
    verdicts = {v.position: v for v in judged.verdicts if v.measured.anything}
    suspected = judged.judged.weighed.corners
    axles: dict[str, list[Corner]] = {}
    for corner in job.corners.all():
        axles.setdefault(corner.axle, []).append(corner)
    shown = {axle: corners for axle, corners in axles.items() if any(c.position in verdicts for c in corners)}
    ranked = sorted(shown.values(), key=lambda corners: -max(suspected.get(c.position, 0.0) for c in corners))
    return [
        {"rows": [_row(c, verdicts.get(c.position), unit, _named(judged, c.position)) for c in corners]}
        for corners in ranked
    ]


def _named(judged: JudgedJob, position: str) -> str:
    """Name what is to blame at a corner, one cause or two that stand together; empty where none is named."""
    named = judged.judged.root_causes.get(position, "not_separable")
    if named in ("not_separable", "none_found"):
        return ""
    causes = [_(CAUSES[code]) for code in (named, *judged.judged.also.get(position, ()))]
    return _(" and ").join(causes)


def _row(corner: Corner, verdict: CornerVerdict | None, unit: Unit, named: str) -> dict[str, Any]:
    if verdict is None:
        return {"name": str(corner), "measured": False}
    measured = verdict.measured
    spec, result = measured.corner.spec, measured.thickness.result
    high = measured.runout.high_deg
    in_order = verdict.root_cause == "none_found"
    return {
        "name": str(corner),
        "measured": True,
        "runout": _size(_("runout"), measured.runout.tir, spec.max_runout_mm, measured.runout.state.value, unit),
        "variation": _size(
            _("variation"),
            result.variation if result is not None else None,
            spec.max_thickness_variation_mm,
            measured.thickness.state_variation.value,
            unit,
        ),
        "thinnest": _thinnest(verdict, unit),
        "high": place_text(high, spec.studs, translate=_) if high is not None else "–",
        "whose": _whose(verdict, unit),
        "named": named,
        "means": [
            sentence(reason, unit=unit, translate=_)
            for reason in verdict.because
            if reason.code not in _IN_THE_FIGURE and not in_order
        ],
    }


def _size(name: str, estimate: Estimate | None, limit_mm: float, state: str, unit: Unit) -> dict[str, str] | None:
    if estimate is None:
        return None
    shown = length_text(estimate.value_mm, unit=unit, expanded_mm=estimate.expanded_mm)
    limit = plain_text(limit_mm, unit=unit)
    figure = f"{shown.figure} ±{shown.plus_minus}"
    title = _("%(name)s %(figure)s %(unit)s, %(state)s, limit %(limit)s") % {
        "name": name,
        "figure": figure,
        "unit": shown.unit,
        "state": _(STATES_OF_A_FIGURE[state]),
        "limit": f"{limit.figure} {limit.unit}",
    }
    bar = draw_against(estimate.value_mm, estimate.expanded_mm, limit_mm, state=state, title=title)
    return {"figure": figure, "unit": shown.unit, "state": state, "words": _(STATES_OF_A_FIGURE[state]), "bar": bar}


def _thinnest(verdict: CornerVerdict, unit: Unit) -> dict[str, str] | None:
    thickness = verdict.measured.thickness
    if thickness.result is None:
        return None
    minimum, state = thickness.result.minimum, thickness.state_discard.value
    shown = length_text(minimum.value_mm, unit=unit, expanded_mm=minimum.expanded_mm)
    limit = plain_text(verdict.measured.corner.spec.discard_thickness_mm, unit=unit)
    text = _("%(state)s discard %(limit)s") if state != "unknown" else _("%(state)s · discard %(limit)s")
    words = text % {"state": _(STATES_OF_A_FIGURE[state]), "limit": limit.figure}
    return {"figure": f"{shown.figure} ±{shown.plus_minus}", "unit": shown.unit, "state": state, "words": words}


def _whose(verdict: CornerVerdict, unit: Unit) -> list[str]:
    """Say what hub and rotor carry of the runout, a line each; one line where they are not told apart."""
    whose = verdict.measured.whose
    said = []
    for name, part in ((_("hub"), whose.hub), (_("rotor"), whose.rotor)):
        if part is not None:
            shown = length_text(part.tir_mm, unit=unit, expanded_mm=part.expanded_mm)
            said.append(f"{name} {shown.figure} ±{shown.plus_minus} {shown.unit}")
    if said:
        return said
    return [_("not told apart yet") if verdict.measured.runout.tir is not None else "–"]
