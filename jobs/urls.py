"""Addresses of this app, room by room."""

from django.urls import path

from jobs.cause import views as cause
from jobs.choose import views as choose
from jobs.complaint import views as complaint
from jobs.do import run_views as run
from jobs.do import views as do
from jobs.floor import views as floor
from jobs.handover import views as handover
from jobs.measure import device_views as device
from jobs.measure import sending, set_up
from jobs.measure import views as measure
from jobs.prepare import views as prepare
from jobs.prove import views as prove
from jobs.record import views as record
from jobs.vehicle import views as vehicle

app_name = "jobs"
urlpatterns = [
    path("", floor.floor, name="floor"),
    path("jobs/new/", floor.new_job, name="new"),
    path("jobs/<int:pk>/", complaint.complaint, name="complaint"),
    path("jobs/<int:pk>/book/", complaint.book, name="book"),
    path("bookings/<int:pk>/give-up/", complaint.give_up, name="give-up"),
    path("jobs/<int:pk>/story/", complaint.story, name="story"),
    path("jobs/<int:pk>/<str:position>/prepare/", prepare.prepare, name="prepare"),
    path("jobs/<int:pk>/<str:position>/measure/", measure.measure, name="measure"),
    path("jobs/<int:pk>/<str:position>/quick/", measure.quick, name="quick"),
    path("quick/<int:pk>/strike/", measure.strike, name="strike"),
    path("jobs/<int:pk>/<str:position>/look/", measure.look, name="look"),
    path("tapes/<str:kind>/<int:pk>/readings/", sending.readings, name="readings"),
    path("tapes/<str:kind>/<int:pk>/plain/", sending.plain, name="plain"),
    path("tapes/<str:kind>/<int:pk>/zero/", sending.zero, name="zero"),
    path("tapes/<str:kind>/<int:pk>/undo/", sending.undo, name="undo"),
    path("tapes/<str:kind>/<int:pk>/set-up/", set_up.set_up, name="set-up"),
    path("tapes/<str:kind>/<int:pk>/listen/", device.listened, name="listen"),
    path("tapes/<str:kind>/<int:pk>/heard/", device.heard, name="heard"),
    path("api/1/readings", device.sent, name="api-readings"),
    path("api/1/openapi.json", device.openapi, name="api-description"),
    path("tapes/<str:kind>/<int:pk>/strike/", set_up.strike_tape, name="strike-tape"),
    path("tapes/thickness/<int:pk>/again/", set_up.another_round, name="another-round"),
    path("tapes/sweep/<int:pk>/turn/", measure.turn, name="turn"),
    path("jobs/<int:pk>/cause/", cause.cause, name="cause"),
    path("jobs/<int:pk>/road-test/", cause.road_test, name="road-test"),
    path("jobs/<int:pk>/choose/", choose.choose_worst, name="choose-worst"),
    path("jobs/<int:pk>/choose/<str:axle>/", choose.choose, name="choose"),
    path("jobs/<int:pk>/choose/<str:axle>/decide/", choose.decide_axle, name="decide"),
    path("jobs/<int:pk>/choose/<str:axle>/withdraw/", choose.withdraw_decision, name="withdraw"),
    path("jobs/<int:pk>/<str:position>/turn/", choose.turn_rotor, name="turn-rotor"),
    path("jobs/<int:pk>/<str:position>/plate/", do.fit, name="fit-plate"),
    path("jobs/<int:pk>/plates/<int:plate>/out/", do.out, name="take-out"),
    path("order/", run.day, name="day"),
    path("jobs/<int:pk>/do/", run.run, name="do"),
    path("jobs/<int:pk>/do/step/", run.step, name="do-step"),
    path("jobs/<int:pk>/do/part/", run.whole_part, name="do-part"),
    path("jobs/<int:pk>/do/back/", run.back, name="do-back"),
    path("jobs/<int:pk>/do/broken/", run.broken, name="do-broken"),
    path("jobs/<int:pk>/do/onward/", run.onward, name="do-onward"),
    path("jobs/<int:pk>/do/people/", run.people, name="do-people"),
    path("jobs/<int:pk>/do/pulse/", run.pulse, name="do-pulse"),
    path("jobs/<int:pk>/<str:position>/do/", do.work, name="work"),
    path("jobs/<int:pk>/<str:position>/cut/", do.cut, name="cut"),
    path("jobs/<int:pk>/prove/", prove.prove, name="prove-first"),
    path("jobs/<int:pk>/prove/again/", prove.again, name="prove-again"),
    path("jobs/<int:pk>/prove/sign/", prove.sign, name="sign-off"),
    path("jobs/<int:pk>/<str:position>/prove/", prove.prove, name="prove"),
    path("jobs/<int:pk>/<str:position>/prove/advice/", prove.advice, name="prove-advice"),
    path("jobs/<int:pk>/close/", prove.close, name="close"),
    path("jobs/<int:pk>/reopen/", prove.reopen, name="reopen"),
    path("jobs/<int:pk>/changes/", record.changes, name="changes"),
    path("jobs/import/", record.import_case, name="import"),
    path("jobs/<int:pk>/case.json", record.case_json, name="case"),
    path("jobs/<int:pk>/verdict.json", record.verdict_json, name="verdict"),
    path("jobs/<int:pk>/readings.csv", record.readings_csv, name="readings-csv"),
    path("jobs/<int:pk>/readings.xlsx", record.readings_xlsx, name="readings-xlsx"),
    path("jobs/<int:pk>/owner/", handover.owner, name="owner"),
    path("jobs/<int:pk>/owner.<str:kind>", handover.owner, name="owner-file"),
    path("jobs/<int:pk>/sheet/", handover.bay, name="sheet"),
    path("jobs/<int:pk>/sheet.<str:kind>", handover.bay, name="sheet-file"),
    path("jobs/<int:pk>/look-again.ics", handover.calendar, name="look-again-ics"),
    path("look-again/", handover.look_again, name="look-again"),
    path("look-again/<int:pk>/ring/", handover.rung, name="ring"),
    path("look-again/<int:pk>/comeback/", handover.comeback, name="comeback"),
    path("vehicles/<int:pk>/", vehicle.vehicle, name="vehicle"),
]
