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
from workshop.numbers_in_addresses import register

register()
app_name = "jobs"
urlpatterns = [
    path("", floor.floor, name="floor"),
    path("jobs/new/", floor.new_job, name="new"),
    path("jobs/<job:pk>/", complaint.complaint, name="complaint"),
    path("jobs/<job:pk>/book/", complaint.book, name="book"),
    path("bookings/<booking:pk>/give-up/", complaint.give_up, name="give-up"),
    path("jobs/<job:pk>/story/", complaint.story, name="story"),
    path("jobs/<job:pk>/<str:position>/prepare/", prepare.prepare, name="prepare"),
    path("jobs/<job:pk>/<str:position>/measure/", measure.measure, name="measure"),
    path("jobs/<job:pk>/<str:position>/quick/", measure.quick, name="quick"),
    path("quick/<quick:pk>/strike/", measure.strike, name="strike"),
    path("jobs/<job:pk>/<str:position>/look/", measure.look, name="look"),
    path("tapes/<str:kind>/<tape:pk>/readings/", sending.readings, name="readings"),
    path("tapes/<str:kind>/<tape:pk>/plain/", sending.plain, name="plain"),
    path("tapes/<str:kind>/<tape:pk>/zero/", sending.zero, name="zero"),
    path("tapes/<str:kind>/<tape:pk>/undo/", sending.undo, name="undo"),
    path("tapes/<str:kind>/<tape:pk>/set-up/", set_up.set_up, name="set-up"),
    path("tapes/<str:kind>/<tape:pk>/listen/", device.listened, name="listen"),
    path("tapes/<str:kind>/<tape:pk>/heard/", device.heard, name="heard"),
    path("api/1/readings", device.sent, name="api-readings"),
    path("api/1/openapi.json", device.openapi, name="api-description"),
    path("tapes/<str:kind>/<tape:pk>/corner/", set_up.other_corner, name="other-corner"),
    path("tapes/<str:kind>/<tape:pk>/strike/", set_up.strike_tape, name="strike-tape"),
    path("tapes/thickness/<tape:pk>/again/", set_up.another_round, name="another-round"),
    path("tapes/sweep/<tape:pk>/turn/", measure.turn, name="turn"),
    path("jobs/<job:pk>/cause/", cause.cause, name="cause"),
    path("jobs/<job:pk>/road-test/", cause.road_test, name="road-test"),
    path("jobs/<job:pk>/felt/", cause.felt, name="felt"),
    path("jobs/<job:pk>/beside/", cause.beside, name="beside"),
    path("jobs/<job:pk>/choose/", choose.choose_worst, name="choose-worst"),
    path("jobs/<job:pk>/choose/<str:axle>/", choose.choose, name="choose"),
    path("jobs/<job:pk>/choose/<str:axle>/decide/", choose.decide_axle, name="decide"),
    path("jobs/<job:pk>/choose/<str:axle>/withdraw/", choose.withdraw_decision, name="withdraw"),
    path("jobs/<job:pk>/<str:position>/turn/", choose.turn_rotor, name="turn-rotor"),
    path("jobs/<job:pk>/<str:position>/plate/", do.fit, name="fit-plate"),
    path("jobs/<job:pk>/plates/<plate:plate>/out/", do.out, name="take-out"),
    path("order/", run.day, name="day"),
    path("jobs/<job:pk>/do/", run.run, name="do"),
    path("jobs/<job:pk>/do/step/", run.step, name="do-step"),
    path("jobs/<job:pk>/do/part/", run.whole_part, name="do-part"),
    path("jobs/<job:pk>/do/back/", run.back, name="do-back"),
    path("jobs/<job:pk>/do/broken/", run.broken, name="do-broken"),
    path("jobs/<job:pk>/do/onward/", run.onward, name="do-onward"),
    path("jobs/<job:pk>/do/people/", run.people, name="do-people"),
    path("jobs/<job:pk>/do/pulse/", run.pulse, name="do-pulse"),
    path("jobs/<job:pk>/<str:position>/do/", do.work, name="work"),
    path("jobs/<job:pk>/<str:position>/cut/", do.cut, name="cut"),
    path("jobs/<job:pk>/prove/", prove.prove, name="prove-first"),
    path("jobs/<job:pk>/prove/again/", prove.again, name="prove-again"),
    path("jobs/<job:pk>/prove/sign/", prove.sign, name="sign-off"),
    path("jobs/<job:pk>/<str:position>/prove/", prove.prove, name="prove"),
    path("jobs/<job:pk>/<str:position>/prove/advice/", prove.advice, name="prove-advice"),
    path("jobs/<job:pk>/close/", prove.close, name="close"),
    path("jobs/<job:pk>/reopen/", prove.reopen, name="reopen"),
    path("jobs/<job:pk>/changes/", record.changes, name="changes"),
    path("jobs/import/", record.import_case, name="import"),
    path("jobs/cases/", record.all_cases, name="all-cases"),
    path("jobs/<job:pk>/case.json", record.case_json, name="case"),
    path("jobs/<job:pk>/verdict.json", record.verdict_json, name="verdict"),
    path("jobs/<job:pk>/readings.csv", record.readings_csv, name="readings-csv"),
    path("jobs/<job:pk>/readings.xlsx", record.readings_xlsx, name="readings-xlsx"),
    path("jobs/<job:pk>/owner/", handover.owner, name="owner"),
    path("jobs/<job:pk>/owner/pdf/", handover.owner_pdf, name="owner-pdf"),
    path("jobs/<job:pk>/sheet/", handover.bay, name="sheet"),
    path("jobs/<job:pk>/sheet/pdf/", handover.bay_pdf, name="sheet-pdf"),
    path("jobs/<job:pk>/look-again.ics", handover.calendar, name="look-again-ics"),
    path("look-again/", handover.look_again, name="look-again"),
    path("look-again/<closing:pk>/ring/", handover.rung, name="ring"),
    path("look-again/<closing:pk>/comeback/", handover.comeback, name="comeback"),
    path("vehicles/<vehicle:pk>/", vehicle.vehicle, name="vehicle"),
    path("fittings/<fitting:pk>/strike/", vehicle.strike, name="strike-fitting"),
    path("vehicles/<vehicle:pk>/name/", vehicle.rename, name="rename"),
    path("jobs/<job:pk>/vehicle/", vehicle.other_vehicle, name="other-vehicle"),
]
