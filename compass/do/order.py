"""The order of work: tasks of one vehicle or of a day's, laid out in time by a constraint solver, or in plain order.

Shortest finish first, then the fewest walks from one place to another. What the solver finds is never worse than the
plain order, which stands where the solver is missing or finds nothing in time.
"""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any, Final

from compass.ground.errors import EvidenceError

_COUNTED: Final = 0.15  # of the solver's own units of work in a second of an idle machine
_BUSY: Final = 4  # times as long by the clock, on a machine with other things to do
_SHARE: Final = 0.5  # of the time, for the finish; the rest is for the walks
_EXACT: Final = 34  # tasks of one person whose walks are counted exactly; more are kept together by place


@dataclass(frozen=True, slots=True)
class Task:
    """A part of the work. ``vehicle`` and ``place`` are where it is done (``place`` empty: anywhere at the vehicle).

    ``minutes`` are whole ones; ``people`` may be 0 where a machine is left to itself. ``lathe`` names the one it takes:
    all tasks of one place that take it keep it from the first to the last. ``after`` are keys of tasks before it.
    """

    key: str
    vehicle: str
    place: str
    minutes: int
    people: int = 1
    lathe: str = ""
    after: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if self.minutes < 0 or self.people < 0:
            raise EvidenceError("minutes", "minutes and people of at least 0")


@dataclass(frozen=True, slots=True)
class Slot:
    """When a task is done, minutes from now, and by whom: people are counted from 0."""

    task: Task
    start: int
    who: tuple[int, ...]

    @property
    def end(self) -> int:
        """Minutes from now at which it is done."""
        return self.start + self.task.minutes


@dataclass(frozen=True, slots=True)
class Order:
    """Tasks in time, by their start. ``solved`` is False for the plain order."""

    slots: tuple[Slot, ...]
    solved: bool

    @property
    def finish(self) -> int:
        """Minutes from now until all is done."""
        return max((slot.end for slot in self.slots), default=0)

    @property
    def walks(self) -> int:
        """How often somebody goes from one place to another."""
        return _walks(self.slots)


def plain_order(tasks: Sequence[Task], *, people: int, bays: int = 1, inside: Collection[str] = frozenset()) -> Order:
    """Lay tasks out in the order given, each as early as it may be. Raises ``EvidenceError`` where they go in circles.

    A vehicle keeps its bay, and a place its lathe, from the first of their tasks to the last. Vehicles ``inside`` stand
    in a bay already and have it from the beginning.
    """
    _require_people(people, bays)
    if len(inside) > bays:
        raise EvidenceError("inside", "no more vehicles inside than bays")
    tasks = _sorted(sorted(tasks, key=lambda task: task.vehicle not in inside))
    ends: dict[str, int] = {}
    busy: list[tuple[int, int, int]] = []  # start, end, people
    freed = {"bay": [0] * bays}
    held: dict[tuple[str, ...], int] = {}
    left = {group: sum(_group(t) == group for t in tasks) for group in {_group(t) for t in tasks if t.lathe}}
    of_vehicle = {name: sum(t.vehicle == name for t in tasks) for name in {t.vehicle for t in tasks}}
    bay_of = {name: k for k, name in enumerate(name for name in of_vehicle if name in inside)}
    starts: dict[str, int] = {}
    for task in tasks:
        start = max((ends[key] for key in task.after if key in ends), default=0)
        if task.vehicle not in bay_of:
            bay_of[task.vehicle] = min(range(bays), key=lambda k: (freed["bay"][k], k))
        start = max(start, freed["bay"][bay_of[task.vehicle]])
        if task.lathe:
            start = max(start, held.get((task.lathe,), 0))
        start = _room(busy, start, task.minutes, min(task.people, people), people)
        starts[task.key], ends[task.key] = start, start + task.minutes
        busy.append((start, start + task.minutes, min(task.people, people)))
        if task.lathe:
            left[_group(task)] -= 1
            if not left[_group(task)]:
                held[(task.lathe,)] = max(ends[t.key] for t in tasks if t.key in ends and t.lathe == task.lathe)
        of_vehicle[task.vehicle] -= 1
        if not of_vehicle[task.vehicle]:
            freed["bay"][bay_of[task.vehicle]] = max(ends[t.key] for t in tasks if t.vehicle == task.vehicle)
    return Order(_manned(tasks, starts, people), solved=False)


def order_work(
    tasks: Sequence[Task],
    *,
    people: int,
    bays: int = 1,
    inside: Collection[str] = frozenset(),
    seconds: float = 0.25,
) -> Order:
    """Return the shortest order of the tasks found in ``seconds``, then the one of fewest walks; else the plain one."""
    plain = plain_order(tasks, people=people, bays=bays, inside=inside)
    if len(tasks) < 2:
        return plain
    solver = ready_solver()
    if solver is None:
        return plain
    model = _Model(solver, _sorted(tasks), plain, people=people, bays=bays, inside=inside)
    best = plain
    for found in model.solve(seconds):
        if (found.finish, found.walks) < (best.finish, best.walks):
            best = found
    return best


