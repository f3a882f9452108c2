"""Whole visits of simulated vehicles in closed loop: python docs/tools/measure_visits.py [COUNT] [SEED] [-v] [--odds].

The next check is made and charged in minutes until none is asked for, the recommendation is carried out, what was
worked on is measured again and driven over the speeds of the complaint; what is still felt is looked for in the same
visit. Then the vehicle is driven on. Beside it, on the same vehicles: an oracle that knows the
truth and checks nothing, three habits, and measuring everything first. With --odds: only what was said of causes,
tenth by tenth, and what came; what is said again and again in a visit counts once in each tenth.
"""

import sys
from collections import Counter, defaultdict
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Final

import numpy as np

from compass.cause.causes import BESIDE, Cause
from compass.cause.stakes import ELSEWHERE_MINUTES
from compass.choose.remedies.comeback import FELT_MM
from compass.choose.remedies.plating import tilt
from compass.diagnose import Verdict, diagnose
from compass.ground.limits import State
from compass.ground.positions import axle_of
from compass.simulate.happenings import HiddenVehicle, random_happening
from compass.simulate.repair import repaired
from compass.simulate.visit import WORKSHOP, Habits, Visit

_MOST_CHECKS: Final = 40  # a visit that asks for more is stuck
_MOST_WORKS: Final = 3
_FITTINGS: Final = 6  # of the oracle, where chance has a part
_METAL: Final = ("cut", "new_rotors", "hub_unit")
_LABOUR: Final = WORKSHOP.price_of("labour_per_hour") / 60


@dataclass
class Ending:
    """How a visit ended."""

    cured: bool
    needless: int
    unsafe: bool
    stuck: bool
    minutes: float
    cost: float
    sent_for: bool = True  # what brought the vehicle in was put right, whatever else would have come
    minutes_there: float = 0.0  # of the minutes, those on an axle with a fault
    checks: list[tuple[str, str | None]] = field(default_factory=list)
    said: dict[tuple[object, ...], tuple[float, bool]] = field(default_factory=dict)  # as ``odds_said`` has it
    again: int = 0
    named: dict[str, str] = field(default_factory=dict)


def axles(visit: Visit) -> dict[str, list[str]]:
    """Return the positions of every axle."""
    both: dict[str, list[str]] = defaultdict(list)
    for position in visit.discs:
        both[axle_of(position)].append(position)
    return both


def bad(visit: Visit, position: str) -> bool:
    """Whether this wheel is truly felt within the warranty, and out of the maker's limits."""
    spec, disc = visit.hidden.corners[position].spec, visit.discs[position]
    over = disc.true_tir_mm(cleaned=False, torqued=False) > spec.max_runout_mm
    over = over or disc.true_variation_mm() > max(spec.max_thickness_variation_mm, FELT_MM)
    return over and visit.comes_back_km(position) < WORKSHOP.warranty_km


def needs_parts(visit: Visit, position: str) -> bool:
    """Whether this wheel truly needs metal or parts: felt again though clean and tight, or over its limits, or done."""
    hidden, disc = visit.hidden.corners[position], visit.discs[position]
    clean = repaired(disc, hidden.spec, "clean_and_torque", {}, shop=WORKSHOP, g=np.random.default_rng(1))
    spec = hidden.spec
    over = clean.true_tir_mm() > 0.9 * spec.max_runout_mm
    uneven = disc.true_variation_mm() > 0.9 * spec.max_thickness_variation_mm
    thin = disc.true_minimum_mm() < spec.discard_thickness_mm + 0.02
    return over or uneven or thin or bool({"cracked", "vent_showing"} & hidden.seen) or hidden.play_mm > 0.05


def carry(visit: Visit, works: dict[str, tuple[str, dict[str, float]]]) -> tuple[float, int]:
    """Carry remedies out, by position; return the bill and how many axles had metal or parts for nothing."""
    price, needless = 0.0, 0
    for sides in axles(visit).values():
        metal = [p for p in sides if p in works and any(m in works[p][0] for m in _METAL)]
        needless += bool(metal) and not any(needs_parts(visit, p) for p in sides)
    for position, (code, settings) in works.items():
        price += WORKSHOP.bill(code)
        visit.carry_out(position, code, settings)
    return price, needless


