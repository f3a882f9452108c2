"""Evidence written and read back is the same evidence, to the last digit."""

import json
from unittest import TestCase

import numpy as np

from compass.cause.causes import BASE_RATES
from compass.diagnose import diagnose
from compass.evidence.records import Case
from compass.files.read_case import case_from_data, schema
from compass.files.write_case import case_to_data, complaint_to_data
from compass.files.write_verdict import verdict_to_data
from compass.ground.errors import FaultyFileError
from compass.simulate.vehicle import POSITIONS, random_vehicle
from compass.tests.test_casefile import CASE


class RoundTrip(TestCase):
    """Records out and in."""

    def same(self, case: Case) -> None:
        data = json.loads(json.dumps(case_to_data(case)))
        again = case_from_data(data)
        self.assertEqual(case_to_data(again), case_to_data(case))
        self.assertEqual(verdict_to_data(diagnose(again)), verdict_to_data(diagnose(case)))

    def test_the_example_and_simulated_vehicles(self) -> None:
        self.same(case_from_data(CASE))
        generator = np.random.default_rng(6)
        for cause in list(BASE_RATES)[::4]:
            self.same(random_vehicle(generator, cause=cause).case)

    def test_what_was_read_after_a_work_goes_along_and_says_nothing_of_what_was_before(self) -> None:
        corner = CASE["corners"][0]
        after = {"sweeps": corner["sweeps"], "thickness": corner["thickness"]}
        case = case_from_data(CASE | {"corners": [corner | {"after": [{}, after]}]})
        self.same(case)
        alone = case_from_data(CASE | {"corners": [corner]})
        both = [verdict_to_data(diagnose(one)) for one in (case, alone)]
        self.assertIsNone(both[0]["corners"][0]["next_check"])  # nobody can read it as it came in any more
        for told in both:  # what is still to be done is chosen by it, as what is found is not
            for chosen in ("remedies", "recommended", "because"):
                told["corners"][0].pop(chosen)
            told["vehicle"].pop("recommended")
            for place in (told["corners"][0], told["vehicle"]):
                for name in [name for name in place if name.startswith("next_")]:
                    place.pop(name)
        self.assertEqual(*both)
        stood = case.corners[0].as_after(2)
        self.assertEqual((len(stood.sweeps), stood.seen), (len(corner["sweeps"]), frozenset()))
        with self.assertRaises(FaultyFileError) as refused:
            bad = corner["sweeps"][0] | {"stations_deg": [0, 90]}
            case_from_data(CASE | {"corners": [corner | {"after": [{"sweeps": [bad]}]}]})
        self.assertEqual(refused.exception.faults[0].path, "corners[0].after[0].sweeps[0].readings_mm")

    def test_the_simulated_vehicle_fits_the_published_words(self) -> None:
        generator = np.random.default_rng(14)
        told = schema("case-1")["properties"]["complaint"]["properties"]
        places = set()
        for cause in BASE_RATES:
            vehicle = random_vehicle(generator, cause=cause)
            places.add(vehicle.position)
            self.assertIs(vehicle.cause, cause)
            self.assertLessEqual(set(complaint_to_data(vehicle.case.complaint)), set(told))
            self.assertEqual([c.position for c in vehicle.case.corners], list(POSITIONS))
        self.assertIn(None, places)
        self.assertGreater(len(places), 3)

    def test_one_seed_one_vehicle(self) -> None:
        one, two = (case_to_data(random_vehicle(np.random.default_rng(3)).case) for _ in range(2))
        self.assertEqual(one, two)
