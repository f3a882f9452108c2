"""Simulated trainees: how well each works is known, so that marks can be held against it."""

from dataclasses import replace

import numpy as np

from compass.do.star_order import star_order
from compass.simulate.bench import true_high_deg, true_tir_mm
from compass.simulate.marking import REMEDIES, Answer, Drive, Mark, best_drive, drive, mark, settings_of, technique
from practice.corner.actions import SHOP, _looked, as_left, truth_of
from practice.corner.acts import ACTS, Touch
from practice.corner.evidence import judged
from practice.corner.standing import AtBench, at_bench, records
from practice.exercises import Exercise
from practice.models import Attempt

CAUSES = ("none_found", "rotor_runout", "hub_face_runout", "joint_contamination", "lug_torque", "wheel_bearing")


def bench_at(exercise: Exercise, seed: int) -> AtBench:
    """Stand somebody at an exercise, without rows."""
    return at_bench(Attempt(exercise=exercise.code, seed=seed, here=next(iter(exercise.corners))))


def do(bench: AtBench, name: str, value: str = "", angle: float = 0.0, *, way: int = 1) -> None:
    """Carry an act out."""
    ACTS[name].do(bench, Touch(angle, way, bench.stand.turn, value))


def _worth(one: Drive) -> tuple[bool, float]:
    return not one.safe, one.cost


class Trainee:
    """Works with a skill between 0 and 1: the odds of doing each thing right, and how steady the eye is."""

    def __init__(self, bench: AtBench, skill: float, g: np.random.Generator) -> None:
        self.bench, self.skill, self.g = bench, skill, g

    def does(self) -> bool:
        """Whether it is done right this time."""
        return bool(self.g.random() < self.skill)

    def set_up(self, *, clean: bool) -> None:
        """Clean, clamp, look where the tip stands, clamp the dial."""
        spec, bench = self.bench.spec, self.bench
        if clean:
            do(bench, "clean")
        order = star_order(spec.studs) if self.does() else range(1, spec.studs + 1)
        rounds = 3 if self.does() else 1
        do(bench, "nuts", "".join(str(stud) for stud in order) * rounds)
        while bench.stand.radius_mm > spec.measuring_radius_mm + 1 and self.does():
            do(bench, "tip", "in")
        if self.does():
            do(bench, "clamp")

    def sweep(self) -> None:
        """Read a turn, and back at the start."""
        bench = self.bench
        angles = [360.0 * k / bench.stations for k in range(bench.stations)]
        do(bench, "zero", angle=0.0)
        for angle in angles + ([0.0] if self.does() else []):
            way = 1 if self.does() or self.does() else -1
            lines = bench.turn().at(angle, way) / 0.01 + float(self.g.normal(0, 2.5 * (1 - self.skill)))
            do(bench, "note", f"{round(lines * 2) / 2:g}", angle, way=way)

    def measure(self) -> None:
        """Measure every corner as far as the exercise wants it."""
        bench, exercise = self.bench, self.bench.exercise
        for position in bench.corners:
            do(bench, "corner", position)
            if bench.stand.as_found and "cause" in exercise.asks and self.does():
                self.sweep()  # as it came: what cleaning takes away is evidence
            self.set_up(clean=not bench.stand.cleaned and self.does())
            self.sweep()
            if "cause" in exercise.asks and self.does():
                for _turn in range(2 if exercise.spec.studs > 4 else 1):
                    do(bench, "turn_studs")
                    do(bench, "turn_studs")
                    do(bench, "nuts", "".join(str(stud) for stud in star_order(bench.spec.studs)) * 3)
                    self.sweep()
            if {"variation", "thinnest", "choice", "cause"} & set(exercise.asks) and self.does():
                for k in range(12):
                    do(bench, "mike", angle=30.0 * k)
            if "cause" in exercise.asks and self.does():
                do(bench, "play")

    def answer(self) -> Answer:
        """Say what it is: right as often as the skill, by one's own readings."""
        bench, exercise, g = self.bench, self.bench.exercise, self.g
        at = exercise.at
        corner, spec, stand = bench.corners[at], bench.specs[at], bench.stands[at]
        off = 1 - self.skill
        tir = true_tir_mm(corner, spec, stand) + float(g.normal(0, 0.002 + 0.03 * off))
        verdict = judged(bench, at) if self.does() else None
        cause = verdict.root_cause if verdict is not None else str(g.choice(CAUSES))
        remedy = str(g.choice(REMEDIES))
        left = as_left(bench)
        settings = settings_of(remedy, spec, SHOP)[0]
        if "choice" in exercise.asks and self.does():
            tries = [(code, one) for code in REMEDIES for one in settings_of(code, spec, SHOP)]
            remedy, settings = min(
                tries, key=lambda one: _worth(drive(left, bench.specs, at, *one, shop=SHOP, seed=bench.seed))
            )
        return Answer(
            high_deg=true_high_deg(corner, spec, stand) + float(g.normal(0, 4 + 70 * off)),
            tir_mm=abs(tir),
            state="over" if tir > spec.max_runout_mm else "within",
            variation="over"
            if corner.true_variation_mm() + float(g.normal(0, 0.02 * off)) > spec.max_thickness_variation_mm
            else "within",
            thinnest_mm=corner.true_minimum_mm() + float(g.normal(0, 0.001 + 0.05 * off)),
            corner=at if self.does() else str(g.choice(list(bench.corners))),
            cause=cause,
            remedy=remedy,
            settings=settings,
        )

    def marks(self) -> list[Mark]:
        """Measure, answer, and be marked."""
        self.measure()
        said, bench, exercise = self.answer(), self.bench, self.bench.exercise
        left = as_left(bench)
        driven = best = None
        if "choice" in exercise.asks:
            best = best_drive(left, bench.specs, [exercise.at], shop=SHOP, seed=bench.seed)
            driven = drive(left, bench.specs, said.corner, said.remedy, said.settings, shop=SHOP, seed=bench.seed)
        truth = replace(truth_of(bench, None), best=best)
        noted = records(bench.attempt.noted)
        return [
            *technique(noted, asks=exercise.asks, looked=_looked(bench)),
            *mark(exercise.asks, said, truth, bench.specs[exercise.at], driven=driven),
        ]
