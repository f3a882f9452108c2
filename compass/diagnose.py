"""From one case's evidence to its verdict: the front door of the core.

A corner is diagnosed from its own evidence; remedies are predicted and chosen axle by axle, since both sides go
together; the weighed causes are the vehicle's.
"""

import cmath
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from compass.angles import wrap_deg
from compass.chain import because, first_call
from compass.checks import REPAIRS, Separating, next_check
from compass.differential import Differential, weigh
from compass.evidence import Case, Corner, Spec
from compass.findings import Findings, Reason, Runout, Thickness
from compass.limits import State, against_lower, against_upper
from compass.numbers import FloatArray
from compass.pairs import AxlePlan, axle_of, kind_of_metal, plan_axle, with_other_side
from compass.policies import POLICIES, ranked
from compass.predict import predict
from compass.separation import Separation, separate
from compass.shop import Shop, shop_from_data
from compass.thickness import ThicknessResult, analyse_thickness
from compass.uncertainty import Estimate
from compass.vectors import Analysed, analyse_all, flags_between, from_before, preferred, vectors
from compass.verdict import CornerVerdict
from compass.wear import Pattern, wear_pattern

_SUSPECT: Final = 0.2  # of the odds: a corner worth putting its readings right before another is opened


@dataclass(frozen=True, slots=True)
class Verdict:
    """The answer to a case."""

    case_id: str | None
    corners: tuple[CornerVerdict, ...]
    weighed: Differential
    next_check: str | None
    next_position: str | None
    advice: Reason | None
    plans: tuple[AxlePlan, ...] = ()


def diagnose(case: Case) -> Verdict:
    """Diagnose every corner of ``case``; pure, and the same for the same case every time."""
    measured = tuple(diagnose_corner(corner) for corner in case.corners)
    corners, plans = choose(measured, shop=shop_from_data(case.shop), kind=case.vehicle.get("kind"))
    positions = positions_of(case)
    weighed = weigh(positions, corners, complaint=case.complaint, vehicle=case.vehicle)
    stopped = [c for c in corners if c.do_not_drive]
    check, position = _next_of_vehicle(corners, weighed)
    advice: Reason | None = None
    if stopped:
        advice = Reason("do_not_drive", {"positions": tuple(c.position for c in stopped)})
    elif check is not None and position is not None:
        advice = Reason("next_check", {"check": check, "position": position})
    elif corners and all(c.root_cause == "none_found" for c in corners):
        advice = Reason("measured_corners_within", {"positions": tuple(c.position for c in corners)})
    elif any(kind_of_metal(told) or told in ("index", "plate") for p in plans for told in p.remedies.values()):
        plan = next(p for p in plans if any(told not in (None, "none") for told in p.remedies.values()))
        advice = Reason("plan", {"positions": plan.positions, "remedies": tuple(plan.remedies.values())})
    elif corners:
        cause, probability = weighed.causes[0]
        advice = Reason("most_likely", {"cause": cause.value, "odds": probability})
    return Verdict(
        case_id=case.case_id,
        corners=corners,
        weighed=weighed,
        next_check=check,
        next_position=position,
        advice=advice,
        plans=plans,
    )


def choose(
    corners: Sequence[CornerVerdict], *, shop: Shop, kind: str | None = None
) -> tuple[tuple[CornerVerdict, ...], tuple[AxlePlan, ...]]:
    """Predict every remedy at every corner and decide axle by axle; returns the corners with it, and the plans."""
    policy = POLICIES[shop.policy]
    predicted = {c.position: predict(c.found, shop, kind=kind) for c in corners}
    axles: dict[str, list[CornerVerdict]] = {}
    for corner in corners:
        mates = [c.position for c in corners if c is not corner and axle_of(c.position) == axle_of(corner.position)]
        mate_known = any(predicted[p] for p in mates)
        told = with_other_side(predicted[corner.position], mate_known=mate_known, single=corner.position in ("F", "R"))
        axles.setdefault(axle_of(corner.position), []).append(replace(corner, remedies=ranked(told, policy)))
    plans = {axle: plan_axle(both, policy=shop.policy) for axle, both in axles.items()}
    decided = {corner.position: _decided(corner, plans[axle]) for axle, both in axles.items() for corner in both}
    return tuple(decided[c.position] for c in corners), tuple(plans.values())


