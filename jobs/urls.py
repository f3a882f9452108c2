"""Addresses of this app."""

from django.urls import path

from jobs.complaint import (views as booking_views)
from jobs.complaint.views import (story)
from jobs.cause import (views as cause_views)
from jobs.choose import (views as choose_views)
from jobs.do.views import (fit, out)
from jobs.measure import (views as corner_views)
from jobs.do import (views as cut_views)
from jobs.record import (views as file_views)
from jobs.measure import (views as tape_views)
from jobs.vehicle import (views as vehicle_views)
from jobs.floor import (views)
from jobs.complaint.views import (complaint)
from jobs.prove.views import (close)
from jobs.record.views import (changes)
from jobs.prepare.views import (prepare)
from jobs.measure.views import (measure)

app_name = "jobs"
urlpatterns = [
    path("", views.floor, name="floor"),
    path("jobs/new/", views.new_job, name="new"),
    path("jobs/<int:pk>/", complaint, name="complaint"),
    path("jobs/<int:pk>/book/", booking_views.book, name="book"),
    path("bookings/<int:pk>/give-up/", booking_views.give_up, name="give-up"),
    path("jobs/<int:pk>/story/", story, name="story"),
    path("jobs/<int:pk>/cause/", cause_views.cause, name="cause"),
    path("jobs/<int:pk>/choose/", choose_views.choose_worst, name="choose-worst"),
    path("jobs/<int:pk>/choose/<str:axle>/", choose_views.choose, name="choose"),
    path("jobs/<int:pk>/choose/<str:axle>/decide/", choose_views.decide_axle, name="decide"),
    path("jobs/<int:pk>/<str:position>/turn/", choose_views.turn_rotor, name="turn-rotor"),
    path("jobs/<int:pk>/<str:position>/plate/", fit, name="fit-plate"),
    path("jobs/<int:pk>/plates/<int:plate>/out/", out, name="take-out"),
    path("jobs/<int:pk>/<str:position>/cut/", cut_views.cut, name="cut"),
    path("jobs/<int:pk>/<str:position>/cut/step/", cut_views.cut_step, name="cut-step"),
    path("jobs/<int:pk>/road-test/", cause_views.road_test, name="road-test"),
    path("jobs/<int:pk>/close/", close, name="close"),
    path("jobs/<int:pk>/changes/", changes, name="changes"),
    path("jobs/<int:pk>/<str:position>/prepare/", prepare, name="prepare"),
    path("jobs/<int:pk>/<str:position>/measure/", measure, name="measure"),
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
