"""The causes a complaint can have, and how often each is met: the start of the weighing, before anything is known."""

from collections.abc import Mapping
from enum import StrEnum
from typing import Final


class Cause(StrEnum):
    """Cause codes of the verdict (measurement.md#root-cause)."""

    RUNOUT_MADE_VARIATION = "runout_made_thickness_variation"
    CORROSION = "corrosion_or_pad_imprint"
    DEPOSIT = "pad_deposit_or_hot_spots"
    ROTOR = "rotor_runout"
    HUB = "hub_face_runout"
    JOINT = "joint_contamination"
    NUTS = "lug_torque"
    BEARING = "wheel_bearing"
    BENT = "bent_hub_or_axle"
    CALIPER = "caliper_or_slides"
    DRUM = "drum_out_of_round"
    SUSPENSION = "suspension_or_steering_play"
    TYRE = "tyre_or_wheel"
    ABS = "abs_operation"
    WORN = "worn_below_limit"
    BROKEN = "cracked_or_broken"
    STACK = "hub_and_rotor_together"
    NOT_SEPARABLE = "not_separable"
    NONE = "none_found"


# Complaints of pulsing and shaking out of a hundred; our estimate. A workshop's own closed jobs adjust it.
BASE_RATES: Final[Mapping[Cause, float]] = {
    Cause.RUNOUT_MADE_VARIATION: 13.0,
    Cause.CORROSION: 8.0,
    Cause.DEPOSIT: 5.0,
    Cause.ROTOR: 13.0,
    Cause.HUB: 13.0,
    Cause.JOINT: 11.0,
    Cause.NUTS: 7.0,
    Cause.BEARING: 5.0,
    Cause.STACK: 8.0,
    Cause.BENT: 3.0,
    Cause.CALIPER: 5.0,
    Cause.DRUM: 1.5,
    Cause.SUSPENSION: 3.5,
    Cause.TYRE: 4.0,
    Cause.ABS: 2.0,
    Cause.WORN: 3.0,
    Cause.BROKEN: 1.0,
    Cause.NONE: 12.0,
}
# Causes of the vehicle as a whole: they sit at no corner that is measured.
OF_THE_VEHICLE: Final = frozenset({Cause.SUSPENSION, Cause.TYRE, Cause.ABS, Cause.NONE})
REAR_ONLY: Final = frozenset({Cause.DRUM})
# A disc that is felt because it is thin and thick by turns.
UNEVEN: Final = frozenset({Cause.RUNOUT_MADE_VARIATION, Cause.CORROSION, Cause.DEPOSIT})
# At a corner, and mended by no work on its disc.
STANDS_BESIDE: Final = frozenset({Cause.BEARING, Cause.CALIPER, Cause.DRUM})
# Put right beside the discs: no remedy of a corner does it.
BESIDE: Final = frozenset({Cause.CALIPER, Cause.DRUM, Cause.SUSPENSION, Cause.TYRE, Cause.ABS})
# What is seen of them; the first that was seen is to blame.
FOUND_BESIDE: Final[Mapping[str, Cause]] = {
    "slides_seized": Cause.CALIPER,
    "piston_stuck": Cause.CALIPER,
    "drum_out_of_round": Cause.DRUM,
    "joint_play": Cause.SUSPENSION,
    "tyre_damage": Cause.TYRE,
    "abs_active": Cause.ABS,
}
CURED_BY_MEASURING: Final = frozenset({Cause.JOINT, Cause.NUTS})  # the joint is cleaned and torqued to be swept again
LIKELY: Final = 0.5  # of the odds: a cause that has more is likelier there than not
_STEADY: Final = 40.0  # closed jobs that weigh as much as the base rates above


def adjusted_rates(closed: Mapping[str, int]) -> dict[Cause, float]:
    """Adjust the base rates by a workshop's closed jobs: counts a cause (Dirichlet prior worth ``_STEADY`` jobs)."""
    total = sum(BASE_RATES.values())
    return {cause: rate / total * _STEADY + closed.get(cause.value, 0) for cause, rate in BASE_RATES.items()}
