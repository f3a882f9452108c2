"""Who somebody is: names are looked up at the door, whoever has signed in is looked up inside their workshop."""

from typing import Any

from django.contrib.auth.backends import ModelBackend
from django.http import HttpRequest

from workshop.models import Membership, User
from workshop.walls import at_the_door, here


class DoorBackend(ModelBackend):
    """Django's own, which finds a name in any workshop while nobody has signed in, and only in this one after."""

    def authenticate(self, request: HttpRequest | None, **said: Any) -> Any:
        """Return the person of a name and password; None where they do not go together."""
        if here() is not None:
            return super().authenticate(request, **said)
        with at_the_door():
            return super().authenticate(request, **said)

    def get_user(self, user_id: int) -> User | None:
        """Return who has signed in; nobody where they may not enter the workshop of the session any more."""
        user: User | None = super().get_user(user_id)
        if user is None:
            return None
        if user.workshop_id != here() and here() not in {row.pk for row in Membership.workshops_of(user.pk)}:
            return None
        user.be_in(here())
        return user
