"""Preparing a corner."""

from django.urls import reverse

from jobs.measure.actions import strike_tape
from jobs.models import Corner, Job, Sweep
from jobs.next_act import next_act
from jobs.prepare.forms import CONFIRMATIONS
from jobs.tests.base import READINGS, THICKNESS, Workshop, fill
from workshop.models import User
from workshop.tests.base import client_of


class Preparing(Workshop):
    """Limits and set-up."""

    form = {
        "studs": "5",
        "rotor": "vented",
        "measuring_radius_mm": "138",
        "max_runout_mm": "2 thou",
        "max_thickness_variation_mm": "0,012",
        "discard_thickness_mm": "12.4",
        "source": "cast",
        "cleaned": "on",
        "dial": "mm10",
        "read_to": "0.5",
        "entry_unit": "div",
        "stations": "10",
        "radius_mm": "138",
        "micrometer": "mm1",
        "micrometer_unit": "mm",
    }

    def post(self, position: str = "RL", **changes: str):
        return self.client.post(reverse("jobs:prepare", args=[self.job.pk, position]), self.form | changes)

    def test_lays_out_both_tapes_and_judges_the_whole_axle(self) -> None:
        answer = self.post()
        corner = Corner.objects.get(job=self.job, position="RL")
        tape = f"?tape=s{corner.sweeps.get().pk}"
        self.assertRedirects(answer, reverse("jobs:measure", args=[self.job.pk, "RL"]) + tape)
        self.assertAlmostEqual(corner.limits.max_runout_mm, 0.0508)
        self.assertEqual(Corner.objects.get(job=self.job, position="RR").limits, corner.limits)
        sweep = corner.sweeps.get()
        self.assertEqual((sweep.slots, sweep.cleaned, sweep.nuts_torqued), (11, True, False))
        self.assertEqual(corner.rounds.get().slots, 10)

    def test_bad_limits_are_named_beside_their_field_and_nothing_typed_is_lost(self) -> None:
        for field, text in (
            ("max_runout_mm", "0"),
            ("max_runout_mm", "five"),
            ("discard_thickness_mm", "1.2.3"),
            ("measuring_radius_mm", "1000"),
            ("nominal_thickness_mm", "12"),
            ("radius_mm", "13.8"),
            ("radius_mm", "300"),
            ("radii", "138 9"),
            ("stations", "3"),
            ("studs", "0"),
        ):
            with self.subTest(field=field, text=text):
                answer = self.post(**{field: text})
                self.assertContains(answer, f'id="id_{field}_error"', status_code=422)
                self.assertContains(answer, f'value="{text}"', status_code=422)
                self.assertContains(answer, 'value="2 thou"' if field != "max_runout_mm" else text, status_code=422)
        answer = self.post(swept_outer_radius_mm="130")
        self.assertContains(answer, 'id="id_measuring_radius_mm_error"', status_code=422)
        self.assertFalse(Corner.objects.get(job=self.job, position="RL").sweeps.exists())

    def test_a_limit_whose_decimal_sign_slipped_is_asked_back_and_taken_where_it_is_meant(self) -> None:
        for field, slip in (
            ("max_runout_mm", "0.5"),
            ("max_thickness_variation_mm", "0.15"),
            ("discard_thickness_mm", "1.24"),
            ("measuring_radius_mm", "276"),  # a diameter
            ("min_pad_mm", "25"),
        ):
            with self.subTest(field=field):
                told = self.post(**{field: slip, "radius_mm": ""})
                self.assertContains(told, "sizes_meant", status_code=422)
                self.assertContains(told, f'id="id_{field}_error"', status_code=422)
                self.assertEqual(self.post(**{field: slip, "radius_mm": "", "sizes_meant": "on"}).status_code, 302)
                limits = Corner.objects.get(job=self.job, position="RL").limits
                self.assertAlmostEqual(getattr(limits, field), float(slip))

    def test_a_trainee_uses_the_limits_in_force_and_cannot_change_them(self) -> None:
        self.client = client_of(self.trainee)
        Job.objects.update(with_trainee=None)
        self.assertEqual(self.post("FR", max_runout_mm="1").status_code, 403)  # not put on this job
        Job.objects.update(assigned_to=self.trainee)
        self.assertEqual(self.post("FR", max_runout_mm="1").status_code, 302)
        self.assertEqual(Corner.objects.get(job=self.job, position="FR").limits.max_runout_mm, 0.05)
        self.assertEqual(self.post("RL").status_code, 422)

    def test_limits_shown_in_thou_and_left_alone_stay_as_stored(self) -> None:
        User.objects.filter(pk=self.user.pk).update(units="thou")
        address = reverse("jobs:prepare", args=[self.job.pk, "FL"])
        page = self.client.get(address).context
        texts = {name: page["limits_form"][name].value() or "" for name in page["limits_form"].fields}
        self.assertEqual(texts["max_runout_mm"], "2.0")
        self.client.post(address, self.form | texts | {"radius_mm": "5.4331"})
        self.assertEqual(Corner.objects.get(pk=self.corner.pk).limits, self.corner.limits)

    def test_a_motorcycle_is_set_up_on_its_stand_and_its_disc_by_its_bolts(self) -> None:
        self.client.post(reverse("jobs:new"), {"kind": "motorcycle", "label": "Moped", "complaint": "Lever pulses"})
        address = reverse("jobs:prepare", args=[Job.objects.get(vehicle__label="Moped").pk, "F"])
        asked = self.client.get(address).context
        self.assertEqual(asked["limits_form"]["rotor"].value(), "solid")
        clamping = {"disc_bolt_torque_nm", "axle_torque_nm", "wheel_torque_nm"}
        shown = {field.name for field in asked["limits_form"].main_fields}
        self.assertEqual(clamping & shown, clamping - {"wheel_torque_nm"})
        self.client.post(address, self.form | {"rotor": "solid", "disc_bolt_torque_nm": "23"})
        drawn = self.client.get(address).context
        self.assertEqual((drawn["motorcycle"], drawn["torque_nm"]), (True, 23.0))
        self.assertNotIn("stands", str(drawn["set_up_form"]["lifted"].label))

    def test_another_corner_is_lifted_with_the_vehicle_and_cleaned_by_its_own_hand(self) -> None:
        self.post("FL", lifted="on", nuts_torqued="on", tip="on")
        asked = self.client.get(reverse("jobs:prepare", args=[self.job.pk, "FR"])).context["set_up_form"]
        ticked = {name: bool(asked[name].value()) for name in CONFIRMATIONS}
        self.assertEqual(ticked, {"lifted": True, "cleaned": False, "nuts_torqued": False, "tip": False})
        self.assertTrue(asked.fields["cleaned"].widget.attrs["autofocus"])

    def test_turning_the_rotor_lays_out_a_sweep_of_its_own(self) -> None:
        fill(self.user, self.sweep, READINGS)
        self.post("FL", turned="2")
        self.assertEqual([s.index_deg for s in Sweep.objects.filter(corner=self.corner)], [0.0, 144.0])

    def test_a_tape_asked_for_of_which_none_counts_is_laid_out_and_no_other_beside_it(self) -> None:
        fill(self.user, self.sweep, READINGS)
        fill(self.user, self.round, THICKNESS)
        for kind, tape in (("thickness", self.round), ("sweep", self.sweep)):
            with self.subTest(kind=kind):
                strike_tape(self.user, tape, struck=True)
                act = next_act(Job.objects.for_page().get(pk=self.job.pk))
                where = f"{reverse('jobs:prepare', args=[self.job.pk, 'FL'])}?tape={kind}"
                self.assertRedirects(self.client.get(act.url), where)
                before = (self.corner.sweeps.count(), self.corner.rounds.count())
                answer = self.client.post(where, self.form)
                laid = type(tape).objects.latest("pk")
                self.assertIn(f"?tape={kind[0]}{laid.pk}", answer["Location"])
                added = (self.corner.sweeps.count() - before[0], self.corner.rounds.count() - before[1])
                self.assertEqual(added, (kind == "sweep", kind == "thickness"))
                fill(self.user, laid, THICKNESS if kind == "thickness" else READINGS)
