"""The simulated vehicle: one hidden cause, a driver's story that may mislead, and what a workshop would measure.

It tells signs with odds of its own, not with those of ``compass.cause.likelihoods``: it is there to hold
them to account.
"""

from dataclasses import dataclass, field, replace
from typing import Any, Final

import numpy as np

from compass.cause.causes import BASE_RATES, OF_THE_VEHICLE, REAR_ONLY, Cause
from compass.evidence.complaint import Complaint, VehicleFacts
from compass.evidence.records import Case, Corner, Pads, Spec
from compass.ground.angles import vector
from compass.simulate.corner import Patch, SimulatedCorner, Wave, worn_by_runout

POSITIONS: Final = ("FL", "FR", "RL", "RR")
SPEC: Final = Spec(
    studs=5,
    rotor="vented",
    discard_thickness_mm=22.0,
    max_runout_mm=0.05,
    max_thickness_variation_mm=0.015,
    measuring_radius_mm=140.0,
    max_bearing_play_mm=0.05,
    max_hub_runout_mm=0.03,
    hub_runout_radius_mm=65.0,
)


@dataclass(frozen=True, slots=True)
class SimulatedVehicle:
    """Hidden cause and place, and all the evidence a patient workshop could gather (``case``)."""

    cause: Cause
    position: str | None
    case: Case
    decidable: bool  # whether what would show the cause was measured at all
    truths: dict[str, SimulatedCorner] = field(default_factory=dict)


def random_vehicle(
    generator: np.random.Generator, *, cause: Cause | None = None, missing: float = 0.12
) -> SimulatedVehicle:
    """Draw a vehicle; each further piece of evidence is ``missing`` with that chance."""
    if cause is None:
        rates = np.array(list(BASE_RATES.values()))
        cause = list(BASE_RATES)[int(generator.choice(len(rates), p=rates / rates.sum()))]
    position = None
    if cause not in OF_THE_VEHICLE:
        position = str(generator.choice(POSITIONS[2:] if cause in REAR_ONLY else POSITIONS))
    truths = {p: _innocent(generator) for p in POSITIONS}
    if position is not None:
        truths[position] = _guilty(generator, truths[position], cause)
    corners, decidable = [], True
    thorough = bool(generator.random() < 0.5)  # whether this workshop rocks every bearing and looks at all pads
    for p in POSITIONS:
        guilty = cause if p == position else None
        corner, shown = _measure(generator, p, truths[p], guilty, missing, thorough)
        decidable &= shown
        corners.append(corner)
    findings = _vehicle_findings(generator, cause)
    if cause in (Cause.SUSPENSION, Cause.TYRE, Cause.ABS):
        decidable = bool(findings)
    if cause is Cause.NONE:  # nothing is shown to be wrong only where everything was looked at
        looked_at = (c.sweeps and c.thickness is not None and c.pads is not None for c in corners)
        decidable = all(looked_at)
    if findings:
        k = int(generator.integers(4))
        corners[k] = replace(corners[k], seen=corners[k].seen | findings)
    case = Case(
        corners=tuple(corners),
        vehicle=VehicleFacts(kind="car", rolling_circumference_mm=2000),
        complaint=_story(generator, cause, position),
    )
    return SimulatedVehicle(cause, position, case, decidable, truths)


def _tilt(generator: np.random.Generator, low_mm: float, high_mm: float) -> complex:
    return vector(float(generator.uniform(low_mm, high_mm)), float(generator.uniform(0, 360)))


def _innocent(generator: np.random.Generator) -> SimulatedCorner:
    return SimulatedCorner(
        radius_mm=140.0,
        nominal_mm=float(generator.uniform(23.5, 26.5)),
        hub=_tilt(generator, 0, 0.02),
        rotor=_tilt(generator, 0, 0.02),
        joint=_tilt(generator, 0, 0.012),
        nuts=_tilt(generator, 0, 0.008),
        face=(Wave(2, abs(float(generator.normal(0, 0.003))), float(generator.uniform(0, 360))),),
        thickness=tuple(
            Wave(n, abs(float(generator.normal(0, 0.0012 / n))), float(generator.uniform(0, 360))) for n in (1, 2, 3)
        ),
        seating_mm=0.002,
        noise_mm=float(generator.choice([0.0007, 0.0012, 0.002])),
        drift_mm=float(generator.normal(0, 0.0015)),
    )


