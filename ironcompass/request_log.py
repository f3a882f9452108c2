"""One line a request, for whoever runs this: which page, how it ended, how long it took; no name, nothing typed."""

import logging
import time
import uuid
from collections.abc import Callable
from typing import Final

from django.http import HttpRequest, HttpResponse

from workshop.walls import here

_log: Final = logging.getLogger("ironcompass.requests")
_NOTHING_ELSE: Final = "camera=(), microphone=(), geolocation=(), payment=(), usb=(), serial=(self)"


class RequestLogMiddleware:
    """Give each request a number that its answer carries, and write its line; say what a page may use of a browser."""

    def __init__(self, answer: Callable[[HttpRequest], HttpResponse]) -> None:
        self.answer = answer

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer and note."""
        number, begun = uuid.uuid4().hex, time.perf_counter()
        response = self.answer(request)
        response["X-Request-Id"] = number
        response["Permissions-Policy"] = _NOTHING_ELSE  # Web Serial: instruments that talk
        match = request.resolver_match
        _log.info(
            "request",
            extra={
                "request_id": number,
                "way": request.method,
                "page": match.view_name if match is not None else "",
                "status": response.status_code,
                "ms": round((time.perf_counter() - begun) * 1000, 1),
                "workshop": here(),
            },
        )
        return response
