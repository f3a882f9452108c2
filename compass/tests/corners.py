"""Corners measured from a known truth, and the shop they are measured in, for tests of remedies."""

from dataclasses import replace

import numpy as np

from compass.cause.corner import diagnose_corner
from compass.choose.axle import Chosen
from compass.choose.remedies.outcome import Remedy
from compass.choose.vehicle import choose
from compass.evidence.records import Corner, Spec
from compass.evidence.shop import Lathe, Plate, Shop
from compass.ground.angles import vector
from compass.simulate.corner import SimulatedCorner

SPEC = Spec(
    studs=5,
    rotor="vented",
    discard_thickness_mm=25.0,
    machine_to_thickness_mm=25.6,
    nominal_thickness_mm=28.0,
    max_runout_mm=0.05,
    max_thickness_variation_mm=0.015,
    measuring_radius_mm=140.0,
    swept_inner_radius_mm=100.0,
    swept_outer_radius_mm=150.0,
    max_bearing_play_mm=0.05,
)
PLATES = tuple(Plate(c, 140.0, 10, 5) for c in (0.05, 0.1))
LATHES = (
    Lathe("on_vehicle", 0.01, 0.05, {"vented": 0.4, "solid": 0.1}, finish_depth_mm=0.1, mm_per_line=0.02, name="Hub"),
    Lathe("bench", 0.01, 0.05, {"vented": 0.4}, name="Bench"),
)
SHOP = Shop(plates=PLATES, lathes=LATHES)
HUB_OVER = SimulatedCorner(radius_mm=140, nominal_mm=26.4, hub=vector(0.08, 60), rotor=vector(0.02, 200), noise_mm=0.0)
QUIET = SimulatedCorner(radius_mm=140, nominal_mm=26.4, hub=vector(0.01, 10), rotor=vector(0.006, 80), noise_mm=0.0)


def measured(
    truth: SimulatedCorner = HUB_OVER,
    *,
    position: str = "FL",
    spec: Spec = SPEC,
    indices: tuple[float, ...] = (0.0, 144.0),
    thickness: bool = True,
    cleaned: bool = True,
    torqued: bool = True,
    **evidence: object,
) -> Corner:
    """Measure a truth with a fine dial at the given indices, and mike it round."""
    g = np.random.default_rng(4)
    dial = truth.dial(0.001, 1.0)
    sweeps = tuple(
        truth.sweep(g, stations=12, instrument=dial, index_deg=i, cleaned=cleaned, torqued=torqued) for i in indices
    )
    miked = truth.micrometer_round(g, stations=12, radii_mm=(105.0, 140.0)) if thickness else None
    return replace(Corner(position=position, spec=spec, sweeps=sweeps, thickness=miked), **evidence)


def chosen(
    *corners: Corner, shop: Shop = SHOP, kind: str | None = None
) -> tuple[tuple[Chosen, ...], dict[str, str | None]]:
    """Diagnose and choose; returns the corners and what every position gets."""
    told, plans = choose([diagnose_corner(c) for c in corners], shop=shop, kind=kind)
    return told, {p: code for plan in plans for p, code in plan.remedies.items()}


def remedies_of(corner: Corner, *, shop: Shop = SHOP) -> dict[str, Remedy]:
    """Return every remedy of one corner by its code."""
    (told,), _ = chosen(corner, shop=shop)
    return {remedy.code: remedy for remedy in told.remedies}
