"""The work being carried out: one step at a time, pressed on, taken back, broken off, gone on with."""

from collections.abc import Callable
from datetime import timedelta
from typing import Any, Final

from django.contrib import messages
from django.contrib.auth import authenticate
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.utils.translation import ngettext
from django.views.decorators.http import require_GET

from compass.do.reading import Outcome
from compass.ground.errors import UnreadableNumberError
from jobs.do.actions import CutRefusedError, FarReadingError, NoPlateError, PassConflictError, lets_work, require_work
from jobs.do.cut_page import refused_words
from jobs.do.day_order import day_context
from jobs.do.doing import doing_of
from jobs.do.forms import StepForm
from jobs.do.run_page import nothing_to_do, run_context
from jobs.do.running import (
    HoldError,
    NothingDecidedError,
    OutOfOrderError,
    StepDoneError,
    Stepped,
    TorqueWantedError,
    UnknownStepError,
    WorkChangedError,
    break_off,
    do_part,
    do_step,
    go_on,
    set_people,
    take_back,
)
from jobs.frame import job_context
from jobs.models import Job
from jobs.writing import JobClosedError
from workshop.models import User
from workshop.permissions import Deed, require
from workshop.posting import counts_once, posted_from
from workshop.words import unreadable

_LATE_DIGITS: Final = 5  # a day without a line
_NOT_FROM_DEVICE: Final = (
    UnknownStepError, NothingDecidedError, WorkChangedError, HoldError, TorqueWantedError, UnreadableNumberError,
    NoPlateError, CutRefusedError, PassConflictError, FarReadingError,
)  # fmt: skip


