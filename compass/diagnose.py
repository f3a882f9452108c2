"""From one case's evidence to its verdict: the front door of the core.

This slice knows sweeps, quick readings, thickness, bearing play and findings of one corner at a time. Whose
runout it is, what each remedy would leave and the weighed causes join as modules of their own; the verdict
already has their places.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final

from compass.evidence import ROTOR_SURFACES, Case, Corner, Surface, Sweep
from compass.limits import State, against_lower, against_upper
from compass.separation import Separation, VectorEvidence, separate
from compass.sweep import SweepResult, analyse_high_spot, analyse_sweep, unit_slip
from compass.thickness import ThicknessResult, analyse_thickness
from compass.uncertainty import Estimate

STOP_FINDINGS: Final = ("cracked", "vent_showing")
_CONDITION_CHECKS: Final = {"joint_not_cleaned": "clean_and_sweep", "nuts_not_torqued": "torque_and_sweep"}


@dataclass(frozen=True, slots=True)
class Reason:
    """A fact that speaks, as a code with its figures; ``compass.wording`` makes the sentence."""

    code: str
    figures: dict[str, Any]


@dataclass(frozen=True, slots=True)
class Runout:
    """Runout as installed at index 0: estimate, state and what spoils it. ``sweep``: None for a quick one."""

    tir: Estimate | None
    state: State
    high_deg: float | None
    sweep: SweepResult | None
    flags: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Thickness:
    """Thickness of one rotor with its two states; ``result`` is None where nothing was measured."""

    result: ThicknessResult | None
    state_discard: State
    state_variation: State

    @property
    def flags(self) -> tuple[str, ...]:
        """What spoils the round."""
        return self.result.flags if self.result is not None else ()


@dataclass(frozen=True, slots=True)
class CornerVerdict:
    """What is known of one corner and what to do next."""

    position: str
    runout: Runout
    whose: Separation
    thickness: Thickness
    root_cause: str
    recommended: str | None
    because: tuple[Reason, ...]
    next_check: str | None
    do_not_drive: bool


@dataclass(frozen=True, slots=True)
class Verdict:
    """The answer to a case."""

    case_id: str | None
    corners: tuple[CornerVerdict, ...]
    next_check: str | None
    advice: Reason | None


def diagnose(case: Case) -> Verdict:
    """Diagnose every corner of ``case``; pure, and the same for the same case every time."""
    corners = tuple(diagnose_corner(corner) for corner in case.corners)
    urgent = sorted(corners, key=lambda c: (not c.do_not_drive, c.root_cause == "none_found"))
    open_checks = [c for c in urgent if c.next_check not in (None, "measure_other_corner")]
    stopped = [c for c in corners if c.do_not_drive]
    advice: Reason | None = None
    if stopped:
        advice = Reason("do_not_drive", {"positions": tuple(c.position for c in stopped)})
    elif open_checks:
        advice = Reason("next_check", {"check": open_checks[0].next_check, "position": open_checks[0].position})
    elif corners:
        advice = Reason("measured_corners_within", {"positions": tuple(c.position for c in corners)})
    next_check = open_checks[0].next_check if open_checks else ("measure_other_corner" if corners else "sweep_rotor")
    return Verdict(case_id=case.case_id, corners=corners, next_check=next_check, advice=advice)


def diagnose_corner(corner: Corner) -> CornerVerdict:
    """Diagnose one corner from its own evidence alone."""
    analysed = [Analysed(turns[0], analyse_sweep(turns, spec=corner.spec)) for turns in _repeat_turns(corner.sweeps)]
    runout = _runout(corner, analysed)
    whose = separate(_vectors(analysed))
    thickness = _thickness(corner)
    bearing_over = (
        corner.bearing_play_mm is not None
        and corner.spec.max_bearing_play_mm is not None
        and corner.bearing_play_mm > corner.spec.max_bearing_play_mm
    )
    broken = [finding for finding in STOP_FINDINGS if finding in corner.findings]
    # Too close to discard counts as below: safety depends on it (brief 2, Uncertainty and verdicts).
    worn = thickness.state_discard in (State.BELOW, State.TOO_CLOSE)
    root_cause, recommended = _first_call(corner, runout, thickness, bool(broken), worn, bearing_over)
    return CornerVerdict(
        position=corner.position,
        runout=runout,
        whose=whose,
        thickness=thickness,
        root_cause=root_cause,
        recommended=recommended,
        because=tuple(_because(corner, runout, whose, thickness, broken, bearing_over)),
        next_check=_next_check(corner, runout, whose, thickness, stopped=bool(broken) or worn),
        do_not_drive=bool(broken) or worn or bearing_over,
    )


@dataclass(frozen=True, slots=True)
class Analysed:
    """The turns of one set-up, told by their first, and what they say."""

    sweep: Sweep
    result: SweepResult


def _runout(corner: Corner, analysed: Sequence[Analysed]) -> Runout:
    installed = [a for a in analysed if a.sweep.surface in ROTOR_SURFACES]
    if installed:
        chosen = min(installed, key=lambda a: _preference(a.sweep))
        result = chosen.result
        flags = list(result.flags)
        if any(unit_slip(result, other.result) for other in installed if other is not chosen):
            flags.append("unit_slip")
        state = against_upper(result.tir, corner.spec.max_runout_mm)
        return Runout(tir=result.tir, state=state, high_deg=result.high_deg, sweep=result, flags=tuple(flags))
    spots = [spot for spot in corner.high_spots if spot.surface in ROTOR_SURFACES]
    if spots:
        spot = min(spots, key=lambda s: (not (s.cleaned and s.nuts_torqued), s.index_deg != 0))
        tir, high = analyse_high_spot(spot, spec=corner.spec)
        flags = [
            flag
            for flag, bad in (
                ("joint_not_cleaned", not spot.cleaned),
                ("nuts_not_torqued", not spot.nuts_torqued),
            )
            if bad
        ]
        return Runout(
            tir=tir,
            state=against_upper(tir, corner.spec.max_runout_mm),
            high_deg=high,
            sweep=None,
            flags=tuple(flags),
        )
    return Runout(tir=None, state=State.UNKNOWN, high_deg=None, sweep=None, flags=())


def _vectors(analysed: Sequence[Analysed]) -> list[VectorEvidence]:
    """Return the first-order vectors that may tell hub from rotor: cleaned, torqued, of steady turns."""
    found = []
    for first, result in ((a.sweep, a.result) for a in analysed):
        # A bare hub face and an arbor have no nuts; a rotor on its hub must have been torqued.
        mounted = first.surface is Surface.ROTOR_OUTBOARD
        if first.surface is Surface.ROTOR_INBOARD or not first.cleaned or (mounted and not first.nuts_torqued):
            continue
        if result.vector is None or result.vector_covariance is None or "turns_disagree" in result.flags:
            continue
        found.append(
            VectorEvidence(
                hub=first.surface in (Surface.ROTOR_OUTBOARD, Surface.HUB_FACE),
                rotor=first.surface in (Surface.ROTOR_OUTBOARD, Surface.ARBOR),
                index_deg=first.index_deg if mounted else 0.0,
                vector=result.vector,
                covariance=result.vector_covariance,
            )
        )
    return found


def _repeat_turns(sweeps: Sequence[Sweep]) -> list[list[Sweep]]:
    groups: list[list[Sweep]] = []
    for sweep in sweeps:
        for group in groups:
            if group[0].same_conditions(sweep):
                group.append(sweep)
                break
        else:
            groups.append([sweep])
    return groups


def _preference(sweep: Sweep) -> tuple[bool, bool, bool, bool]:
    """Sort key: cleaned and torqued, at index 0, with enough readings, outboard."""
    return (
        not (sweep.cleaned and sweep.nuts_torqued),
        sweep.index_deg != 0,
        len(sweep.readings_mm) < 4,
        sweep.surface is not Surface.ROTOR_OUTBOARD,
    )


def _thickness(corner: Corner) -> Thickness:
    if corner.thickness is None:
        return Thickness(result=None, state_discard=State.UNKNOWN, state_variation=State.UNKNOWN)
    result = analyse_thickness(corner.thickness, spec=corner.spec)
    return Thickness(
        result=result,
        state_discard=against_lower(result.minimum, corner.spec.discard_thickness_mm),
        state_variation=against_upper(result.variation, corner.spec.max_thickness_variation_mm),
    )


def _first_call(
    corner: Corner, runout: Runout, thickness: Thickness, broken: bool, worn: bool, bearing_over: bool
) -> tuple[str, str | None]:
    """Return (root cause, recommended remedy) as far as this slice can tell; None is an honest answer."""
    if bearing_over:  # rule 3: bearing first, whatever the disc says
        return "wheel_bearing", "hub_unit"
    if broken:
        return "cracked_or_broken", "new_rotors"
    if worn:
        return "worn_below_limit", "new_rotors"
    if "turns_disagree" in runout.flags:
        return "not_separable", None
    within = (runout.state, thickness.state_variation) == (State.WITHIN, State.WITHIN)
    if within and not set(runout.flags) & set(_CONDITION_CHECKS):
        return "none_found", "none"
    if set(runout.flags) & set(_CONDITION_CHECKS) and runout.state is not State.WITHIN:
        return "not_separable", "clean_and_torque"  # rule 4
    return "not_separable", None


def _because(
    corner: Corner,
    runout: Runout,
    whose: Separation,
    thickness: Thickness,
    broken: Sequence[str],
    bearing_over: bool,
) -> list[Reason]:
    reasons = [Reason("found", {"finding": finding}) for finding in broken]
    spec = corner.spec
    if bearing_over:
        reasons.append(
            Reason("bearing_over", {"play_mm": corner.bearing_play_mm, "limit_mm": spec.max_bearing_play_mm})
        )
    if runout.tir is not None:
        figures = {
            "tir_mm": runout.tir.value_mm,
            "u_mm": runout.tir.u_mm,
            "limit_mm": spec.max_runout_mm,
            "state": runout.state.value,
            "high_deg": runout.high_deg,
            "studs": spec.studs,
        }
        reasons.append(Reason("runout_stands", figures))
    result = thickness.result
    if result is not None:
        figures = {"min_mm": result.minimum.value_mm, "u_mm": result.minimum.u_mm}
        figures |= {"limit_mm": spec.discard_thickness_mm, "state": thickness.state_discard.value}
        reasons.append(Reason("minimum_stands", figures))
        if result.variation is not None:
            figures = {"variation_mm": result.variation.value_mm, "u_mm": result.variation.u_mm}
            figures |= {"limit_mm": spec.max_thickness_variation_mm, "state": thickness.state_variation.value}
            reasons.append(Reason("variation_stands", figures))
    flags = [*runout.flags, *thickness.flags]
    reasons += [Reason("flag", {"flag": flag.partition(":")[0], "at": flag.partition(":")[2]}) for flag in flags]
    if whose.hub is not None and whose.rotor is not None:
        for code, part in (("hub_carries", whose.hub), ("rotor_carries", whose.rotor)):
            figures = {"tir_mm": part.tir_mm, "u_mm": part.u_mm, "high_deg": part.high_deg, "studs": spec.studs}
            reasons.append(Reason(code, figures))
    elif runout.state is State.OVER and not set(runout.flags) & {"turns_disagree", *_CONDITION_CHECKS}:
        reasons.append(Reason("one_sweep_cannot_tell", {}))
    if thickness.state_variation is State.OVER and runout.state is State.WITHIN:
        reasons.append(Reason("variation_remains", {}))
    if runout.state is State.TOO_CLOSE:
        reasons.append(Reason("runout_too_close", {}))
    if thickness.state_variation is State.TOO_CLOSE:
        reasons.append(Reason("variation_too_close", {}))
    if thickness.state_discard is State.TOO_CLOSE:
        reasons.append(Reason("minimum_too_close", {}))
    if runout.tir is None:
        reasons.append(Reason("runout_missing", {}))
    if result is None:
        reasons.append(Reason("thickness_missing", {}))
    return reasons


def _next_check(
    corner: Corner, runout: Runout, whose: Separation, thickness: Thickness, *, stopped: bool
) -> str | None:
    """Name the one measurement that helps most now: first what spoils a reading, then what is missing."""
    if stopped:
        return None
    names = {flag.partition(":")[0] for flag in runout.flags}
    result = thickness.result
    steps: list[tuple[bool, str]] = [
        (runout.tir is None, "sweep_rotor"),
        ("turns_disagree" in names and corner.bearing_play_mm is None, "bearing_play"),
        (bool(names & {"clamp_moved", "unit_slip", "turns_disagree", "tip_too_far_in"}), "repeat_sweep"),
        ("lone_jump" in names, "reread_station"),
        ("joint_not_cleaned" in names and runout.state is not State.WITHIN, "clean_and_sweep"),
        ("nuts_not_torqued" in names and runout.state is not State.WITHIN, "torque_and_sweep"),
        (result is None or "too_few_stations" in thickness.flags, "measure_thickness"),
        (runout.state is State.TOO_CLOSE and "dial_too_coarse" in names, "finer_dial"),
        (runout.state is State.TOO_CLOSE, "repeat_sweep"),
        (
            thickness.state_variation is State.TOO_CLOSE and "micrometer_too_coarse" in thickness.flags,
            "finer_micrometer",
        ),
        (thickness.state_variation is State.TOO_CLOSE, "measure_thickness"),
        (
            runout.state is State.OVER and whose.hub is None and "captive" not in corner.spec.features,
            "turn_rotor_and_sweep",
        ),
        (runout.state is State.WITHIN and thickness.state_variation is State.WITHIN, "measure_other_corner"),
    ]
    return next((check for applies, check in steps if applies), None)
