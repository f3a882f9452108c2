"""Who works here, on what, and within which limits."""

from typing import Final

from django import forms
from django.apps import AppConfig
from django.utils.translation import gettext_lazy as _

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


class WorkshopConfig(AppConfig):
    """People, vehicles, limits."""

    name = "workshop"

    def ready(self) -> None:
        """Let every field speak like a good foreman instead of like a framework."""
        from django.contrib.auth.forms import AuthenticationForm  # needs the models

        for kind, messages in SAID.items():
            kind.default_error_messages = {**getattr(kind, "default_error_messages", {}), **messages}
        AuthenticationForm.error_messages |= SAID_AT_THE_DOOR
