"""A simulated lathe, on the vehicle or on the bench: how it is set up decides what it cuts.

Faces are kept as profiles over the turn, in the lathe's own frame: what stands proud of the tip's plane is cut, what
lies lower is not reached. Figures of set-up errors and of chatter are our estimates, for practice only.
"""

from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from compass.evidence.records import Spec
from compass.ground.angles import vector
from compass.ground.arrays import FloatArray
from compass.simulate.corner import SimulatedCorner

ANGLES: Final = np.arange(0.0, 360.0, 3.0)
LINE_MM: Final = 0.02  # a line of the knob, on a face
LEAST_MM, MOST_MM = 0.05, 0.35  # a face and pass: less rubs, more chatters
LEFT_MM: Final = 0.012  # TIR that the machine cannot do better than
SCRATCH_MM: Final = 0.01
_DIRT_MM, _GUN_MM, _LOOSE_MM = 0.11, 0.09, 0.07  # TIR of a set-up fault each
_BARE_MM: Final = 0.03  # of a machine on the vehicle that is put on well
_CALMS_MM: Final = 0.2  # what compensation can take out; more never calms down
_STUBBORN: Final = 0.35  # of a larger one that is left
_CHATTER_MM: Final = 0.006
_RING_MM: Final = 0.003
_SOUND: Final = 240


@dataclass(frozen=True, slots=True)
class Cut:
    """One pass: depth from the highest place of each face (mm), feed ``rough`` or ``finish``, what it sounded like.

    ``met`` are the places of ``ANGLES`` at which the outboard tip cut, as 0 and 1.
    """

    out_mm: float
    in_mm: float
    feed: str
    sound: str  # steady, rubs, chatters, rings
    met: str


@dataclass(frozen=True, slots=True)
class LatheStand:
    """How a lathe is set up. ``by_hand`` is None until it is bolted on; ``left_mm`` what compensation left, TIR.

    ``faces`` are the outboard and inboard profiles (mm, one a place of ``ANGLES``) once something was cut.
    """

    kind: str = "on_vehicle"
    clean: bool = False
    by_hand: bool | None = None
    flush: bool = False
    left_mm: float | None = None
    damper: bool = False
    scratched: bool = False
    zeroed: bool = False
    cuts: tuple[Cut, ...] = ()
    faces: tuple[tuple[float, ...], tuple[float, ...]] | None = None

    def anew(self) -> "LatheStand":
        """Take it off and put it on again: what was compensated and zeroed is lost."""
        return replace(self, left_mm=None, scratched=False, zeroed=False)


def set_up_mm(stand: LatheStand) -> float:
    """Return what the set-up itself runs out before it is compensated, TIR."""
    base = LEFT_MM if stand.kind == "bench" else _BARE_MM
    faults = _DIRT_MM * (not stand.clean) + _GUN_MM * (stand.by_hand is False) + _LOOSE_MM * (not stand.flush)
    return base + faults


def compensated(stand: LatheStand, *, seed: int) -> tuple[LatheStand, FloatArray]:
    """Compensate; return the lathe as it stands then, and what its needle did over eight turns, mm.

    A bench lathe has nothing to compensate: its mounting is what it is.
    """
    before = set_up_mm(stand)
    after = before if stand.kind == "bench" else LEFT_MM if before <= _CALMS_MM else _STUBBORN * before
    turns = np.linspace(0, 8, 320)
    falls = after + (before - after) * np.exp(-turns / 1.6)
    g = np.random.default_rng((seed, 21))
    needle: FloatArray = falls / 2 * np.sin(2 * np.pi * turns) + g.normal(0, 0.0006, turns.size)
    return replace(stand, left_mm=after), needle


def _own_mm(stand: LatheStand) -> float:
    """What the lathe's plane is off, TIR."""
    if stand.left_mm is not None:
        return stand.left_mm
    return set_up_mm(stand)


def _own_tilt(stand: LatheStand, *, seed: int) -> complex:
    at_deg = float(np.random.default_rng((seed, 22)).uniform(0, 360))
    return vector(_own_mm(stand), at_deg)


def _tilted(tilt: complex) -> FloatArray:
    tilted: FloatArray = np.real(tilt * np.exp(-1j * np.radians(ANGLES)))
    return tilted