def _guilty(generator: np.random.Generator, corner: SimulatedCorner, cause: Cause) -> SimulatedCorner:
    depth = float(generator.uniform(0.022, 0.04))
    patch = Patch(1.0, float(generator.uniform(0, 360)), float(generator.uniform(32, 58)))
    worn = generator.random() < 0.45
    match cause:
        case Cause.RUNOUT_MADE_VARIATION:
            ran_out = worn_by_runout(replace(corner, hub=_tilt(generator, 0.08, 0.14)), depth_mm=depth)
            return replace(ran_out, hub=corner.hub)
        case Cause.CORROSION:
            return replace(corner, thickness_patches=(replace(patch, height_mm=-depth),))
        case Cause.DEPOSIT:
            return replace(corner, thickness_patches=(replace(patch, height_mm=depth * 0.9),))
        case Cause.ROTOR:
            corner = replace(corner, rotor=_tilt(generator, 0.09, 0.18))
        case Cause.HUB:
            corner = replace(corner, hub=_tilt(generator, 0.085, 0.15))
        case Cause.STACK:  # each tolerable by itself, and nearly the same way round
            hub, off = _tilt(generator, 0.045, 0.075), float(generator.uniform(-35, 35))
            rotor = hub * float(generator.uniform(0.85, 1.15)) * complex(np.exp(1j * np.radians(off)))
            corner = replace(corner, hub=hub, rotor=rotor)
        case Cause.JOINT:
            corner = replace(corner, joint=_tilt(generator, 0.08, 0.18))
        case Cause.NUTS:
            corner = replace(corner, nuts=_tilt(generator, 0.08, 0.16))
        case Cause.BEARING:
            return replace(corner, play_mm=float(generator.uniform(0.03, 0.09)))
        case Cause.BENT:
            corner = replace(corner, hub=_tilt(generator, 0.22, 0.45))
        case Cause.WORN:
            return replace(corner, nominal_mm=float(generator.uniform(20.8, 21.9)))
        case _:
            return corner
    return worn_by_runout(corner, depth_mm=depth) if worn else corner


def _measure(
    generator: np.random.Generator,
    position: str,
    truth: SimulatedCorner,
    cause: Cause | None,
    missing: float,
    thorough: bool,
) -> tuple[Corner, bool]:
    """Measure a corner as a workshop would, with gaps; tell whether what shows ``cause`` there was among it."""

    def have() -> bool:
        return bool(generator.random() >= missing)

    stations = int(generator.choice([8, 10, 12]))
    dial = truth.dial(0.01, float(generator.choice([0.5, 1.0])))
    came_dirty = cause in (Cause.JOINT, Cause.NUTS) or generator.random() < 0.3
    sweeps, shown = [], True
    options: dict[str, Any] = {"stations": stations, "instrument": dial}
    before: dict[str, Any] = {"cleaned": cause is not Cause.JOINT and generator.random() < 0.3, "torqued": True}
    if cause is Cause.NUTS:
        before = {"cleaned": True, "torqued": False}
    elif cause is Cause.JOINT:
        before = {"cleaned": False, "torqued": bool(generator.random() < 0.8)}
    swept_before = came_dirty and have() and not (before["cleaned"] and before["torqued"])
    if swept_before:
        sweeps.append(truth.sweep(generator, tilt=truth.seat(generator), **before, **options))
    swept = have() or swept_before
    if swept:
        seat = truth.seat(generator)
        sweeps.append(truth.sweep(generator, tilt=seat, **options))
        if cause is Cause.BEARING or generator.random() < 0.2:
            sweeps.append(truth.sweep(generator, tilt=seat, **options))
        if truth.true_tir_mm() > 0.05 and have():
            sweeps.append(truth.sweep(generator, index_deg=144.0, tilt=truth.seat(generator), **options))
    miked = have()
    play = None
    if cause is Cause.BEARING or thorough:
        play = float(generator.uniform(0.07, 0.3) if cause is Cause.BEARING else generator.uniform(0.0, 0.035))
        play = play if have() else None
    pads = None
    if cause is Cause.CALIPER or thorough:
        less = float(generator.uniform(2.4, 5.0)) if cause is Cause.CALIPER else float(generator.uniform(0, 1.2))
        pads = Pads(inner=(8.0 - less, 8.1 - less), outer=(8.0,)) if have() else None
    findings = _corner_findings(generator, cause)
    if cause in (Cause.JOINT, Cause.NUTS):
        shown = swept_before
    elif cause in (Cause.ROTOR, Cause.HUB, Cause.STACK, Cause.BENT):
        shown = len([s for s in sweeps if s.cleaned and s.nuts_torqued and s.index_deg]) > 0
    elif cause is Cause.BEARING:
        shown = play is not None
    elif cause is Cause.CALIPER:
        shown = pads is not None or bool(findings & set(_AT_CORNER[cause]))
    elif cause in (Cause.RUNOUT_MADE_VARIATION, Cause.CORROSION, Cause.DEPOSIT):
        shown = miked and swept
    elif cause is Cause.WORN:
        shown = miked
    elif cause in (Cause.BROKEN, Cause.DRUM):
        shown = bool(findings & set(_AT_CORNER[cause]))
    corner = Corner(
        position=position,
        spec=SPEC,
        sweeps=tuple(sweeps),
        thickness=truth.micrometer_round(generator, stations=stations) if miked else None,
        bearing_play_mm=play,
        pads=pads,
        seen=frozenset(findings),
    )
    return corner, shown


