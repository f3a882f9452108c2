"""What the owner's sheet says: felt, found, done and why, proven, to expect, when to look again. Reads only."""

from collections.abc import Sequence
from typing import Any, Final

from django.utils import timezone
from django.utils.translation import gettext as _

from compass.cause.causes import CURED_BY_MEASURING, Cause
from compass.choose.axle import Lane
from compass.choose.rules import REASONS
from compass.ground.limits import State, against_lower
from compass.ground.uncertainty import Estimate
from compass.ground.units import Unit
from compass.prove.proof import Figure
from compass.words.codes import STATES, STATES_OF_A_FIGURE, remedy_name
from compass.words.figures import odds_text
from compass.words.owner import CAUTIONS, DONE, DONE_BESIDE, DONE_NEW, EXPECT, FOUND, SO_FAR, WORN
from drawing.curves import Curve, runout_curve
from drawing.paper_rose import PaperRose, draw_paper_rose
from jobs.adapters import look_of
from jobs.choose.axle import AxleChoice
from jobs.frame import stopped_corners
from jobs.judging import Judged, works_of
from jobs.kept import KeptCorner
from jobs.models import Closing, Corner, Job
from jobs.prove.again import again_words
from jobs.prove.proving import Proving, SideProof
from jobs.words import about, money_text
from workshop.adapters import spec_of
from workshop.models import POSITION_NAMES, ShopFigures, User

_ROSES: Final = 2  # corners whose roses fit on one page
_OTHERS: Final = 3
_SAID: Final = FOUND | SO_FAR


def owner_context(user: User, job: Job, proving: Proving | None, figures: ShopFigures) -> dict[str, Any]:
    """Return the owner's sheet of a job as it is saved now. ``job`` comes from ``for_doing``."""
    closing = Closing.of(user).standing(job)
    sides = list(proving.sides.values()) if proving is not None else []
    currency = ""
    why: list[str] = []
    for axle in sorted({side.side.corner.axle for side in sides}):
        choice = proving.doing.choices.get(axle) if proving is not None else None
        if choice is not None:
            currency = choice.shop.currency
            why += _others(choice, sides, currency)
    causes = list(dict.fromkeys(_causes(job, sides)))
    done = {side.position: works for side in sides if (works := _works(job, side))}
    works = list(dict.fromkeys(work for at_corner in done.values() for work in at_corner))
    return {
        "job": job,
        "closing": closing,
        "state": state_words(job, closing),
        "felt": job.complaint,
        "found": [_(_SAID[cause]) for cause in causes if cause in _SAID] + _worn(job),
        "stop": [str(corner) for corner in stopped_corners(job)],
        "done": (_done(done) or _cured(job)) + _put_in_new(job) + _done_beside(job),
        "why": why[:_OTHERS],
        "roses": [_roses(side, user.unit) for side in sorted(sides, key=_worst_first)[:_ROSES]],
        "figures": [row for side in sides for row in _rows(side, user.unit)] or _as_measured(job, user.unit),
        "expect": [_(EXPECT[work]) for work in works if work in EXPECT],
        "again": again_words(user, job, closing, sides, figures=figures),
        "cautions": [_(words) for words in CAUTIONS],
        "printed": timezone.now(),
    }


def _worn(job: Job) -> list[str]:
    """Return what is worn beside the discs, once each."""
    kept = (corner.kept for corner in job.corners.all())
    codes = dict.fromkeys(worn.code for one in kept if one is not None for worn in one.linings)
    return [_(WORN[code]) for code in codes]


def _works(job: Job, side: SideProof) -> list[str]:
    """Return the works at a corner in their order: what an earlier choice had done there is still there, or undone.

    What is decided and still to be done is none of them.
    """
    corner = side.side.corner
    remedies = [*works_of(job, corner), *([] if corner.is_to_do else [side.side.remedy])]
    return list(dict.fromkeys(work for remedy in remedies for work in remedy.split("+")))


def _done(done: dict[str, list[str]]) -> list[dict[str, Any]]:
    """Return what was done at each corner."""
    return [
        {"name": POSITION_NAMES[position], "words": [_(DONE[work]) for work in works]}
        for position, works in done.items()
    ]


def _cured(job: Job) -> list[dict[str, Any]]:
    """Return the corners where measuring itself was the cure: cleaned and torqued for it, and within since."""
    kept = ((corner, corner.kept) for corner in job.corners.all())
    cured = [str(c) for c, one in kept if one is not None and one.settled and one.root_cause in CURED_BY_MEASURING]
    if not cured and job.found_cause in CURED_BY_MEASURING:  # as who closed it says
        cured = [_("Every corner")]
    return [{"name": name, "words": [_(DONE["clean_and_torque"])]} for name in cured]


