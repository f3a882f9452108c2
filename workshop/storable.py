"""Text that no database and no file can keep is refused at the door, whatever page it was meant for."""

from collections.abc import Callable
from typing import Any, Final

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render

from compass.files.strict_json import is_storable

_FORMULA: Final = ("=", "+", "-", "@", "\t", "\r")


class StorableTextMiddleware:
    """Answer 400 where an address or a form holds a null byte or half of a character; no keyboard types either."""

    def __init__(self, answer: Callable[[HttpRequest], HttpResponse]) -> None:
        self.answer = answer

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Look at nothing yet: an upload may still be refused by its size first."""
        return self.answer(request)

    def process_view(self, request: HttpRequest, *_view: Any) -> HttpResponse | None:
        """Look at the address and at the form, which is read by now."""
        named = [request.path_info]
        for sent in (request.GET, request.POST):
            named += [text for name, texts in sent.lists() for text in (name, *texts)]
        if all(map(is_storable, named)):
            return None
        if "application/json" in request.headers.get("Accept", ""):
            return JsonResponse({"path": "", "expected": "text without null bytes"}, status=400)
        return render(request, "workshop/people/refused.html", {"kind": "unstorable"}, status=400)


def cell(value: Any) -> Any:
    """Return what stands in a cell of a table: a text that a spreadsheet would take for a formula is quoted."""
    if not isinstance(value, str) or not value.startswith(_FORMULA):
        return value
    return value if _is_number(value) else f"'{value}"


def uncell(text: str) -> str:
    """Return a cell's text without the quote that ``cell`` put before it."""
    return text[1:] if text.startswith("'") and text[1:].startswith(_FORMULA) else text


def _is_number(text: str) -> bool:
    try:
        float(text.replace(",", "."))
    except ValueError:
        return False
    return True
