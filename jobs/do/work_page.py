"""The chosen work of one corner, step by step, with the figures of its plan in words. Reads only."""

from collections.abc import Mapping
from typing import Any, Final

from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from compass.choose.axle import Chosen
from compass.do.cut_plan import CutPlan
from compass.do.steps import CAUTIONS, Kind, Work
from compass.do.work import Figure, PlacedStep, figures_of_corner, procedure
from compass.ground.units import Unit
from compass.words.codes import remedy_name
from compass.words.places import between_studs
from jobs.choose.axle import AxleChoice, axle_name, decisions_of
from jobs.do.cut import chosen_lathe, plan_for
from jobs.models import Corner, Decision, Job
from jobs.words import about
from workshop.adapters import lathe_of
from workshop.addresses import address
from workshop.models import POSITION_NAMES, Lathe, User
from workshop.words import torque_text

_LATHES: Final = {"bench_cut": "bench", "on_vehicle_cut": "on_vehicle"}
_MARKS: Final = {Kind.HOLD: "◆", Kind.MEASURE: "◇"}
# What is asked for at a step where nobody has said it.
_ASKED: Final = {
    "torque wheel": gettext_lazy("torque of the wheel nuts"),
    "torque caliper": gettext_lazy("torque of the caliper"),
    "torque bracket": gettext_lazy("torque of the bracket"),
    "torque hose_fitting": gettext_lazy("torque of the hose fitting"),
    "torque axle": gettext_lazy("torque of the axle"),
    "torque disc_bolts": gettext_lazy("torque of the disc's bolts"),
    "torque hub_nut": gettext_lazy("torque of the hub nut"),
    "runout_after": gettext_lazy("runout to expect"),
    "after_pass": gettext_lazy("reading to expect"),
    "stop": gettext_lazy("reading to stop at"),
    "out_lines": gettext_lazy("lines outboard"),
    "in_lines": gettext_lazy("lines inboard"),
    "feed": gettext_lazy("feed"),
    "compensated": gettext_lazy("what the lathe may read"),
    "play": gettext_lazy("play to expect"),
    "hub_runout": gettext_lazy("runout of the hub to expect"),
    "plate": gettext_lazy("taper of the plate"),
    "plate_place": gettext_lazy("where its thin side stands"),
}
_PARTS: Final = {
    "opening": gettext_lazy("Open"),
    "cleaning": gettext_lazy("Clean"),
    "hub": gettext_lazy("Hub or bearing"),
    "bench": gettext_lazy("On the bench"),
    "new rotors": gettext_lazy("New rotors"),
    "index": gettext_lazy("Turn"),
    "new index": gettext_lazy("Turn"),
    "plate": gettext_lazy("Plate"),
    "fitted plate": gettext_lazy("Plate"),
    "clamp": gettext_lazy("Clamp and sweep"),
    "on the vehicle": gettext_lazy("Match on the vehicle"),
    "pads": gettext_lazy("Pads and hardware"),
    "shoes": gettext_lazy("Shoes"),
    "closing": gettext_lazy("Close"),
}
_FEEDS: Final = {"rough": gettext_lazy("rough"), "finish": gettext_lazy("finish")}
_RANGES: Final = ("runout_after", "after_pass", "play", "hub_runout")


def decided_corners(job: Job) -> list[tuple[Corner, Decision, str]]:
    """Return the corners for which work was decided, with the decision and the remedy."""
    decisions = decisions_of(job)
    return [
        (corner, decision, code)
        for corner in job.corners.all()
        if (decision := decisions.get(corner.axle)) is not None
        and (code := decision.remedies.get(corner.position)) not in (None, "none")
    ]