def _put_in_new(job: Job) -> list[dict[str, Any]]:
    """Return where pads or shoes were put in new."""
    looks = [(str(corner), look_of(corner)) for corner in job.corners.all()]
    new = ((name, [code for code in DONE_NEW if look is not None and look.typed.get(code)]) for name, look in looks)
    return [{"name": name, "words": [_(DONE_NEW[code]) for code in codes]} for name, codes in new if codes]


def _done_beside(job: Job) -> list[dict[str, Any]]:
    """Return what was put right beside the discs, and where."""
    return [
        {
            "name": POSITION_NAMES[m["position"]] if "position" in m else _("The vehicle"),
            "words": [_(DONE_BESIDE[m["cause"]])],
        }
        for m in job.mended_beside
    ]


def _as_measured(job: Job, unit: Unit) -> list[dict[str, str]]:
    """Return what was measured where no work was decided, and whether it is in order."""
    return [row for corner in job.corners.all() for row in _rows_of(corner, unit)]


def _rows_of(corner: Corner, unit: Unit) -> list[dict[str, str]]:
    kept, limits = corner.stands, corner.limits
    if kept is None or limits is None:
        return []
    least_mm = limits.discard_thickness_mm
    thinnest = Estimate(kept.min_mm, kept.min_expanded_mm) if kept.min_mm is not None else None
    read = (
        ("runout", kept.runout_mm, kept.runout_expanded_mm, limits.max_runout_mm, kept.runout),
        ("variation", kept.variation_mm, kept.variation_expanded_mm, limits.max_thickness_variation_mm, kept.variation),
        ("thinnest", kept.min_mm, kept.min_expanded_mm, least_mm, against_lower(thinnest, least_mm)),
    )
    return [
        _line(str(corner), name, (mm, expanded_mm), limit_mm, State(state), unit)
        for name, mm, expanded_mm, limit_mm, state in read
        if mm is not None
    ]


def state_words(job: Job, closing: Closing | None) -> str:
    """Say whether a sheet is final: of an open job it is not, and says so."""
    if closing is None and job.closings.exists():
        return _("Opened again since: a sheet printed before does not hold any more, and this one is not final.")
    if closing is None:
        return _("Not closed: this sheet shows the work as it is saved now, and it is not proven yet.")
    if not closing.proven:
        return _("Closed without full proof: %(reason)s") % {"reason": closing.reason}
    return ""


def _causes(job: Job, sides: list[SideProof]) -> list[str]:
    """Return the causes to be told: the one the job was closed as, else of the corners that were worked on or over."""
    found = [job.found_cause] if job.found_cause else []
    at_corners = [kept.root_cause for side in sides if (kept := side.side.corner.kept) is not None]
    measured = [corner.kept for corner in job.corners.all()]
    over = [kept.root_cause for kept in measured if kept is not None and kept.over]
    causes = found or [*at_corners, *(m["cause"] for m in job.mended_beside), *over]
    causes = [cause for cause in causes if cause != Cause.NONE] or [_so_far([c.stands for c in job.corners.all()])]
    run_out = {kept.root_cause for kept in measured if kept is not None and kept.runout == State.OVER.value}
    if Cause.NOT_SEPARABLE not in run_out:  # unevenness may have no name either, and is no wobble
        causes = ["uneven" if cause == Cause.NOT_SEPARABLE else cause for cause in causes]
    return [*causes, *(["still_over"] if run_out & CURED_BY_MEASURING else [])]


def _so_far(stands: Sequence[KeptCorner | None]) -> str:
    """Return what there is to be told where nothing was found: only of what was measured, as it stands now."""
    if all(kept is not None and kept.within for kept in stands):
        return "none_found"
    if any(kept is not None and kept.over for kept in stands):
        return "over_since"  # it came in true, and was worked on with its neighbour
    return "nothing_over" if any(kept is not None and kept.runout_mm is not None for kept in stands) else "unmeasured"


def _worst_first(side: SideProof) -> float:
    kept = side.side.corner.kept
    return -(kept.runout_mm or 0.0) if kept is not None else 0.0


