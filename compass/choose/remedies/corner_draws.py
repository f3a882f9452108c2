"""What is known of a corner before any work, as draws: the faces, the two first orders, the metal."""

import math
from dataclasses import dataclass
from functools import cache, lru_cache
from typing import Final

import numpy as np

from compass.cause.measured import Measured
from compass.choose.remedies.part_draws import Parts, draw_parts
from compass.evidence.records import Corner, Spec
from compass.ground.angles import wrap_deg
from compass.ground.arrays import ComplexArray, FloatArray, IntArray
from compass.ground.uncertainty import DRAWS, even_draws, normal_draws
from compass.measure.analysed import Analysed, preferred, vectors
from compass.measure.profile import ORDERS, harmonics
from compass.measure.thickness import ThicknessResult
from compass.measure.wear_rate import DRIVEN_OTHERWISE

STEP_DEG: Final = 5.0
ANGLES_DEG: Final = np.arange(0.0, 360.0, STEP_DEG)
_HIGHER: Final = (0.004, 0.0015, 0.0008, 0.0005, 0.0003, 0.0002, 0.0001)  # sd of orders 2–8 nobody swept, mm; ours
_USUAL_VARIATION_MM: Final = (0.006, 0.7)  # median and sd of the logarithm, where nobody miked; our estimate
# Taper, mm a mm of radius, where one radius was miked: most discs have next to none, some have worn to a cone. Sd and
# share of each; our estimate. One broad bell would foretell too little metal for most and be too sure of the others.
_TAPERS_PER_MM: Final = ((0.00005, 0.65), (0.0006, 0.35))
_EDGE_PER_MM: Final = 0.00005  # the same beyond and between measured radii
_BAND_IN: Final = 0.68  # of r_m: the swept band where its radii are not told
_BAND_OUT_MM: Final = 10.0  # measurement.md#radius: r_m is about 10–15 mm in from the edge


@dataclass(frozen=True, slots=True, eq=False)
class Metal:
    """Draws of thickness, mm: (angles, DRAWS) at each measured radius, and its smallest as miked (DRAWS,).

    ``edges`` are the radii beyond them: each with the measured radius it is nearest to, by number, and what it is
    thicker there (DRAWS,). They are laid out only where something is cut.
    """

    radii_mm: FloatArray
    thickness_mm: tuple[FloatArray, ...]
    least_mm: FloatArray
    edges: tuple[tuple[float, int, FloatArray], ...] = ()

    @property
    def usual_mm(self) -> tuple[FloatArray, ...]:
        """The mean thickness (angles,) at each measured radius."""
        return tuple(mean_draw(drawn) for drawn in self.thickness_mm)

    @property
    def places(self) -> tuple[tuple[float, int, FloatArray | float], ...]:
        """Every radius that is cut, its measured one, and what it is thicker than that: measured ones, then edges."""
        measured = tuple((float(radius), number, 0.0) for number, radius in enumerate(self.radii_mm))
        return measured + self.edges


@dataclass(frozen=True, slots=True, eq=False)
class CornerDraws:
    """One corner's draws. First orders (ROWS,) stand at r_m; ``higher_mm`` (angles, DRAWS) is the rotor's own
    shape, orders 2 and up, in its frame at index 0. ``mounted_mm`` and ``own_mm`` (DRAWS, 2·ORDERS) are the orders
    a_1, b_1, a_2, … of the outboard face at r_m: as it is mounted now, and in the rotor's own frame.
    """

    spec: Spec
    parts: Parts
    higher_mm: FloatArray
    mounted_mm: FloatArray
    own_mm: FloatArray
    metal: Metal | None
    variation_mm: FloatArray
    variation_known: bool
    wear_mm: FloatArray | None
    turned_before: int = 0


@lru_cache(maxsize=16)
def draw_corner(measured: Measured) -> CornerDraws:
    """Draw everything a prediction needs, whatever was measured and whatever was not.

    The draws of one ``measured`` are shared: remedies, a setting by hand, the cut plan and its section ask for them.
    """
    corner, spec = measured.corner, measured.corner.spec
    parts = draw_parts(vectors(measured.analysed, spec=spec), usual_mm=corner.seating_tir_mm)
    chosen = preferred(measured.analysed)
    higher = _higher(chosen)
    now = parts.hub + parts.rotor + (parts.joint if parts.joint is not None else 0)
    result = measured.thickness.result
    return CornerDraws(
        spec=spec,
        parts=parts,
        higher_mm=_columns(2) @ higher.T.astype(np.float32),
        mounted_mm=_mounted(chosen, now, higher),
        own_mm=np.concatenate([_pair(parts.rotor), higher], axis=1),
        metal=_metal(corner, result) if result is not None else None,
        variation_mm=_variation(result),
        variation_known=result is not None and result.variation is not None,
        wear_mm=_wear(corner),
        turned_before=corner.turned_before,
    )


