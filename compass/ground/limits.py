"""Verdicts: a value with its U against a limit, in three states. Knows nothing of how either was found."""

from enum import StrEnum

from compass.ground.uncertainty import Estimate


class State(StrEnum):
    """Where a value stands against an upper limit (within, over) or a lower one (above, below)."""

    WITHIN = "within"
    OVER = "over"
    ABOVE = "above"
    BELOW = "below"
    TOO_CLOSE = "too_close"
    UNKNOWN = "unknown"


def against_upper(estimate: Estimate | None, limit_mm: float) -> State:
    """Call an upper limit: within where value + U ≤ limit, over where value − U > limit (measurement.md#verdicts)."""
    if estimate is None:
        return State.UNKNOWN
    if estimate.value_mm + estimate.expanded_mm <= limit_mm:
        return State.WITHIN
    return State.OVER if estimate.value_mm - estimate.expanded_mm > limit_mm else State.TOO_CLOSE


def against_lower(estimate: Estimate | None, limit_mm: float) -> State:
    """Call a lower limit: above where value − U ≥ limit, below where value + U < limit."""
    if estimate is None:
        return State.UNKNOWN
    if estimate.value_mm - estimate.expanded_mm >= limit_mm:
        return State.ABOVE
    return State.BELOW if estimate.value_mm + estimate.expanded_mm < limit_mm else State.TOO_CLOSE
