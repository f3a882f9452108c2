"""Addresses of the bench."""

from django.urls import path

from practice import views
from practice.corner import views as corner
from practice.drills import views as drills
from practice.lathe import views as lathe
from workshop.numbers_in_addresses import register

register()
app_name = "practice"
urlpatterns = [
    path("bench/", views.home, name="home"),
    path("bench/people/", views.people, name="people"),
    path("bench/from-job/<job:pk>/", views.made_from_job, name="from-job"),
    path("bench/made/<exercise:pk>/retire/", views.retired, name="retire"),
    path("bench/begin/", corner.begun, name="begin"),
    path("bench/lathe/begin/", lathe.begun, name="lathe-begin"),
    path("bench/lathe/<lathe_try:pk>/", lathe.lathe, name="lathe"),
    path("bench/lathe/<lathe_try:pk>/act/", lathe.acted, name="lathe-act"),
    path("bench/lathe/<lathe_try:pk>/finish/", lathe.finished, name="lathe-finish"),
    path("bench/drills/", drills.drill, name="drills"),
    path("bench/drills/answer/", drills.answered, name="drill-answer"),
    path("bench/<attempt:pk>/", corner.corner, name="corner"),
    path("bench/<attempt:pk>/act/", corner.acted, name="act"),
    path("bench/<attempt:pk>/draft/", corner.drafted, name="draft"),
    path("bench/<attempt:pk>/answer/", corner.answered, name="answer"),
]
