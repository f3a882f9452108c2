"""What is sent for one step of the work."""

from django import forms
from django.utils.translation import gettext_lazy as _

from jobs.do.running import Sent
from workshop.fields import InOwnUnit, torque_field


class StepForm(InOwnUnit, forms.Form):
    """A step's name, and whatever it asks: a reading, a finding, a torque with its source, who passes a hold."""

    position = forms.CharField(max_length=3, required=False)
    key = forms.CharField(max_length=60)
    typed = forms.CharField(max_length=40, required=False)
    arm = forms.CharField(max_length=20, required=False)
    finding = forms.CharField(max_length=20, required=False)
    reason = forms.CharField(max_length=300, required=False)
    torque = torque_field(label=_("Torque"), required=False)
    source = forms.CharField(max_length=120, required=False)
    second = forms.CharField(max_length=150, required=False)
    second_password = forms.CharField(max_length=200, required=False, strip=False)
    out_of_order = forms.BooleanField(required=False)

    def sent(self) -> Sent:
        """Return what was sent as the actions take it."""
        data = self.cleaned_data
        same = ("position", "key", "typed", "arm", "finding", "reason", "source", "out_of_order")
        return Sent(**{name: data[name] for name in same}, torque_nm=data["torque"])
