"""Reading the audit trail of a job: who changed what, in words, newest first."""

import re
from collections.abc import Iterable, Iterator
from typing import Any, Final

from django.db.models import Q
from django.utils import timezone
from django.utils.formats import date_format
from django.utils.translation import gettext as _

from compass.do.procedures import SAYS
from compass.ground.units import Unit
from compass.prove.proof import ADVICE
from compass.words.codes import CAUSES, FELT, SEEN, remedy_name
from compass.words.places import place_text
from jobs.look_fields import FIELDS
from jobs.models import Booking, Closing, CutPass, FittedPlate, Job, Look, QuickReading, RunStep, Sweep, ThicknessRound
from jobs.words import figure_words, place_words
from workshop.models import POSITION_NAMES, User, Vehicle
from workshop.words import distance_text

MOST: Final = 200
_FIGURES: Final = {field.name: field.label for field in FIELDS}


def changes_of(job: Job, *, user: User | None = None, most: int = MOST) -> list[dict[str, Any]]:
    """Return who changed what on a job, newest first; distances as ``user`` reads them."""
    reader = user or job.created_by
    sources = (
        _of_job(job, reader),
        _of_tapes(job),
        _of_looks(job),
        _of_quick_readings(job),
        _of_plates(job),
        _of_bookings(job),
        _of_decisions(job),
        _of_passes(job),
        _of_steps(job, reader),
        _of_closings(job),
    )
    changes = [change for source in sources for change in source]
    return sorted(changes, key=lambda change: change["at"], reverse=True)[:most]


def _change(row: Any, what: str, *, where: Any = "", typed: str = "") -> dict[str, Any]:
    return {"at": row.history_date, "who": row.history_user, "what": what, "where": where, "typed": typed}


def _with_before(rows: Iterable[Any], key: str = "id") -> Iterator[tuple[Any, Any]]:
    """Pair history rows, oldest first, with the row of the same object before."""
    before: dict[Any, Any] = {}
    for row in rows:
        yield before.get(getattr(row, key)), row
        before[getattr(row, key)] = row


def _newest(rows: Any) -> list[Any]:
    """Return the newest rows of a history, oldest first."""
    return list(rows.select_related("history_user").order_by("-history_id")[:MOST])[::-1]


def _of_job(job: Job, reader: User) -> Iterator[dict[str, Any]]:
    rows = _newest(job.history.select_related("assigned_to", "with_trainee"))
    vehicles = {row.vehicle_id for row in rows}
    names: dict[int, str] = {}
    if len(vehicles) > 1:  # by their history: one may have been taken out of the fleet
        names = dict(Vehicle.history.filter(id__in=vehicles).order_by("history_id").values_list("id", "label"))
    for before, row in _with_before(rows):
        if before is None:
            yield _change(row, _("opened") if row.history_type == "+" else _("changed"), typed=row.complaint)
            continue
        said: list[tuple[str, str]] = []
        if row.vehicle_id != before.vehicle_id:
            both = (before.vehicle_id, row.vehicle_id)
            said.append((_("vehicle") + ": " + " → ".join(names.get(pk, "–") for pk in both), ""))
        if row.state != before.state:
            said.append((f"{before.get_state_display()} → {row.get_state_display()}", row.closing_reason))
        if row.found_cause != before.found_cause:
            cause = _(CAUSES[row.found_cause]) if row.found_cause in CAUSES else _("not known")
            said.append((_("cause"), cause))
        if row.complaint != before.complaint:
            said.append((_("complaint"), row.complaint or "–"))
        if row.odometer_km != before.odometer_km:
            distances = (_distance(km, reader) for km in (before.odometer_km, row.odometer_km))
            said.append((_("odometer"), " → ".join(distances)))
        if row.assigned_to_id != before.assigned_to_id:
            said.append((_("who has it"), str(row.assigned_to or "–")))
        if row.with_trainee_id != before.with_trainee_id:
            said.append((_("trainee at it"), str(row.with_trainee or "–")))
        said += _of_story(before, row)
        again = (row.history_change_reason or "").partition("opened again: ")[2]
        if again:
            said.append((_("opened again"), again))
        if row.decided != before.decided and row.state == before.state:
            continue  # the decision itself stands below
        yield _change(
            row,
            "; ".join(what for what, _words in said) or row.history_change_reason or _("changed"),
            typed=" · ".join(words for _what, words in said if words),
        )


