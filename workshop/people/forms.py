"""Forms about people."""

from itertools import pairwise
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


def own_password(user: User, said: str) -> str:
    """Return what was said where it is the person's password; ``ValidationError`` where not."""
    if not user.check_password(said):
        raise forms.ValidationError(_("That is not your password."))
    return said


class PasswordForm(forms.Form):
    """A password of one's own, typed once: whoever mistypes it is let in by the lead."""

    now = forms.CharField(label=_("Password now"), max_length=200, widget=forms.PasswordInput())
    new = forms.CharField(label=_("New password"), max_length=200, widget=forms.PasswordInput())

    def __init__(self, *args: Any, user: User, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.user = user
        self.fields["now"].widget.attrs["autocomplete"] = "current-password"
        self.fields["new"].widget.attrs["autocomplete"] = "new-password"
        self.fields["new"].help_text = _("A few words are best: long, and nothing anybody could look up.")

    def clean_now(self) -> str:
        """Refuse somebody at a tablet that was left open."""
        return own_password(self.user, self.cleaned_data["now"])

    def clean_new(self) -> str:
        """Hold it against the rules; it is another than before."""
        new = self.cleaned_data["new"]
        validate_password(new, self.user)
        if self.user.check_password(new):
            raise forms.ValidationError(_("That is the one you have. Take another."))
        return str(new)


class PinForm(forms.Form):
    """A PIN for quick switching, with the password once more; an empty one takes it away."""

    now = forms.CharField(label=_("Password now"), max_length=200, widget=forms.PasswordInput())
    pin = forms.RegexField(
        r"^\d{4,8}$",
        label=_("PIN, 4 to 8 digits; empty takes it away"),
        required=False,
        widget=forms.PasswordInput({"inputmode": "numeric", "autocomplete": "off"}),
        error_messages={"invalid": _("Four to eight digits.")},
    )

    def __init__(self, *args: Any, user: User, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.user = user
        self.fields["now"].widget.attrs["autocomplete"] = "current-password"

    def clean_now(self) -> str:
        """Refuse somebody at a tablet that was left open."""
        return own_password(self.user, self.cleaned_data["now"])

    def clean_pin(self) -> str:
        """Refuse what everybody tries first: one digit over and over, or digits in a row."""
        pin = str(self.cleaned_data["pin"])
        steps = {(int(b) - int(a)) % 10 for a, b in pairwise(pin)}
        if pin and len(steps) == 1 and steps <= {0, 1, 9}:
            raise forms.ValidationError(_("That is the first anybody tries. Take other digits."))
        return pin


class RoleForm(forms.ModelForm):
    """What a person may do, and whether they may come in at all."""

    class Meta:
        model = User
        fields = ("role", "is_active")
        labels = {"is_active": _("may sign in")}
