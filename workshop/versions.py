"""Rows that two people may have open at once: saved only by who saw the last version."""

from typing import Any

from workshop.models import User


class StaleError(Exception):
    """Somebody else changed the row since the page was drawn."""


def save_version(user: User, row: Any, *, version: int, **fields: Any) -> None:
    """Set fields on a locked row and count its version on; ``StaleError`` where it is not ``version`` any more."""
    if row.version != version:
        raise StaleError
    for name, value in fields.items():
        setattr(row, name, value)
    row.version += 1
    row._history_user = user
    row.full_clean()
    row.save()
