"""Signing in, preferences, people, and the pages shown when something is refused."""

from typing import Any

from django.contrib import messages
from django.contrib.auth import update_session_auth_hash
from django.contrib.auth.views import LoginView
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.http import url_has_allowed_host_and_scheme
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods

from workshop.greeting import greeting_rose
from workshop.models import Membership, User, Workshop
from workshop.people.actions import (
    LastLeadError,
    add_person,
    change_password,
    change_person,
    reset_password,
    set_preferences,
    unlock,
)
from workshop.people.forms import PasswordForm, PersonForm, RoleForm
from workshop.people.sign_in_events import locked_names, sign_in_events
from workshop.permissions import NOT_PUT_ON, Deed, require
from workshop.posting import counts_once, posted_from
from workshop.walls import KEPT_IN_SESSION, NAME_IN_SESSION, enter


class SignInView(LoginView):
    """Sign in; failed tries are counted and lock (axes)."""

    template_name = "workshop/people/sign_in.html"
    redirect_authenticated_user = True

    def form_valid(self, form: Any) -> HttpResponse:
        """Enter the workshop of whoever has signed in; the session stays in it."""
        enter(form.get_user().workshop_id)
        return super().form_valid(form)

    def get_context_data(self, **kwargs: Any) -> dict[str, Any]:
        """Add the rose that greets."""
        return {**super().get_context_data(**kwargs), "rose": greeting_rose(), "demo": Workshop.is_made_up()}


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
        "workshops": Membership.workshops_of(request.user.pk),
        "here_id": request.user.here_id,
        "locked": locked_names(request.user),
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


@require_http_methods(["GET", "POST"])
def password(request: HttpRequest) -> HttpResponse:
    """Let somebody change their own password; who has a first one gets no other page before."""
    form = PasswordForm(request.POST or None, user=request.user)
    if request.method == "POST" and form.is_valid():
        change_password(request.user, form.cleaned_data["new"])
        update_session_auth_hash(request, request.user)
        messages.success(request, _("Changed. Everywhere else you are signed out."))
        return redirect("jobs:floor")
    context = {"form": form, "first": request.user.has_first_word}
    return render(request, "workshop/people/password.html", context, status=422 if form.errors else 200)


@posted_from("workshop:people")
@counts_once
def new_word(request: HttpRequest, pk: int) -> HttpResponse:
    """Give somebody a first password again; it is shown this once."""
    who = get_object_or_404(User.of(request.user), pk=pk)
    word = reset_password(request.user, who)
    words = _("%(person)s signs in with %(word)s and then takes a password of their own. It is shown this once.")
    messages.success(request, words % {"person": who, "word": word})
    return redirect("workshop:people")


@posted_from("workshop:people")
def unlocked(request: HttpRequest, pk: int) -> HttpResponse:
    """Let somebody try again."""
    who = get_object_or_404(User.of(request.user), pk=pk)
    was = unlock(request.user, who)
    messages.success(
        request, (_("%(person)s may try again.") if was else _("%(person)s was not locked.")) % {"person": who}
    )
    return redirect("workshop:people")


@require_GET
def sign_ins(request: HttpRequest) -> HttpResponse:
    """Show the lead who came in, from where, and who did not."""
    require(request.user, Deed.MANAGE_PEOPLE)
    return render(request, "workshop/people/sign_ins.html", {"events": sign_in_events(request.user)})


@posted_from("workshop:people")
def entered(request: HttpRequest, pk: int) -> HttpResponse:
    """Go into another workshop of the chain; the session stays in it."""
    names = {row.pk: row.name for row in Membership.workshops_of(request.user.pk)}
    if pk not in names:
        raise Http404
    request.session.cycle_key()
    request.session[KEPT_IN_SESSION] = pk
    request.session[NAME_IN_SESSION] = names[pk]
    return redirect("jobs:floor")


def not_allowed(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """Say that this is not for this person (403)."""
    kind = NOT_PUT_ON if str(exception) == NOT_PUT_ON else "not_allowed"
    return render(request, "workshop/people/refused.html", {"kind": kind}, status=403)


def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """Say that there is no such thing (404)."""
    return render(request, "workshop/people/refused.html", {"kind": "not_found"}, status=404)


def page_too_old(request: HttpRequest, reason: str = "") -> HttpResponse:
    """Say that the page has outlived its sign-in (CSRF), and how to go on."""
    return render(request, "workshop/people/refused.html", {"kind": "page_too_old"}, status=403)
