"""The work being carried out, one step at a time: its words, its picture, the ladder, the order in time. Reads only."""

from datetime import datetime, timedelta
from typing import Any, Final
from urllib.parse import urlencode

from django.utils import timezone
from django.utils.formats import date_format, time_format
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy, ngettext

from compass.do.ladder import asks, plain_ahead, rung, skipped, steps_of
from compass.do.reading import Outcome
from compass.do.steps import RENEWED, Kind
from compass.do.work import PlacedStep
from compass.ground.units import Unit
from compass.words.codes import remedy_name
from drawing.expected import Expected, draw_expected
from drawing.feed import Feed, draw_feed
from drawing.placing import draw_placing
from drawing.setting import Setting
from drawing.star import draw_star
from drawing.strip import Bar, draw_strip
from drawing.vehicle import draw_wheels
from jobs.do.cut_page import drawn_section
from jobs.do.doing import Change, Doing, Side
from jobs.do.step_words import asked_name, part_name, place_name, step_words
from jobs.judging import judge
from jobs.models import RunStep
from jobs.words import about, figure_words, setting_words
from workshop.addresses import address
from workshop.models import POSITION_NAMES, User, limit_label

_OUTCOMES: Final = {
    Outcome.EXPECTED: gettext_lazy("as expected"),
    Outcome.BELOW: gettext_lazy("less than expected"),
    Outcome.ABOVE: gettext_lazy("more than expected"),
    Outcome.OVER_LIMIT: gettext_lazy("over the limit"),
    Outcome.UNDER_STOP: gettext_lazy("under the stop: the passes still to come would go below machine-to"),
}
# Reasons that are given again and again: one press each.
QUICK_REASONS: Final = (gettext_lazy("alone, seen by myself"), gettext_lazy("seen before on this job"))


def nothing_to_do() -> dict[str, Any]:
    """Return what the Do leg says where no work is decided."""
    return {
        "words": _(
            "No work is decided on this job yet. Choose a remedy: its steps then stand here in order, with the figures "
            "of this corner."
        ),
        "teaches": (
            (_("One step at a time"), _("large, with its reason, its torque, its star order, its lines on the dial")),
            (_("Hold points ◆"), _("passed by their reading, a second person, or with a reason")),
            (_("Both sides in time"), _("what one to three pairs of hands do when, and when it is ready")),
            (_("Ways back"), _("what was pressed by mistake is taken back, a pass that broke off is begun anew")),
        ),
    }


def run_context(user: User, doing: Doing, *, at: str = "") -> dict[str, Any]:
    """Return the page of the current step, or of the one asked for by ``at`` (place and key)."""
    position, _sep, key = at.partition("|")
    asked = doing.step(position, key) if key else None
    current, done = doing.current, doing.done
    placed = None if doing.changes else asked or current  # changed work shows no step until somebody goes on by it
    context: dict[str, Any] = {
        "doing": doing,
        "run": doing.run,
        "seen": doing.run.seen if doing.run is not None else 0,
        "changes": [_change(change, user.unit) for change in doing.changes],
        "changed_by": ", ".join(dict.fromkeys(str(side.decision.decided_by) for side in doing.sides.values())),
        "places": [_place(doing, place, placed) for place in dict.fromkeys(part.position for part in doing.parts)],
        "strip": _strip(doing),
        "people": doing.run.people if doing.run is not None else 1,
        "stops": [_stop(side) for side in doing.sides.values() if _stop(side)],
        "last": _last_done(doing),
        "done_count": sum(rung(step) in done for part in doing.parts for step in part.steps),
        "total": sum(len(part.steps) for part in doing.parts),
    }
    if placed is None:
        return context | {"now": None}
    return context | _step(user, doing, placed, is_current=current is not None and rung(placed) == rung(current))


