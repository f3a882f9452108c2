"""From one corner's evidence to its verdict."""

import cmath
import math
from collections.abc import Sequence

import numpy as np

from compass.cause.chain import because, first_call
from compass.cause.checks import Separating, separates_best
from compass.cause.measured import Measured, Reason, Runout, Thickness
from compass.cause.verdict import CornerVerdict
from compass.evidence.records import Corner, Spec
from compass.ground.angles import wrap_deg
from compass.ground.arrays import FloatArray
from compass.ground.limits import State, against_lower, against_upper
from compass.ground.uncertainty import Estimate
from compass.measure.analysed import Analysed, analyse_all, flags_between, from_before, preferred, vectors
from compass.measure.separation import Separation, separate
from compass.measure.thickness import ThicknessResult, analyse_thickness
from compass.measure.wear_pattern import Pattern, wear_pattern


def diagnose_corner(corner: Corner) -> CornerVerdict:
    """Diagnose one corner from its own evidence alone."""
    measured = measure_corner(corner)
    root_cause, recommended = first_call(measured)
    separating = separates_best(measured)
    reasons = because(measured)
    if separating is not None:
        reasons.append(Reason("separates_best", _separating_figures(separating, corner.spec)))
    return CornerVerdict(
        position=corner.position,
        measured=measured,
        root_cause=root_cause,
        recommended=recommended,
        because=tuple(reasons),
        separating=separating,
        do_not_drive=bool(measured.broken) or measured.worn or measured.bearing_over,
        provisional=measured.provisional,
    )


def measure_corner(corner: Corner) -> Measured:
    """Measure all that the corner's evidence holds, before anything is concluded."""
    miked = analyse_thickness(corner.thickness, spec=corner.spec) if corner.thickness is not None else None
    analysed = tuple(analyse_all(corner, miked))
    whose = separate(vectors(analysed, spec=corner.spec), usual_mm=corner.seating_tir_mm)
    before = from_before(analysed)
    return Measured(
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
        before=chosen.before,
    )


def _hub_state(whose: Separation, spec: Spec) -> State:
    """Hold the hub's own limit against it, at the radius for which the limit is told."""
    if whose.hub is None or spec.max_hub_runout_mm is None:
        return State.UNKNOWN
    scale = (spec.hub_runout_radius_mm or spec.measuring_radius_mm) / spec.measuring_radius_mm
    return against_upper(
        Estimate(value_mm=whose.hub.tir_mm * scale, expanded_mm=whose.hub.expanded_mm * scale, budget=None),
        spec.max_hub_runout_mm,
    )


def _thickness(
    corner: Corner, miked: ThicknessResult | None, analysed: Sequence[Analysed], whose: Separation
) -> Thickness:
    if miked is None:
        return Thickness(result=None, state_discard=State.UNKNOWN, state_variation=State.UNKNOWN)
    spec = corner.spec
    state = against_upper(miked.variation, spec.max_thickness_variation_mm)
    left = against_lower(miked.minimum, spec.discard_thickness_mm)
    if miked.is_doubted:  # what the rest shows to be over stands; nothing is cleared by it
        state = state if state is State.OVER else State.UNKNOWN
        left = left if left is State.BELOW else State.UNKNOWN
    if "unit_slip" in miked.flags:
        state = left = State.UNKNOWN
    return Thickness(
        result=miked,
        state_discard=left,
        state_variation=state,
        pattern=None if state in (State.UNKNOWN, State.WITHIN) else _pattern(corner, miked, analysed, whose),
    )


def _pattern(corner: Corner, miked: ThicknessResult, analysed: Sequence[Analysed], whose: Separation) -> Pattern:
    """Hold the micrometer's readings against the runout the disc ran with as it came in."""
    measured = miked.readings
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
    return {"check": way.check, "index_deg": way.index_deg, "turned": studs, "expected_mm": way.expanded_mm}
