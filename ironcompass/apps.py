"""Which static files are served, and how words are looked up."""

from functools import lru_cache

from django.apps import AppConfig
from django.conf import settings
from django.contrib.staticfiles.apps import StaticFilesConfig
from django.utils import translation
from django.utils.translation import trans_real


class OwnStaticFiles(StaticFilesConfig):
    """Leave out the extensions that come with htmx: none is used, and some name files that are not shipped."""

    ignore_patterns = [*StaticFilesConfig.ignore_patterns, "hx-*", "ext"]


class Words(AppConfig):
    """Look every word up once a language: a page says some four hundred, and each look-up walks every catalogue."""

    name = "ironcompass"
    label = "words"

    def ready(self) -> None:
        """Put the memory before Django's own look-up."""
        if not settings.USE_I18N:
            return
        looked_up = lru_cache(maxsize=8192)(lambda _language, message: trans_real.gettext(message))
        translation._trans.gettext = lambda message: looked_up(translation.get_language(), message)
