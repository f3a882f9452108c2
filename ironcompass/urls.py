"""All addresses of the application."""

from django.contrib.auth.decorators import login_not_required
from django.urls import include, path
from django.views.i18n import set_language

from ironcompass import health, offline

urlpatterns = [
    path("health/live/", health.live, name="live"),
    path("health/ready/", health.ready, name="ready"),
    path("service-worker.js", offline.service_worker, name="service-worker"),
    path("manifest.webmanifest", offline.manifest, name="manifest"),
    path("away/", offline.away, name="away"),
    path("language/", login_not_required(set_language), name="set_language"),
    path("", include("workshop.urls")),
    path("", include("jobs.urls")),
    path("", include("ledger.urls")),
    path("", include("practice.urls")),
]
handler403 = "workshop.people.views.not_allowed"
handler404 = "workshop.people.views.not_found"
handler500 = "ironcompass.errors.server_error"
