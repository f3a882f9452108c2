"""Who came in and who did not, for the lead of their workshop."""

from dataclasses import dataclass
from datetime import datetime
from typing import Final

from axes.helpers import get_cool_off, get_failure_limit
from axes.models import AccessAttempt, AccessFailureLog, AccessLog
from django.utils import timezone

from workshop.models import User

_SHOWN: Final = 60


@dataclass(frozen=True)
class SignInEvent:
    """One coming in, or one try that failed."""

    at: datetime
    username: str
    came_in: bool
    locked: bool
    whence: str


def sign_in_events(user: User) -> list[SignInEvent]:
    """Return the newest events of the names of a workshop; names of others are none of its business."""
    names = list(User.of(user).values_list("username", flat=True))
    came = AccessLog.objects.filter(username__in=names)[:_SHOWN]
    failed = AccessFailureLog.objects.filter(username__in=names)[:_SHOWN]
    events = [SignInEvent(row.attempt_time, row.username, True, False, row.ip_address or "") for row in came]
    events += [
        SignInEvent(row.attempt_time, row.username, False, row.locked_out, row.ip_address or "") for row in failed
    ]
    return sorted(events, key=lambda event: event.at, reverse=True)[:_SHOWN]


def locked_names(user: User) -> set[str]:
    """Return who of a workshop is locked for now, at one address or another."""
    names = list(User.of(user).values_list("username", flat=True))
    since = timezone.now() - get_cool_off()
    rows = AccessAttempt.objects.filter(username__in=names, attempt_time__gt=since)
    return set(rows.filter(failures_since_start__gte=get_failure_limit(None, None)).values_list("username", flat=True))
