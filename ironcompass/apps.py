"""Which static files are served."""

from django.contrib.staticfiles.apps import StaticFilesConfig


class OwnStaticFiles(StaticFilesConfig):
    """Leave out the extensions that come with htmx: none is used, and some name files that are not shipped."""

    ignore_patterns = [*StaticFilesConfig.ignore_patterns, "hx-*", "ext"]
