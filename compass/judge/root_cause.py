"""A corner's root cause from the weighed causes, and whether something is to be put right there."""

from typing import Final

from compass.cause.causes import BESIDE, CURED_BY_MEASURING, LIKELY, OF_THE_VEHICLE, Cause
from compass.cause.differential import Differential
from compass.cause.measured import Measured
from compass.cause.verdict import CornerVerdict
from compass.ground.limits import State

# What is seen or measured outright: at its corner no weighing speaks against it.
CERTAIN: Final = frozenset({Cause.BROKEN, Cause.WORN, Cause.BEARING})
_SUSPECTED: Final = 0.1  # odds of a fault at a corner: under them, and with nothing over, there is no trouble to see to


def root_cause(corner: CornerVerdict, weighed: Differential) -> str:
    """Return the corner's root cause: the cause with most of the odds there, ``not_separable`` where none has.

    Dirt and nuts are put right in one go: where they have most of the odds together, the likelier is named.
    Where something is over its limit there is a cause, and the odds are shared among causes; else "nothing wrong"
    has its own. What was seen here but sits elsewhere (a tyre, a joint) is named where it is likelier than all.
    """
    if corner.root_cause in CERTAIN:
        return corner.root_cause
    own = weighed.at_corner(corner.position)
    likeliest, odds = own[0] if own else (Cause.NONE, 0.0)
    elsewhere = corner.root_cause in OF_THE_VEHICLE and corner.root_cause != Cause.NONE
    if elsewhere and dict(weighed.causes).get(Cause(corner.root_cause), 0.0) >= odds:
        return corner.root_cause
    measured = corner.measured
    is_over = State.OVER in (measured.runout.state, measured.thickness.state_variation)
    if likeliest in CURED_BY_MEASURING:
        odds = sum(odds for cause, odds in own if cause in CURED_BY_MEASURING)
    if odds > LIKELY * (weighed.corners[corner.position] if is_over else 1.0):
        return likeliest.value
    return corner.root_cause if corner.root_cause == Cause.NONE else "not_separable"


def also_there(position: str, named: str, weighed: Differential) -> tuple[str, ...]:
    """Return the causes that stand at a corner beside the one that is named: likelier there than not."""
    return tuple(cause.value for cause, odds in weighed.at_corner(position) if odds > LIKELY and cause.value != named)


def is_troubled(corner: CornerVerdict, named: str, weighed: Differential) -> bool:
    """Whether something is to be put right here: not where no more is known than that hardly anything can be wrong.

    A corner swept within, and not miked since nothing suspects it, is such a one. What sits beside the disc is put
    right there.
    """
    if corner.do_not_drive:
        return True
    if not corner.measured.anything or named == Cause.NONE:
        return False
    likeliest = weighed.at_corner(corner.position)[0][0] if named == "not_separable" else named
    if likeliest in BESIDE and not _rotor_over(corner.measured):
        return False
    suspected = corner.measured.anything_over or weighed.corners[corner.position] >= _SUSPECTED
    return named != "not_separable" or suspected


def _rotor_over(measured: Measured) -> bool:
    """Whether a rotor's runout or variation is over its limit or too close to call, or the drum in its hat over."""
    states = {measured.runout.state, measured.thickness.state_variation}
    return bool({State.OVER, State.TOO_CLOSE} & states) or measured.drum_over_mm is not None
