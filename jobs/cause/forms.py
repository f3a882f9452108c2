"""Forms of the Cause leg."""

from django import forms
from django.utils.translation import gettext_lazy as _

from workshop.fields import MAX_BYTES, SmallFileField


class RecordingForm(forms.Form):
    """A road test."""

    recording = SmallFileField(most_bytes=MAX_BYTES, error_messages={"required": _("Choose a file first.")})
