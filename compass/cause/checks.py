"""The next check of a corner: first what spoils a reading, then what is missing, then what separates best."""

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from compass.cause.measured import Measured
from compass.evidence.records import Surface
from compass.ground.angles import wrap_deg
from compass.ground.limits import State
from compass.measure.analysed import further_sweep, vectors
from compass.measure.separation import expected_sds_mm

# What a check takes with the vehicle on the lift, minutes; our estimates, shown as such.
MINUTES: Final = {
    "sweep_rotor": 4,
    "sweep_hub_face": 8,
    "turn_rotor_and_sweep": 8,
    "arbor_sweep": 20,
    "measure_thickness": 3,
    "finer_micrometer": 3,
    "finer_dial": 4,
    "repeat_sweep": 2,
    "repeat_round": 3,
    "reread_station": 1,
    "clean_and_sweep": 12,
    "torque_and_sweep": 6,
    "bearing_play": 3,
    "inspect_pads_and_slides": 3,  # the caliper hangs in hand: both pads at two places, its pins moved
    "measure_other_corner": 10,
    "road_test": 15,
    "ask_driver": 2,
}
OPENING_MINUTES: Final = 6  # wheel and caliper off where nothing has been measured yet; our estimate
# So many turns or rounds, and still too close to its limit: another would say no more.
_ENOUGH_TURNS: Final = 4
_ENOUGH_ROUNDS: Final = 3
_GOOD_ENOUGH: Final = 0.25  # of the runout limit: a U under it decides, and the quicker way is the better one


@dataclass(frozen=True, slots=True)
class Separating:
    """One way to tell hub from rotor: the check, the index to turn to, U of both that it would leave (mm), minutes."""

    check: str
    index_deg: float | None
    expanded_mm: float
    minutes: int


@lru_cache(maxsize=16)
def separating_checks(measured: Measured) -> tuple[Separating, ...]:
    """Work out what each further measurement would leave of the doubt between hub and rotor, best first.

    Best is the quickest of those that leave so little doubt that it no longer matters, else the surest.

    Every index the rotor may go back on, a sweep of the bare hub face, one on an arbor, each with the dial in use.
    A check that would not tell them apart is left out.
    """
    spec, analysed = measured.corner.spec, measured.analysed
    evidence = vectors(analysed, spec=spec)
    ways: list[tuple[str, Surface, float | None]] = [
        ("turn_rotor_and_sweep", Surface.ROTOR_OUTBOARD, index) for index in _worth_turning_to(measured)
    ]
    if "captive" not in spec.features:  # a captive rotor comes off with its hub; nothing is bared
        ways += [("sweep_hub_face", Surface.HUB_FACE, None), ("arbor_sweep", Surface.ARBOR, None)]
    further = [further_sweep(spec, analysed, surface, index_deg or 0.0) for _check, surface, index_deg in ways]
    # A TIR is twice an amplitude, and U is twice a standard deviation.
    found_ways = [
        Separating(check, index_deg, 4 * sd_mm, MINUTES[check])
        for (check, _surface, index_deg), sd_mm in zip(ways, expected_sds_mm(evidence, further), strict=True)
        if math.isfinite(sd_mm)
    ]
    enough_mm = _GOOD_ENOUGH * spec.max_runout_mm

    def worth(way: Separating) -> tuple[bool, float, float]:
        decides = way.expanded_mm <= enough_mm
        return not decides, way.minutes if decides else 0, round(way.expanded_mm, 6)

    return tuple(sorted(found_ways, key=worth))


def _worth_turning_to(measured: Measured) -> list[float]:
    """Return the indices not swept yet; of two as far round either way from all that were, the first."""
    swept = {wrap_deg(a.evidence.index_deg) for a in measured.analysed if a.installed and not a.before}
    seen: set[tuple[float, ...]] = set()
    kept = []
    for index in map(wrap_deg, measured.corner.spec.positions_deg):
        apart = tuple(sorted(round(math.cos(math.radians(index - other)), 6) for other in swept))
        if index not in swept and apart not in seen:
            kept.append(index)
        seen.add(apart)
    return kept


def wanting(measured: Measured) -> str | None:
    """Name what puts a spoilt reading right, or what is missing to judge this disc; None where it can be judged.

    A bearing comes before every other doubt: with play no disc reading can be believed. What was taken often enough is
    not asked for again.
    """
    runout, thickness = measured.runout, measured.thickness
    names = {flag.partition(":")[0] for flag in runout.flags}
    if "turns_disagree" in names and measured.corner.bearing_play_mm is None:
        return "bearing_play"
    steps: list[tuple[bool, str]] = [
        (runout.tir is None, "sweep_rotor"),
        (
            bool(names & {"clamp_moved", "unit_slip", "turns_disagree", "tip_too_far_in"})
            and not enough_turns(measured),
            "repeat_sweep",
        ),
        ("lone_jump" in names and not measured.corner.spec.broken_by_design, "reread_station"),
        ("joint_not_cleaned" in names and runout.state is not State.WITHIN, "clean_and_sweep"),
        ("nuts_not_torqued" in names and runout.state is not State.WITHIN, "torque_and_sweep"),
        (measured.whose.disagrees, _recheck(measured)),
        (thickness.is_doubted, "reread_station"),
        (thickness.result is None or "too_few_stations" in thickness.flags, "measure_thickness"),
        # No disc is blamed for its runout before its bearing was rocked, where there is a limit to hold it against.
        (
            runout.state is State.OVER
            and measured.corner.bearing_play_mm is None
            and measured.corner.spec.max_bearing_play_mm is not None,
            "bearing_play",
        ),
    ]
    return next((check for applies, check in steps if applies), None)


def enough_turns(measured: Measured) -> bool:
    """Whether the set-up that was swept most was swept so often that another turn would say no more."""
    return _turns(measured) >= _ENOUGH_TURNS


def enough_rounds(measured: Measured) -> bool:
    """Whether the disc was miked so often that another round would say no more."""
    return rounds_of(measured) >= _ENOUGH_ROUNDS


def separates_best(measured: Measured) -> Separating | None:
    """Return the way that tells hub from rotor best, where a clean runout over its limit is not told apart yet."""
    clean = measured.runout.state is State.OVER and not measured.to_be_cleaned
    if not clean or measured.whose.told_apart or "turns_disagree" in measured.runout.flags:
        return None
    ways = separating_checks(measured)
    return ways[0] if ways else None


def _turns(measured: Measured) -> int:
    """Return how many turns were swept of the set-up that was swept most."""
    sweeps = measured.corner.sweeps
    return max((sum(other.same_conditions(sweep) for other in sweeps) for sweep in sweeps), default=0)


def rounds_of(measured: Measured) -> int:
    """Return how many rounds the disc was miked."""
    return measured.corner.thickness.rounds if measured.corner.thickness is not None else 0


def _recheck(measured: Measured) -> str:
    """Name what to measure again where two ways to one part disagree: the direct one, its radius and its cleanness."""
    disagreement = measured.whose.disagreement
    if disagreement is None:
        return "turn_rotor_and_sweep"
    return "sweep_hub_face" if disagreement.part == "hub" else "arbor_sweep"
