"""Asking who it is: pages lead to the sign-in page, what a script sends is told so and loses nothing."""

from collections.abc import Callable
from typing import Any, Final

from django.contrib.auth.middleware import LoginRequiredMiddleware, get_user
from django.http import HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import redirect
from django.utils.cache import patch_cache_control

from workshop.people.quick_switch import BY_PIN

_OPEN_TO_FIRST_WORDS: Final = ("workshop:password", "workshop:sign-out", "workshop:preferences", "set_language")


class AskWhoMiddleware(LoginRequiredMiddleware):
    """Answer 401 where a script asks: the sign-in page with 200 would look as if all had been stored."""

    def handle_no_permission(self, request: HttpRequest, view_func: Any) -> HttpResponseBase:
        """Lead a person to the sign-in page; tell a script."""
        if request.htmx or "application/json" in request.headers.get("Accept", ""):
            return HttpResponse(status=401)
        return super().handle_no_permission(request, view_func)

    def process_view(self, request: HttpRequest, view_func: Any, *rest: Any) -> HttpResponseBase | None:
        """Let in who has signed in; who came in by a password that somebody else knows changes it first."""
        refused: HttpResponseBase | None = super().process_view(request, view_func, *rest)
        if refused is not None or not request.user.is_authenticated:
            return refused
        request.user = get_user(request)  # who it is is known now: no more looking behind a lazy name at every turn
        request.user.by_pin = bool(request.session.get(BY_PIN))
        if not request.user.has_first_password:
            return None
        if request.resolver_match.view_name in _OPEN_TO_FIRST_WORDS:
            return None
        return redirect("workshop:password")


class NoStoreMiddleware:
    """Leave nothing of a signed-in person's pages in a browser that the next one will use."""

    def __init__(self, answer: Callable[[HttpRequest], HttpResponse]) -> None:
        self.answer = answer

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Say so of every page somebody had to sign in for."""
        response = self.answer(request)
        if request.user.is_authenticated:
            patch_cache_control(response, private=True, no_store=True)
        return response