def end(visit: Visit, price: float, needless: int, *, stuck: bool = False) -> Ending:
    """Drive the vehicle on."""
    missed = {f for f in visit.hidden.faults if f.cause in BESIDE} - visit.put_right
    for_nothing = visit.put_right - set(visit.hidden.faults)  # beside the discs: what was right there costs nobody
    price += len(for_nothing) * ELSEWHERE_MINUTES * _LABOUR
    bearings = [f for f in visit.hidden.faults if f.cause is Cause.BEARING]
    left = [f for f in bearings if "hub_unit" not in visit.repaired.get(f.position or "", [])]
    back = [p for p in visit.discs if bad(visit, p)]
    unsafe = bool(left) and any(visit.benches[f.position or ""].opened for f in left)
    for position, disc in visit.discs.items():
        hidden, works = visit.hidden.corners[position], visit.repaired.get(position, [])
        renewed = any("new_rotors" in work for work in works)
        thin = disc.true_minimum_mm() < hidden.spec.discard_thickness_mm - 0.005
        if visit.benches[position].opened and ((thin) or ("cracked" in hidden.seen and not renewed)):
            unsafe = True
    cured = not (missed or left or back)
    faulty = {fault.position for fault in visit.hidden.faults if fault.position is not None}
    sent_for = not (missed or left or faulty & set(back))
    there = {axle_of(position) for position in faulty}
    minutes_there = sum(m for p, m in visit.minutes_at.items() if p is not None and axle_of(p) in there)
    cost = price + visit.minutes * _LABOUR + (0 if cured else WORKSHOP.price_of("comeback"))
    needless += len(for_nothing)
    return Ending(
        cured, needless, unsafe, stuck, visit.minutes, cost, sent_for, minutes_there, checks=list(visit.checks)
    )


_TENTHS: Final = (0.02, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.01)
_CURED: Final = frozenset({"joint_contamination", "lug_torque"})
_MISSES: Final = {State.OVER}  # after the work: then it is looked at anew


def odds_said(visit: Visit, verdict: Verdict) -> dict[tuple[object, ...], tuple[float, bool]]:
    """Return the odds of every cause at every place, and whether it was there, by cause, place and tenth.

    Left out are discs that run out though nothing happened to them.
    """
    there = {(fault.cause, fault.position) for fault in visit.hidden.faults} or {(Cause.NONE, None)}
    faulty = {position for _, position in there}
    as_made = {p for p, c in visit.hidden.corners.items() if c.disc.true_tir_mm() > c.spec.max_runout_mm} - faulty
    return {
        (cause, position, sum(odds >= begins for begins in _TENTHS)): (odds, (cause, position) in there)
        for cause, position, odds in verdict.judged.weighed.hypotheses
        if position not in as_made
    }


