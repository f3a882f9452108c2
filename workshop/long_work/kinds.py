"""Kinds of long work. An app says what it can do by ``can_do`` when it is ready; a worker looks it up here."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

from django.utils.functional import Promise

from workshop.models import LongWork


class WorkRefusedError(Exception):
    """What was given cannot be worked on: sentences for who asked. Nothing is tried again."""

    def __init__(self, *said: str) -> None:
        super().__init__(*said)
        self.said = list(said)


class WorkStoppedError(Exception):
    """Who asked has stopped it."""


@dataclass(frozen=True, slots=True)
class Made:
    """What a work makes: a file to fetch or a row (``about``: its number), or neither; sentences for who asked."""

    content: bytes | None = None
    name: str = ""
    content_type: str = ""
    said: tuple[str, ...] = ()
    about: int | None = None


@dataclass(frozen=True, slots=True)
class Report:
    """How a work says how far it is. ``note(done, of)`` raises ``WorkStoppedError`` where it was stopped meanwhile.

    ``behind`` are the names of parts that an earlier try has left behind it; ``leave_behind`` adds one.
    """

    note: Callable[[int, int], None]
    behind: frozenset[str]
    leave_behind: Callable[[str], None]


CarryOut = Callable[[LongWork, Report], Made]
LeadsTo = Callable[[LongWork], str]


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of long work: what its page is headed, and what a worker does.

    ``leads_to`` returns the address of the page that shows how far it is and what it came to; None: a page of its own.
    """

    title: Promise
    carry_out: CarryOut
    leads_to: LeadsTo | None = None


KINDS: Final[dict[str, Kind]] = {}


def can_do(code: str, title: Promise, carry_out: CarryOut, *, leads_to: LeadsTo | None = None) -> None:
    """Let workers carry out a kind of work."""
    KINDS[code] = Kind(title, carry_out, leads_to)
