"""A reading taken at a step of the work, held against what was expected: whether it passes, and what it may mean."""

from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from compass.do.steps import RENEWED
from compass.do.work import PlacedStep

_SAME_MM: Final = 0.0005  # what no dial of a workshop shows


class Outcome(StrEnum):
    """What a reading is beside its range: nothing to hold it against, inside, under, over; or past a limit."""

    UNHELD = "unheld"
    EXPECTED = "expected"
    BELOW = "below"
    ABOVE = "above"
    OVER_LIMIT = "over_limit"
    UNDER_STOP = "under_stop"


@dataclass(frozen=True, slots=True)
class Held:
    """A reading's outcome, and whether the step is passed by it."""

    outcome: Outcome
    passes: bool


def hold_reading(placed: PlacedStep, reading_mm: float, *, limit_mm: float | None = None) -> Held:
    """Hold a reading against its step's range. ``limit_mm`` is the corner's own for a runout after the work.

    A runout below what was foretold passes, one above it while it is within the limit. Before metal is cut it must be
    what it was: less means that the joint was it. A micrometer after a pass is a fact and always passes.
    """
    expected = placed.figures.get(placed.step.expects)
    if placed.step.expects in RENEWED and isinstance(expected, float):  # their least: the more the better
        thick = reading_mm >= expected - _SAME_MM
        return Held(Outcome.EXPECTED if thick else Outcome.BELOW, thick)
    if isinstance(expected, float):
        expected = (0.0, expected)
    if not isinstance(expected, tuple):
        return Held(Outcome.UNHELD, True)
    low, high = expected[0] - _SAME_MM, expected[1] + _SAME_MM
    outcome = Outcome.BELOW if reading_mm < low else Outcome.ABOVE if reading_mm > high else Outcome.EXPECTED
    match placed.step.expects:
        case "after_pass":
            stop = placed.figures.get("stop")
            under = isinstance(stop, float) and reading_mm < stop - _SAME_MM
            return Held(Outcome.UNDER_STOP if under else outcome, True)
        case "runout_before":
            return Held(outcome, outcome is Outcome.EXPECTED)
        case "runout_after":
            if limit_mm is not None and reading_mm > limit_mm + _SAME_MM:
                return Held(Outcome.OVER_LIMIT, False)
            return Held(outcome, outcome is not Outcome.ABOVE or limit_mm is not None)
        case _:  # an upper limit: the less the better
            return Held(Outcome.OVER_LIMIT if outcome is Outcome.ABOVE else Outcome.EXPECTED, outcome != Outcome.ABOVE)
