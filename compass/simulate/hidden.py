"""What a corner to practise on hides: ranges a seed draws from. Data in, a simulated corner out."""

from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from compass.evidence.records import Spec
from compass.ground.angles import vector
from compass.simulate.corner import Patch, SimulatedCorner, Slot, Wave, worn_by_runout

Range = tuple[float, float]
_SMALL: Final[Range] = (0.0, 0.012)
_NOTHING: Final[Range] = (0.0, 0.0)


@dataclass(frozen=True, slots=True)
class Hidden:
    """Ranges (low, high), TIR in mm where nothing else is said.

    ``beside_deg`` is how far the rotor's high spot stands from the hub's at index 0 (None: anywhere); ``worn_mm`` how
    deep runout has worn the disc, with the runout of ``ran_out`` that is gone since; ``patch_mm`` a pad-wide bump
    (negative: a hollow) in thickness; ``metal`` the share of thickness between discard and nominal that is left;
    ``taper_mm`` what the inner radius is thinner than the measuring radius, over 40 mm.
    """

    hub: Range = _SMALL
    rotor: Range = _SMALL
    beside_deg: float | None = None
    joint: Range = _NOTHING
    nuts: Range = _NOTHING
    saddle: Range = (0.0, 0.004)
    worn_mm: Range = _NOTHING
    ran_out: Range = _NOTHING
    patch_mm: Range = _NOTHING
    uneven_mm: Range = (0.0005, 0.002)
    play: Range = _NOTHING
    drift: Range = _NOTHING
    noise_mm: Range = (0.0006, 0.0012)
    metal: Range = (0.55, 0.9)
    taper_mm: Range = _NOTHING
    slots: int = 0


def hide(hidden: Hidden, spec: Spec, g: np.random.Generator) -> SimulatedCorner:
    """Draw the corner."""

    def draw(bounds: Range) -> float:
        return float(g.uniform(*bounds))

    hub_deg = float(g.uniform(0, 360))
    rotor_deg = hub_deg + hidden.beside_deg if hidden.beside_deg is not None else float(g.uniform(0, 360))
    nominal = spec.nominal_thickness_mm or spec.discard_thickness_mm + 2.0
    patch = draw(hidden.patch_mm)
    bad_hub, own_hub = vector(draw(hidden.ran_out), hub_deg), vector(draw(hidden.hub), hub_deg)
    corner = SimulatedCorner(
        radius_mm=spec.measuring_radius_mm,
        nominal_mm=spec.discard_thickness_mm + (nominal - spec.discard_thickness_mm) * draw(hidden.metal),
        hub=own_hub,
        rotor=vector(draw(hidden.rotor), rotor_deg),
        face=(Wave(2, draw(hidden.saddle) / 2, float(g.uniform(0, 360))),),
        slots=tuple(Slot(-0.08, 360.0 * k / hidden.slots + float(g.uniform(-4, 4))) for k in range(hidden.slots)),
        thickness=(Wave(2, draw(hidden.uneven_mm) / 2, float(g.uniform(0, 360))),),
        thickness_patches=(Patch(patch, float(g.uniform(0, 360)), 42.0),) if patch else (),
        taper=-draw(hidden.taper_mm) / 40.0,
        seating_mm=0.002,
        play_mm=draw(hidden.play),
        noise_mm=draw(hidden.noise_mm),
        drift_mm=draw(hidden.drift) * float(g.choice([-1.0, 1.0])),
    )
    depth = draw(hidden.worn_mm)
    if depth:  # by the runout it had then: that of today where nothing else is said
        then = replace(corner, hub=bad_hub) if hidden.ran_out != _NOTHING else corner
        corner = replace(worn_by_runout(then, depth_mm=depth), hub=own_hub)
    return replace(
        corner,
        joint=vector(draw(hidden.joint), float(g.uniform(0, 360))),
        nuts=vector(draw(hidden.nuts), float(g.uniform(0, 360))),
    )
