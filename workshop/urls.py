"""Addresses of this app."""

from django.contrib.auth.views import LogoutView
from django.urls import path

from workshop.long_work import views as long_work
from workshop.numbers_in_addresses import register
from workshop.people import views as people
from workshop.posting import posted_from
from workshop.store import check_views as checks
from workshop.store import views as store

register()
app_name = "workshop"
urlpatterns = [
    path("sign-in/", people.SignInView.as_view(), name="sign-in"),
    path("sign-out/", posted_from("jobs:floor")(LogoutView.as_view()), name="sign-out"),
    path("preferences/", people.preferences, name="preferences"),
    path("store/limits/", store.library, name="library"),
    path("store/limits/import/", store.library_import, name="library-import"),
    path("store/limits/service/", store.library_service, name="library-service"),
    path("store/limits.<str:kind>", store.library_file, name="library-file"),
    path("store/instruments/", store.instruments, name="instruments"),
    path("store/instruments/<instrument:pk>/", checks.instrument, name="instrument"),
    path("store/instruments/<instrument:pk>/key/", checks.new_key, name="new-key"),
    path("store/checks/<check:pk>/strike/", checks.strike, name="strike-check"),
    path("store/keys/<key:pk>/revoke/", checks.revoke_key, name="revoke-key"),
    path("store/instruments/<instrument:pk>/study/", checks.new_study, name="new-study"),
    path("store/studies/<study:pk>/", checks.study, name="study"),
    path("store/wrenches/", checks.wrenches, name="wrenches"),
    path("store/lathes/", store.lathes, name="lathes"),
    path("store/plates/", store.plates, name="plates"),
    path("store/figures/", store.figures, name="figures"),
    path("people/", people.people, name="people"),
    path("people/password/", people.password, name="password"),
    path("people/sign-ins/", people.sign_ins, name="sign-ins"),
    path("people/<person:pk>/password/", people.new_password, name="new-password"),
    path("people/<person:pk>/unlock/", people.unlocked, name="unlock"),
    path("people/<person:pk>/", people.person, name="person"),
    path("works/<work:pk>/", long_work.work, name="work"),
    path("works/<work:pk>/file/", long_work.work_file, name="work-file"),
    path("works/<work:pk>/stop/", long_work.stopped, name="work-stop"),
    path("works/<work:pk>/again/", long_work.asked_again, name="work-again"),
    path("workshops/<workshop:pk>/enter/", people.entered, name="enter"),
]
