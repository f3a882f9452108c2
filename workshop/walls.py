"""The walls between workshops: which one this thread works in, and how the database is told.

A request works in one workshop (``InWorkshopMiddleware``), a command in one it names (``inside``). Rows are read
through ``Model.of(person)``; behind that PostgreSQL itself shows a connection the rows of its workshop only (row-level
security on every table that has a workshop), so that a forgotten door shows nothing instead of everything.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any, Final
from weakref import WeakKeyDictionary

from django.db import connection
from django.db.backends.signals import connection_created
from django.http import HttpRequest, HttpResponse

_here: ContextVar[int | None] = ContextVar("workshop", default=None)
# What a connection was told last, so that the same is not told at every request.
_told: WeakKeyDictionary[Any, str] = WeakKeyDictionary()
KEPT_IN_SESSION: Final = "workshop"
NAME_IN_SESSION: Final = "workshop_name"  # only of who may enter more than one


def here() -> int | None:
    """Return the workshop this thread works in; None: nobody has said, and the database refuses rows without one."""
    return _here.get()


def enter(number: int | None) -> None:
    """Work in a workshop from now on, or in none; for the rest of the request."""
    _here.set(number)
    connection.close_if_health_check_failed()
    if connection.connection is not None:
        _tell_where(connection)


@contextmanager
def inside(number: int | None) -> Iterator[None]:
    """Work in a workshop for a while."""
    before = _here.get()
    enter(number)
    try:
        yield
    finally:
        enter(before)


@contextmanager
def at_the_door() -> Iterator[None]:
    """Look somebody up before it is known where they belong: names of sign-in, keys of devices, memberships."""
    connection.ensure_connection()
    _tell(connection, "ic.door", "open")
    try:
        yield
    finally:
        if connection.connection is not None:
            _tell(connection, "ic.door", "")


def _tell(connection: Any, name: str, text: str) -> None:
    # For the connection and not for a transaction: it must hold for whatever comes next, in or out of one.
    with connection.wrap_database_errors:
        connection.connection.execute("select set_config(%s, %s, false)", [name, text])


def _tell_where(connection: Any, **_rest: Any) -> None:
    number, server = _here.get(), connection.connection
    text = "" if number is None else f"{number}"
    if _told.get(server) == text:
        return
    _told.pop(server, None)
    _tell(connection, "ic.workshop", text)
    if not connection.in_atomic_block and connection.autocommit:  # else a rollback takes it back, and nobody is told
        _told[server] = text


def tell_new_connections() -> None:
    """Let every connection know where it is from its first query on, also one that is made anew amid a request."""
    connection_created.connect(_tell_where, dispatch_uid="walls")


class InWorkshopMiddleware:
    """Work in the workshop the session was signed in to; a connection keeps nothing of the request before."""

    def __init__(self, answer: Callable[[HttpRequest], HttpResponse]) -> None:
        self.answer = answer

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Enter, answer, and leave as it was found."""
        before = _here.get()
        enter(request.session.get(KEPT_IN_SESSION))
        try:
            return self.answer(request)
        finally:
            if before is None:
                _here.set(None)  # the next request tells the connection where it is, if that is elsewhere
            else:
                enter(before)
