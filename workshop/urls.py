"""Addresses of this app."""

from django.contrib.auth.views import LogoutView
from django.urls import path

from workshop.store import (views as store_views)
from workshop.store import (views as tooling_views)
from workshop.people import (views)

app_name = "workshop"
urlpatterns = [
    path("sign-in/", views.SignInView.as_view(), name="sign-in"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
    path("preferences/", views.preferences, name="preferences"),
    path("store/limits/", store_views.library, name="library"),
    path("store/limits/import/", store_views.library_import, name="library-import"),
    path("store/limits/service/", store_views.library_service, name="library-service"),
    path("store/limits.<str:kind>", store_views.library_file, name="library-file"),
    path("store/instruments/", store_views.instruments, name="instruments"),
    path("store/lathes/", tooling_views.lathes, name="lathes"),
    path("store/plates/", tooling_views.plates, name="plates"),
    path("store/figures/", tooling_views.figures, name="figures"),
    path("people/", views.people, name="people"),
    path("people/<int:pk>/", views.person, name="person"),
]
