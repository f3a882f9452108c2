"""The order of the day: what is left of the decided work of all open jobs, laid out over people, bays and lathe."""

from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any, Final

from django.db.models import Prefetch
from django.utils import timezone
from django.utils.formats import date_format
from django.utils.translation import gettext as _

from compass.do.ladder import Rung
from compass.do.order import Order, Task, order_work
from compass.do.tasks import tasks_of
from compass.do.work import CornerWork, vehicle_work
from drawing.strip import Bar, draw_strip
from jobs.do.cut import cuts_of_work
from jobs.do.doing import decided_corners, work_of
from jobs.do.run_page import hour_marks
from jobs.models import Cut, Job, RunStep
from jobs.remembered import Remembered
from workshop.adapters import part_minutes_here
from workshop.addresses import address
from workshop.models import ShopFigures, User

MOST_JOBS: Final = 12
MOST_PEOPLE: Final = 6
BAYS: Final = 2
_SECONDS: Final = 1.5


def day_context(user: User, *, people: int) -> dict[str, Any]:
    """Return the day's order drawn: a row a vehicle, a lathe, a pair of hands, from now on."""
    people = min(max(people, 1), MOST_PEOPLE)
    jobs = _jobs(user)
    tasks, begun = _tasks(user, jobs)
    inside = tuple(name for name in begun if any(task.vehicle == name for task in tasks))[:BAYS]
    order = _order(tuple(tasks), people, inside)
    now = timezone.now()
    return {
        "strip": _drawn(order, jobs, people) if tasks else "",
        "jobs": _rows(jobs, order, now),
        "people": people,
        "bays": BAYS,
        "counts": range(1, 5),
        "ready": date_format(timezone.localtime(now + timedelta(minutes=order.finish)), "CLOCK"),
        "walks": order.walks,
        "solved": order.solved,
        "most": MOST_JOBS,
    }


def _order_of(tasks: tuple[Task, ...], people: int, inside: tuple[str, ...]) -> Order:
    return order_work(tasks, people=people, bays=BAYS, inside=inside, seconds=_SECONDS)


_order = Remembered(_order_of, most=16)


def _jobs(user: User) -> list[Job]:
    """Return the open jobs with decided work, those begun first; their rows in a handful of queries, however many."""
    cuts = Prefetch("corners__cuts", Cut.of(user).prefetch_related("passes"))
    steps = Prefetch("run__steps", RunStep.of(user).filter(passed=True, taken_back=False))
    rows = Job.of(user).exclude(state=Job.State.CLOSED).exclude(decided=[]).order_by("created_at", "pk")
    # Their numbers first, by an index that holds no others: joined to vehicles, all jobs of ten years may be walked.
    numbers = list(rows.values_list("pk", flat=True)[:MOST_JOBS])
    found = Job.of(user).filter(pk__in=numbers).for_doing().prefetch_related(cuts, steps).order_by("created_at", "pk")
    return sorted(found, key=lambda job: not hasattr(job, "run"))


def _tasks(user: User, jobs: list[Job]) -> tuple[list[Task], list[str]]:
    """Return what is left of all jobs, and the vehicles on which work was begun."""
    leaves, minutes = ShopFigures.in_force(user).leaves_lathe, part_minutes_here(user)
    tasks, begun = [], []
    for job in jobs:
        corners = _corners(job, leaves_lathe=leaves)
        done: set[Rung] = {(row.position, row.key) for row in job.run.steps.all()} if hasattr(job, "run") else set()
        tasks += tasks_of(str(job.pk), vehicle_work(corners), corners, done=done, minutes_here=minutes)
        begun += [str(job.pk)] if done else []
    return tasks, begun


def _corners(job: Job, *, leaves_lathe: bool) -> list[CornerWork]:
    """Return a job's work as the order needs it: no figure of a plan, so nothing is judged for it."""
    decided, works = decided_corners(job), []
    for corner, decision, code in decided:
        work = work_of(job, corner, code, decided, leaves_lathe=leaves_lathe)
        made = max((sum(not one.withdrawn for one in cut.passes.all()) for cut in cuts_of_work(corner)), default=0)
        minutes = decision.predicted.get(corner.position, {}).get("minutes")
        works.append(CornerWork(corner.position, work, {}, tuple(range(1, max(made, 1) + 1)), minutes))
    return works


def _rows(jobs: list[Job], order: Order, now: datetime) -> list[dict[str, Any]]:
    """Return the jobs with work left, by when it begins."""
    begins = {name: min(s.start for s in order.slots if s.task.vehicle == name) for name in _vehicles(order)}
    left = [job for job in jobs if str(job.pk) in begins]
    return [_row(job, order, now) for job in sorted(left, key=lambda job: begins[str(job.pk)])]


def _vehicles(order: Order) -> list[str]:
    return list(dict.fromkeys(slot.task.vehicle for slot in order.slots))


def _row(job: Job, order: Order, now: datetime) -> dict[str, Any]:
    ends = [slot.end for slot in order.slots if slot.task.vehicle == str(job.pk)]
    starts = [slot.start for slot in order.slots if slot.task.vehicle == str(job.pk)]
    at = [timezone.localtime(now + timedelta(minutes=minute)) for minute in (min(starts), max(ends))]
    return {
        "job": job,
        "url": address("jobs:do", job.pk),
        "from": date_format(at[0], "CLOCK"),
        "until": date_format(at[1], "CLOCK"),
        "begun": hasattr(job, "run"),
    }


def _join(bars: list[Bar], fresh: Bar) -> None:
    """Add a block, as one with the last of its row where it goes on with the same."""
    last = next((k for k in range(len(bars) - 1, -1, -1) if bars[k].row == fresh.row), None)
    if last is not None and bars[last].label == fresh.label and bars[last].end >= fresh.start:
        bars[last] = replace(bars[last], end=max(bars[last].end, fresh.end))
    else:
        bars.append(fresh)


def _drawn(order: Order, jobs: list[Job], people: int) -> str:
    names = {str(job.pk): job.vehicle.label for job in jobs}
    hands = [_("hands %(n)s") % {"n": k + 1} for k in range(people)]
    lathes = {"on_vehicle": _("hub lathe"), "bench": _("bench lathe")}
    bars: list[Bar] = []
    for slot in order.slots:
        position = slot.task.place
        vehicle = names[slot.task.vehicle]
        _join(bars, Bar(vehicle, slot.start, slot.end, position, "ahead"))
        for row in [*(hands[k] for k in slot.who), *([lathes[slot.task.lathe]] if slot.task.lathe else [])]:
            _join(bars, Bar(row, slot.start, slot.end, vehicle, "ahead"))
    used = [name for name in lathes.values() if any(bar.row == name for bar in bars)]
    vehicles = [names[key] for key in _vehicles(order)]
    return draw_strip(
        bars,
        [*vehicles, *used, *hands],
        hours=hour_marks(timezone.now(), order.finish),
        now=0.0,
        late=_("now"),
        title=_("Order of the day: ready in about %(n)s min (estimate)") % {"n": order.finish},
    )
