"""What was measured: frozen records, validated when made. Readings and set-up, never conclusions."""

from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import Final

import numpy as np

from compass.evidence.complaint import Complaint, VehicleFacts
from compass.evidence.shop import SEATING_TIR_MM, Shop
from compass.ground.angles import equal_stations_deg
from compass.ground.arrays import FloatArray, read_only, require_positive
from compass.ground.errors import EvidenceError
from compass.ground.positions import POSITIONS, positions_of
from compass.ground.translation import _N


class Surface(StrEnum):
    """The face the indicator's tip stood on."""

    ROTOR_OUTBOARD = "rotor_outboard"
    ROTOR_INBOARD = "rotor_inboard"
    HUB_FACE = "hub_face"
    ARBOR = "arbor"


ROTOR_SURFACES: Final = (Surface.ROTOR_OUTBOARD, Surface.ROTOR_INBOARD)


WORKS_ON_METAL: Final = ("bench_cut", "on_vehicle_cut", "new_rotors")  # the disc is another one after them
_OF_THE_DISC: Final = frozenset({"cracked", "vent_showing", "blue_spots", "pad_shaped_patch", "deep_grooves"})
# Between these shares of the measuring radius a tip can stand: a small hub's face and a little beyond the disc's edge.
# Outside, a decimal sign or a diameter slipped in, and order n would be scaled by the n-th power of it. Our estimate.
_FURTHEST_IN, _FURTHEST_OUT = 0.1, 2.0


def radii_within_mm(measuring_radius_mm: float) -> tuple[float, float]:
    """Return between which radii (mm) a tip or a micrometer can have stood, both excluded."""
    return _FURTHEST_IN * measuring_radius_mm, _FURTHEST_OUT * measuring_radius_mm


READINGS_FOR_STATIONS: Final = _N("{readings} readings for {stations} stations")


@dataclass(frozen=True, slots=True)
class Spec:
    """The limits of one corner. Lengths in mm; ``measuring_radius_mm`` is where runout is judged."""

    studs: int
    rotor: str
    discard_thickness_mm: float
    max_runout_mm: float
    max_thickness_variation_mm: float
    measuring_radius_mm: float
    features: frozenset[str] = frozenset()
    nominal_thickness_mm: float | None = None
    machine_to_thickness_mm: float | None = None
    max_hub_runout_mm: float | None = None
    hub_runout_radius_mm: float | None = None
    max_bearing_play_mm: float | None = None
    swept_inner_radius_mm: float | None = None
    swept_outer_radius_mm: float | None = None
    new_rotor_runout_mm: float | None = None
    new_hub_runout_mm: float | None = None
    index_positions: tuple[float, ...] | None = None
    max_drum_diameter_mm: float | None = None
    min_lining_mm: float | None = None
    min_pad_mm: float | None = None

    def __post_init__(self) -> None:
        if self.studs < 1:
            raise EvidenceError("studs", _N("at least 1"))
        for name in (
            "discard_thickness_mm",
            "max_runout_mm",
            "max_thickness_variation_mm",
            "measuring_radius_mm",
        ):
            require_positive(getattr(self, name), field=name)

    @property
    def broken_by_design(self) -> bool:
        """Whether slots or holes make the dial jump by design."""
        return bool(self.features & {"slotted", "drilled"})

    @property
    def positions_deg(self) -> tuple[float, ...]:
        """The indices at which the rotor goes back on: those told, else one a stud; a captive one has only its own."""
        if self.index_positions is not None:
            return self.index_positions
        if "captive" in self.features:
            return (0.0,)
        return tuple(360.0 * k / self.studs for k in range(self.studs))


