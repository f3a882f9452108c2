"""The complaint by keyboard: the vehicle pressed, the words left, two people, a slow line."""

from ironcompass.tests.waiting import PATIENCE_S
from jobs.models import Job, Look
from tests.browser.base import BrowserCase
from workshop.long_work.carrying import carry_out_work
from workshop.models import LongWork
from workshop.numbers_in_addresses import named
from workshop.tests.base import person


class Complaint(BrowserCase):
    """What the driver says and feels."""

    def setUp(self) -> None:
        super().setUp()
        self.page.goto(f"{self.url}/jobs/{named('job', self.job.pk)}/")

    def story(self) -> dict[str, object]:
        return dict(Job.objects.get(pk=self.job.pk).story)

    def until(self, expected, read) -> None:
        """Wait until the server has it."""
        for _ in range(int(30 * PATIENCE_S)):
            if read() == expected:
                return
            self.page.wait_for_timeout(30)
        self.assertEqual(read(), expected)

    def test_the_drawn_vehicle_is_pressed_and_the_odds_follow(self) -> None:
        page = self.page
        before, act = page.inner_text("#story-odds"), page.inner_text("#next")
        page.focus(".cabin-part input[value=seat]")
        page.keyboard.press("Space")
        self.until(["seat"], lambda: self.story().get("felt_in"))
        page.focus("#id_speed_from")
        page.keyboard.type("80")
        page.keyboard.press("Tab")
        page.keyboard.type("100")
        page.keyboard.press("Tab")
        self.until([80, 100], lambda: self.story().get("speed_kmh"))
        page.wait_for_selector("#story-speeds svg")
        self.eventually(f"document.getElementById('story-odds').innerText !== {before!r}")
        self.eventually(f"document.getElementById('next').innerText !== {act!r}")  # behind is looked at first
        page.reload()
        self.assertTrue(page.is_checked(".cabin-part input[value=seat]"))
        self.assertEqual(page.input_value("#id_speed_to"), "100")

    def test_two_people_press_on_one_vehicle_and_both_are_heard(self) -> None:
        other = self.open_page(person("technician"))
        other.goto(f"{self.url}/jobs/{named('job', self.job.pk)}/")
        for part in ("seat", "pedal"):  # the second press goes on from what the first has kept
            self.page.focus(f".cabin-part input[value={part}]")
            self.page.keyboard.press("Space")
        self.until(["pedal", "seat"], lambda: sorted(self.story().get("felt_in", [])))
        self.page.keyboard.press("Space")
        self.until(["seat"], lambda: self.story().get("felt_in"))
        other.focus(".cabin-part input[value=steering_wheel]")
        other.keyboard.press("Space")
        self.until(["seat", "steering_wheel"], lambda: sorted(self.story().get("felt_in", [])))
        other.wait_for_selector(".cabin-part input[value=seat]:checked", state="attached")  # drawn anew

    def test_a_recording_is_read_while_its_page_waits_and_its_fault_stands_at_the_field(self) -> None:
        page = self.page
        page.goto(f"{self.url}/jobs/{named('job', self.job.pk)}/cause/")
        page.click("#road summary")
        page.set_input_files("#recording", {"name": "drive.csv", "mimeType": "text/csv", "buffer": b"a,b\n1,2\n"})
        page.click("text=Read it")
        page.wait_for_selector("#road progress")
        self.assertEqual(page.locator("#recording").count(), 0)  # one at a time
        work = LongWork.objects.get()
        carry_out_work(work.pk, work.workshop_id)  # a worker's part
        page.wait_for_selector("#road .error:has-text('Columns missing')")
        self.assertTrue(page.is_visible("#recording"))

    def test_words_are_kept_as_they_are_left_and_two_people_see_each_other(self) -> None:
        other = self.open_page(person("technician"))
        other.goto(f"{self.url}/jobs/{named('job', self.job.pk)}/")
        self.page.fill("#id_complaint", "Shakes from 90 on")
        self.page.keyboard.press("Tab")
        self.page.wait_for_selector("#words-state [role=status]")
        self.assertEqual(Job.objects.get(pk=self.job.pk).complaint, "Shakes from 90 on")
        other.fill("#id_complaint", "Squeals in the rain")
        other.keyboard.press("Tab")
        other.wait_for_selector("#words-state .error")
        self.assertIn("Theirs: “Shakes from 90 on”", other.inner_text("#words-state"))
        self.assertEqual(other.input_value("#id_complaint"), "Squeals in the rain")
        self.assertEqual(Job.objects.get(pk=self.job.pk).complaint, "Shakes from 90 on")
        other.focus("#id_complaint")
        other.keyboard.press("End")
        other.keyboard.type(", too")
        other.keyboard.press("Tab")  # seen, and meant
        other.wait_for_selector("#words-state [role=status]")
        self.assertEqual(Job.objects.get(pk=self.job.pk).complaint, "Squeals in the rain, too")

    def test_a_trainees_older_page_lifts_no_stop(self) -> None:
        self.measure("?tape=look")
        trainee = person("trainee")
        Job.objects.update(with_trainee=trainee)
        older = self.open_page(trainee)
        self.measure("?tape=look", page=older)
        self.page.check("[name=findings][value=cracked]")
        self.page.wait_for_selector("#stop .stop")
        older.fill("#id_pad_inner", "6")
        older.keyboard.press("Tab")
        self.until({"pad_inner": "6"}, self.typed)
        older.fill("#id_pad_outer", "5")  # its second write: the first answer made nothing theirs its own
        older.keyboard.press("Tab")
        self.until({"pad_inner": "6", "pad_outer": "5"}, self.typed)
        self.assertEqual(self.seen(), ["cracked"])
        self.page.fill("#id_pad_inner", "7")
        self.page.keyboard.press("Tab")
        self.eventually("document.getElementById('look-error-pad_inner').textContent.includes('You typed “7”')")
        self.assertEqual(self.page.input_value("#id_pad_inner"), "6")  # theirs stands, in sight
        self.page.focus("[name=findings][value=cracked]")
        self.page.keyboard.press("Space")
        self.page.wait_for_selector("[name=reason]")
        self.assertTrue(self.page.is_checked("[name=findings][value=cracked]"))
        self.page.keyboard.type("a scratch, ")  # the hand is there already
        self.page.click("#look-blue_spots")  # another finding in the middle of it
        self.until(["blue_spots", "cracked"], self.seen)
        self.page.focus("[name=reason]")
        self.page.keyboard.press("End")
        self.page.keyboard.type("dye shows none")
        self.page.keyboard.press("Enter")
        self.until(["blue_spots"], self.seen)
        self.page.wait_for_selector("[name=reason]", state="detached")
        self.assertFalse(self.page.is_checked("[name=findings][value=cracked]"))
        self.assertEqual(self.typed(), {"pad_inner": "6", "pad_outer": "5"})
        self.assertEqual(
            Look.objects.get(corner=self.corner)
            .history.filter(history_change_reason="not seen cracked a scratch, dye shows none")
            .count(),
            1,
        )

    def typed(self) -> dict[str, str]:
        return dict(Look.objects.get(corner=self.corner).typed)

    def seen(self) -> list[str]:
        return list(Look.objects.get(corner=self.corner).findings)

    def test_the_keyboard_is_never_trapped_and_the_act_is_always_one_key_away(self) -> None:
        self.page.focus("#id_complaint")
        self.page.keyboard.press("Control+Enter")
        self.page.wait_for_url(lambda address: not address.endswith(f"/jobs/{named('job', self.job.pk)}/"))
        self.page.go_back()
        self.page.keyboard.press("Alt+2")
        self.page.wait_for_url("**/FR/**")
