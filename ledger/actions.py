"""Writes of the ledger: a refit accepted by the lead, and taken back."""

import math
from typing import Any

from django.db import transaction
from django.utils import timezone

from ledger.learning import Learning, all_learning, last_refitted, on_record
from workshop.models import MINUTE_FIELDS, Lathe, Learned, ShopFigures, User
from workshop.permissions import Deed, require
from workshop.store.actions import keep_figures, keep_tooling

_SAME: float = 0.005  # relative: what is accepted is what was seen, to the digits that are shown


class MovedError(Exception):
    """The data have moved since the page was drawn; ``now`` is what they say."""

    def __init__(self, now: Learning | None) -> None:
        super().__init__()
        self.now = now


@transaction.atomic
def accept(user: User, key: str, *, seen: float) -> Learned:
    """Put a refit into force from the next job on; ``seen`` is the value the lead saw."""
    require(user, Deed.SET_PRICES)
    rows = all_learning(user, on_record(user), last_refitted(user))
    learning = next((row for row in rows if row.key == key), None)
    if learning is None or not math.isclose(learning.refit.now, seen, rel_tol=_SAME):
        raise MovedError(learning)
    refit = learning.refit
    row = Learned.of(user).create(
        figure=learning.figure,
        whose=learning.whose,
        prior=refit.prior,
        data=refit.data,
        value=refit.now,
        low=refit.low,
        high=refit.high,
        pairs=refit.pairs,
        was=learning.in_force,
        accepted_by=user,
    )
    _put(user, row, row.value)
    return row


@transaction.atomic
def take_back(user: User, pk: int) -> Learned | None:
    """Take an accepted figure back: what stood before it stands again. Only the newest of a figure can be."""
    require(user, Deed.SET_PRICES)
    row = Learned.of(user).select_for_update(of=("self",)).filter(pk=pk, taken_back_by=None).first()
    if row is None or row.pk != _newest(user, row):
        return None
    row.taken_back_by, row.taken_back_at = user, timezone.now()
    row.save(update_fields=["taken_back_by", "taken_back_at"])
    if row.was is not None:
        _put(user, row, row.was)
    return row


def _newest(user: User, row: Learned) -> int:
    rows = Learned.of(user).filter(figure=row.figure, whose=row.whose, taken_back_by=None)
    return int(rows.order_by("-pk").values_list("pk", flat=True)[0])


def _put(user: User, row: Learned, value: float) -> None:
    """Write a figure that has a place in the store there; the others are read where they were accepted."""
    if row.figure == Learned.Figure.LATHE:
        lathe = Lathe.of(user).filter(pk=int(row.whose)).first()
        if lathe is not None:
            lathe.runout_left_mm = round(value, 4)
            keep_tooling(user, lathe)
    elif row.figure == Learned.Figure.MINUTES:
        kept = ShopFigures.in_force(user)
        figures: dict[str, Any] = {MINUTE_FIELDS[row.whose]: float(round(value))}
        keep_figures(user, version=kept.version, **figures)