def asked(visit: Visit) -> Ending:
    """Follow the program: its next check while it asks for one, its recommendation, its proof."""
    price, needless, stuck, again = 0.0, 0, False, 0
    named: dict[str, str] = {}
    said: dict[tuple[object, ...], tuple[float, bool]] = {}
    for work in range(_MOST_WORKS):
        while True:
            verdict = diagnose(visit.case)
            step = verdict.judged.next
            if work == 0:  # before anything was mended
                said = odds_said(visit, verdict) | said
            if step.check is None:
                break
            if len(visit.checks) >= _MOST_CHECKS:
                stuck = True
                break
            again += (step.check, step.position) in visit.checks
            visit.make(step.check, step.position, step.index_deg)
        named = named or dict(verdict.judged.root_causes)
        beside = verdict.judged.beside_discs
        for one in beside:
            visit.put_right_beside(one.cause, one.position)
        works = {
            c.position: (c.recommended, next((r.settings for r in c.remedies if r.code == c.recommended), {}))
            for c in verdict.corners
            if c.recommended not in (None, "none")
            and (
                c.position not in visit.proven
                or c.recommended == "hub_unit"
                or any(reason.code == "as_it_stands" for reason in c.because)
            )
        }
        for plan in verdict.plans:  # the other side of an axle, never opened
            metal = next((works[p][0] for p in plan.positions if p in works and "new_rotors" in works[p][0]), None)
            for p in [q for q in visit.discs if axle_of(q) == axle_of(plan.positions[0]) and q not in plan.positions]:
                if metal:
                    works[p] = (metal, {})
        cleaned = _CURED & set(verdict.judged.root_causes.values())  # by a check: it is driven all the same
        driven = verdict.judged.next.why in ("put_right", "mended_beside")  # and it may have been that
        if stuck or not (works or cleaned or beside or driven):
            break
        bill, wrong = carry(visit, works)
        price, needless = price + bill, needless + wrong
        for position in works:
            visit.prove(position)
        proof = {} if not works else {c.position: c.measured for c in diagnose(visit.case).corners}
        if any(_MISSES & {proof[p].runout.state, proof[p].thickness.state_variation} for p in works):
            continue
        for position in works:
            if works[position][0] != "none":
                visit.keep_proof(position)
        if not visit.drive():
            break
    ending = end(visit, price, needless, stuck=stuck)
    ending.again, ending.named, ending.said = again, named, said
    return ending


_EVERYTHING: Final = ("measure_thickness", "bearing_play", "inspect_pads_and_slides", "sweep_rotor", "clean_and_sweep")


def everything_first(visit: Visit) -> Ending:
    """Measure all of it at every corner, then follow the program."""
    for position in visit.discs:
        for check in _EVERYTHING:
            visit.make(check, position)
        spec, disc = visit.hidden.corners[position].spec, visit.discs[position]
        if disc.true_tir_mm() > 0.8 * spec.max_runout_mm:
            visit.make("turn_rotor_and_sweep", position)
    return asked(visit)


def felt_axle(visit: Visit) -> list[str]:
    """Return the axle that the driver's words point to."""
    return [p for p in visit.discs if (p[0] == "F") == ("steering_wheel" in visit.complaint.felt_in)]


def habit(code: str) -> Callable[[Visit], Ending]:
    """Return a workshop that does one thing on the felt axle and nothing else."""

    def works(visit: Visit) -> Ending:
        bill, wrong = carry(visit, {p: (code, {}) for p in felt_axle(visit)})
        return end(visit, bill, wrong)

    return works


def index_then_plate(visit: Visit) -> Ending:
    """Turn the rotor to the best of its positions there, and plate it where that does not do."""
    price = 0.0
    for position in felt_axle(visit):
        spec = visit.hidden.corners[position].spec
        best, least = 0.0, 9.0
        for index in spec.positions_deg:
            tir = visit.discs[position].true_tir_mm(index_deg=index)
            best, least = (index, tir) if tir < least else (best, least)
        visit.carry_out(position, "index", {"index_deg": best})
        price += WORKSHOP.bill("index")
        if least > spec.max_runout_mm:
            price += WORKSHOP.bill("plate")
            visit.carry_out(position, "plate", _settings(visit, position, "plate")[0])
    return end(visit, price, 0)


def oracle(visit: Visit) -> Ending:
    """Do what is cheapest in truth on every axle, checks and doubts aside."""
    price = 0.0
    for sides in axles(visit).values():
        options = [
            (cost, works)
            for kind in (None, "bench_cut", "on_vehicle_cut", "new_rotors", "new_rotors+on_vehicle_cut")
            if (best := _best_of_kind(visit, sides, kind)) is not None
            for cost, works in [best]
        ]
        _cost, works = min(options, key=lambda option: option[0])
        for position, (code, settings) in works.items():
            price += WORKSHOP.bill(code)
            visit.carry_out(position, code, settings)
    causes = {fault.cause.value for fault in visit.hidden.faults}
    back = [p for p in visit.discs if bad(visit, p)]
    return Ending(
        not back,
        0,
        False,
        False,
        0.0,
        price + (WORKSHOP.price_of("comeback") if back else 0),
        sent_for=not {fault.position for fault in visit.hidden.faults} & set(back),
        named={"": str(causes)},
    )


