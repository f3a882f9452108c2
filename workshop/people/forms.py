"""Forms about people."""

from typing import Any

from django import forms
from django.contrib.auth.password_validation import validate_password
from django.utils.translation import gettext_lazy as _

from workshop.models import User


class PersonForm(forms.ModelForm):
    """A new person with a first password."""

    password = forms.CharField(label=_("First password"), widget=forms.PasswordInput(render_value=True))

    class Meta:
        model = User
        fields = ("first_name", "last_name", "username", "role")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["username"].help_text = ""
        self.fields["password"].widget.attrs["autocomplete"] = "new-password"

    def clean_password(self) -> str:
        """Hold the password against the workshop's rules."""
        password = self.cleaned_data["password"]
        validate_password(password, User(username=self.cleaned_data.get("username", "")))
        return str(password)


class RoleForm(forms.ModelForm):
    """What a person may do, and whether they may come in at all."""

    class Meta:
        model = User
        fields = ("role", "is_active")
        labels = {"is_active": _("may sign in")}
