"""The case file and the command line: every fault named, no traceback, verdicts that fit their schema."""

import copy
import io
import json
import shlex
import subprocess
import sys
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from unittest import TestCase, mock

from hypothesis import given, settings
from hypothesis import strategies as st
from jsonschema import Draft202012Validator

from compass.__main__ import main
from compass.diagnose import diagnose
from compass.files.read_case import read_case, schema
from compass.files.write_verdict import verdict_to_data
from compass.ground.errors import FaultyFileError

EXAMPLE = Path(__file__).parents[2] / "examples" / "minibus-6.json"
CASE = json.loads(EXAMPLE.read_text(encoding="utf-8"))


def changed(**paths):
    """Return the example with values put at dotted paths (``corners.0.spec.studs``); None removes."""
    data = copy.deepcopy(CASE)
    for path, value in paths.items():
        *way, last = path.split("__")
        here = data
        for step in way:
            here = here[int(step) if step.isdigit() else step]
        if value is None:
            del here[last]
        else:
            here[last] = value
    return data


def verdict_of(data) -> dict:
    return verdict_to_data(diagnose(read_case(json.dumps(data))))


def run(*arguments: str, stdin: bytes = b"") -> tuple[int, str, str]:
    out, err = io.StringIO(), io.StringIO()
    source = mock.Mock(buffer=io.BytesIO(stdin))
    with redirect_stdout(out), redirect_stderr(err), mock.patch("sys.stdin", source):
        code = main(arguments)
    return code, out.getvalue(), err.getvalue()


