"""In which language the core speaks: English with a decimal point, until a reader's language is told of.

The core knows no request and no catalogue. Whoever shows its words to people of other languages says once, by
``let_readers_speak``, how to find out how the present reader counts and where words are looked up.
"""

from collections.abc import Callable
from dataclasses import dataclass


def gettext_noop(text: str) -> str:
    """Mark a text for translation without translating it."""
    return text


_N = gettext_noop


@dataclass(frozen=True, slots=True)
class Tongue:
    """How a reader reads: the decimal sign, and what looks a text up."""

    decimal_sign: str = "."
    translate: Callable[[str], str] = gettext_noop


ENGLISH = Tongue()
_find: list[Callable[[], Tongue]] = [lambda: ENGLISH]


def let_readers_speak(find: Callable[[], Tongue]) -> None:
    """Ask ``find`` from now on how the present reader reads."""
    _find[0] = find


def tongue() -> Tongue:
    """Return how the present reader reads."""
    return _find[0]()


def written(figure: str) -> str:
    """Write a figure with the reader's decimal sign."""
    sign = tongue().decimal_sign
    return figure if sign == "." else figure.replace(".", sign)
