"""Who works here, on what, and within which limits."""

from importlib import import_module
from typing import Any, Final

from django import forms
from django.apps import AppConfig
from django.contrib.auth.signals import user_logged_in
from django.http import HttpRequest
from django.utils.translation import gettext_lazy as _

from workshop.people.language import teach_the_core
from workshop.walls import KEPT_IN_SESSION, NAME_IN_SESSION, tell_new_connections

# What a field says where it is not told otherwise: what is wrong, and what to do.
SAID: Final = {
    forms.Field: {"required": _("Nothing here yet: this one is needed.")},
    forms.ChoiceField: {"invalid_choice": _("Choose one of the list.")},
    forms.ModelChoiceField: {"invalid_choice": _("That one is not there any more. Choose another.")},
    forms.MultipleChoiceField: {"invalid_choice": _("Choose from the list.")},
    forms.DateField: {"invalid": _("A day such as 2027-03-14.")},
    forms.TimeField: {"invalid": _("A time such as 07:30.")},
    forms.IntegerField: {"invalid": _("A whole number, in figures.")},
    forms.FileField: {"required": _("Choose a file first."), "empty": _("This file is empty. Choose another.")},
}

SAID_AT_THE_DOOR: Final = {
    "invalid_login": _("That name and password do not go together. Small and capital letters count."),
    "inactive": _("This person may not sign in any more. Ask the workshop lead."),
}


def _remember_workshop(sender: Any, request: HttpRequest, user: Any, **_rest: Any) -> None:
    request.session[KEPT_IN_SESSION] = user.here_id
    rows = import_module("workshop.models").Membership.workshops_of(user.pk)
    if len(rows) > 1:
        request.session[NAME_IN_SESSION] = next(row.name for row in rows if row.pk == user.here_id)


class WorkshopConfig(AppConfig):
    """People, vehicles, limits."""

    name = "workshop"

    def ready(self) -> None:
        """Let every field speak like a good foreman instead of like a framework."""
        from django.contrib.auth.forms import AuthenticationForm  # need the models

        from workshop.store import limits_import

        limits_import.can_be_done()
        tell_new_connections()
        teach_the_core()
        user_logged_in.connect(_remember_workshop, dispatch_uid="workshop")
        for kind, messages in SAID.items():
            kind.default_error_messages = {**getattr(kind, "default_error_messages", {}), **messages}
        AuthenticationForm.error_messages |= SAID_AT_THE_DOOR
