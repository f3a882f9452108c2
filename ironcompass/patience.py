"""How long a page waits for a database that has fallen silent: PostgreSQL's own limits end with PostgreSQL.

A database whose machine is stopped, or whose disk hangs, keeps its connections open and says nothing. Every request
would wait for it for ever, until no thread is left for those that need no database. So each wait has an end on this
side, too; and after one that ran out, a request in two seconds asks again, briefly, and the others are told at once.
"""

import time
from typing import Any, Final

import psycopg
from django.db.backends.signals import connection_created

_LONGEST: Final = 12.0  # seconds: a little over the statements' own limit (workshop.database_role)
_SUSPICIOUS: Final = 1.0
_ASKED_EVERY: Final = 2.0

_silent: dict[str, float] = {}  # "asked": when this process last asked a database that is silent; empty: it speaks


def note_silence() -> None:
    """Remember that the database did not answer."""
    _silent["asked"] = time.monotonic()


def is_tried_already() -> bool:
    """Tell whether the database is silent and somebody has just asked it; False: ask it, for the others."""
    asked = _silent.get("asked")
    if asked is not None and time.monotonic() - asked < _ASKED_EVERY:
        return True
    if asked is not None:
        note_silence()
    return False


def bound_waits() -> None:
    """Bound every wait of connections that are made from now on in this process."""
    connection_created.connect(_bound, dispatch_uid="patience")


def _bound(connection: Any, **_told: Any) -> None:
    bound(connection.connection)


def bound(connection: "psycopg.Connection[Any]", longest: float = _LONGEST) -> None:
    """Bound every wait of one connection: ``OperationalError``, and the connection is given up."""

    def wait(gen: Any, interval: float = 0.1, timeout: float | None = None) -> Any:
        limit = timeout or (min(_SUSPICIOUS, longest) if _silent else longest)
        begun = time.monotonic()
        try:
            said = psycopg.Connection.wait(connection, gen, interval, limit)
        except psycopg.OperationalError as error:
            if time.monotonic() - begun < limit:
                raise
            note_silence()
            connection.pgconn.finish()  # whatever it says from now on belongs to no request
            raise psycopg.OperationalError("the database is silent") from error
        _silent.clear()
        return said

    connection.wait = wait  # type: ignore[method-assign]
