"""Instruments that talk, played by the stand-in: by the interface, as a keyboard, by a cable; a person types too."""

import subprocess
import sys
from typing import Any

from ironcompass.tests.waiting import PATIENCE_S
from jobs.models import DeviceReading, Sweep
from practice.standin import readings
from tests.browser.base import BrowserCase
from workshop.models import Instrument
from workshop.store.actions import make_device_key

_HAND_MS = 60  # a key that comes later than this after a doubled one is a hand's (gloves.js)
# An indicator on a cable, as the browser's own interface shows one: what is pushed arrives, until it is pulled out.
CABLE = """
Object.defineProperty(navigator, "serial", { value: { async requestPort() {
  const port = { async open() {}, readable: null };
  port.readable = new ReadableStream({ start(line) {
    window.push = (text) => line.enqueue(new TextEncoder().encode(text));
    window.pull = () => line.close();
  } });
  return port;
} } });
"""


class Talks(BrowserCase):
    """A sweep of ten stations, and an instrument that talks."""

    def stand_in(self, *arguments: str, **options: Any) -> subprocess.Popen[str]:
        command = [sys.executable, "-m", "practice.standin", "dial", "--seed", "3", *arguments]
        return subprocess.Popen(command, text=True, stdout=subprocess.PIPE, **options)  # noqa: S603

    def tape(self) -> Sweep:
        return Sweep.objects.get(pk=self.sweep.pk)

    def test_a_device_fills_the_tape_out_of_order_and_twice_while_a_person_types(self) -> None:
        dial = Instrument.objects.create(name="Dial 3", graduation_mm=0.001)
        key, secret = make_device_key(self.user, dial, name="Dial 3 by radio")
        self.measure()
        self.page.locator("#listen-key").select_option(str(key.pk))
        self.page.get_by_text("listen to it").click()
        self.page.wait_for_selector("#talks[data-heard]")
        self.page.get_by_text("sound off").click()
        self.page.evaluate(
            "window.heardTones = []; document.addEventListener('tone', (e) => heardTones.push(e.detail))"
        )
        # The way back is read by the hand, before the device comes to it.
        self.page.locator("#tape input[data-slot='10']").focus()
        self.type_in("0.3")
        self.settle()
        play = self.stand_in("--to", self.url, "--key", secret, "--pause", "0.02", "--twice", "--shuffle")
        out, _none = play.communicate(timeout=PATIENCE_S)
        sent = {one.station: one.value_mm for one in readings("dial", seed=3, stations=10, run="x")}
        self.eventually("document.querySelectorAll('#tape input').length === 11")
        self.eventually("[...document.querySelectorAll('#tape input')].every((cell) => cell.value !== '')")
        read = self.tape()
        self.assertEqual([round(mm, 4) for mm in read.readings_mm[:10]], [sent[k] for k in range(1, 11)])
        self.assertEqual(read.typed[10], "0.3", "where a hand has typed, the hand's stands")
        self.assertEqual(DeviceReading.objects.count(), 11)
        self.assertIn("station_taken", out)
        self.eventually("document.getElementById('heard').textContent.includes('not taken')")
        self.eventually("heardTones.includes('taken') && heardTones.includes('doubted')")
        self.assertEqual(self.cells(), list(read.typed))

    def test_a_keyboard_style_sender_types_a_whole_turn_in_a_burst(self) -> None:
        self.measure()
        with self.stand_in("--type", "--pause", "0") as play:
            lines = play.stdout.read().split()
        self.assertEqual(len(lines), 11)
        self.page.evaluate("window.at = []; addEventListener('keydown', (event) => at.push(event.timeStamp), true)")
        sent, read = [f"{float(line):.3f}" for line in lines], [""]
        for _try in range(3):
            self.page.locator("#tape input").first.focus()
            self.page.evaluate("window.at.length = 0")
            for line in lines:  # as fast as the browser takes keys, a unit behind each
                for key in f"{line} mm":
                    self.page.keyboard.press("Space" if key == " " else key)
                self.page.keyboard.press("Enter")
            self.settle()
            read = ["" if mm is None else f"{mm:.3f}" for mm in self.tape().readings_mm]
            # A machine that stood still between two keys has sent no burst: then, and only then, it is sent again.
            if read == sent or not self.page.evaluate(f"at.some((then, k) => then - at[k - 1] >= {_HAND_MS})"):
                break
        self.assertEqual(read, sent)

    def test_a_cable_types_into_the_tape_says_what_is_garbage_and_when_it_is_pulled(self) -> None:
        self.page.add_init_script(CABLE)
        self.measure()
        self.page.get_by_text("by cable").click()
        self.eventually("typeof window.push === 'function'")
        for text in ("+0.01", "0 mm\\r\\n 0.02", "5 mm\\r\\n", "?ERR 7x\\r\\n", "ST,+0.031 mm\\r\\n"):
            self.page.evaluate(f"window.push('{text}')")
            self.page.wait_for_timeout(120)
        self.settle()
        self.assertEqual(self.tape().readings_mm[:4], [0.01, 0.025, 0.031, None])
        self.assertIn("no reading", self.page.inner_text("#cable-says"))
        self.page.evaluate("window.pull()")
        self.eventually("document.getElementById('cable-says').textContent.includes('cable is out')")
        self.type_in("4")
        self.settle()
        self.assertAlmostEqual(self.tape().readings_mm[3], 0.04)
