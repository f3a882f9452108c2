"""Hold predictions against simulated corners with known truth: python docs/tools/measure_remedies.py [COUNT] [--met].

Every corner is measured in one of the ways a workshop measures. Printed: how often the 5–95 % bands hold runout and
thickness after each remedy and how wide they are, whether odds come true, and what the recommendation costs beside an
all-knowing choice and beside three fixed habits. Violations of rules are counted by tests of their own, from the truth.
With --met: only whether odds come true on another hand's corners, those of vehicles to which something happened.
"""

import sys
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import replace
from typing import Final

import numpy as np

from compass.cause.corner import diagnose_corner
from compass.cause.verdict import CornerVerdict
from compass.choose.remedies.comeback import distance_km
from compass.choose.remedies.outcome import Remedy
from compass.choose.remedies.plating import tilt
from compass.choose.vehicle import choose
from compass.evidence.records import Corner, Spec, Surface
from compass.evidence.shop import Lathe, Plate, Shop
from compass.ground.limits import State
from compass.simulate.corner import SimulatedCorner, random_corner, worn_by_runout
from compass.simulate.happenings import random_happening
from compass.simulate.repair import repaired
from compass.simulate.visit import WORKSHOP

SPEC: Final = Spec(
    studs=5,
    rotor="vented",
    nominal_thickness_mm=26.0,
    machine_to_thickness_mm=23.0,
    discard_thickness_mm=22.2,
    max_runout_mm=0.05,
    max_thickness_variation_mm=0.015,
    measuring_radius_mm=140.0,
    swept_inner_radius_mm=95.0,
    swept_outer_radius_mm=150.0,
    new_rotor_runout_mm=0.03,
)
SHOP: Final = Shop(
    plates=tuple(Plate(c, 140.0, 10, 5) for c in (0.04, 0.07, 0.10)),
    lathes=(Lathe("on_vehicle", 0.012, 0.05, {"vented": 0.4}), Lathe("bench", 0.01, 0.05, {"vented": 0.3})),
)
_FINE: Final = np.arange(0.0, 360.0, 1.0)
_REPEATS: Final = 24  # fittings of parts whose runout is chance, for the expected true cost
_RADII: Final = np.linspace(95.0, 150.0, 7)