_KINDS: Final = {
    None: ("none", "clean_and_torque", "index", "plate", "hub_unit"),
    "bench_cut": ("bench_cut", "bench_cut+plate"),
    "new_rotors": ("new_rotors", "new_rotors+plate", "new_rotors+index"),
}


def _best_of_kind(
    visit: Visit, sides: Iterable[str], kind: str | None
) -> tuple[float, dict[str, tuple[str, dict[str, float]]]] | None:
    total, works = 0.0, {}
    for position in sides:
        found = [
            (cost, code, settings)
            for code in _KINDS.get(kind, (kind or "",))
            for settings in _settings(visit, position, code)
            if (cost := _true_cost(visit, position, code, settings)) is not None
        ]
        if not found:
            return None
        cost, code, settings = min(found, key=lambda f: f[0])
        total += cost
        works[position] = (code, settings)
    return total, works


def _settings(visit: Visit, position: str, code: str) -> list[dict[str, float]]:
    spec, disc = visit.hidden.corners[position].spec, visit.discs[position]
    if code == "index":
        return [{"index_deg": p} for p in spec.positions_deg if p]
    if code != "plate":
        return [{}]
    fits = [p for p in WORKSHOP.plates if p.studs == spec.studs]
    ways = [{"plate_mm": p.correction_mm, "plate_deg": a} for p in fits for a in p.angles_deg]
    truly = disc.hub + disc.rotor

    def left(way: dict[str, float]) -> float:
        plate = next(p for p in fits if p.correction_mm == way["plate_mm"])
        return abs(truly - tilt(plate, way["plate_deg"], radius_mm=spec.measuring_radius_mm))

    return [min(ways, key=left)]


def _true_cost(visit: Visit, position: str, code: str, settings: dict[str, float]) -> float | None:
    hidden = visit.hidden.corners[position]
    spec = hidden.spec
    renews, hub = "new_rotors" in code, code == "hub_unit"
    if hidden.play_mm > 0.05 and not hub:
        return None
    done = (
        bool({"cracked", "vent_showing"} & hidden.seen)
        or visit.discs[position].true_minimum_mm() < spec.discard_thickness_mm
    )
    if done and not renews:
        return None
    costs = []
    for _ in range(_FITTINGS if set(code.split("+")) & {"new_rotors", "bench_cut", "hub_unit"} else 1):
        before = visit.discs[position]
        after = repaired(before, spec, code, settings, shop=WORKSHOP, g=visit.g)
        if "cut" in code and after.true_minimum_mm() <= (
            spec.machine_to_thickness_mm or spec.discard_thickness_mm + 0.3
        ):
            return None
        visit.discs[position] = after
        costs.append(WORKSHOP.price_of("comeback") * bad(visit, position))
        visit.discs[position] = before
    return WORKSHOP.bill(code) + float(np.mean(costs))


WAYS: Final[dict[str, Callable[[Visit], Ending]]] = {
    "asked": asked,
    "everything first": everything_first,
    "new rotors there": habit("new_rotors"),
    "cut there": habit("on_vehicle_cut"),
    "index then plate": index_then_plate,
    "oracle": oracle,
}


def visit_of(hidden: HiddenVehicle, seed: int) -> Visit:
    """Return a fresh visit of a vehicle, every way with the same workshop and the same luck."""
    g = np.random.default_rng(seed)
    return Visit(hidden, Habits.of(g), g)


def show_odds(said: list[tuple[float, bool]]) -> None:
    """Print what was said, tenth by tenth, and what came."""
    for low, high in pairwise(_TENTHS):
        inside = [pair for pair in said if low <= pair[0] < high]
        mean, came = np.mean(inside, axis=0) if inside else (0.0, 0.0)
        print(f"said {low:.2f}–{min(high, 1):.2f}: mean said {mean:.2f}, came {came:.2f}, of {len(inside)}")


