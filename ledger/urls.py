"""Addresses of the ledger."""

from django.urls import path

from ledger import views
from workshop.numbers_in_addresses import register

register()
app_name = "ledger"
urlpatterns = [
    path("ledger/", views.look, {"page": "overview"}, name="overview"),
    path("ledger/comebacks/", views.look, {"page": "comebacks"}, name="comebacks"),
    path("ledger/odds/", views.look, {"page": "odds"}, name="odds"),
    path("ledger/hubs/", views.look, {"page": "hubs"}, name="hubs"),
    path("ledger/lathes/", views.lathes, name="lathes"),
    path("ledger/lathes/<lathe:pk>/tips/", views.tips_turned, name="turn-tips"),
    path("ledger/learning/", views.learning, name="learning"),
    path("ledger/learning/accept/", views.accepted, name="accept"),
    path("ledger/learning/<figure:pk>/take-back/", views.taken_back, name="take-back"),
]
