"""A tape as a whole: put right, struck out, brought back; another round with the micrometer that was chosen."""

from django.urls import reverse

from compass.words.reasons import FLAGS
from jobs.judging import judge
from jobs.measure.actions import strike_tape, undo
from jobs.models import Corner, Sweep, ThicknessRound
from jobs.prepare.actions import start_sweep
from jobs.prove.actions import close_job
from jobs.record.trail import changes_of
from jobs.tests.base import READINGS, SET_UP, THICKNESS, Workshop, entry, fill, type_reading
from workshop.models import Instrument
from workshop.numbers_in_addresses import named
from workshop.tests.base import client_of


class SetUp(Workshop):
    """The set-up of a tape with readings, put right."""

    def address(self, name: str, tape, kind: str = "sweep") -> str:
        return reverse(f"jobs:{name}", args=[kind, tape.pk])

    def test_another_dial_and_index_are_worked_out_anew_and_the_entries_stay(self) -> None:
        fill(self.user, self.sweep, READINGS)
        sent = {"surface": "rotor_outboard", "cleaned": "on", "nuts_torqued": "on", "dial": "mm2", "read_to": "0.5"}
        sent |= {"entry_unit": "div", "radius_mm": "120", "turned": "2"}
        page = f"/jobs/{named('job', self.job.pk)}/FL/measure/?tape=s{self.sweep.pk}"
        self.assertRedirects(self.client.post(self.address("set-up", self.sweep), sent), page)
        self.sweep.refresh_from_db()
        self.assertEqual((self.sweep.typed, self.sweep.radius_mm, self.sweep.index_deg), (READINGS, 120.0, 144.0))
        self.assertAlmostEqual(self.sweep.readings_mm[6], 0.022)  # 11 divisions of 0.002 mm, not of 0.01
        self.assertEqual(changes_of(self.job)[0]["what"], "set-up put right")
        type_reading(self.user, self.sweep, entry(6, "12", was="11", number=90))
        back = undo(self.user, self.sweep).tape
        self.assertAlmostEqual(back.readings_mm[6], 0.022)  # not what the dial said before it was put right

    def test_a_bad_figure_is_refused_beside_its_field_and_a_closed_job_stays(self) -> None:
        fill(self.user, self.sweep, READINGS)
        sent = {"surface": "rotor_outboard", "dial": "mm10", "read_to": "1", "entry_unit": "div", "radius_mm": "13b"}
        for slip in ("13b", "13.8"):  # the disc is measured at 138 mm
            answer = self.client.post(self.address("set-up", self.sweep), sent | {"radius_mm": slip})
            self.assertContains(answer, "id_radius_mm_error", status_code=422)
        close_job(self.user, self.job, reason="Sold")
        answer = self.client.post(self.address("set-up", self.sweep), sent | {"radius_mm": "130"})
        self.assertContains(answer, "closed", status_code=422)

    def test_a_sweep_struck_out_counts_for_nothing_and_comes_back(self) -> None:
        fill(self.user, self.sweep, READINGS)
        whole = Corner.objects.get(pk=self.corner.pk).kept.runout
        for _ in range(2):  # pressed twice
            self.client.post(self.address("strike-tape", self.sweep), {"struck": "yes"})
        self.assertIsNone(Corner.objects.get(pk=self.corner.pk).kept)
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed, READINGS)
        page = self.client.get(f"/jobs/{named('job', self.job.pk)}/FL/measure/?tape=s{self.sweep.pk}")
        self.assertContains(page, "Let it count again")
        self.assertNotContains(self.client.get(f"/jobs/{named('job', self.job.pk)}/readings.csv"), "10.5")
        self.client.post(self.address("strike-tape", self.sweep), {"struck": "no"})
        self.assertEqual(Corner.objects.get(pk=self.corner.pk).kept.runout, whole)

    def test_a_tape_read_at_another_corner_goes_there_and_both_are_judged_anew(self) -> None:
        fill(self.user, self.sweep, READINGS)
        address, page = self.address("other-corner", self.sweep), f"/jobs/{named('job', self.job.pk)}/FR/measure/"
        for _ in range(2):  # pressed twice
            sent = self.client.post(address, {"position": "FR"})
        self.assertRedirects(sent, f"{page}?tape=s{self.sweep.pk}", fetch_redirect_response=False)
        said = [str(words) for words in self.client.get(page).context["messages"]]
        self.assertEqual(set(said), {"Now at: Front right."})
        left, right = (Corner.objects.get(job=self.job, position=position) for position in ("FL", "FR"))
        self.assertIsNone(left.kept)
        self.assertEqual((right.kept.runout, right.sweeps.get().typed), ("over", READINGS))
        said = changes_of(self.job)[0]
        self.assertEqual((said["what"], str(said["where"])), ("given to this corner, where it was read", "Front right"))
        for position in ("RL", "XX", ""):  # an axle without limits, none at all
            self.client.post(address, {"position": position})
            self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).corner, right)
        Sweep.objects.filter(pk=self.sweep.pk).update(episode=0)
        Corner.objects.filter(pk=right.pk).update(episode=1)  # worked on since
        self.client.post(address, {"position": "FL"})
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).corner, right)

    def test_a_later_sweep_without_ticks_is_not_called_before(self) -> None:
        fill(self.user, self.sweep, READINGS)
        dirty = start_sweep(self.user, self.corner, stations=10, **SET_UP | {"cleaned": False})
        fill(self.user, dirty, READINGS)
        page = reverse("jobs:measure", args=[self.job.pk, "FL"])
        names = [tab["name"] for tab in self.client.get(page).context["tabs"]]
        self.assertEqual(names[:2], ["Runout", "Runout, not cleaned"])
        again = start_sweep(self.user, self.corner, stations=10, **SET_UP | {"radius_mm": 137.0})
        fill(self.user, again, READINGS)
        names = [tab["name"] for tab in self.client.get(page).context["tabs"]]
        self.assertEqual(names[1], "Runout, before")


