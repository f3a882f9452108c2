"""All addresses of the application."""

from django.urls import include, path

urlpatterns = [
    path("i18n/", include("django.conf.urls.i18n")),
    path("", include("workshop.urls")),
    path("", include("jobs.urls")),
    path("", include("ledger.urls")),
    path("", include("practice.urls")),
]
handler403 = "workshop.people.views.not_allowed"
handler404 = "workshop.people.views.not_found"
handler500 = "ironcompass.errors.server_error"
