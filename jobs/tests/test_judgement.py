"""One judgement: what pages say is what files say, worked out once and never older than its evidence."""

import io
import json
import threading
from contextvars import copy_context
from unittest import mock

import numpy as np
from django.core.management import call_command
from django.db import connection
from django.test import TestCase
from django.urls import reverse

from compass.cause.corner import diagnose_corner
from compass.files.write_case import case_to_data
from compass.simulate.vehicle import random_vehicle
from compass.tests.test_casefile import run
from demo.tests.made import put_demo
from ironcompass.testing import Committed
from jobs import judging
from jobs.judging import judge_job
from jobs.models import Corner, Job
from jobs.next_act import next_act
from jobs.record.case_in import import_case
from jobs.record.case_out import job_case_data, job_verdict_data
from jobs.tests.base import READINGS, THICKNESS, Workshop, entry, fill, type_reading
from workshop.models import User
from workshop.tests.base import person

SIMULATED = 200
WORKS = ("plate", "hub_unit", "on_vehicle_cut", "index", "new_rotors")


def vehicles() -> list[dict]:
    """Return cases of simulated vehicles, some with dirt, a lone jump or a moved clamp put into a corner's sweep."""
    generator = np.random.default_rng(20_261)
    cases = []
    for number in range(SIMULATED):
        data = json.loads(json.dumps(case_to_data(random_vehicle(generator).case)))
        for corner in data["corners"][: number % 3]:
            for sweep in corner.get("sweeps", [])[:1]:
                match number % 4:
                    case 0:
                        sweep["cleaned"] = False
                    case 1:
                        sweep["readings_mm"][3] += 0.2
                    case 2:
                        sweep["closing_mm"] = sweep["readings_mm"][0] + 0.08
        cases.append(data | {"vehicle": data["vehicle"] | {"label": "Simulated car"}})
        if number % 5 == 4:
            _work_on(data["corners"][-1], WORKS[number // 5 % len(WORKS)], left=(0.1, 1.0)[number % 2])
    return cases


def _work_on(corner: dict, work: str, *, left: float) -> None:
    """Put a work into a corner, with a sweep that found so much of the runout still there."""
    turns = [sweep | {"readings_mm": [left * mm for mm in sweep["readings_mm"]]} for sweep in corner.get("sweeps", [])]
    for turn in turns:
        turn.pop("closing_mm", None)
    corner |= {"after": [{"work": work, "sweeps": turns}], "plate_fitted": left < 1}
    if work == "hub_unit":
        corner["bearing_play_mm"] = 0.2


class PagesAndFiles(TestCase):
    """The brass act, the odds and the root causes of a page are those of the job's own verdict file."""

    def agree(self, job: Job, verdict: dict) -> None:
        fresh = judge_job(job.created_by, job)
        causes = [(cause.value, round(p, 6)) for cause, p in fresh.judged.weighed.causes]
        self.assertEqual(causes, [(c["cause"], c["probability"]) for c in verdict["vehicle"]["causes"]])
        kept = Job.objects.for_page().get(pk=job.pk)
        step = (kept.kept.step.check, kept.kept.step.position)
        self.assertEqual(step, (verdict["vehicle"]["next_check"], verdict["vehicle"]["next_position"]))
        act = next_act(kept)
        # A tape that was begun is finished first: what is left of it to read a file does not say.
        begun = next((c.kept.broken_off for c in kept.corners.all() if c.kept is not None and c.kept.broken_off), None)
        if begun is not None and act is not None and act.url.endswith(f"?tape={begun}"):
            self.assertEqual(act.words.partition(" · ")[0], "Finish this tape")
        elif step[0] is not None and act is not None:
            self.assertEqual((act.check, act.position or None), step)
        odds = dict(fresh.judged.weighed.causes)
        for told in verdict["corners"]:
            corner = next(c for c in kept.corners.all() if c.position == told["position"])
            if corner.kept is not None:
                self.assertEqual(corner.kept.root_cause, told["root_cause"])
            own = {c.value: p for c, p in fresh.judged.weighed.at_corner(told["position"])}
            if told["root_cause"] in own:
                self.assertEqual(own[told["root_cause"]], max(own.values()), told["root_cause"])
            elif told["root_cause"] == "none_found":
                self.assertLessEqual(max(own.values()), 0.5)
            elif told["root_cause"] != "not_separable":
                self.assertGreaterEqual(odds[told["root_cause"]], max(own.values()))

    def test_every_demo_job_through_the_command_line(self) -> None:
        put_demo()
        user = User.objects.get(username="holm")
        for job in Job.objects.for_page():
            with self.subTest(job=job.pk):
                code, out, err = run("diagnose", "-", stdin=json.dumps(job_case_data(user, job)).encode())
                self.assertEqual((code, err), (0, ""))
                told = json.loads(out)
                self.assertEqual(told, json.loads(json.dumps(job_verdict_data(user, job))))
                self.agree(job, told)

    def test_simulated_vehicles_with_dirt_jumps_and_moved_clamps(self) -> None:
        user = person("lead")
        cases = vehicles()
        lines = "\n".join(json.dumps(data) for data in cases).encode()
        code, out, err = run("diagnose", "--lines", "-", stdin=lines)
        self.assertEqual((code, err), (0, ""))
        checks = set()
        for number, (data, line) in enumerate(zip(cases, out.splitlines(), strict=True)):
            with self.subTest(number=number):
                job = import_case(user, json.dumps(data).encode())
                told = json.loads(line)
                checks.add(told["vehicle"]["next_check"])
                job = Job.objects.for_page().get(pk=job.pk)
                self.agree(job, told)
                if number % 5 == 4:  # what was worked on, and how it stands: the whole file
                    own = json.loads(json.dumps(job_verdict_data(user, job)))
                    self.assertEqual(told | {"id": None}, own | {"id": None})
        self.assertGreater(len(checks), 5)


class Once(Workshop):
    """A corner is diagnosed once for its evidence, and not again because a page is looked at."""

    def counted(self):
        for remembered in (judging._diagnosed, judging._vehicles, judging._chosen):
            remembered.forget()
        return mock.patch("jobs.judging.diagnose_corner", side_effect=diagnose_corner)

    def test_pages_files_and_keystrokes_diagnose_no_corner_twice(self) -> None:
        fill(self.user, self.sweep, READINGS)
        fill(self.user, self.round, THICKNESS)
        pages = [reverse(f"jobs:{name}", args=[self.job.pk]) for name in ("complaint", "cause", "changes", "case")]
        pages += [reverse("jobs:measure", args=[self.job.pk, "FL"]) + query for query in ("", "?tape=look")]
        pages += [reverse("jobs:prepare", args=[self.job.pk, "FL"]), reverse("jobs:choose", args=[self.job.pk, "F"])]
        pages += [reverse("jobs:cut", args=[self.job.pk, "FL"]), reverse("jobs:verdict", args=[self.job.pk])]
        needless = ("complaint", "changes", "case", "prepare")
        for page in pages:
            with self.subTest(page=page), self.counted() as diagnosed:
                self.assertEqual(self.client.get(page).status_code, 200)
                records = [str(call.args[0].position) for call in diagnosed.call_args_list]
                self.assertEqual(len(records), len(set(records)))
                if any(f"/{name}" in page or page.endswith(f"{self.job.pk}/") for name in needless):
                    self.assertEqual(records, [])
                diagnosed.reset_mock()
                self.client.get(page)
                self.assertEqual(diagnosed.call_count, 0)
        with self.counted() as diagnosed:
            judge_job(self.user, Job.objects.for_page().get(pk=self.job.pk))
            diagnosed.reset_mock()
            type_reading(self.user, self.sweep, entry(3, "2.5", was=READINGS[3], number=99))
            self.assertEqual([call.args[0].position for call in diagnosed.call_args_list], ["FL"])


class Stale(Workshop):
    """What another core judged, or nobody yet, is judged anew at the start; nothing else is touched."""

    def test_a_job_never_judged_and_one_of_another_core(self) -> None:
        fill(self.user, self.sweep, READINGS)
        judged = Job.objects.get(pk=self.job.pk).judgement
        for kept in ({}, judged | {"core": "0.0.1"}):
            Job.objects.filter(pk=self.job.pk).update(judgement=kept)
            out = io.StringIO()
            call_command("judge_stale", stdout=out)
            self.assertIn("1 open jobs", out.getvalue())
            self.assertEqual(Job.objects.get(pk=self.job.pk).judgement, judged)
        out = io.StringIO()
        call_command("judge_stale", stdout=out)
        self.assertEqual(out.getvalue(), "")


class Together(Committed):
    """Two tapes of one corner typed at once: what is kept rests on both."""

    def test_the_kept_verdict_is_never_older_than_the_readings(self) -> None:
        workshop = Workshop
        workshop.setUpTestData.__func__(type(self))
        fill(self.user, self.sweep, READINGS[:-2])

        def typist(tape, texts):
            try:
                fill(User.objects.get(pk=self.user.pk), tape, texts)
            finally:
                connection.close()

        hands = [
            threading.Thread(target=copy_context().run, args=(typist, self.sweep, READINGS)),
            threading.Thread(target=copy_context().run, args=(typist, self.round, THICKNESS)),
        ]
        for hand in hands:
            hand.start()
        for hand in hands:
            hand.join()
        job = Job.objects.for_page().get(pk=self.job.pk)
        fresh = judge_job(job.created_by, job)
        corner = Corner.objects.get(pk=self.corner.pk)
        self.assertEqual(corner.kept.evidence, fresh.corners["FL"].name)
        self.assertEqual(job.kept.evidence, fresh.name)
