"""Vehicles to which something happened: the faults follow from geometry, wear and distance, the story from the faults.

Written apart from the tables of ``compass.cause``: no sign is drawn from its odds there. A flake under a hat tilts the
rotor by its height over the flange, a knock bends the hub, heat warps the disc, a disc that runs out wears thin where
it rubs, and the driver feels the worst of it, at the right axle or not.
"""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, Final

import numpy as np

from compass.cause.causes import Cause
from compass.choose.remedies.comeback import FELT_MM
from compass.evidence.complaint import Complaint, VehicleFacts
from compass.evidence.records import Pads, Spec
from compass.evidence.shop import GROWTH_MM, QUIET_RUNOUT_MM
from compass.ground.positions import end_of
from compass.simulate.corner import Patch, SimulatedCorner, Wave, worn_by_runout

WHEELS: Final = ("FL", "FR", "RL", "RR")


@dataclass(frozen=True, slots=True)
class Fault:
    """What is wrong and where; the vehicle's as a whole where ``position`` is None."""

    cause: Cause
    position: str | None


@dataclass(frozen=True, slots=True)
class HiddenCorner:
    """One wheel as it truly is: the disc and what holds it, its limits, and what play, pads and looking would show."""

    disc: SimulatedCorner
    spec: Spec
    play_mm: float
    pads: Pads
    seen: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True)
class HiddenVehicle:
    """A vehicle as it truly is, with the faults that brought it in and the story that is told of them."""

    corners: Mapping[str, HiddenCorner]
    faults: tuple[Fault, ...]
    complaint: Complaint
    facts: VehicleFacts = field(default_factory=VehicleFacts)


# What happens to vehicles, and how often of a hundred; a second thing happens to one in eight. Our estimate.
_HAPPENS: Final[Mapping[str, float]] = {
    "fitted_on_rust": 13,
    "nuts_by_impact_gun": 8,
    "warped_rotor": 12,
    "hub_face_out": 10,
    "stacked_tolerances": 10,
    "kerb_strike": 4,
    "cured_but_worn": 10,
    "stood_in_salt": 9,
    "pad_material_left": 6,
    "bearing_worn": 5,
    "caliper_sticks": 5,
    "disc_worn_out": 3,
    "disc_cracked": 1,
    "tyre": 3,
    "joint_worn": 3,
    "anti_lock": 2,
    "nothing": 4,
}
_SECOND: Final = 0.125


def random_happening(g: np.random.Generator) -> HiddenVehicle:
    """Draw a vehicle, let one thing happen to it, or two, drive it until it is felt, and let its driver tell of it."""
    spec = _limits(g)
    corners = {p: _as_made(g, spec) for p in WHEELS}
    kinds = list(_HAPPENS)
    odds = np.array(list(_HAPPENS.values())) / sum(_HAPPENS.values())
    happened = [kinds[int(g.choice(len(kinds), p=odds))]]
    if happened[0] != "nothing" and g.random() < _SECOND:
        happened.append(kinds[int(g.choice(len(kinds) - 1, p=odds[:-1] / odds[:-1].sum()))])
    faults: list[Fault] = []
    history: set[str] = set()
    free = list(WHEELS)
    for what in happened:
        here = str(g.choice(free))
        free.remove(here)
        corners[here], fault = _befalls(g, what, corners[here], history)
        if fault is not None:
            faults.append(Fault(fault, here if what not in _OF_ALL else None))
    history |= {name for name, p in _BY_CHANCE.items() if g.random() < p}
    return HiddenVehicle(
        corners, tuple(faults), _story(g, corners, faults, history), VehicleFacts("car", rolling_circumference_mm=2000)
    )


_OF_ALL: Final = frozenset({"tyre", "joint_worn", "anti_lock"})
_BY_CHANCE: Final = {"wheels_off": 0.12, "pads_renewed": 0.1, "rotors_renewed": 0.05, "towing": 0.05}


def _limits(g: np.random.Generator) -> Spec:
    nominal = float(g.choice([20.0, 22.0, 24.0, 26.0, 28.0]))
    radius = float(g.uniform(115, 150))
    return Spec(
        studs=int(g.choice([4, 5, 5, 6])),
        rotor="vented",
        nominal_thickness_mm=nominal,
        discard_thickness_mm=nominal - 2.0,
        machine_to_thickness_mm=nominal - 1.6 if g.random() < 0.6 else None,
        max_runout_mm=float(g.choice([0.04, 0.05, 0.05, 0.06, 0.08])),
        max_thickness_variation_mm=float(g.choice([0.01, 0.012, 0.015, 0.02])),
        measuring_radius_mm=radius,
        swept_inner_radius_mm=radius * 0.68,
        swept_outer_radius_mm=radius + 11,
        max_bearing_play_mm=0.05,
        max_hub_runout_mm=0.03 if g.random() < 0.5 else None,
        hub_runout_radius_mm=65.0,
        new_rotor_runout_mm=0.03,
    )