class Rounds(Workshop):
    """A second round, and a plain caliper."""

    def test_another_round_is_one_press_with_the_micrometer_chosen(self) -> None:
        fill(self.user, self.round, THICKNESS)
        finer = Instrument.objects.create(name="Tips", kind="micrometer", graduation_mm=0.002, error_limit_mm=0.001)
        again = reverse("jobs:another-round", args=[self.round.pk])
        answer = self.client.post(again, {"micrometer": f"i{finer.pk}"})
        fresh = ThicknessRound.objects.latest("pk")
        self.assertRedirects(answer, f"/jobs/{named('job', self.job.pk)}/FL/measure/?tape=t{fresh.pk}")
        self.assertEqual((fresh.instrument, fresh.graduation_mm, fresh.is_empty), (finer, 0.002, True))
        self.assertEqual((fresh.radii_mm, fresh.stations_deg), (self.round.radii_mm, self.round.stations_deg))
        self.client.post(again, {"micrometer": f"i{finer.pk}"})
        self.assertEqual(ThicknessRound.objects.count(), 2)  # an unread one is used first
        fill(self.user, fresh, THICKNESS)
        strike_tape(self.user, fresh, struck=True)
        self.assertEqual(judge(self.corner).record.thickness.graduation_mm, 0.001)

    def test_a_plain_caliper_says_nothing_closer_until_its_lips_are_measured(self) -> None:
        caliper = Instrument.objects.create(name="Caliper", kind="caliper", graduation_mm=0.02, error_limit_mm=0.02)
        self.round.instrument, self.round.graduation_mm = caliper, 0.02
        self.round.save()
        fill(self.user, self.round, ["26.4"] * 10)
        measured = judge(Corner.objects.get(pk=self.corner.pk)).verdict.measured.thickness
        self.assertEqual(measured.state_discard, "too_close")
        self.assertIn("lips_not_measured", measured.result.flags)
        page = reverse("jobs:measure", args=[self.job.pk, "FL"])
        self.assertContains(self.client.get(page), FLAGS["lips_not_measured"])
        look = {"lip_outboard": "0.1", "was-lip_outboard": "", "lip_inboard": "0.1", "was-lip_inboard": ""}
        client_of(self.trainee).post(reverse("jobs:look", args=[self.job.pk, "FL"]), look)
        measured = judge(Corner.objects.get(pk=self.corner.pk)).verdict.measured.thickness
        self.assertEqual(measured.state_discard, "above")
        self.assertNotIn("lips_not_measured", measured.result.flags)
