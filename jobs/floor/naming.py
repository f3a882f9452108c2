"""A vehicle named by hand: found in the fleet, or asked which is meant where no vehicle has just that name."""

from typing import Final

from django import forms
from django.utils.translation import gettext_lazy as _

from workshop.models import User, Vehicle
from workshop.vehicles import meant

_MOST_ASKED: Final = 8
_NEW: Final = "new "  # before the name that was said to be a new one: another name is asked about anew


class NamesVehicle(forms.BaseForm):
    """A form that takes a vehicle by name or registration; the question is a field only where it is asked."""

    user: User

    def named_vehicle(
        self, label: str, *, registration: str = "", may_be_new: bool = True, but: Vehicle | None = None
    ) -> Vehicle | None:
        """Return the vehicle that is meant; None for a new one, and where it is asked which.

        ``registration`` is that of a new one, which no other may have. ``but`` is never asked about.
        """
        fleet = Vehicle.of(self.user)
        if (vehicle := fleet.named(label)) is not None:
            return vehicle
        holder = fleet.named(registration) if registration else None
        near = [holder] if holder is not None else [v for v in meant(fleet.all(), label) if v != but][:_MOST_ASKED]
        if near:
            return self._asked(label, near, holder=holder, may_be_new=may_be_new)
        if not may_be_new:
            self.add_error("label", _("No vehicle of the fleet has this name or registration."))
        return None

    def _asked(self, label: str, near: list[Vehicle], *, holder: Vehicle | None, may_be_new: bool) -> Vehicle | None:
        choices = {str(vehicle.pk): " · ".join(filter(None, (str(vehicle), vehicle.described))) for vehicle in near}
        if may_be_new:
            choices[_NEW + label] = _("a new vehicle: %(name)s") % {"name": label}
        self.fields["which"] = forms.ChoiceField(
            label=_("Which is meant?"), choices=list(choices.items()), widget=forms.RadioSelect
        )
        said = self.data.get(self.add_prefix("which"))
        if said not in choices:
            if len(near) == 1:  # Enter once more takes it
                self.data = self.data.copy()
                self.data[self.add_prefix("which")] = str(near[0].pk)
            of_another = _("%(vehicle)s has this registration.") % {"vehicle": holder}
            self.add_error("which", of_another if holder else _("No vehicle of the fleet has just this name."))
        return next((vehicle for vehicle in near if str(vehicle.pk) == said), None)
