"""What the ledger is asked for, read from the address."""

from datetime import date, timedelta
from typing import Any, Final
from urllib.parse import urlencode

from django import forms
from django.db.models import Q
from django.http import QueryDict
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from compass.words.codes import CAUSES, REMEDIES
from jobs.models import CornerWorked
from ledger.facts import Counts, RowByRow
from ledger.months import ByMonths
from workshop.models import User

_YEARS: Final = 2  # looked back on unless more is asked for
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
    """Filters and grouping. What is wrong in an address is left out, never an error page.

    An address that names no period shows the last two years; one with an empty ``since`` shows all.
    """

    by = forms.ChoiceField(label=gettext_lazy("By"), choices=GROUPS, required=False)
    since = forms.DateField(label=gettext_lazy("From"), required=False, widget=forms.DateInput({"type": "date"}))
    until = forms.DateField(label=gettext_lazy("Until"), required=False, widget=forms.DateInput({"type": "date"}))
    model = forms.CharField(label=gettext_lazy("Model"), max_length=60, required=False)
    remedy = forms.ChoiceField(label=gettext_lazy("Remedy"), required=False)
    cause = forms.ChoiceField(label=gettext_lazy("Cause"), required=False)

    def __init__(self, data: QueryDict, *, user: User, today: date, **kwargs: Any) -> None:
        super().__init__(data if "since" in data else {**data.dict(), "since": _usual(today)}, **kwargs)
        self.user = user
        self.asked_since = bool(data.get("since"))
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
        fits = Q(stands=True)
        if told.get("since"):
            fits &= Q(on__gte=told["since"])
        if told.get("until"):
            fits &= Q(on__lte=told["until"])
        if told.get("model"):
            fits &= Q(model__istartswith=told["model"])
        if told.get("remedy"):
            fits &= Q(remedy=told["remedy"])
        if told.get("cause"):
            fits &= Q(root_cause=told["cause"])
        return CornerWorked.of(self.user).filter(fits)

    def counts(self) -> Counts:
        """Return what counts them: sums that are kept where whole months are asked for, else their rows."""
        told = self.cleaned_data
        since, until = told.get("since"), told.get("until")
        narrow = any(told.get(name) for name in ("model", "remedy", "cause"))
        if narrow or (since and since.day != 1) or (until and (until + timedelta(days=1)).day != 1):
            return RowByRow(self.works())
        return ByMonths(self.user, since, until)

    @property
    def narrowed(self) -> bool:
        """Whether anything but the usual period was asked for."""
        return self.asked_since or any(self.cleaned_data.get(name) for name in ("until", "model", "remedy", "cause"))

    @property
    def query(self) -> str:
        """The filters as part of an address, without the grouping."""
        names = ("since", "until", "model", "remedy", "cause")
        kept = {name: self.data.get(name, "") for name in names if self.cleaned_data.get(name) or name == "since"}
        return urlencode(kept)


def _usual(today: date) -> str:
    """Return where the usual period begins: the first day of a month."""
    return f"{today.year - _YEARS}-{today.month:02d}-01"