class Truth:
    """What would really be left: the hidden corner, its lathe and its new parts."""

    def __init__(self, corner: SimulatedCorner, seat: complex, generator: np.random.Generator) -> None:
        self.corner, self.seat, self.generator = corner, seat, generator  # the seat of the mounting that stands now
        self.bare = replace(corner, hub=0j, rotor=0j)

    def after(self, remedy: Remedy) -> tuple[float, float | None, float]:
        """Carry a remedy out once: TIR, thickness left at its thinnest, variation."""
        corner, g = self.corner, self.generator
        works = remedy.code.split("+")
        seat = corner.seat(g)
        left = {
            kind: float(g.uniform(0.85, 1.15)) * mm for kind, mm in (("on_vehicle_cut", 0.012), ("bench_cut", 0.01))
        }
        variation = corner.true_variation_mm()
        if "on_vehicle_cut" in works:
            hub = corner.hub + (seat + self.new_rotor() if "new_rotors" in works else self.seat + corner.rotor)
            metal = self.metal(hub, left["on_vehicle_cut"], new="new_rotors" in works)
            return left["on_vehicle_cut"], metal, 0.002
        if "bench_cut" in works:
            installed = corner.hub + seat + self.anywhere(left["bench_cut"])
            metal = self.metal(corner.rotor, left["bench_cut"])
            return self.plated(installed, works), metal, 0.002
        if "new_rotors" in works:
            rotor = self.new_rotor()
            if "index" in works:
                turned = [corner.hub + seat + rotor * np.exp(1j * np.radians(p)) for p in SPEC.positions_deg]
                return 2 * min(abs(t) for t in turned), self.new_mm(), 0.003
            return self.plated(corner.hub + seat + rotor, works), self.new_mm(), 0.003
        least = corner.true_minimum_mm(radii_mm=(140.0,))
        if remedy.code == "none":
            return replace(corner, hub=corner.hub + self.seat).true_tir_mm(), least, variation
        index = remedy.settings.get("index_deg", 0.0)
        hub = self.anywhere(g.uniform(0, 0.02)) if remedy.code == "hub_unit" else corner.hub
        if remedy.settings.get("plate_mm"):
            chosen = next(p for p in SHOP.plates if p.correction_mm == remedy.settings["plate_mm"])
            hub -= tilt(chosen, remedy.settings["plate_deg"], radius_mm=140.0)
        return replace(corner, hub=hub + seat).true_tir_mm(index_deg=index), least, variation

    def anywhere(self, tir_mm: float) -> complex:
        """Return a tilt of this TIR at any angle."""
        return complex(tir_mm / 2 * np.exp(2j * np.pi * self.generator.random()))

    def new_mm(self) -> float:
        """Return a new disc's thickness: its nominal, as parts are made."""
        return 26.0 + float(self.generator.uniform(-0.03, 0.03))

    def new_rotor(self) -> complex:
        """Return a new rotor's tilt."""
        return self.anywhere(float(self.generator.uniform(0, 0.03)))

    def plated(self, installed: complex, works: list[str]) -> float:
        """Return the TIR with the plate that suits, read with a dial."""
        if "plate" not in works:
            return 2 * abs(installed)
        read = installed + complex(*self.generator.normal(0, 0.0015, 2))
        kit = [0j] + [tilt(p, a, radius_mm=140.0) for p in SHOP.plates for a in p.angles_deg]
        return 2 * abs(installed - min(kit, key=lambda t: abs(read - t)))

    def metal(self, first: complex, left_mm: float, *, new: bool = False) -> float:
        """Return T after a cut: min z − max(z − T) − 2 × 0.05 (measurement.md#what-remedies-leave)."""
        lathe = self.anywhere(left_mm)
        z, y, fresh = [], [], self.new_mm()
        for r in _RADII:
            scale = r / 140.0
            face = scale * np.real((first - lathe) * np.exp(-1j * np.radians(_FINE)))
            thickness: np.ndarray = np.full(_FINE.size, fresh)
            if not new:
                face = face + self.bare.surface_mm(Surface.ARBOR, _FINE, radius_mm=float(r))
                thickness = self.corner.thickness_mm(_FINE, radius_mm=float(r))
            z.append(face)
            y.append(face - thickness)
        return float(np.min(z) - np.max(y) - 0.1)

    def cost(self, remedy: Remedy) -> float:
        """Return the bill and what comebacks really cost, on average over what is left to chance."""
        chance = any(part in remedy.code for part in ("new_rotors", "bench", "hub_unit"))
        runs = [self.after(remedy) for _ in range(_REPEATS if chance else 1)]
        km = distance_km(np.array([r[0] for r in runs]), np.array([r[2] for r in runs]), shop=Shop())
        return remedy.price + float((km < SHOP.warranty_km).mean()) * SHOP.price_of("comeback")


def draw(g: np.random.Generator) -> tuple[SimulatedCorner, complex, Corner]:
    """Draw a corner with something wrong more often than not, and measure it as a workshop would."""
    truth = random_corner(g)
    scale = float(g.choice([1.0, 2.0, 3.0]))
    truth = replace(
        truth,
        hub=truth.hub * scale,
        rotor=truth.rotor * float(g.choice([0.7, 1.5])),
        nominal_mm=float(g.uniform(22.6, 25.9)),
        taper=float(g.normal(0, 0.0004)),
    )
    if g.random() < 0.3:
        truth = worn_by_runout(truth, depth_mm=float(g.uniform(0.01, 0.03)))
    stations = int(g.choice([8, 10, 12, 16]))
    dial = truth.dial(float(g.choice([0.01, 0.01, 0.002])), float(g.choice([0.5, 1.0])))
    seat = truth.seat(g)
    sweeps = [truth.sweep(g, stations=stations, instrument=dial, tilt=seat)]
    way = int(g.integers(4))
    if way in (1, 2):
        sweeps.append(truth.sweep(g, stations=stations, instrument=dial, index_deg=144.0, tilt=truth.seat(g)))
    if way == 2:
        sweeps.append(truth.sweep(g, stations=stations, instrument=dial, index_deg=288.0, tilt=truth.seat(g)))
    if way == 3:
        sweeps.append(truth.sweep(g, stations=stations, instrument=dial, surface=Surface.HUB_FACE, radius_mm=65.0))
    radii = ((140.0,), (100.0, 122.0, 145.0))[int(g.integers(2))]
    miked = truth.micrometer_round(g, stations=stations, radii_mm=radii, graduation_mm=float(g.choice([0.001, 0.002])))
    corner = Corner(position="FL", spec=SPEC, sweeps=tuple(sweeps), thickness=miked)
    return truth, seat, corner


