"""Sessions made by hand: for measuring and for tests, where nobody types a password."""

from django.contrib.auth import BACKEND_SESSION_KEY, HASH_SESSION_KEY, SESSION_KEY
from django.contrib.sessions.backends.db import SessionStore

from workshop.models import User
from workshop.walls import KEPT_IN_SESSION


def session_of(user: User) -> str:
    """Sign ``user`` in and return the session's key."""
    session = SessionStore()
    session[SESSION_KEY] = str(user.pk)
    session[BACKEND_SESSION_KEY] = "workshop.people.backends.DoorBackend"
    session[HASH_SESSION_KEY] = user.get_session_auth_hash()
    session[KEPT_IN_SESSION] = user.here_id
    session.save()
    return str(session.session_key)