def _some(generator: np.random.Generator, odds: dict[str, float]) -> frozenset[str]:
    return frozenset(name for name, p in odds.items() if generator.random() < p)


_AT_CORNER: Final[dict[Cause, dict[str, float]]] = {
    Cause.CORROSION: {"pad_shaped_patch": 0.7},
    Cause.DEPOSIT: {"blue_spots": 0.7, "pad_shaped_patch": 0.15},
    Cause.JOINT: {"rust_at_joint": 0.6},
    Cause.CALIPER: {"slides_seized": 0.6, "piston_stuck": 0.3},
    Cause.DRUM: {"drum_out_of_round": 0.9},
    Cause.WORN: {"deep_grooves": 0.3},
    Cause.BROKEN: {"cracked": 0.8, "vent_showing": 0.2},
}
_INNOCENTLY: Final = {"rust_at_joint": 0.06, "deep_grooves": 0.05, "blue_spots": 0.01, "pad_shaped_patch": 0.008}
_OF_VEHICLE: Final = {
    Cause.SUSPENSION: {"joint_play": 0.85},
    Cause.TYRE: {"tyre_damage": 0.75},
    Cause.ABS: {"abs_active": 0.85},
}


def _corner_findings(generator: np.random.Generator, cause: Cause | None) -> frozenset[str]:
    return _some(generator, _INNOCENTLY | (_AT_CORNER.get(cause, {}) if cause is not None else {}))


def _vehicle_findings(generator: np.random.Generator, cause: Cause) -> frozenset[str]:
    return _some(generator, _OF_VEHICLE.get(cause, {}))


_STORIES: Final[dict[Cause, dict[str, float]]] = {
    Cause.NUTS: {"wheels_off": 0.7, "tyres_renewed": 0.3},
    Cause.JOINT: {"wheels_off": 0.45, "rotors_renewed": 0.4, "pads_renewed": 0.2},
    Cause.HUB: {"rotors_renewed": 0.35},
    Cause.STACK: {"rotors_renewed": 0.3},
    Cause.BENT: {"kerb_strike": 0.7, "rotors_renewed": 0.2},
    Cause.CORROSION: {"stood_unused": 0.65},
    Cause.DEPOSIT: {"pads_renewed": 0.35, "towing": 0.2},
    Cause.TYRE: {"tyres_renewed": 0.45},
    Cause.SUSPENSION: {"kerb_strike": 0.2},
    Cause.BEARING: {"hub_or_bearing_work": 0.1, "kerb_strike": 0.1},
    Cause.CALIPER: {"pads_renewed": 0.2, "stood_unused": 0.1},
}
_BY_CHANCE: Final = {
    "wheels_off": 0.15,
    "pads_renewed": 0.12,
    "rotors_renewed": 0.06,
    "towing": 0.04,
    "tyres_renewed": 0.07,
}


def _story(generator: np.random.Generator, cause: Cause, position: str | None) -> Complaint:
    """Tell the driver's story: feel misleads about the axle in a third of all cases."""
    front = position in ("FL", "FR") if position is not None else bool(generator.random() < 0.5)
    seems_front = front if generator.random() < 0.66 else not front
    felt = ["steering_wheel"] if seems_front else ["seat"]
    if generator.random() < 0.5:
        felt.append("pedal")
    always = {Cause.TYRE: 0.8, Cause.SUSPENSION: 0.5, Cause.BEARING: 0.45, Cause.BENT: 0.35}.get(cause, 0.06)
    speeds = sorted(generator.uniform(50, 120, 2).round(-1).tolist())
    order = 1.0 if generator.random() < 0.7 else 2.0
    if cause is Cause.ABS:
        order = float(generator.uniform(0.4, 3.5))
    story: dict[str, Any] = {
        "felt_in": tuple(felt),
        "when": ("braking", "always") if generator.random() < always else ("braking",),
        "speed_kmh": (speeds[0], speeds[1]),
        "history": tuple(sorted(_some(generator, _BY_CHANCE | _STORIES.get(cause, {})))),
    }
    if generator.random() < 0.5:
        hard = {Cause.ABS: 0.85, Cause.SUSPENSION: 0.25}.get(cause, 0.08)
        story["braking"] = ("hard",) if generator.random() < hard else ("light", "moderate")
    if generator.random() < 0.4:
        middle = sum(speeds) / 2 / 3.6 * 1000 / 2000
        story["frequency_hz"] = max(float(generator.normal(order * middle, 0.06 * middle)), 0.5)
    hot = {Cause.DEPOSIT: 0.6, Cause.CALIPER: 0.6, Cause.BROKEN: 0.4}.get(cause, 0.2)
    cold = {Cause.CORROSION: 0.4}.get(cause, 0.08)
    if generator.random() < 0.6:
        story["heat"] = str(generator.choice(["worse_hot", "worse_cold", "same"], p=[hot, cold, 1 - hot - cold]))
    return Complaint(**story)
