"""A recording of a road test, read by a worker: asked for on the Cause page, shown there when it is read."""

from typing import Final

from django.core.files.uploadedfile import UploadedFile
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from compass.measure.recording import RecordingError
from jobs.cause.actions import keep_road_test
from jobs.cause.road_test import refusal_words, what_it_shows
from jobs.models import Job
from jobs.writing import JobClosedError
from workshop.addresses import address
from workshop.long_work.asking import ask_for, newest_of
from workshop.long_work.kinds import Made, Report, WorkRefusedError, can_do
from workshop.models import LongWork, User

_KIND: Final = "recording"


def can_be_done() -> None:
    """Tell workers of it."""
    can_do(_KIND, gettext_lazy("Reading the recording"), read, leads_to=_cause_page)


def ask_to_read(user: User, job: Job, recording: UploadedFile) -> LongWork:
    """Have a recording read. ``job`` is the one that was driven."""
    return ask_for(user, _KIND, recording.read(), name=recording.name or "", about=job.pk)


def unread_of(user: User, job: Job) -> LongWork | None:
    """Return the person's last recording of a job while it is being read, and where it was refused or stopped."""
    work = newest_of(user, _KIND, job.pk)
    return None if work is None or work.state == LongWork.State.DONE else work


def read(work: LongWork, report: Report) -> Made:
    """Read a recording, and keep what it shows with its job."""
    job = Job.of(work.asked_by).select_related("vehicle").filter(pk=work.about).first()
    if job is None:
        raise WorkRefusedError(_("The job is not there any more."))
    report.note(0, 1)
    try:
        showed = what_it_shows(bytes(work.given), job.vehicle.rolling_circumference_mm)
        report.note(1, 1)
        keep_road_test(work.asked_by, job, showed)
    except RecordingError as error:
        raise WorkRefusedError(refusal_words(error)) from error
    except JobClosedError as error:
        raise WorkRefusedError(_("This job is closed; nothing more is recorded.")) from error
    return Made()


def _cause_page(work: LongWork) -> str:
    return address("jobs:cause", work.about) + "#road"