def _tilt(g: np.random.Generator, tir_mm: float) -> complex:
    return complex(tir_mm / 2 * np.exp(2j * math.pi * g.random()))


def _as_made(g: np.random.Generator, spec: Spec) -> HiddenCorner:
    """Return a corner as parts are made and fitted: everything small, worn evenly."""
    pads = float(g.uniform(4, 10))
    nominal = spec.nominal_thickness_mm or spec.discard_thickness_mm + 2
    return HiddenCorner(
        disc=SimulatedCorner(
            radius_mm=spec.measuring_radius_mm,
            nominal_mm=nominal - float(g.beta(1.6, 2.6)) * 1.5,
            hub=_tilt(g, float(g.rayleigh(0.010))),
            rotor=_tilt(g, float(g.rayleigh(0.012))),
            joint=_tilt(g, float(g.rayleigh(0.006))),
            nuts=_tilt(g, float(g.rayleigh(0.004))),
            face=tuple(Wave(n, float(g.rayleigh(0.0022 / (n - 1))), float(g.uniform(0, 360))) for n in (2, 3, 4)),
            thickness=tuple(Wave(n, float(g.rayleigh(0.0009 / n)), float(g.uniform(0, 360))) for n in (1, 2, 3)),
            taper=float(g.normal(0, 0.0004)),
            seating_mm=float(g.choice([0.001, 0.002, 0.004])),
            noise_mm=float(g.choice([0.0007, 0.0012, 0.002])),
            drift_mm=float(g.normal(0, 0.0015)),
        ),
        spec=spec,
        play_mm=float(g.uniform(0.0, 0.03)),
        pads=Pads((pads, pads + float(g.uniform(-0.3, 0.3))), (pads + float(g.uniform(-0.7, 0.7)),)),
        seen=frozenset(n for n, p in {"rust_at_joint": 0.08, "deep_grooves": 0.06}.items() if g.random() < p),
    )


