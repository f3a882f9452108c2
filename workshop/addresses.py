"""Addresses of pages: looked up once, since a list writes the same few over and over."""

from functools import lru_cache
from typing import Any

from django.http import Http404, HttpRequest
from django.shortcuts import get_object_or_404
from django.urls import reverse

from workshop.numbers_in_addresses import number_of


@lru_cache(maxsize=8192)
def address(name: str, *arguments: int | str) -> str:
    """Return the address of a page, as ``reverse`` does."""
    return reverse(name, args=arguments)


def chosen_row(rows: Any, request: HttpRequest) -> Any:
    """Return the row that ``?change=`` of an address names; None without one, 404 where it names none of these."""
    text = request.GET.get("change", "")
    if not text:
        return None
    number = number_of(rows.model._meta.model_name, text)
    if number is None:
        raise Http404
    return get_object_or_404(rows, pk=number)
