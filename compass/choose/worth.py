"""What a check is worth: the money it saves on average over all remedies and outcomes, less what its minutes cost.

One computation for cause, choice and verdict. ``compass.cause`` weighs the checks that tell causes apart; here are
those that settle a figure (a runout, a variation, whose runout it is): the draws of every remedy's cost are averaged
over what the check would read (value of sample information by regression on the draws: Strong, Oakley, Brennan & Breeze
2015), and what chance alone would give is taken off. What is wanting, or spoilt, is worth what rests on it.
"""

from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache
from typing import Final

import numpy as np

from compass.cause.checks import (
    MINUTES,
    OPENING_MINUTES,
    Separating,
    enough_rounds,
    enough_turns,
    separating_checks,
    wanting,
)
from compass.cause.differential import Differential, NextCheck, best_first
from compass.cause.verdict import CornerVerdict
from compass.choose.axle import kind_of_metal
from compass.choose.offers import REMEDIES, foretold, refused_at_once
from compass.choose.remedies.comeback import distance_km
from compass.choose.remedies.corner_draws import CornerDraws, draw_corner, shape_range_mm
from compass.choose.rules import WANTS_MEASURING, Question, forbidden_by
from compass.evidence.shop import Shop
from compass.ground.arrays import FloatArray
from compass.ground.limits import State
from compass.ground.positions import axle_of, is_single
from compass.ground.uncertainty import DRAWS, Estimate, normal_draws

_BINS: Final = 16
_FINE_MM: Final = 0.0012  # sd of a variation read with a micrometer of 0.001 mm; our estimate
_FINE_DIAL_MM: Final = 0.0015  # sd of a runout swept with a dial of 0.002 mm or finer; our estimate
_SUSPECT: Final = 0.03  # a corner less likely to be faulty than this is not worth settling to the last µm
_LEAST_SAVED: Final = 0.01
_SIGNED_FOR: Final = 0.15  # of a comeback: what signing for a disc costs that is over its limit; our estimate
_COARSE: Final = 0.2  # of its limit: a U over it may be lessened to some effect
_LIKELY: Final = 0.5  # a corner likelier faulty than not will be worked on: what is wanting there decides how
_AT_REST: Final = 0.25  # share of what is at stake that one missing reading decides elsewhere; our estimate


def all_checks(
    corners: Sequence[CornerVerdict], weighed: Differential, shop: Shop, kind: str | None
) -> tuple[NextCheck, ...]:
    """Return every check not yet done with its worth, best first: one for each name and corner, the better of two.

    What a check may find is told by the one that saves more: where that is no matter of causes, its reason is.
    """
    labour = shop.minute_of_checking
    best: dict[tuple[str, str | None], NextCheck] = {}
    own = [check for c in corners for check in _at(c, weighed.corners.get(c.position, 0.0), shop, kind)]
    for check in (*weighed.checks, *own, *_for_the_other_side(corners, weighed, shop)):
        key = check.check, check.position
        other = best.get(key)
        if other is not None:
            index_deg = check.index_deg if check.index_deg is not None else other.index_deg
            check = replace(check if check.saves > other.saves else other, index_deg=index_deg)
        best[key] = replace(check, worth=check.saves - check.minutes * labour)
    return tuple(sorted(best.values(), key=best_first))


def _for_the_other_side(corners: Sequence[CornerVerdict], weighed: Differential, shop: Shop) -> list[NextCheck]:
    """Return what is wanting at the other side of an axle whose disc needs metal: both sides are cut alike (rule 7)."""
    by_position = {c.position: c for c in corners}
    checks = []
    for corner in corners:
        measured = corner.measured
        state, faulty = measured.thickness.state_variation, weighed.corners[corner.position]
        needs = state is State.OVER or (state is State.TOO_CLOSE and faulty > _LIKELY)
        if not needs or wanting(measured) is not None or measured.worn or measured.broken or measured.bearing_over:
            continue
        for mate in weighed.corners:
            if mate == corner.position or axle_of(mate) != axle_of(corner.position):
                continue
            other = by_position.get(mate)
            if other is None and (mate, "runout") not in weighed.holes:
                continue  # mended already
            opened = other is not None and other.measured.anything
            if other is not None and (other.measured.broken or other.measured.worn or other.measured.bearing_over):
                continue
            code = wanting(other.measured) if other is not None and opened else "sweep_rotor"
            if code is not None:
                minutes = MINUTES[code] + (0 if opened else OPENING_MINUTES)
                checks.append(NextCheck(code, mate, minutes, faulty * shop.comeback_at_stake, 0.0, why="both_sides"))
    return checks


