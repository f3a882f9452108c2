"""Writes about people."""

from typing import Any

from axes.utils import reset
from django.conf import settings
from django.db import transaction
from django.utils import timezone

from workshop.models import User
from workshop.people.opening import give_first_password
from workshop.permissions import Deed, require


def set_preferences(
    user: User, *, units: str | None = None, theme: str | None = None, language: str | None = None
) -> None:
    """Remember how a person wants to see figures and pages."""
    if units in User.Units.values:
        user.units = units
    if theme in User.Theme.values:
        user.theme = theme
    if language in dict(settings.LANGUAGES):
        user.language = language
    # A person's own row may belong to another workshop of the chain than the one they are in.
    User.of(None).filter(pk=user.pk).update(units=user.units, theme=user.theme, language=user.language)


@transaction.atomic
def add_person(user: User, *, username: str, password: str, **fields: Any) -> User:
    """Let a person sign in."""
    require(user, Deed.MANAGE_PEOPLE)
    person = User(username=username, **fields)
    person._history_user = user
    person.set_password(password)
    person.has_first_password = True
    person.full_clean()
    person.save()
    return person


def change_password(user: User, password: str) -> None:
    """Give oneself a password that nobody else knows."""
    user.set_password(password)
    user.has_first_password = False
    User.of(None).filter(pk=user.pk).update(password=user.password, has_first_password=False)


@transaction.atomic
def reset_password(user: User, person: User) -> str:
    """Give somebody a first password again, unlock them, and return it: it is shown once and changed at sign-in."""
    require(user, Deed.MANAGE_PEOPLE)
    password = give_first_password(person)
    User.of(user).filter(pk=person.pk).update(password=person.password, has_first_password=True)
    reset(username=person.username)
    return password


def unlock(user: User, person: User) -> bool:
    """Let somebody try again who typed too many wrong passwords. Return whether they were locked."""
    require(user, Deed.MANAGE_PEOPLE)
    return bool(reset(username=person.username))


@transaction.atomic
def change_person(user: User, person: User, *, role: str, is_active: bool) -> User:
    """Change what a person may do. Nobody takes the last lead's keys, not even that lead."""
    require(user, Deed.MANAGE_PEOPLE)
    leads = User.of(user).select_for_update().filter(role=User.Role.LEAD, is_active=True)
    stays_lead = role == User.Role.LEAD and is_active
    if not stays_lead and [lead.pk for lead in leads] == [person.pk]:
        raise LastLeadError
    person.role, person.is_active = role, is_active
    person._history_user = user
    person._history_date = timezone.now()
    person.save()
    return person


class LastLeadError(Exception):
    """The change would leave the workshop without a lead."""