class Reading(TestCase):
    """What a case file may hold."""

    def faults(self, data) -> list[str]:
        raw = data if isinstance(data, (bytes, str)) else json.dumps(data)
        with self.assertRaises(FaultyFileError) as refused:
            read_case(raw)
        return [str(fault) for fault in refused.exception.faults]

    def test_faults_are_named_with_path_and_expectation(self) -> None:
        sweep, spec = "corners__0__sweeps__0", "corners__0__spec"
        cases = [
            (
                changed(**{f"{sweep}__stations_deg": [0, 90]}),
                "corners[0].sweeps[0].readings_mm: 10 readings for 2 stations",
            ),
            (
                changed(**{f"{spec}__max_runout_mm": 0}),
                "corners[0].spec.max_runout_mm: more than 0, not 0",
            ),
            (changed(**{f"{spec}__studs": None}), "corners[0].spec.studs: missing"),
            (changed(**{f"{spec}__studs": 5.5}), "corners[0].spec.studs: a whole number, not 5.5"),
            (changed(**{f"{sweep}__cleaned": 1}), "corners[0].sweeps[0].cleaned: true or false, not 1"),
            (changed(format="iron-compass-case/2"), "format: 'iron-compass-case/1', not 'iron-compass-case/2'"),
            (changed(id=7), "id: text, not 7"),
            (
                changed(corners=[CASE["corners"][0]] * 2),
                "corners[1].position: each position once; FL stands here twice",
            ),
            (
                changed(**{f"{spec}__swept_inner_radius_mm": 150, f"{spec}__swept_outer_radius_mm": 150}),
                "corners[0].spec.swept_inner_radius_mm: less than the outer radius 150, not 150",
            ),
            (
                changed(**{f"{spec}__nominal_thickness_mm": 2, f"{spec}__discard_thickness_mm": 2}),
                "corners[0].spec.nominal_thickness_mm: more than discard, 2, not 2",
            ),
            (
                changed(**{f"{sweep}__readings_mm": [1e8]}),
                "corners[0].sweeps[0].readings_mm[0]: at most 1e+07, not 100000000.0",
            ),
            (
                changed(corners__0__thickness__readings_mm=[[26.4, 26.3], [26.4, 26.3]]),
                "corners[0].thickness.readings_mm: 2 rows for 1 radii",
            ),
            (
                changed(**{f"{sweep}__radius_mm": 13.8}),  # order n would count by the n-th power of a slipped sign
                "corners[0].sweeps[0].radius_mm: between 13.8 and 276, by the measuring radius, not 13.8",
            ),
            (
                changed(corners__0__after=[{"thickness": CASE["corners"][0]["thickness"] | {"radii_mm": [1400]}}]),
                "corners[0].after[0].thickness.radii_mm[0]: between 13.8 and 276, by the measuring radius, not 1400",
            ),
        ]
        for data, expected in cases:
            with self.subTest(expected=expected):
                self.assertEqual(self.faults(data), [expected])

    def test_a_shop_that_cannot_be_is_refused(self) -> None:
        plate = {"correction_mm": 0.1, "reference_radius_mm": 1e-9, "positions": 10, "studs": 5}
        self.assertIn("reference_radius_mm", str(self.faults(CASE | {"shop": {"plates": [plate]}})))
        self.assertTrue(self.faults(CASE | {"shop": {"policy": "cheapest"}}))
        lathe = {"kind": "bench", "runout_left_mm": 0.02, "min_depth_mm": 0.05, "max_depth_mm": {"vented": 1e-300}}
        self.assertIn("max_depth_mm.vented: at least 0.0001", str(self.faults(CASE | {"shop": {"lathes": [lathe]}})))
        worn = copy.deepcopy(CASE)
        worn["corners"][0] |= {"wear": {"mm_per_1000_km": 0.02}, "plate_fitted": True}
        told = verdict_of(worn | {"shop": {"plates": [plate | {"reference_radius_mm": 130}], "currency": "kr"}})
        plates = [r for r in told["corners"][0]["remedies"] if "plate" in r["remedy"]]
        self.assertTrue(all("plate_stacked" in r["blocked_by"] for r in plates))
        self.assertTrue(any(r["remaining_km"] is not None for r in told["corners"][0]["remedies"]))

    def test_unknown_words_and_keys_are_errors(self) -> None:
        self.assertRegex(self.faults(changed(corners__0__findings=["bent"]))[0], r"corners\[0\].findings\[0\]: one of")
        self.assertRegex(self.faults(changed(colour="red"))[0], "colour: unknown key")

    def test_broken_files_are_refused_whatever_they_hold(self) -> None:
        text = json.dumps(CASE)
        broken = {
            "truncated": text[:-9],
            "not json": "readings: 1, 2, 3",
            "empty": "",
            "a list": "[]",
            "null": "null",
            "NaN": text.replace("0.105", "NaN"),
            "infinity": text.replace("0.105", "-Infinity"),
            "overflow": text.replace("0.105", "1e999"),
            "endless digits": text.replace("0.105", "9" * 5000),
            "duplicate key": text.replace('"id":', '"format": "iron-compass-case/1", "id":'),
            "nested": "[" * 100_000,
            "not utf-8": b"\xff\xfe" + text.encode(),
            "too large": " " * 20_000_001,
            "null byte": text.replace('"id": "', '"id": "\\u0000'),
            "half of a character": text.replace('"id": "', '"id": "\\ud800'),
            "five million lists": "[" + "[]," * 5_000_000 + "[]]",
        }
        for name, raw in broken.items():
            with self.subTest(name=name):
                self.assertTrue(self.faults(raw))

    def test_more_than_any_job_has_is_refused_before_any_work(self) -> None:
        sweep = CASE["corners"][0]["sweeps"][0]
        long = sweep | {"readings_mm": [0.1] * 181, "stations_deg": [0.0] * 181}
        full = sweep | {"readings_mm": [0.1] * 180, "stations_deg": [2.0 * k for k in range(180)]}
        cases = {
            "corners[0].sweeps[0].readings_mm: at most 180, not 181": changed(corners__0__sweeps=[long]),
            "corners[0].sweeps: at most 60, not 61": changed(corners__0__sweeps=[sweep] * 61),
            "corners: at most 6000 readings in all": changed(corners__0__sweeps=[full] * 40),
            "corners: at most 240 sweeps in all": changed(corners__0__after=[{"sweeps": [sweep] * 25}] * 10),
            "corners[0].pads_mm.inner: at most 20, not 21": changed(corners__0__pads_mm={"inner": [9.0] * 21}),
            "vehicle.label: at most 200 characters, not 201": changed(vehicle__label="x" * 201),
        }
        with mock.patch("compass.files.read_case.Case", side_effect=AssertionError("worked on")):
            for expected, data in cases.items():
                with self.subTest(expected=expected):
                    self.assertIn(expected, self.faults(data)[0] + self.faults(data)[-1])

    def test_faults_without_end_are_named_to_fifty(self) -> None:
        twice = "{" + ",".join(f'"{k % 20_000}": 1' for k in range(40_000)) + "}"
        unknown = changed(**{f"key{k}": 1 for k in range(2000)})
        for raw, most in ((twice, 50), (unknown, 51)):
            self.assertEqual(len(self.faults(raw)), most)

    @settings(max_examples=150, deadline=None)
    @given(st.data())
    def test_no_value_anywhere_makes_a_traceback(self, data) -> None:
        case = copy.deepcopy(CASE)
        junk = st.one_of(
            st.none(), st.booleans(), st.integers(-3, 3), st.floats(allow_nan=False), st.text(max_size=3), st.just([])
        )
        here = case
        while True:
            key = data.draw(st.sampled_from(list(here) if isinstance(here, dict) else list(range(len(here)))))
            if isinstance(here[key], (dict, list)) and here[key] and data.draw(st.booleans()):
                here = here[key]
                continue
            here[key] = data.draw(junk)
            break
        try:
            verdict = verdict_to_data(diagnose(read_case(json.dumps(case))))
        except FaultyFileError as refused:
            self.assertTrue(all(str(fault) for fault in refused.faults))
        else:
            json.dumps(verdict, allow_nan=False)