def _step(user: User, doing: Doing, placed: PlacedStep, *, is_current: bool) -> dict[str, Any]:
    side = _side(doing, placed)
    studs = side.corner.limits.studs if side.corner.limits is not None else 5
    here = [step for step in steps_of(doing.parts) if step.position == placed.position]
    all_done = doing.done
    done = all_done.get(rung(placed))
    before = () if done else skipped(doing.parts, all_done.keys(), placed)
    tries = doing.tries(placed)
    words = step_words(placed, studs, user.unit)
    holds = [step for step in here if step.step.kind is Kind.HOLD and rung(step) not in all_done]
    torque = next((name for name in placed.asks if name.startswith("torque ")), "")
    return {
        "now": words,
        "placed": placed,
        "key": placed.key,
        "is_current": is_current,
        "ahead": _ahead(doing, user.unit) if is_current else [],
        "plain_ahead": len(plain_ahead(doing.parts, doing.done.keys(), placed)) if is_current else 0,
        "remedy": _(remedy_name(side.remedy, side.position)) if placed.position else "",
        "here_number": next(k for k, step in enumerate(here, start=1) if rung(step) == rung(placed)),
        "here_total": len(here),
        "holds_left": len(holds),
        "done": done,
        "done_reading": _reading(done, placed, user.unit) if done is not None else "",
        "skipped": [step_words(step, studs, user.unit)["says"] for step in before],
        "tries": [
            {"reading": _reading(row, placed, user.unit), "words": _outcome(row), "who": row.done_by, "at": row.done_at}
            for row in tries
        ],
        "findings": [
            {"code": finding.code, "words": _(finding.says), "back": bool(finding.back)}
            for finding in placed.step.findings
        ],
        "asks_reading": bool(placed.step.expects),
        "asks_arm": placed.step.expects == "compensated",
        "arm": _arm(side, user.unit) if placed.step.expects == "compensated" else "",
        "arm_unit": (user.unit if user.unit is Unit.MM else Unit.INCH).value,
        "reading_unit": _reading_unit(placed, user.unit),
        **_tape(placed, side, user.unit),
        "by_word": placed.step.kind is Kind.HOLD and not placed.step.findings and not placed.step.expects,
        "may_pass": bool(tries) and placed.step.expects not in ("after_pass", "compensated", *RENEWED),
        "asks_torque": asked_name(torque) if torque else "",
        "asks_plan": ", ".join(asked_name(name) for name in placed.asks if name in placed.step.figures),
        "torque_unit": _("lb·ft") if user.unit is Unit.THOU else _("N·m"),
        "breaks": bool(placed.step.broken) and done is None and is_current,
        "scale": _scale(placed, side, tries, user.unit),
        "panel": _panel(placed, side, studs, user.unit),
        "wheels": _wheels(doing, placed),
        "quick_reasons": QUICK_REASONS,
        "press": _press(placed),
        "re_planned": _re_planned(placed, side, user.unit),
    }


def _ahead(doing: Doing, unit: Unit) -> list[dict[str, Any]]:
    """Return the steps a device can show without asking: what is pressed there is sent when the line is back."""
    ahead = doing.ahead
    if len(ahead) < 2 or asks(ahead[0]):
        return []
    rows = []
    for placed in ahead:
        limits = _side(doing, placed).corner.limits
        words = step_words(placed, limits.studs if limits is not None else 5, unit)
        rows.append({"now": words, "placed": placed, "asks": asks(placed), "press": _press(placed)})
    return rows


def _side(doing: Doing, placed: PlacedStep) -> Side:
    return doing.sides.get(placed.position) or next(iter(doing.sides.values()))


def _press(placed: PlacedStep) -> str:
    """Return the words of the big press."""
    if placed.step.findings:
        return _("This is what it shows")
    if placed.step.expects:
        return _("Read, go on")
    return _("Seen, go on") if placed.step.kind is Kind.CONFIRM else _("Done, go on")


def _reading_unit(placed: PlacedStep, unit: Unit) -> str:
    is_large = placed.step.expects == "after_pass" or placed.step.expects in RENEWED
    return (unit if unit is Unit.MM or not is_large else Unit.INCH).value


def _reading(row: RunStep, placed: PlacedStep, unit: Unit) -> str:
    if row.reading_mm is None:
        return row.typed
    if placed.step.expects in RENEWED:
        shown = about(row.reading_mm, unit if unit is Unit.MM else Unit.INCH, expanded_mm=0.05)
    else:
        shown = about(row.reading_mm, unit, expanded_mm=0.002 if placed.step.expects == "after_pass" else 0.005)
    return f"{shown.figure} {shown.unit}"


