"""Work too long for a request: done by a worker, followed on a page, stopped, tried again; nobody else's business."""

import io
import json
import os
import subprocess
import sys
import zipfile
from contextlib import suppress
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.urls import reverse

from ironcompass.testing import Committed
from ironcompass.tests.waiting import PATIENCE_S
from jobs.models import Job
from jobs.tests.base import READINGS, THICKNESS, Workshop, fill
from workshop.long_work.asking import ask_for, stop, works_of
from workshop.long_work.carrying import MOST_TRIES
from workshop.long_work.kinds import KINDS, Kind, Made
from workshop.models import LongWork, User
from workshop.tests.base import client_of, person, work_done


def archive_of(**files: bytes) -> bytes:
    """Pack files into an archive."""
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in files.items():
            archive.writestr(f"{name}.json", content)
    return packed.getvalue()


class LongWorks(Workshop):
    """Archives of case files, out and in."""

    def setUp(self) -> None:
        super().setUp()
        fill(self.user, self.sweep, READINGS)
        fill(self.user, self.round, THICKNESS)

    def asked(self, name: str, **data: object) -> LongWork:
        self.assertEqual(self.client.post(reverse(name), data).status_code, 302)
        return LongWork.objects.latest("pk")

    def sent(self, content: bytes) -> LongWork:
        return self.asked("jobs:import", case=SimpleUploadedFile("old.zip", content))

    def test_all_jobs_go_out_as_the_case_files_their_pages_hand_out_and_come_in_as_jobs(self) -> None:
        work = work_done(self.asked("jobs:all-cases"))
        self.assertEqual((work.state, work.steps_done, work.steps), ("done", 1, 1))
        packed = self.client.get(reverse("workshop:work-file", args=[work.pk])).content
        with zipfile.ZipFile(io.BytesIO(packed)) as archive:
            (name,) = archive.namelist()
            case = json.loads(archive.read(name))
        self.assertEqual(case, self.client.get(reverse("jobs:case", args=[self.job.pk])).json())
        work = work_done(self.sent(packed))
        self.assertEqual((work.state, work.said), ("done", ["1 of 1 case files are jobs now."]))
        copied = Job.objects.exclude(pk=self.job.pk).get()
        corners = self.client.get(reverse("jobs:case", args=[copied.pk])).json()["corners"]
        self.assertEqual(
            [corner.get("sweeps") for corner in corners], [corner.get("sweeps") for corner in case["corners"]]
        )

    def test_what_is_no_case_is_named_and_the_others_are_taken(self) -> None:
        case = self.client.get(reverse("jobs:case", args=[self.job.pk])).content
        work = work_done(self.sent(archive_of(good=case, empty=b"", wrong=b'{"format": 1}', bomb=b"0" * 21_000_000)))
        self.assertEqual((work.state, Job.objects.count(), len(work.said)), ("done", 2, 4))
        self.assertEqual({line.split(":")[0] for line in work.said[1:]}, {"empty.json", "wrong.json", "bomb.json"})
        work = work_done(self.sent(archive_of(a=b"{}")[:-30] + b"PK\x05\x06" + b"\0" * 18))
        self.assertEqual(work.state, "done")  # nothing in it
        ending = ask_for(self.user, "cases-in", b"PK spoilt")
        self.assertEqual((work_done(ending).state, ending.said), ("failed", ["This archive cannot be read."]))

    def test_stopped_it_leaves_off_and_asked_again_it_goes_on_after_what_is_behind_it(self) -> None:
        case = self.client.get(reverse("jobs:case", args=[self.job.pk])).content
        work = self.sent(archive_of(one=case, two=case, three=case))
        taken: list[str] = []
        real = KINDS["cases-in"].carry_out

        def stopped_after_one(work: LongWork, report: object) -> Made:
            leave = report.leave_behind

            def leave_and_stop(name: str) -> None:
                stop(work)  # while the file is being taken
                leave(name)
                taken.append(name)

            return real(work, type(report)(report.note, report.behind, leave_and_stop))

        with mock.patch.dict(KINDS, {"cases-in": Kind("x", stopped_after_one)}):
            work_done(work)
        self.assertEqual((work.state, taken, Job.objects.count()), ("stopped", ["one.json"], 2))
        work_done(work)
        self.assertEqual((work.state, Job.objects.count()), ("stopped", 2))
        self.client.post(reverse("workshop:work-again", args=[work.pk]))
        work_done(work)
        self.assertEqual((work.state, Job.objects.count()), ("done", 4))

    def test_what_goes_wrong_is_tried_again_and_then_said(self) -> None:
        work = self.asked("jobs:all-cases")
        with (
            mock.patch.dict(KINDS, {"cases-out": Kind("x", mock.Mock(side_effect=RuntimeError))}),
            self.assertLogs("iron-compass.work", "ERROR"),
        ):
            for _try in range(MOST_TRIES):
                with suppress(RuntimeError):
                    work_done(work)
        work.refresh_from_db()
        self.assertEqual((work.state, work.tries), ("failed", MOST_TRIES))
        self.assertContains(self.client.get(reverse("workshop:work", args=[work.pk])), "Try again")

    def test_it_is_nobody_elses_business(self) -> None:
        work = work_done(self.asked("jobs:all-cases"))
        lead = client_of(person("lead"))
        for name in ("work", "work-file"):
            self.assertEqual(lead.get(reverse(f"workshop:{name}", args=[work.pk])).status_code, 404)
        for name in ("work-stop", "work-again"):
            self.assertEqual(lead.post(reverse(f"workshop:{name}", args=[work.pk])).status_code, 404)
        self.assertEqual(client_of(self.trainee).post(reverse("jobs:all-cases")).status_code, 403)


class Worker(Committed):
    """A real one, beside the tests."""

    def test_it_takes_what_was_asked_for_from_the_queue(self) -> None:
        user: User = person("lead")
        work = ask_for(user, "cases-out")
        database = connection.settings_dict
        place = f"{database['HOST']}:{database['PORT']}/{database['NAME']}"
        url = f"postgres://{database['USER']}:{database['PASSWORD']}@{place}"
        command = [sys.executable, "manage.py", "procrastinate", "worker", "--one-shot", "--queues", "long"]
        told = subprocess.run(  # noqa: S603
            command,
            env=os.environ | {"IC_DATABASE_URL": url},
            capture_output=True,
            text=True,
            timeout=PATIENCE_S,
            check=False,
        )
        row = works_of(user).get(pk=work.pk)
        self.assertEqual((row.state, row.made_name), ("done", "iron-compass-cases.zip"), told.stderr[-2000:])