def _at(corner: CornerVerdict, faulty: float, shop: Shop, kind: str | None) -> list[NextCheck]:
    """Return what settles a figure at one measured corner, or what is wanting there before it can be judged."""
    measured = corner.measured
    if not measured.anything or measured.broken:
        return []
    position, comeback = corner.position, shop.comeback_at_stake
    checks: list[NextCheck] = []

    def check(code: str, saves: float, why: str = "figure", index_deg: float | None = None) -> None:
        if saves > _LEAST_SAVED:
            checks.append(NextCheck(code, position, MINUTES[code], saves, 0.0, index_deg=index_deg, why=why))

    first = wanting(measured)
    if first is not None and not (measured.worn or measured.bearing_over):
        rests = faulty if measured.anything_over or faulty > _LIKELY else faulty * _AT_REST
        if first == "repeat_sweep" or "turns_disagree" in measured.runout.flags or measured.thickness.is_doubted:
            # No disc is signed for whose readings are not to be believed.
            rests = max(rests, _SIGNED_FOR)
        check(first, rests * comeback, "wanting")
    if measured.worn:
        for code, saves in _discard(corner, shop):
            check(code, saves)
        return checks
    ways = _ways(corner, faulty, shop, kind)
    if ways:
        costs = _Costs(corner, shop, kind)
        for code, reads, way in ways:
            saves = costs.saved_by(reads(costs.draws), whose=way is not None) + _SIGNED_FOR * comeback * reads.doubt
            check(code, saves, index_deg=way.index_deg if way is not None else None)
    return checks


def _discard(corner: CornerVerdict, shop: Shop) -> list[tuple[str, float]]:
    """Return what settles a thickness too close to discard, a finer micrometer: new rotors may not be needed."""
    thickness = corner.measured.thickness
    code = _finer_or_again(corner)
    if thickness.state_discard is not State.TOO_CLOSE or thickness.result is None or code != "finer_micrometer":
        return []
    least, limit = thickness.result.minimum, corner.measured.corner.spec.discard_thickness_mm
    above = float(np.clip(0.5 + (least.value_mm - limit) / max(2 * least.expanded_mm, 1e-6), 0.02, 0.98))
    return [(code, above * 2 * shop.bill("new_rotors"))]


def _finer_or_again(corner: CornerVerdict) -> str | None:
    thickness, measured = corner.measured.thickness, corner.measured
    if enough_rounds(measured):  # and no finer one was taken: there is none here
        return None
    if {"micrometer_too_coarse", "lips_not_measured"} & set(thickness.flags) or (
        measured.corner.thickness is not None and measured.corner.thickness.over_lips is not None
    ):
        return "finer_micrometer"
    return "repeat_round"


def _ways(
    corner: CornerVerdict, faulty: float, shop: Shop, kind: str | None
) -> list[tuple[str, "_Reading", Separating | None]]:
    """Return the checks that could settle a figure here, with what each would read of the draws."""
    measured = corner.measured
    runout, thickness = measured.runout, measured.thickness
    ways: list[tuple[str, _Reading, Separating | None]] = []
    if runout.tir is None or thickness.result is None:
        return ways  # what is wanting comes first
    suspect = faulty >= _SUSPECT or measured.anything_over
    variation = thickness.result.variation if thickness.result is not None else None
    limit = measured.corner.spec.max_thickness_variation_mm
    if suspect and variation is not None and _doubtful(variation, limit, thickness.state_variation):
        code = _finer_or_again(corner)
        if code is not None:
            noise = _FINE_MM if code == "finer_micrometer" else variation.expanded_mm / 2
            ways.append((code, _Reading("variation", noise, _doubt(thickness.state_variation)), None))
    if suspect and runout.state is State.TOO_CLOSE and not enough_turns(measured):
        finer = "dial_too_coarse" in runout.flags
        noise = _FINE_DIAL_MM if finer else runout.tir.expanded_mm / 2
        ways.append(("finer_dial" if finer else "repeat_sweep", _Reading("runout", noise, 0.5), None))
    clean = not {"joint_not_cleaned", "nuts_not_torqued", "turns_disagree"} & set(runout.flags)
    unknown = runout.state in (State.OVER, State.TOO_CLOSE) and clean and not measured.whose.told_apart
    # An uneven disc that will be cut true to its own hub is cut whosever the runout is.
    if unknown and not (thickness.state_variation is State.OVER and _may_be_matched(corner, shop, kind)):
        # One way is offered, the quickest that decides: the others would say the same in more minutes.
        ways += [
            (way.check, _Reading("whose", max(way.expanded_mm / 4, 0.0005)), way)
            for way in separating_checks(measured)[:1]
        ]
    return ways


def _may_be_matched(corner: CornerVerdict, shop: Shop, kind: str | None) -> bool:
    """Whether this disc may be cut on the vehicle: there is a lathe for it, and metal enough."""
    draws = draw_corner(corner.measured)
    question = Question("on_vehicle_cut", corner.measured, draws, shop, None, kind)
    if refused_at_once(question):
        return False
    outcome = foretold(question.remedy, draws, shop)
    return outcome is not None and not forbidden_by(replace(question, outcome=outcome), foretold=True)