def _others(choice: AxleChoice, sides: list[SideProof], currency: str) -> list[str]:
    """Say why the next cheaper and the next dearer way were not taken."""
    mine = {side.position: side.side.remedy for side in sides}
    taken = next((lane for lane in choice.lanes if lane.code == mine.get(lane.lead)), None)
    if taken is None:
        return []
    cheaper = [lane for lane in choice.lanes if lane.price < taken.price and lane.code not in (taken.code, "none")]
    dearer = [lane for lane in choice.lanes if lane.price > taken.price and lane.code != taken.code]
    words = [_other(lane, taken, currency) for lane in sorted(cheaper, key=lambda lane: -lane.price)[:1]]
    words += [_other(lane, taken, currency) for lane in sorted(dearer, key=lambda lane: lane.price)[:1]]
    return words


def _other(lane: Lane, taken: Lane, currency: str) -> str:
    named = {
        "name": _(remedy_name(lane.code, lane.lead)),
        "money": money_text(lane.price, currency),
        "mine": money_text(taken.price, currency),
    }
    if lane.blocked:
        rule = _(REASONS[lane.blocked[0][1]]).rstrip(".")
        return _("%(name)s, %(money)s instead of %(mine)s, is ruled out. %(rule)s.") % {**named, "rule": rule}
    odds = lane.own.odds_within
    if odds is None:
        return _("%(name)s, %(money)s instead of %(mine)s.") % named
    words = _("%(name)s, %(money)s instead of %(mine)s: odds of %(odds)s that the disc would then have run true")
    words = words % {**named, "odds": odds_text(odds)}
    if taken.own.odds_within is not None:
        words += _(", against %(odds)s with what was chosen") % {"odds": odds_text(taken.own.odds_within)}
    return words + "."


def curve_of(judged: Judged | None, side: SideProof) -> Curve | None:
    """Return a corner's runout as a curve, None where no turn was swept."""
    limits = side.side.corner.limits
    if judged is None or judged.verdict is None or limits is None:
        return None
    runout = judged.verdict.measured.runout
    if runout.sweep is None:
        return None
    return runout_curve(runout.sweep, [], spec=spec_of(limits), state=runout.state.value)


def _roses(side: SideProof, unit: Unit) -> dict[str, Any]:
    before, after = curve_of(side.before, side), curve_of(side.after, side)
    limits = side.side.corner.limits
    reach = max([curve.reach_mm for curve in (before, after) if curve is not None], default=0.05)
    studs = limits.studs if limits is not None else 5
    name = POSITION_NAMES[side.position]
    kept, stands = side.side.corner.kept, side.side.corner.stands

    def say(mm: float | None, u_mm: float) -> str:
        if mm is None:
            return _("not measured")
        shown = about(mm, unit, expanded_mm=u_mm or 0.005)
        return f"{shown.figure} ± {shown.plus_minus} {shown.unit}"

    return {
        "name": name,
        "before": draw_paper_rose(PaperRose(studs, before, reach), title=_("%(name)s as it came in") % {"name": name}),
        "after": draw_paper_rose(PaperRose(studs, after, reach), title=_("%(name)s after the work") % {"name": name}),
        "before_words": say(kept.runout_mm if kept else None, kept.runout_expanded_mm if kept else 0.0),
        "after_words": say(stands.runout_mm if stands else None, stands.runout_expanded_mm if stands else 0.0)
        if side.after is not None
        else _("not measured"),
    }


def _rows(side: SideProof, unit: Unit) -> list[dict[str, str]]:
    return [_row(side, figure, unit) for figure in side.proof.figures]


def _row(side: SideProof, figure: Figure, unit: Unit) -> dict[str, str]:
    estimate = figure.estimate
    read = (estimate.value_mm, estimate.expanded_mm) if estimate is not None else None
    return _line(str(POSITION_NAMES[side.position]), figure.name, read, figure.limit_mm, figure.state, unit)


def _line(
    where: str, name: str, read: tuple[float, float] | None, limit_mm: float, state: State, unit: Unit
) -> dict[str, str]:
    """Return one line of the table: ``read`` is a figure, mm, with its expanded U."""
    names = {
        "runout": _("wobble (lateral runout)"),
        "variation": _("unevenness (thickness variation)"),
        "thinnest": _("thinnest place"),
    }
    shown = about(read[0], unit, expanded_mm=read[1] or 0.005) if read is not None else None
    limit = about(limit_mm, unit, expanded_mm=0.002)
    least = name == "thinnest"
    words = STATES if read is None else STATES_OF_A_FIGURE
    return {
        "where": where,
        "name": names[name],
        "value": f"{shown.figure} ± {shown.plus_minus} {shown.unit}" if shown is not None else "–",
        "limit": (_("at least %(mm)s") if least else _("at most %(mm)s")) % {"mm": f"{limit.figure} {limit.unit}"},
        "state": _("in order") if state in (State.WITHIN, State.ABOVE) else _(words[state.value]),
    }