def violations(verdict: CornerVerdict) -> list[str]:
    """Name what a feasible remedy breaks of the rules, told from the evidence and the truth, not by the rules' code."""
    found, broken = verdict.measured, []
    thickness = found.thickness.result
    for r in (r for r in verdict.remedies if r.feasible):
        done = found.thickness.state_discard in (State.BELOW, State.TOO_CLOSE)
        if done and not r.code.startswith("new_rotors"):
            broken.append("1 " + r.code)
        if "cut" in r.code and (r.thickness_mm is None or r.thickness_mm[0] <= 23.0 - 1e-9):
            broken.append("2 " + r.code)
        if "turns_disagree" in found.runout.flags:
            broken.append("3 " + r.code)
        if r.code == "plate":
            tir = found.runout.tir
            flat = thickness is not None and thickness.variation is not None
            if not flat or thickness.variation.value_mm > 0.015 or tir is None or tir.value_mm > 0.15:
                broken.append("5 " + r.code)
        if r.code == "none" and State.OVER in (found.runout.state, found.thickness.state_variation):
            broken.append("9 " + r.code)
    return broken


def as_met(count: int) -> None:
    """Print what was said of remedies, and what came, on ``count`` vehicles of ``compass.simulate.happenings``."""
    g = np.random.default_rng(7)
    pairs: dict[str, list[tuple[float, bool]]] = defaultdict(list)
    for _ in range(count):
        for position, met in random_happening(g).corners.items():
            disc, spec = replace(met.disc, joint=0j, nuts=0j), met.spec
            if met.play_mm > (spec.max_bearing_play_mm or 0):
                continue
            dial, stations = disc.dial(float(g.choice([0.01, 0.01, 0.002]))), int(g.choice([8, 10, 12, 16]))
            seat, way = disc.seat(g), "turned" if g.random() < 0.5 else "one sweep"
            sweeps = [disc.sweep(g, stations=stations, instrument=dial, tilt=seat)]
            if way == "turned":
                half = spec.positions_deg[len(spec.positions_deg) // 2]
                sweeps.append(disc.sweep(g, stations=stations, instrument=dial, index_deg=half, tilt=disc.seat(g)))
            miked = disc.micrometer_round(g, stations=stations, graduation_mm=float(g.choice([0.001, 0.01])))
            corner = Corner(position, spec, tuple(sweeps), thickness=miked, bearing_play_mm=0.01)
            (verdict,), _plans = choose([diagnose_corner(corner)], shop=WORKSHOP)
            for r in verdict.remedies:
                if r.odds_within is None or r.code == "clean_and_torque":
                    continue
                if r.code == "none":
                    left = replace(disc, hub=disc.hub + seat)
                else:
                    left = repaired(disc, spec, r.code, r.settings, shop=WORKSHOP, g=g)
                pairs[way].append((r.odds_within, left.true_tir_mm() <= spec.max_runout_mm))
    for way, told in sorted(pairs.items()):
        print(way)
        show_odds(told)


def show_odds(told: Iterable[tuple[float, bool]]) -> None:
    """Print odds as said and as they came, in seven ranges."""
    odds, came = np.array(list(told)).T
    for low, high in ((0, 0.05), (0.05, 0.2), (0.2, 0.4), (0.4, 0.6), (0.6, 0.8), (0.8, 0.95), (0.95, 1.001)):
        here = (odds >= low) & (odds < high)
        if here.any():
            means = f"said {odds[here].mean():.3f}, came {came[here].mean():.3f}"
            print(f"odds {low:.2f}–{min(high, 1):.2f}: {means} ({here.sum()})")


def main(count: int) -> None:
    """Run and print."""
    g = np.random.default_rng(515)
    hold, width = defaultdict(list), defaultdict(list)
    metal, danger, metal_width = defaultdict(list), defaultdict(list), defaultdict(list)
    said, came = [], []
    costs = defaultdict(list)
    picked: dict[str, int] = defaultdict(int)
    broke: list[str] = []
    short = cut = 0
    for _ in range(count):
        hidden, seat, corner = draw(g)
        (verdict,), _plans = choose([diagnose_corner(corner)], shop=SHOP)
        truth = Truth(hidden, seat, g)
        broke += violations(verdict)
        by_code = {r.code: r for r in verdict.remedies}
        for r in verdict.remedies:
            if r.runout_mm is None or r.code == "clean_and_torque":
                continue
            tir, least, _variation = truth.after(r)
            hold[r.code].append(r.runout_mm[0] <= tir <= r.runout_mm[2])
            width[r.code].append(r.runout_mm[2] - r.runout_mm[0])
            said.append(r.odds_within)
            came.append(tir <= SPEC.max_runout_mm)
            if least is not None and r.thickness_mm is not None and "cut" in r.code:
                metal[r.code].append(r.thickness_mm[0] <= least <= r.thickness_mm[2])
                danger[r.code].append(least < r.thickness_mm[0])
                metal_width[r.code].append(r.thickness_mm[2] - r.thickness_mm[0])
                if r.feasible:
                    cut += 1
                    short += least <= 23.0
        if verdict.recommended in (None, "none", "hub_unit"):
            continue
        picked[verdict.recommended] += 1
        allowed = [r for r in verdict.remedies if set(r.blocked_by) <= {"metal_short"} and r.runout_mm is not None]
        true = {}
        for r in allowed:
            if "cut" in r.code and truth.after(r)[1] <= 23.0:
                continue
            true[r.code] = truth.cost(r)
        best = min(true.values())
        regret = true.get(verdict.recommended, truth.cost(by_code[verdict.recommended])) - best
        costs["recommended"].append(regret)
        costs[
            "recommended, hub and rotor told apart" if verdict.measured.whose.told_apart else "recommended, one sweep"
        ].append(regret)
        new = truth.cost(by_code["new_rotors"])
        costs["always replace"].append(new - best)
        costs["always cut"].append(true.get("on_vehicle_cut", new) - best)
        indexed, plated = by_code["index"], by_code["plate"]
        habit = new
        if "index" in true and truth.after(indexed)[0] <= SPEC.max_runout_mm:
            habit = true["index"]
        elif "plate" in true and truth.after(plated)[0] <= SPEC.max_runout_mm:
            habit = true["plate"]
        costs["index then plate"].append(habit - best)
    print("remedy                      bands hold  width µm | metal hold  under 5 %  width µm")
    for code in hold:
        line = f"{code:27s} {np.mean(hold[code]):9.1%} {1000 * np.mean(width[code]):9.1f}"
        if metal[code]:
            line += (
                f" | {np.mean(metal[code]):9.1%} {np.mean(danger[code]):9.1%} {1000 * np.mean(metal_width[code]):9.1f}"
            )
        print(line)
    for name, values in (("runout", hold), ("metal", metal), ("metal under the 5 % point", danger)):
        print(f"all, {name}: {np.mean([x for v in values.values() for x in v]):.1%}")
    show_odds(zip(said, came, strict=True))
    for name, regrets in costs.items():
        share = np.mean(regrets) / SHOP.price_of("comeback")
        print(f"regret, {name}: {np.mean(regrets):.1f} = {share:.1%} of a comeback ({len(regrets)} corners)")
    print("recommended:", dict(picked))
    print(f"cuts allowed {cut}, of which too thin in truth {short}; violations {len(broke)} {sorted(set(broke))}")


if __name__ == "__main__":
    numbers = [int(word) for word in sys.argv[1:] if word.isdigit()]
    (as_met if "--met" in sys.argv else main)(numbers[0] if numbers else 3000)
