"""The Prove leg: a corner before and after, three figures on their scales, what must hold before it may close."""

from collections.abc import Iterable
from typing import Any, Final

from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy
from django.utils.translation import pgettext_lazy as p_

from compass.evidence.records import Spec
from compass.ground.angles import nearest_stud
from compass.ground.limits import State
from compass.ground.units import Unit
from compass.prove.proof import ADVICE, CLOSE_TO_LIMIT, Came, Figure
from compass.words.codes import CAUSES, STATES, STATES_OF_A_FIGURE, remedy_name
from compass.words.figures import plain_text
from drawing.curves import Curve, runout_curve
from drawing.expected import Expected, draw_expected
from drawing.glance import Glance, draw_mini
from drawing.rose import Rose, draw_rose
from drawing.trace import draw_trace
from jobs.judging import Judged
from jobs.models import Job
from jobs.next_act import NextAct, hand_over, measure_after, next_act, renew_linings, side_waited, tell_apart
from jobs.prove.proving import Condition, Proving, SideProof
from jobs.words import about
from workshop.adapters import spec_of
from workshop.addresses import address
from workshop.models import POSITION_NAMES, User
from workshop.permissions import Deed

_FIGURES: Final = {
    "runout": gettext_lazy("Lateral runout"),
    "variation": gettext_lazy("Thickness variation"),
    "thinnest": gettext_lazy("Thinnest"),
}
_CAME: Final = {
    Came.INSIDE: gettext_lazy("as foretold"),
    Came.BETTER: gettext_lazy("better than foretold"),
    Came.WORSE: gettext_lazy("worse than foretold"),
    Came.UNFORETOLD: "",
}
_CONDITIONS: Final = {
    "after_readings": gettext_lazy("after-readings"),
    "within": gettext_lazy("within its limits"),
    "not_looked_at": gettext_lazy("measured, though nothing was done there"),
    "do_not_drive": gettext_lazy("what forbids driving is renewed"),
    "beside": gettext_lazy("seen to beside the discs"),
    "beside_driven": gettext_lazy("driven since it was seen to, beside the discs"),
    "pads_worn": gettext_lazy("pads renewed that are under their least thickness"),
    "linings_worn": gettext_lazy("shoes renewed that are under their least thickness"),
    "match_mark": gettext_lazy("match mark on rotor and stud"),
    "torques": gettext_lazy("everything torqued"),
    "pump": gettext_lazy("Brake pumped, high and hard"),
    "bed_in": gettext_lazy("Pads bedded in"),
    "road_test": gettext_lazy("Road test over the speeds of the complaint"),
    "second_signs": gettext_lazy("A second pair of eyes, where metal was cut"),
}
_WANTS: Final = {"sweep": gettext_lazy("sweep"), "thickness": gettext_lazy("thickness")}
_FELT: Final = {
    "gone": p_("felt on the road", "nothing is felt"),
    "less": p_("felt on the road", "less, but still felt"),
    "same": p_("felt on the road", "felt as before"),
}


def nothing_to_prove() -> dict[str, Any]:
    """Return what the Prove leg says where no work is decided."""
    return {
        "words": _(
            "No work is decided on this job yet. What is done to a disc is measured again here, beside what it was and "
            "what was foretold."
        ),
        "teaches": (
            (_("Measured again"), _("runout as it stands fitted, thickness where metal was cut")),
            (_("Beside what was foretold"), _("before, foretold and after on one axis, each against its limit")),
            (_("Driven"), _("over the speeds of the complaint; what is still felt leads on")),
            (_("Handed over"), _("signed, with the owner’s sheet and when to look again")),
        ),
    }


def prove_context(user: User, proving: Proving, position: str) -> dict[str, Any]:
    """Return the page of one corner's proof and of the whole job's conditions."""
    sides = proving.sides
    side = sides.get(position) or next((s for s in sides.values() if not s.proof.proven), next(iter(sides.values())))
    rose, factor = _rose(side)
    cut = user.pk in proving.doing.cut_by
    # What forbids driving comes before a disc that could run truer, and other work before one that is given up.
    advice = "" if proving.doing.job.kept.undecided or proving.doing.decided_anew else side.proof.advice
    return {
        "position": side.position,
        "axle": side.side.corner.axle,
        "name": POSITION_NAMES[side.position],
        "remedy": _(remedy_name(side.side.remedy, side.position)),
        "rose": rose,
        "trace": _trace(side),
        "foretells": side.after is not None,
        "factor": factor,
        "figures": [_figure(figure, side, user.unit) for figure in side.proof.figures],
        "wants": [str(_WANTS[want]) for want in side.proof.wants],
        "advice": advice,
        "advice_words": _(ADVICE[advice]) if advice else "",
        "tabs": [_tab(proving, other, here=other is side) for other in sides.values()],
        "conditions": [
            _condition(one, sides.get(one.position), own=cut)
            for one in sorted(proving.conditions, key=lambda one: one.holds)
        ],  # open first
        "proven": not proving.open,
        "act": _act(proving, side),
        "signs": not cut and any(one.code == "second_signs" and not one.holds for one in proving.conditions),
    }


