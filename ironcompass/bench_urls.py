"""The application's addresses plus a bare view with one query: the floor that bin/bench compares with."""

from django.http import HttpRequest, HttpResponse
from django.urls import include, path

from workshop.models import User


def bare(request: HttpRequest) -> HttpResponse:
    """Answer with one query and nothing else (the session and the person are read as on every page)."""
    return HttpResponse(str(User.objects.filter(pk=request.user.pk).count()))


urlpatterns = [path("bare/", bare), path("", include("ironcompass.urls"))]
