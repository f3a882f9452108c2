"""Quick switching on a shared tablet: who signed in fully on this device this shift comes back by a short PIN.

The device is known by a signed cookie that names who signed in on it and when. A new password makes it forget them.
What signs work off, and what leads a house, still asks for the password (``workshop.permissions.require``).
"""

import time
from typing import Any, Final

from django.conf import settings
from django.contrib.auth.hashers import check_password, make_password
from django.core import signing
from django.http import HttpRequest, HttpResponse

from workshop.models import User
from workshop.people.backends import DoorBackend
from workshop.walls import at_the_door

BY_PIN: Final = "by_pin"  # in a session: nobody has typed a password
_COOKIE: Final = "people_here"
_SALT: Final = "workshop.people.quick_switch"
_MOST: Final = 12
_MARK: Final = 16


class PinBackend(DoorBackend):
    """Lets in by name and PIN. Where that may be tried is the view's to say; how often is axes'."""

    def authenticate(self, request: HttpRequest | None, *, username: str, pin: str) -> User | None:  # type: ignore[override]
        """Return the person whose PIN it is."""
        with at_the_door():
            person = User.of(None).filter(username=username, is_active=True).exclude(pin="").first()
        return person if person is not None and check_password(pin, person.pin) else None


def set_pin(user: User, pin: str) -> None:
    """Give oneself a PIN; an empty one takes it away."""
    user.pin = make_password(pin) if pin else ""
    User.of(None).filter(pk=user.pk).update(pin=user.pin)


def people_here(request: HttpRequest) -> list[User]:
    """Return who may come back by PIN on this device, the newest first."""
    seen = _seen(request)
    if not seen:
        return []
    with at_the_door():
        rows = {row.pk: row for row in User.of(None).filter(pk__in=seen, is_active=True).exclude(pin="")}
    held = [rows[pk] for pk in seen if pk in rows and rows[pk].get_session_auth_hash()[:_MARK] == seen[pk][1]]
    return held[::-1]


def remember_here(request: HttpRequest, response: HttpResponse, user: User) -> None:
    """Note on the device that somebody has signed in with their password."""
    seen = _seen(request)
    seen.pop(user.pk, None)
    seen[user.pk] = (round(time.time()), user.get_session_auth_hash()[:_MARK])
    rows = [[pk, *told] for pk, told in list(seen.items())[-_MOST:]]
    response.set_cookie(
        _COOKIE,
        signing.dumps(rows, salt=_SALT),
        max_age=settings.SESSION_COOKIE_AGE,
        httponly=True,
        samesite="Lax",
        secure=settings.SESSION_COOKIE_SECURE,
    )


def forget_here(response: HttpResponse) -> None:
    """Let the device know nobody."""
    response.delete_cookie(_COOKIE)


def _seen(request: HttpRequest) -> dict[int, tuple[int, str]]:
    """Return number, time and mark of who signed in here this shift; whatever was not signed by us is nobody."""
    try:
        rows: Any = signing.loads(request.COOKIES.get(_COOKIE, ""), salt=_SALT)
    except signing.BadSignature:
        return {}
    since = time.time() - settings.SESSION_COOKIE_AGE
    return {pk: (at, mark) for pk, at, mark in rows if at > since}
