"""How a row is named in an address: its number and a tag that nobody can guess, one for each kind of thing.

The number is what people say ("job 23"), the tag is what opens the page. A tag is made of the number, the kind and the
house's secret (``IC_ADDRESS_KEY``), so an address holds for as long as that is kept, on paper too.
"""

import base64
import hashlib
import hmac
import re
from functools import lru_cache
from typing import Final

from django.conf import settings
from django.urls import register_converter

KINDS: Final = (
    "job", "tape", "quick", "booking", "plate", "closing", "vehicle", "instrument", "key", "study", "person", "lathe",
    "figure", "check", "fitting", "exercise", "attempt", "lathe_try", "workshop", "work",
)  # fmt: skip
_REGEX: Final = r"[1-9][0-9]{0,17}-[a-z2-7]{12}"
_TAG: Final = 12  # letters of 5 bits: one guess in 10¹⁸ finds a page


@lru_cache(maxsize=8192)
def tag_of(kind: str, number: int) -> str:
    """Return what stands behind a number in an address of its kind."""
    said = f"{kind} {number}".encode()
    digest = hmac.digest(settings.IC_ADDRESS_KEY.encode(), said, hashlib.sha256)
    return base64.b32encode(digest).decode().lower()[:_TAG]


def named(kind: str, number: int) -> str:
    """Return a row as it stands in an address."""
    return f"{number}-{tag_of(kind, number)}"


def number_of(kind: str, text: str) -> int | None:
    """Return the number of a row as it stands in an address; None where that is no name of such a row."""
    if not re.fullmatch(_REGEX, text):
        return None
    number, _dash, tag = text.partition("-")
    return int(number) if hmac.compare_digest(tag, tag_of(kind, int(number))) else None


class _Named:
    regex = _REGEX
    kind: str

    def to_python(self, text: str) -> int:
        """Return the number; ``ValueError``, which is a 404, where the tag is not its own."""
        number = number_of(self.kind, text)
        if number is None:
            raise ValueError(text)
        return number

    def to_url(self, number: int | str) -> str:
        """Return number and tag."""
        return named(self.kind, int(number))


@lru_cache(maxsize=1)
def register() -> None:
    """Let addresses be written with ``<job:pk>`` and so on."""
    for kind in KINDS:
        register_converter(type(kind, (_Named,), {"kind": kind}), kind)