def faces_of(corner: SimulatedCorner, stand: LatheStand, *, seed: int) -> tuple[FloatArray, FloatArray]:
    """Return outboard and inboard face as the tips meet them, mm along the axis: (120,) each."""
    if stand.faces is not None:
        return np.array(stand.faces[0]), np.array(stand.faces[1])
    own = corner.hub + corner.rotor if stand.kind == "on_vehicle" else corner.rotor
    still = replace(corner, hub=0j, rotor=0j)
    out = _tilted(own - _own_tilt(stand, seed=seed)) + still.runout_mm(ANGLES)
    return out, out - corner.thickness_mm(ANGLES)


def touched(face_mm: FloatArray, depth_mm: float, *, inboard: bool = False) -> FloatArray:
    """Return where a tip at a depth from the highest place of a face touches it, 0 or 1 a place."""
    proud = -face_mm if inboard else face_mm
    return np.asarray(proud >= proud.max() - depth_mm, dtype=np.float64)


def cut(
    corner: SimulatedCorner, stand: LatheStand, *, out_lines: float, in_lines: float, feed: str, seed: int
) -> LatheStand:
    """Take a pass of so many lines a face, counted from where each tip first touches; without a zero, from thin air."""
    out, inn = faces_of(corner, stand, seed=seed)
    g = np.random.default_rng((seed, 23, len(stand.cuts)))
    astray = 0.0 if stand.zeroed else float(g.uniform(-0.06, 0.06))
    depths = [max(lines * LINE_MM + astray, 0.0) for lines in (out_lines, in_lines)]
    sound = _sound(depths, damper=stand.damper)
    ripple = {"chatters": _CHATTER_MM, "rings": _RING_MM, "rubs": 0.002}.get(sound, 0.0003)
    waves = [ripple / 2 * np.cos(np.radians(order * ANGLES + float(g.uniform(0, 360)))) for order in (7, 11)]
    planes = (out.max() - depths[0] + waves[0], inn.min() + depths[1] + waves[1])
    made = (np.minimum(out, planes[0]), np.maximum(inn, planes[1]))
    kept = tuple(tuple(round(float(mm), 5) for mm in face) for face in made)
    met = "".join(str(int(on)) for on in touched(out, depths[0]))
    done = Cut(round(depths[0], 4), round(depths[1], 4), feed, sound, met)
    return replace(stand, cuts=(*stand.cuts, done), faces=(kept[0], kept[1]))


def _sound(depths: list[float], *, damper: bool) -> str:
    if max(depths) > MOST_MM:
        return "chatters"
    if any(0 < depth < LEAST_MM for depth in depths):
        return "rubs"
    return "steady" if damper else "rings"


def half_turn(corner: SimulatedCorner, stand: LatheStand, *, seed: int) -> str:
    """Loosen, turn the rotor half a turn on the arbor, touch again: whose the mark is, ``rotors`` or ``mountings``."""
    return "rotors" if abs(corner.rotor) >= abs(_own_tilt(stand, seed=seed)) else "mountings"


@dataclass(frozen=True, slots=True)
class Disc:
    """What a disc is after the lathe, mm: thinnest, variation, runout as fitted, what the tips did not reach a face."""

    thinnest_mm: float
    variation_mm: float
    runout_mm: float
    dark_out: float  # share of the turn
    dark_in: float
    finish: str  # smooth, spiral, torn, none


def disc_of(corner: SimulatedCorner, stand: LatheStand, *, seed: int) -> Disc:
    """Measure the disc: thickness as it is, runout as it runs on its hub."""
    out, inn = faces_of(corner, stand, seed=seed)
    lathe = _tilted(_own_tilt(stand, seed=seed))
    hub = _tilted(corner.hub) if stand.kind == "bench" else np.zeros(ANGLES.size)
    thickness = out - inn
    shares = [1.0, 1.0]
    if stand.cuts:
        last = stand.cuts[-1]
        flat = 0.004 if last.sound == "steady" else 0.02
        shares = [1 - float(touched(face, flat, inboard=side).mean()) for face, side in ((out, False), (inn, True))]
    return Disc(
        thinnest_mm=float(thickness.min()),
        variation_mm=float(np.ptp(thickness)),
        runout_mm=float(np.ptp(out + lathe + hub)),
        dark_out=shares[0],
        dark_in=shares[1],
        finish=_finish(stand),
    )