def _decided(corner: CornerVerdict, plan: AxlePlan) -> CornerVerdict:
    """Return a corner with what its axle's plan gives it, first among its remedies, and why for the other's sake."""
    told = plan.remedies[corner.position]
    first = [r for r in corner.remedies if r.code == told]
    rest = [r for r in corner.remedies if r.code != told]
    reasons = list(corner.because)
    if corner.position in plan.for_the_other:
        reasons.append(Reason("both_sides_alike", {"remedy": told}))
    elif plan.waits_for and told is None:
        reasons.append(Reason("axle_waits", {"positions": plan.waits_for}))
    if told == "new_rotors" and not first:  # unmeasured, in a pair
        return replace(corner, recommended=told, because=tuple(reasons))
    if not corner.remedies:
        return replace(corner, because=tuple(reasons))
    return replace(corner, remedies=(*first, *rest), recommended=told, because=tuple(reasons))


def positions_of(case: Case) -> tuple[str, ...]:
    """Return the corners the vehicle has: by its kind, else by the positions the case names."""
    named = [corner.position for corner in case.corners]
    kind = case.vehicle.get("kind")
    if kind == "motorcycle" or (kind is None and named and set(named) <= {"F", "R"}):
        usual: tuple[str, ...] = ("F", "R")
    elif kind == "trailer" or any(p.startswith("A") for p in named):
        usual = ("A1L", "A1R", "A2L", "A2R")
    else:
        usual = ("FL", "FR", "RL", "RR")
    return (*usual, *(p for p in named if p not in usual))


def _next_of_vehicle(corners: Sequence[CornerVerdict], weighed: Differential) -> tuple[str | None, str | None]:
    """Name the check that helps the vehicle most: what spoils the suspect's reading, then the most bits a minute."""
    suspects = sorted(corners, key=lambda c: -weighed.corners.get(c.position, 0.0))
    for corner in suspects:
        suspected = weighed.corners.get(corner.position, 0.0) >= _SUSPECT
        if corner.next_check in REPAIRS and (suspected or corner.runout.state is not State.WITHIN):
            return corner.next_check, corner.position
    if weighed.checks and not weighed.settled:
        best = weighed.checks[0]
        return best.check, best.position
    for corner in suspects:
        if corner.next_check not in (None, "measure_other_corner"):
            return corner.next_check, corner.position
    if weighed.holes:
        return "measure_other_corner", weighed.holes[0][0]
    return None, None


def diagnose_corner(corner: Corner) -> CornerVerdict:
    """Diagnose one corner from its own evidence alone."""
    found = gather(corner)
    root_cause, recommended = first_call(found)
    check, separating = next_check(found)
    reasons = because(found)
    if separating is not None:
        reasons.append(Reason("separates_best", _separating_figures(separating, corner.spec)))
    return CornerVerdict(
        position=corner.position,
        found=found,
        runout=found.runout,
        before=found.before,
        whose=found.whose,
        hub_state=found.hub_state,
        thickness=found.thickness,
        root_cause=root_cause,
        recommended=recommended,
        because=tuple(reasons),
        next_check=check,
        separating=separating,
        do_not_drive=bool(found.broken) or found.worn or found.bearing_over,
        provisional=found.provisional,
    )


def gather(corner: Corner) -> Findings:
    """Measure all that the corner's evidence holds, before anything is concluded."""
    miked = analyse_thickness(corner.thickness, spec=corner.spec) if corner.thickness is not None else None
    analysed = tuple(analyse_all(corner, miked))
    whose = separate(vectors(analysed, spec=corner.spec))
    before = from_before(analysed)
    return Findings(
        corner=corner,
        analysed=analysed,
        runout=_runout(corner.spec, analysed),
        before=before,
        before_state=against_upper(before.tir if before else None, corner.spec.max_runout_mm),
        whose=whose,
        hub_state=_hub_state(whose, corner.spec),
        thickness=_thickness(corner, miked, analysed, whose),
    )


