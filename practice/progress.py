"""How people get on: marks by what they are for, over their last tries. Reads only."""

from collections.abc import Iterable
from typing import Any, Final

from django.db.models import Count, Max, Q
from django.utils import timezone
from django.utils.translation import gettext_lazy

from practice.corner.page import MARKS
from practice.drills.actions import due
from practice.exercises import EXERCISES, LEVELS
from practice.models import Attempt, DrillCard, MadeExercise
from workshop.models import User

MADE_HERE: Final = gettext_lazy("Made from jobs of this workshop")
_LAST: Final = 12  # tries that count
_SHELF: Final = 40  # exercises made here that are shown
_MOST: Final = 400  # tries looked at


def shelf(user: User) -> list[dict[str, Any]]:
    """Return the exercises by their level, with how far one has got in each. Two queries."""
    tried = {
        row["exercise"]: row
        for row in Attempt.of(user)
        .filter(person=user)
        .values("exercise")
        .annotate(best=Max("total"), open_n=Count("pk", filter=Q(ended_at=None)))
    }
    made = [(f"made-{one.pk}", one.title, one.pk) for one in MadeExercise.of(user).filter(retired=False)[:_SHELF]]

    def row(code: str, title: Any, made_here: int | None = None) -> dict[str, Any]:
        told = tried.get(code, {"best": None, "open_n": 0})
        return {"code": code, "title": title, "best": told["best"], "open": told["open_n"] > 0, "made": made_here}

    levels = [
        {"name": level, "rows": [row(one.code, one.title) for one in EXERCISES if one.level is level]}
        for level in LEVELS
    ]
    if made:
        levels.append({"name": MADE_HERE, "rows": [row(*one) for one in made]})
    every = [one for level in levels for one in level["rows"]]
    first = next((one for one in every if one["open"]), None) or next(
        (one for one in every if one["best"] is None), None
    )
    if first is not None:
        first["first"] = True
    return levels


def shares(rows: Iterable[Attempt]) -> dict[str, tuple[float, float, int]]:
    """Return marks got, marks there were and how often asked, by what they are for."""
    counted: dict[str, tuple[float, float, int]] = {}
    for row in rows:
        for one in (row.marks or {"marks": []})["marks"]:
            got, of, n = counted.get(one["code"], (0.0, 0.0, 0))
            counted[one["code"]] = (got + one["got"], of + one["of"], n + 1)
    return counted


def skills(user: User) -> list[dict[str, Any]]:
    """Return one's own skills, best first."""
    counted = shares(Attempt.of(user).filter(person=user, ended_at__isnull=False)[:_LAST])
    told = sorted(counted.items(), key=lambda item: -item[1][0] / item[1][1])
    return [{"name": MARKS[code], "share": f"{got / of:.0%}", "of": f"× {n}"} for code, (got, of, n) in told]


def everybody(user: User) -> tuple[list[Any], list[dict[str, Any]]]:
    """Return the names of skills, and a row a person with the share of each. Three queries."""
    attempts = Attempt.of(user).filter(ended_at__isnull=False, person__is_active=True).select_related("person")
    by_person: dict[int, list[Attempt]] = {}
    for row in attempts[:_MOST]:
        by_person.setdefault(row.person_id, []).append(row)
    drills = {
        row["person"]: row
        for row in DrillCard.of(user)
        .values("person")
        .annotate(n=Count("pk"), firm=Count("pk", filter=Q(last_right=True)))
    }
    people = {one.pk: one for one in User.of(user).filter(is_active=True)}
    rows = []
    for pk in sorted(by_person.keys() | drills.keys(), key=lambda pk: str(people.get(pk, ""))):
        if pk not in people:
            continue
        tries = by_person.get(pk, [])
        counted = shares(tries[:_LAST])
        told = drills.get(pk)
        rows.append(
            {
                "person": people[pk],
                "tries": len(tries),
                "shares": [f"{counted[c][0] / counted[c][1]:.0%}" if c in counted else "–" for c in MARKS],
                "drills": f"{told['firm']}/{told['n']}" if told else "–",
            }
        )
    return list(MARKS.values()), rows


def due_now(user: User) -> int:
    """Return how many statements are due."""
    return len(due(user, now=timezone.now()))
