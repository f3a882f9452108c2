"""The bench: a simulated corner that answers instruments act by act, as it is mounted, clamped, touched and turned.

What an instrument shows follows from the corner's hidden truth, from how the corner stands and from a seed: the same
turn asked for twice is the same turn. Figures of rust, backlash and clamping are our estimates, for practice only.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Final

import numpy as np

from compass.evidence.records import Spec, Surface
from compass.ground.angles import stud_deg
from compass.ground.arrays import FloatArray
from compass.simulate.corner import SimulatedCorner

DEGREES: Final = np.arange(0.0, 361.0, 1.0)  # a turn, and the way back to its start
STAGES: Final = (0.3, 0.8, 1.0)  # of the torque: by hand, half, full; each press of a nut goes one on
LIP_MM: Final = 0.45  # height of a lip or rust edge outside the swept band, a face
_INTERACTION: Final = 0.12  # of a nut's clamp that its neighbours lose when it is tightened
_TILT_MM: Final = 0.3  # amplitude by a first order of the nuts' clamp; our estimate
_HELD, _EVEN = 0.85, 0.12  # the least clamp of a nut that is torqued, the most two may differ; shares of the torque
_HOLDS: Final = 0.4  # mean share of the torque that keeps a rotor from flopping
_FLOP_MM: Final = 0.09
_BACKLASH_MM: Final = 0.003  # how far a clamp gives before the needle follows back
_RUST_MM: Final = 0.025  # roughness outside the swept band, one sd
_PRELOAD_MM: Final = 0.4
_FIRM: Final = 0.1  # of its drift a clamp has left when it was tightened with care
HUB_RADIUS_MM: Final = 65.0


@dataclass(frozen=True, slots=True)
class Stand:
    """How a corner stands. ``nuts`` are the presses since its rotor was put on last: stud, share of the torque.

    ``on`` is ``hub`` (the rotor on its hub), ``bare`` (the hub alone) or ``arbor``. ``mounting`` and ``clamp`` count
    how often the rotor and the indicator were set up, ``turn`` the turns since; ``zero_mm`` is where the bezel stands.
    """

    radius_mm: float
    on: str = "hub"
    cleaned: bool = False
    as_found: bool = True
    nuts: tuple[tuple[int, float], ...] = ()
    index: int = 0
    mounting: int = 0
    clamp: int = 0
    turn: int = 0
    zero_mm: float = 0.0
    lifted: bool = False

    def put_on(self, *, on: str = "hub", cleaned: bool | None = None, index: int | None = None) -> "Stand":
        """Take the rotor off and mount it anew: its nuts are off, the indicator has to be clamped again."""
        return replace(
            self,
            on=on,
            cleaned=self.cleaned if cleaned is None else cleaned,
            as_found=False,
            nuts=(),
            index=self.index if index is None else index,
            mounting=self.mounting + 1,
            turn=0,
        )

    def pressed(self, studs: Sequence[int]) -> "Stand":
        """Tighten nuts in one's own order; each press takes its nut one stage on."""
        nuts = list(() if self.as_found else self.nuts)
        reached = dict(nuts)
        for stud in studs:
            share = next((stage for stage in STAGES if stage > reached.get(stud, 0.0)), STAGES[-1])
            reached[stud] = share
            nuts.append((stud, share))
        return replace(self, nuts=tuple(nuts), as_found=False, turn=0)

    def clamped(self) -> "Stand":
        """Clamp the indicator again, with care."""
        return replace(self, clamp=self.clamp + 1, turn=0)


def clamping(studs: int, nuts: Sequence[tuple[int, float]]) -> FloatArray:
    """Return each nut's clamp (studs,) as a share of the whole, after presses in their order.

    A nut that is tightened takes some of its neighbours' clamp (elastic interaction: Bickford, *Introduction to the
    Design and Behavior of Bolted Joints*, ch. 6): a circle in one go leaves them uneven, a star in rounds does not.
    """
    clamp = np.zeros(studs)
    for stud, share in nuts:
        k = stud - 1
        if not 0 <= k < studs:
            continue
        more = max(share - clamp[k], 0.0)
        clamp[k] += more
        for beside in ((k - 1) % studs, (k + 1) % studs):
            clamp[beside] = max(0.0, clamp[beside] - _INTERACTION * more) if clamp[beside] else 0.0
    return clamp


def is_clamped(spec: Spec, stand: Stand) -> bool:
    """Whether every nut holds, and all of them alike: what was never touched is nobody's clamping."""
    if stand.on != "hub":
        return True
    clamp = clamping(spec.studs, stand.nuts)
    return not stand.as_found and float(clamp.min()) >= _HELD and float(np.ptp(clamp)) <= _EVEN


def _nuts_tilt(studs: int, clamp: FloatArray) -> complex:
    """The rotor stands off where it is held least."""
    angles = np.radians([stud_deg(stud, studs) for stud in range(1, studs + 1)])
    return complex(_TILT_MM * 2 / studs * ((clamp.mean() - clamp) * np.exp(1j * angles)).sum())


@dataclass(frozen=True, slots=True, eq=False)
class Turn:
    """What the needle shows over one turn, mm from the bezel's zero: (361,) turned on, (361,) turned back."""

    on_mm: FloatArray
    back_mm: FloatArray

    def at(self, angle_deg: float, way: int = 1) -> float:
        """Return what it shows at a hub angle, turned on (1) or back (−1)."""
        shown = self.on_mm if way >= 0 else self.back_mm
        return float(np.interp(angle_deg % 360.0, DEGREES, shown))


