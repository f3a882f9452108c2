"""What edits of a tape leave on record: the tape, written once, and a line of its history for each step to undo."""

from copy import copy
from datetime import timedelta
from typing import Any

from django.utils import timezone

from jobs.models import Tape
from workshop.models import User

_GOING_ON = timedelta(seconds=20)  # typing on in one cell is one step to undo
_WRITTEN = ("typed", "readings_mm", "marks", "undo_cursor")


class Edits:
    """Edits that came at once: a keystroke alone, or a whole turn from a device or from a line that was down."""

    def __init__(self, user: User, tape: Tape) -> None:
        self._user, self._tape = user, tape
        self._lines: list[Tape] = []  # the tape as it stood after each step that is new in its history
        self._goes_on: Any = None  # the line that stood last before, where the first edit went on in its cell

    def note(self, slot: int, *, final: bool) -> None:
        """Note that a slot of the tape was written; what follows in one cell shares one line, so one undo takes all."""
        self._tape.undo_cursor = None
        typing = f"slot {slot}…"
        reason = f"slot {slot}" if final else typing
        last = self._last(typing)
        if last is None:
            last = copy(self._tape)
            last._history_user = self._user
            self._lines.append(last)
        last.typed, last.readings_mm = list(self._tape.typed), list(self._tape.readings_mm)
        if last is self._goes_on:
            last.history_change_reason = reason
        else:
            last._change_reason = reason

    def _last(self, typing: str) -> Any:
        """Return the line that an edit of this cell goes on in, if any."""
        if self._lines:
            return self._lines[-1] if self._lines[-1]._change_reason == typing else None
        last = self._goes_on or self._tape.history.first()
        if last is None or last.history_change_reason != typing or last.history_user_id != self._user.pk:
            return None
        if timezone.now() - last.history_date >= _GOING_ON:
            return None
        self._goes_on = last
        return last

    def keep(self) -> None:
        """Write the tape and its history; nothing where nothing was noted."""
        if self._goes_on is not None:
            self._goes_on.save(update_fields=("typed", "readings_mm", "history_change_reason"))
        if self._lines:
            type(self._tape).history.bulk_history_create(self._lines, update=True)
        if self._goes_on is not None or self._lines:
            self._tape.skip_history_when_saving = True
            self._tape.save(update_fields=_WRITTEN)
            del self._tape.skip_history_when_saving
