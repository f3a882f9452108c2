"""The simulated corner: hidden truth that answers as an instrument would.

One simulator for demo data, statistical tests and stand-in instruments. Randomness is handed in.
"""

from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from compass.evidence.records import HighSpot, Surface, Sweep, ThicknessRound
from compass.ground.angles import equal_stations_deg
from compass.ground.arrays import FloatArray

_GRID_DEG: Final = np.arange(0.0, 360.0, 0.5)


@dataclass(frozen=True, slots=True)
class Wave:
    """One order of a profile: order n, amplitude mm, angle of a crest in degrees."""

    order: int
    amplitude_mm: float
    crest_deg: float


@dataclass(frozen=True, slots=True)
class Patch:
    """A pad-wide bump (mm, negative for a hollow) about ``centre_deg``, Gaussian, ``width_deg`` = 2 sd."""

    height_mm: float
    centre_deg: float
    width_deg: float


@dataclass(frozen=True, slots=True)
class Slot:
    """A narrow fault of the face (rust, a slot, a hole), mm, within ±``half_width_deg`` of ``centre_deg``."""

    height_mm: float
    centre_deg: float
    half_width_deg: float = 1.5


@dataclass(frozen=True, slots=True)
class Instrument:
    """A dial as it is used: division, fraction read to, error limit (mm), repeatability (mm, one sd), creep a turn."""

    graduation_mm: float = 0.01
    read_to: float = 1.0
    error_mm: float = 0.0
    noise_mm: float = 0.001
    drift_mm: float = 0.0

    @property
    def step_mm(self) -> float:
        """The step the readings can differ by."""
        return self.graduation_mm * self.read_to