@lru_cache(maxsize=256)
def turn_of(corner: SimulatedCorner, spec: Spec, stand: Stand, *, seed: int) -> Turn:
    """Return the turn of the corner as it stands, under the tip; remembered, since every reading of it asks anew."""
    held = np.random.default_rng((seed, 1, stand.mounting))
    seat = corner.seat(held)
    fresh = np.random.default_rng((seed, 2, stand.mounting, stand.clamp, stand.turn))
    surface = {"bare": Surface.HUB_FACE, "arbor": Surface.ARBOR}.get(stand.on, Surface.ROTOR_OUTBOARD)
    radius = HUB_RADIUS_MM if stand.on == "bare" else stand.radius_mm
    tilt, flop = seat, 0.0
    if stand.on == "hub" and not stand.as_found:
        clamp = clamping(spec.studs, stand.nuts)
        tilt += _nuts_tilt(spec.studs, clamp)
        flop = max(0.0, 1.0 - float(clamp.mean()) / _HOLDS)
    if corner.play_mm and stand.on != "arbor":
        tilt += complex(*fresh.normal(0, corner.play_mm / 2, 2))
    index_deg = 360.0 / spec.studs * stand.index if stand.on == "hub" else 0.0
    shown = corner.surface_mm(
        surface,
        DEGREES,
        radius_mm=radius,
        index_deg=index_deg,
        tilt=tilt,
        cleaned=stand.cleaned,
        torqued=not stand.as_found,
    )
    shown = shown + corner.drift_mm * (1.0 if stand.clamp == 0 else _FIRM) * (stand.turn + DEGREES / 360.0)
    if flop:
        shown = shown + _flopping(fresh, flop)
    if stand.on != "bare":
        shown = shown + _rust(spec, radius, index_deg, seed=seed)
    shown = shown + _smooth(fresh, corner.noise_mm)
    shown = shown + _PRELOAD_MM * float(np.random.default_rng((seed, 3, stand.clamp)).uniform(0.5, 1.5)) - stand.zero_mm
    return Turn(_following(shown), _following(shown[::-1])[::-1])


def _smooth(g: np.random.Generator, sd_mm: float) -> FloatArray:
    """Needle noise: a hand that turns and a clamp that gives, a few degrees long, the same at both ends of the turn."""
    knots = g.normal(0, sd_mm, 73)
    waved: FloatArray = np.interp(DEGREES, np.linspace(0, 360, 73), knots)
    return waved


def _flopping(g: np.random.Generator, loose: float) -> FloatArray:
    """A rotor that is held by nothing lies one way, then falls over to another."""
    falls = np.sort(g.uniform(0, 360, 3))
    lies = [complex(*g.normal(0, _FLOP_MM * loose, 2)) for _ in range(4)]
    which = np.searchsorted(falls, DEGREES)
    tilts = np.array(lies)[which]
    return np.asarray(np.real(tilts * np.exp(-1j * np.radians(DEGREES))), dtype=np.float64)


def _rust(spec: Spec, radius_mm: float, index_deg: float, *, seed: int) -> FloatArray:
    """Rough outside what the pads sweep: the tip climbs over rust."""
    if radius_mm <= _outer(spec) - 2:
        return np.zeros(DEGREES.size)
    rough = np.random.default_rng((seed, 4)).normal(0, _RUST_MM, 121)
    own: FloatArray = np.interp((DEGREES - index_deg) % 360, np.linspace(0, 360, 121), np.append(rough[:-1], rough[0]))
    return own + LIP_MM * (radius_mm > _outer(spec))


def _following(moved: FloatArray) -> FloatArray:
    """The needle follows what moved, less the play of its clamp (a play operator: it gives before it comes along)."""
    shown = np.empty_like(moved)
    at, half = float(moved[0]), _BACKLASH_MM / 2
    for k, z in enumerate(moved):
        at = min(max(at, float(z) - half), float(z) + half)
        shown[k] = at
    return shown


def _outer(spec: Spec) -> float:
    return spec.swept_outer_radius_mm or spec.measuring_radius_mm * 1.08


def is_bright(spec: Spec, radius_mm: float) -> bool:
    """Whether a tip at this radius stands on bright metal and near enough to the measuring radius to judge by."""
    return 0.8 * spec.measuring_radius_mm <= radius_mm <= _outer(spec) - 2


def micrometer_mm(
    corner: SimulatedCorner, spec: Spec, stand: Stand, *, angle_deg: float, radius_mm: float, seed: int, nth: int
) -> float:
    """Return what a micrometer of 0.001 mm shows at a hub angle and a radius; past the swept band it is on the lips."""
    index_deg = 360.0 / spec.studs * stand.index if stand.on == "hub" else 0.0
    true = float(corner.thickness_mm(np.array([angle_deg - index_deg]), radius_mm=radius_mm)[0])
    if radius_mm > _outer(spec) - 2:
        true += 2 * LIP_MM * float(np.random.default_rng((seed, 5)).uniform(0.7, 1.2))
    return round(true + float(np.random.default_rng((seed, 6, nth)).normal(0, 0.0007)), 3)


def true_high_deg(corner: SimulatedCorner, spec: Spec, stand: Stand) -> float:
    """Return where the disc truly stands highest, clean and clamped, at the index it stands at: a hub angle."""
    fine = np.arange(0.0, 360.0, 0.5)
    return float(fine[int(np.argmax(corner.runout_mm(fine, index_deg=360.0 / spec.studs * stand.index)))])


def true_tir_mm(corner: SimulatedCorner, spec: Spec, stand: Stand) -> float:
    """Return the disc's true runout, clean and clamped, at the index it stands at."""
    return corner.true_tir_mm(index_deg=360.0 / spec.studs * stand.index)


def off_deg(said: float, true: float) -> float:
    """Return how far two places on the wheel are apart, 0 to 180."""
    return abs(math.remainder(said - true, 360.0))
