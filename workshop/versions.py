"""Rows that two people may have open at once: saved only by who saw the last version."""

import hashlib
from typing import Any

from django import forms
from django.utils.translation import gettext as _

from workshop.models import User


class StaleError(Exception):
    """Somebody else changed the row since the page was drawn."""


def save_version(user: User, row: Any, *, version: int, **fields: Any) -> None:
    """Set fields on a locked row and count its version on; ``StaleError`` where it is not ``version`` any more."""
    if row.version != version:
        raise StaleError
    for name, value in fields.items():
        setattr(row, name, value)
    row.version += 1
    row._history_user = user
    row.full_clean()
    row.save()


class SeenForm(forms.ModelForm):
    """A form of a row without a version: it carries what names the row it was drawn from, and refuses another."""

    seen = forms.CharField(required=False, max_length=16, widget=forms.HiddenInput)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self._now = self._name()
        self.fields["seen"].initial = self._now

    def _name(self) -> str:
        """Name what stands in the row now, before anything of the form is put into it; nothing names a new one."""
        row = self.instance
        if row.pk is None:
            return ""
        stands = [str(getattr(row, field.attname)) for field in row._meta.concrete_fields]
        return hashlib.sha256("\0".join(stands).encode()).hexdigest()[:16]

    def clean(self) -> dict[str, Any]:
        """Say so where somebody was faster; what was typed stays, and the next try is over what stands now."""
        data: dict[str, Any] = super().clean() or {}
        if data.get("seen", "") != self._now:
            self.add_error(None, _("Somebody changed this meanwhile. Compare with theirs above, then save again."))
            self.data = {**self.data.dict(), "seen": self._now}
        return data
