"""Forms of bays and lathe."""

from datetime import datetime

from django import forms
from django.utils import timezone
from django.utils.translation import gettext_lazy as _

from jobs.models import Booking
from workshop.fields import NumberField


class BookingForm(forms.Form):
    """A place of the workshop for a while."""

    place = forms.ChoiceField(label=_("Place"), choices=Booking.Place.choices)
    day = forms.DateField(label=_("Day"), widget=forms.DateInput({"type": "date"}, format="%Y-%m-%d"))
    starts = forms.TimeField(label=_("From"), widget=forms.TimeInput({"type": "time"}, format="%H:%M"))
    minutes = NumberField(label=_("Minutes"), least=10, most=600, initial=60, whole=True)

    def starts_at(self) -> datetime:
        """Return when it begins, in the workshop's own time."""
        data = self.cleaned_data
        return datetime.combine(data["day"], data["starts"], tzinfo=timezone.get_current_timezone())
