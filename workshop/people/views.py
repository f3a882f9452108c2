"""Signing in, preferences, people, and the pages shown when something is refused."""

from typing import Any

from django.contrib import messages
from django.contrib.auth.views import LoginView
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.http import url_has_allowed_host_and_scheme
from django.utils.translation import gettext as _
from django.views.decorators.http import require_http_methods

from workshop.greeting import greeting_rose
from workshop.models import User
from workshop.people.actions import LastLeadError, add_person, change_person, set_preferences
from workshop.people.forms import PersonForm, RoleForm
from workshop.permissions import Deed, require
from workshop.posting import counts_once, posted_from


class SignInView(LoginView):
    """Sign in; failed tries are counted and lock (axes)."""

    template_name = "workshop/people/sign_in.html"
    redirect_authenticated_user = True

    def get_context_data(self, **kwargs: Any) -> dict[str, Any]:
        """Add the rose that greets."""
        return {**super().get_context_data(**kwargs), "rose": greeting_rose()}


@posted_from("jobs:floor")
def preferences(request: HttpRequest) -> HttpResponse:
    """Switch units or theme everywhere at once: the page is drawn anew."""
    set_preferences(request.user, units=request.POST.get("units"), theme=request.POST.get("theme"))
    if request.htmx:
        return HttpResponse(status=204, headers={"HX-Refresh": "true"})
    back = request.POST.get("back", "")
    safe = url_has_allowed_host_and_scheme(back, allowed_hosts={request.get_host()})
    return HttpResponseRedirect(back if safe else reverse("jobs:floor"))


@require_http_methods(["GET", "POST"])
@counts_once
def people(request: HttpRequest) -> HttpResponse:
    """List the people of the workshop; add one."""
    require(request.user, Deed.MANAGE_PEOPLE)
    form = PersonForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        person = add_person(request.user, **form.cleaned_data)
        messages.success(request, _("%(person)s can sign in now.") % {"person": person})
        return redirect("workshop:people")
    context = {
        "people": User.of(request.user).order_by("-is_active", "last_name"),
        "form": form,
        "roles": User.Role.choices,
    }
    return render(request, "workshop/people/people.html", context, status=422 if form.errors else 200)


@posted_from("workshop:people")
def person(request: HttpRequest, pk: int) -> HttpResponse:
    """Change a person's role or keys."""
    require(request.user, Deed.MANAGE_PEOPLE)
    who = get_object_or_404(User.of(request.user), pk=pk)
    form = RoleForm(request.POST, instance=User.of(request.user).get(pk=pk))
    if form.is_valid():
        try:
            change_person(request.user, who, **form.cleaned_data)
            messages.success(request, _("Saved: %(person)s.") % {"person": who})
        except LastLeadError:
            messages.error(request, _("The workshop needs a lead: name another one first."))
    return redirect("workshop:people")


def not_allowed(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """Say that this is not for this person (403)."""
    return render(request, "workshop/people/refused.html", {"kind": "not_allowed"}, status=403)


def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """Say that there is no such thing (404)."""
    return render(request, "workshop/people/refused.html", {"kind": "not_found"}, status=404)


def page_too_old(request: HttpRequest, reason: str = "") -> HttpResponse:
    """Say that the page has outlived its sign-in (CSRF), and how to go on."""
    return render(request, "workshop/people/refused.html", {"kind": "page_too_old"}, status=403)
