"""From one case's evidence to its verdict: the front door of the core.

A corner is diagnosed from its own evidence; remedies are predicted and chosen axle by axle, since both sides go
together; the weighed causes are the vehicle's.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from compass.cause.checks import REPAIRS
from compass.cause.corner import diagnose_corner, gather
from compass.cause.differential import Differential, weigh
from compass.cause.measured import Findings, Reason
from compass.cause.verdict import CornerVerdict
from compass.choose.axle import AxlePlan, kind_of_metal
from compass.choose.vehicle import choose
from compass.evidence.records import Case
from compass.files.read_case import shop_from_data
from compass.ground.limits import State
from compass.ground.positions import positions_of

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
    positions = positions_of([c.position for c in case.corners], case.vehicle.get("kind"))
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


__all__ = ["CornerVerdict", "Findings", "Reason", "Verdict", "diagnose", "diagnose_corner", "gather"]
