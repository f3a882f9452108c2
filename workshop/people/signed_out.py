"""Asking who it is: pages lead to the sign-in page, what a script sends is told so and loses nothing."""

from typing import Any

from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.http import HttpRequest, HttpResponse, HttpResponseBase


class AskWhoMiddleware(LoginRequiredMiddleware):
    """Answer 401 where a script asks: the sign-in page with 200 would look as if all had been stored."""

    def handle_no_permission(self, request: HttpRequest, view_func: Any) -> HttpResponseBase:
        """Lead a person to the sign-in page; tell a script."""
        if request.htmx or "application/json" in request.headers.get("Accept", ""):
            return HttpResponse(status=401)
        return super().handle_no_permission(request, view_func)