@dataclass(frozen=True, slots=True, eq=False)
class Sweep:
    """One turn under the dial: readings (n,) at stations (n,), a missing reading left out of both.

    ``readings_mm`` is in the instrument's own sense. ``graduation_mm`` is the engraved division and
    ``read_to`` the fraction of it that was read. ``instrument_error_mm`` is the dial's error limit.
    """

    surface: Surface
    radius_mm: float
    stations_deg: FloatArray
    readings_mm: FloatArray
    graduation_mm: float
    read_to: float = 1.0
    index_deg: float = 0.0
    cleaned: bool = True
    nuts_torqued: bool = True
    instrument_error_mm: float = 0.0
    closing_mm: float | None = None

    def __post_init__(self) -> None:
        object.__setattr__(self, "stations_deg", read_only(self.stations_deg, field="stations_deg"))
        object.__setattr__(self, "readings_mm", read_only(self.readings_mm, field="readings_mm"))
        if self.stations_deg.shape != self.readings_mm.shape or self.readings_mm.ndim != 1:
            counts = {"readings": self.readings_mm.size, "stations": self.stations_deg.size}
            raise EvidenceError("readings_mm", READINGS_FOR_STATIONS, **counts)
        require_positive(self.radius_mm, field="radius_mm")
        require_positive(self.graduation_mm, field="graduation_mm")
        require_positive(self.read_to, field="read_to")

    @property
    def resolution_mm(self) -> float:
        """The step the readings can differ by: graduation × the fraction read to."""
        return self.graduation_mm * self.read_to

    @property
    def outboard_readings_mm(self) -> FloatArray:
        """Readings in the outboard face's sense: an inboard sweep turns its sign (measurement.md#inboard-faces)."""
        return -self.readings_mm if self.surface is Surface.ROTOR_INBOARD else self.readings_mm

    def same_conditions(self, other: "Sweep") -> bool:
        """Whether ``other`` is a repeat turn of this sweep."""
        return (
            self.surface is other.surface
            and self.index_deg == other.index_deg
            and self.radius_mm == other.radius_mm
            and self.cleaned == other.cleaned
            and self.nuts_torqued == other.nuts_torqued
        )


@dataclass(frozen=True, slots=True)
class HighSpot:
    """A quick reading: amount and place of the high spot only (±``within_deg``, an even bound)."""

    surface: Surface
    radius_mm: float
    tir_mm: float
    high_deg: float
    graduation_mm: float
    within_deg: float = 15.0
    index_deg: float = 0.0
    cleaned: bool = True
    nuts_torqued: bool = True


UNMEASURED_LIP_MM: Final = 0.75  # a lip that was not measured is anywhere from 0 to twice this; our estimate


@dataclass(frozen=True, slots=True)
class OverLips:
    """Lip heights of a rotor that was measured with a plain caliper over its lips (mm, even bound each)."""

    outboard_mm: float
    inboard_mm: float
    within_mm: float = 0.05

    @classmethod
    def measured(cls, outboard_mm: float | None, inboard_mm: float | None, *, within_mm: float) -> "OverLips":
        """Return the lips as far as they were measured: one that was not may have any height a worn disc's has."""
        if outboard_mm is not None and inboard_mm is not None:
            return cls(outboard_mm, inboard_mm, within_mm)
        out, inn = (UNMEASURED_LIP_MM if lip is None else lip for lip in (outboard_mm, inboard_mm))
        return cls(out, inn, UNMEASURED_LIP_MM)

    @property
    def is_measured(self) -> bool:
        """Whether the heights are closer than a lip nobody measured."""
        return self.within_mm < UNMEASURED_LIP_MM


@dataclass(frozen=True, slots=True, eq=False)
class ThicknessRound:
    """Micrometer readings (radii, stations); NaN-free: a station not measured is left out of all radii.

    ``rounds``: how many rounds at the same places each reading is the mean of.
    """

    stations_deg: FloatArray
    radii_mm: FloatArray
    readings_mm: FloatArray
    graduation_mm: float
    instrument_error_mm: float = 0.0
    index_deg: float = 0.0
    over_lips: OverLips | None = None
    rounds: int = 1

    def __post_init__(self) -> None:
        if self.rounds < 1:
            raise EvidenceError("rounds", _N("at least 1"))
        for name in ("stations_deg", "radii_mm", "readings_mm"):
            object.__setattr__(self, name, read_only(getattr(self, name), field=name))
        if self.readings_mm.shape != (self.radii_mm.size, self.stations_deg.size):
            counts = {"rows": self.radii_mm.size, "stations": self.stations_deg.size}
            raise EvidenceError("readings_mm", _N("{rows} rows of {stations} readings"), **counts)
        if self.readings_mm.size == 0:
            raise EvidenceError("readings_mm", _N("at least one reading"))
        require_positive(self.graduation_mm, field="graduation_mm")


@dataclass(frozen=True, slots=True)
class Pads:
    """Pad thickness left (mm), inner and outer, as many places as were measured; and of new ones put in since."""

    inner: tuple[float, ...] = ()
    outer: tuple[float, ...] = ()
    renewed: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class Drum:
    """The drum in a rear rotor's hat: inner diameters and lining thicknesses (mm), as many as were measured.

    ``renewed_mm`` are the linings of new shoes put in since.
    """

    diameters_mm: tuple[float, ...] = ()
    linings_mm: tuple[float, ...] = ()
    renewed_mm: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class WearRate:
    """What this disc has lost so far, mm per 1,000 km, with its expanded U; from its history."""

    mm_per_1000_km: float
    expanded_mm: float = 0.0


