"""What the ledger is asked for, read from the address."""

from typing import Any

from django import forms
from django.db.models import Q
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from compass.words.codes import CAUSES, REMEDIES
from jobs.models import CornerWorked
from workshop.models import User

GROUPS = (
    ("cause", gettext_lazy("cause")),
    ("remedy", gettext_lazy("remedy")),
    ("model", gettext_lazy("model")),
    ("axle", gettext_lazy("axle")),
    ("person", gettext_lazy("person")),
    ("lathe", gettext_lazy("lathe")),
    ("plate", gettext_lazy("plate")),
    ("supplier", gettext_lazy("supplier")),
    ("month", gettext_lazy("month")),
)


class LedgerForm(forms.Form):
    """Filters and grouping. What is wrong in an address is left out, never an error page."""

    by = forms.ChoiceField(label=gettext_lazy("By"), choices=GROUPS, required=False)
    since = forms.DateField(label=gettext_lazy("From"), required=False, widget=forms.DateInput({"type": "date"}))
    until = forms.DateField(label=gettext_lazy("Until"), required=False, widget=forms.DateInput({"type": "date"}))
    model = forms.CharField(label=gettext_lazy("Model"), max_length=60, required=False)
    remedy = forms.ChoiceField(label=gettext_lazy("Remedy"), required=False)
    cause = forms.ChoiceField(label=gettext_lazy("Cause"), required=False)

    def __init__(self, *args: Any, user: User, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.user = user
        self.fields["remedy"].choices = [("", _("any")), *((code, _(name)) for code, name in REMEDIES.items())]
        self.fields["cause"].choices = [("", _("any")), *((code, _(name)) for code, name in CAUSES.items())]
        self.full_clean()

    @property
    def group(self) -> str:
        """What rows are grouped by."""
        return self.cleaned_data.get("by") or "cause"

    def works(self) -> Any:
        """Return the corners worked on that fit."""
        told = self.cleaned_data
        fits = Q(closing__stands=True)
        if told.get("since"):
            fits &= Q(closing__at__date__gte=told["since"])
        if told.get("until"):
            fits &= Q(closing__at__date__lte=told["until"])
        if told.get("model"):
            fits &= Q(closing__model__istartswith=told["model"])
        if told.get("remedy"):
            fits &= Q(remedy=told["remedy"])
        if told.get("cause"):
            fits &= Q(root_cause=told["cause"])
        return CornerWorked.of(self.user).filter(fits)

    @property
    def query(self) -> str:
        """The filters as part of an address, without the grouping."""
        names = ("since", "until", "model", "remedy", "cause")
        kept = {name: self.data.get(name, "") for name in names if self.cleaned_data.get(name)}
        return "&".join(f"{name}={value}" for name, value in kept.items())
