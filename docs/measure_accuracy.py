"""Hold the stated uncertainties against simulated corners with known truth: python docs/measure_accuracy.py [COUNT]."""

import sys
from collections import defaultdict

import numpy as np

from compass.angles import difference_deg, tir_and_high
from compass.evidence import Spec
from compass.simulate import random_corner
from compass.sweep import analyse_sweep
from compass.thickness import analyse_thickness
from compass.uncertainty import Estimate

SPEC = Spec(
    studs=5,
    rotor="vented",
    discard_thickness_mm=20.0,
    max_runout_mm=0.05,
    max_thickness_variation_mm=0.012,
    measuring_radius_mm=140.0,
)
DIALS = ((0.01, 1.0), (0.01, 0.5), (0.002, 1.0), (0.001, 1.0))
STATIONS = (4, 5, 8, 10, 12, 16, 24)


def main(count: int) -> None:
    """Print, a kind of reading a line: coverage of U, mean U, root mean square error, bias (µm)."""
    generator = np.random.default_rng(31)
    rows: dict[str, list[tuple[float, float]]] = defaultdict(list)
    high, calls = [], defaultdict(int)
    for k in range(count):
        corner = random_corner(generator)
        graduation, read_to = DIALS[k % len(DIALS)]
        stations = STATIONS[k // len(DIALS) % len(STATIONS)]
        swept = corner.sweep(
            generator, stations=stations, graduation_mm=graduation, read_to=read_to, closing=bool(k % 3)
        )
        result = analyse_sweep([swept], spec=SPEC)
        truth = corner.true_tir_mm()
        dial = f"{graduation:g} mm, read to {graduation * read_to:g}"
        for name in ("TIR, all", f"TIR, {stations} stations", f"TIR, dial {dial}"):
            _note(rows[name], result.tir, truth)
        wobble, angle = tir_and_high(corner.hub + corner.rotor)
        if wobble > 0.02:
            high.append(abs(difference_deg(result.high_deg or 0.0, angle)))
        _call(calls, result.tir, truth)
        for micrometer in (0.001, 0.01):
            measured = corner.micrometer_round(generator, stations=max(stations, 8), graduation_mm=micrometer)
            thickness = analyse_thickness(measured, spec=SPEC)
            _note(rows[f"minimum, micrometer {micrometer:g} mm"], thickness.minimum, corner.true_minimum_mm())
            _note(rows[f"variation, micrometer {micrometer:g} mm"], thickness.variation, corner.true_variation_mm())
    for name in sorted(rows):
        errors, stated = np.array(rows[name]).T
        inside = np.mean(np.abs(errors) <= stated)
        print(
            f"{name:<36} {inside:6.1%} covered   mean U {stated.mean() * 1e3:5.1f}   "
            f"rms error {np.sqrt((errors**2).mean()) * 1e3:5.1f}   bias {errors.mean() * 1e3:+5.1f} µm"
        )
    print(
        f"high spot of wobbles over 0.02 mm: median error {np.median(high):.1f}°, 95 % {np.quantile(high, 0.95):.1f}°"
    )
    total = sum(calls.values())
    print("calls against 0.05 mm: " + ", ".join(f"{name} {n / total:.1%}" for name, n in sorted(calls.items())))


def _note(row: list[tuple[float, float]], estimate: Estimate | None, truth: float) -> None:
    if estimate is not None:
        row.append((estimate.value_mm - truth, estimate.u_mm))


def _call(calls: dict[str, int], estimate: Estimate | None, truth: float) -> None:
    if estimate is None:
        return
    over, within = (estimate.value_mm - estimate.u_mm > 0.05, estimate.value_mm + estimate.u_mm <= 0.05)
    wrong = (over and truth <= 0.05) or (within and truth > 0.05)
    calls["wrong" if wrong else "right" if over or within else "too close"] += 1


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 2800)
