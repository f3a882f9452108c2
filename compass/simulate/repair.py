"""Repairs of a simulated corner: a remedy is carried out once, and this is what then truly stands there."""

from dataclasses import replace
from typing import Final

import numpy as np

from compass.choose.remedies.plating import tilt
from compass.evidence.records import Spec
from compass.evidence.shop import Plate, Shop
from compass.ground.arrays import FloatArray
from compass.simulate.corner import Patch, SimulatedCorner, Slot, Wave

_FINE: Final = np.arange(0.0, 360.0, 2.0)
_READ_MM: Final = 0.0015  # sd of an amplitude as it is read when a part is fitted
_MADE_THICK_MM: Final = 0.03  # a new rotor's thickness beside its nominal, even bound


def repaired(
    corner: SimulatedCorner,
    spec: Spec,
    remedy: str,
    settings: dict[str, float],
    *,
    shop: Shop,
    g: np.random.Generator,
) -> SimulatedCorner:
    """Carry a remedy (its code and settings) out. The joint is clean and the nuts are torqued afterwards."""
    works = remedy.split("+")
    if remedy == "none":
        return corner
    corner = replace(corner, joint=0j, nuts=0j, hub=corner.hub + corner.seat(g))
    if "hub_unit" in works:
        corner = replace(corner, hub=_anywhere(g, float(g.uniform(0, spec.new_hub_runout_mm or 0.02))), play_mm=0.0)
    if "new_rotors" in works:
        corner = _new_rotor(corner, spec, g)
    if "on_vehicle_cut" in works:
        corner = _cut(corner, spec, corner.hub + corner.rotor, shop.lathe("on_vehicle"), g, to_hub=True)
    if "bench_cut" in works:
        corner = _cut(corner, spec, corner.rotor, shop.lathe("bench"), g, to_hub=False)
    if remedy == "new_rotors+index":
        best = min(spec.positions_deg, key=lambda p: abs(corner.hub + corner.rotor * np.exp(1j * np.radians(p))))
        corner = turned(corner, best)
    elif settings.get("index_deg"):
        corner = turned(corner, settings["index_deg"])
    if "plate" in works:
        corner = _plated(corner, spec, works, settings, shop, g)
    return corner


def turned(corner: SimulatedCorner, by_deg: float) -> SimulatedCorner:
    """Turn the rotor on its studs: all that is the rotor's own turns with it, and index 0 is where it stands now."""

    def waves(all_of: tuple[Wave, ...]) -> tuple[Wave, ...]:
        return tuple(replace(w, crest_deg=(w.crest_deg + by_deg) % 360) for w in all_of)

    def patches(all_of: tuple[Patch, ...]) -> tuple[Patch, ...]:
        return tuple(replace(p, centre_deg=(p.centre_deg + by_deg) % 360) for p in all_of)

    def slots(all_of: tuple[Slot, ...]) -> tuple[Slot, ...]:
        return tuple(replace(s, centre_deg=(s.centre_deg + by_deg) % 360) for s in all_of)

    return replace(
        corner,
        rotor=complex(corner.rotor * np.exp(1j * np.radians(by_deg))),
        face=waves(corner.face),
        face_patches=patches(corner.face_patches),
        slots=slots(corner.slots),
        thickness=waves(corner.thickness),
        thickness_patches=patches(corner.thickness_patches),
    )


def metal_after_cut_mm(
    corner: SimulatedCorner, spec: Spec, first: complex, *, depth_mm: float, lathe: complex = 0j
) -> float:
    """Return T after a cut: min z − max(z − T) − 2 × depth over the swept band (measurement.md#what-remedies-leave)."""
    inner, outer = spec.swept_inner_radius_mm or 0.68 * corner.radius_mm, spec.swept_outer_radius_mm or corner.radius_mm
    own = replace(corner, hub=0j, rotor=first - lathe)
    highs, lows = [], []
    for radius in np.linspace(inner, outer, 5):
        z = _face(own, _FINE, float(radius))
        highs.append(z - corner.thickness_mm(_FINE, radius_mm=float(radius)))
        lows.append(z)
    return float(np.min(lows) - np.max(highs) - 2 * depth_mm)


def _face(corner: SimulatedCorner, angles_deg: FloatArray, radius_mm: float) -> FloatArray:
    scale = radius_mm / corner.radius_mm
    tilted: FloatArray = scale * np.real(corner.rotor * np.exp(-1j * np.radians(angles_deg)))
    return tilted + replace(corner, rotor=0j).runout_mm(angles_deg)


def _cut(
    corner: SimulatedCorner, spec: Spec, first: complex, lathe: object, g: np.random.Generator, *, to_hub: bool
) -> SimulatedCorner:
    depth = getattr(lathe, "min_depth_mm", 0.05)
    left = _anywhere(g, getattr(lathe, "runout_left_mm", 0.012) * float(g.uniform(0.85, 1.15)))
    metal = metal_after_cut_mm(corner, spec, first, depth_mm=depth, lathe=left)
    made = _true_disc(corner, metal + 0.001, 0.001)
    return replace(made, rotor=left - corner.hub if to_hub else left)


def _new_rotor(corner: SimulatedCorner, spec: Spec, g: np.random.Generator) -> SimulatedCorner:
    nominal = (spec.nominal_thickness_mm or corner.nominal_mm) + float(g.uniform(-_MADE_THICK_MM, _MADE_THICK_MM))
    made = _true_disc(corner, nominal, float(g.uniform(0.0003, 0.0015)))
    return replace(made, rotor=_anywhere(g, float(g.uniform(0, spec.new_rotor_runout_mm or 0.03))))


def _true_disc(corner: SimulatedCorner, thickness_mm: float, uneven_mm: float) -> SimulatedCorner:
    return replace(
        corner,
        nominal_mm=thickness_mm,
        taper=0.0,
        face=(Wave(2, 0.0008, 0.0),),
        face_patches=(),
        slots=(),
        thickness=(Wave(1, uneven_mm, 0.0),),
        thickness_patches=(),
    )


def _plated(
    corner: SimulatedCorner,
    spec: Spec,
    works: list[str],
    settings: dict[str, float],
    shop: Shop,
    g: np.random.Generator,
) -> SimulatedCorner:
    fits = [p for p in shop.plates if p.studs == spec.studs]

    def takes(plate: Plate, at_deg: float) -> complex:
        return tilt(plate, at_deg, radius_mm=spec.measuring_radius_mm)

    if works == ["plate"]:
        chosen = next(p for p in fits if p.correction_mm == settings["plate_mm"])
        return replace(corner, hub=corner.hub - takes(chosen, settings["plate_deg"]))
    read = corner.hub + corner.rotor + complex(*g.normal(0, _READ_MM, 2))
    kit = [0j, *(takes(p, a) for p in fits for a in p.angles_deg)]
    return replace(corner, hub=corner.hub - min(kit, key=lambda t: abs(read - t)))


def _anywhere(g: np.random.Generator, tir_mm: float) -> complex:
    return complex(tir_mm / 2 * np.exp(2j * np.pi * g.random()))