def _doubt(state: State) -> float:
    """Return how likely the figure is over its limit where that is too close to call: as likely as not."""
    return 0.5 if state is State.TOO_CLOSE else 0.0


def _doubtful(figure: Estimate, limit_mm: float, state: State) -> bool:
    """Whether a limit, or what is felt, may still lie on either side of a figure that could be known better."""
    near = abs(figure.value_mm - limit_mm) < 1.5 * figure.expanded_mm
    return state is State.TOO_CLOSE or (near and figure.expanded_mm > _COARSE * limit_mm)


class _Reading:
    """What a check would read of the draws: a quantity with its noise (sd, mm), and how doubtful its state is now."""

    def __init__(self, of: str, noise_mm: float, doubt: float = 0.0) -> None:
        self.of, self.noise_mm, self.doubt = of, noise_mm, doubt

    def __call__(self, draws: CornerDraws) -> FloatArray:
        noise = self.noise_mm * normal_draws(1, stream=110)[:, 0]
        if self.of == "variation":
            variation: FloatArray = draws.variation_mm[:DRAWS] + noise
            return variation
        if self.of == "runout":
            runout: FloatArray = 2 * np.abs(draws.parts.hub + draws.parts.rotor)[:DRAWS] + noise
            return runout
        least: FloatArray = _best_turned(draws) + noise
        return least


@lru_cache(maxsize=16)
def _best_turned(draws: CornerDraws) -> FloatArray:
    """Return the TIR of first orders at the best index of each draw (DRAWS,): chosen once hub and rotor are known."""
    turn = np.exp(1j * np.radians(draws.spec.positions_deg))[:, None]
    hub, rotor = (draws.parts.hub + draws.parts.seating)[:DRAWS], draws.parts.rotor[:DRAWS]
    least: FloatArray = 2 * np.abs(hub + rotor * turn).min(axis=0)
    return least


class _Costs:
    """What every remedy would cost at one corner, draw by draw (remedies, DRAWS), and which may be done now."""

    def __init__(self, corner: CornerVerdict, shop: Shop, kind: str | None) -> None:
        self.draws = draw_corner(corner.measured)
        rows, now = [], []
        for code in REMEDIES:
            question = Question(code, corner.measured, self.draws, shop, None, kind)
            refused = set(refused_at_once(question))
            if refused - WANTS_MEASURING - {"over_limit", "plate_not_parallel"}:
                continue
            outcome = foretold(code, self.draws, shop)
            if outcome is None:
                continue
            if set(forbidden_by(replace(question, outcome=outcome), foretold=True)) - {"already_best"}:
                continue
            sides = 1 if is_single(corner.position) or kind_of_metal(code) is None else 2
            km = distance_km(outcome.runout_mm[:DRAWS], outcome.variation_mm[:DRAWS], shop=shop)
            rows.append(shop.bill(code) * sides + (km < shop.warranty_km) * shop.comeback_at_stake)
            now.append(not refused)
        # An index is chosen once hub and rotor are told apart: the best of each draw.
        left = np.hypot(_best_turned(self.draws), shape_range_mm(self.draws))
        km = distance_km(left, self.draws.variation_mm[:DRAWS], shop=shop)
        turned = shop.bill("index") + (km < shop.warranty_km) * shop.comeback_at_stake
        indexed = len(self.draws.spec.positions_deg) > 1 and corner.measured.thickness.state_variation is not State.OVER
        self.costs = np.array(rows) if rows else np.zeros((0, DRAWS))
        self.now = np.array(now, dtype=bool)
        self.told_apart = np.vstack([self.costs, turned]) if indexed and rows else self.costs

    def saved_by(self, read: FloatArray, *, whose: bool = False) -> float:
        """Return what knowing ``read`` (DRAWS,) would save, beside what the same readings at random would."""
        if not self.costs.size:
            return 0.0
        costs = self.told_apart if whose else self.costs
        mean = self.costs.mean(axis=1)
        stands = float(mean[self.now].min()) if self.now.any() else float(mean.max())
        by_chance = _after(costs, np.roll(read, DRAWS // 3)) - float(costs.mean(axis=1).min())
        return stands - _after(costs, read) + min(by_chance, 0.0)


def _after(costs: FloatArray, read: FloatArray) -> float:
    """Return what the best remedy costs on average once ``read`` is known: (remedies, DRAWS) averaged over its bins."""
    order = np.argsort(read)
    bins = costs[:, order].reshape(len(costs), _BINS, -1).mean(axis=2)
    return float(bins.min(axis=0).mean())