def _befalls(
    g: np.random.Generator, what: str, corner: HiddenCorner, history: set[str]
) -> tuple[HiddenCorner, Cause | None]:
    """Let it happen to a corner; return the corner as it is now and the cause, None where nothing is wrong."""
    disc, spec, seen = corner.disc, corner.spec, corner.seen
    uniform = g.uniform

    def often(p: float, *names: str) -> None:
        history.update(name for name in names if g.random() < p)

    match what:
        case "fitted_on_rust":  # a flake as high as this, near the flange's edge, tilts by height over its diameter
            flake, flange = float(uniform(0.03, 0.09)), 68.0
            often(0.6, "wheels_off", "rotors_renewed")
            seen |= {"rust_at_joint"} if g.random() < 0.6 else set()
            disc = replace(disc, joint=disc.joint + _tilt(g, flake * spec.measuring_radius_mm / flange))
            cause = Cause.JOINT
        case "nuts_by_impact_gun":
            often(0.7, "wheels_off")
            disc, cause = replace(disc, nuts=_tilt(g, float(uniform(0.06, 0.15)))), Cause.NUTS
        case "warped_rotor":
            saddle = Wave(2, float(uniform(0, 0.008)), float(uniform(0, 360)))
            disc = replace(disc, rotor=_tilt(g, float(uniform(0.07, 0.17))), face=(*disc.face, saddle))
            cause = Cause.ROTOR
        case "hub_face_out":
            often(0.35, "rotors_renewed")
            disc, cause = replace(disc, hub=_tilt(g, float(uniform(0.07, 0.15)))), Cause.HUB
        case "stacked_tolerances":  # each tolerable, and nearly the same way round
            often(0.3, "rotors_renewed")
            way, limit = float(uniform(0, 360)), spec.max_runout_mm
            parts = [float(uniform(0.75, 1.15)) * limit / 2 for _ in range(2)]
            hub, rotor = (
                r * np.exp(1j * np.radians(way + a)) for r, a in zip(parts, (0.0, float(uniform(-40, 40))), strict=True)
            )
            disc, cause = replace(disc, hub=complex(hub), rotor=complex(rotor)), Cause.STACK
        case "kerb_strike":
            often(0.7, "kerb_strike")
            disc, cause = replace(disc, hub=_tilt(g, float(uniform(0.22, 0.5)))), Cause.BENT
        case "cured_but_worn":  # it ran out once, wore, and somebody saw to the runout only
            often(0.5, "wheels_off", "hub_or_bearing_work")
            ran = worn_by_runout(replace(disc, hub=_tilt(g, float(uniform(0.08, 0.14)))), depth_mm=_felt(g))
            return replace(corner, disc=replace(ran, hub=disc.hub)), Cause.RUNOUT_MADE_VARIATION
        case "stood_in_salt":
            often(0.65, "stood_unused")
            seen |= {"pad_shaped_patch"} if g.random() < 0.7 else set()
            hollow = Patch(-_felt(g), float(uniform(0, 360)), float(uniform(35, 60)))
            return replace(corner, disc=replace(disc, thickness_patches=(hollow,)), seen=seen), Cause.CORROSION
        case "pad_material_left":
            often(0.4, "pads_renewed", "towing")
            seen |= {"blue_spots"} if g.random() < 0.7 else set()
            raised = Patch(_felt(g), float(uniform(0, 360)), float(uniform(25, 60)))
            return replace(corner, disc=replace(disc, thickness_patches=(raised,)), seen=seen), Cause.DEPOSIT
        case "bearing_worn":
            disc = replace(disc, play_mm=float(uniform(0.03, 0.08)))
            return replace(corner, disc=disc, play_mm=float(uniform(0.07, 0.3))), Cause.BEARING
        case "caliper_sticks":
            seen |= {"slides_seized" if g.random() < 0.7 else "piston_stuck"} if g.random() < 0.8 else set()
            thin = max(corner.pads.outer[0] - float(uniform(2.4, 4)), 0.5)
            pads = Pads((thin, thin + 0.1), corner.pads.outer)
            return replace(corner, pads=pads, seen=seen), Cause.CALIPER
        case "disc_worn_out":
            thin = spec.discard_thickness_mm - float(uniform(0.1, 0.8))
            return replace(corner, disc=replace(disc, nominal_mm=thin), seen=seen | {"deep_grooves"}), Cause.WORN
        case "disc_cracked":
            return replace(corner, seen=seen | {"cracked"}), Cause.BROKEN
        case "tyre":
            often(0.4, "tyres_renewed")
            return replace(corner, seen=seen | {"tyre_damage"}), Cause.TYRE
        case "joint_worn":
            return replace(corner, seen=seen | {"joint_play"}), Cause.SUSPENSION
        case "anti_lock":
            return replace(corner, seen=seen | {"abs_active"}), Cause.ABS
        case _:
            return corner, None
    # What runs out wears thin where it rubs, until it is felt or a while before (the model of comeback.py).
    tir = disc.true_tir_mm(cleaned=False, torqued=False)
    km = float(uniform(500, 12_000))
    depth = min(GROWTH_MM * max(0.0, tir - QUIET_RUNOUT_MM) * km / 1000, 0.05)
    loose = replace(disc, hub=disc.hub + disc.joint + disc.nuts)
    worn = worn_by_runout(loose, depth_mm=depth) if depth > 0.002 else disc
    return replace(corner, disc=replace(worn, hub=disc.hub), seen=frozenset(seen)), cause


def _felt(g: np.random.Generator) -> float:
    return FELT_MM + float(g.uniform(0.002, 0.02))


def _story(
    g: np.random.Generator, corners: Mapping[str, HiddenCorner], faults: list[Fault], history: set[str]
) -> Complaint:
    """Tell what the driver feels: mostly the axle of the worst wheel, in a third of all cases the other."""
    at = next((f.position for f in faults if f.position is not None), None) or str(g.choice(WHEELS))
    front = (end_of(at) == "front") != (g.random() < 0.33)
    felt = ["steering_wheel" if front else "seat", *(["pedal"] if g.random() < 0.5 else [])]
    causes = {fault.cause for fault in faults}
    always = 0.7 if Cause.TYRE in causes else 0.45 if causes & {Cause.SUSPENSION, Cause.BEARING, Cause.BENT} else 0.05
    low, high = sorted(float(round(v, -1)) for v in g.uniform(50, 120, 2))
    story: dict[str, Any] = {
        "felt_in": tuple(felt),
        "when": ("braking", "always") if g.random() < always else ("braking",),
        "speed_kmh": (low, high),
        "history": tuple(sorted(history)),
    }
    if g.random() < 0.5:
        story["braking"] = braked(g, faults)
    if g.random() < 0.4:
        story["heat"] = (
            "worse_hot" if g.random() < (0.6 if causes & {Cause.DEPOSIT, Cause.CALIPER} else 0.2) else "same"
        )
    return Complaint(**story)


def braked(g: np.random.Generator, faults: Iterable[Fault]) -> tuple[str, ...]:
    """Tell how hard one must brake to feel it."""
    kicks = any(fault.cause is Cause.ABS for fault in faults)
    return ("hard",) if g.random() < (0.85 if kicks else 0.07) else ("light", "moderate")
