"""Addresses of pages: looked up once, since a list writes the same few over and over."""

from functools import lru_cache
from typing import Any

from django.http import Http404, HttpRequest
from django.shortcuts import get_object_or_404
from django.urls import reverse


@lru_cache(maxsize=8192)
def address(name: str, *arguments: int | str) -> str:
    """Return the address of a page, as ``reverse`` does."""
    return reverse(name, args=arguments)


def chosen_row(rows: Any, request: HttpRequest) -> Any:
    """Return the row that ``?change=`` of an address names; None without one, 404 where it names none of these."""
    named = request.GET.get("change", "")
    if not named:
        return None
    if not named.isascii() or not named.isdecimal():
        raise Http404
    return get_object_or_404(rows, pk=named)
