"""How long each part of a work took, from the moments at which its steps were pressed."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from compass.do.ladder import Rung, rung
from compass.do.tasks import part_minutes, usual_minutes
from compass.do.work import Part

PAUSE_MINUTES: Final = 45.0  # longer between two presses is another job or a meal


@dataclass(frozen=True, slots=True)
class Press:
    """A step done: by whom (any name), and when, in minutes of one clock."""

    who: str
    at: float


def minutes_by_part(
    parts: Sequence[Part], pressed: Mapping[Rung, Press], *, began: Mapping[str, float]
) -> dict[str, list[float]]:
    """Return the minutes each part took wherever it was done whole, a cut as if it had one pass.

    A step takes the time since the same person's press before it, the first since ``began`` (minutes by person; whoever
    is not in it came later, and the part of a first press is not timed). A part with a pause in it, with a clock that
    went back, or with fewer steps pressed than it has says nothing.
    """
    since = _since(pressed, began)
    taken: dict[str, list[float]] = {}
    for part in parts:
        gaps = [since.get(rung(placed)) for placed in part.steps]
        if not gaps or any(gap is None or not 0 <= gap < PAUSE_MINUTES for gap in gaps):
            continue
        passes = len({placed.pass_number for placed in part.steps if placed.pass_number is not None})
        whole = sum(gap for gap in gaps if gap is not None)
        if whole > 0:
            minutes = whole * usual_minutes(part.name) / part_minutes(part.name, passes)
            taken.setdefault(part.name, []).append(minutes)
    return taken


def _since(pressed: Mapping[Rung, Press], began: Mapping[str, float]) -> dict[Rung, float | None]:
    """Return the minutes since the same person's press before; the order is that in which they were pressed."""
    last: dict[str, float] = dict(began)
    since: dict[Rung, float | None] = {}
    for key, press in pressed.items():
        since[key] = press.at - last[press.who] if press.who in last else None
        last[press.who] = press.at
    return since
