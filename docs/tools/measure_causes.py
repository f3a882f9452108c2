"""Hold the weighed causes against simulated vehicles with a known one: python docs/tools/measure_causes.py [COUNT].

Prints the share with the right cause on top and within the top two, by cause; how well the probabilities are
calibrated; the minutes to a settled cause when the next best check is followed, against a fixed order; and, on vehicles
to which something happened (``compass.simulate.happenings``), what is said of where a disc is thin.
"""

import sys
from collections import Counter, defaultdict
from dataclasses import replace
from typing import Final

import numpy as np

from compass.cause.causes import BASE_RATES, Cause
from compass.cause.checks import MINUTES
from compass.cause.corner import measure_corner
from compass.cause.differential import Differential
from compass.diagnose import diagnose
from compass.evidence.records import Case, Corner, Pads
from compass.ground.limits import State
from compass.simulate.happenings import random_happening
from compass.simulate.vehicle import SimulatedVehicle, random_vehicle

SETTLED: Final = 0.9


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
        weighed = diagnose(vehicle.case).judged.weighed.causes
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


FIXED: Final = (
    "sweep_rotor",
    "clean_and_sweep",
    "turn_rotor_and_sweep",
    "measure_thickness",
    "bearing_play",
    "inspect_pads_and_slides",
)


def minutes_to_settle(count: int) -> None:
    """Follow the next best check on ``count`` vehicles, then a fixed order, and compare minutes and answers."""
    generator = np.random.default_rng(23)
    taken: dict[str, list[tuple[float, bool, bool]]] = defaultdict(list)
    for _ in range(count):
        vehicle = random_vehicle(generator, missing=0.0)
        for way in ("next best check", "fixed order"):
            taken[way].append(_follow(vehicle, best=way == "next best check"))
    for way, rows in taken.items():
        minutes, settled, right = np.array(rows, dtype=float).T
        print(
            f"{way:<16} mean {minutes.mean():5.1f} min, median {np.median(minutes):5.1f}, "
            f"settled {settled.mean():6.1%}, right {right.mean():6.1%}"
        )


def _follow(vehicle: SimulatedVehicle, *, best: bool) -> tuple[float, bool, bool]:
    done: set[tuple[str, str]] = set()
    minutes = 0.0
    while True:
        weighed = diagnose(_revealed(vehicle.case, done)).judged.weighed
        cause, probability = weighed.causes[0]
        settled = probability >= SETTLED
        step = None if settled else _next(vehicle.case, weighed, done, best=best)
        if step is None:
            return minutes, settled, cause is vehicle.cause
        minutes += MINUTES[step[0]]
        done.add(step)


def _next(case: Case, weighed: Differential, done: set[tuple[str, str]], *, best: bool) -> tuple[str, str] | None:
    if best:
        open_checks = [(c.check, c.position) for c in weighed.checks if c.position is not None]
    else:
        open_checks = [(check, corner.position) for corner in case.corners for check in FIXED]
    for check, position in open_checks:
        check = "clean_and_sweep" if check == "torque_and_sweep" else check
        if (check, position) not in done and _gives(case, check, position):
            return check, position
    return None


_RUNS: Final = {
    "still there": (Cause.ROTOR, Cause.HUB, Cause.STACK, Cause.BENT),
    "dirt or nuts": (Cause.JOINT, Cause.NUTS),
    "gone": (Cause.RUNOUT_MADE_VARIATION,),
    "none, a patch": (Cause.CORROSION, Cause.DEPOSIT),
}
_SAID: Final = ("worn_by_runout", "worn_in_a_lobe", "worn_in_a_patch", "pattern_unclear", "pattern_in_noise")


def where_it_is_thin(count: int) -> None:
    """Mike discs over their limit and sweep them as they came in, put right, or not at all; print what is said."""
    generator = np.random.default_rng(29)
    said: dict[tuple[str, str], Counter[str | None]] = defaultdict(Counter)
    for _ in range(count):
        hidden = random_happening(generator)
        for fault in hidden.faults:
            runs = next((name for name, causes in _RUNS.items() if fault.cause in causes), None)
            if fault.position is None or runs is None:
                continue
            disc, spec = hidden.corners[fault.position].disc, hidden.corners[fault.position].spec
            stations, graduation_mm = int(generator.choice([8, 10, 12])), float(generator.choice([0.001, 0.01, 0.02]))
            miked = disc.micrometer_round(generator, stations=stations, graduation_mm=graduation_mm)
            dial = disc.dial(0.01)
            for way, sweeps in (
                (
                    "as it came in",
                    (disc.sweep(generator, stations=stations, instrument=dial, cleaned=False, torqued=False),),
                ),
                ("put right", (disc.sweep(generator, stations=stations, instrument=dial),)),
                ("not swept", ()),
            ):
                corner = Corner(position=fault.position, spec=spec, sweeps=sweeps, thickness=miked)
                thickness = measure_corner(corner).thickness
                if thickness.state_variation is State.OVER:
                    said[runs, way][thickness.pattern_code] += 1
    print(f"{'runout':<14} {'swept':<14} {'discs':>5}  " + "  ".join(_SAID))
    for (runs, way), codes in sorted(said.items()):
        shares = "  ".join(f"{codes[code] / codes.total():>{len(code)}.0%}" for code in _SAID)
        print(f"{runs:<14} {way:<14} {codes.total():>5}  {shares}")


def _gives(case: Case, check: str, position: str) -> bool:
    corner = next(c for c in case.corners if c.position == position)
    dirty = any(not (s.cleaned and s.nuts_torqued) for s in corner.sweeps)
    return {"clean_and_sweep": dirty, "turn_rotor_and_sweep": any(s.index_deg for s in corner.sweeps)}.get(check, True)


def _revealed(case: Case, done: set[tuple[str, str]]) -> Case:
    corners = []
    for corner in case.corners:
        checks = {check for check, position in done if position == corner.position}
        if not checks:
            continue
        dirty = [s for s in corner.sweeps if not (s.cleaned and s.nuts_torqued)]
        clean = [s for s in corner.sweeps if s.cleaned and s.nuts_torqued and not s.index_deg]
        turned = [s for s in corner.sweeps if s.index_deg]
        sweeps = (dirty or clean) if "sweep_rotor" in checks else []
        sweeps = [*sweeps, *(clean if dirty and "clean_and_sweep" in checks else [])]
        sweeps = [*sweeps, *(turned if "turn_rotor_and_sweep" in checks else [])]
        corners.append(
            replace(
                corner,
                sweeps=tuple(sweeps),
                thickness=corner.thickness if "measure_thickness" in checks else None,
                bearing_play_mm=(corner.bearing_play_mm or 0.01) if "bearing_play" in checks else None,
                pads=(corner.pads or Pads((8.0,), (8.0,))) if "inspect_pads_and_slides" in checks else None,
            )
        )
    return replace(case, corners=tuple(corners))


if __name__ == "__main__":
    number = int(sys.argv[1]) if len(sys.argv) > 1 else 3000
    main(number)
    minutes_to_settle(number // 12)
    where_it_is_thin(number // 3)
