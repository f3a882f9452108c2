"""What a password may not be, beside what Django refuses, and how much of the machine checking one may take."""

import re
from threading import Lock
from typing import Any, Final

from django.contrib.auth.hashers import Argon2PasswordHasher
from django.core.exceptions import ValidationError
from django.utils.translation import gettext as _

_NAMES: Final = ("ironcompass", "password", "workshop", "qwerty")
_FEWEST_LETTERS: Final = 4  # beside a date, for it not to be the whole of the secret
_ONE: Final = Lock()
_DATE: Final = re.compile(r"\d{1,4}\D?\d{1,2}\D?\d{1,4}")


class NoDates:
    """Refuse a password that is little more than a date."""

    def validate(self, password: str, user: Any = None) -> None:
        """Raise ``ValidationError`` where without its digits and signs too little is left."""
        letters = sum(1 for sign in password if sign.isalpha())
        if _DATE.search(password) and letters < _FEWEST_LETTERS:
            raise ValidationError(_("A date is guessed in a second. Take a few words instead."), code="date")

    def get_help_text(self) -> str:
        """Say so."""
        return _("Not a date.")


class NoNamesOfTheHouse:
    """Refuse a password made of the product's or the workshop's name."""

    def validate(self, password: str, user: Any = None) -> None:
        """Raise ``ValidationError`` where a name of the house is most of it."""
        plain = re.sub(r"[^a-z]", "", password.casefold())
        workshop = getattr(user, "workshop", None) if user is not None and user.workshop_id else None
        called = re.sub(r"[^a-z]", "", workshop.name.casefold()) if workshop is not None else ""
        for name in (*_NAMES, called):
            if name and name in plain and len(plain) - len(name) < _FEWEST_LETTERS:
                raise ValidationError(_("That is what this place is called. Take a few words instead."), code="name")

    def get_help_text(self) -> str:
        """Say so."""
        return _("Not the name of this place.")


class OneAtATime(Argon2PasswordHasher):
    """Argon2, whose point is to be dear (100 MB for a moment): one at a time in each process, however many ask."""

    def encode(self, *given: Any, **more: Any) -> str:
        """Make a hash."""
        with _ONE:
            return str(super().encode(*given, **more))

    def verify(self, password: str, encoded: str) -> bool:
        """Hold a password against a hash."""
        with _ONE:
            return bool(super().verify(password, encoded))