def ready_solver() -> Any:
    """Return the solver's module, None where it is missing: a second of importing that only an order asks for."""
    try:
        from ortools.sat.python import cp_model
    except ImportError:
        return None
    return cp_model


def _require_people(people: int, bays: int) -> None:
    if people < 1 or bays < 1:
        raise EvidenceError("people", "at least one person and one bay")


def _group(task: Task) -> tuple[str, ...]:
    return task.vehicle, task.place, task.lathe


def _sorted(tasks: Sequence[Task]) -> list[Task]:
    """Return the tasks as given, each behind those it comes after."""
    known, placed, waiting = {task.key for task in tasks}, dict[str, Task](), list(tasks)
    while waiting:
        task = next((t for t in waiting if all(key in placed or key not in known for key in t.after)), None)
        if task is None:
            raise EvidenceError("after", "an order without circles")
        placed[task.key] = task
        waiting.remove(task)
    return list(placed.values())


def _room(busy: Sequence[tuple[int, int, int]], start: int, minutes: int, wanted: int, people: int) -> int:
    """Return the first minute from ``start`` on at which so many people are free all through."""
    if not wanted or not minutes:
        return start
    for at in sorted({start, *(end for _start, end, _n in busy if end > start)}):
        moments = [at, *(begun for begun, _end, _n in busy if at < begun < at + minutes)]
        if all(sum(n for begun, end, n in busy if begun <= m < end) + wanted <= people for m in moments):
            return at
    return start


def _manned(tasks: Sequence[Task], starts: Mapping[str, int], people: int) -> tuple[Slot, ...]:
    """Say who does what: whoever is at the place already, else who has been free longest."""
    free = [0] * people
    where: list[tuple[str, str] | None] = [None] * people
    slots = []
    for task in sorted(tasks, key=lambda t: (starts[t.key], t.minutes > 0)):
        start = starts[task.key]
        at_hand = [k for k in range(people) if free[k] <= start]
        at_hand.sort(key=lambda k: (not _same(where[k], task), free[k], k))
        who = tuple(sorted(at_hand[: min(task.people, people)]))
        for k in who:
            free[k], where[k] = start + task.minutes, (task.vehicle, task.place or _place(where[k], task))
        slots.append(Slot(task, start, who))
    return tuple(slots)


def _place(before: tuple[str, str] | None, task: Task) -> str:
    return before[1] if before is not None and before[0] == task.vehicle else ""


def _same(before: tuple[str, str] | None, task: Task) -> bool:
    return before is None or (
        before[0] == task.vehicle and (not task.place or not before[1] or before[1] == task.place)
    )


def _walks(slots: Sequence[Slot]) -> int:
    walks = 0
    for person in {k for slot in slots for k in slot.who}:
        own = [slot.task for slot in slots if person in slot.who]
        walks += sum(_apart(a, b) for a, b in pairwise(own))
    return walks


def _apart(one: Task, other: Task) -> bool:
    return one.vehicle != other.vehicle or bool(one.place and other.place and one.place != other.place)