def _runout(spec: Spec, analysed: Sequence[Analysed]) -> Runout:
    chosen = preferred(analysed)
    if chosen is None:
        return Runout(tir=None, state=State.UNKNOWN, high_deg=None, sweep=None, flags=())
    flags = [*chosen.flags, *(f for f in flags_between(analysed, chosen) if f not in chosen.flags)]
    return Runout(
        tir=chosen.tir,
        state=against_upper(chosen.tir, spec.max_runout_mm),
        high_deg=chosen.high_deg,
        sweep=chosen.result,
        flags=tuple(flags),
    )


def _hub_state(whose: Separation, spec: Spec) -> State:
    """Hold the hub's own limit against it, at the radius for which the limit is told."""
    if whose.hub is None or spec.max_hub_runout_mm is None:
        return State.UNKNOWN
    scale = (spec.hub_runout_radius_mm or spec.measuring_radius_mm) / spec.measuring_radius_mm
    return against_upper(
        Estimate(value_mm=whose.hub.tir_mm * scale, u_mm=whose.hub.u_mm * scale, budget=None), spec.max_hub_runout_mm
    )


def _thickness(
    corner: Corner, miked: ThicknessResult | None, analysed: Sequence[Analysed], whose: Separation
) -> Thickness:
    if miked is None:
        return Thickness(result=None, state_discard=State.UNKNOWN, state_variation=State.UNKNOWN)
    spec = corner.spec
    state = against_upper(miked.variation, spec.max_thickness_variation_mm)
    return Thickness(
        result=miked,
        state_discard=against_lower(miked.minimum, spec.discard_thickness_mm),
        state_variation=state,
        pattern=None if state in (State.UNKNOWN, State.WITHIN) else _pattern(corner, miked, analysed, whose),
    )


def _pattern(corner: Corner, miked: ThicknessResult, analysed: Sequence[Analysed], whose: Separation) -> Pattern | None:
    """Hold the micrometer's readings against the runout the disc ran with as it came in."""
    measured = corner.thickness
    if measured is None:
        return None
    rotor_deg = np.mod(measured.stations_deg - measured.index_deg, 360.0)  # = hub angle at index 0
    runout = runout_as_it_ran(analysed, whose, rotor_deg, spec=corner.spec)
    row = int(np.argmax(np.ptp(miked.curve_mm, axis=1)))
    u_mm = (measured.graduation_mm**2 / 12 + miked.profiles[row].noise_mm ** 2) ** 0.5
    return wear_pattern(
        rotor_deg, measured.readings_mm[row], np.zeros(rotor_deg.size) if runout is None else runout, u_mm=u_mm
    )


def runout_as_it_ran(
    analysed: Sequence[Analysed], whose: Separation, angles_deg: FloatArray, *, spec: Spec
) -> FloatArray | None:
    """Return the runout (mm, no level) at hub angles as the disc ran at index 0 before the work, or None.

    As swept on arrival where it was swept then; else as installed at index 0; else hub and rotor put together.
    """
    swept = [a for a in analysed if a.installed and a.tir is not None and wrap_deg(a.evidence.index_deg) == 0]
    came_in = from_before(swept) or preferred(swept)
    if came_in is not None and came_in.result is not None:
        period = came_in.result.curve_mm[:-1]
        runout: FloatArray = np.interp(np.mod(angles_deg, 360.0), came_in.result.curve_deg[:-1], period, period=360.0)
        return runout
    if came_in is not None and came_in.tir is not None and came_in.high_deg is not None:
        vector = cmath.rect(came_in.tir.value_mm / 2, math.radians(came_in.high_deg))
    elif whose.hub is not None and whose.rotor is not None:
        vector = whose.hub.vector + whose.rotor.vector
    else:
        return None
    wobble: FloatArray = np.real(vector * np.exp(-1j * np.radians(angles_deg)))
    return wobble


def _separating_figures(way: Separating, spec: Spec) -> dict[str, object]:
    studs = None if way.index_deg is None else way.index_deg * spec.studs / 360
    return {"check": way.check, "index_deg": way.index_deg, "turned": studs, "expected_mm": way.u_mm}


__all__ = ["CornerVerdict", "Findings", "Reason", "Verdict", "diagnose", "diagnose_corner", "gather"]