def _of_story(before: Any, row: Any) -> list[tuple[str, str]]:
    """Say what changed of a story: the interview, what was put right beside the discs, what was felt when driven."""
    changed = {name for name in before.story | row.story if before.story.get(name) != row.story.get(name)}
    said = [(_("what the driver tells"), "")] if changed - {"mended_beside", "after_work"} else []
    was, now = (
        [place_words(m["cause"], m.get("position")) for m in of.story.get("mended_beside", [])] for of in (before, row)
    )
    said += [(_("seen to beside the discs"), name) for name in now if name not in was]
    said += [(_("taken back: seen to beside the discs"), name) for name in was if name not in now]
    if "after_work" in changed:
        felt = row.story.get("after_work")
        said.append((_("felt on the road"), _(FELT[felt]) if felt in FELT else "–"))
    return said


def _distance(km: int | None, reader: User) -> str:
    return "–" if km is None else distance_text(km, reader.unit)


def _of_tapes(job: Job) -> Iterator[dict[str, Any]]:
    for model in (Sweep, ThicknessRound):
        for row in _newest(model.history.filter(corner__job=job).select_related("corner")):
            yield _change(
                row,
                _reason(row.history_change_reason or "", stations=len(row.stations_deg)),
                where=row.corner,
                typed=" · ".join(text or "–" for text in row.typed),
            ) | {"kind": model.kind}


def _of_looks(job: Job) -> Iterator[dict[str, Any]]:
    for row in _newest(Look.history.filter(corner__job=job).select_related("corner")):
        word, _space, rest = (row.history_change_reason or "").partition(" ")
        if word == "figure" and rest in _FIGURES:
            text = row.typed.get(rest, "")
            yield _change(row, str(_FIGURES[rest]), where=row.corner, typed=f"{text} ({row.unit})" if text else "–")
            continue
        code, _space, reason = rest.removeprefix("seen ").partition(" ")
        if word in ("seen", "not") and code in SEEN:
            what = _("seen: %(what)s") if word == "seen" else _("no longer seen: %(what)s")
            words = what % {"what": _(SEEN[code])}
            yield _change(row, f"{words}: {reason}" if reason else words, where=row.corner)
        else:
            seen = ", ".join(_(SEEN[code]) for code in row.findings)
            typed = ", ".join(f"{_FIGURES[n]} {text}" for n, text in row.typed.items() if n in _FIGURES)
            yield _change(row, _("looked"), where=row.corner, typed="; ".join(part for part in (typed, seen) if part))


def _of_quick_readings(job: Job) -> Iterator[dict[str, Any]]:
    rows = QuickReading.history.filter(corner__job=job).select_related("corner", "corner__limits")
    for before, row in _with_before(_newest(rows)):
        if before is None:
            what = _("quick reading")
        else:
            what = _("quick reading struck out") if row.withdrawn else _("quick reading counts again")
        studs = row.corner.limits.studs if row.corner.limits is not None else 1
        place = place_text(row.high_deg, studs, translate=_)
        yield _change(row, what, where=row.corner, typed=f"{row.typed} · {place}")


def _of_plates(job: Job) -> Iterator[dict[str, Any]]:
    for row in _newest(FittedPlate.history.filter(job=job).select_related("plate")):
        what = _("plate taken out") if row.taken_out else _("plate fitted")
        yield _change(row, what, where=POSITION_NAMES[row.position], typed=str(row.plate))


def _of_bookings(job: Job) -> Iterator[dict[str, Any]]:
    for row in _newest(Booking.history.filter(job=job)):
        begins, ends = (timezone.localtime(at) for at in (row.starts_at, row.ends_at))
        what = _("%(place)s given up") if row.history_type == "-" else _("%(place)s taken")
        when = f"{date_format(begins, 'DAY_SHORT_AND_TIME')}–{date_format(ends, 'CLOCK')}"
        yield _change(row, what % {"place": row.get_place_display()}, typed=when)