def reasons(conditions: Iterable[Condition]) -> list[str]:
    """Return why the job may not be closed without a written reason, in words."""
    return [_condition(condition, None)["words"] for condition in conditions]


def _act(proving: Proving, side: SideProof) -> NextAct | None:
    """Return what comes next: the readings still wanted, an advice, the rest of the work, closing."""
    job = proving.doing.job
    if job.is_closed:
        return hand_over(job)
    if job.kept.undecided:
        return next_act(job)
    anew = proving.doing.decided_anew
    to_do = anew | {s.position for s in proving.sides.values() if s.side.corner.is_to_do}
    waiting = [s for s in (side, *proving.sides.values()) if s.proof.wants and s.position not in to_do]
    unread = proving.doing.current is not None and all(not s.after for s in proving.sides.values())
    if unread or (to_do and not waiting and (anew or not side.proof.advice)):
        return _go_on(job) if proving.doing.done else _do_first(job)
    if waiting:
        return measure_after(waiting[0].side.corner, waiting[0].proof.wants)
    if side.proof.advice == "tell_apart":
        way = side.after.verdict.separating if side.after is not None and side.after.verdict is not None else None
        return tell_apart(side.side.corner, way) if way is not None else None
    if side.proof.advice not in ("", CLOSE_TO_LIMIT):
        return None  # the page itself asks for it
    unproven = (s for s in proving.sides.values() if not s.proof.proven and s is not side)
    other = next((s for s in unproven if s.proof.advice != CLOSE_TO_LIMIT), None)
    if other is not None:
        url = address("jobs:prove", job.pk, other.position)
        words = _("See %(name)s: not proven") % {"name": POSITION_NAMES[other.position]}
        return NextAct(words, _("what to do there"), None, url, deed=Deed.READ_JOBS.value)
    if side_waited(job):
        return next_act(job)
    if proving.doing.current is not None:
        return _go_on(job)
    if job.kept.step.check is not None and job.still_felt:
        return next_act(job)  # the rest is looked at
    if (renewing := renew_linings(job)) is not None:
        return renewing
    url = address("jobs:complaint", job.pk) + "#close"
    why = _("proven") if not proving.open else _("with your reason for what is open")
    return NextAct(_("Close the job"), why, None, url, deed=Deed.CLOSE_JOB.value)


def _do_first(job: Job) -> NextAct:
    url = address("jobs:do", job.pk)
    return NextAct(_("Do it first"), _("nothing was changed yet"), None, url, deed=Deed.READ_JOBS.value)


def _go_on(job: Job) -> NextAct:
    url = address("jobs:do", job.pk)
    return NextAct(_("Go on with the work"), _("steps are still to be done"), None, url, deed=Deed.READ_JOBS.value)


def _tab(proving: Proving, side: SideProof, *, here: bool) -> dict[str, Any]:
    kept = side.side.corner.stands
    glance = Glance() if kept is None or side.after is None else Glance(kept.runout, kept.variation, kept.high_deg)
    word = _("proven") if side.proof.proven else _("measure") if side.proof.wants else _("not proven")
    name = POSITION_NAMES[side.position]
    return {
        "name": name,
        "word": word,
        "mini": draw_mini(glance, title=f"{name}: {word}"),
        "url": address("jobs:prove", proving.doing.job.pk, side.position),
        "here": here,
    }


def _curve(judged: Judged | None, spec: Spec) -> Curve | None:
    if judged is None or judged.verdict is None or judged.verdict.measured.runout.sweep is None:
        return None
    runout = judged.verdict.measured.runout
    return runout_curve(runout.sweep, [], spec=spec, state=runout.state.value)


def _rose(side: SideProof) -> tuple[str, int]:
    """Draw the corner as it came in (dashed) and as it stands now."""
    limits = side.side.corner.limits
    if limits is None:
        return "", 0
    spec = spec_of(limits)
    before, after = _curve(side.before, spec), _curve(side.after, spec)
    rose = Rose(spec, (), after, None, 0.0, None, before=before, foretold_mm=_foretold_mm(side) if after else None)
    return draw_rose(rose, title=_("Runout as it came in (dashed), as foretold (grey) and after the work"))


def _foretold_mm(side: SideProof) -> float | None:
    """Return the runout that was expected at the most."""
    band = next((figure.foretold_mm for figure in side.proof.figures if figure.name == "runout"), None)
    return band[2] if band is not None else None


