"""Pages of our own where the server itself is at a loss."""

import sys
from collections.abc import Callable
from typing import Final

import psycopg
from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string

from ironcompass import patience

_NEEDS_NO_DATABASE: Final = "/health/live/"


def server_error(request: HttpRequest) -> HttpResponse:
    """Say that something broke, or that the database does not answer; neither page asks the database anything."""
    error = sys.exc_info()[1]
    if isinstance(error, OperationalError | InterfaceError):
        if isinstance(error.__cause__, psycopg.errors.ConnectionTimeout):
            patience.note_silence()
        return _away()
    return HttpResponse(render_to_string("500.html", {"away": False}), status=500)


def _away() -> HttpResponse:
    return HttpResponse(render_to_string("500.html", {"away": True}), status=503, headers={"Retry-After": "5"})


class SilentDatabaseMiddleware:
    """Answer at once while the database is silent; now and then a request goes on and asks it."""

    def __init__(self, answer: Callable[[HttpRequest], HttpResponse]) -> None:
        self.answer = answer

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Say that it is silent, or let the request through."""
        if request.path != _NEEDS_NO_DATABASE and patience.is_tried_already():
            return _away()
        return self.answer(request)
