"""Languages: which one a page speaks, and how the core is told of it."""

from collections.abc import Callable
from functools import cache

from django.http import HttpRequest, HttpResponse
from django.utils import translation
from django.utils.formats import get_format

from compass.ground.translation import ENGLISH, Tongue, let_readers_speak


class OwnLanguageMiddleware:
    """Speak as the signed-in person chose, whatever the browser they stand at prefers."""

    def __init__(self, answer: Callable[[HttpRequest], HttpResponse]) -> None:
        self.answer = answer

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer in the person's language; ``LocaleMiddleware`` has chosen one for everybody else."""
        language = getattr(request.user, "language", "")
        if not language:
            return self.answer(request)
        with translation.override(language):  # and not a moment longer: the thread answers others next
            request.LANGUAGE_CODE = language
            response = self.answer(request)
        response.headers["Content-Language"] = language
        return response


def teach_the_core() -> None:
    """Let the core write figures and words for whoever reads them."""
    let_readers_speak(_tongue)


def _tongue() -> Tongue:
    return _tongue_of(translation.get_language())


@cache
def _tongue_of(language: str | None) -> Tongue:
    if language is None or language.startswith("en"):
        return ENGLISH
    return Tongue(decimal_sign=get_format("DECIMAL_SEPARATOR", lang=language), translate=translation.gettext)
