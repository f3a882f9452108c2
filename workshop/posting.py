"""Addresses that take a form: opened again they lead to the form's page, and a form sent twice counts once."""

import hashlib
from collections.abc import Callable
from functools import wraps
from typing import Any, Final

from django.contrib import messages
from django.db import transaction
from django.http import HttpRequest, HttpResponse, HttpResponseNotAllowed
from django.shortcuts import redirect
from django.utils.translation import gettext as _

from workshop.addresses import address
from workshop.models import Sent

View = Callable[..., HttpResponse]
_SECRET: Final = ("csrfmiddlewaretoken", "second_password")  # never part of a key that is kept


def posted_from(page: str | Callable[..., str], *names: str, query: str = "") -> Callable[[View], View]:
    """Take POST only. A reload, a link or a way back by GET is led to ``page``.

    ``names`` are the parts of this address that the page's own takes. ``page`` may also be a function of request and
    parts that returns an address, where the page stands in a row.
    """

    def decorate(view: View) -> View:
        @wraps(view)
        def taking(request: HttpRequest, **parts: Any) -> HttpResponse:
            if request.method == "POST":
                return view(request, **parts)
            if request.method not in ("GET", "HEAD"):
                return HttpResponseNotAllowed(["POST"])
            if callable(page):
                return redirect(page(request, **parts))
            return redirect(address(page, *(parts[name] for name in names)) + query)

        return taking

    return decorate


def counts_once(view: View) -> View:
    """Take a form with a key of its own (``{% once %}``) one time, however often it arrives.

    The second of two waits for the first, then is led where that one led. The key stands for what was typed, too: a
    form that was gone back to and filled with something else is another one. A refused form leaves no trace.
    """

    @wraps(view)
    def taking(request: HttpRequest, **parts: Any) -> HttpResponse:
        key = _key(request)
        if not key or not request.user.is_authenticated:
            return view(request, **parts)
        with transaction.atomic():
            sent, is_first = Sent.of(request.user).get_or_create(person=request.user, key=key)
            if not is_first:
                messages.info(request, _("That was sent twice; it counts once."))
                return redirect(sent.led_to or request.path)
            response = view(request, **parts)
            if response.status_code == 302:
                sent.led_to = response["Location"][:300]
                sent.save(update_fields=["led_to"])
            else:
                transaction.set_rollback(True)
        return response

    taking.counts_once = True  # type: ignore[attr-defined]  # a test asks every address that writes
    return taking


def _key(request: HttpRequest) -> str:
    if request.method != "POST" or not request.POST.get("once"):
        return ""
    typed = sorted((name, request.POST.getlist(name)) for name in request.POST if name not in _SECRET)
    files = sorted((name, file.name, _content(file)) for name, file in request.FILES.items())
    return hashlib.sha256(repr((request.path, typed, files)).encode()).hexdigest()


def _content(file: Any) -> str:
    """Name what a file holds, and leave it to be read from its beginning."""
    named = hashlib.file_digest(file, "sha256").hexdigest()
    file.seek(0)
    return named
