"""Machining: on the vehicle true to its own hub, or on the bench true to the rotor's own seat. Paid in metal."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from compass.choose.remedies.corner_draws import CornerDraws, Metal, at_random, columns_at, mean_draw
from compass.choose.remedies.outcome import Outcome
from compass.choose.remedies.part_draws import ROWS
from compass.choose.remedies.plating import best_of_kit, fitting
from compass.evidence.shop import Lathe, Shop
from compass.ground.arrays import FloatArray
from compass.ground.uncertainty import DRAWS, even_draws, median

_LATHE_SPREAD: Final = 0.15  # how much a lathe leaves more or less than its profile states; even bound, our estimate
_TAKEN_BACK: Final = (
    0.2  # of what unseen roughness adds to an extreme; our estimate, held against cuts of two simulators
)
LATHE_VARIATION_MM: Final = 0.004  # thickness variation after a cut, at most; our estimate


@dataclass(frozen=True, slots=True, eq=False)
class Cut:
    """Draws of a cut (DRAWS,), mm: what is left at the thinnest, and the feed of each face from its first touch."""

    least_mm: FloatArray
    out_mm: FloatArray
    in_mm: FloatArray


@dataclass(frozen=True, slots=True, eq=False)
class Chucked:
    """A rotor as it stands on its lathe: the orders of its outboard face (2·ORDERS, DRAWS) at ``radius_mm``, its metal.

    Single precision; the lathe's own remaining tilt is in the orders.
    """

    orders_mm: FloatArray
    radius_mm: float
    metal: Metal

    def columns(self, at_mm: float) -> FloatArray:
        """Return what lays orders out as a face (angles, 2·ORDERS) at another radius."""
        return columns_at(at_mm / self.radius_mm)


@dataclass(frozen=True, slots=True, eq=False)
class Blank:
    """A rotor before its cut, draws (DRAWS,) in mm counted outwards: the furthest places of both of its faces.

    ``top_mm`` and ``low_mm`` are the outboard face's furthest out and in, ``inner_low_mm`` and ``inner_top_mm`` those
    of the inboard one.
    """

    rotor: Chucked
    top_mm: FloatArray
    low_mm: FloatArray
    inner_low_mm: FloatArray
    inner_top_mm: FloatArray

    @property
    def faces(self) -> tuple[tuple[FloatArray, FloatArray], ...]:
        """Both faces (angles, DRAWS) at every radius, the outboard one first."""
        return _laid_out(self.rotor)

    def cut(self, clean_up_mm: float) -> Cut:
        """Cut both faces until they are clean, and ``clean_up_mm`` further.

        T_after = min z − max(z − T) − d_out − d_in over angles and radii (measurement.md#what-remedies-leave).
        """
        return Cut(
            least_mm=self.low_mm - self.inner_top_mm - 2 * clean_up_mm,
            out_mm=self.top_mm - self.low_mm + clean_up_mm,
            in_mm=self.inner_top_mm - self.inner_low_mm + clean_up_mm,
        )

    def least_after_mm(self, out_mm: float, in_mm: float) -> FloatArray:
        """Return the smallest thickness (DRAWS,) once each face has been fed so far from its first touch."""
        outer, inner = self.top_mm - out_mm, self.inner_low_mm + in_mm
        least = np.full(outer.size, np.inf)
        for outboard, inboard in self.faces:
            left = np.minimum(outboard, outer) - np.maximum(inboard, inner)
            least = np.minimum(least, left.min(axis=0))
        return least


def blank(orders_mm: FloatArray, metal: Metal, *, radius_mm: float, left_mm: FloatArray) -> Blank:
    """Return a rotor whose outboard face has ``orders_mm`` (DRAWS, 2·ORDERS) at ``radius_mm``, as the lathe sees it.

    The lathe's own remaining tilt ``left_mm`` (DRAWS,) TIR stands at any angle and is paid in metal too.
    """
    lathe = at_random(left_mm, stream=97)
    seen = orders_mm.T.astype(np.float32, order="C")
    seen[0] -= lathe.real
    seen[1] -= lathe.imag
    rotor = Chucked(seen, radius_mm, metal)
    on_average, usual = mean_draw(seen), metal.usual_mm
    outer, inner = [], []
    for radius, near, thicker in metal.places:
        columns = rotor.columns(radius)
        face, curve = columns @ seen, columns @ on_average
        outer.append(_extremes(face, curve))
        # In place: what is not kept need not be found room for. Beyond a measured radius a whole face is thicker alike.
        np.subtract(face, metal.thickness_mm[near], out=face)
        low, top = _extremes(face, curve - usual[near])
        inner.append((low - thicker, top - thicker))
    return Blank(
        rotor=rotor,
        top_mm=np.max([top for _, top in outer], axis=0),
        low_mm=np.min([low for low, _ in outer], axis=0),
        inner_low_mm=np.min([low for low, _ in inner], axis=0),
        inner_top_mm=np.max([top for _, top in inner], axis=0),
    )


@lru_cache(maxsize=2)
def _laid_out(rotor: Chucked) -> tuple[tuple[FloatArray, FloatArray], ...]:
    """Return both faces (angles, DRAWS) at every radius: only a plan of passes needs more than their extremes."""
    faces = []
    for radius, near, thicker in rotor.metal.places:
        outboard = rotor.columns(radius) @ rotor.orders_mm
        faces.append((outboard, outboard - rotor.metal.thickness_mm[near] - thicker))
    return tuple(faces)


def _extremes(face_mm: FloatArray, curve_mm: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return the lowest and the highest place (DRAWS,) of a drawn face (angles, DRAWS) about its mean ``curve_mm``.

    They lie further out than a smooth face's: every draw has shape of its own that no reading showed. Real faces are
    between the mean curve, which has none of it, and the draws: part of the difference is taken back.
    """
    lowest, highest = face_mm.min(axis=0), face_mm.max(axis=0)
    return (
        lowest + _TAKEN_BACK * (float(curve_mm.min()) - float(mean_draw(lowest))),
        highest + _TAKEN_BACK * (float(curve_mm.max()) - float(mean_draw(highest))),
    )


def left_by(lathe: Lathe, *, rows: int) -> FloatArray:
    """Draw the TIR a lathe leaves at the measuring radius: about what its profile states."""
    left: FloatArray = lathe.runout_left_mm * (1 + _LATHE_SPREAD * even_draws(stream=98, rows=rows))
    return left


def on_vehicle(draws: CornerDraws, lathe: Lathe) -> Outcome:
    """Cut true to its own hub: all of the installed runout comes off, from both faces."""
    left = left_by(lathe, rows=DRAWS)
    cut = _made(draws, lathe, own=False)
    return Outcome(
        runout_mm=left,
        variation_mm=lathe_variation(),
        least_mm=cut.least_mm if cut is not None else None,
        settings=_settings(cut),
        trace_mm=np.zeros(0),
    )


def bench(draws: CornerDraws, lathe: Lathe, shop: Shop | None = None) -> Outcome | None:
    """Cut true to its own seat: the hub's runout stays. With ``shop``, a plate is fitted to what is then measured."""
    left = left_by(lathe, rows=ROWS)
    cut = _made(draws, lathe, own=True)
    installed = draws.parts.hub + draws.parts.seating + at_random(left, stream=99)
    runout = 2 * np.abs(installed)
    before = None
    if shop is not None:
        fits = fitting(shop, draws)
        if not fits:
            return None
        before, runout = runout, best_of_kit(installed, fits, radius_mm=draws.spec.measuring_radius_mm)
    return Outcome(
        runout_mm=runout,
        variation_mm=lathe_variation(),
        least_mm=cut.least_mm if cut is not None else None,
        settings=_settings(cut),
        trace_mm=np.zeros(0) if shop is not None else None,
        before_plate_mm=before,
    )


def lathe_variation() -> FloatArray:
    """Draw the thickness variation a lathe leaves."""
    left: FloatArray = LATHE_VARIATION_MM / 2 * (1 + even_draws(stream=100))
    return left


@lru_cache(maxsize=2)
def blank_of(draws: CornerDraws, lathe: Lathe, *, own: bool) -> Blank | None:
    """Return the rotor on a lathe: in its ``own`` frame, or as it is mounted; None where nobody miked it."""
    if draws.metal is None:
        return None
    orders = draws.own_mm if own else draws.mounted_mm
    return blank(orders, draws.metal, radius_mm=draws.spec.measuring_radius_mm, left_mm=left_by(lathe, rows=DRAWS))


def _made(draws: CornerDraws, lathe: Lathe, *, own: bool) -> Cut | None:
    rotor = blank_of(draws, lathe, own=own)
    return rotor.cut(lathe.min_depth_mm) if rotor is not None else None


def _settings(cut: Cut | None) -> dict[str, float]:
    if cut is None:
        return {}
    return {"cut_out_mm": median(cut.out_mm), "cut_in_mm": median(cut.in_mm)}
