"""Addresses of this app."""

from django.urls import path

from jobs import (
    booking_views,
    cause_views,
    choose_views,
    corner_views,
    cut_views,
    file_views,
    tape_views,
    vehicle_views,
    views,
)

app_name = "jobs"
urlpatterns = [
    path("", views.floor, name="floor"),
    path("jobs/new/", views.new_job, name="new"),
    path("jobs/<int:pk>/", views.complaint, name="complaint"),
    path("jobs/<int:pk>/book/", booking_views.book, name="book"),
    path("bookings/<int:pk>/give-up/", booking_views.give_up, name="give-up"),
    path("jobs/<int:pk>/story/", cause_views.story, name="story"),
    path("jobs/<int:pk>/cause/", cause_views.cause, name="cause"),
    path("jobs/<int:pk>/choose/", choose_views.choose_worst, name="choose-worst"),
    path("jobs/<int:pk>/choose/<str:axle>/", choose_views.choose, name="choose"),
    path("jobs/<int:pk>/choose/<str:axle>/decide/", choose_views.decide_axle, name="decide"),
    path("jobs/<int:pk>/<str:position>/turn/", choose_views.turn_rotor, name="turn-rotor"),
    path("jobs/<int:pk>/<str:position>/plate/", choose_views.fit, name="fit-plate"),
    path("jobs/<int:pk>/plates/<int:plate>/out/", choose_views.out, name="take-out"),
    path("jobs/<int:pk>/<str:position>/cut/", cut_views.cut, name="cut"),
    path("jobs/<int:pk>/<str:position>/cut/step/", cut_views.cut_step, name="cut-step"),
    path("jobs/<int:pk>/road-test/", cause_views.road_test, name="road-test"),
    path("jobs/<int:pk>/close/", views.close, name="close"),
    path("jobs/<int:pk>/changes/", views.changes, name="changes"),
    path("jobs/<int:pk>/<str:position>/prepare/", views.prepare, name="prepare"),
    path("jobs/<int:pk>/<str:position>/measure/", views.measure, name="measure"),
    path("jobs/<int:pk>/<str:position>/quick/", corner_views.quick, name="quick"),
    path("quick/<int:pk>/strike/", corner_views.strike, name="strike"),
    path("jobs/<int:pk>/<str:position>/look/", corner_views.look, name="look"),
    path("jobs/import/", file_views.import_case, name="import"),
    path("jobs/<int:pk>/case.json", file_views.case_json, name="case"),
    path("jobs/<int:pk>/verdict.json", file_views.verdict_json, name="verdict"),
    path("jobs/<int:pk>/readings.csv", file_views.readings_csv, name="readings"),
    path("vehicles/<int:pk>/", vehicle_views.vehicle, name="vehicle"),
    path("tapes/<str:kind>/<int:pk>/reading/", tape_views.reading, name="reading"),
    path("tapes/<str:kind>/<int:pk>/zero/", tape_views.zero, name="zero"),
    path("tapes/<str:kind>/<int:pk>/undo/", tape_views.undo, name="undo"),
    path("tapes/sweep/<int:pk>/turn/", tape_views.turn, name="turn"),
]
