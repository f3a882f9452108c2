"""Hold the weighed causes against simulated vehicles with a known one: python docs/measure_causes.py [COUNT].

Prints the share with the right cause on top and within the top two, by cause; how well the probabilities are
calibrated; and the minutes to a settled cause when the next best check is followed, against a fixed order.
"""

import sys
from collections import defaultdict

import numpy as np

from compass.causes import BASE_RATES
from compass.diagnose import diagnose
from compass.simulate_vehicle import random_vehicle


def main(count: int) -> None:
    """Diagnose ``count`` vehicles, every cause as often as the next, then as often as in the base rates."""
    generator = np.random.default_rng(19)
    rows: dict[str, list[tuple[bool, bool]]] = defaultdict(list)
    confused: dict[tuple[str, str], int] = defaultdict(int)
    stated: list[tuple[float, bool]] = []
    causes = list(BASE_RATES)
    for k in range(count):
        cause = causes[k % len(causes)] if k % 2 else None
        vehicle = random_vehicle(generator, cause=cause)
        weighed = diagnose(vehicle.case).weighed.causes
        top = weighed[0][0] is vehicle.cause
        second = top or weighed[1][0] is vehicle.cause
        kind = "decidable" if vehicle.decidable else "not shown"
        rows[f"all, {kind}"].append((top, second))
        if vehicle.decidable:
            rows[vehicle.cause.value].append((top, second))
            if not top:
                confused[vehicle.cause.value, weighed[0][0].value] += 1
        if cause is None:  # calibration only where causes come as often as believed
            stated += [(p, c is vehicle.cause) for c, p in weighed]
    for name in sorted(rows):
        top, second = np.array(rows[name]).mean(axis=0)
        print(f"{name:<36} top {top:6.1%}   top two {second:6.1%}   of {len(rows[name])}")
    worst = sorted(confused.items(), key=lambda item: -item[1])[:8]
    print("most confused: " + ", ".join(f"{a} as {b} {n}" for (a, b), n in worst))
    p, right = np.array(stated).T
    for low, high in ((0, 0.05), (0.05, 0.2), (0.2, 0.5), (0.5, 0.8), (0.8, 0.95), (0.95, 1.001)):
        within = (p >= low) & (p < high)
        if within.any():
            said, came = p[within].mean(), right[within].mean()
            print(f"said {low:.2f}–{min(high, 1):.2f}: mean said {said:6.1%}, came {came:6.1%}, of {within.sum()}")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 3000)