def main(count: int, seed: int, *, verbose: bool, only_odds: bool) -> None:
    """Run and print."""
    endings: dict[str, list[Ending]] = defaultdict(list)
    by_cause: dict[str, list[Ending]] = defaultdict(list)
    checks: Counter[str] = Counter()
    right: dict[str, list[bool]] = defaultdict(list)
    everything: dict[str, list[bool]] = defaultdict(list)
    confused: Counter[tuple[str, str]] = Counter()
    for k in range(count):
        hidden = random_happening(np.random.default_rng(seed * 100_003 + k))
        for way, works in WAYS.items() if not only_odds else (("asked", asked),):
            ending = works(visit_of(hidden, seed + k))
            endings[way].append(ending)
            if way == "everything first":
                for fault in hidden.faults:
                    if fault.position in ending.named:
                        said = ending.named[fault.position]
                        everything[fault.cause.value].append(said == fault.cause.value)
                        confused[fault.cause.value, said] += said != fault.cause.value
            if way == "asked":
                checks.update(check for check, _ in ending.checks)
                what = "+".join(sorted(f.cause.value for f in hidden.faults)) or "nothing"
                if len(hidden.faults) <= 1:
                    by_cause[what].append(ending)
                for fault in hidden.faults:
                    if fault.position is not None and fault.position in ending.named:
                        right[fault.cause.value].append(ending.named[fault.position] == fault.cause.value)
                if verbose and (not ending.cured or ending.needless or ending.unsafe or ending.stuck):
                    where = [(f.cause.value, f.position) for f in hidden.faults]
                    print(
                        k,
                        where,
                        "cured" if ending.cured else "BACK",
                        f"needless {ending.needless}",
                        f"unsafe {ending.unsafe}",
                        f"{ending.minutes:.0f} min",
                        ending.checks,
                        ending.named,
                    )
    if only_odds:
        show_odds([pair for ending in endings["asked"] for pair in ending.said.values()])
        return
    truth = float(np.mean([e.cost for e in endings["oracle"]]))
    print(f"{count} visits          sent for  cured  needless  unsafe  stuck  checks  minutes  there   cost  × oracle")
    for way, ends in endings.items():
        names_of = ("cured", "sent_for", "unsafe", "stuck", "minutes", "minutes_there", "cost")
        mean = {name: float(np.mean([getattr(e, name) for e in ends])) for name in names_of}
        needless, made = np.mean([e.needless > 0 for e in ends]), np.mean([len(e.checks) for e in ends])
        print(
            f"{way:<18} {mean['sent_for']:9.1%} {mean['cured']:7.1%} {needless:8.1%} {mean['unsafe']:7.1%} "
            f"{mean['stuck']:6.1%} {made:7.1f} {mean['minutes']:8.1f} {mean['minutes_there']:6.1f} "
            f"{mean['cost']:6.1f} {mean['cost'] / truth:8.2f}"
        )
    print("same check twice:", sum(e.again for e in endings["asked"]), " checks:", dict(checks.most_common()))
    for what, ends in sorted(by_cause.items()):
        cause = right.get(what)
        said = f"named {np.mean(cause):6.1%} of {len(cause)} opened" if cause else ""
        print(
            f"{what:<34} {len(ends):4d}  cured {np.mean([e.cured for e in ends]):6.1%}  "
            f"minutes {np.mean([e.minutes for e in ends]):5.1f}  cost {np.mean([e.cost for e in ends]):6.1f}  {said}"
            f"  all measured {np.mean(everything.get(what, [0])):6.1%}"
        )
    print("confused, all measured:", confused.most_common(12))


if __name__ == "__main__":
    numbers = [int(a) for a in sys.argv[1:] if a.lstrip("-").isdigit()]
    count, seed = numbers[0] if numbers else 300, numbers[1] if len(numbers) > 1 else 7
    main(count, seed, verbose="-v" in sys.argv, only_odds="--odds" in sys.argv)
