"""The ladder of a work under way: which step comes next, what is opened again, what carries over to another choice."""

from collections.abc import Collection, Iterator, Sequence
from itertools import takewhile
from typing import Final

from compass.do.procedures import CLOSING_ONE_WHEEL
from compass.do.steps import Kind
from compass.do.work import Part, PlacedStep

Rung = tuple[str, str]  # position and key of a step
_SHUTS: Final = ("closing:", "caliper on:")
_SHUTTING: Final = ("shoes", "closing", *CLOSING_ONE_WHEEL, "leaving")


def rung(placed: PlacedStep) -> Rung:
    """Return what names a step in the whole work."""
    return placed.position, placed.key


def steps_of(parts: Sequence[Part], order: Sequence[str] = ()) -> Iterator[PlacedStep]:
    """Yield all steps, part by part as they come in their turn."""
    for part in in_turn(parts, order):
        yield from part.steps


def in_turn(parts: Sequence[Part], order: Sequence[str]) -> list[Part]:
    """Return the parts as ``order`` names them by their keys.

    One that it does not name (all was done there when it was planned) comes before the next that it does name of the
    same place or of the whole vehicle: what turns up at a corner that is shut is done before the vehicle is left.
    """
    place = {key: k for k, key in enumerate(order)}

    def turn(k: int) -> float:
        part = parts[k]
        if part.key in place:
            return place[part.key]
        named = (place[p.key] for p in parts[k:] if p.key in place and p.position in ("", part.position))
        return min(named, default=len(place)) - 0.5

    return [parts[k] for k in sorted(range(len(parts)), key=turn)]


def next_step(parts: Sequence[Part], done: Collection[Rung], order: Sequence[str] = ()) -> PlacedStep | None:
    """Return the first step that is not done; None where all are."""
    return next((placed for placed in steps_of(parts, order) if rung(placed) not in done), None)


def plain_ahead(parts: Sequence[Part], done: Collection[Rung], at: PlacedStep) -> tuple[PlacedStep, ...]:
    """Return ``at`` and the steps after it in its part that only want to be done, up to one that asks for anything.

    What asks: a hold, a reading, a finding, a figure nobody has said, a pass; and the step that takes a plate.
    """
    part = next(part for part in parts if at in part.steps)
    ahead: list[PlacedStep] = []
    for placed in part.steps[part.steps.index(at) :]:
        if asks(placed):
            break
        if rung(placed) not in done:
            ahead.append(placed)
    return tuple(ahead)


def asks(placed: PlacedStep) -> bool:
    """Whether a step wants more than to be done."""
    step = placed.step
    return bool(step.kind in (Kind.HOLD, Kind.MEASURE) or step.findings or placed.asks or step.each_pass or step.fits)


def ahead_of(parts: Sequence[Part], done: Collection[Rung], order: Sequence[str] = ()) -> tuple[PlacedStep, ...]:
    """Return the steps that come next, one after the other, up to and with the first that asks for anything."""
    ahead: list[PlacedStep] = []
    for placed in steps_of(parts, order):
        if rung(placed) in done:
            continue
        ahead.append(placed)
        if asks(placed):
            break
    return tuple(ahead)


def skipped(parts: Sequence[Part], done: Collection[Rung], at: PlacedStep) -> tuple[PlacedStep, ...]:
    """Return the steps before ``at`` at its own place (and those once for the vehicle) that are not done yet."""
    before = []
    for placed in steps_of(parts):
        if rung(placed) == rung(at):
            break
        if placed.position in ("", at.position) and rung(placed) not in done:
            before.append(placed)
    if at.part == "leaving":  # the vehicle is left when every corner is shut
        before = [step for step in steps_of(parts) if step.number < at.number and rung(step) not in done]
    return tuple(before)


def opened_again(parts: Sequence[Part], at: PlacedStep, back: str, *, read: bool = False) -> tuple[Rung, ...]:
    """Return what has to be done again where ``at`` leads back to the step ``back``: from there to ``at``.

    Passes that were made and read stay made: metal does not come back. ``read``: so was the one that ``at`` belongs to.
    """
    here = [placed for placed in steps_of(parts) if placed.position == at.position and placed.number <= at.number]
    first = next((k for k in range(len(here) - 1, -1, -1) if here[k].step.code == back), None)
    if first is None:
        return ()
    return tuple(rung(placed) for placed in here[first:] if not _made(placed, at, read=read))


def _made(placed: PlacedStep, at: PlacedStep, *, read: bool) -> bool:
    if placed.pass_number is None:
        return False
    return at.pass_number is None or placed.pass_number < at.pass_number + read


def falls_away(parts: Sequence[Part], done: Collection[Rung], *, same: Collection[str] = ()) -> tuple[Rung, ...]:
    """Return the done steps that do not carry over to ``parts``, the work by another choice.

    At each place they carry as far as the new work goes through them without a gap. Where a corner is shut already
    nothing of it does, unless all that is left to be done there belongs to shutting it: it has to be opened again. But
    passes that were made stay made where the work is the ``same``. What the new work has not at all falls away too.
    """
    places = dict.fromkeys(part.position for part in parts)
    shut = {position for position, key in done if key.startswith(_SHUTS)}
    if shut >= {position for position, _key in done if position} and shut:
        shut.add("")  # it may be on its wheels again
    kept: set[Rung] = set()
    for place in places:
        here = [step for part in parts if part.position == place for step in part.steps]
        # The vehicle's own steps (lifted, driven) are done once for all corners.
        left = [step for step in (steps_of(parts) if place == "" else here) if rung(step) not in done]
        if place in shut and all(step.part in _SHUTTING for step in left):
            kept |= {rung(step) for step in here}
            continue
        reaches = () if place in shut else takewhile(lambda step: rung(step) in done, here)
        passes = (step for step in here if place in same and step.pass_number is not None)
        made = takewhile(lambda step: rung(step) in done, passes)
        kept |= {rung(step) for step in (*reaches, *made)}
    return tuple(one for one in done if one not in kept)
