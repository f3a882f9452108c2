"""What sits beside the discs and is to be put right: no remedy of a corner does it, and it comes before any of them.

A caliper that sticks, a drum out of round, play in a joint, a tyre, the anti-lock system. What was seen of them is a
defect, as are pads that wore unevenly, whatever it does to the pedal; the rest is put right where it is likelier than
not.
"""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Final

from compass.cause.causes import BESIDE, FOUND_BESIDE, LIKELY, OF_THE_VEHICLE, Cause
from compass.cause.differential import Differential
from compass.cause.measured import Measured
from compass.cause.verdict import CornerVerdict
from compass.evidence.complaint import Complaint

_NO_DEFECT: Final = frozenset({"abs_active"})  # the anti-lock system at work may be in order


@dataclass(frozen=True, slots=True)
class BesideDisc:
    """A cause to be put right beside the discs: where (None: the vehicle's), its odds, the corners it was found at."""

    cause: Cause
    position: str | None
    odds: float
    found_at: tuple[str, ...] = ()


def to_put_right(
    verdicts: Iterable[CornerVerdict], weighed: Differential, complaint: Complaint, *, leads: bool
) -> tuple[BesideDisc, ...]:
    """Return what is to be put right beside the discs, the likeliest first; what was, is no longer listed.

    ``leads``: nothing else is left to be done, so that what is likelier than all else is seen to though it has less
    than half of the odds. Where nothing is felt any more, what was only likely is let be.
    """
    found = _found(verdicts)
    odds_of = {(cause, at): odds for cause, at, odds in weighed.hypotheses if cause in BESIDE}
    done = {(Cause(mended.cause), mended.position) for mended in complaint.mended_beside}
    gone = complaint.after_work == "gone"
    likeliest = weighed.causes[0][0]
    ahead = max((place for place in odds_of if place[0] is likeliest), key=lambda place: odds_of[place], default=None)
    listed = []
    for place in odds_of | dict.fromkeys(found, 0.0):
        cause, position = place
        odds = odds_of.get(place, 0.0)
        likely = odds > LIKELY and not (gone and cause in OF_THE_VEHICLE)
        if place not in done and (place in found or likely or (leads and not gone and place == ahead)):
            listed.append(BesideDisc(cause, position, odds, tuple(found.get(place, ()))))
    return tuple(sorted(listed, key=lambda beside: -beside.odds))


def _found(verdicts: Iterable[CornerVerdict]) -> dict[tuple[Cause, str | None], Sequence[str]]:
    """Return the corners at which each defect beside the discs was seen, by cause and place."""
    found: dict[tuple[Cause, str | None], list[str]] = defaultdict(list)
    for verdict in verdicts:
        for cause in defects(verdict.measured):
            found[cause, None if cause in OF_THE_VEHICLE else verdict.position].append(verdict.position)
    return dict(found)


def defects(measured: Measured) -> list[Cause]:
    """Return the causes beside the discs of which something out of order was seen or measured at a corner.

    A drum over its limit is no such thing: it is in the rotor's hat, and renewed with it.
    """
    seen = measured.noted - _NO_DEFECT
    uneven = [Cause.CALIPER] if measured.pads_uneven_mm is not None else []
    return list(dict.fromkeys([*uneven, *(cause for name, cause in FOUND_BESIDE.items() if name in seen)]))
