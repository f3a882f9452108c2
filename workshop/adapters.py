"""Rows of this app into records of the core."""

from compass.evidence import Spec
from compass.units import Unit
from workshop.models import AxleLimits, User


def spec_of(limits: AxleLimits) -> Spec:
    """Return the core's record of an axle's limits."""
    return Spec(
        studs=limits.studs,
        rotor=limits.rotor,
        features=frozenset(limits.features),
        discard_thickness_mm=limits.discard_thickness_mm,
        max_runout_mm=limits.max_runout_mm,
        max_thickness_variation_mm=limits.max_thickness_variation_mm,
        measuring_radius_mm=limits.measuring_radius_mm,
        nominal_thickness_mm=limits.nominal_thickness_mm,
        machine_to_thickness_mm=limits.machine_to_thickness_mm,
    )


def unit_of(user: User) -> Unit:
    """Return the unit a person reads lengths in."""
    return Unit.THOU if user.is_authenticated and user.units == User.Units.THOU else Unit.MM
