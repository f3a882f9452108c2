"""A job as files: the case, its verdict, its readings; and a case file as a job."""

import csv
from typing import Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods

from jobs.frame import job_context
from jobs.models import Job
from jobs.record.case_out import job_case_data, job_verdict_data
from jobs.record.forms import CaseFileForm
from jobs.record.many_cases import is_archive
from jobs.record.one_case import KIND, ask_to_open, where_it_stands
from jobs.record.readings_table import COLUMNS, XLSX, reading_rows, workbook
from jobs.record.trail import changes_of
from workshop.addresses import address
from workshop.limits_of_asking import file_limit
from workshop.long_work.asking import ask_for, listed, named_in, shown
from workshop.models import LongWork
from workshop.permissions import Deed, require
from workshop.posting import counts_once, posted_from
from workshop.storable import cell


@posted_from("jobs:import")
@file_limit
@counts_once
def all_cases(request: HttpRequest) -> HttpResponse:
    """Have every job of the workshop written as a case file, in one archive."""
    require(request.user, Deed.OPEN_JOB)
    return redirect(address("workshop:work", ask_for(request.user, "cases-out").pk))


@require_GET
def case_json(request: HttpRequest, pk: int) -> HttpResponse:
    """Hand out a job's evidence as a case file."""
    return _json(job_case_data(request.user, _job(request, pk)), f"iron-compass-job-{pk}.json")


@require_GET
def verdict_json(request: HttpRequest, pk: int) -> HttpResponse:
    """Hand out the core's verdict on a job: the same the command line gives on its case file."""
    return _json(job_verdict_data(request.user, _job(request, pk)), f"iron-compass-verdict-{pk}.json")


@require_GET
def readings_csv(request: HttpRequest, pk: int) -> HttpResponse:
    """Hand out every reading of a job as a table, as typed and in millimetres."""
    job = _job(request, pk)
    response = HttpResponse(content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="iron-compass-readings-{pk}.csv"'
    writer = csv.writer(response)
    writer.writerow(COLUMNS)
    writer.writerows([cell(value) for value in row] for row in reading_rows(job))
    return response


@require_GET
def readings_xlsx(request: HttpRequest, pk: int) -> HttpResponse:
    """Hand out the same table as a workbook."""
    response = HttpResponse(workbook(_job(request, pk)), content_type=XLSX)
    response["Content-Disposition"] = f'attachment; filename="iron-compass-readings-{pk}.xlsx"'
    return response


@file_limit
@require_http_methods(["GET", "POST"])
@counts_once
def import_case(request: HttpRequest) -> HttpResponse:
    """Have a case file opened as a job by a worker, or an archive of them; what came of it is told on this page.

    Every fault is named, and nothing is written unless all of the file holds. A file that was opened leads to its job.
    """
    require(request.user, Deed.OPEN_JOB)
    form = CaseFileForm(request.POST or None, request.FILES or None)
    if request.method == "POST" and form.is_valid():
        file = form.cleaned_data["case"]
        if is_archive(file):
            work = ask_for(request.user, "cases-in", file.read(), name=file.name)
            return redirect(address("workshop:work", work.pk))
        return redirect(where_it_stands(ask_to_open(request.user, file.read(), name=file.name)))
    sent = None if form.is_bound else named_in(request, KIND)
    if sent is not None and sent.state == LongWork.State.DONE:
        return redirect(where_it_stands(sent))
    context = {"form": form, "sent": shown(sent) if sent is not None else None, "works": listed(request.user)}
    return render(request, "jobs/record/import.html", context, status=422 if form.errors else 200)


def _job(request: HttpRequest, pk: int) -> Job:
    require(request.user, Deed.READ_JOBS)
    return get_object_or_404(Job.of(request.user).for_page(), pk=pk)


def _json(data: dict[str, object], name: str) -> JsonResponse:
    response = JsonResponse(data, json_dumps_params={"indent": 1, "ensure_ascii": False, "allow_nan": False})
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


@require_GET
def changes(request: HttpRequest, pk: int) -> HttpResponse:
    """List who changed what on a job, newest first."""
    require(request.user, Deed.READ_JOBS)
    job = get_object_or_404(Job.of(request.user).for_page(), pk=pk)
    context: dict[str, Any] = {**job_context(job, leg="changes"), "changes": changes_of(job, user=request.user)}
    return render(request, "jobs/record/changes.html", context)