@dataclass(frozen=True, slots=True)
class SimulatedCorner:
    """Hidden truth of one corner. Vectors are A·e^{iα} in mm at ``radius_mm``, the rotor's in its frame."""

    radius_mm: float
    nominal_mm: float
    hub: complex = 0j
    rotor: complex = 0j
    joint: complex = 0j  # dirt: there until the joint is cleaned
    nuts: complex = 0j  # distortion: there until the nuts are torqued
    face: tuple[Wave, ...] = ()
    face_patches: tuple[Patch, ...] = ()
    slots: tuple[Slot, ...] = ()
    thickness: tuple[Wave, ...] = ()
    thickness_patches: tuple[Patch, ...] = ()
    taper: float = 0.0  # mm of thickness lost per mm of radius
    seating_mm: float = 0.0  # TIR a mounting moves by, one sd
    play_mm: float = 0.0  # TIR by which a worn bearing's turns differ
    noise_mm: float = 0.001
    drift_mm: float = 0.0

    def runout_mm(
        self, angles_deg: FloatArray, *, index_deg: float = 0.0, cleaned: bool = True, torqued: bool = True
    ) -> FloatArray:
        """Return the true outboard runout at hub angles (n,), at ``radius_mm``, about no particular level."""
        tilt = self.hub + (0 if cleaned else self.joint) + (0 if torqued else self.nuts)
        tilt += self.rotor * np.exp(1j * np.radians(index_deg))
        angles = np.asarray(angles_deg, dtype=np.float64)
        return _tilted(angles, tilt) + _profile(angles - index_deg, self.face, self.face_patches)

    def surface_mm(
        self,
        surface: Surface,
        angles_deg: FloatArray,
        *,
        radius_mm: float,
        index_deg: float = 0.0,
        tilt: complex = 0j,
        cleaned: bool = True,
        torqued: bool = True,
    ) -> FloatArray:
        """Return what the tip follows at hub angles (n,), in the instrument's own sense; ``tilt`` is the seating's."""
        angles = np.asarray(angles_deg, dtype=np.float64)
        scale = radius_mm / self.radius_mm
        if surface is Surface.HUB_FACE:
            return scale * _tilted(angles, self.hub)
        if surface is Surface.ARBOR:
            face = _profile(angles, self.face, self.face_patches, scale=scale)
            return scale * _tilted(angles, self.rotor + tilt) + face
        loose = (0 if cleaned else self.joint) + (0 if torqued else self.nuts)
        mounted = self.hub + loose + tilt + self.rotor * np.exp(1j * np.radians(index_deg))
        out = scale * _tilted(angles, mounted)
        out = out + _profile(angles - index_deg, self.face, self.face_patches, scale=scale)
        for slot in self.slots:
            away = np.abs((angles - index_deg - slot.centre_deg + 180) % 360 - 180)
            out = out + np.where(away <= slot.half_width_deg, slot.height_mm, 0.0)
        if surface is Surface.ROTOR_OUTBOARD:
            return out
        return -(
            out - self.thickness_mm(angles - index_deg)
        )  # measurement.md#inboard-faces: an inboard sweep gives z_out − T, its sign turned

    def thickness_mm(self, angles_deg: FloatArray, *, radius_mm: float | None = None) -> FloatArray:
        """Return the true thickness at rotor angles (n,), at ``radius_mm`` or the corner's own radius."""
        flat = self.nominal_mm - self.taper * ((radius_mm or self.radius_mm) - self.radius_mm)
        return flat + _profile(np.asarray(angles_deg, dtype=np.float64), self.thickness, self.thickness_patches)

    def true_tir_mm(self, **conditions: float | bool) -> float:
        """Return what a slow continuous sweep with a perfect dial would show."""
        return float(np.ptp(self.runout_mm(_GRID_DEG, **conditions)))  # type: ignore[arg-type]

    def true_minimum_mm(self, *, radii_mm: tuple[float, ...] = ()) -> float:
        """Return the true smallest thickness over all angles at ``radii_mm``, or at the corner's own radius."""
        return min(float(self.thickness_mm(_GRID_DEG, radius_mm=r).min()) for r in radii_mm or (self.radius_mm,))

    def true_variation_mm(self) -> float:
        """Return the true thickness variation."""
        return float(np.ptp(self.thickness_mm(_GRID_DEG)))

    def dial(self, graduation_mm: float = 0.01, read_to: float = 1.0, error_mm: float = 0.0) -> Instrument:
        """Return a dial clamped to this corner, with its noise and drift."""
        return Instrument(graduation_mm, read_to, error_mm, self.noise_mm, self.drift_mm)

    def seat(self, generator: np.random.Generator) -> complex:
        """Mount the rotor: return the tilt this mounting adds."""
        return complex(*generator.normal(0, self.seating_mm / 2 / 2**0.5, 2)) if self.seating_mm else 0j

    def sweep(
        self,
        generator: np.random.Generator,
        *,
        stations: int,
        instrument: Instrument | None = None,
        surface: Surface = Surface.ROTOR_OUTBOARD,
        radius_mm: float | None = None,
        index_deg: float = 0.0,
        cleaned: bool = True,
        torqued: bool = True,
        closing: bool = True,
        tilt: complex = 0j,
    ) -> Sweep:
        """Read one sweep, with noise, drift, play, rounding, the dial's error and a zero of the dial's own."""
        dial = instrument or self.dial()
        radius = radius_mm or self.radius_mm
        angles = equal_stations_deg(stations)
        turn = np.append(angles, angles[0])
        if self.play_mm:
            tilt += complex(*generator.normal(0, self.play_mm / 2, 2))
        true = self.surface_mm(
            surface, turn, radius_mm=radius, index_deg=index_deg, tilt=tilt, cleaned=cleaned, torqued=torqued
        )
        read = true + dial.drift_mm * np.arange(stations + 1) / stations
        read = read - read[0] + generator.normal(0, dial.noise_mm, stations + 1)
        if dial.error_mm:  # a dial's error grows over its travel: within the limit over the whole range read
            read = read * (1 + generator.uniform(-1, 1) * dial.error_mm / max(float(np.ptp(read)), 1e-6))
        read = np.round(read / dial.step_mm) * dial.step_mm
        return Sweep(
            surface=surface,
            radius_mm=radius,
            stations_deg=angles,
            readings_mm=read[:-1],
            graduation_mm=dial.graduation_mm,
            read_to=dial.read_to,
            instrument_error_mm=dial.error_mm,
            index_deg=index_deg,
            cleaned=cleaned,
            nuts_torqued=torqued,
            closing_mm=float(read[-1]) if closing else None,
        )

    def high_spot(
        self,
        generator: np.random.Generator,
        *,
        within_deg: float = 15.0,
        graduation_mm: float = 0.01,
        index_deg: float = 0.0,
        cleaned: bool = True,
        torqued: bool = True,
        tilt: complex = 0j,
    ) -> HighSpot:
        """Turn slowly, note the amount between low and high, and mark the high spot to within ``within_deg``."""
        seen = self.surface_mm(
            Surface.ROTOR_OUTBOARD,
            _GRID_DEG,
            radius_mm=self.radius_mm,
            index_deg=index_deg,
            tilt=tilt,
            cleaned=cleaned,
            torqued=torqued,
        )
        noise = generator.normal(0, self.noise_mm, 2)
        amount = float(np.ptp(seen)) + float(noise[0] - noise[1])
        high = float(_GRID_DEG[int(np.argmax(seen))]) + float(generator.uniform(-within_deg, within_deg))
        return HighSpot(
            surface=Surface.ROTOR_OUTBOARD,
            radius_mm=self.radius_mm,
            tir_mm=max(round(amount / graduation_mm) * graduation_mm, 0.0),
            high_deg=high % 360.0,
            graduation_mm=graduation_mm,
            within_deg=within_deg,
            index_deg=index_deg,
            cleaned=cleaned,
            nuts_torqued=torqued,
        )

    def micrometer_round(
        self,
        generator: np.random.Generator,
        *,
        stations: int,
        graduation_mm: float = 0.001,
        radii_mm: tuple[float, ...] = (),
        error_mm: float = 0.0,
        index_deg: float = 0.0,
    ) -> ThicknessRound:
        """Read one round of thickness at ``radii_mm``, or at the corner's own radius."""
        angles, radii = equal_stations_deg(stations), radii_mm or (self.radius_mm,)
        true = np.array([self.thickness_mm(angles - index_deg, radius_mm=radius) for radius in radii])
        read = true + generator.normal(0, min(self.noise_mm, 0.002), true.shape)
        read = read + generator.uniform(-1, 1) * error_mm
        return ThicknessRound(
            stations_deg=angles,
            radii_mm=np.array(radii),
            readings_mm=np.round(read / graduation_mm) * graduation_mm,
            graduation_mm=graduation_mm,
            instrument_error_mm=error_mm,
            index_deg=index_deg,
        )


