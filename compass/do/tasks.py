"""The work on a vehicle as tasks: minutes, people, lathe, and what must come before what."""

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from typing import Final

from compass.do.ladder import Rung, rung
from compass.do.order import Task
from compass.do.procedures import ONCE
from compass.do.work import CornerWork, Part
from compass.ground.positions import axle_of

# Minutes of a part at one corner; our estimates. A corner's own minutes, where a workshop says them, stretch its parts.
MINUTES: Final[Mapping[str, float]] = {
    "lift": 6,
    "opening": 8,
    "cleaning": 8,
    "hub": 60,
    "bench": 10,
    "bench cut": 4,
    "new rotors": 6,
    "index": 2,
    "plate": 3,
    "clamp": 4,
    "sweep first": 4,
    "new measured": 6,
    "new index": 8,
    "fitted plate": 6,
    "adapter": 12,
    "cut": 3,
    "machine off": 4,
    "sweep": 4,
    "fitted sweep": 4,
    "pads": 6,
    "shoes": 4,
    "closing": 8,
    "caliper off": 3,
    "wheel out": 3,
    "disc off": 2,
    "disc washed": 1,
    "wheel in": 4,
    "caliper on": 3,
    "leaving": 15,
}
PASS_MINUTES: Final = 7.0  # one pass over the disc, and the reading after it; our estimate
LATHES: Final[Mapping[str, str]] = {
    "bench": "bench",
    "bench cut": "bench",
    "adapter": "on_vehicle",
    "cut": "on_vehicle",
    "machine off": "on_vehicle",
}
_PASSES: Final = ("bench cut", "cut")
_OURS: Final[Mapping[str, float]] = {}
_OPENS: Final = "opening"
# What a part of two discs on one wheel waits for at the other disc.
_ONE_WHEEL: Final[Mapping[str, str]] = {
    "wheel out": "caliper off",
    "disc off": "wheel out",
    "wheel in": "disc washed",
    "caliper on": "wheel in",
}


def tasks_of(
    vehicle: str,
    parts: Sequence[Part],
    corners: Sequence[CornerWork],
    *,
    done: Collection[Rung] = (),
    lathes: Mapping[str, str] | None = None,
    minutes_here: Mapping[str, float] = _OURS,
) -> list[Task]:
    """Return what is left of the work as tasks, in plain order; a part begun takes the rest of its minutes.

    ``lathes`` names the lathe of each kind (one each, where it is not said). ``minutes_here`` are the minutes that
    parts take in this workshop, in place of ``usual_minutes``; those it does not hold are ours. On a driven axle the
    other side is opened before the machine is put on; hub work at any corner comes before every matched cut; all is
    shut before it is left.
    """
    work = {corner.position: corner for corner in corners}
    stretch = {position: _stretch(corner, parts, minutes_here) for position, corner in work.items()}
    left: dict[str, Task] = {}
    before: dict[str, str] = {}  # the last task at each place
    for part in parts:
        to_do = [placed for placed in part.steps if rung(placed) not in done]
        if not to_do:
            continue
        whole = part_minutes(part.name, _passes(part, work), minutes_here) * stretch.get(part.position, 1.0)
        minutes = whole * len(to_do) / len(part.steps)
        after = [key for key in (before.get(part.position) or before.get(""),) if key is not None]
        if part.name == ONCE[1]:
            after = list(before.values())
        left[part.key] = Task(
            key=f"{vehicle}|{part.key}",
            vehicle=vehicle,
            place=part.position,
            minutes=max(1, math.ceil(minutes - 1e-9)),
            people=_people(part, work),
            lathe=(lathes or LATHES_BY_KIND).get(LATHES.get(part.name, ""), ""),
            after=tuple(f"{vehicle}|{key}" for key in after if key in left),
        )
        before[part.position] = part.key
    return [_held_back(key, task, left, work, vehicle) for key, task in left.items()]


LATHES_BY_KIND: Final[Mapping[str, str]] = {"bench": "bench", "on_vehicle": "on_vehicle"}


def _held_back(key: str, task: Task, left: Mapping[str, Task], work: Mapping[str, CornerWork], vehicle: str) -> Task:
    """Add what comes before a matched cut: every hub's work, the side begun with, a driven axle's other side opened.

    And what two discs on one wheel wait for: both calipers off before it is out, both discs on before it is in.
    """
    position, name, _turn = key.split(":")
    if name in _ONE_WHEEL:
        mates = [p for p in work if p != position and axle_of(p) == axle_of(position)]
        extra = tuple(f"{vehicle}|{p}:{_ONE_WHEEL[name]}:1" for p in mates if f"{p}:{_ONE_WHEEL[name]}:1" in left)
        return replace(task, after=task.after + extra)
    if name != "adapter":
        return task
    waits = [other for other in left if other.split(":")[1] == "hub"]
    if not work[position].work.first:  # the side on which the machine stands upright is begun with
        first = next((p for p in work if axle_of(p) == axle_of(position) and work[p].work.first), None)
        waits += [other for other in left if other.split(":")[:2] == [first, "machine off"]]
    if work[position].work.driven is not False:
        mates = [p for p in work if p != position and axle_of(p) == axle_of(position)]
        waits += [other for other in left if other.split(":")[0] in mates and other.split(":")[1] == _OPENS]
    extra = tuple(f"{vehicle}|{other}" for other in waits if f"{vehicle}|{other}" not in task.after)
    return replace(task, after=task.after + extra)


def usual_minutes(name: str) -> float:
    """Return our minutes of a part at one corner, a cut with one pass."""
    return MINUTES[name] + (PASS_MINUTES if name in _PASSES else 0.0)


def part_minutes(name: str, passes: int, here: Mapping[str, float] = _OURS) -> float:
    """Return the minutes of a part with so many passes: ours, or in the workshop's own measure of it."""
    ours = MINUTES[name] + (PASS_MINUTES * max(1, passes) if name in _PASSES else 0.0)
    return ours * here.get(name, usual_minutes(name)) / usual_minutes(name)


def _passes(part: Part, work: Mapping[str, CornerWork]) -> int:
    return len(work[part.position].passes) if part.name in _PASSES else 0


def _stretch(corner: CornerWork, parts: Sequence[Part], here: Mapping[str, float]) -> float:
    """Return by how much the workshop's own minutes for this corner stretch those of its parts."""
    own = {corner.position: corner}
    ours = sum(part_minutes(part.name, _passes(part, own), here) for part in parts if part.position == corner.position)
    return corner.minutes / ours if corner.minutes and ours else 1.0


def _people(part: Part, work: Mapping[str, CornerWork]) -> int:
    """Return how many hands a part takes: a motorcycle is held upright by two, a lathe may run by itself."""
    any_work = next(iter(work.values())).work
    if part.name == ONCE[0] and any_work.vehicle == "motorcycle":
        return 2
    if part.name in _PASSES and work[part.position].work.leaves_lathe:
        return 0
    return 1
