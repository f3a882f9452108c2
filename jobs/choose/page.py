"""Contexts of the Choose leg: lanes, the refused, the policies, money over distance. Records in, words out."""

from typing import Any, Final

from django.utils.translation import gettext as _

from compass.choose.axle import Chosen, Lane, kind_of_metal
from compass.choose.remedies.comeback import outlay
from compass.choose.rules import REASONS
from compass.ground.limits import State
from compass.ground.units import Unit
from compass.words.codes import remedy_name
from drawing.outlay import OutlayLine, draw_outlay
from jobs.cause.page import outcome_words, worth_words
from jobs.choose.axle import AxleChoice, axles_of, decisions_of
from jobs.choose.lanes import lane_rows
from jobs.models import Corner, Decision, FittedPlate, Job
from jobs.next_act import NextAct, act_for, next_act, tell_apart
from jobs.words import about, axle_name, money_text, place_words, setting_words
from workshop.addresses import address
from workshop.models import POSITION_NAMES, ShopFigures, User
from workshop.permissions import Deed
from workshop.words import about_km, distance_text

_SHOWN: Final = 4
_OVER_KM: Final = 100_000.0  # the distance over which money is compared, at most


def choose_context(user: User, job: Job, axle: str, choice: AxleChoice | None) -> dict[str, Any]:
    """Return what the Choose leg of one axle shows."""
    decision = decisions_of(job).get(axle)
    context: dict[str, Any] = {
        "axle": axle,
        "axle_name": axle_name(job.vehicle, axle),
        "axles": _axle_tabs(job, axle),
        "decision": _decision_words(job, decision, user.unit) if decision is not None else None,
        "choice": choice,
    }
    if choice is None or not choice.lanes:
        return context | {"empty": _why_empty(job, axle, choice)}
    decided = decision.remedies if decision is not None else {}
    lanes = lane_rows(choice, user.unit, choice.shop.currency, decided=decided)
    shown = 1 if lanes and lanes[0]["code"] == "none" else _SHOWN  # a disc in order needs no other lane at once
    return context | {
        "lanes": lanes[:shown],
        "more_lanes": lanes[shown:],
        "once_more": any(c.episode for c in job.corners.all() if c.axle == axle),  # the same may be decided again
        "lane_picked": next((lane for lane in lanes if lane["picked"]), None),
        "refused": [_refused(lane) for lane in choice.lanes if not lane.feasible],
        "policies": _policy_rows(choice, choice.shop.currency),
        "own_policy": choice.policy == _own_policy(choice),
        "policy_name": ShopFigures.School(choice.policy).label,
        "next_policy": _next_policy(choice),
        "advised": choice.advised.code if choice.advised is not None else None,
        "headline": _unread_headline(job, axle) or _headline(choice, user.unit),
        "beside": [
            place_words(cause, position) for cause, position in job.kept.beside if _is_here(job, axle, position)
        ],
        "first": _measure_first(job, choice, choice.shop.currency),
        "waits": _waits(choice, choice.shop.currency),
        "outlay": _outlay(choice, user.unit, choice.shop.currency),
        "in_place": _plates_in_place(job, axle, user.unit),
        "brought": bool(job.case_rest.get("shop")),
    }


def _is_here(job: Job, axle: str, position: str | None) -> bool:
    """Whether what sits beside the discs concerns an axle: its own corners, and what is the vehicle's."""
    return position is None or any(c.position == position and c.axle == axle for c in job.corners.all())


def _axle_tabs(job: Job, axle: str) -> list[dict[str, Any]]:
    return [
        {
            "name": axle_name(job.vehicle, other),
            "url": address("jobs:choose", job.pk, other),
            "here": other == axle,
            "decided": other in job.decided,
        }
        for other in axles_of(job)
    ]


def _why_empty(job: Job, axle: str, choice: AxleChoice | None) -> dict[str, Any]:
    corner = next(c for c in job.corners.all() if c.axle == axle)
    if choice is None:
        words = _("This axle has no limits yet. Set them first: no remedy can be worked out without them.")
        return {
            "words": words,
            "url": address("jobs:prepare", job.pk, corner.position),
            "act": _("Set the limits"),
            "teaches": _lanes_to_come(corner.position, motorcycle=job.vehicle.is_motorcycle),
        }
    words = _(
        "Nothing is measured on this axle yet. Sweep it and mike it: what each remedy would leave follows from that."
    )
    return {
        "words": words,
        "url": address("jobs:prepare", job.pk, corner.position),
        "act": _("Prepare %(corner)s") % {"corner": corner},
        "teaches": _lanes_to_come(corner.position, motorcycle=job.vehicle.is_motorcycle),
    }