@lru_cache(maxsize=16)
def shape_range_mm(draws: CornerDraws) -> FloatArray:
    """Return the range (DRAWS,) of what the rotor's own shape has beyond first order: no tilt takes it out."""
    shape = draws.higher_mm
    span: FloatArray = shape.max(axis=0) - shape.min(axis=0)
    return span


def ranges(first: ComplexArray, shape_mm: FloatArray | None) -> FloatArray:
    """Return TIR (n,) of first orders (n,) beside shapes (angles, n); None where there is no shape."""
    if shape_mm is None:
        return 2 * np.abs(first)
    curve = _columns(1)[:, :2] @ np.stack([first.real, first.imag]).astype(np.float32)
    curve += shape_mm
    widths: FloatArray = (curve.max(axis=0) - curve.min(axis=0)).astype(np.float64)
    return widths


_AT_ONCE: Final = 4096  # settings whose faces are held at once: plates, places and seats may be a hundred thousand


def ranges_about(first: ComplexArray, shape_mm: FloatArray) -> FloatArray:
    """Return TIR (n,) of many first orders (n,) beside one and the same shape (angles,)."""
    parts = [first[k : k + _AT_ONCE] for k in range(0, max(first.size, 1), _AT_ONCE)]
    return np.concatenate([ranges(part, np.repeat(shape_mm[:, None], part.size, axis=1)) for part in parts])


def faces_mm(orders_mm: FloatArray) -> FloatArray:
    """Return faces (angles, n) of orders (n, 2·ORDERS), single precision."""
    faces: FloatArray = _columns(1) @ orders_mm.T.astype(np.float32)
    return faces


def mean_draw(draws: FloatArray) -> FloatArray:
    """Return the mean over draws (…, DRAWS) of single precision: as a product it takes a third of the time."""
    mean: FloatArray = draws @ _alike()
    return mean


@cache
def _alike() -> FloatArray:
    return np.full(DRAWS, 1 / DRAWS, dtype=np.float32)


@lru_cache(maxsize=64)
def columns_at(radius_ratio: float) -> FloatArray:
    """Return what lays orders out as a face (angles, 2·ORDERS) at another radius (measurement.md#radius)."""
    scales = np.repeat(radius_ratio ** np.arange(1, ORDERS + 1), 2).astype(np.float32)
    return _columns(1) * scales


def trace_mm(first: ComplexArray, shape_mm: FloatArray | None, *, index_deg: float = 0.0) -> FloatArray:
    """Return the expected face at hub angles ANGLES_DEG (angles,): first order as mounted, shape turned on."""
    mean = complex(first.mean())
    curve: FloatArray = mean.real * _columns(1)[:, 0] + mean.imag * _columns(1)[:, 1]
    if shape_mm is None:
        return curve
    turned: FloatArray = np.interp(
        np.mod(ANGLES_DEG - index_deg, 360.0), ANGLES_DEG, shape_mm.mean(axis=1), period=360.0
    )
    return curve + turned


def at_random(tir_mm: FloatArray, *, stream: int) -> ComplexArray:
    """Return first orders of the given TIRs (n,) at any angle."""
    turned: ComplexArray = tir_mm * _anywhere(stream, tir_mm.size)
    return turned


@cache
def _anywhere(stream: int, rows: int) -> ComplexArray:
    """Return half of unit vectors at any angle (rows,): a TIR is twice an amplitude."""
    turned: ComplexArray = np.exp(1j * math.pi * even_draws(stream=stream, rows=rows)) / 2
    return turned


@cache
def _columns(first: int) -> FloatArray:
    """Return cos and sin columns of orders ``first`` to the last, (angles, 2·orders), single precision."""
    return np.ascontiguousarray(harmonics(ANGLES_DEG, ORDERS)[2 * first - 2 :].T, dtype=np.float32)


def _pair(first: ComplexArray) -> FloatArray:
    return np.column_stack([first.real, first.imag])[:DRAWS]


