"""Signing in, preferences, people, and the pages shown when something is refused."""

from typing import Any

from django.contrib import messages
from django.contrib.auth import authenticate, login, update_session_auth_hash
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.views import LoginView
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseRedirect
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.decorators import method_decorator
from django.utils.http import url_has_allowed_host_and_scheme
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods
from django_ratelimit.exceptions import Ratelimited

from workshop.greeting import greeting_rose
from workshop.limits_of_asking import sign_in_limit
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
from workshop.people.forms import PasswordForm, PersonForm, PinForm, RoleForm
from workshop.people.quick_switch import BY_PIN, forget_here, people_here, remember_here, set_pin
from workshop.people.sign_in_events import locked_names, sign_in_events
from workshop.permissions import NEEDS_PASSWORD, NOT_PUT_ON, Deed, require
from workshop.posting import counts_once, posted_from
from workshop.walls import KEPT_IN_SESSION, NAME_IN_SESSION, enter


@method_decorator([login_not_required, sign_in_limit], name="dispatch")
class SignInView(LoginView):
    """Sign in, by password or, where one has done so this shift, by PIN; failed tries are counted and lock (axes)."""

    template_name = "workshop/people/sign_in.html"

    def dispatch(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponseBase:
        """Send on who has signed in already, but not who came by PIN and is asked for the password now."""
        self.redirect_authenticated_user = not request.session.get(BY_PIN)
        return super().dispatch(request, *args, **kwargs)

    def post(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        """Take a PIN, forget who was here, or go on to the password."""
        if "forget" in request.POST:
            response = redirect("workshop:sign-in")
            forget_here(response)
            return response
        return self._by_pin(request) if "pin" in request.POST else super().post(request, *args, **kwargs)

    def form_valid(self, form: Any) -> HttpResponse:
        """Enter the workshop of whoever has signed in; the session stays in it, the device knows them this shift."""
        person = form.get_user()
        enter(person.workshop_id)
        response = super().form_valid(form)
        self.request.session.pop(BY_PIN, None)
        remember_here(self.request, response, person)
        return response

    def _by_pin(self, request: HttpRequest) -> HttpResponse:
        known = {f"{one.pk}": one for one in people_here(request)}
        person = known.get(request.POST.get("person", ""))
        let_in = person and authenticate(request, username=person.username, pin=request.POST["pin"][:20])
        if person is None or let_in is None:
            wrong = (
                _("That is not the PIN.") if person else _("Sign in with your password first: this device forgot you.")
            )
            context = self.get_context_data(form=self.get_form_class()(request), pin_error=wrong)
            return self.render_to_response(context | {"chosen": person}, status=422)
        enter(let_in.workshop_id)
        login(request, let_in)
        request.session[BY_PIN] = True
        return redirect(self.get_success_url())

    def get_context_data(self, **kwargs: Any) -> dict[str, Any]:
        """Add the rose that greets, and who may come back by PIN."""
        here = people_here(self.request)
        return {
            **super().get_context_data(**kwargs),
            "rose": greeting_rose(),
            "demo": Workshop.is_made_up(),
            "people_here": here,
            "chosen": kwargs.get("chosen") or (here[0] if here else None),
        }


@posted_from("jobs:floor")
def preferences(request: HttpRequest) -> HttpResponse:
    """Switch units, language or theme everywhere at once: the page is drawn anew."""
    chosen = {name: request.POST.get(name) for name in ("units", "language", "theme")}
    set_preferences(request.user, **chosen)
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
    """Let somebody change their own password, or set a PIN; who has a first password gets no other page before."""
    is_pin = "pin-pin" in request.POST
    form = PasswordForm(None if is_pin else request.POST or None, user=request.user)
    pin_form = PinForm(request.POST if is_pin else None, user=request.user, prefix="pin")
    if request.method == "POST" and is_pin and pin_form.is_valid():
        set_pin(request.user, pin_form.cleaned_data["pin"])
        messages.success(request, _("Your PIN works where you have signed in with your password this shift."))
        return redirect("workshop:password")
    if request.method == "POST" and not is_pin and form.is_valid():
        change_password(request.user, form.cleaned_data["new"])
        update_session_auth_hash(request, request.user)
        messages.success(request, _("Changed. Everywhere else you are signed out."))
        return redirect("jobs:floor")
    context = {"form": form, "pin_form": pin_form, "first": request.user.has_first_password}
    status = 422 if form.errors or pin_form.errors else 200
    return render(request, "workshop/people/password.html", context, status=status)


@posted_from("workshop:people")
@counts_once
def new_password(request: HttpRequest, pk: int) -> HttpResponse:
    """Give somebody a first password again; it is shown this once."""
    who = get_object_or_404(User.of(request.user), pk=pk)
    password = reset_password(request.user, who)
    words = _("%(person)s signs in with %(word)s and then takes a password of their own. It is shown this once.")
    messages.success(request, words % {"person": who, "word": password})
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
    """Say that this is not for this person (403), or not so often (429)."""
    if isinstance(exception, Ratelimited):
        answer = render(request, "workshop/people/refused.html", {"kind": "too_often"}, status=429)
        answer["Retry-After"] = "60"
        return answer
    kind = str(exception) if str(exception) in (NOT_PUT_ON, NEEDS_PASSWORD) else "not_allowed"
    return render(request, "workshop/people/refused.html", {"kind": kind}, status=403)


def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """Say that there is no such thing (404)."""
    return render(request, "workshop/people/refused.html", {"kind": "not_found"}, status=404)


def page_too_old(request: HttpRequest, reason: str = "") -> HttpResponse:
    """Say that the page has outlived its sign-in (CSRF), and how to go on."""
    return render(request, "workshop/people/refused.html", {"kind": "page_too_old"}, status=403)
