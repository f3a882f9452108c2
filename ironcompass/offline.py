"""The application on a device without a line: what a browser keeps of it, and its name where it is installed."""

from typing import Final

from django.contrib.auth.decorators import login_not_required
from django.contrib.staticfiles.storage import staticfiles_storage
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET

from compass import __version__

# What a page needs to be drawn; whatever else a page asks for is kept when it has been there once.
_SHELL: Final = (
    "css/ironcompass.css",
    "django_htmx/htmx-2.min.js",
    "fonts/b612-latin-400-normal.woff2",
    "fonts/b612-latin-700-normal.woff2",
    "fonts/barlow-condensed-latin-500-normal.woff2",
    "fonts/barlow-condensed-latin-600-normal.woff2",
    "img/compass.svg",
    "js/ahead.js",
    "js/app.js",
    "js/asking.js",
    "js/away.js",
    "js/drafts.js",
    "js/early-keys.js",
    "js/gloves.js",
    "js/keypad.js",
    "js/offline.js",
    "js/outbox.js",
    "js/rose.js",
    "js/tape.js",
)


@login_not_required
@require_GET
@cache_control(no_cache=True)
def service_worker(request: HttpRequest) -> HttpResponse:
    """Hand out what keeps pages on the device; asked for anew each time, so that a release takes hold at once."""
    shell = [staticfiles_storage.url(name) for name in _SHELL]
    context = {"shell": shell, "release": __version__}
    return render(request, "offline/service-worker.js", context, content_type="text/javascript")


@login_not_required
@require_GET
@cache_control(no_cache=True)
def manifest(request: HttpRequest) -> HttpResponse:
    """Say what the application is called and looks like on a device."""
    return render(request, "offline/manifest.json", content_type="application/manifest+json")


@login_not_required
@require_GET
def away(request: HttpRequest) -> HttpResponse:
    """Draw the page for an address that the device has not kept."""
    return render(request, "offline/away.html")