def _lanes_to_come(position: str, *, motorcycle: bool) -> list[tuple[str, str]]:
    """Name each remedy with what it does and what it asks for; no plate fits a motorcycle."""
    says = {
        "clean_and_torque": _("where dirt or the nuts make it: nothing is spent"),
        "index": _("hub and rotor set against each other, once both are told apart"),
        "plate": _("a thin wedge tilts an even disc back that lies crooked"),
        "on_vehicle_cut": _("cut true to its own hub: wants metal over machine-to, and a lathe that goes to the hub"),
        "bench_cut": _("cut true in itself: what the hub runs out stays"),
        "new_rotors": _("where the metal is spent: what the hub runs out stays"),
        "hub_unit": _("where the hub is bent or its bearing has play"),
    }
    if motorcycle:
        del says["plate"]
    return [(_(remedy_name(code, position)), words) for code, words in says.items()]


def _unread_headline(job: Job, axle: str) -> str:
    """Say what lanes rest on where a work was done since."""
    corner = next((c for c in job.corners.all() if c.axle == axle and c.episode and c.stands is None), None)
    if corner is None:
        return ""
    return _("%(name)s was worked on and not measured since: what stands here rests on what was read before.") % {
        "name": POSITION_NAMES[corner.position]
    }


def _headline(choice: AxleChoice, unit: Unit) -> str:
    """Say in one line why the first lane stands first, or what must be done before."""
    if choice.plan.waits_for:
        names = ", ".join(str(POSITION_NAMES[p]) for p in choice.plan.waits_for)
        return _("The axle is decided together: first see to %(names)s.") % {"names": names}
    if choice.first is not None or choice.apart is not None:
        return _("Any lane chosen now would be a gamble: measure first.")
    best = next((lane for lane in choice.lanes if lane.feasible), None)
    if best is None:
        return _("Nothing can be advised yet: read below what each remedy still needs.")
    corner = choice.corner(best.lead)
    if corner is None:
        return ""
    hub = corner.measured.whose.hub
    hub_mm = about(hub.tir_mm, unit) if hub is not None else None
    if best.code == "none":
        close = [str(POSITION_NAMES[c.position]) for c in choice.corners if _is_close(c)]
        if close:
            return _("Nothing is over its limit, and too close to call: %(names)s.") % {"names": ", ".join(close)}
        return _("Nothing to do: every figure here is within its limit.")
    if corner.measured.broken or corner.measured.worn:
        return _("This disc is done: only new ones will do.")
    if hub_mm is not None and corner.measured.hub_state is State.OVER and "on_vehicle" in best.code:
        return _("The metal is there, and it takes the hub’s %(hub)s %(unit)s with it.") % {
            "hub": hub_mm.figure,
            "unit": hub_mm.unit,
        }
    if len(choice.corners) == 1:
        return _("%(name)s is decided by itself.") % {"name": POSITION_NAMES[best.lead]}
    return _("%(name)s needs it most; both sides are decided together.") % {"name": POSITION_NAMES[best.lead]}


def _is_close(corner: Chosen) -> bool:
    measured = corner.measured
    return State.TOO_CLOSE in (measured.runout.state, measured.thickness.state_variation)


def _measure_first(job: Job, choice: AxleChoice, currency: str) -> NextAct | None:
    """Name the check that is worth more than acting now, or what comes next where no lane is open; else None."""
    first = choice.first
    if first is not None:
        corner = next(c for c in job.corners.all() if c.position == first.position)
        why = _("saves %(money)s on average") % {"money": money_text(first.saves, currency)}
        return act_for(corner, first.check, why=why, index_deg=first.index_deg, minutes=first.minutes)
    if choice.apart is not None:
        position, way = choice.apart
        return tell_apart(next(c for c in job.corners.all() if c.position == position), way)
    return None if any(lane.feasible for lane in choice.lanes) else next_act(job)


def _waits(choice: AxleChoice, currency: str) -> dict[str, Any] | None:
    """Say what the check before any lane is worth and may find; None where nothing is to be waited for."""
    if choice.first is None:
        return None
    saves = money_text(choice.first.saves, currency)
    return {"saves": saves, "outcomes": outcome_words(choice.first), "why": worth_words(choice.first)}


def _refused(lane: Lane) -> dict[str, str]:
    """Say why a lane is refused: the first rule, and at which side if not the one it is for."""
    position, rule = lane.blocked[0]
    reason = _(REASONS[rule])
    where = "" if position == lane.lead else f"{POSITION_NAMES[position]}: "
    return {"name": _(remedy_name(lane.code, lane.lead)), "reason": where + reason}


def _own_policy(choice: AxleChoice) -> str:
    return next(code for code, plan in choice.others.items() if plan is choice.advice)


def _next_policy(choice: AxleChoice) -> str:
    codes = list(choice.others)
    return codes[(codes.index(choice.policy) + 1) % len(codes)]


def _policy_rows(choice: AxleChoice, currency: str) -> list[dict[str, Any]]:
    """Say what every policy would have chosen."""
    own = _own_policy(choice)
    return [
        {
            "code": code,
            "name": ShopFigures.School(code).label,
            "here": code == choice.policy,
            "own": code == own,
            "same": plan.remedies == choice.advice.remedies,
            "words": _plan_words(plan.remedies),
            "price": money_text(plan.price, currency) if any(plan.remedies.values()) else "",
        }
        for code, plan in choice.others.items()
    ]


