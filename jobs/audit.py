"""Reading the audit trail of a job: who changed what, newest first."""

from typing import Any

from django.utils.translation import gettext as _

from jobs.models import Job, Sweep, ThicknessRound


def changes_of(job: Job, *, most: int = 200) -> list[dict[str, Any]]:
    """Return who changed what on a job, newest first: the job itself, its sweeps and its rounds."""
    found: list[dict[str, Any]] = []
    for row in job.history.select_related("history_user").order_by("-history_id")[:most]:
        found.append({"at": row.history_date, "who": row.history_user, "what": row.get_state_display(), "where": ""})
    for model in (Sweep, ThicknessRound):
        rows = model.history.filter(corner__job=job).select_related("history_user", "corner")
        for row in rows.order_by("-history_id")[:most]:
            found.append(
                {
                    "at": row.history_date,
                    "who": row.history_user,
                    "what": _reason(row.history_change_reason or "", stations=len(row.stations_deg)),
                    "where": row.corner,
                    "kind": model.kind,
                    "typed": " · ".join(text or "–" for text in row.typed),
                }
            )
    return sorted(found, key=lambda change: change["at"], reverse=True)[:most]


def _reason(code: str, *, stations: int) -> str:
    """Put the reason kept with a change into words: a slot is a station, or the way back to the first."""
    word, _space, number = code.rstrip("…").partition(" ")
    if word == "slot" and number.isdecimal():
        slot = int(number)
        return _("back at 1") if slot == stations else _("station %(n)s") % {"n": slot % stations + 1}
    return {"set-up": _("set up"), "undo": _("undone"), "zero on the lowest": _("zeroed on the lowest")}.get(code, code)
