"""Addresses of this app."""

from django.urls import path

from jobs import tape_views, views

app_name = "jobs"
urlpatterns = [
    path("", views.floor, name="floor"),
    path("jobs/new/", views.new_job, name="new"),
    path("jobs/<int:pk>/", views.complaint, name="complaint"),
    path("jobs/<int:pk>/close/", views.close, name="close"),
    path("jobs/<int:pk>/changes/", views.changes, name="changes"),
    path("jobs/<int:pk>/<str:position>/prepare/", views.prepare, name="prepare"),
    path("jobs/<int:pk>/<str:position>/measure/", views.measure, name="measure"),
    path("tapes/<str:kind>/<int:pk>/reading/", tape_views.reading, name="reading"),
    path("tapes/<str:kind>/<int:pk>/zero/", tape_views.zero, name="zero"),
    path("tapes/<str:kind>/<int:pk>/undo/", tape_views.undo, name="undo"),
    path("tapes/sweep/<int:pk>/turn/", tape_views.turn, name="turn"),
]
