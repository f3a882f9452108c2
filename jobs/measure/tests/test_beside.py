"""Quick readings and looks."""

from django.urls import reverse

from compass.evidence.records import Pads
from compass.ground.units import Unit
from jobs.judging import judge
from jobs.look_fields import read_look
from jobs.measure.looking import write_look
from jobs.models import Job, QuickReading
from jobs.next_act import renew_linings
from jobs.prepare.actions import start_round, start_sweep, use_limits
from jobs.prove.actions import ReasonNeededError, close_job
from jobs.record.trail import changes_of
from jobs.tests.base import SET_UP, Corner, Workshop, fill
from workshop.models import Instrument
from workshop.tests.base import FIGURES, client_of
from workshop.vehicles import set_limits


class Quick(Workshop):
    """The high spot and the amount, in one line."""

    def take(self, client=None, **changes: str):
        form = {"stud": "4", "offset": "12", "amount": "9", "within": "15"} | changes
        return (client or self.client).post(reverse("jobs:quick", args=[self.job.pk, "FL"]), form)

    def test_is_stored_as_typed_and_judged(self) -> None:
        self.assertEqual(self.take().status_code, 302)
        quick = QuickReading.objects.get()
        self.assertEqual((quick.typed, round(quick.tir_mm, 9), quick.high_deg), ("9", 0.09, 228.0))
        self.assertEqual(Corner.objects.get(pk=self.corner.pk).verdict["runout"]["state"], "over")
        self.client.post(reverse("jobs:strike", args=[quick.pk]), {"struck": "yes"})
        self.assertTrue(QuickReading.objects.get().withdrawn)
        self.assertEqual(Corner.objects.get(pk=self.corner.pk).verdict, {})

    def test_two_at_two_indices_tell_hub_from_rotor(self) -> None:
        self.take()
        start_sweep(self.user, self.corner, stations=10, **SET_UP | {"index_deg": 144.0})
        self.take(amount="0.09 mm")
        whose = judge(self.corner).verdict.measured.whose
        self.assertGreater(whose.hub.tir_mm, 0.07)
        self.assertLess(whose.rotor.tir_mm, whose.rotor.expanded_mm)

    def test_bad_ones_are_refused_beside_their_field(self) -> None:
        for field, text in (("stud", "6"), ("amount", "nine"), ("amount", "-9"), ("within", "0"), ("offset", "x")):
            with self.subTest(field=field, text=text):
                answer = self.take(**{field: text})
                self.assertContains(answer, f"id_{field}_error", status_code=422)
                self.assertContains(answer, f'value="{text}"', status_code=422)
        self.assertFalse(QuickReading.objects.exists())

    def test_a_closed_job_takes_none(self) -> None:
        self.take()
        close_job(self.user, self.job, reason="Sold")
        self.assertEqual(self.take().status_code, 422)
        self.client.post(reverse("jobs:strike", args=[QuickReading.objects.get().pk]), {"struck": "yes"})
        self.assertFalse(QuickReading.objects.get().withdrawn)


