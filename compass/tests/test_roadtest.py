"""Road tests: made recordings give back what was put in; broken ones are refused for what is wrong with them."""

import contextlib
from unittest import TestCase

import numpy as np

from compass.measure.recording import Recording, RecordingError, read_recording, recording_csv
from compass.measure.road_test import Shake, analyse_orders
from compass.simulate.road import made_recording

HEAD = "time_s,ax,speed_kmh\n"


class Orders(TestCase):
    """What shakes at the wheel's orders, braked and not."""

    def test_order_and_braking_come_back(self) -> None:
        generator = np.random.default_rng(9)
        cases = [
            ({"order": 1.0}, (Shake.ONLY_BRAKING, 1)),
            ({"order": 2.0}, (Shake.ONLY_BRAKING, 2)),
            ({"order": 1.0, "braking_only": False}, (Shake.ALWAYS, 1)),
            ({"amplitude": 0.0}, (Shake.NONE, None)),
            ({"order": 1.45, "amplitude": 0.6}, (Shake.OTHER, None)),
            ({"order": 1.0, "rate_hz": 50.0}, (Shake.ONLY_BRAKING, 1)),
        ]
        for made, expected in cases:
            with self.subTest(made=made):
                recording = read_recording(recording_csv(made_recording(generator, **made)).encode())
                found = analyse_orders(recording, circumference_mm=2000.0)
                self.assertEqual((found.shake, found.order), expected)
                self.assertGreater(found.seconds[0], 15)

    def test_the_wheel_decides_what_an_order_is(self) -> None:
        recording = made_recording(np.random.default_rng(2), order=1.0, circumference_mm=2000.0)
        other = analyse_orders(recording, circumference_mm=2900.0)
        self.assertIs(other.shake, Shake.OTHER)
        self.assertAlmostEqual(other.other_order, 1.45, delta=0.07)

    def test_names_of_columns_and_decimal_commas(self) -> None:
        rows = "".join(f"{t / 50:.2f};0,1;0,2;{20 + t / 100:.2f}\n".replace(".", ",") for t in range(400))
        recording = read_recording(("t;acc_x;acc_y;speed_mps\n" + rows).encode())
        self.assertEqual(recording.acceleration.shape, (400, 2))
        self.assertAlmostEqual(recording.speed[0], 20.0)


class Refusals(TestCase):
    """Each with what is wrong."""

    def test_a_wheel_of_a_millimetre_makes_no_endless_drive(self) -> None:
        good = made_recording(np.random.default_rng(3), order=1.0, rate_hz=300.0)
        small, least = (analyse_orders(good, circumference_mm=mm) for mm in (1.0, 500.0))
        self.assertEqual(small.seconds, least.seconds)
        np.testing.assert_array_equal(small.orders, least.orders)

    def test_what_cannot_show_a_brake_does_not_clear_it(self) -> None:
        whole = made_recording(np.random.default_rng(3), order=1.0)
        braked = np.gradient(whole.speed, whole.time_s) < -1.0
        first, last = np.flatnonzero(braked)[0], np.flatnonzero(np.diff(np.flatnonzero(braked)) > 1)[0]
        free, braking = slice(0, int(first) - 50), slice(int(first), int(first + last))
        every = slice(None, None, 5)  # 20 readings a second
        for code, part in (("not_braked", free), ("never_free", braking), ("wheel_too_quick", every)):
            cut = Recording(whole.time_s[part], whole.acceleration[part], whole.speed[part])
            with self.subTest(code=code), self.assertRaises(RecordingError) as refused:
                analyse_orders(cut, circumference_mm=2000.0)
            self.assertEqual(refused.exception.code, code)
        smooth = made_recording(np.random.default_rng(3), amplitude=0.0, rate_hz=50.0)
        for seen, wheel_mm in ((True, 2400.0), (False, 1300.0)):  # a smaller wheel turns quicker
            with self.subTest(wheel_mm=wheel_mm), contextlib.ExitStack() as refused:
                if not seen:
                    refused.enter_context(self.assertRaisesRegex(RecordingError, "twice_a_turn_unseen"))
                self.assertIs(analyse_orders(smooth, circumference_mm=wheel_mm).shake, Shake.NONE)
        shakes = made_recording(np.random.default_rng(3), order=1.0, braking_only=False)
        cut = Recording(shakes.time_s[free], shakes.acceleration[free], shakes.speed[free])
        self.assertIs(analyse_orders(cut, circumference_mm=2000.0).shake, Shake.ALWAYS)  # that is seen all the same

    def test_each_broken_file_has_its_code(self) -> None:
        good = [f"{t / 50:.3f},0.1,60" for t in range(400)]
        cases = {
            "missing_columns": "seconds,speed\n1,2\n",
            "not_a_number": HEAD + "\n".join([*good[:3], "x,0.1,60", *good[4:]]),
            "too_short": HEAD + "\n".join(good[:20]),
            "time_runs_back": HEAD + "\n".join([*good[:300], good[10], *good[301:]]),
            "too_slow": HEAD + "\n".join(f"{t},0.1,60" for t in range(40)),
            "stood_still": HEAD + "\n".join(f"{t / 50:.3f},0.1,3" for t in range(400)),
            "too_fast": HEAD + "\n".join(f"{t / 50:.3f},0.1,1e6" for t in range(400)),
            "too_far": HEAD + "\n".join(f"{t / 50:.3f},0.1,200" for t in range(80_000)),
            "too_many_columns": HEAD.strip() + ",x" * 100 + "\n" + good[0],
            "too_many_rows": HEAD + "\n" * 200_001,
            "not_text": b"\xff\xfe\x00",
            "too_large": b"x" * 20_000_001,
        }
        for code, raw in cases.items():
            with self.subTest(code=code), self.assertRaises(RecordingError) as refused:
                read_recording(raw if isinstance(raw, bytes) else raw.encode())
            self.assertEqual(refused.exception.code, code)
        with self.assertRaises(RecordingError) as empty:
            read_recording(b"")
        self.assertEqual(empty.exception.code, "missing_columns")
        infinite = HEAD + "\n".join([*good[:3], "inf,0.1,60"])
        with self.assertRaises(RecordingError) as unreal:
            read_recording(infinite.encode())
        self.assertEqual(unreal.exception.figures["row"], 5)