def _of_decisions(job: Job) -> Iterator[dict[str, Any]]:
    for decision in job.decisions.select_related("decided_by").order_by("-pk")[:MOST]:
        words = ", ".join(f"{p}: {_(remedy_name(code, p))}" for p, code in decision.remedies.items() if code)
        yield {
            "at": decision.created_at,
            "who": decision.decided_by,
            "what": _("decided") if decision.remedies else _("decision withdrawn"),
            "where": decision.axle,
            "typed": " · ".join(part for part in (words, decision.reason) if part),
        }


def _of_passes(job: Job) -> Iterator[dict[str, Any]]:
    for row in _newest(CutPass.history.filter(cut__corner__job=job).select_related("cut__corner")):
        what = _("pass %(n)s struck out") if row.withdrawn else _("pass %(n)s")
        yield _change(row, what % {"n": row.number}, where=row.cut.corner, typed=row.typed)


def _of_steps(job: Job, reader: User) -> Iterator[dict[str, Any]]:
    """Say which steps of the work were done, tried and taken back."""
    rows = (
        RunStep.of(reader).filter(run__job=job).select_related("done_by", "second", "taken_by").order_by("-pk")[:MOST]
    )
    studs = {corner.position: corner.limits.studs for corner in job.corners.all() if corner.limits is not None}
    for row in rows:
        code = row.key.split(":")[2]
        says = ADVICE.get(code) or SAYS.get(code)
        what = _with_figures(_(says), row, studs.get(row.position, 5), reader.unit) if says else row.key
        where = POSITION_NAMES.get(row.position, "")
        words = [row.typed, row.reason, row.source, str(row.second or "")]
        done = {"at": row.done_at, "who": row.done_by, "where": where}
        yield done | {
            "what": what if row.passed else _("not passed: %(step)s") % {"step": what},
            "typed": " · ".join(word for word in words if word),
        }
        if row.taken_back:
            taken = {"at": row.taken_at, "who": row.taken_by, "where": where, "typed": row.taken_why}
            yield taken | {"what": _("taken back: %(step)s") % {"step": what}}


def _with_figures(says: str, row: RunStep, studs: int, unit: Unit) -> str:
    """Return a step's words with the figures it was told with; those that nobody had said stay open."""
    told = {name: tuple(figure) if isinstance(figure, list) else figure for name, figure in row.said.items()}
    figures = {name: figure_words(name, figure, studs, unit) for name, figure in told.items()}
    return says.format_map(dict.fromkeys(re.findall(r"{([^{}]+)}", says), "…") | figures)


def _of_closings(job: Job) -> Iterator[dict[str, Any]]:
    """Say what was told on the telephone, and whether a visit was said to be a comeback; at both jobs that it joins."""
    for before, row in _with_before(_newest(Closing.history.filter(Q(job=job.pk) | Q(seen_again=job.pk)))):
        if row.job_id == job.pk and row.rung_at != (before.rung_at if before is not None else None):
            said = f"{row.get_rung_display()} {row.rung_note}".strip()
            yield _change(row, _("the owner was rung"), typed=said)
        if row.comeback is not None and row.comeback != (before.comeback if before is not None else None):
            what = _("job %(n)s is a comeback of this work") if row.comeback else _("job %(n)s is no comeback")
            if row.job_id != job.pk:
                what = _("a comeback of job %(n)s") if row.comeback else _("no comeback of job %(n)s")
            yield _change(row, what % {"n": row.seen_again_id if row.job_id == job.pk else row.job_id})


def _reason(code: str, *, stations: int) -> str:
    """Put the reason kept with a change into words: a slot is a station, or the way back to the first."""
    word, _space, number = code.rstrip("…").partition(" ")
    if word == "slot" and number.isdecimal():
        slot = int(number)
        return _("back at 1") if slot == stations else _("station %(n)s") % {"n": slot % stations + 1}
    return {
        "set-up": _("set up"),
        "set-up corrected": _("set-up put right"),
        "struck out": _("struck out"),
        "other corner": _("given to this corner, where it was read"),
        "counts again": _("counts again"),
        "undo": _("undone"),
        "zero on the lowest": _("zeroed on the lowest"),
    }.get(code, code)
