"""Pages of our own where the server itself is at a loss."""

import sys

from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string


def server_error(request: HttpRequest) -> HttpResponse:
    """Say that something broke, or that the database does not answer; neither page asks the database anything."""
    away = isinstance(sys.exc_info()[1], OperationalError | InterfaceError)
    answer = HttpResponse(render_to_string("500.html", {"away": away}), status=503 if away else 500)
    if away:
        answer["Retry-After"] = "5"
    return answer