def work_context(user: User, job: Job, corner: Corner, choice: AxleChoice | None) -> dict[str, Any]:
    """Return the steps of a corner's decided work; every corner with work is a tab."""
    decided = decided_corners(job)
    code = next(code for other, _decision, code in decided if other.pk == corner.pk)
    decision = next(decision for other, decision, _code in decided if other.pk == corner.pk)
    side = choice.corner(corner.position) if choice is not None else None
    steps = _steps(user, job, corner, decision, code, side, choice)
    return {
        "axle_name": axle_name(job, corner.axle),
        "name": POSITION_NAMES[corner.position],
        "remedy": _(remedy_name(code, corner.position)),
        "decision": decision,
        "tabs": [
            {
                "name": POSITION_NAMES[other.position],
                "url": address("jobs:work", job.pk, other.position),
                "here": other.pk == corner.pk,
            }
            for other, _decision, _code in decided
        ],
        "steps": [_row(placed, corner, user.unit) for placed in steps],
        "holds": sum(placed.step.kind is Kind.HOLD for placed in steps),
        "minutes": round(decision.predicted.get(corner.position, {}).get("minutes", 0)),
    }


def _steps(
    user: User,
    job: Job,
    corner: Corner,
    decision: Decision,
    code: str,
    side: Chosen | None,
    choice: AxleChoice | None,
) -> tuple[PlacedStep, ...]:
    limits = corner.limits
    foretold = decision.predicted.get(corner.position, {}).get("runout_after_mm")
    kind = next((_LATHES[work] for work in code.split("+") if work in _LATHES), None)
    lathes = Lathe.of(user).filter(retired=False, kind=kind) if kind is not None else ()
    lathe = chosen_lathe(list(lathes), corner)
    plan = _plan(corner, side, lathe, choice)
    work = Work(
        remedy=code,
        vehicle=job.vehicle.kind,
        axle=corner.axle,
        single=len([c for c in job.corners.all() if c.axle == corner.axle]) == 1,
        features=frozenset(limits.features) if limits is not None else frozenset(),
        locating_screw=limits is not None and bool(limits.index_positions),
    )
    torques = {"wheel": limits.wheel_torque_nm} if limits is not None and limits.wheel_torque_nm else {}
    figures: Mapping[str, Figure] = {}
    if side is not None:
        figures = figures_of_corner(
            side.measured.corner.spec,
            settings=decision.settings.get(corner.position, {}),
            runout_after_mm=tuple(foretold) if foretold else None,
            lathe=lathe_of(lathe) if lathe is not None else None,
            torques_nm=torques,
        )
    return procedure(work, figures=figures, passes=plan.passes if plan is not None and not plan.refused else ())


def _plan(corner: Corner, side: Chosen | None, lathe: Lathe | None, choice: AxleChoice | None) -> CutPlan | None:
    if side is None or lathe is None or choice is None:
        return None
    cut = next((c for c in corner.cuts.all() if c.lathe_id == lathe.pk), None)
    return plan_for(side, lathe_of(lathe), choice.shop, cut)


def _row(placed: PlacedStep, corner: Corner, unit: Unit) -> dict[str, Any]:
    step, studs = placed.step, corner.limits.studs if corner.limits is not None else 5
    said = {name: _figure_words(name, figure, studs, unit) for name, figure in placed.figures.items()}
    torque = said.get(f"torque {step.torque}", "") if step.torque else ""
    return {
        "part": str(_PARTS[placed.part]),
        "number": placed.number,
        "mark": _MARKS.get(step.kind, ""),
        "hold": step.kind is Kind.HOLD,
        "says": _(step.says).format_map(dict.fromkeys(step.figures, "…") | said),
        "why": _(step.why),
        "needs": ", ".join(step.needs),
        "torque": torque,
        "expects": said.get(step.expects, "") if step.expects else "",
        "otherwise": _(step.otherwise) if step.otherwise else "",
        "cautions": [_(CAUTIONS[name]) for name in step.cautions],
        "asks": ", ".join(str(_ASKED[name]) for name in placed.asks),
    }


def _figure_words(name: str, figure: Figure, studs: int, unit: Unit) -> str:
    if isinstance(figure, str):
        return str(_FEEDS.get(figure, figure))
    if isinstance(figure, tuple):
        low, high = (about(mm, unit, expanded_mm=0.005) for mm in figure)
        return f"{low.figure}–{high.figure} {high.unit}"
    if name.startswith("torque "):
        return torque_text(figure, unit)
    if name == "plate_place":
        return between_studs(figure, studs, translate=_)
    if name in ("studs_on", "pass", "out_lines", "in_lines"):
        return f"{figure:g}"
    shown = about(figure, unit, expanded_mm=0.005)
    return f"{shown.figure} {shown.unit}"