def _outcome(row: RunStep) -> str:
    return str(_OUTCOMES.get(Outcome(row.outcome), "")) if row.outcome else ""


def _tape(placed: PlacedStep, side: Side, unit: Unit) -> dict[str, str]:
    """Return where a runout after the work is swept on a tape, and what the tape says where it has been."""
    if placed.step.expects != "runout_after" or not placed.position:
        return {"tape_url": "", "tape_value": ""}
    url = address("jobs:prepare", side.corner.job_id, placed.position)
    judged = judge(side.corner) if side.corner.episode else None
    tir = judged.verdict.measured.runout.tir if judged is not None and judged.verdict is not None else None
    value = about(tir.value_mm, unit, expanded_mm=0.005).figure if tir is not None else ""
    return {"tape_url": url, "tape_value": value}


def _arm(side: Side, unit: Unit) -> str:
    """Return the arm typed last, as its reader counts."""
    if side.cut is None or not side.cut.check_arm_mm:
        return ""
    return about(side.cut.check_arm_mm, unit if unit is Unit.MM else Unit.INCH, expanded_mm=0.5).figure


def _re_planned(placed: PlacedStep, side: Side, unit: Unit) -> str:
    """Say that a reading did not fit, before the tip touches again."""
    plan = side.plan
    if plan is None or not plan.disagrees or not placed.position or plan.refused:
        return ""
    if placed.part not in ("adapter", "cut", "bench", "bench cut"):
        return ""
    shown = about(abs(plan.off_mm), unit, expanded_mm=0.005)
    less = (
        _("%(mm)s %(unit)s less came off than was fed")
        if plan.off_mm > 0
        else _("%(mm)s %(unit)s more came off than was fed")
    )
    return less % {"mm": shown.figure, "unit": shown.unit} + _(
        ": touch both faces anew; the passes are planned from what you read."
    )


def _stop(side: Side) -> str:
    """Say why no tip touches a disc any more; empty where one may."""
    if side.plan is None or side.plan.refused is None or not side.plan.done:
        return ""
    return _(
        "%(place)s: no tip touches this disc any more: what is left of it would go below machine-to. Choose anew."
    ) % {"place": POSITION_NAMES[side.position]}


def _change(change: Change, unit: Unit) -> dict[str, str]:
    place = place_name(change.position)
    if change.what == "remedy":
        before, now = (
            _(remedy_name(code, change.position)) if code else _("nothing") for code in (change.before, change.now)
        )
        return {"place": place, "what": "", "before": before, "now": now}
    if change.what == "setting":
        before, now = (setting_words(one or {}, 5, unit) or "–" for one in (change.before, change.now))
        return {"place": place, "what": _("setting"), "before": before, "now": now}
    if change.what == "once_more":
        return {"place": place, "what": "", "before": _("done, read, not held"), "now": _("once more")}
    before, now = (_limit(change.what, value, unit) for value in (change.before, change.now))
    return {"place": place, "what": limit_label(change.what), "before": before, "now": now}


def _limit(name: str, value: Any, unit: Unit) -> str:
    if isinstance(value, float) and name.endswith("_mm"):
        shown = about(value, unit, expanded_mm=0.005)
        return f"{shown.figure} {shown.unit}"
    return "–" if value in (None, "", []) else str(value)


def _place(doing: Doing, position: str, placed: PlacedStep | None) -> dict[str, Any]:
    """Return one place's ladder: its rungs with their marks, and whether it is the one shown."""
    done, current = doing.done, doing.current
    rungs = []
    for step in steps_of([part for part in doing.parts if part.position == position]):
        rungs.append(
            {
                "url": f"{address('jobs:do', doing.job.pk)}?{urlencode({'at': f'{position}|{step.key}'})}",
                "hold": step.step.kind is Kind.HOLD,
                "done": rung(step) in done,
                "current": current is not None and rung(step) == rung(current),
                "shown": placed is not None and rung(step) == rung(placed),
                "says": part_name(step.part),
                "number": step.number,
            }
        )
    to_go = next((step for step in rungs if not step["done"]), None)
    return {
        "position": position,
        "name": place_name(position),
        "rungs": rungs,
        "here": placed is not None and placed.position == position,
        "url": (to_go or rungs[-1])["url"],
        "left": sum(not step["done"] for step in rungs),
    }