class Verdicts(TestCase):
    """The verdict format."""

    def test_has_every_key_and_fits_its_schema(self) -> None:
        validator = Draft202012Validator(schema("verdict-1"))
        no_sweep = changed(corners__0__sweeps=[], corners__0__thickness=None)
        for data in (CASE, no_sweep, changed(corners=[])):
            validator.validate(verdict_of(data))
        for name in ("case-1", "verdict-1"):
            Draft202012Validator.check_schema(schema(name))

    def test_the_example(self) -> None:
        corner = verdict_of(CASE)["corners"][0]
        self.assertEqual((corner["runout"]["state"], corner["thickness"]["state_variation"]), ("over", "over"))
        self.assertAlmostEqual(corner["runout"]["tir_mm"], 0.109, delta=0.003)
        self.assertAlmostEqual(corner["runout"]["high_deg"], 231.8, delta=1)
        self.assertEqual(corner["thickness"]["state_discard"], "above")
        self.assertEqual((corner["next_check"], corner["recommended"]), ("turn_rotor_and_sweep", None))

    def test_is_the_same_every_time(self) -> None:
        self.assertEqual(verdict_of(CASE), verdict_of(CASE))

    def test_rules_come_before_figures(self) -> None:
        corner = "corners__0"
        cases = [
            ({f"{corner}__findings": ["cracked"]}, "cracked_or_broken", "new_rotors", True),
            ({f"{corner}__spec__discard_thickness_mm": 26.5}, "worn_below_limit", "new_rotors", True),
            ({f"{corner}__spec__discard_thickness_mm": 26.4105}, "worn_below_limit", "new_rotors", True),
            (
                {f"{corner}__spec__max_bearing_play_mm": 0.05, f"{corner}__bearing_play_mm": 0.06},
                "wheel_bearing",
                "hub_unit",
                True,
            ),
            ({f"{corner}__sweeps__0__cleaned": False}, "not_separable", "clean_and_torque", False),
            (
                {f"{corner}__spec__max_runout_mm": 0.2, f"{corner}__spec__max_thickness_variation_mm": 0.1},
                "none_found",
                "none",
                False,
            ),
        ]
        for paths, cause, remedy, stop in cases:
            with self.subTest(cause=cause, paths=paths):
                verdict = verdict_of(changed(**paths))["corners"][0]
                self.assertEqual(
                    (verdict["root_cause"], verdict["recommended"], verdict["do_not_drive"]), (cause, remedy, stop)
                )

    def test_a_vehicle_has_the_wheels_that_were_measured_whatever_its_kind(self) -> None:
        corners = [CASE["corners"][0] | {"position": position} for position in ("FL", "FR", "RL", "RR")]
        told = verdict_of(CASE | {"vehicle": {"kind": "motorcycle"}, "corners": corners})
        self.assertEqual([corner["position"] for corner in told["corners"]], ["FL", "FR", "RL", "RR"])

    def test_what_is_renewed_and_measured_forbids_driving_no_more(self) -> None:
        corner = CASE["corners"][0]
        worn = corner | {"thickness": corner["thickness"] | {"readings_mm": [[22.0] * 10]}}
        true = corner["sweeps"][0] | {"readings_mm": [0.0] * 10}
        read = {"sweeps": [true], "thickness": corner["thickness"] | {"readings_mm": [[28.0] * 10]}}
        slipped = read["thickness"] | {"readings_mm": [[28.0] * 9 + [2.8]]}
        for after, stopped, advice in (
            ([], True, "Do not drive"),
            ([read | {"work": "index", "thickness": worn["thickness"]}], True, "Do not drive"),
            ([read | {"work": "new_rotors"}], False, "road-test"),
            ([read | {"work": "new_rotors", "thickness": slipped}], False, "Most likely"),
        ):
            with self.subTest(after=[one["work"] for one in after]):
                told = verdict_of(CASE | {"corners": [worn | {"after": after}]})
                self.assertEqual(told["corners"][0]["root_cause"], "worn_below_limit")
                self.assertIs(told["corners"][0]["do_not_drive"], stopped)
                self.assertIn(advice, told["vehicle"]["recommended"])

    def test_a_clean_sweep_speaks_before_a_dirty_one(self) -> None:
        clean = CASE["corners"][0]["sweeps"][0]
        dirty = {**clean, "cleaned": False, "readings_mm": [3 * z for z in clean["readings_mm"]]}
        verdict = verdict_of(changed(corners__0__sweeps=[dirty, clean]))["corners"][0]
        self.assertAlmostEqual(verdict["runout"]["tir_mm"], 0.109, delta=0.003)
        self.assertNotIn("joint_not_cleaned", verdict["runout"]["flags"])

    def test_wrong_unit_beside_an_earlier_sweep_is_flagged(self) -> None:
        sweep = CASE["corners"][0]["sweeps"][0]
        slipped = {**sweep, "index_deg": 144, "readings_mm": [10 * z for z in sweep["readings_mm"]]}
        slipped.pop("closing_mm")
        verdict = verdict_of(changed(corners__0__sweeps=[sweep, slipped]))["corners"][0]
        self.assertIn("unit_slip", verdict["runout"]["flags"])

    def test_a_quick_reading_alone_gives_a_wider_verdict(self) -> None:
        spot = {"surface": "rotor_outboard", "radius_mm": 138, "cleaned": True, "nuts_torqued": True}
        spot |= {"tir_mm": 0.09, "high_deg": 210, "graduation_mm": 0.01}
        verdict = verdict_of(changed(corners__0__sweeps=[], corners__0__high_spots=[spot]))["corners"][0]
        self.assertEqual((verdict["runout"]["tir_mm"], verdict["runout"]["state"]), (0.09, "over"))


