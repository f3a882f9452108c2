"""Writes after a job is closed: the owner was rung, and whether a visit is a comeback of that work."""

from django.db import transaction
from django.utils import timezone

from jobs.models import Closing
from workshop.models import User
from workshop.permissions import Deed, require
from workshop.vehicles import note_odometer


class SeenAgainError(Exception):
    """The vehicle has been here since: there is nobody to ring about this any more."""


class AnsweredError(Exception):
    """Somebody has said already whether it is a comeback; ``closing`` says who and what."""

    def __init__(self, closing: Closing) -> None:
        super().__init__(closing.pk)
        self.closing = closing


@transaction.atomic
def ring(user: User, closing: Closing, *, said: str, note: str = "", odometer_km: int | None = None) -> Closing:
    """Note what the owner said; an odometer told on the telephone is the vehicle's newest."""
    require(user, Deed.EDIT_JOB)
    row = Closing.of(user).select_for_update(of=("self",)).select_related("vehicle").get(pk=closing.pk)
    if row.seen_again_id is not None or not row.stands:
        raise SeenAgainError
    row._history_user = user
    row.rung, row.rung_at, row.rung_by, row.rung_note = said, timezone.now(), user, note.strip()[:300]
    row.save(update_fields=["rung", "rung_at", "rung_by", "rung_note"])
    if odometer_km is not None:
        note_odometer(user, row.vehicle, odometer_km, runs_back=True)
    return row


@transaction.atomic
def say_comeback(user: User, closing: Closing, *, comeback: bool, correct: bool = False) -> Closing:
    """Say whether the vehicle's visit since is a comeback of that work.

    Raises ``AnsweredError`` where another has said otherwise meanwhile, unless it is to be corrected.
    """
    require(user, Deed.EDIT_JOB)
    row = Closing.of(user).select_for_update(of=("self",)).get(pk=closing.pk)
    if row.seen_again_id is None:
        raise SeenAgainError
    if row.comeback is not None and row.comeback != comeback and not correct:
        raise AnsweredError(row)
    if row.comeback != comeback:
        row._history_user = user
        row.said(comeback=comeback, comeback_by=user)
    return row