class _Model:
    """The tasks as the solver sees them. ``cp`` is its module: it is imported only where an order is asked for."""

    def __init__(
        self, cp: Any, tasks: Sequence[Task], plain: Order, *, people: int, bays: int, inside: Collection[str]
    ) -> None:
        self.cp, self.tasks, self.plain, self.people = cp, tasks, plain, people
        self.model = model = cp.CpModel()
        horizon = self.horizon = plain.finish
        self.starts = {t.key: model.new_int_var(0, max(horizon - t.minutes, 0), t.key) for t in tasks}
        self.spans = {
            t.key: model.new_fixed_size_interval_var(self.starts[t.key], t.minutes, f"i {t.key}") for t in tasks
        }
        self.finish = model.new_int_var(0, horizon, "finish")
        for task in tasks:
            model.add(self.finish >= self.starts[task.key] + task.minutes)
            for key in task.after:
                if key in self.starts:
                    before = next(t for t in tasks if t.key == key)
                    model.add(self.starts[task.key] >= self.starts[key] + before.minutes)
        manned = [t for t in tasks if t.people and t.minutes]
        needs = [min(t.people, people) for t in manned]
        model.add_cumulative([self.spans[t.key] for t in manned], needs, people)
        lathes: dict[str, list[Any]] = {}
        for group in dict.fromkeys(_group(t) for t in tasks if t.lathe):
            lathes.setdefault(group[2], []).append(self._kept([t for t in tasks if t.lathe and _group(t) == group]))
        for spans in lathes.values():
            model.add_no_overlap(spans)
        names = dict.fromkeys(t.vehicle for t in tasks)
        vehicles = [self._kept([t for t in tasks if t.vehicle == name], at_once=name in inside) for name in names]
        if len(vehicles) > bays:
            model.add_cumulative(vehicles, [1] * len(vehicles), bays)
        self.hint({slot.task.key: slot.start for slot in plain.slots})

    def _kept(self, tasks: Sequence[Task], *, at_once: bool = False) -> Any:
        """Return the interval from the first start of tasks, or from now on, to their last end."""
        name = f"{tasks[0].key} …"
        start, end = (self.model.new_int_var(0, self.horizon, f"{name} {side}") for side in ("from", "to"))
        for task in tasks:
            self.model.add(start <= self.starts[task.key])
            self.model.add(end >= self.starts[task.key] + task.minutes)
        if at_once:
            self.model.add(start == 0)
        size = self.model.new_int_var(0, self.horizon, f"{name} for")
        return self.model.new_interval_var(start, size, end, name)

    def hint(self, starts: Mapping[str, int]) -> None:
        """Tell the solver where to begin."""
        self.model.clear_hints()
        for key, start in starts.items():
            self.model.add_hint(self.starts[key], start)

    def solve(self, seconds: float) -> list[Order]:
        """Return an order of the shortest finish found, and one of fewer walks at that finish."""
        self.model.minimize(self.finish)
        first = self._solved(seconds * _SHARE)
        shortest = self.plain if first is None else first
        self.model.add(self.finish <= shortest.finish)
        self.hint({slot.task.key: slot.start for slot in shortest.slots})
        self.model.minimize(self._walked())
        second = self._solved(seconds * (1 - _SHARE))
        return [found for found in (first, second) if found is not None]

    def _walked(self) -> Any:
        """Return what is least where the fewest walks are: counted for one person, else how long places are open."""
        one = [t for t in self.tasks if t.people and t.minutes]
        if self.people == 1 and len(one) <= _EXACT:
            return self._counted(one)
        open_for = []
        for vehicle, place in dict.fromkeys((t.vehicle, t.place) for t in self.tasks):
            spans = [t for t in self.tasks if (t.vehicle, t.place) == (vehicle, place)]
            if place and len(spans) > 1:
                low, high = (self.model.new_int_var(0, self.horizon, f"{vehicle} {place} {side}") for side in "lh")
                for task in spans:
                    self.model.add(low <= self.starts[task.key])
                    self.model.add(high >= self.starts[task.key] + task.minutes)
                open_for.append(high - low)
        return sum(open_for)

    def _counted(self, tasks: Sequence[Task]) -> Any:
        """Return the number of walks of one person: a way through all tasks, each way between two places counted."""
        arcs, walks = [], []
        for k, _task in enumerate(tasks, start=1):
            arcs += [(0, k, self.model.new_bool_var(f"first {k}")), (k, 0, self.model.new_bool_var(f"last {k}"))]
        for j, one in enumerate(tasks, start=1):
            for k, other in enumerate(tasks, start=1):
                if j != k and one.key not in self._before(other) and other.key not in one.after:
                    way = self.model.new_bool_var(f"{j} {k}")
                    ended = self.starts[one.key] + one.minutes
                    self.model.add(self.starts[other.key] >= ended).only_enforce_if(way)
                    arcs.append((j, k, way))
                    if _apart(one, other):
                        walks.append(way)
                elif j != k and one.key in other.after:
                    way = self.model.new_bool_var(f"{j} {k}")
                    arcs.append((j, k, way))
                    if _apart(one, other):
                        walks.append(way)
        self.model.add_circuit(arcs)
        return sum(walks)

    def _before(self, task: Task) -> tuple[str, ...]:
        return task.after

    def _solved(self, seconds: float) -> Order | None:
        solver = self.cp.CpSolver()
        # By the solver's own count of work, so that a busy machine finds the same order as an idle one; the clock is
        # there for a machine that is busier than that.
        solver.parameters.max_deterministic_time = _COUNTED * max(seconds, 0.01)
        solver.parameters.max_time_in_seconds = _BUSY * max(seconds, 0.01)
        solver.parameters.num_workers = 1  # the other core serves the others
        solver.parameters.random_seed = 1
        status = solver.solve(self.model)
        if status not in (self.cp.OPTIMAL, self.cp.FEASIBLE):
            return None
        starts = {key: int(solver.value(start)) for key, start in self.starts.items()}
        return Order(_manned(self.tasks, starts, self.people), solved=True)
