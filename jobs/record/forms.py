"""Forms of files."""

from django import forms
from django.utils.translation import gettext_lazy as _

from workshop.fields import MAX_BYTES, SmallFileField


class CaseFileForm(forms.Form):
    """A case file to open as a job, or an archive of them."""

    case = SmallFileField(label=_("Case file (iron-compass-case/1), or an archive of them"), most_bytes=MAX_BYTES)
