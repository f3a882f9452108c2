"""A job as files: the case, its verdict, its readings; and a case file as a job."""

import csv

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods

from compass.ground.errors import CaseFileError
from jobs.adapters import moved_mm
from jobs.case_actions import import_case as import_case_action
from jobs.case_actions import job_case_data, job_verdict_data
from jobs.forms import CaseFileForm
from jobs.models import Job, Sweep
from workshop.policy import Deed, require

_COLUMNS = (
    "corner",
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


@require_GET
def case_json(request: HttpRequest, pk: int) -> HttpResponse:
    """Hand out a job's evidence as a case file."""
    return _json(job_case_data(_job(request, pk)), f"iron-compass-job-{pk}.json")


@require_GET
def verdict_json(request: HttpRequest, pk: int) -> HttpResponse:
    """Hand out the core's verdict on a job: the same the command line gives on its case file."""
    return _json(job_verdict_data(_job(request, pk)), f"iron-compass-verdict-{pk}.json")


@require_GET
def readings_csv(request: HttpRequest, pk: int) -> HttpResponse:
    """Hand out every reading of a job as a table, as typed and in millimetres."""
    job = _job(request, pk)
    response = HttpResponse(content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="iron-compass-readings-{pk}.csv"'
    writer = csv.writer(response)
    writer.writerow(_COLUMNS)
    for corner in job.corners.prefetch_related("sweeps__instrument", "rounds__instrument"):
        for sweep in corner.sweeps.all():
            writer.writerows(_sweep_rows(corner.position, sweep))
        for measured in corner.rounds.all():
            stations = len(measured.stations_deg)
            for slot, (text, mm) in enumerate(zip(measured.typed, measured.readings_mm, strict=True)):
                k, row = slot % stations, slot // stations
                head = (corner.position, "thickness", "", measured.instrument or "", measured.radii_mm[row])
                place = (measured.index_deg, "", "", k + 1, measured.stations_deg[k])
                writer.writerow((*head, *place, _text(text), mm))
    return response


@require_http_methods(["GET", "POST"])
def import_case(request: HttpRequest) -> HttpResponse:
    """Open a case file as a job; every fault is named, and nothing is written unless all of it holds."""
    require(request.user, Deed.OPEN_JOB)
    form = CaseFileForm(request.POST or None, request.FILES or None)
    faults: list[str] = []
    if request.method == "POST" and form.is_valid():
        try:
            job = import_case_action(request.user, form.cleaned_data["case"].read())
            return redirect("jobs:complaint", job.pk)
        except CaseFileError as error:
            faults = [str(fault) for fault in error.faults]
            form.add_error("case", _("This file was not taken; nothing was written."))
    return render(request, "jobs/import.html", {"form": form, "faults": faults}, status=422 if form.errors else 200)


def _job(request: HttpRequest, pk: int) -> Job:
    require(request.user, Deed.READ_JOBS)
    return get_object_or_404(Job.objects.select_related("vehicle"), pk=pk)


def _json(data: dict[str, object], name: str) -> JsonResponse:
    response = JsonResponse(data, json_dumps_params={"indent": 1, "ensure_ascii": False})
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


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