def _plan_words(remedies: dict[str, str | None]) -> str:
    codes = {code for code in remedies.values() if code}
    if len(codes) == 1 and all(remedies.values()):
        return _(remedy_name(codes.pop(), next(iter(remedies))))
    return ", ".join(f"{POSITION_NAMES[p]}: {_(remedy_name(code, p))}" for p, code in remedies.items() if code) or _(
        "not yet"
    )


def _outlay(choice: AxleChoice, unit: Unit, currency: str) -> dict[str, str] | None:
    """Draw machining against replacing over the remaining life of the disc; None where its wear is not known."""
    open_lanes = [lane for lane in choice.lanes if lane.feasible]
    cut = next((x for x in open_lanes if kind_of_metal(x.code) in ("bench_cut", "on_vehicle_cut")), None)
    new = next((x for x in open_lanes if x.own.remaining_km is not None and "new_rotors" in x.code), None)
    if cut is None or new is None or cut.own.remaining_km is None or new.own.remaining_km is None:
        return None
    new_km = new.own.remaining_km[1]
    over = min(max(about_km(new_km, unit), 20_000.0), _OVER_KM)
    lines = tuple(
        OutlayLine(
            _(remedy_name(lane.code, lane.lead)),
            outlay(lane.cost, lane.own.remaining_km[1], renewal=new.price, renewal_km=new_km, over_km=over),
        )
        for lane in (cut, new)
        if lane.own.remaining_km is not None
    )
    words = [
        _("%(name)s: %(money)s by %(km)s")
        % {
            "name": line.name,
            "money": money_text(line.steps[-1][1], currency),
            "km": distance_text(over, unit),
        }
        for line in lines
    ]
    low, _middle, high = cut.own.remaining_km
    lasts = _("After the cut the disc lasts about %(low)s to %(high)s (estimate).") % {
        "low": distance_text(about_km(low, unit), unit),
        "high": distance_text(about_km(high, unit), unit),
    }
    ends = (_("today"), distance_text(over, unit))
    title = _("Money spent over distance: machining now, against replacing now")
    return {"svg": draw_outlay(lines, over_km=over, ends=ends, title=title), "words": " · ".join(words), "lasts": lasts}


def _decision_words(job: Job, decision: Decision, unit: Unit) -> dict[str, Any]:
    """Say what was decided, by whom and why, and what it leads to at each corner."""
    corners: dict[str, Corner] = {c.position: c for c in job.corners.all()}
    fitted = {f.position: f for f in _fitted(job)}
    sides = []
    for position, code in decision.remedies.items():
        if code is None or position not in corners:
            continue
        studs = corners[position].limits.studs if corners[position].limits is not None else 5
        settings = decision.settings.get(position, {})
        plate = fitted.get(position)
        sides.append(
            {
                "position": position,
                "name": POSITION_NAMES[position],
                "words": _(remedy_name(code, position)),
                "setting": setting_words(settings, studs, unit) if code in ("index", "plate") else "",
                "cut": "cut" in code,
                "plate": bool(settings.get("plate_mm")),
                "fitted": plate is not None and plate.job_id == job.pk,
            }
        )
    return {"row": decision, "sides": sides, "policy": ShopFigures.School(decision.policy).label}


def _plates_in_place(job: Job, axle: str, unit: Unit) -> list[dict[str, Any]]:
    """Return the plates that earlier jobs left under this axle's discs."""
    rows = []
    for corner in (c for c in job.corners.all() if c.axle == axle and c.limits is not None):
        fitted = next((f for f in _fitted(job) if f.position == corner.position and f.job_id != job.pk), None)
        if fitted is not None:
            settings = {"plate_mm": fitted.plate.correction_mm, "plate_deg": fitted.thin_deg}
            rows.append(
                {"row": fitted, "name": str(corner), "words": setting_words(settings, corner.limits.studs, unit)}
            )
    return rows


def _fitted(job: Job) -> list[FittedPlate]:
    return [fitted for fitted in job.vehicle.fitted_plates.all() if not fitted.taken_out]


def act_of_decision(job: Job, axle: str) -> NextAct | None:
    """Return the brass act after a decision: the work, step by step; its proof; none where it is to be chosen anew."""
    decision = decisions_of(job).get(axle)
    if decision is None or job.is_closed or not set(decision.remedies.values()) - {None, "none"}:
        return None
    given = [c for c in job.corners.all() if decision.remedies.get(c.position) not in (None, "none")]
    if all(corner.episode and not corner.is_to_do and corner.stands is not None for corner in given):
        stands = [corner.stands for corner in given if corner.stands is not None]
        over = any(State.OVER.value in (now.runout, now.variation) for now in stands)
        return None if over else next_act(job)
    return NextAct(
        _("Do it, step by step"),
        _("in order, with this corner’s figures"),
        None,
        address("jobs:do", job.pk),
        deed=Deed.READ_JOBS.value,
    )
