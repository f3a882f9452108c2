"""What the workshop has and asks: plates, lathes, prices, minutes, policy. Records; no decisions."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from types import MappingProxyType
from typing import Final

from compass.ground.arrays import require_positive
from compass.ground.errors import EvidenceError
from compass.ground.translation import _N

# What a remedy takes at one corner, minutes; our estimates, until the workshop says its own.
MINUTES: Final[Mapping[str, float]] = MappingProxyType(
    {
        "none": 0,
        "clean_and_torque": 20,
        "index": 25,
        "plate": 40,
        "bench_cut": 60,
        "on_vehicle_cut": 55,
        "new_rotors": 35,
        "hub_unit": 110,
    }
)
# Money in the workshop's own currency; our estimates, only where the workshop says nothing.
PRICES: Final[Mapping[str, float]] = MappingProxyType(
    {"labour_per_hour": 60.0, "rotor": 70.0, "plate": 25.0, "hub_unit": 160.0, "comeback": 300.0}
)
WARRANTY_KM: Final = 20_000.0  # measurement.md#starting-values
# How wear brings a pulsing back and how a rotor seats: until the workshop's own pairs say better (compass.learn).
QUIET_RUNOUT_MM: Final = 0.03  # L0, measurement.md#what-remedies-leave
GROWTH_MM: Final = 0.04  # g, variation a 1,000 km and mm of runout over L0; measurement.md#what-remedies-leave
SEATING_TIR_MM: Final = 0.002  # how far a mounting moves the rotor; measurement.md#whose-runout
LEARNED: Final = ("growth_mm", "quiet_runout_mm", "seating_tir_mm")  # what a workshop's own pairs refit
WEAR_ALLOWANCE_MM: Final = 0.3  # measurement.md#starting-values


@dataclass(frozen=True, slots=True)
class Plate:
    """A kind of tapered plate: correction (mm TIR) at its reference radius (mm), holes' positions, stud count."""

    correction_mm: float
    reference_radius_mm: float
    positions: int
    studs: int

    def __post_init__(self) -> None:
        require_positive(self.correction_mm, field="correction_mm")
        if not self.reference_radius_mm >= 1:
            raise EvidenceError("reference_radius_mm", _N("at least 1 mm"))
        if self.positions < 1 or self.studs < 1:
            raise EvidenceError("positions", _N("at least 1"))

    @property
    def angles_deg(self) -> tuple[float, ...]:
        """Where its thin side can stand, hub angles."""
        return tuple(360.0 * k / self.positions for k in range(self.positions))

    def tir_at_mm(self, radius_mm: float) -> float:
        """Return the TIR it takes out at a radius (measurement.md#radius: a tilt grows with the radius)."""
        return self.correction_mm * radius_mm / self.reference_radius_mm


@dataclass(frozen=True, slots=True)
class Lathe:
    """A brake lathe, ``on_vehicle`` or ``bench``: what it leaves (mm TIR at r_m), depths a face and pass (mm).

    ``finish_depth_mm`` is the depth of a finish pass, ``mm_per_line`` what one line of its knob feeds.
    """

    kind: str
    runout_left_mm: float
    min_depth_mm: float
    max_depth_mm: Mapping[str, float] = field(default_factory=dict, hash=False)
    finish_depth_mm: float | None = None
    mm_per_line: float | None = None
    name: str = ""

    def most_mm(self, rotor: str) -> float | None:
        """Return the most it may cut off a face in one pass, by rotor type; None where its profile says nothing."""
        return self.max_depth_mm.get(rotor)


@dataclass(frozen=True, slots=True)
class Shop:
    """The workshop's own figures; what it does not say is our estimate."""

    policy: str = "least_cost"
    plates: tuple[Plate, ...] = ()
    lathes: tuple[Lathe, ...] = ()
    prices: Mapping[str, float] = field(default_factory=dict, hash=False)
    minutes: Mapping[str, float] = field(default_factory=dict, hash=False)
    warranty_km: float = WARRANTY_KM
    wear_allowance_mm: float = WEAR_ALLOWANCE_MM
    currency: str = ""
    base_rates: Mapping[str, float] = field(default_factory=dict, hash=False)  # of causes; empty: our estimate
    growth_mm: float = GROWTH_MM
    quiet_runout_mm: float = QUIET_RUNOUT_MM
    seating_tir_mm: float = SEATING_TIR_MM
    leaves_lathe: bool = False  # other work goes on beside a running lathe; of the work, no part of a case

    def lathe(self, kind: str) -> Lathe | None:
        """Return the lathe of a kind that leaves least, or None."""
        return min((x for x in self.lathes if x.kind == kind), key=lambda x: x.runout_left_mm, default=None)

    def price_of(self, what: str) -> float:
        """Return a price of the workshop's, or our estimate."""
        return float(self.prices.get(what, PRICES[what]))

    @property
    def minute_of_checking(self) -> float:
        """What a minute of checking costs; our estimate where labour is not charged: time is never free."""
        return (self.price_of("labour_per_hour") or PRICES["labour_per_hour"]) / 60

    @property
    def comeback_at_stake(self) -> float:
        """What a comeback costs where a check could prevent it; our estimate where none is charged."""
        return self.price_of("comeback") or PRICES["comeback"]

    def minutes_of(self, remedy: str) -> float:
        """Return the minutes a remedy takes at one corner; a combination nobody timed takes its parts' time."""
        if remedy in self.minutes:
            return float(self.minutes[remedy])
        return sum(float(self.minutes.get(part, MINUTES[part])) for part in remedy.split("+"))

    def bill(self, remedy: str) -> float:
        """Return labour and parts of a remedy at one corner."""
        parts = {"new_rotors": "rotor", "plate": "plate", "hub_unit": "hub_unit"}
        bought = sum(self.price_of(parts[part]) for part in remedy.split("+") if part in parts)
        return self.minutes_of(remedy) / 60 * self.price_of("labour_per_hour") + bought
