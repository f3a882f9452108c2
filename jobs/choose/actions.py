"""Writes of the Choose leg: a decision."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from django.db import transaction

from compass.choose.axle import Lane, kind_of_metal
from compass.choose.remedies.outcome import Remedy
from compass.choose.rules import OTHER_SIDE_NEEDS_METAL
from compass.do.work import changes_corner
from compass.files.write_verdict import remedy_to_data
from jobs.choose.axle import AxleChoice, ForbiddenRemedyError, corners_of, decisions_of, weigh_axle
from jobs.choose.setting import try_setting
from jobs.judging import refresh
from jobs.models import Corner, Decision, Job
from jobs.writing import open_job_row, save
from workshop.models import User
from workshop.permissions import Deed, require

WORSE_ODDS = 0.05  # a setting by hand that is less likely by more than this is against the advice


class WhyNeededError(Exception):
    """The decision goes against the advice; somebody must say why."""


@transaction.atomic
def decide(
    user: User, job: Job, axle: str, *, code: str, reason: str = "", setting: dict[str, Any] | None = None
) -> Decision:
    """Record what an axle gets. ``setting`` (position, index_deg, plate_mm, plate_deg) was tried by hand.

    Raises ``ForbiddenRemedyError`` where a rule forbids it, ``WhyNeededError`` against the advice without a reason.
    """
    require(user, Deed.CHOOSE)
    row = open_job_row(user, job.pk)
    choice = weigh_axle(user, Job.of(user).for_choosing().get(pk=row.pk), axle)
    last = decisions_of(row).get(axle)
    lane = _lane_of(choice, code, setting, last) if choice is not None else None
    if choice is None or lane is None:
        raise ForbiddenRemedyError(())
    if lane.blocked:
        raise ForbiddenRemedyError(lane.blocked)
    settings = {p: dict(remedy.settings) for p, remedy in lane.remedies.items() if remedy.settings}
    advised = choice.advised
    against = advised is None or _codes(advised) != _codes(lane)
    if setting is not None:
        settings[setting["position"]] = _tried_settings(choice, setting)
        against = against or _is_worse(choice, code, setting)
    if against and not reason.strip():
        raise WhyNeededError
    remedies: dict[str, str | None] = dict(_codes(lane))
    remedies |= {
        p: planned for p, planned in choice.plan.remedies.items() if p not in remedies and _goes_along(code, planned)
    }
    fresh = (remedies, settings, choice.policy, reason.strip(), user.pk)
    sent_twice = last is not None and fresh == (
        last.remedies,
        last.settings,
        last.policy,
        last.reason,
        last.decided_by_id,
    )
    moved = _note_at_corners(user, row, axle, last, remedies, settings)
    if last is not None and sent_twice and not moved:
        return last
    row.decided = sorted({*row.decided, axle})
    row._history_user = user
    row.save()
    decision: Decision = Decision.of(user).create(
        job=row,
        axle=axle,
        policy=choice.policy,
        remedies=remedies,
        advised=dict(choice.advice.remedies),
        settings=settings,
        predicted={p: _foretold(remedy) for p, remedy in lane.remedies.items()},
        price=lane.price,
        minutes=lane.minutes,
        against=against,
        reason=reason.strip(),
        decided_by=user,
    )
    if row.kept.undecided:
        refresh(user, row)
    return decision


@transaction.atomic
def withdraw(user: User, job: Job, axle: str, *, reason: str) -> None:
    """Take a decision back, with a reason: the row stays, and another that decides nothing takes its place."""
    require(user, Deed.CHOOSE)
    if not reason.strip():
        raise WhyNeededError
    row = open_job_row(user, job.pk)
    last = decisions_of(row).get(axle)
    if last is None:
        return
    row.decided = [other for other in row.decided if other != axle]
    save(user, row, reason="decision withdrawn")
    none = {"remedies": {}, "advised": last.advised, "price": 0.0, "minutes": 0.0, "against": True}
    Decision.of(user).create(job=row, axle=axle, policy=last.policy, reason=reason.strip(), decided_by=user, **none)
    Corner.of(user).filter(pk__in=[corner.pk for corner in corners_of(row, axle)]).update(decided_in=None, remedy="")


def _note_at_corners(
    user: User,
    job: Job,
    axle: str,
    last: Decision | None,
    remedies: Mapping[str, str | None],
    settings: Mapping[str, dict[str, float]],
) -> bool:
    """Note at each corner of an axle in which episode its work was decided. Return whether that is another now."""
    moved, changed = False, []
    for corner in corners_of(job, axle):
        code = remedies.get(corner.position)
        before = (last.remedies.get(corner.position), last.settings.get(corner.position, {})) if last else None
        same = before == (code, settings.get(corner.position, {}))
        decided_in = corner.next_decided_in(code, same=same) if code and changes_corner(code) else None
        if (decided_in, code or "") != (corner.decided_in, corner.remedy):
            moved = moved or decided_in != corner.decided_in
            corner.decided_in, corner.remedy = decided_in, code or ""
            changed.append(corner)
    Corner.of(user).bulk_update(changed, ["decided_in", "remedy"])
    return moved


def _lane_of(choice: AxleChoice, code: str, setting: dict[str, Any] | None, last: Decision | None) -> Lane | None:
    """Return the lane decided on. A setting of the side that does not lead changes that side of the plan in force."""
    if setting is None:
        return choice.lane(code)
    if code != ("plate" if setting.get("plate_mm") else "index"):
        return None
    position = setting["position"]
    base = choice.advised
    if last is not None and base is not None:
        base = choice.lane(last.remedies.get(base.lead) or "") or base
    if base is None or base.lead == position or not choice.lanes:
        return choice.lane(code)
    corner = choice.corner(position)
    remedy = next((r for r in corner.remedies if r.code == code), None) if corner is not None else None
    if remedy is None:
        return None
    if base.blocked or kind_of_metal(base.code):
        raise ForbiddenRemedyError(base.blocked or ((position, OTHER_SIDE_NEEDS_METAL),))
    if remedy.blocked_by:
        raise ForbiddenRemedyError(tuple((position, rule) for rule in remedy.blocked_by))
    both = {**base.remedies, position: remedy}
    return replace(
        base,
        remedies=both,
        price=sum(r.price for r in both.values()),
        minutes=sum(r.minutes for r in both.values()),
        cost=sum(r.cost for r in both.values()),
    )


def _foretold(remedy: Remedy) -> dict[str, Any]:
    """Return what is foretold, as in a verdict, and the variation beside it: it will be held against what came."""
    return {**remedy_to_data(remedy), "variation_after_mm": remedy.variation_mm and list(remedy.variation_mm)}


def _codes(lane: Lane) -> dict[str, str]:
    return {position: remedy.code for position, remedy in lane.remedies.items()}


def _goes_along(code: str, planned: str | None) -> bool:
    """Whether an unmeasured side gets new rotors with the measured one."""
    return planned == "new_rotors" and code.startswith("new_rotors")


def _tried_settings(choice: AxleChoice, setting: dict[str, Any]) -> dict[str, float]:
    option = try_setting(choice, setting).option
    settings = {"index_deg": option.index_deg}
    if option.plate_mm is not None and option.plate_deg is not None:
        settings |= {"plate_mm": option.plate_mm, "plate_deg": option.plate_deg}
    return settings


def _is_worse(choice: AxleChoice, code: str, setting: dict[str, Any]) -> bool:
    corner = choice.corner(setting["position"])
    remedy = next((r for r in corner.remedies if r.code == code), None) if corner is not None else None
    best = remedy.odds_within if remedy is not None else None
    return best is not None and try_setting(choice, setting).option.odds_within < best - WORSE_ODDS
