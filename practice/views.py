"""The bench: its shelf of exercises, how people get on, exercises made from jobs."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from jobs.models import Job
from practice.from_job import NothingMeasuredError, can_become_one, make_exercise, retire
from practice.lathe.page import lathe_shelf
from practice.models import MadeExercise
from practice.progress import due_now, everybody, shelf, skills
from workshop.permissions import Deed, may, require
from workshop.posting import counts_once, posted_from


@require_GET
def home(request: HttpRequest) -> HttpResponse:
    """Show the exercises, what is due, what one does well."""
    require(request.user, Deed.PRACTISE)
    leads = may(request.user, Deed.LEAD_PRACTICE)
    context = {
        "levels": shelf(request.user),
        "due": due_now(request.user),
        "skills": skills(request.user),
        "leads": leads,
        "lathes": lathe_shelf(request.user),
        "jobs": can_become_one(request.user) if leads else [],
    }
    return render(request, "practice/home.html", context)


@require_GET
def people(request: HttpRequest) -> HttpResponse:
    """Show the lead how people get on, by skill."""
    require(request.user, Deed.LEAD_PRACTICE)
    names, rows = everybody(request.user)
    return render(request, "practice/people.html", {"names": names, "rows": rows})


@posted_from("practice:home")
@counts_once
def made_from_job(request: HttpRequest, pk: int) -> HttpResponse:
    """Make an exercise from a closed job."""
    require(request.user, Deed.LEAD_PRACTICE)
    job = get_object_or_404(Job.of(request.user).for_choosing(), pk=pk, state=Job.State.CLOSED)
    try:
        row = make_exercise(request.user, job)
    except NothingMeasuredError:
        messages.error(request, _("No corner of this job was swept: there is nothing to make an exercise of."))
        return redirect("practice:home")
    messages.success(request, _("It is on the bench now, without names: %(title)s.") % {"title": row.title})
    return redirect("practice:home")


@posted_from("practice:home")
def retired(request: HttpRequest, pk: int) -> HttpResponse:
    """Take an exercise that was made here off the shelf."""
    require(request.user, Deed.LEAD_PRACTICE)
    if retire(request.user, get_object_or_404(MadeExercise.of(request.user), pk=pk).pk):
        messages.success(request, _("It is off the shelf."))
    return redirect("practice:home")
