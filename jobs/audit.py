"""Reading the audit trail of a job: who changed what, newest first."""

from typing import Any

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
                    "what": row.history_change_reason or "",
                    "where": row.corner,
                    "kind": model.kind,
                    "typed": " · ".join(text or "–" for text in row.typed),
                }
            )
    return sorted(found, key=lambda change: change["at"], reverse=True)[:most]
