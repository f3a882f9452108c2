"""Whose runout: two sweeps at two indices, or one and a bare hub, give hub and rotor back."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from compass.angles import difference_deg, tir_and_high, vector
from compass.diagnose import diagnose
from compass.evidence import Case, Corner, Surface
from compass.separation import VectorEvidence, separate
from compass.simulate import random_corner
from compass.tests.test_sweep import SPEC, sweep_of, wave

FINE = np.eye(2) * 1e-8


def seen(hub: complex, rotor: complex, index_deg: float, *, whose: str = "both") -> VectorEvidence:
    turned = rotor * np.exp(1j * np.radians(index_deg))
    total = {"both": hub + turned, "hub": hub, "rotor": rotor}[whose]
    return VectorEvidence(whose != "rotor", whose != "hub", index_deg if whose == "both" else 0.0, total, FINE)


class Separating(TestCase):
    """What stays belongs to the hub, what turns to the rotor."""

    hub, rotor = vector(0.092, 240.0), vector(0.026, 196.0)

    def check(self, *evidence: VectorEvidence) -> None:
        result = separate(evidence)
        for part, truth in ((result.hub, self.hub), (result.rotor, self.rotor)):
            tir, high = tir_and_high(truth)
            self.assertAlmostEqual(part.tir_mm, tir, places=6)
            self.assertAlmostEqual(difference_deg(part.high_deg, high), 0, places=4)
        self.assertAlmostEqual(result.hub.share + result.rotor.share, 1.0)

    def test_every_way_that_separates(self) -> None:
        first = seen(self.hub, self.rotor, 0.0)
        self.check(first, seen(self.hub, self.rotor, 180.0))
        self.check(first, seen(self.hub, self.rotor, 72.0), seen(self.hub, self.rotor, 216.0))
        self.check(first, seen(self.hub, self.rotor, 0.0, whose="hub"))
        self.check(first, seen(self.hub, self.rotor, 0.0, whose="rotor"))

    def test_one_index_alone_separates_nothing(self) -> None:
        first = seen(self.hub, self.rotor, 0.0)
        for evidence in ((), (first,), (first, first)):
            result = separate(evidence)
            self.assertEqual((result.hub, result.rotor), (None, None))
        self.assertIsNotNone(separate((seen(self.hub, self.rotor, 0.0, whose="hub"),)).hub)

    def test_evidence_that_contradicts_itself_shows(self) -> None:
        agreeing = [seen(self.hub, self.rotor, index) for index in (0.0, 144.0, 216.0)]
        self.assertLess(separate(agreeing).misfit, 0.01)
        wrong = replace(agreeing[2], vector=agreeing[2].vector + 0.03)
        self.assertGreater(separate([*agreeing[:2], wrong]).misfit, 10)

    def test_a_corner_says_it_in_words_and_asks_no_further(self) -> None:
        sweeps = [
            sweep_of(wave(10, (0.10, 230.0)), index_deg=0.0),
            sweep_of(wave(10, (0.06, 240.0)), index_deg=180.0),
        ]
        verdict = diagnose(Case(corners=(Corner(position="FL", spec=SPEC, sweeps=tuple(sweeps)),))).corners[0]
        self.assertEqual([r.code for r in verdict.because][1:3], ["hub_carries", "rotor_carries"])
        self.assertEqual(verdict.next_check, "measure_thickness")
        bare = sweep_of(wave(10, (0.03, 230.0)), radius=70.0, surface=Surface.HUB_FACE)
        verdict = diagnose(Case(corners=(Corner(position="FL", spec=SPEC, sweeps=(sweeps[0], bare)),))).corners[0]
        self.assertAlmostEqual(verdict.whose.hub.tir_mm, 0.06, delta=0.002)

    def test_dirty_or_loose_sweeps_take_no_part(self) -> None:
        clean = sweep_of(wave(10, (0.10, 230.0)))
        for fault in ({"cleaned": False}, {"nuts_torqued": False}):
            other = sweep_of(wave(10, (0.06, 240.0)), index_deg=180.0, **fault)
            verdict = diagnose(Case(corners=(Corner(position="FL", spec=SPEC, sweeps=(clean, other)),))).corners[0]
            self.assertIsNone(verdict.whose.hub)


class Accuracy(TestCase):
    """Over random corners U of hub and rotor covers the truth about as often as it says."""

    def test_coverage(self) -> None:
        generator = np.random.default_rng(12)
        inside = []
        for k in range(200):
            truth = random_corner(generator)
            sweeps = tuple(
                truth.sweep(
                    generator, stations=(8, 10, 12, 16)[k % 4], instrument=truth.dial(0.01, 0.5), index_deg=index
                )
                for index in (0.0, 180.0)
            )
            whose = diagnose(Case(corners=(Corner(position="FL", spec=SPEC, sweeps=sweeps),))).corners[0].whose
            for part, vector_true in ((whose.hub, truth.hub), (whose.rotor, truth.rotor)):
                inside.append(abs(part.tir_mm - 2 * abs(vector_true)) <= part.u_mm)
        self.assertGreater(np.mean(inside), 0.92)
