"""Forms about what comes after a job."""

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from jobs.models import Closing
from workshop.fields import distance_field, speak_all
from workshop.models import User


class RingForm(forms.Form):
    """What the owner said on the telephone."""

    said = forms.ChoiceField(label=_("What was said"), choices=Closing.Rung.choices)
    odometer_km = distance_field(label=_("Odometer, if told"), required=False)
    note = forms.CharField(label=_("Note"), max_length=300, required=False)

    def __init__(self, *args: Any, user: User, autofocus: bool = False, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        speak_all(self, user.unit)
        if autofocus:
            self.fields["said"].widget.attrs["autofocus"] = True