def _trace(side: SideProof) -> str:
    """Draw the same unrolled, on one axis; empty before anything was swept after the work."""
    limits = side.side.corner.limits
    if limits is None:
        return ""
    spec = spec_of(limits)
    before, after = _curve(side.before, spec), _curve(side.after, spec)
    if after is None:
        return ""
    title = _("The same over one turn: as it came in (dashed), as foretold (band), after the work")
    words = {"title": title, "mark_label": _("high")}
    return draw_trace(after, studs=spec.studs, stations=8, before=before, foretold_mm=_foretold_mm(side), **words)


def _mark_words(side: SideProof) -> str:
    """Say at which stud the match mark stands: the one next to the high spot that is left."""
    after, limits = side.after, side.side.corner.limits
    if after is None or after.verdict is None or limits is None or after.verdict.measured.runout.high_deg is None:
        return ""
    return _("stud %(n)s") % {"n": nearest_stud(after.verdict.measured.runout.high_deg, limits.studs).stud}


def _figure(figure: Figure, side: SideProof, unit: Unit) -> dict[str, Any]:
    """Return one figure with its ±, its state, how it came, and its scale."""
    estimate = figure.estimate
    shown = about(estimate.value_mm, unit, expanded_mm=estimate.expanded_mm) if estimate is not None else None
    words = STATES if estimate is None else STATES_OF_A_FIGURE
    state = _("above") if figure.state is State.ABOVE else _(words[figure.state.value])
    limit = _("limit %(mm)s") if figure.name != "thinnest" else _("at least %(mm)s")
    return {
        "name": str(_FIGURES[figure.name]),
        "figure": shown.figure if shown is not None else "–",
        "plus_minus": shown.plus_minus if shown is not None else "",
        "unit": shown.unit if shown is not None else "",
        "state": state,
        "code": figure.state.value,
        "came": str(_CAME[figure.came]),
        "then": _limit_then(figure, side, unit),
        "scale": _scale(figure, _before_mm(figure.name, side), limit, unit),
    }


def _limit_then(figure: Figure, side: SideProof, unit: Unit) -> str:
    """Say which limit stood when the work was decided, where it is another now, and which one judges."""
    then = side.limits_then.get(figure.name)
    if then is None:
        return ""
    shown = (plain_text(mm, unit=unit) for mm in (then, figure.limit_mm))
    then_words, now_words = (f"{one.figure} {one.unit}" for one in shown)
    words = _("limit when it was decided: %(then)s; judged by the one in force now: %(now)s")
    return words % {"then": then_words, "now": now_words}


def _before_mm(name: str, side: SideProof) -> float | None:
    """Return the same figure as it came in."""
    verdict = side.before.verdict
    if verdict is None or side.before is side.after:
        return None
    result, tir = verdict.measured.thickness.result, verdict.measured.runout.tir
    if name == "runout":
        return tir.value_mm if tir is not None else None
    estimate = None if result is None else result.variation if name == "variation" else result.minimum
    return estimate.value_mm if estimate is not None else None


def _scale(figure: Figure, before_mm: float | None, limit: str, unit: Unit) -> str:
    def say(mm: float) -> str:
        return about(mm, unit, expanded_mm=0.005).figure

    band = figure.foretold_mm
    labels = {
        "range": _("foretold %(low)s–%(high)s") % {"low": say(band[0]), "high": say(band[2])} if band else "",
        "stop": limit % {"mm": say(figure.limit_mm)},
        "before": _("before %(mm)s") % {"mm": say(before_mm)} if before_mm is not None else "",
    }
    low, high = (band[0], band[2]) if band else (None, None)
    read = figure.estimate.value_mm if figure.estimate is not None else None
    title = ", ".join(text for text in labels.values() if text)
    return draw_expected(Expected(low, high, figure.limit_mm, before_mm, read), labels=labels, title=title)


def _condition(condition: Condition, side: SideProof | None, *, own: bool = False) -> dict[str, Any]:
    """Return one condition in words, with who and when where it holds, and what is missing where it does not.

    ``own``: whoever looks cut the metal, and signs none of it off.
    """
    words = str(_CONDITIONS[condition.code])
    if condition.position:
        words = f"{POSITION_NAMES[condition.position]}: {words}"
    mark = _mark_words(side) if condition.code == "match_mark" and side is not None else ""
    if condition.code.startswith("beside"):
        mark = _(CAUSES[condition.detail])
    words += f": {mark}" if mark else ""
    missing = ""
    if not condition.holds:
        if condition.code in ("after_readings", "not_looked_at") and condition.detail:
            missing = ", ".join(str(_WANTS[want]) for want in condition.detail.split())
        elif condition.code == "road_test" and condition.detail:
            missing = str(_FELT[condition.detail])
        elif condition.code == "second_signs" and own:
            missing = _("by somebody who cut none of it")
        else:
            missing = _("still to be done")
    return {
        "code": condition.code,
        "words": words,
        "holds": condition.holds,
        "who": condition.who,
        "at": condition.at,
        "missing": missing,
    }
