"""Opening a workshop with its first lead, and the first passwords that somebody else knows."""

from typing import Final

from django.db import transaction
from django.utils.crypto import get_random_string

from workshop.models import User, Workshop
from workshop.walls import inside

_LENGTH: Final = 14
_PLAIN: Final = "abcdefghjkmnpqrstuvwxyz23456789"  # nothing that is taken for something else when it is read out


def give_first_password(person: User) -> str:
    """Give somebody a password that opens only the page where it is changed; return it. The row is not saved."""
    password = get_random_string(_LENGTH, _PLAIN)
    person.set_password(password)
    person.has_first_password = True
    return password


@transaction.atomic
def open_workshop(*, name: str, username: str) -> tuple[Workshop, str]:
    """Open a workshop; return it and its lead's first password. ``ValidationError`` where the name is taken or none."""
    row = Workshop(name=name)
    row.full_clean()
    row.save()
    return row, _lead(row, username)


@transaction.atomic
def lead_of_first_workshop(*, name: str, username: str) -> str:
    """Name the workshop that is there from the beginning and give it a lead; return the lead's first password."""
    row = Workshop.first()
    row.name = name
    row.full_clean()
    row.save()
    return _lead(row, username)


def _lead(workshop: Workshop, username: str) -> str:
    with inside(workshop.pk):
        lead = User(username=username, role=User.Role.LEAD)
        password = give_first_password(lead)
        lead.full_clean()
        lead.save()
    return password
