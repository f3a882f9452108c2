"""Addresses of pages: looked up once, since a list writes the same few over and over."""

from functools import lru_cache

from django.urls import reverse


@lru_cache(maxsize=8192)
def address(name: str, *arguments: int | str) -> str:
    """Return the address of a page, as ``reverse`` does."""
    return reverse(name, args=arguments)
