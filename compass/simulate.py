"""The simulated corner: hidden truth that answers as an instrument would.

One simulator for demo data, statistical tests and stand-in instruments. Randomness is handed in.
"""

from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from compass.angles import difference_deg, equal_stations_deg
from compass.evidence import Surface, Sweep, ThicknessRound
from compass.numbers import FloatArray

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
    thickness: tuple[Wave, ...] = ()
    thickness_patches: tuple[Patch, ...] = ()
    noise_mm: float = 0.001
    drift_mm: float = 0.0

    def runout_mm(
        self, angles_deg: FloatArray, *, index_deg: float = 0.0, cleaned: bool = True, torqued: bool = True
    ) -> FloatArray:
        """Return the true outboard runout at hub angles (n,), at ``radius_mm``, about no particular level."""
        angles = np.asarray(angles_deg, dtype=np.float64)
        tilt = self.hub + (0 if cleaned else self.joint) + (0 if torqued else self.nuts)
        tilt += self.rotor * np.exp(1j * np.radians(index_deg))
        runout: FloatArray = np.real(tilt * np.exp(-1j * np.radians(angles)))
        return runout + _profile(angles - index_deg, self.face, self.face_patches)

    def thickness_mm(self, angles_deg: FloatArray) -> FloatArray:
        """Return the true thickness at rotor angles (n,)."""
        return self.nominal_mm + _profile(
            np.asarray(angles_deg, dtype=np.float64), self.thickness, self.thickness_patches
        )

    def true_tir_mm(self, **conditions: float | bool) -> float:
        """Return what a slow continuous sweep with a perfect dial would show."""
        return float(np.ptp(self.runout_mm(_GRID_DEG, **conditions)))  # type: ignore[arg-type]

    def true_minimum_mm(self) -> float:
        """Return the true smallest thickness."""
        return float(self.thickness_mm(_GRID_DEG).min())

    def true_variation_mm(self) -> float:
        """Return the true thickness variation."""
        return float(np.ptp(self.thickness_mm(_GRID_DEG)))

    def sweep(
        self,
        generator: np.random.Generator,
        *,
        stations: int,
        graduation_mm: float = 0.01,
        read_to: float = 1.0,
        index_deg: float = 0.0,
        cleaned: bool = True,
        torqued: bool = True,
        closing: bool = True,
    ) -> Sweep:
        """Read one sweep of the outboard face, with noise, drift, rounding and a zero of the dial's own."""
        angles = equal_stations_deg(stations)
        turn = np.append(angles, angles[0])
        true = self.runout_mm(turn, index_deg=index_deg, cleaned=cleaned, torqued=torqued)
        read = true + self.drift_mm * np.arange(stations + 1) / stations
        read = read - read[0] + generator.normal(0, self.noise_mm, stations + 1)
        step = graduation_mm * read_to
        read = np.round(read / step) * step
        return Sweep(
            surface=Surface.ROTOR_OUTBOARD,
            radius_mm=self.radius_mm,
            stations_deg=angles,
            readings_mm=read[:-1],
            graduation_mm=graduation_mm,
            read_to=read_to,
            index_deg=index_deg,
            cleaned=cleaned,
            nuts_torqued=torqued,
            closing_mm=float(read[-1]) if closing else None,
        )

    def micrometer_round(
        self, generator: np.random.Generator, *, stations: int, graduation_mm: float = 0.001
    ) -> ThicknessRound:
        """Read one round of thickness at one radius."""
        angles = equal_stations_deg(stations)
        read = self.thickness_mm(angles) + generator.normal(0, min(self.noise_mm, 0.002), stations)
        return ThicknessRound(
            stations_deg=angles,
            radii_mm=np.array([self.radius_mm]),
            readings_mm=(np.round(read / graduation_mm) * graduation_mm)[None, :],
            graduation_mm=graduation_mm,
        )


def worn_by_runout(corner: SimulatedCorner, *, depth_mm: float) -> SimulatedCorner:
    """Return ``corner`` worn thin where its installed runout rubs a released pad (brief 2, Wear pattern)."""
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
        noise_mm=float(generator.choice([0.0005, 0.001, 0.002, 0.003])),
        drift_mm=float(generator.normal(0, 0.002)),
    )


def _profile(angles_deg: FloatArray, waves: tuple[Wave, ...], patches: tuple[Patch, ...]) -> FloatArray:
    profile: FloatArray = np.zeros(angles_deg.shape)
    for wave in waves:
        profile = profile + wave.amplitude_mm * np.cos(np.radians(wave.order * (angles_deg - wave.crest_deg)))
    for patch in patches:
        away = np.array([difference_deg(float(a), patch.centre_deg) for a in angles_deg])
        profile = profile + patch.height_mm * np.exp(-0.5 * (away / (patch.width_deg / 2)) ** 2)
    return profile
