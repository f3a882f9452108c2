"""Writes of the drills: what was said, and when the statement comes again (FSRS, by the ``fsrs`` package)."""

from datetime import datetime, timedelta
from typing import Final

from django.db import transaction
from django.utils import timezone
from fsrs import Card, Rating, Scheduler

from practice.drills.statements import BY_CODE, DRILLS, Drill
from practice.models import DrillAnswer, DrillCard
from workshop.models import User
from workshop.permissions import Deed, require

NEW_A_DAY: Final = 8
A_SITTING: Final = 20  # statements: some five minutes
# A statement that was missed returns in the same sitting; nothing is fuzzed, so that a day can be told in advance.
SCHEDULER: Final = Scheduler(
    learning_steps=(timedelta(minutes=5),), relearning_steps=(timedelta(minutes=5),), enable_fuzzing=False
)


def due(user: User, *, now: datetime | None = None) -> list[Drill]:
    """Return what is to be drilled now: what is due, the longest due first, then some that were never seen."""
    now = now or timezone.now()
    rows = list(DrillCard.of(user).filter(person=user))
    waiting = sorted((row for row in rows if row.due <= now and row.code in BY_CODE), key=lambda row: row.due)
    today = DrillAnswer.of(user).filter(person=user, at__date=timezone.localdate(now)).values("code").distinct()
    fresh_today = sum(row.seen == 1 for row in rows if row.code in {one["code"] for one in today})
    seen = {row.code for row in rows}
    fresh = [drill for drill in DRILLS if drill.code not in seen][: max(NEW_A_DAY - fresh_today, 0)]
    return ([BY_CODE[row.code] for row in waiting] + fresh)[:A_SITTING]


@transaction.atomic
def say(user: User, drill: Drill, said: str, *, now: datetime | None = None) -> bool:
    """Keep what was said to a statement; return whether it is right."""
    require(user, Deed.PRACTISE)
    now = now or timezone.now()
    right = said == drill.right
    row = DrillCard.of(user).select_for_update(of=("self",)).filter(person=user, code=drill.code).first()
    card = Card.from_dict(row.card) if row is not None else Card(due=now)
    card, _log = SCHEDULER.review_card(card, Rating.Good if right else Rating.Again, review_datetime=now)
    told = {"card": card.to_dict(), "due": card.due, "last_right": right}
    if row is None:
        row, _new = DrillCard.of(user).get_or_create(person=user, code=drill.code, defaults=told)
    for name, value in told.items():
        setattr(row, name, value)
    row.seen += 1
    row.missed += not right
    row.save()
    answer = DrillAnswer.of(user).create(person=user, code=drill.code, said=said, right=right)
    DrillAnswer.of(user).filter(pk=answer.pk).update(at=now)
    return right