def _higher(chosen: Analysed | None) -> FloatArray:
    """Return the rotor's own orders 2 and up (DRAWS, 14), in its frame at index 0."""
    if chosen is None or chosen.result is None or chosen.result.face is None:
        usual: FloatArray = normal_draws(2 * len(_HIGHER), stream=83) * np.repeat(_HIGHER, 2)
        return usual
    # What sits at rotor angle ψ was swept at θ = ψ + φ (measurement.md#what-remedies-leave).
    return chosen.result.face.turned(-chosen.evidence.index_deg).orders_mm(2)


def _mounted(chosen: Analysed | None, now: ComplexArray, higher: FloatArray) -> FloatArray:
    """Return the orders of the face as mounted (DRAWS, 16): as swept at index 0, else put together."""
    face = chosen.result.face if chosen is not None and chosen.result is not None else None
    if chosen is None or face is None or wrap_deg(chosen.evidence.index_deg) != 0:
        return np.concatenate([_pair(now), higher], axis=1)
    orders = face.orders_mm()
    error_mm = getattr(chosen.evidence, "instrument_error_mm", 0.0)
    if error_mm:  # a dial's error grows over its travel: once to a difference of two readings
        travel = np.maximum(2 * np.hypot(orders[:, 0], orders[:, 1]), 1e-3)
        orders = orders * (1 + error_mm * even_draws(stream=84) / travel)[:, None]
    return orders


def _variation(result: ThicknessResult | None) -> FloatArray:
    if result is not None and result.variation is not None:
        return result.variation_mm
    median, spread = _USUAL_VARIATION_MM
    usual: FloatArray = median * np.exp(spread * normal_draws(1, stream=85)[:, 0])
    return usual


def _wear(corner: Corner) -> FloatArray | None:
    """Draw the wear rate, mm per 1,000 km, where this corner's history tells one."""
    if corner.wear is None:
        return None
    rate = corner.wear.mm_per_1000_km + corner.wear.expanded_mm / 2 * normal_draws(1, stream=95)[:, 0]
    # What lies ahead is not driven quite as what lies behind.
    drawn: FloatArray = rate * np.exp(DRIVEN_OTHERWISE * normal_draws(1, stream=94)[:, 0])
    return drawn


def _metal(corner: Corner, result: ThicknessResult) -> Metal:
    """Draw T over the swept band, turned to index 0: measured radii, and what lies between and beyond them."""
    spec, measured = corner.spec, corner.thickness
    turned = -(measured.index_deg if measured is not None else 0.0)
    order = _shuffled()  # not row by row beside the faces' alternatives
    by_radius = np.argsort(result.radii_mm)
    radii = result.radii_mm[by_radius]
    curves = []
    for k in by_radius:
        profile = result.profiles[k].turned(turned)
        curve = faces_mm(profile.orders_mm()[order])
        curve += (profile.constant_mm + result.offset_mm)[order].astype(np.float32)
        curves.append(curve)
    least = np.min([curve.min(axis=0) for curve in curves], axis=0)
    inner, outer = band_mm(spec)
    edges = [r for r in (inner, outer) if np.abs(radii - r).min() > 1.0]
    slope = _tapers() if radii.size == 1 else np.zeros(DRAWS)
    beyond_edges = []
    for number, edge in enumerate(edges):
        near = int(np.argmin(np.abs(radii - edge)))
        beyond = edge - radii[near]
        if radii.size > 1:
            other = near + 1 if near == 0 else near - 1
            slope = (curves[other] - curves[near]).mean(axis=0) / (radii[other] - radii[near])
        doubt = _EDGE_PER_MM * abs(beyond) * normal_draws(1, stream=88 + number)[:, 0]
        beyond_edges.append((edge, near, (slope * beyond + doubt).astype(np.float32)))
    return Metal(radii, tuple(curves), least, tuple(beyond_edges))


@cache
def _tapers() -> FloatArray:
    """Draw the taper of a disc that was miked at one radius, mm a mm (DRAWS,)."""
    (little, share), (much, _) = _TAPERS_PER_MM
    is_little = even_draws(stream=90) < 2 * share - 1  # even between −1 and 1
    slope: FloatArray = np.where(is_little, little, much) * normal_draws(1, stream=87)[:, 0]
    return slope


@cache
def _shuffled() -> IntArray:
    order: IntArray = np.random.default_rng(86).permutation(DRAWS)
    return order


def band_mm(spec: Spec) -> tuple[float, float]:
    """Return the swept band's radii: as told, else as they usually lie about the measuring radius."""
    inner = spec.swept_inner_radius_mm or _BAND_IN * spec.measuring_radius_mm
    outer = spec.swept_outer_radius_mm or spec.measuring_radius_mm + _BAND_OUT_MM
    return inner, max(outer, inner + 1.0)