def _last_done(doing: Doing) -> dict[str, Any] | None:
    """Return the step done last, by whom and when, so that a slip can be taken back at once."""
    row = max(doing.done.values(), key=lambda one: one.done_at, default=None)
    placed = doing.step(row.position, row.key) if row is not None else None
    if row is None or placed is None:
        return None
    return {"row": row, "words": f"{place_name(row.position)} · {part_name(placed.part)}", "number": placed.number}


def _scale(placed: PlacedStep, side: Side, tries: list[RunStep], unit: Unit) -> str:
    """Draw where the reading should fall."""
    expected = placed.figures.get(placed.step.expects)
    if isinstance(expected, float):
        expected = (0.0, expected)
    if not isinstance(expected, tuple) or placed.step.expects in RENEWED:
        return ""
    stop, before = placed.figures.get("stop"), None
    if placed.step.expects == "after_pass" and side.chosen is not None:
        done = [one.reading_mm for one in side.plan.done if one.reading_mm] if side.plan is not None else []
        result = side.chosen.measured.thickness.result
        before = done[-1] if done else result.minimum.value_mm if result is not None else None
    if placed.step.expects == "runout_after" and side.corner.limits is not None:
        stop = side.corner.limits.max_runout_mm
    name = _("stop %(mm)s") if placed.step.expects == "after_pass" else _("limit %(mm)s")
    read = tries[-1].reading_mm if tries else None

    def say(mm: float) -> str:
        return about(mm, unit, expanded_mm=0.005).figure

    labels = {
        "range": _("expect %(range)s") % {"range": figure_words(placed.step.expects, expected, 5, unit)},
        "stop": name % {"mm": say(stop)} if isinstance(stop, float) else "",
        "before": _("before %(mm)s") % {"mm": say(before)} if before is not None else "",
    }
    places = Expected(expected[0], expected[1], stop if isinstance(stop, float) else None, before, read)
    return draw_expected(places, labels=labels, title=", ".join(text for text in labels.values() if text))


def _panel(placed: PlacedStep, side: Side, studs: int, unit: Unit) -> str:
    """Draw what the step is about; empty where its needs are shown large instead."""
    figures = placed.figures
    match placed.step.drawn:
        case "star":
            return draw_star(studs, title=_("Star order: %(order)s") % {"order": figures.get("star", "")})
        case "turn" | "plate":
            setting = side.decision.settings.get(side.position, {})
            thin = setting.get("plate_deg") if setting.get("plate_mm") else None
            drawn = Setting(setting.get("index_deg", 0.0), thin, thin_label=_("thin"))
            return draw_placing(drawn, studs=studs, title=setting_words(setting, studs, unit))
        case "knobs":
            return _knobs(placed, side, unit)
        case "section":
            return drawn_section(side.chosen, side.lathe, side.plan)
    return ""


def _wheels(doing: Doing, placed: PlacedStep) -> str:
    """Draw the vehicle with the wheel in hand; where a step is done once, all that are worked on."""
    vehicle, corners = doing.job.vehicle, doing.job.corners.all()
    at = [placed.position] if placed.position else list(doing.sides)
    twins = [corner.position for corner in corners if vehicle.has_twin_wheels(corner.axle)]
    title = place_name(placed.position)
    return draw_wheels(vehicle.kind, [corner.position for corner in corners], at=at, title=title, twins=twins)


