"""Reading the audit trail of a job: who changed what, newest first."""

from typing import Any

from django.utils.translation import gettext as _

from compass.words.codes import REMEDIES
from jobs.models import CutPass, Job, Sweep, ThicknessRound


def changes_of(job: Job, *, most: int = 200) -> list[dict[str, Any]]:
    """Return who changed what on a job, newest first: the job itself, its sweeps and its rounds."""
    changes: list[dict[str, Any]] = []
    for row in job.history.select_related("history_user").order_by("-history_id")[:most]:
        changes.append({"at": row.history_date, "who": row.history_user, "what": row.get_state_display(), "where": ""})
    for model in (Sweep, ThicknessRound):
        rows = model.history.filter(corner__job=job).select_related("history_user", "corner")
        for row in rows.order_by("-history_id")[:most]:
            changes.append(
                {
                    "at": row.history_date,
                    "who": row.history_user,
                    "what": _reason(row.history_change_reason or "", stations=len(row.stations_deg)),
                    "where": row.corner,
                    "kind": model.kind,
                    "typed": " · ".join(text or "–" for text in row.typed),
                }
            )
    for decision in job.decisions.select_related("decided_by").order_by("-pk")[:most]:
        words = ", ".join(f"{p}: {_(REMEDIES[code])}" for p, code in decision.remedies.items() if code)
        changes.append(
            {
                "at": decision.created_at,
                "who": decision.decided_by,
                "what": _("decided"),
                "where": decision.axle,
                "typed": f"{words} · {decision.reason}" if decision.reason else words,
            }
        )
    for one in CutPass.history.filter(cut__corner__job=job).select_related("history_user", "cut__corner")[:most]:
        changes.append(
            {
                "at": one.history_date,
                "who": one.history_user,
                "what": _("pass %(n)s struck out") % {"n": one.number}
                if one.withdrawn
                else _("pass %(n)s") % {"n": one.number},
                "where": one.cut.corner,
                "typed": one.typed,
            }
        )
    return sorted(changes, key=lambda change: change["at"], reverse=True)[:most]


def _reason(code: str, *, stations: int) -> str:
    """Put the reason kept with a change into words: a slot is a station, or the way back to the first."""
    word, _space, number = code.rstrip("…").partition(" ")
    if word == "slot" and number.isdecimal():
        slot = int(number)
        return _("back at 1") if slot == stations else _("station %(n)s") % {"n": slot % stations + 1}
    return {"set-up": _("set up"), "undo": _("undone"), "zero on the lowest": _("zeroed on the lowest")}.get(code, code)
