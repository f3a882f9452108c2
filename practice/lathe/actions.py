"""Writes at the lathes: a disc begun, what is done to it, its end."""

from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass, replace
from functools import lru_cache
from typing import Any, Final

import numpy as np
from django.db import transaction
from django.utils import timezone
from django.utils.crypto import get_random_string

from compass.simulate.corner import SimulatedCorner
from compass.simulate.hidden import hide
from compass.simulate.lathe import MARKS, Cut, LatheStand, compensated, cut, half_turn, lathe_marks
from practice.exercises import SPEC
from practice.lathe.tasks import BY_CODE, LatheTask
from practice.models import LatheTry
from workshop.models import User
from workshop.permissions import Deed, require

MOST_CUTS: Final = 12
MOST_LINES: Final = 40.0


class OverError(Exception):
    """The disc is off the lathe: what was done to it is marked."""


@dataclass
class AtLathe:
    """Somebody at a lathe."""

    row: LatheTry
    task: LatheTask
    corner: SimulatedCorner
    stand: LatheStand

    def put(self, stand: LatheStand) -> None:
        """Let the lathe stand otherwise."""
        self.stand = stand
        self.row.stand = asdict(stand)


@lru_cache(maxsize=128)
def _disc(code: str, seed: int) -> SimulatedCorner:
    return hide(BY_CODE[code].hidden, SPEC, np.random.default_rng((seed, 0)))


def at_lathe(row: LatheTry) -> AtLathe:
    """Return a try with what it hides."""
    task = BY_CODE[row.task]
    return AtLathe(row, task, _disc(row.task, row.seed), _stand(row.stand) if row.stand else task.begins)


def _stand(data: dict[str, Any]) -> LatheStand:
    faces = data["faces"]
    cuts = tuple(Cut(**one) for one in data["cuts"])
    return LatheStand(**data | {"cuts": cuts, "faces": (tuple(faces[0]), tuple(faces[1])) if faces else None})


def begin(user: User, code: str) -> LatheTry:
    """Return the open try at a disc, or begin one. Raises KeyError where there is no such task."""
    require(user, Deed.PRACTISE)
    task = BY_CODE[code]
    seed = int(get_random_string(9, "0123456789"))
    row, _new = LatheTry.of(user).get_or_create(person=user, task=task.code, ended_at=None, defaults={"seed": seed})
    return row  # type: ignore[no-any-return]


def _clean(bench: AtLathe, lines: tuple[float, float], feed: str) -> str:
    bench.put(replace(bench.stand.anew(), clean=True, by_hand=None, flush=False))
    return ""


def _hand(bench: AtLathe, lines: tuple[float, float], feed: str) -> str:
    bench.put(replace(bench.stand.anew(), by_hand=True))
    return ""


def _gun(bench: AtLathe, lines: tuple[float, float], feed: str) -> str:
    bench.put(replace(bench.stand.anew(), by_hand=False))
    return ""


def _flush(bench: AtLathe, lines: tuple[float, float], feed: str) -> str:
    bench.put(replace(bench.stand.anew(), flush=True))
    return ""


def _compensate(bench: AtLathe, lines: tuple[float, float], feed: str) -> str:
    if bench.stand.by_hand is None:
        return "not_on"
    if bench.stand.kind == "bench":
        bench.put(replace(bench.stand, left_mm=None))
        return half_turn(bench.corner, bench.stand, seed=bench.row.seed)
    bench.put(compensated(bench.stand, seed=bench.row.seed)[0])
    return ""


def _damper(bench: AtLathe, lines: tuple[float, float], feed: str) -> str:
    bench.put(replace(bench.stand, damper=not bench.stand.damper))
    return ""


def _scratch(bench: AtLathe, lines: tuple[float, float], feed: str) -> str:
    if bench.stand.by_hand is None:
        return "not_on"
    bench.put(replace(bench.stand, scratched=True))
    return ""


def _zero(bench: AtLathe, lines: tuple[float, float], feed: str) -> str:
    if bench.stand.by_hand is None:
        return "not_on"
    bench.put(replace(bench.stand, zeroed=True))
    return ""


def _pass(bench: AtLathe, lines: tuple[float, float], feed: str) -> str:
    if bench.stand.by_hand is None:
        return "not_on"
    if not any(lines) or len(bench.stand.cuts) >= MOST_CUTS:
        return "no_lines"
    out, inn = lines
    made = cut(bench.corner, bench.stand, out_lines=out, in_lines=inn, feed=feed, seed=bench.row.seed)
    bench.put(replace(made, zeroed=bench.stand.zeroed))
    return ""


@dataclass(frozen=True)
class LatheAct:
    """An act at the lathe with the minutes it is charged."""

    do: Callable[[AtLathe, tuple[float, float], str], str]
    minutes: float


ACTS: Final[Mapping[str, LatheAct]] = {
    "clean": LatheAct(_clean, 5),
    "hand": LatheAct(_hand, 3),
    "gun": LatheAct(_gun, 1),
    "flush": LatheAct(_flush, 1),
    "compensate": LatheAct(_compensate, 3),
    "damper": LatheAct(_damper, 1),
    "scratch": LatheAct(_scratch, 2),
    "zero": LatheAct(_zero, 1),
    "cut": LatheAct(_pass, 7),
}


@transaction.atomic
def act(user: User, pk: int, name: str, *, lines: tuple[float, float], feed: str) -> tuple[AtLathe, str]:
    """Carry an act out; return how it stands and, where something is to be said, a code of it."""
    bench = _own(user, pk)
    said = ACTS[name].do(bench, lines, feed)
    bench.row.minutes += ACTS[name].minutes
    bench.row.lines = [*lines]
    bench.row.feed = feed
    bench.row.save()
    return bench, said


@transaction.atomic
def finish(user: User, pk: int) -> AtLathe:
    """Take the disc off and mark what was done."""
    bench = _own(user, pk)
    marks = lathe_marks(bench.corner, SPEC, bench.stand, seed=bench.row.seed)
    bench.row.marks = dict(marks)
    bench.row.total = round(sum(MARKS[code] for code, held in marks if held) * 100 / sum(MARKS.values()))
    bench.row.ended_at = timezone.now()
    bench.row.save()
    return bench


def _own(user: User, pk: int) -> AtLathe:
    require(user, Deed.PRACTISE)
    row = LatheTry.of(user).select_for_update(of=("self",)).get(pk=pk, person=user)
    if row.ended_at is not None:
        raise OverError
    return at_lathe(row)