@require_GET
def run(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the step that comes next, or the one asked for; say where nothing is decided."""
    require(request.user, Deed.READ_JOBS)
    return _page(request, _job(request, pk))


@require_GET
def day(request: HttpRequest) -> HttpResponse:
    """Show the order of the day for so many people."""
    require(request.user, Deed.READ_JOBS)
    asked = request.GET.get("people", "")
    people = int(asked) if asked.isdecimal() and len(asked) < 3 else 2
    return render(request, "jobs/do/day.html", day_context(request.user, people=people))


@require_GET
def pulse(request: HttpRequest, pk: int) -> HttpResponse:
    """Say whether another hand or device has gone on: the page is drawn anew then, and stays as it is otherwise."""
    require(request.user, Deed.READ_JOBS)
    job = get_object_or_404(Job.of(request.user).values("run__seen"), pk=pk)
    changed = str(job["run__seen"] or 0) != request.GET.get("seen", "0")
    return HttpResponse(status=204, headers={"HX-Refresh": "true"} if changed else {})


@posted_from("jobs:do", "pk")
def step(request: HttpRequest, pk: int) -> HttpResponse:
    """Do one step; a refusal stands beside its field and nothing typed is lost."""
    require_work(request.user)
    # Before the form's own transaction: a wrong password counts against the lock even where the form is refused.
    second, name = None, request.POST.get("second", "").strip()
    if name or request.POST.get("second_password"):
        second = authenticate(request, username=name, password=request.POST.get("second_password", ""))
        if second is None:
            return _page(request, _job(request, pk), errors={"second": _hold_words("sign_in")}, status=422)
    if "application/json" in request.headers.get("Accept", ""):
        return _step_from_device(request, pk)
    return _step(request, pk=pk, second=second)


def _step_from_device(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a press that waited on a device: ``done``, or why not. The same press sent twice counts once by its step."""
    form = StepForm(request.POST, unit=request.user.unit)
    late = request.POST.get("late", "")
    try:
        if not form.is_valid() or not late.isdecimal() or len(late) > _LATE_DIGITS:
            raise UnknownStepError
        do_step(request.user, _job(request, pk), form.sent(), ago=timedelta(seconds=int(late)))
    except StepDoneError as error:
        if error.row.done_by_id != request.user.pk:
            return JsonResponse({"refused": _done_words(error)}, status=409)
    except JobClosedError:
        return JsonResponse({"refused": _("This job is closed; nothing more is recorded.")}, status=409)
    except OutOfOrderError:
        return JsonResponse({"refused": _("Steps before this one are not done.")}, status=409)
    except _NOT_FROM_DEVICE:
        words = _("The work was changed meanwhile; nothing was kept of that press.")
        return JsonResponse({"refused": words}, status=409)
    return JsonResponse({"done": True})


def _done_words(error: StepDoneError) -> str:
    when = {"who": error.row.done_by, "at": error.row.done_at.astimezone().strftime("%H:%M")}
    return _("Done already by %(who)s at %(at)s.") % when


@counts_once
def _step(request: HttpRequest, *, pk: int, second: User | None) -> HttpResponse:
    job = _job(request, pk)
    form = StepForm(request.POST, unit=request.user.unit)
    errors: dict[str, str] = {}
    if not form.is_valid():
        errors = {name: faults[0] for name, faults in form.errors.items()}
        return _page(request, job, errors=errors, status=422)
    try:
        stepped = do_step(request.user, job, form.sent(), second=second)
        _tell(request, stepped)
        return redirect("jobs:do", pk)
    except StepDoneError as error:
        messages.info(request, _done_words(error))
        return redirect("jobs:do", pk)
    except (UnknownStepError, NothingDecidedError, WorkChangedError):
        messages.error(request, _("The work was changed meanwhile; nothing was kept of that press."))
        return redirect("jobs:do", pk)
    except JobClosedError:
        messages.error(request, _("This job is closed; nothing more is recorded."))
        return redirect("jobs:do", pk)
    except OutOfOrderError:
        errors["out_of_order"] = _("Steps before this one are not done. Do them first, or say that you mean it.")
    except HoldError as error:
        errors[error.want if error.want == "finding" else "second"] = _hold_words(error.want)
    except TorqueWantedError as error:
        errors[error.field] = _torque_words(error.field)
    except UnreadableNumberError as error:
        errors["typed"] = unreadable(error)
    except NoPlateError:
        errors["typed"] = _("No such plate is left. One a side, always a new one: choose anew or order it.")
    except PassConflictError:
        errors["typed"] = _("That pass is on record already. Compare the plan with the disc before you go on.")
    except FarReadingError:
        errors["typed"] = _("More than 1 mm from what is expected. Check the decimal sign and the unit.")
    except CutRefusedError as error:
        errors["typed"] = refused_words(error.reason)
    return _page(request, job, errors=errors, status=422)


def _hold_words(want: str) -> str:
    return {
        "finding": _("Press what it shows."),
        "sign_in": _("Name and password do not fit. The second person signs in with their own."),
        "second": _("A second person passes this: somebody else, trained, with their own name and password."),
        "passing": _("A hold point: a second person signs in, or you write why it is passed without."),
    }[want]


def _torque_words(field: str) -> str:
    if field == "source":
        return _("Write where the figure stands: the maker’s book and page.")
    return _("On no record. A technician looks it up in the maker’s information and types it.")


def _tell(request: HttpRequest, stepped: Stepped) -> None:
    if stepped.opened:
        opened = len(stepped.opened)
        words = ngettext("%(n)s step is to be done again.", "%(n)s steps are to be done again.", opened) % {"n": opened}
        messages.warning(request, words)
    elif stepped.outcome is Outcome.UNDER_STOP:
        messages.error(request, _("Under the stop: the plan was made anew before the tip touches again."))


def _job(request: HttpRequest, pk: int) -> Job:
    return get_object_or_404(Job.of(request.user).for_doing(), pk=pk)


def _page(request: HttpRequest, job: Job, *, errors: dict[str, str] | None = None, status: int = 200) -> HttpResponse:
    doing = doing_of(request.user, job)
    context: dict[str, Any] = {**job_context(job, leg="do"), "errors": errors or {}, "typed": request.POST}
    if doing is None:
        return render(request, "jobs/do/nothing.html", context | {"leg": _("Do"), **nothing_to_do()}, status=status)
    sent = request.POST
    at = f"{sent.get('position', '')}|{sent.get('key', '')}" if sent.get("key") else request.GET.get("at", "")
    context |= run_context(request.user, doing, at=at)
    context["works"] = lets_work(request.user) and not job.is_closed
    return render(request, "jobs/do/run.html", context, status=status)


_REFUSED: Final = (UnknownStepError, OutOfOrderError, JobClosedError, NothingDecidedError, WorkChangedError, ValueError)


def _written(request: HttpRequest, pk: int, act: Callable[[Job], str]) -> HttpResponse:
    """Do a write and say what came of it; a refusal says that nothing was kept."""
    try:
        messages.success(request, act(_job(request, pk)))
    except _REFUSED:
        words = _("The work was changed meanwhile, or the job is closed; nothing was kept of that press.")
        messages.error(request, words)
    return redirect("jobs:do", pk)


def _named(request: HttpRequest) -> tuple[str, str]:
    """Return the place and key of the step that was sent."""
    return request.POST.get("position", ""), request.POST.get("key", "")


@posted_from("jobs:do", "pk")
@counts_once
def whole_part(request: HttpRequest, pk: int) -> HttpResponse:
    """Do all steps of a part that only want to be done, at once."""
    require(request.user, Deed.DO)

    def act(job: Job) -> str:
        done = do_part(request.user, job, *_named(request))
        return ngettext("%(n)s step done.", "%(n)s steps done.", done) % {"n": done}

    return _written(request, pk, act)


@posted_from("jobs:do", "pk")
@counts_once
def back(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a step back."""
    require_work(request.user)

    def act(job: Job) -> str:
        take_back(request.user, job, *_named(request), why=request.POST.get("why", "")[:300])
        return _("Taken back; the row stays on the record.")

    return _written(request, pk, act)


@posted_from("jobs:do", "pk")
@counts_once
def broken(request: HttpRequest, pk: int) -> HttpResponse:
    """Note that a pass was broken off."""
    require_work(request.user)

    def act(job: Job) -> str:
        opened = len(break_off(request.user, job, *_named(request)))
        again = ngettext("%(n)s step is to be done again.", "%(n)s steps are to be done again.", opened)
        return _("Broken off.") + " " + again % {"n": opened}

    return _written(request, pk, act)


@posted_from("jobs:do", "pk")
@counts_once
def onward(request: HttpRequest, pk: int) -> HttpResponse:
    """Go on by what is decided now."""
    require(request.user, Deed.DO)

    def act(job: Job) -> str:
        gone = go_on(request.user, job)
        words = ngettext("%(n)s step does not carry over.", "%(n)s steps do not carry over.", gone) % {"n": gone}
        return _("Going on by the new choice.") + " " + words

    return _written(request, pk, act)


@posted_from("jobs:do", "pk")
def people(request: HttpRequest, pk: int) -> HttpResponse:
    """Say how many work on it; the order is planned anew."""
    require_work(request.user)

    def act(job: Job) -> str:
        set_people(request.user, job, int(request.POST.get("people", "1")))
        return _("Planned anew.")

    return _written(request, pk, act)
