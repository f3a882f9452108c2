"""Writes at the bench: an attempt begun, an act, a draft of the answer, the answer with its marks."""

from collections.abc import Callable
from dataclasses import asdict, replace
from typing import Any, Final

from django.db import IntegrityError, transaction
from django.utils import timezone
from django.utils.crypto import get_random_string

from compass.evidence.shop import Shop
from compass.simulate.bench import true_high_deg, true_tir_mm
from compass.simulate.corner import SimulatedCorner
from compass.simulate.marking import (
    Answer,
    Drive,
    Mark,
    Noted,
    Truth,
    best_drive,
    drive,
    mark,
    mark_minutes,
    par_minutes,
    share_of_marks,
    technique,
)
from compass.simulate.visit import WORKSHOP
from practice.corner.acts import ACTS, OPENING_MINUTES, Touch
from practice.corner.standing import AtBench, at_bench, exercise_of, records
from practice.models import Attempt, MadeExercise
from workshop.models import User
from workshop.permissions import Deed, require

SHOP: Final[Shop] = WORKSHOP  # plates and lathes of the bench, whatever the real store holds
_SEEDS: Final = 2**31


class EndedError(Exception):
    """The attempt is over: its truth is on the table."""


def begin(user: User, code: str, *, made: MadeExercise | None = None) -> Attempt:
    """Return the open attempt at an exercise, or begin one. Raises KeyError where there is no such exercise."""
    require(user, Deed.PRACTISE)
    exercise = exercise_of(code, made)
    first = next(iter(made.corners if made is not None else exercise.corners))
    seed = int(get_random_string(9, "0123456789")) % _SEEDS
    try:
        with transaction.atomic():
            row, _new = Attempt.of(user).get_or_create(
                person=user, exercise=code, ended_at=None, defaults={"seed": seed, "here": first, "made": made}
            )
    except IntegrityError:  # pressed twice at the same moment
        row = Attempt.of(user).get(person=user, exercise=code, ended_at=None)
    return row


def _changing(user: User, pk: int, change: Callable[[AtBench], None]) -> AtBench:
    """Change an open attempt of one's own, alone at it."""
    require(user, Deed.PRACTISE)
    row = Attempt.of(user).select_for_update(of=("self",)).select_related("made").get(pk=pk, person=user)
    if row.ended_at is not None:
        raise EndedError
    bench = at_bench(row)
    change(bench)
    row.save()
    return bench


@transaction.atomic
def act(user: User, pk: int, name: str, touch: Touch) -> AtBench:
    """Carry an act out, charged in minutes. Raises ``UnreadableNumberError`` for a reading that is none."""

    def change(bench: AtBench) -> None:
        opened = {row["at"] for row in bench.attempt.noted} | set(bench.attempt.stands)
        ACTS[name].do(bench, touch)
        bench.attempt.minutes += ACTS[name].minutes
        if name == "corner" and bench.here not in opened:
            bench.attempt.minutes += OPENING_MINUTES

    return _changing(user, pk, change)


@transaction.atomic
def keep_draft(user: User, pk: int, told: dict[str, str]) -> None:
    """Keep answers as they are typed: a reload, another device goes on with them."""

    def change(bench: AtBench) -> None:
        bench.attempt.draft = {name: text.replace("\x00", "")[:60] for name, text in told.items()}

    _changing(user, pk, change)


@transaction.atomic
def answer(user: User, pk: int, said: Answer) -> Attempt:
    """End an attempt: mark it against what was hidden, and drive the vehicle on."""

    def change(bench: AtBench) -> None:
        row, exercise = bench.attempt, bench.exercise
        where = said.corner or exercise.at
        left = as_left(bench)
        driven = best = None
        if "choice" in exercise.asks:
            if said.remedy and where in left:
                driven = drive(left, bench.specs, where, said.remedy, said.settings, shop=SHOP, seed=bench.seed)
            best = best_drive(left, bench.specs, [exercise.at], shop=SHOP, seed=bench.seed)
        truth = truth_of(bench, best)
        marks = [
            *technique(records(row.noted), asks=exercise.asks, looked=_looked(bench)),
            *mark(exercise.asks, said, truth, bench.specs[exercise.at], driven=driven),
            mark_minutes(row.minutes, par_minutes(exercise.asks, len(bench.corners))),
        ]
        row.answer = asdict(said) | {"settings": dict(said.settings)}
        row.marks = {
            "marks": [asdict(one) for one in marks],
            "driven": asdict(driven) if driven is not None else None,
            "best": asdict(best) if best is not None else None,
        }
        row.total = share_of_marks(marks)
        row.minutes += driven.minutes if driven is not None else 0.0
        row.ended_at = timezone.now()

    return _changing(user, pk, change).attempt


def marks_of(row: Attempt) -> tuple[list[Mark], Drive | None, Drive | None]:
    """Return the marks of an attempt that is over, the drive that was chosen, and the best there was."""
    kept: dict[str, Any] = row.marks or {"marks": [], "driven": None, "best": None}
    driven, best = (Drive(**kept[name]) if kept[name] else None for name in ("driven", "best"))
    return [Mark(**one) for one in kept["marks"]], driven, best


def truth_of(bench: AtBench, best: Drive | None) -> Truth:
    """Return what there was to find at the corner that matters, as its rotor stands."""
    at = bench.exercise.at
    corner, spec, stand = bench.corners[at], bench.specs[at], bench.stands[at]
    return Truth(
        high_deg=true_high_deg(corner, spec, stand),
        tir_mm=true_tir_mm(corner, spec, stand),
        variation_mm=corner.true_variation_mm(),
        thinnest_mm=corner.true_minimum_mm(),
        corners=(at,),
        causes=bench.exercise.right,
        best=best,
    )


def as_left(bench: AtBench) -> dict[str, SimulatedCorner]:
    """Return the corners as they are left: what was cleaned is clean, nuts that were torqued are no one else's."""
    left = {}
    for position, corner in bench.corners.items():
        stand = bench.stands[position]
        joint = 0j if stand.cleaned else corner.joint
        left[position] = replace(corner, joint=joint, nuts=corner.nuts if stand.as_found else 0j)
    return left


def _looked(bench: AtBench) -> Noted:
    """Return how the corner stood when it was answered, for those who noted nothing."""
    return Noted("dial", 0.0, 1, 0, **bench.conditions())
