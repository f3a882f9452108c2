"""Every reading of a job as rows of a table, for CSV and for a workbook."""

from collections.abc import Iterator
from io import BytesIO
from typing import Final

from django.utils.translation import gettext as _

from jobs.adapters import moved_mm
from jobs.models import Job, Sweep, ThicknessRound
from workshop.storable import cell

COLUMNS: Final = (
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
XLSX: Final = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
Row = tuple[object, ...]


def reading_rows(job: Job) -> Iterator[Row]:
    """Yield the readings of all tapes that were not struck out, corner by corner."""
    for corner in job.corners.prefetch_related("sweeps__instrument", "rounds__instrument"):
        for sweep in (tape for tape in corner.sweeps.all() if not tape.struck):
            yield from _of_sweep(corner.position, sweep)
        for measured in (tape for tape in corner.rounds.all() if not tape.struck):
            yield from _of_round(corner.position, measured)


def workbook(job: Job) -> bytes:
    """Return the table as a workbook: what was typed stays text, millimetres and degrees are numbers."""
    # Only who asks for a workbook waits until its library is loaded.
    from openpyxl import Workbook
    from openpyxl.styles import Font

    book = Workbook()
    sheet = book.active
    sheet.title = _("Readings")
    sheet.append(COLUMNS)
    for head in sheet[1]:
        head.font = Font(bold=True)
    sheet.freeze_panes = "A2"
    for row in reading_rows(job):
        sheet.append([value if isinstance(value, (int, float, bool)) else cell(str(value or "")) for value in row])
    for column in sheet.columns:
        longest = max(len(str(filled.value or "")) for filled in column)
        sheet.column_dimensions[column[0].column_letter].width = min(longest + 2, 40)
    written = BytesIO()
    book.save(written)
    return written.getvalue()


def _of_sweep(position: str, sweep: Sweep) -> Iterator[Row]:
    moved = moved_mm(sweep).readings_mm
    head = (position, sweep.episode, "sweep", sweep.surface, sweep.instrument or "", sweep.radius_mm)
    head += (sweep.index_deg, sweep.cleaned, sweep.nuts_torqued)
    stations = len(sweep.stations_deg)
    for slot, text in enumerate(sweep.typed):
        is_closing = slot == stations
        angle = sweep.stations_deg[0 if is_closing else slot] if stations else 0
        yield (*head, "closing" if is_closing else slot + 1, angle, cell(text), moved[slot])


def _of_round(position: str, measured: ThicknessRound) -> Iterator[Row]:
    stations = len(measured.stations_deg)
    for slot, (text, mm) in enumerate(zip(measured.typed, measured.readings_mm, strict=True)):
        k, ring = slot % stations, slot // stations
        head = (position, measured.episode, "thickness", "", measured.instrument or "", measured.radii_mm[ring])
        yield (*head, measured.index_deg, "", "", k + 1, measured.stations_deg[k], cell(text), mm)
