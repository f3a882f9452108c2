"""After the work: what is proven, how it came beside what was foretold, and that advice never goes in circles."""

from dataclasses import replace
from unittest import TestCase

from compass.cause.corner import diagnose_corner
from compass.cause.measured import Measured
from compass.choose.offers import REMEDIES
from compass.ground.angles import vector
from compass.ground.limits import State
from compass.prove.proof import ADVICE, CLOSE_TO_LIMIT, Came, Proof, prove_corner
from compass.simulate.corner import SimulatedCorner, Wave
from compass.tests.corners import QUIET, measured

BAND = (0.01, 0.02, 0.03)


def after(tir_mm: float, **more: object) -> Measured:
    """Return a corner that runs out so much, read without a doubt."""
    truth = SimulatedCorner(radius_mm=140, nominal_mm=26.4, hub=vector(tir_mm, 40), rotor=vector(0.0, 0), noise_mm=0.0)
    return diagnose_corner(measured(truth, indices=(0.0,), **more)).measured


def prove(corner: Measured | None, *, remedy: str = "on_vehicle_cut", least_mm: float = 20.0, **more: object) -> Proof:
    return prove_corner(corner, remedy=remedy, foretold={"runout": BAND, "thinnest": None}, least_mm=least_mm, **more)


class Proofs(TestCase):
    """Each figure against its limit and its band."""

    def test_a_sweep_that_is_spoilt_proves_nothing_whatever_it_read(self) -> None:
        self.assertTrue(prove(after(0.02)).proven)
        corner = measured(QUIET, indices=(0.0,))
        (sweep,) = corner.sweeps
        moved = replace(corner, sweeps=(replace(sweep, closing_mm=float(sweep.readings_mm[0]) + 0.05),))
        for spoilt in (diagnose_corner(moved).measured, after(0.02, torqued=False), after(0.3, torqued=False)):
            self.assertEqual((prove(spoilt).proven, prove(spoilt).advice), (False, "spoilt_sweep"))

    def test_what_is_within_and_read_is_proven(self) -> None:
        proof = prove(after(0.02))
        self.assertTrue(proof.proven)
        states = {figure.name: figure.state for figure in proof.figures}
        self.assertEqual(states, {"runout": State.WITHIN, "variation": State.WITHIN, "thinnest": State.ABOVE})

    def test_beside_the_band(self) -> None:
        for tir, came in ((0.002, Came.BETTER), (0.02, Came.INSIDE), (0.2, Came.WORSE)):
            self.assertEqual(prove(after(tir)).figures[0].came, came, tir)
        self.assertEqual(
            prove_corner(after(0.02), remedy="index", foretold={}, least_mm=20.0).figures[0].came, Came.UNFORETOLD
        )

    def test_nothing_read_wants_what_the_remedy_wants(self) -> None:
        self.assertEqual(prove(None).wants, ("sweep", "thickness"))
        self.assertEqual(prove(None, remedy="plate").wants, ("sweep",))
        no_mike = after(0.02, thickness=False)
        self.assertEqual(prove(no_mike).wants, ("thickness",))
        self.assertTrue(prove(no_mike, remedy="index").proven)

    def test_a_disc_that_came_in_uneven_is_so_after_any_work_that_leaves_its_metal(self) -> None:
        uneven = diagnose_corner(measured(replace(QUIET, thickness=(Wave(1, 0.0125, 30.0),)))).measured
        left = after(0.02, thickness=False)
        self.assertEqual(prove(left, remedy="hub_unit", stands=uneven).advice, "still_uneven")
        self.assertTrue(prove(left, remedy="hub_unit", stands=after(0.2)).proven)
        over = after(0.2, thickness=False)
        self.assertEqual(prove(over, remedy="hub_unit", stands=uneven).advice, "torque_again")  # its runout comes first
        self.assertTrue(prove(after(0.02), remedy="new_rotors", stands=uneven).proven)

    def test_reading_again_is_asked_for_only_while_it_helps(self) -> None:
        near = measured(replace(QUIET, hub=vector(0.044, 40), rotor=0j, noise_mm=0.002), indices=(0.0,))
        turns = [replace(near, sweeps=near.sweeps * n) for n in (1, 3, 4, 6)]
        near_it = {"remedy": "index", "least_mm": 20.0, "foretold": {"runout": (0.03, 0.04, 0.05)}}
        told = [prove_corner(diagnose_corner(corner).measured, **near_it).advice for corner in turns]
        self.assertEqual(told, ["measure_again", "measure_again", CLOSE_TO_LIMIT, CLOSE_TO_LIMIT])
        # What was foretold to be far less has a cause to be looked for.
        worse = diagnose_corner(turns[-1]).measured
        told = ["torque_again", "see_the_mark", "clean_again", CLOSE_TO_LIMIT]
        for step, advice in enumerate(told):
            self.assertEqual(prove(worse, remedy="index", told=told[:step]).advice, advice)
        self.assertEqual(prove(worse, told=["torque_again"]).advice, CLOSE_TO_LIMIT)  # no second pass for a doubt
        uneven = measured(replace(QUIET, thickness=(Wave(1, 0.0125, 30.0),)), indices=(0.0,))
        rounds = [replace(uneven, thickness=replace(uneven.thickness, rounds=n)) for n in (1, 2)]
        told = [prove(diagnose_corner(corner).measured).advice for corner in rounds]
        self.assertEqual(told, ["mike_again", "choose_anew"])

    def test_too_little_left_is_never_proven(self) -> None:
        self.assertEqual(prove(after(0.02), least_mm=40.0).advice, "too_thin")

    def test_advice_is_new_each_time_and_ends_in_choosing_anew(self) -> None:
        for remedy in set(REMEDIES) - {"none"}:
            told: list[str] = []
            while (advice := prove(after(0.2), remedy=remedy, told=told).advice) != "choose_anew":
                self.assertNotIn(advice, told, remedy)
                self.assertIn(advice, ADVICE)
                told.append(advice)
                self.assertLess(len(told), 6)
            self.assertGreater(len(told), 0, remedy)