class Looking(Workshop):
    """Play, pads, drum, lips, findings: kept as typed, read where they can be."""

    def look(self, **typed):
        address = reverse("jobs:look", args=[self.job.pk, "FL"])
        return self.client.post(address, typed, headers={"hx-request": "true"})

    def test_fields_are_read_as_people_type_them(self) -> None:
        looked = read_look({"pad_inner": "6,0 6.1 mm; 5.5", "bearing_play": "2 thou", "edge": "1.1 in"}, Unit.MM)
        self.assertEqual(looked.mm["pad_inner"], (6.0, 6.1, 5.5))
        self.assertAlmostEqual(looked.one("bearing_play"), 0.0508)
        self.assertAlmostEqual(looked.one("edge"), 27.94)
        self.assertEqual(set(read_look({"pad_inner": "6 x", "edge": "999"}, Unit.MM).errors), {"pad_inner", "edge"})

    def test_what_cannot_be_read_stays_typed_with_its_error(self) -> None:
        answer = self.look(bearing_play="loose", pad_inner="6.0 2.5", findings=["cracked", "no such word"])
        self.assertContains(answer, "loose", status_code=422)
        look = Corner.objects.get(pk=self.corner.pk).look
        self.assertEqual((look.typed["bearing_play"], look.findings), ("loose", ["cracked"]))
        self.assertEqual(look.history.count(), 3)  # each figure and finding is a write of its own
        corner = Corner.objects.get(pk=self.corner.pk)
        self.assertTrue(corner.kept.do_not_drive)
        self.assertIn("pads_uneven", [reason.code for reason in judge(corner).verdict.because])
        page = self.client.get(reverse("jobs:measure", args=[self.job.pk, "FL"]) + "?tape=look")
        self.assertContains(page, 'value="loose"')

    def test_pads_under_their_least_thickness_are_renewed_before_the_job_closes(self) -> None:
        limits = set_limits(self.user, self.vehicle, "F", **FIGURES | {"min_pad_mm": 3.0})
        use_limits(self.user, self.corner, limits)
        says = [self.look(pad_inner="2.8", pad_outer="3.5").content.decode().count("under its least thickness")]
        act = renew_linings(Job.of(self.user).for_page().get(pk=self.job.pk))
        self.assertEqual(act.url.partition("?")[2], "tape=look#look-pad_new")
        with self.assertRaises(ReasonNeededError) as refused:
            close_job(self.user, self.job, reason="")
        self.assertEqual([(one.code, one.position) for one in refused.exception.open], [("pads_worn", "FL")])
        self.assertContains(self.client.get(reverse("jobs:owner", args=[self.job.pk])), "renewed before it is driven")
        self.assertContains(
            self.client.get(reverse("jobs:sheet", args=[self.job.pk])), "down to 2.80 mm (least 3.00 mm)"
        )
        says.append(self.look(pad_new="11").content.decode().count("under its least thickness"))
        self.assertEqual(says, [1, 0])
        job = Job.of(self.user).for_page().get(pk=self.job.pk)
        self.assertIsNone(renew_linings(job))
        pads = judge(job.corners.get(position="FL")).verdict.measured.corner.pads
        self.assertEqual(pads, Pads((2.8,), (3.5,), (11.0,)), "how the old ones had worn stays evidence")
        self.assertContains(self.client.get(reverse("jobs:owner", args=[self.job.pk])), "Fitted new brake pads")
        with self.assertRaises(ReasonNeededError) as refused:
            close_job(self.user, self.job, reason="")
        self.assertEqual(refused.exception.open, ())

    def test_an_older_page_and_an_empty_form_write_over_nothing(self) -> None:
        self.look(**{"bearing_play": "0.02", "was-bearing_play": "", "findings": ["cracked"], "was-findings": ""})
        self.look(
            **{"pad_inner": "6", "was-pad_inner": "", "bearing_play": "", "was-bearing_play": ""}
        )  # an older page
        client_of(self.trainee).post(reverse("jobs:look", args=[self.job.pk, "FL"]), {})
        look = Corner.objects.get(pk=self.corner.pk).look
        self.assertEqual(look.typed, {"bearing_play": "0.02", "pad_inner": "6"})
        self.assertEqual(look.findings, ["cracked"])
        answer = self.look(**{"bearing_play": "0.05", "was-bearing_play": "0.01"})
        self.assertContains(answer, "somebody typed “0.02”", status_code=422)

    def test_what_stops_a_vehicle_is_lifted_by_who_may_with_a_reason(self) -> None:
        Job.objects.update(with_trainee=self.trainee)
        write_look(self.trainee, self.corner, seen={"cracked": True, "blue_spots": True})
        held = write_look(self.trainee, self.corner, seen={"cracked": False}, reason="it was dirt").held
        self.assertEqual(held, ("cracked",))
        unticked = {"was-findings": "blue_spots cracked", "findings": ["blue_spots"], "pad_inner": "6"}
        asks = self.look(**unticked | {"reason": "a scr", "asked": "vent_showing"})  # a reason nobody has pressed yet
        self.assertContains(asks, "Why is it lifted?", status_code=422)
        self.assertContains(asks, 'name="was-findings" value="cracked blue_spots"', status_code=422)
        self.assertNotContains(self.look(**unticked | {"asked": "cracked"}), "Why is it", status_code=422)  # stands
        self.assertEqual(Corner.objects.get(pk=self.corner.pk).look.typed, {"pad_inner": "6"})  # all else is written
        page = reverse("jobs:measure", args=[self.job.pk, "FL"]) + "?tape=look"
        self.assertContains(client_of(self.trainee).get(page), "lifted by a technician")
        self.assertEqual(Corner.objects.get(pk=self.corner.pk).look.findings, ["blue_spots", "cracked"])
        lifted = {"was-findings": "blue_spots cracked", "findings": ["blue_spots", "cracked"], "lifted": "cracked"}
        self.assertEqual(self.look(**lifted | {"reason": "a scratch, dye shows none"}).status_code, 200)
        self.assertEqual(Corner.objects.get(pk=self.corner.pk).look.findings, ["blue_spots"])
        newest = changes_of(self.job)[0]
        self.assertEqual(newest["who"], self.user)
        self.assertIn("a scratch, dye shows none", newest["what"])
        write_look(self.trainee, self.corner, seen={"blue_spots": False})  # stops nothing: anybody's

    def test_two_units_in_one_look_are_never_mixed(self) -> None:
        write_look(self.user, self.corner, figures={"bearing_play": ("", "0.02")})
        write_look(self.user, self.corner, figures={"pad_inner": ("", "0.25 6 mm")}, unit=Unit.THOU)
        look = Corner.objects.get(pk=self.corner.pk).look
        self.assertEqual((look.unit, look.typed["pad_inner"]), ("mm", "0.25 in 6 mm"))
        self.assertAlmostEqual(read_look(look.typed, Unit.MM).mm["pad_inner"][0], 6.35)

    def test_lips_come_off_a_plain_caliper_only(self) -> None:
        caliper = Instrument.objects.create(name="Caliper", kind="caliper", graduation_mm=0.02)
        over = start_round(
            self.user,
            self.corner,
            stations=10,
            radius_mm=138.0,
            graduation_mm=0.02,
            entry_unit="mm",
            instrument=caliper,
        )
        fill(self.user, over, ["27.60"] * 10)
        lips = {"lip_outboard": ("", "0.6"), "lip_inboard": ("", "0.7")}
        write_look(self.user, self.corner, figures=lips)
        result = judge(Corner.objects.select_related("look").get(pk=self.corner.pk)).verdict.measured.thickness.result
        self.assertAlmostEqual(result.minimum.value_mm, 26.3, delta=0.01)
        self.assertGreater(result.minimum.expanded_mm, 0.05)
