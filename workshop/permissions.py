"""Who may do what: the one place that says so. Views ask ``require``; templates get ``may`` through a tag."""

from enum import StrEnum
from typing import Final, Protocol

from django.core.exceptions import PermissionDenied

from workshop.models import User


class Deed(StrEnum):
    """Everything that is guarded."""

    READ_JOBS = "read_jobs"
    MEASURE = "measure"  # type readings, confirm a set-up
    LIFT_STOP = "lift_stop"  # take back a finding that keeps a vehicle off the road
    OPEN_JOB = "open_job"
    EDIT_JOB = "edit_job"  # words, odometer, who has it
    SET_LIMITS = "set_limits"
    KEEP_STORE = "keep_store"  # lathes, plates in stock
    SET_PRICES = "set_prices"  # prices, minutes, the workshop's policy
    CHOOSE = "choose"  # decide on a remedy, fit a plate
    DO = "do"  # carry out steps of the decided work, record a cut
    SIGN_HOLD = "sign_hold"  # be the second person at a hold point, or pass it by a reason
    CLOSE_JOB = "close_job"
    MANAGE_PEOPLE = "manage_people"
    PRACTISE = "practise"  # on the bench, where nothing is a record
    LEAD_PRACTICE = "lead_practice"  # see how others get on, make exercises from jobs


_EVERYONE: Final = frozenset(User.Role.values)
_TRAINED: Final = frozenset({User.Role.TECHNICIAN, User.Role.LEAD})
ROLES: Final[dict[Deed, frozenset[str]]] = {
    Deed.READ_JOBS: _EVERYONE,
    Deed.MEASURE: _EVERYONE,
    Deed.LIFT_STOP: _TRAINED,
    Deed.OPEN_JOB: _TRAINED,
    Deed.EDIT_JOB: _TRAINED,
    Deed.SET_LIMITS: _TRAINED,
    Deed.KEEP_STORE: _TRAINED,
    Deed.SET_PRICES: frozenset({User.Role.LEAD}),
    Deed.CHOOSE: _TRAINED,
    Deed.DO: _TRAINED,
    Deed.SIGN_HOLD: _TRAINED,
    Deed.CLOSE_JOB: _TRAINED,
    Deed.MANAGE_PEOPLE: frozenset({User.Role.LEAD}),
    Deed.PRACTISE: _EVERYONE,
    Deed.LEAD_PRACTICE: frozenset({User.Role.LEAD}),
}


# Asked of who has typed their password this time: a PIN of four digits signs nothing.
_BY_PASSWORD: Final = frozenset({Deed.SIGN_HOLD, Deed.CLOSE_JOB, Deed.MANAGE_PEOPLE, Deed.SET_PRICES})
NEEDS_PASSWORD: Final = "needs_password"  # noqa: S105  # a word for a page, not a password
NOT_PUT_ON: Final = "not_put_on"  # a trainee, on a job that is not theirs


def may(user: User, deed: Deed) -> bool:
    """Whether ``user`` may do ``deed``."""
    return user.is_authenticated and user.is_active and user.role in ROLES[deed]


def may_work(user: User, *, trainees: bool) -> bool:
    """Whether ``user`` may carry out steps; ``trainees``: whether the lead lets them (holds are passed by two)."""
    return may(user, Deed.DO) or (trainees and may(user, Deed.MEASURE))


class HasHands(Protocol):
    """A job, by whose it is."""

    assigned_to_id: int | None
    with_trainee_id: int | None


def may_write(user: User, job: HasHands) -> bool:
    """Whether ``user`` may write on a job as far as the job goes: a trainee only where it is put on."""
    return user.role != User.Role.TRAINEE or user.pk in (job.assigned_to_id, job.with_trainee_id)


def may_sign(user: User) -> bool:
    """Whether ``user`` signs, or passes a hold by a reason, as they came in: a role that may, and a password."""
    return may(user, Deed.SIGN_HOLD) and not user.by_pin


def require(user: User, deed: Deed) -> None:
    """Refuse with 403 what ``user`` may not do, or may do only with their password."""
    if not may(user, deed):
        raise PermissionDenied(deed.value)
    if user.by_pin and deed in _BY_PASSWORD:
        raise PermissionDenied(NEEDS_PASSWORD)
