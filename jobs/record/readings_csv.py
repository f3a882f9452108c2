"""Every reading of a job as rows of a table."""

from jobs.adapters import moved_mm
from jobs.models import Sweep

_COLUMNS = (
    "corner",
    "after_work",
    "kind",
    "surface",
    "instrument",
    "radius_mm",
    "index_deg",
    "cleaned",
    "nuts_torqued",
    "station",
    "hub_angle_deg",
    "typed",
    "reading_mm",
)


def _sweep_rows(position: str, sweep: Sweep) -> list[tuple[object, ...]]:
    moved = moved_mm(sweep).readings_mm
    rows = []
    for slot, text in enumerate(sweep.typed):
        back = slot == len(sweep.stations_deg)
        station, angle = (
            ("closing", sweep.stations_deg[0] if sweep.stations_deg else 0)
            if back
            else (
                slot + 1,
                sweep.stations_deg[slot],
            )
        )
        rows.append(
            (
                position,
                sweep.episode,
                "sweep",
                sweep.surface,
                sweep.instrument or "",
                sweep.radius_mm,
                sweep.index_deg,
                sweep.cleaned,
                sweep.nuts_torqued,
                station,
                angle,
                _text(text),
                moved[slot],
            )
        )
    return rows


def _text(typed: str) -> str:
    """Keep a spreadsheet from taking what was typed for a formula."""
    return "'" + typed if typed[:1] in ("=", "@") else typed
