"""Exercises can be solved, their answers are right by the core's own judgement, and better work gets better marks."""

from unittest import TestCase

import numpy as np
from django.test import SimpleTestCase
from scipy import stats

from compass.simulate.marking import share_of_marks
from compass.words.codes import CAUSES
from practice.corner.evidence import judged
from practice.exercises import EXERCISES
from practice.tests.trainee import Trainee, bench_at

# What the disc alone does not tell: that the hub was renewed since is told in the tale.
TOLD = {"cured-uneven"}


class Exercises(TestCase):
    """Each exercise, worked at by somebody who does everything right."""

    def test_there_are_enough_and_each_is_whole(self) -> None:
        self.assertGreaterEqual(len(EXERCISES), 24)
        self.assertEqual(len({one.code for one in EXERCISES}), len(EXERCISES))
        for one in EXERCISES:
            self.assertIn(one.at, one.corners, one.code)
            self.assertLessEqual(set(one.right), set(CAUSES), one.code)
            self.assertEqual("cause" in one.asks, bool(one.right), one.code)

    def test_the_core_names_the_cause_that_is_marked_as_right_from_an_experts_readings(self) -> None:
        wrong = []
        for one in EXERCISES:
            for seed in (21, 22):
                bench = bench_at(one, seed)
                Trainee(bench, 1.0, np.random.default_rng(seed)).measure()
                verdict = judged(bench, one.at)
                if one.right and one.code not in TOLD and verdict.root_cause not in one.right:
                    wrong.append((one.code, seed, verdict.root_cause))
        self.assertEqual(wrong, [])

    def test_better_skill_gets_better_marks_over_three_hundred_trainees(self) -> None:
        g = np.random.default_rng(5)
        skill = g.uniform(0, 1, 300)
        marks = np.array(
            [
                share_of_marks(Trainee(bench_at(EXERCISES[k % len(EXERCISES)], 1000 + k), float(s), g).marks())
                for k, s in enumerate(skill)
            ]
        )
        self.assertGreater(stats.spearmanr(skill, marks).statistic, 0.65)
        fifths = [marks[(skill >= low) & (skill < low + 0.2)].mean() for low in np.arange(0, 1, 0.2)]
        self.assertEqual(fifths, sorted(fifths))
        self.assertLess(fifths[0], 60)
        self.assertGreater(fifths[-1], 85)


class Words(SimpleTestCase):
    """Every exercise has its words."""

    def test_no_exercise_gives_its_answer_away(self) -> None:
        for one in EXERCISES:
            self.assertTrue(str(one.title) and str(one.tale) and str(one.hint), one.code)
            self.assertNotIn(one.code, str(one.tale))