def _finish(stand: LatheStand) -> str:
    if not stand.cuts:
        return "none"
    last = stand.cuts[-1]
    if last.sound in ("chatters", "rubs"):
        return "torn"
    return "spiral" if last.feed == "rough" or last.sound == "rings" else "smooth"


@dataclass(frozen=True, slots=True)
class LathePlan:
    """What is still to come off a face until it is whole (mm), lines of the knob, and what would be left (mm)."""

    out_mm: float
    in_mm: float
    out_lines: int
    in_lines: int
    left_mm: float
    allowed: bool


def plan_of(corner: SimulatedCorner, spec: Spec, stand: LatheStand, *, seed: int) -> LathePlan:
    """Plan the next pass from what stands there now: the whole wobble and a clean-up, each face."""
    out, inn = faces_of(corner, stand, seed=seed)
    depths = [float(np.ptp(face)) + LEAST_MM for face in (out, inn)]
    lines = [int(np.ceil(min(depth, MOST_MM) / LINE_MM - 1e-9)) for depth in depths]
    left = float(out.max() - depths[0] - (inn.min() + depths[1]))
    stop = spec.machine_to_thickness_mm or spec.discard_thickness_mm
    return LathePlan(depths[0], depths[1], lines[0], lines[1], left, left >= stop)


def sound_of(stand: LatheStand, *, seed: int) -> FloatArray:
    """Return what the last pass sounded like over two turns, (240,) between −1 and 1: on and off where it cut."""
    last = stand.cuts[-1]
    on = np.array([float(one) for one in last.met])
    turn = np.linspace(0, 2, _SOUND)
    gate = np.interp(turn % 1.0, np.linspace(0, 1, ANGLES.size), on)
    g = np.random.default_rng((seed, 24, len(stand.cuts)))
    hiss = g.normal(0, 0.12, _SOUND)
    loud, times = {"chatters": (0.8, 30), "rings": (0.4, 44)}.get(last.sound, (0.0, 1))
    if last.sound == "rubs":
        hiss = g.normal(0, 0.35, _SOUND)
    made: FloatArray = np.clip(gate * (hiss + loud * np.sin(2 * np.pi * times * turn)), -1, 1)
    return made


# What a lathe's work is marked by: code, what it is worth.
MARKS: Final = {
    "set_up": 15.0,
    "compensated": 10.0,
    "scratched": 10.0,
    "zeroed": 10.0,
    "depths": 10.0,
    "finish": 15.0,
    "even": 15.0,
    "runs_true": 10.0,
    "metal_left": 20.0,
}


def lathe_marks(corner: SimulatedCorner, spec: Spec, stand: LatheStand, *, seed: int) -> list[tuple[str, bool]]:
    """Mark what was done: each with whether it holds."""
    disc = disc_of(corner, stand, seed=seed)
    stop = spec.machine_to_thickness_mm or spec.discard_thickness_mm
    sounds = {one.sound for one in stand.cuts}
    holds = {
        "set_up": stand.clean and stand.by_hand is True and stand.flush,
        "compensated": stand.kind == "bench" or (stand.left_mm is not None and stand.left_mm <= LEFT_MM),
        "scratched": stand.scratched,
        "zeroed": stand.zeroed,
        "depths": bool(stand.cuts) and not sounds & {"chatters", "rubs"},
        "finish": disc.finish == "smooth",
        "even": disc.variation_mm <= spec.max_thickness_variation_mm and max(disc.dark_out, disc.dark_in) < 0.03,
        "runs_true": disc.runout_mm <= spec.max_runout_mm or stand.kind == "bench",
        "metal_left": bool(stand.cuts) and disc.thinnest_mm >= stop,
    }
    if not stand.cuts and not plan_of(corner, spec, replace(stand, left_mm=LEFT_MM), seed=seed).allowed:
        # There is no metal for it: who sees that and does not cut has done all there is to do.
        holds |= dict.fromkeys(("depths", "finish", "even", "runs_true", "metal_left", "zeroed", "scratched"), True)
    return [(code, bool(holds[code])) for code in MARKS]
