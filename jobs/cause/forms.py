"""Forms of the Cause leg."""

from django import forms
from django.utils.translation import gettext_lazy as _

from jobs.record.forms import MAX_BYTES
from workshop.fields import SmallFileField


class RecordingForm(forms.Form):
    """A road test."""

    recording = SmallFileField(most_bytes=MAX_BYTES, error_messages={"required": _("Choose a file first.")})
