"""JSON from outside, read strictly: what is doubled, endless, unstorable or too much is refused before any work."""

import json
from typing import Any, Final

from compass.ground.errors import Fault, FaultyFileError, Words
from compass.ground.translation import _N

MAX_BYTES: Final = 20_000_000  # docs/case-file.md: over 20 MB is a fault
MAX_VALUES: Final = 400_000  # some 10 times the largest case that the schema lets through
MOST_FAULTS: Final = 50  # named at once: who reads a list of a thousand
# What the library says where it can read no further.
_UNREAD: Final = {
    "Expecting value": Words(_N("a value is missing")),
    "Expecting ',' delimiter": Words(_N("a comma is missing")),
    "Expecting ':' delimiter": Words(_N("a colon is missing")),
    "Expecting property name enclosed in double quotes": Words(_N("a key in double quotes is missing")),
    "Illegal trailing comma before end of object": Words(_N("a comma too much")),
    "Illegal trailing comma before end of array": Words(_N("a comma too much")),
    "Unterminated string starting at": Words(_N("a text without its end")),
    "Invalid control character at": Words(_N("a line break or tab within a text")),
    "Extra data": Words(_N("more after the end")),
}
_NO_FURTHER: Final = Words(_N("it cannot be read on from there"))


def too_large(size: int) -> FaultyFileError:
    """Refuse a file of ``size`` bytes."""
    most, given = MAX_BYTES // 1_000_000, f"{size / 1e6:.1f}"
    return FaultyFileError.of("", _N("a file of at most {most} MB, not {given} MB"), most=most, given=given)


def load_json(raw: bytes | str) -> Any:
    """Parse strict JSON: each key once, finite numbers, text that can be stored, UTF-8, at most 20 MB.

    Raises ``FaultyFileError`` with what is wrong and where.
    """
    if len(raw) > MAX_BYTES:
        raise too_large(len(raw))
    try:
        text = raw.decode("utf-8-sig") if isinstance(raw, bytes) else raw
    except UnicodeDecodeError as error:
        raise FaultyFileError.of("", _N("UTF-8 text; byte {byte} is not"), byte=error.start + 1) from error
    # Every value but the first follows a comma or a bracket: counted before a parser makes objects of them.
    if sum(map(text.count, ",[{")) > MAX_VALUES:
        raise FaultyFileError.of("", _N("at most {most} values"), most=MAX_VALUES)
    faults: list[Fault] = []

    def each_key_once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
        data = dict(pairs)
        if len(data) != len(pairs):
            seen: set[str] = set()
            for key, _value in pairs:
                if key in seen and len(faults) < MOST_FAULTS:
                    faults.append(Fault(_shown(key), _N("each key once; it stands here twice or more")))
                seen.add(key)
        return data

    def no_constant(name: str) -> None:
        faults.append(Fault("", _N("finite numbers, not {given}"), {"given": name}))

    try:
        data = json.loads(text, object_pairs_hook=each_key_once, parse_constant=no_constant)
    except json.JSONDecodeError as error:
        why = _UNREAD.get(error.msg, _NO_FURTHER)
        raise FaultyFileError.of(
            "", _N("JSON; line {line}, column {column}: {why}"), line=error.lineno, column=error.colno, why=why
        ) from error
    except RecursionError as error:
        raise FaultyFileError.of("", _N("JSON that is not nested so deeply")) from error
    except ValueError as error:  # a whole number of thousands of digits
        raise FaultyFileError.of("", _N("numbers within ±10⁷")) from error
    if faults:
        raise FaultyFileError(tuple(dict.fromkeys(faults[:MOST_FAULTS])))
    # A null byte or half of a character is written as an escape: only texts that hold one are looked through.
    if ("\\u" in text or not text.isprintable()) and (bad := _unstorable(data)):
        expected = _N("text without null bytes and halves of characters, not {given}")
        raise FaultyFileError.of("", expected, given=_shown(bad))
    return data


def is_storable(text: str) -> bool:
    """Whether a text holds nothing that neither a database nor a file can keep: null bytes, halves of characters."""
    return ("\0" not in text and text.isascii()) or not any(c == "\0" or "\ud800" <= c <= "\udfff" for c in text)


def _unstorable(data: Any) -> str | None:
    """Return the first key or text that cannot be stored."""
    waiting = [data]
    while waiting:
        part = waiting.pop()
        if isinstance(part, str) and not is_storable(part):
            return part
        if isinstance(part, dict):
            waiting += [*part, *part.values()]
        elif isinstance(part, list):
            waiting += part
    return None


def _shown(text: str) -> str:
    shown = json.dumps(text)[1:-1]
    return shown if len(shown) <= 40 else shown[:40] + "…"