def worn_by_runout(corner: SimulatedCorner, *, depth_mm: float) -> SimulatedCorner:
    """Return ``corner`` worn thin where its installed runout rubs a released pad (measurement.md#wear-pattern)."""
    z = corner.runout_mm(_GRID_DEG)
    high = float(_GRID_DEG[int(np.argmax(z))])
    return replace(
        corner,
        thickness=(*corner.thickness, Wave(order=1, amplitude_mm=depth_mm / 2, crest_deg=high + 180)),
        thickness_patches=(*corner.thickness_patches, Patch(-depth_mm / 4, high, 70.0)),
    )


def random_corner(generator: np.random.Generator) -> SimulatedCorner:
    """Draw an ordinary corner: mostly small tilts, now and then a bad hub, rotor or patch."""

    def tilt(scale_mm: float) -> complex:
        return complex(abs(generator.normal(0, scale_mm)) * np.exp(1j * generator.uniform(0, 2 * np.pi)))

    def waves(*sd_mm: float, first: int) -> tuple[Wave, ...]:
        return tuple(
            Wave(order, abs(float(generator.normal(0, sd))), float(generator.uniform(0, 360)))
            for order, sd in enumerate(sd_mm, start=first)
        )

    def patches(sd_mm: float) -> tuple[Patch, ...]:
        if generator.random() > 0.25:
            return ()
        return (Patch(float(generator.normal(0, sd_mm)), float(generator.uniform(0, 360)), 40.0),)

    return SimulatedCorner(
        radius_mm=140.0,
        nominal_mm=float(generator.uniform(22.0, 27.0)),
        hub=tilt(0.02),
        rotor=tilt(0.02),
        face=waves(0.005, 0.002, 0.001, 0.0007, first=2),
        face_patches=patches(0.006),
        thickness=waves(*generator.choice([0.3, 1.0, 3.0]) * np.array([0.003, 0.002, 0.001, 0.0006]), first=1),
        thickness_patches=patches(0.008),
        seating_mm=0.002,
        noise_mm=float(generator.choice([0.0005, 0.001, 0.002, 0.003])),
        drift_mm=float(generator.normal(0, 0.002)),
    )


def _tilted(angles_deg: FloatArray, tilt: complex) -> FloatArray:
    tilted: FloatArray = np.real(tilt * np.exp(-1j * np.radians(angles_deg)))
    return tilted


def _profile(
    angles_deg: FloatArray, waves: tuple[Wave, ...], patches: tuple[Patch, ...], *, scale: float = 1.0
) -> FloatArray:
    """Sum waves and patches; at another radius order n scales (measurement.md#radius), a patch stays."""
    profile: FloatArray = np.zeros(angles_deg.shape)
    for wave in waves:
        amplitude = wave.amplitude_mm * scale**wave.order
        profile = profile + amplitude * np.cos(np.radians(wave.order * (angles_deg - wave.crest_deg)))
    for patch in patches:
        away = (angles_deg - patch.centre_deg + 180.0) % 360.0 - 180.0
        profile = profile + patch.height_mm * np.exp(-0.5 * (away / (patch.width_deg / 2)) ** 2)
    return profile
