"""Addresses that only take a form: opened again, they lead to the page the form stands on."""

from collections.abc import Callable
from functools import wraps
from typing import Any

from django.http import HttpRequest, HttpResponse, HttpResponseNotAllowed
from django.shortcuts import redirect

from workshop.addresses import address

View = Callable[..., HttpResponse]


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