class CommandLine(TestCase):
    """``python -m compass``."""

    def test_as_a_process_without_django(self) -> None:
        done = subprocess.run(  # noqa: S603
            [sys.executable, "-X", "importtime", "-m", "compass", "diagnose", str(EXAMPLE)],
            capture_output=True,
            cwd=EXAMPLE.parents[1],
            check=False,
        )
        self.assertEqual(done.returncode, 0)
        self.assertEqual(json.loads(done.stdout)["id"], CASE["id"])
        self.assertNotIn(b"django", done.stderr)

    def test_standard_input_and_lines(self) -> None:
        line = json.dumps(CASE).encode()
        code, out, err = run("diagnose", "-", stdin=line)
        self.assertEqual((code, err), (0, ""))
        code, lines, err = run("diagnose", "--lines", "-", stdin=line + b"\n" + line + b"\n")
        self.assertEqual((code, err), (0, ""))
        self.assertEqual([json.loads(text) for text in lines.splitlines()], [json.loads(out)] * 2)

    def test_lines_shared_among_processes_come_out_the_same(self) -> None:
        cases = (EXAMPLE.parent / "cases.jsonl").read_bytes()

        def answer(jobs: str, text: bytes) -> tuple[int, bytes, bytes]:
            done = subprocess.run(  # noqa: S603
                [sys.executable, "-m", "compass", "diagnose", "--lines", "--jobs", jobs, "-"],
                input=text, capture_output=True, cwd=EXAMPLE.parents[1], check=False,
            )  # fmt: skip
            return done.returncode, done.stdout, done.stderr

        alone, shared = answer("1", cases), answer("2", cases)
        self.assertEqual(alone, shared)
        self.assertEqual((alone[0], len(alone[1].splitlines())), (0, 3))
        code, out, err = answer("2", cases + b"[]\n")
        self.assertEqual((code, out, err[:6]), (2, b"", b"line 4"))

    def test_a_reader_that_has_had_enough_is_no_fault(self) -> None:
        command = f"{shlex.quote(sys.executable)} -m compass schema case-1 | head -c 1"
        done = subprocess.run(command, shell=True, capture_output=True, cwd=EXAMPLE.parents[1], check=False)  # noqa: S602
        self.assertEqual((done.stdout, done.stderr), (b"{", b""))

    def test_faults_go_to_standard_error_and_nothing_to_standard_output(self) -> None:
        bad = json.dumps(changed(corners__0__spec__studs=0)).encode()
        code, out, err = run("diagnose", "-", stdin=bad)
        self.assertEqual((code, out, err), (2, "", "corners[0].spec.studs: at least 1, not 0\n"))
        good = json.dumps(CASE).encode()
        code, out, err = run("diagnose", "--lines", "-", stdin=good + b"\n" + bad + b"\n{\n")
        self.assertEqual((code, out), (2, ""))
        self.assertEqual([line.partition(": ")[0] for line in err.splitlines()], ["line 2", "line 3"])
        code, out, err = run("diagnose", "/nowhere/case.json")
        self.assertEqual((code, out, len(err.splitlines())), (2, "", 1))

    def test_schemas_are_printed(self) -> None:
        self.assertEqual(json.loads(run("schema", "case-1")[1]), schema("case-1"))