@dataclass(frozen=True, slots=True)
class AfterWork:
    """What was read at a corner after one work on it: no evidence of what it was, and never joined with it.

    ``work`` is the remedy that was done, as far as it is told.
    """

    sweeps: tuple[Sweep, ...] = ()
    high_spots: tuple[HighSpot, ...] = ()
    thickness: ThicknessRound | None = None
    work: str = ""

    @property
    def is_swept(self) -> bool:
        """Whether the rotor's runout was read."""
        surfaces = {sweep.surface for sweep in self.sweeps} | {spot.surface for spot in self.high_spots}
        return not surfaces.isdisjoint(ROTOR_SURFACES)


@dataclass(frozen=True, slots=True)
class Corner:
    """One wheel's evidence as it came in; ``after`` is what was read after each work, in their order."""

    position: str
    spec: Spec
    sweeps: tuple[Sweep, ...] = ()
    high_spots: tuple[HighSpot, ...] = ()
    thickness: ThicknessRound | None = None
    bearing_play_mm: float | None = None
    pads: Pads | None = None
    drum: Drum | None = None
    seen: frozenset[str] = frozenset()
    wear: WearRate | None = None
    plate_fitted: bool = False  # a correction plate is under this disc already
    seating_tir_mm: float = SEATING_TIR_MM  # by which a mounting usually moves a rotor in this workshop
    turned_before: int = 0  # how often this rotor was turned on this hub to cure it
    after: tuple[AfterWork, ...] = ()

    def as_after(self, episode: int) -> "Corner":
        """Return the corner as it stood after its work number ``episode`` (from 1), by what was read then alone."""
        read = self.after[episode - 1]
        return Corner(
            self.position, self.spec, read.sweeps, read.high_spots, read.thickness, seating_tir_mm=self.seating_tir_mm
        )

    def as_it_stands(self) -> "Corner | None":
        """Return the corner as it stood when it was read last after a work; None where it never was.

        A work that nobody read yet is under way: what is chosen instead of it rests on what was read before it. What a
        work is known to leave as it was (a disc's thickness under a plate) is known from before it.
        """
        swept = [k for k, read in enumerate(self.after, start=1) if read.is_swept]
        if not swept:
            return None
        stands = self
        for read in self.after[: swept[-1]]:
            works = frozenset(read.work.split("+"))
            left = bool(read.work) and not works & set(WORKS_ON_METAL)
            stands = replace(
                stands,
                sweeps=read.sweeps,
                high_spots=read.high_spots,
                thickness=read.thickness or (stands.thickness if left else None),
                bearing_play_mm=None if "hub_unit" in works else stands.bearing_play_mm,
                seen=stands.seen - _OF_THE_DISC if "new_rotors" in works else stands.seen,
                turned_before=0 if works & {"new_rotors", "hub_unit"} else stands.turned_before + ("index" in works),
                plate_fitted="plate" in works or (stands.plate_fitted and "new_rotors" not in works),
                after=(),
            )
        return stands

    def __post_init__(self) -> None:
        if self.position not in POSITIONS:
            raise EvidenceError("position", _N("one of {allowed}"), allowed=", ".join(POSITIONS))


@dataclass(frozen=True, slots=True)
class Case:
    """One job's evidence: the measured corners, the driver's words, the vehicle, the workshop's figures."""

    corners: tuple[Corner, ...]
    case_id: str | None = None
    vehicle: VehicleFacts = field(default_factory=VehicleFacts)
    complaint: Complaint = field(default_factory=Complaint)
    shop: Shop = field(default_factory=Shop)

    @property
    def positions(self) -> tuple[str, ...]:
        """The corners the vehicle has, measured or not."""
        named = [corner.position for corner in self.corners]
        own = self.vehicle.positions
        return (*own, *(p for p in named if p not in own)) if own else positions_of(named, self.vehicle.kind)

    def __post_init__(self) -> None:
        positions = [corner.position for corner in self.corners]
        if len(set(positions)) != len(positions):
            raise EvidenceError("corners", _N("each position once"))


def stations_or_default(stations_deg: FloatArray | None, count: int) -> FloatArray:
    """Return the stations given, or ``count`` equally spaced ones from 0°."""
    return equal_stations_deg(count) if stations_deg is None else np.asarray(stations_deg, dtype=np.float64)
