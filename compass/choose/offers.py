"""All remedies of one corner: predicted, held against the rules, and told."""

from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache
from typing import Final

from compass.cause.measured import Measured
from compass.choose.remedies import cutting, leaving, plating, replacing, turning
from compass.choose.remedies.corner_draws import CornerDraws, draw_corner
from compass.choose.remedies.outcome import Outcome, Remedy, summary
from compass.choose.rules import Question, forbidden_by
from compass.evidence.shop import Shop

REMEDIES: Final = (
    "none",
    "clean_and_torque",
    "index",
    "plate",
    "bench_cut",
    "on_vehicle_cut",
    "new_rotors",
    "hub_unit",
    "bench_cut+plate",
    "new_rotors+plate",
    "new_rotors+index",
    "new_rotors+on_vehicle_cut",
)
_Predicts = Callable[[CornerDraws, Shop], Outcome | None]


def _on_lathe(kind: str, cut: Callable[..., Outcome | None], *, plate: bool = False) -> _Predicts:
    def predicts(draws: CornerDraws, shop: Shop) -> Outcome | None:
        lathe = shop.lathe(kind)
        if lathe is None:
            return None
        return cut(draws, lathe, shop) if plate else cut(draws, lathe)

    return predicts


PREDICTIONS: Final[dict[str, _Predicts]] = {
    "none": lambda draws, _: leaving.nothing(draws),
    "clean_and_torque": lambda draws, _: leaving.clean_and_torque(draws),
    "index": lambda draws, _: turning.index(draws),
    "plate": plating.plate,
    "bench_cut": _on_lathe("bench", cutting.bench),
    "on_vehicle_cut": _on_lathe("on_vehicle", cutting.on_vehicle),
    "new_rotors": lambda draws, _: replacing.new_rotors(draws),
    "hub_unit": lambda draws, _: replacing.hub_unit(draws),
    "bench_cut+plate": _on_lathe("bench", cutting.bench, plate=True),
    "new_rotors+plate": replacing.new_plated,
    "new_rotors+index": lambda draws, _: replacing.new_indexed(draws),
    "new_rotors+on_vehicle_cut": _on_lathe("on_vehicle", replacing.new_matched),
}


@lru_cache(maxsize=48)
def refused_at_once(question: Question) -> tuple[str, ...]:
    """Return the rules that forbid a remedy whatever it would leave; asked for by choice and worth alike."""
    return forbidden_by(question, foretold=False)


@lru_cache(maxsize=48)
def foretold(code: str, draws: CornerDraws, shop: Shop) -> Outcome | None:
    """Return what a remedy would leave of these draws; what a check is worth and the choice itself both ask for it."""
    return PREDICTIONS[code](draws, shop)


def predict(
    measured: Measured, shop: Shop, *, kind: str | None = None, renewed_anyway: bool = False
) -> tuple[Remedy, ...]:
    """Return every remedy of a corner, feasible or not, in no order; nothing where nothing was measured.

    What a rule refuses whatever it would leave is not predicted; the corner as it stands always is.
    """
    if (
        measured.runout.tir is None
        and measured.thickness.result is None
        and not measured.broken
        and not measured.bearing_over
    ):
        return ()
    draws = draw_corner(measured)
    questions = (Question(code, measured, draws, shop, None, kind, renewed_anyway) for code in REMEDIES)
    return tuple(_remedy(question, shop) for question in questions)


def _remedy(question: Question, shop: Shop) -> Remedy:
    code, draws = question.remedy, question.draws
    refused = refused_at_once(question)
    outcome = foretold(code, draws, shop) if not refused or code == "none" else None
    if refused and outcome is None:
        return _untold(code, shop, refused)
    answered = replace(question, outcome=outcome)
    if not refused:
        refused = forbidden_by(answered, foretold=True)
    if outcome is None:
        return _untold(code, shop, refused)
    return summary(code, outcome, draws=draws, shop=shop, blocked_by=refused, odds_metal=answered.odds_metal)


def _untold(code: str, shop: Shop, blocked_by: tuple[str, ...]) -> Remedy:
    price = shop.bill(code)
    return Remedy(
        code=code,
        feasible=False,
        blocked_by=blocked_by,
        settings={},
        runout_mm=None,
        odds_within=None,
        thickness_mm=None,
        odds_metal=None,
        comeback=None,
        remaining_km=None,
        price=price,
        minutes=shop.minutes_of(code),
        cost=price,
        per_1000_km=None,
    )
