"""A verdict as data: the one place that knows the verdict file's keys."""

from collections.abc import Sequence
from typing import Any, Final

from compass import __version__
from compass.cause.differential import NextCheck
from compass.choose.axle import Chosen
from compass.choose.remedies.outcome import Remedy
from compass.diagnose import Verdict
from compass.ground.uncertainty import Estimate
from compass.measure.separation import Part
from compass.words.reasons import sentence


def remedy_to_data(remedy: Remedy) -> dict[str, Any]:
    """Return a remedy as plain data of the verdict's format."""
    comeback = remedy.comeback
    return {
        "remedy": remedy.code,
        "feasible": remedy.feasible,
        "blocked_by": list(remedy.blocked_by),
        "settings": {name: round(value, 4) + 0.0 for name, value in remedy.settings.items()},
        "runout_after_mm": _rounded(remedy.runout_mm),
        "odds_within": None if remedy.odds_within is None else round(remedy.odds_within, 4),
        "thickness_after_mm": _rounded(remedy.thickness_mm),
        "odds_metal": None if remedy.odds_metal is None else round(remedy.odds_metal, 4),
        "comeback_km": None if comeback is None else round(comeback.middle_km),
        "comeback_odds": None if comeback is None else round(comeback.odds, 4),
        "remaining_km": None if remedy.remaining_km is None else [round(km) for km in remedy.remaining_km],
        "price": round(remedy.price, 2),
        "minutes": round(remedy.minutes, 1),
        "cost": round(remedy.cost, 2),
        "sides": remedy.sides,
    }


def _rounded(three: tuple[float, float, float] | None) -> list[float] | None:
    return None if three is None else [round(value, 5) + 0.0 for value in three]


VERDICT_FORMAT: Final = "iron-compass-verdict/1"


def verdict_to_data(verdict: Verdict) -> dict[str, Any]:
    """Return the verdict as plain data of format iron-compass-verdict/1."""
    return {
        "format": VERDICT_FORMAT,
        "id": verdict.case_id,
        "core_version": __version__,
        "corners": [
            chosen_to_data(
                chosen,
                root_cause=verdict.judged.root_causes[chosen.position],
                check=verdict.judged.check_at(chosen.position),
                also=verdict.judged.also.get(chosen.position, ()),
                do_not_drive=chosen.position in verdict.stopped,
            )
            for chosen in verdict.corners
        ],
        "vehicle": {
            "causes": [
                {"cause": cause.value, "probability": _number(probability)}
                for cause, probability in verdict.judged.weighed.causes
            ],
            "next_check": verdict.judged.next.check,
            "next_position": verdict.judged.next.position,
            "beside_discs": [
                {
                    "cause": beside.cause.value,
                    "position": beside.position,
                    "probability": _number(beside.odds),
                    "found_at": list(beside.found_at),
                }
                for beside in verdict.judged.beside_discs
            ],
            "recommended": None if verdict.advice is None else sentence(verdict.advice),
        },
    }


def chosen_to_data(
    chosen: Chosen,
    *,
    root_cause: str,
    do_not_drive: bool,
    check: NextCheck | None = None,
    also: Sequence[str] = (),
) -> dict[str, Any]:
    """Return one corner of a verdict as plain data; its root causes and its next check are the vehicle's judgement."""
    corner, measured = chosen.corner, chosen.measured
    runout, thickness, whose = measured.runout, measured.thickness, measured.whose
    result = runout.sweep
    return {
        "position": corner.position,
        "runout": {
            "tir_mm": _value(runout.tir),
            "u_mm": _expanded(runout.tir),
            "state": runout.state.value,
            "wobble_mm": _number(result.wobble_mm if result else _value(runout.tir)),
            "high_deg": _number(runout.high_deg, 3),
            "saddle_mm": _number(result.saddle_mm if result else None),
            # The format has one list of flags a corner; the micrometer's stands with the dial's.
            "flags": [*runout.flags, *(flag for flag in thickness.flags if flag not in runout.flags)],
        },
        "hub": _part(whose.hub, state=measured.hub_state.value),
        "rotor": _part(whose.rotor),
        "joint": _part(whose.joint, of=whose.joint_of),
        "thickness": {
            "min_mm": _value(thickness.result.minimum if thickness.result else None),
            "u_mm": _expanded(thickness.result.minimum if thickness.result else None),
            "state_discard": thickness.state_discard.value,
            "variation_mm": _value(thickness.result.variation if thickness.result else None),
            "variation_u_mm": _expanded(thickness.result.variation if thickness.result else None),
            "state_variation": thickness.state_variation.value,
            "taper_mm": _number(thickness.result.taper_mm if thickness.result else None),
            "made_by": None if thickness.made_by is None else thickness.made_by.value,
        },
        "remedies": [remedy_to_data(remedy) for remedy in chosen.remedies],
        "root_cause": root_cause,
        "also": list(also),
        "recommended": chosen.recommended,
        "because": [sentence(reason) for reason in chosen.because],
        "next_check": check.check if check is not None else None,
        "next_index_deg": _number(check.index_deg, 3) if check is not None else None,
        "next_check_minutes": check.minutes if check is not None else None,
        "next_check_saves": _number(check.saves, 2) if check is not None else None,
        "do_not_drive": do_not_drive,
        "provisional": list(corner.provisional),
    }


def _part(part: Part | None, **also: str) -> dict[str, Any] | None:
    if part is None:
        return None
    return {
        "tir_mm": _number(part.tir_mm),
        "u_mm": _number(part.expanded_mm),
        "high_deg": _number(part.high_deg, 3),
        "share": _number(part.share),
        **also,
    }


def _number(value: float | None, digits: int = 6) -> float | None:
    return None if value is None else round(value, digits) + 0.0


def _value(estimate: Estimate | None) -> float | None:
    return None if estimate is None else _number(estimate.value_mm)


def _expanded(estimate: Estimate | None) -> float | None:
    return None if estimate is None else _number(estimate.expanded_mm)
