"""The application's addresses plus what bin/bench compares with: a bare view with one query, and an empty page."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import include, path

from workshop.models import User


def bare(request: HttpRequest) -> HttpResponse:
    """Answer with one query and nothing else (the session and the person are read as on every page)."""
    return HttpResponse(str(User.objects.filter(pk=request.user.pk).count()))


def frame(request: HttpRequest) -> HttpResponse:
    """Answer with the frame of every page and nothing in it."""
    return render(request, "base.html")


urlpatterns = [path("bare/", bare), path("frame/", frame), path("", include("ironcompass.urls"))]
