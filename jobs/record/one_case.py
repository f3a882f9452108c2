"""A case file opened as a job by a worker: asked for where such files are opened; what is wrong is told there."""

from typing import Final

from django.db import transaction
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from compass.ground.errors import FaultyFileError
from jobs.record.case_in import import_case
from workshop.addresses import address
from workshop.long_work.asking import ask_for, named_from
from workshop.long_work.kinds import Made, Report, WorkRefusedError, can_do
from workshop.models import LongWork, User

KIND: Final = "case-in"


def can_be_done() -> None:
    """Tell workers of it."""
    can_do(KIND, gettext_lazy("The case file"), take_in, leads_to=where_it_stands)


def ask_to_open(user: User, content: bytes, *, name: str) -> LongWork:
    """Have a case file opened as a job of this person's workshop."""
    return ask_for(user, KIND, content, name=name)


def take_in(work: LongWork, report: Report) -> Made:
    """Make a job of the file, once: a try after a worker was killed finds the job of the try before it."""
    for number in report.behind:
        return Made(about=int(number))
    report.note(0, 1)
    try:
        with transaction.atomic():
            job = import_case(work.asked_by, bytes(work.given))
            report.note(1, 1)  # stopped meanwhile: nothing is written
            report.leave_behind(str(job.pk))
    except FaultyFileError as error:
        faults = (str(fault) for fault in error.faults)
        raise WorkRefusedError(_("This file was not taken; nothing was written."), *faults) from error
    return Made(about=job.pk)


def where_it_stands(work: LongWork) -> str:
    """Return the address of the job it was made into, and until then of the page where it was asked for."""
    if work.state == LongWork.State.DONE and work.about is not None:
        return address("jobs:complaint", work.about)
    return named_from("jobs:import", work)