def _knobs(placed: PlacedStep, side: Side, unit: Unit) -> str:
    ahead = next((one for one in side.plan.passes if one.number == placed.pass_number), None) if side.plan else None
    if ahead is None:
        return ""
    feeds = []
    for name, mm, lines in (
        (_("outboard"), ahead.out_mm, ahead.out_lines),
        (_("inboard"), ahead.in_mm, ahead.in_lines),
    ):
        fed = about(mm, unit, expanded_mm=0.005)
        length = f"{fed.figure} {fed.unit}"
        if lines is None:
            feeds.append(Feed(name, fed.figure, fed.unit, None, _("zero at first touch")))
        else:
            words = ngettext("line", "lines", lines)
            feeds.append(
                Feed(name, str(lines), words, lines, _("%(length)s · zero at first touch") % {"length": length})
            )
    title = figure_words("outboard", (ahead.out_mm,), 5, unit) + ", " + figure_words("inboard", (ahead.in_mm,), 5, unit)
    return draw_feed((feeds[0], feeds[1]), title=title)


def _strip(doing: Doing) -> str:
    """Draw the order of work: what was done when, what is to come, and where now stands."""
    now = timezone.now()
    began = doing.run.started_at if doing.run is not None else now
    past = (now - began).total_seconds() / 60
    bars = _done_bars(doing, began)
    table = doing.timetable()
    lathes = dict.fromkeys(slot.task.lathe for slot in table.slots if slot.task.lathe)
    people = range(doing.run.people if doing.run is not None else 1)
    hands = [_("hands") if len(people) == 1 else _("hands %(n)s") % {"n": k + 1} for k in people]
    current = doing.current
    for slot in table.slots:
        part = next(part for part in doing.parts if f"{doing.job.pk}|{part.key}" == slot.task.key)
        at_it = (
            current is not None
            and doing.run is not None
            and part.key == f"{current.position}:{current.part}:{part.turn}"
        )
        state = "now" if at_it and slot.start == 0 else "ahead"
        rows = (
            [place_name(part.position)] + [hands[k] for k in slot.who] + ([slot.task.lathe] if slot.task.lathe else [])
        )
        for row in rows:
            label = part_name(part.name) if row == rows[0] else place_name(part.position)
            bars.append(Bar(row, past + slot.start, past + slot.end, label, state))
    places = [place_name(part) for part in dict.fromkeys(part.position for part in doing.parts)]
    rows = [*places, *lathes, *(hands if len(hands) > 1 else ())]  # one pair of hands is at every block
    return draw_strip(
        [bar for bar in bars if bar.row in rows],
        rows,
        hours=hour_marks(began, past + table.finish),
        now=past,
        late=_late(doing, now, table.finish),
        title=_("Order of work: ready in about %(n)s min (estimate)") % {"n": table.finish},
    )


def _done_bars(doing: Doing, began: datetime) -> list[Bar]:
    bars = []
    last = began
    spans: dict[tuple[str, str], list[datetime]] = {}
    for row in sorted(doing.done.values(), key=lambda one: one.done_at):
        spans.setdefault((row.position, ":".join(row.key.split(":")[:2])), []).extend((last, row.done_at))
        last = row.done_at
    for (position, part), moments in spans.items():
        start, end = ((moment - began).total_seconds() / 60 for moment in (min(moments), max(moments)))
        bars.append(Bar(place_name(position), start, max(end, start), part_name(part.split(":")[0]), "done"))
    return bars


def hour_marks(began: datetime, minutes: float) -> list[tuple[float, str]]:
    """Return marks along the strip, at most a dozen, at full quarters or hours."""
    every = next((step for step in (5, 10, 15, 30, 60, 120) if minutes / step <= 12), 240)
    local = timezone.localtime(began)
    first = local.replace(second=0, microsecond=0) + timedelta(minutes=(-local.minute) % every or 0)
    marks, at = [], first
    while (at - local).total_seconds() / 60 <= minutes:
        if at >= local:
            marks.append(((at - local).total_seconds() / 60, time_format(at, "CLOCK")))
        at += timedelta(minutes=every)
    return marks


def _late(doing: Doing, now: datetime, minutes: int) -> str:
    ready = now + timedelta(minutes=minutes)
    words = _("now · ready about %(time)s") % {"time": date_format(timezone.localtime(ready), "CLOCK")}
    if doing.run is None or doing.run.finish_at is None or not minutes:
        return words if minutes else _("now")
    late = round((ready - doing.run.finish_at).total_seconds() / 60)
    if late >= 1:
        return words + " · " + ngettext("%(n)s min behind", "%(n)s min behind", late) % {"n": late}
    return words
