"""The one thing to do next: rules in their order, of which the first that has an answer gives it.

The check that is worth most leads while one is worth its minutes. The rules before it are what no sum of money says: a
bearing that nobody rocked does not leave with the vehicle, and what was put right is driven before it is believed.
"""

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from typing import Final

from compass.cause.beside_discs import BesideDisc
from compass.cause.causes import CURED_BY_MEASURING, LIKELY, Cause
from compass.cause.differential import Differential, NextCheck
from compass.cause.measured import Measured
from compass.cause.signs import put_right
from compass.cause.verdict import CornerVerdict
from compass.evidence.complaint import Complaint

_LOOK: Final = "inspect_pads_and_slides"


@dataclass(frozen=True, slots=True)
class NextStep:
    """The one thing to do next: a check, at which corner (None: the vehicle's), how far to turn the rotor, and why.

    ``why`` is a code of ``compass.words.codes.WHY``. No check is left to make where ``check`` is None.
    """

    check: str | None
    position: str | None
    why: str
    index_deg: float | None = None

    @property
    def is_drive(self) -> bool:
        """Whether what was put right is to be driven, to see whether it is still felt."""
        return self.why in ("put_right", "mended_beside")


@dataclass(frozen=True, slots=True)
class Standing:
    """How a vehicle stands that is to be judged: its corners, the most suspect first, and what was made of them.

    ``mended`` are corners whose fault was put right, not among ``corners``; ``checks`` stand best first; ``beside``
    is what is to be put right beside the discs.
    """

    complaint: Complaint
    corners: Sequence[CornerVerdict]
    mended: Sequence[CornerVerdict]
    weighed: Differential
    checks: Sequence[NextCheck]
    troubled: Collection[str]
    beside: Sequence[BesideDisc]

    @property
    def worth_most(self) -> NextCheck | None:
        """The check that is worth most; None where none is worth its minutes."""
        return best_of(self.checks)

    @property
    def is_idle(self) -> bool:
        """Whether nothing is left to do with a wheel off: no work, and at most a drive to record."""
        best = self.worth_most
        return not self.troubled and (best is None or best.check == "road_test")

    @property
    def awaits_drive(self) -> bool:
        """Whether something beside the discs was put right that was not driven since."""
        return any(not mended.driven for mended in self.complaint.mended_beside)


def best_of(checks: Sequence[NextCheck]) -> NextCheck | None:
    """Return the first of checks that stand best first, where it is worth its minutes."""
    return checks[0] if checks and checks[0].worth > 0 else None


def next_step(standing: Standing) -> NextStep:
    """Return the one thing to do next."""
    return next(step for rule in _RULES if (step := rule(standing)) is not None)


def _rock_before_it_leaves(standing: Standing) -> NextStep | None:
    """Rock every wheel that is off where what is felt has no likely cause: a loose bearing is unsafe, felt or not."""
    complaint, (likeliest, odds) = standing.complaint, standing.weighed.causes[0]
    unlikely = likeliest is Cause.NONE or odds <= LIKELY
    unexplained = complaint.still_felt or (unlikely and complaint.after_work is None)
    corners = (*standing.corners, *standing.mended)
    loose = [corner.position for corner in corners if _may_be_loose(corner.measured)]
    if standing.is_idle and unexplained and loose:
        return NextStep("bearing_play", loose[0], "before_it_leaves")
    return None


def _renew_linings(standing: Standing) -> NextStep | None:
    """Renew pads or shoes that are under their least thickness: it neither leaves with them nor is it driven before.

    Where a disc is worked on, that is done with it, and its proof asks for it.
    """
    corners = (*standing.corners, *standing.mended)
    worn = [corner.position for corner in corners if corner.measured.worn_linings]
    return NextStep(None, worn[0], "linings") if worn and standing.is_idle else None


def _may_be_loose(measured: Measured) -> bool:
    """Whether a wheel is off whose bearing nobody rocked, though there is a limit to hold its play against."""
    rocked = measured.corner.bearing_play_mm is not None or measured.corner.spec.max_bearing_play_mm is None
    return measured.anything and not rocked


def _make_the_check_worth_most(standing: Standing) -> NextStep | None:
    best = standing.worth_most
    if best is None or (standing.is_idle and _was_seen_to(standing)):
        return None  # what is felt after a drive tells more than what a recording of it shows
    opened = {corner.position for corner in (*standing.corners, *standing.mended) if corner.measured.anything}
    why = "worth_most" if best.position is None else best.check if best.position in opened else "unopened"
    return NextStep(best.check, best.position, why, best.index_deg)


def _look_before_a_guess(standing: Standing) -> NextStep | None:
    """Look at the pads of a wheel that is off: an hour's work on a guess waits for what three minutes show."""
    unseen = [c.position for c in standing.corners if c.measured.anything and c.measured.corner.pads is None]
    if standing.beside and unseen and not standing.beside[0].found_at and standing.beside[0].odds <= LIKELY:
        return NextStep(_LOOK, unseen[0], "before_a_guess")
    return None


def _put_right_beside(standing: Standing) -> NextStep | None:
    return NextStep(None, standing.beside[0].position, "beside") if standing.beside else None


def _drive_what_was_put_right(standing: Standing) -> NextStep | None:
    """Drive what was seen to; where that was done and nothing is felt, nothing is left."""
    if not (standing.is_idle and _was_seen_to(standing)):
        return None
    if standing.awaits_drive:
        return NextStep(None, None, "mended_beside")
    return NextStep(None, None, "put_right" if standing.complaint.after_work is None else "nothing_left")


def _was_seen_to(standing: Standing) -> bool:
    """Whether what was put right awaits its drive, or dirt or nuts that were are likelier than all else."""
    if standing.awaits_drive or standing.complaint.still_felt:
        return standing.awaits_drive
    gone = {(cause, corner.position) for corner in standing.corners for cause in put_right(corner)}
    odds = sum(odds for cause, position, odds in standing.weighed.hypotheses if (cause, position) in gone)
    return odds > max(odds for cause, odds in standing.weighed.causes if cause not in CURED_BY_MEASURING)


def _open_where_most_odds_are(standing: Standing) -> NextStep | None:
    """Open the next wheel while most of the odds are at wheels nobody opened: nothing was looked at that could be left.

    On a vehicle with many of them no single wheel is worth its minutes, and all of them together are.
    """
    if standing.troubled or standing.complaint.after_work is not None:
        return None
    opened = {c.position for c in (*standing.corners, *standing.mended) if c.measured.anything}
    odds = sum(o for _c, at, o in standing.weighed.hypotheses if at is not None and at not in opened)
    best = next((check for check in standing.checks if check.position not in (None, *opened)), None)
    if best is None or odds <= LIKELY:
        return None
    return NextStep(best.check, best.position, "unopened", best.index_deg)


def _nothing_is_left(standing: Standing) -> NextStep:
    return NextStep(None, None, "not_looked_at" if standing.weighed.holes else "nothing_left")


_RULES: Final[Sequence[Callable[[Standing], NextStep | None]]] = (
    _rock_before_it_leaves,
    _renew_linings,
    _make_the_check_worth_most,
    _look_before_a_guess,
    _put_right_beside,
    _drive_what_was_put_right,
    _open_where_most_odds_are,
    _nothing_is_left,
)
