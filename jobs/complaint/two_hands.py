"""One story told by two hands: what either changed is kept; where both changed the same, theirs stands and is said."""

import math
from collections.abc import Mapping
from typing import Any, Final

from compass.ground.units import KM_PER_MILE

# What driving showed and what was put right: no answers of the interview.
OF_THE_ROAD: Final = ("road_test", "after_work", "mended_beside")
_MOST: Final = 1e9  # what is larger is no speed and no distance, and may be no float
_TICKED: Final = ("felt_in", "when", "braking", "history")
_TYPED: Final = ("speed_kmh", "km_since_work")  # read in miles by some: a number sent back is the same but for rounding


def interview_of(story: Mapping[str, Any]) -> dict[str, Any]:
    """Return what was told in a complaint, without what was driven."""
    return {name: value for name, value in story.items() if name not in OF_THE_ROAD}


def merge_stories(
    was: Mapping[str, Any], mine: Mapping[str, Any], theirs: Mapping[str, Any]
) -> tuple[dict[str, Any], list[str]]:
    """Return ``theirs`` with all that ``mine`` changed since ``was``, and the names of what both changed, and unlike.

    All three are complaints in the words of a case file. Of a list of choices each tick is a change of its own.
    """
    merged, unlike = dict(theirs), []
    for name in dict.fromkeys((*was, *mine, *theirs)):
        before, own, other = was.get(name), mine.get(name), theirs.get(name)
        if _same(name, own, before) or _same(name, own, other):
            continue
        if name in _TICKED and isinstance(before, list | None):
            kept = [v for v in other or () if v in (own or ()) or v not in (before or ())]
            own = kept + [v for v in own or () if v not in (before or ()) and v not in kept]
        elif not _same(name, other, before):
            unlike.append(name)
            continue
        if own:
            merged[name] = own
        else:
            merged.pop(name, None)
    return merged, unlike


def _same(name: str, one: Any, other: Any) -> bool:
    if name in _TYPED and (numbers := _numbers(one)) and (others := _numbers(other)) and len(numbers) == len(others):
        return all(math.isclose(a, b, abs_tol=KM_PER_MILE / 2) for a, b in zip(numbers, others, strict=True))
    return bool((one or None) == (other or None))


def _numbers(value: Any) -> list[float]:
    """Return one number or several as a list; what a page sent that is none is empty."""
    several = value if isinstance(value, list) else [value]
    return several if all(isinstance(v, int | float) and abs(v) < _MOST for v in several) else []
