"""Hold stated uncertainties against simulated corners of known truth: python docs/tools/measure_accuracy.py [COUNT].

Every corner is measured in one of the ways a workshop measures (KINDS), with a dial and a number of stations drawn
anew. Printed a line: what was estimated, how often U holds the truth, how wide U is, and how far off the estimate.
"""

import sys
from collections import Counter, defaultdict
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Final

import numpy as np

from compass.cause.corner import diagnose_corner
from compass.cause.verdict import CornerVerdict
from compass.evidence.records import Corner, HighSpot, Spec, Surface, Sweep
from compass.ground.angles import difference_deg
from compass.ground.uncertainty import Estimate
from compass.simulate.corner import Instrument, SimulatedCorner, Slot, random_corner

SPEC: Final = Spec(
    studs=5,
    rotor="vented",
    discard_thickness_mm=20.0,
    max_runout_mm=0.05,
    max_thickness_variation_mm=0.012,
    measuring_radius_mm=140.0,
)
DIALS: Final = ((0.01, 1.0), (0.01, 0.5), (0.002, 1.0), (0.001, 1.0), (0.0254, 0.25))
STATIONS: Final = (4, 5, 8, 10, 12, 16, 20, 24)
RADII: Final = ((140.0,), (140.0,), (110.0, 140.0), (105.0, 125.0, 145.0))


@dataclass
class Bench:
    """One corner on the bench: truth, generator, dial, number of stations; mountings are seated once each."""

    truth: SimulatedCorner
    generator: np.random.Generator
    dial: Instrument
    stations: int
    seats: dict[object, complex] = field(default_factory=dict)

    def seat(self, mounting: object) -> complex:
        """Return the seating of one mounting, drawn once."""
        return self.seats.setdefault(mounting, self.truth.seat(self.generator))

    def sweep(self, index_deg: float = 0.0, surface: Surface = Surface.ROTOR_OUTBOARD, **options) -> Sweep:
        """Sweep at an index, at the radius this surface allows."""
        mounting = surface if surface in (Surface.ARBOR, Surface.HUB_FACE) else (index_deg, options.get("cleaned"))
        radius = 65.0 if surface is Surface.HUB_FACE else options.pop("radius_mm", 140.0)
        return self.truth.sweep(
            self.generator,
            stations=self.stations,
            instrument=self.dial,
            surface=surface,
            radius_mm=radius,
            index_deg=index_deg,
            tilt=self.seat(mounting),
            **options,
        )

    def quick(self, index_deg: float = 0.0) -> HighSpot:
        """Take a quick reading at an index."""
        return self.truth.high_spot(
            self.generator, graduation_mm=0.01, index_deg=index_deg, tilt=self.seat((index_deg, None))
        )


Kind = Callable[[Bench], tuple[list[Sweep], list[HighSpot]]]
KINDS: Final[dict[str, Kind]] = {
    "one sweep": lambda b: ([b.sweep()], []),
    "not closed": lambda b: ([b.sweep(closing=False)], []),
    "two turns": lambda b: ([b.sweep(), b.sweep()], []),
    "tip at 120 mm": lambda b: ([b.sweep(radius_mm=120.0)], []),
    "half a turn on": lambda b: ([b.sweep(), b.sweep(180.0)], []),
    "two studs on": lambda b: ([b.sweep(), b.sweep(144.0)], []),
    "three indices": lambda b: ([b.sweep(), b.sweep(72.0), b.sweep(216.0)], []),
    "bare hub face": lambda b: ([b.sweep(), b.sweep(surface=Surface.HUB_FACE)], []),
    "arbor": lambda b: ([b.sweep(), b.sweep(surface=Surface.ARBOR)], []),
    "hub face and turned": lambda b: ([b.sweep(), b.sweep(180.0), b.sweep(surface=Surface.HUB_FACE)], []),
    "inboard": lambda b: ([b.sweep(surface=Surface.ROTOR_INBOARD)], []),
    "quick readings": lambda b: ([], [b.quick(), b.quick(144.0)]),
    "before and after": lambda b: ([b.sweep(cleaned=False), b.sweep(), b.sweep(144.0)], []),
    "a slot": lambda b: ([b.sweep(), b.sweep(144.0)], []),
    "drifting clamp": lambda b: ([b.sweep(), b.sweep(144.0)], []),
    "dial error 8 µm": lambda b: ([b.sweep(), b.sweep(144.0)], []),
}


