"""JSON from outside, read strictly: what is doubled, endless, unstorable or too much is refused before any work."""

import json
from typing import Any, Final

from compass.ground.errors import Fault, FaultyFileError

MAX_BYTES: Final = 20_000_000  # docs/case-file.md: over 20 MB is a fault
MAX_VALUES: Final = 400_000  # some 10 times the largest case that the schema lets through
MOST_FAULTS: Final = 50  # named at once: who reads a list of a thousand


def load_json(raw: bytes | str) -> Any:
    """Parse strict JSON: each key once, finite numbers, text that can be stored, UTF-8, at most 20 MB.

    Raises ``FaultyFileError`` with what is wrong and where.
    """
    if len(raw) > MAX_BYTES:
        raise FaultyFileError.of("", f"a file of at most {MAX_BYTES // 1_000_000} MB, not {len(raw) / 1e6:.1f} MB")
    try:
        text = raw.decode("utf-8-sig") if isinstance(raw, bytes) else raw
    except UnicodeDecodeError as error:
        raise FaultyFileError.of("", f"UTF-8 text; byte {error.start + 1} is not") from error
    # Every value but the first follows a comma or a bracket: counted before a parser makes objects of them.
    if sum(map(text.count, ",[{")) > MAX_VALUES:
        raise FaultyFileError.of("", f"at most {MAX_VALUES} values")
    faults: list[Fault] = []

    def each_key_once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
        data = dict(pairs)
        if len(data) != len(pairs):
            seen: set[str] = set()
            for key, _value in pairs:
                if key in seen and len(faults) < MOST_FAULTS:
                    faults.append(Fault(_shown(key), "each key once; it stands here twice or more"))
                seen.add(key)
        return data

    def no_constant(name: str) -> None:
        faults.append(Fault("", f"finite numbers, not {name}"))

    try:
        data = json.loads(text, object_pairs_hook=each_key_once, parse_constant=no_constant)
    except json.JSONDecodeError as error:
        raise FaultyFileError.of("", f"JSON; line {error.lineno}, column {error.colno}: {error.msg}") from error
    except RecursionError as error:
        raise FaultyFileError.of("", "JSON that is not nested so deeply") from error
    except ValueError as error:  # a whole number of thousands of digits
        raise FaultyFileError.of("", "numbers within ±10⁷") from error
    if faults:
        raise FaultyFileError(tuple(dict.fromkeys(faults[:MOST_FAULTS])))
    # A null byte or half of a character is written as an escape: only texts that hold one are looked through.
    if ("\\u" in text or not text.isprintable()) and (bad := _unstorable(data)):
        raise FaultyFileError.of("", f"text without null bytes and halves of characters, not {_shown(bad)}")
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
