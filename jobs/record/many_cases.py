"""All of a workshop's jobs as case files in one archive, and an archive of case files as jobs. Done by a worker."""

import json
import zipfile
import zlib
from io import BytesIO
from typing import Final

from django.db import transaction
from django.db.models import QuerySet
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from compass.files.strict_json import MAX_BYTES, too_large
from compass.ground.errors import FaultyFileError
from jobs.models import Job
from jobs.record.case_in import import_case
from jobs.record.case_out import job_case_data
from workshop.long_work.kinds import Made, Report, WorkRefusedError, can_do
from workshop.models import LongWork, User

MOST_FILES: Final = 5000
MOST_BYTES: Final = 200_000_000  # of one archive, laid out
ARCHIVE: Final = "application/zip"
# What the library says of a spoilt archive; the third, of a way of packing that it does not know.
_SPOILT: Final = (zipfile.BadZipFile, zlib.error, NotImplementedError)


def can_be_done() -> None:
    """Tell workers of both."""
    can_do("cases-out", gettext_lazy("All jobs as case files"), all_out)
    can_do("cases-in", gettext_lazy("Case files of an archive"), all_in)


def is_archive(file: object) -> bool:
    """Whether an upload is an archive and no case file; it is left to be read from its beginning."""
    archive = zipfile.is_zipfile(file)
    file.seek(0)  # type: ignore[attr-defined]
    return archive


def all_out(work: LongWork, report: Report) -> Made:
    """Write every job of the workshop that has evidence into an archive, oldest first."""
    user = work.asked_by
    jobs = _jobs(user)
    numbers = list(jobs.values_list("pk", flat=True))
    into = BytesIO()
    with zipfile.ZipFile(into, "w", zipfile.ZIP_DEFLATED) as archive:
        for n, pk in enumerate(numbers):
            report.note(n, len(numbers))
            data = job_case_data(user, jobs.get(pk=pk))
            if data["corners"]:
                archive.writestr(f"job-{pk}.json", json.dumps(data, indent=1, ensure_ascii=False, allow_nan=False))
            if into.tell() > MOST_BYTES:
                raise WorkRefusedError(_("The archive grew over %(n)s MB.") % {"n": MOST_BYTES // 1_000_000})
    report.note(len(numbers), len(numbers))
    return Made(into.getvalue(), "iron-compass-cases.zip", ARCHIVE)


def all_in(work: LongWork, report: Report) -> Made:
    """Make a job of each case file of an archive. What is no case is named and left out; the others are taken.

    A file is one transaction, and what is taken is not taken again by the next try.
    """
    said: list[str] = []
    with _archive(bytes(work.given)) as archive:
        files = [one for one in archive.infolist() if not one.is_dir()]
        for n, one in enumerate(files):
            report.note(n, len(files))
            if one.filename in report.behind:
                continue
            try:
                if one.file_size > MAX_BYTES:
                    raise too_large(one.file_size)
                with transaction.atomic():
                    import_case(work.asked_by, archive.read(one))
                    report.leave_behind(one.filename)
            except FaultyFileError as error:
                said.append(f"{one.filename}: {error.faults[0]}")
            except _SPOILT:
                said.append(f"{one.filename}: " + _("cannot be unpacked"))
    report.note(len(files), len(files))
    taken = _("%(n)s of %(of)s case files are jobs now.") % {"n": len(files) - len(said), "of": len(files)}
    return Made(said=(taken, *said[:200]))


def _archive(content: bytes) -> zipfile.ZipFile:
    try:
        archive = zipfile.ZipFile(BytesIO(content))
        listed = archive.infolist()
        spoilt = any(one.flag_bits & 1 for one in listed)  # behind a password
    except (*_SPOILT, ValueError) as error:
        raise WorkRefusedError(_("This archive cannot be read.")) from error
    if spoilt:
        raise WorkRefusedError(_("This archive is locked with a password. Pack it without one."))
    if len(listed) > MOST_FILES or sum(one.file_size for one in listed) > MOST_BYTES:
        most = {"n": MOST_FILES, "mb": MOST_BYTES // 1_000_000}
        raise WorkRefusedError(_("At most %(n)s files and %(mb)s MB, laid out. Send it in parts.") % most)
    return archive


def _jobs(user: User) -> QuerySet[Job]:
    return Job.of(user).for_page().order_by("pk")
