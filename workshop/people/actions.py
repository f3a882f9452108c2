"""Writes about people."""

from typing import Any

from django.db import transaction
from django.utils import timezone

from workshop.models import User
from workshop.permissions import Deed, require


def set_preferences(user: User, *, units: str | None = None, theme: str | None = None) -> None:
    """Remember how a person wants to see figures and pages."""
    if units in User.Units.values:
        user.units = units
    if theme in User.Theme.values:
        user.theme = theme
    User.of(user).filter(pk=user.pk).update(units=user.units, theme=user.theme)


@transaction.atomic
def add_person(user: User, *, username: str, password: str, **fields: Any) -> User:
    """Let a person sign in."""
    require(user, Deed.MANAGE_PEOPLE)
    person = User(username=username, **fields)
    person._history_user = user
    person.set_password(password)
    person.full_clean()
    person.save()
    return person


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
