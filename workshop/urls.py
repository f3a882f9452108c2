"""Addresses of this app."""

from django.contrib.auth.views import LogoutView
from django.urls import path

from workshop import views

app_name = "workshop"
urlpatterns = [
    path("sign-in/", views.SignInView.as_view(), name="sign-in"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
    path("preferences/", views.preferences, name="preferences"),
    path("people/", views.people, name="people"),
    path("people/<int:pk>/", views.person, name="person"),
]