def bench_for(kind: str, generator: np.random.Generator, k: int) -> Bench:
    """Draw a corner and a dial for one way of measuring."""
    truth = random_corner(generator)
    if kind == "a slot":
        at = float(generator.integers(1, 8)) * 360 / 8
        truth = replace(truth, slots=(Slot(float(generator.choice([-0.05, 0.04, 0.08])), at),))
    if kind == "before and after":
        size = abs(generator.normal(0, 0.03)) + 0.005
        truth = replace(truth, joint=complex(size * np.exp(1j * generator.uniform(0, 2 * np.pi))))
    if kind == "drifting clamp":
        truth = replace(truth, drift_mm=float(generator.normal(0, 0.012)))
    graduation, read_to = DIALS[k % len(DIALS)]
    stations = 8 if kind == "a slot" else STATIONS[k // len(DIALS) % len(STATIONS)]
    return Bench(
        truth, generator, truth.dial(graduation, read_to, 0.008 if kind == "dial error 8 µm" else 0.0), stations
    )


def main(count: int) -> None:
    """Measure ``count`` corners of every kind in turn and print what came out."""
    generator = np.random.default_rng(31)
    rows: dict[str, list[tuple[float, float]]] = defaultdict(list)
    off: dict[str, list[float]] = defaultdict(list)
    calls: Counter[str] = Counter()
    for k in range(count):
        kind = list(KINDS)[k % len(KINDS)]
        bench = bench_for(kind, generator, k // len(KINDS))
        sweeps, spots = KINDS[kind](bench)
        radii = RADII[k % len(RADII)]
        truth = replace(bench.truth, taper=float(generator.normal(0, 0.0004)))
        round_ = truth.micrometer_round(
            generator,
            stations=max(bench.stations, 8),
            graduation_mm=(0.001, 0.01)[k % 2],
            radii_mm=radii,
            error_mm=(0.0, 0.002)[k // 2 % 2],
        )
        verdict = diagnose_corner(
            Corner(position="FL", spec=SPEC, sweeps=tuple(sweeps), high_spots=tuple(spots), thickness=round_)
        )
        seated = replace(bench.truth, hub=bench.truth.hub + bench.seats.get((0.0, None), 0j))
        _runout(rows, off, calls, kind, bench, seated, verdict)
        _whose(rows, off, kind, bench, verdict)
        if kind in ("half a turn on", "two studs on") and bench.dial.graduation_mm == 0.01:
            _beside_a_textbook(off, sweeps, bench, verdict)
        result = verdict.measured.thickness.result
        if result is not None:
            micrometer = f"micrometer {round_.graduation_mm:g} mm"
            for name in ("minimum", f"minimum, {micrometer}", f"minimum, {len(radii)} radii"):
                _note(rows[name], result.minimum, truth.true_minimum_mm(radii_mm=radii))
            for name in ("variation", f"variation, {micrometer}", f"variation, {len(radii)} radii"):
                _note(rows[name], result.variation, truth.true_variation_mm())
    _print(rows, off, calls)


def _runout(rows, off, calls, kind: str, bench: Bench, seated: SimulatedCorner, verdict: CornerVerdict) -> None:
    truth = seated.true_tir_mm()
    tir = verdict.measured.runout.tir
    dial = f"{bench.dial.graduation_mm:g} mm read to {bench.dial.step_mm:g}"
    for name in ("TIR", f"TIR, {kind}", f"TIR, {bench.stations} stations", f"TIR, dial {dial}"):
        _note(rows[name], tir, truth)
    wobble = bench.truth.hub + bench.truth.rotor
    if abs(wobble) > 0.01 and verdict.measured.runout.high_deg is not None:
        error = abs(difference_deg(verdict.measured.runout.high_deg, float(np.degrees(np.angle(wobble)))))
        off["high spot, wobble over 0.02 mm, degrees"].append(error)
    if tir is not None:
        over, within = tir.value_mm - tir.expanded_mm > 0.05, tir.value_mm + tir.expanded_mm <= 0.05
        wrong = (over and truth <= 0.05) or (within and truth > 0.05)
        calls["wrong" if wrong else "right" if over or within else "too close"] += 1


def _whose(rows, off, kind: str, bench: Bench, verdict: CornerVerdict) -> None:
    truths = (("hub", bench.truth.hub), ("rotor", bench.truth.rotor), ("joint", bench.truth.joint))
    for name, truth in truths:
        part = getattr(verdict.measured.whose, name)
        if part is None:
            continue
        for label in (name, f"{name}, {kind}"):
            rows[label].append((part.tir_mm - 2 * abs(truth), part.expanded_mm))
        source = "quick readings" if kind == "quick readings" else "sweeps"
        off[f"{name} vector from {source}, µm of amplitude"].append(1e3 * abs(part.vector - truth))


def _beside_a_textbook(off, sweeps: list[Sweep], bench: Bench, verdict: CornerVerdict) -> None:
    """Note the vectors of a plain Fourier fit of the same two turned sweeps, beside ours."""
    first, second = (2 * np.mean(s.readings_mm * np.exp(1j * np.radians(s.stations_deg))) for s in sweeps)
    rotor = (first - second) / (1 - np.exp(1j * np.radians(sweeps[1].index_deg)))
    for name, plain, ours, truth in (
        ("hub", first - rotor, verdict.measured.whose.hub, bench.truth.hub),
        ("rotor", rotor, verdict.measured.whose.rotor, bench.truth.rotor),
    ):
        off[f"0.01 mm dial, turned: {name} vector, plain fit, µm of amplitude"].append(1e3 * abs(plain - truth))
        off[f"0.01 mm dial, turned: {name} vector, ours, µm of amplitude"].append(1e3 * abs(ours.vector - truth))


def _note(row: list[tuple[float, float]], estimate: Estimate | None, truth: float) -> None:
    if estimate is not None:
        row.append((estimate.value_mm - truth, estimate.expanded_mm))


def _print(rows, off, calls: Counter[str]) -> None:
    for name in sorted(rows):
        errors, stated = np.array(rows[name]).T
        inside = np.mean(np.abs(errors) <= stated)
        print(
            f"{name:<38} {inside:6.1%} of {len(errors):<5} mean U {stated.mean() * 1e3:5.1f}   "
            f"rms {np.sqrt((errors**2).mean()) * 1e3:5.1f}   bias {errors.mean() * 1e3:+5.1f} µm"
        )
    for name in sorted(off):
        median, high = np.quantile(off[name], (0.5, 0.95))
        print(f"{name}: mean {np.mean(off[name]):.2f}, median {median:.2f}, 95 % {high:.2f}")
    total = sum(calls.values())
    print("calls against 0.05 mm: " + ", ".join(f"{name} {n / total:.1%}" for name, n in sorted(calls.items())))


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 3200)
