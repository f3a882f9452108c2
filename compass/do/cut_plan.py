"""The cut plan: how far to feed each face, in which passes and dial lines, and what the micrometer should then say.

From the first touch of each face to clean metal, and refused before the tip touches where the metal will not do.
After every pass the micrometer's reading makes the plan anew: draws that do not fit it lose their weight.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Final

import numpy as np

from compass.cause.measured import Measured
from compass.choose.remedies.corner_draws import draw_corner
from compass.choose.remedies.cutting import Blank, blank_of
from compass.choose.remedies.feeding import TOUCH_MM, share_feed, touched, whole_lines
from compass.choose.remedies.outcome import POINTS
from compass.choose.rules import METAL_ODDS
from compass.evidence.shop import Lathe, Shop
from compass.ground.arrays import FloatArray, require_positive
from compass.ground.errors import EvidenceError
from compass.ground.uncertainty import even_draws, median

_READ_AGAIN_MM: Final = 0.002  # sd of a micrometer reading beside its graduation; our estimate
_FEWEST: Final = 20.0  # effective draws that must carry the plan after a reading
_RARE: Final = 0.005  # a reading further out than this, on either side, contradicts the plan
_HALVINGS: Final = 12  # leave a zero known to a micrometre or two
_ZERO_OFF: Final = 2.0  # how much further than a contradicting reading is out a tip's zero may be; our estimate


class Scratch(StrEnum):
    """What a scratch cut shows: a band all round, one that comes and goes, or a patch."""

    ALL_ROUND = "all_round"
    COMES_AND_GOES = "comes_and_goes"
    PATCH = "patch"


# What a scratch cut means: by lathe and finding, a code that ``compass.words.codes`` puts into words.
SCRATCH_MEANS: Final = {
    ("on_vehicle", Scratch.ALL_ROUND): "scratch_no_runout_here",
    ("on_vehicle", Scratch.COMES_AND_GOES): "scratch_runout",
    ("on_vehicle", Scratch.PATCH): "scratch_patch",
    ("bench", Scratch.ALL_ROUND): "scratch_rotor_true",
    ("bench", Scratch.COMES_AND_GOES): "scratch_rotor_or_mounting",
    ("bench", Scratch.PATCH): "scratch_patch",
}


@dataclass(frozen=True, slots=True)
class DonePass:
    """A pass that was made: feed of each face (mm), and the micrometer's smallest reading after it, if taken."""

    out_mm: float
    in_mm: float
    reading_mm: float | None = None
    graduation_mm: float = 0.001

    def __post_init__(self) -> None:
        if not (self.out_mm >= 0 and self.in_mm >= 0):
            raise EvidenceError("out_mm", "a feed of at least 0")
        if self.reading_mm is not None:
            require_positive(self.reading_mm, field="reading_mm")


@dataclass(frozen=True, slots=True)
class Pass:
    """One pass: feed of each face in mm and in whole lines of the knob, and the reading to expect after it (mm).

    ``stop_mm`` is the reading under which the passes still to come would go below machine-to.
    """

    number: int
    finish: bool
    out_mm: float
    in_mm: float
    out_lines: int | None
    in_lines: int | None
    reading_mm: tuple[float, float, float]
    stop_mm: float


@dataclass(frozen=True, slots=True)
class CutPlan:
    """A rotor's way under one lathe. ``refused``: why no tip may touch; ``disagrees``: a reading did not fit.

    ``odds_clean``: how likely both faces are clean all round after the passes made and planned; ``off_mm`` is how much
    more (or less, negative) the micrometer reads than the feeds say, where it disagrees.
    """

    passes: tuple[Pass, ...]
    done: tuple[DonePass, ...]
    out_mm: float
    in_mm: float
    least_mm: tuple[float, float, float]
    machine_to_mm: float
    odds_metal: float
    odds_clean: float
    refused: str | None
    disagrees: bool
    off_mm: float
    finished: bool


def plan_cut(
    measured: Measured,
    lathe: Lathe,
    shop: Shop,
    *,
    done: Sequence[DonePass] = (),
    own: bool | None = None,
    one_more: bool = False,
) -> CutPlan | None:
    """Plan the passes still to be made, or None where the thickness is not known round the disc.

    ``one_more``: a dark patch is left after what was planned, so one pass of the least depth is added.
    """
    draws = draw_corner(measured)
    mounted = blank_of(draws, lathe, own=lathe.kind == "bench" if own is None else own)
    if mounted is None or not draws.variation_known:
        return None
    rotor = touched(mounted)
    spec = measured.corner.spec
    machine_to = spec.machine_to_thickness_mm or spec.discard_thickness_mm + shop.wear_allowance_mm
    weight, off_mm = _weighed(rotor, done)
    if off_mm:
        # The feeds are not what came off: one of the tips, or both, did not stand where it was taken to. Their sum is
        # known by the micrometer, their shares are not: that is what ``odds_clean`` says.
        rotor = _matched(mounted, done, within_mm=max(TOUCH_MM, _ZERO_OFF * abs(off_mm)))
        weight, _still = _weighed(rotor, done)
    first = rotor.cut(lathe.min_depth_mm)
    fed_out, fed_in = sum(d.out_mm for d in done), sum(d.in_mm for d in done)
    to_go = [
        max(_quantile(first.out_mm, weight, 0.5) - fed_out, 0.0),
        max(_quantile(first.in_mm, weight, 0.5) - fed_in, 0.0),
    ]
    if off_mm:
        in_sum = max(_quantile(first.out_mm + first.in_mm, weight, 0.5) - fed_out - fed_in, 0.0)
        to_go = [in_sum * (share / sum(to_go) if sum(to_go) else 0.5) for share in to_go]
    # While the readings contradict the feeds, no deeper at once than is wanted with nine in ten odds.
    sure = max(_quantile(first.out_mm, weight, 0.1) - fed_out, _quantile(first.in_mm, weight, 0.1) - fed_in)
    deepest = max(lathe.min_depth_mm, sure) if off_mm else math.inf
    feeds = share_feed((to_go[0], to_go[1]), lathe, spec.rotor, begun=bool(done), deepest_mm=deepest)
    if one_more and done and not feeds:
        feeds = [whole_lines((lathe.min_depth_mm, lathe.min_depth_mm), lathe)]
    totals = (fed_out + sum(f[0] for f in feeds), fed_in + sum(f[1] for f in feeds))
    least = rotor.least_after_mm(*totals)
    odds = float(weight @ (least > machine_to))
    clean = (rotor.top_mm - totals[0] <= rotor.low_mm) & (rotor.inner_low_mm + totals[1] >= rotor.inner_top_mm)
    return CutPlan(
        passes=_passes(feeds, rotor, (fed_out, fed_in), lathe, weight, machine_to, first=len(done) + 1),
        done=tuple(done),
        out_mm=totals[0],
        in_mm=totals[1],
        least_mm=_points(least, weight),
        machine_to_mm=machine_to,
        odds_metal=odds,
        odds_clean=float(weight @ clean),
        refused="metal_short" if odds < METAL_ODDS and (feeds or done) else None,
        disagrees=bool(off_mm),
        off_mm=off_mm,
        finished=bool(done) and not feeds,
    )


@dataclass(frozen=True, slots=True, eq=False)
class Section:
    """The rotor unrolled as the lathe sees it, mm: both expected faces (angles,) at ANGLES_DEG, and the planes.

    ``out_mm`` and ``in_mm`` are where the outboard and the inboard tip stand after each pass, made or planned.
    """

    outboard_mm: FloatArray
    inboard_mm: FloatArray
    out_mm: tuple[float, ...]
    in_mm: tuple[float, ...]


def section(measured: Measured, lathe: Lathe, plan: CutPlan, *, own: bool | None = None) -> Section | None:
    """Return what a drawing of the cut needs, or None where the thickness is not known."""
    rotor = blank_of(draw_corner(measured), lathe, own=lathe.kind == "bench" if own is None else own)
    if rotor is None:
        return None
    outboard, inboard = rotor.faces[0]
    out, inn = median(rotor.top_mm), median(rotor.inner_low_mm)
    outs, ins = [], []
    feeds = [(one.out_mm, one.in_mm) for one in plan.done] + [(ahead.out_mm, ahead.in_mm) for ahead in plan.passes]
    for fed_out, fed_in in feeds:
        out, inn = out - fed_out, inn + fed_in
        outs.append(out)
        ins.append(inn)
    return Section(outboard.mean(axis=1), inboard.mean(axis=1), tuple(outs), tuple(ins))


def carried_mm(read_mm: float, *, arm_mm: float, cut_radius_mm: float) -> float:
    """Return the runout at the cut of a compensation check that reads ``read_mm`` at ``arm_mm``: x·r_cut/L."""
    require_positive(arm_mm, field="arm_mm")
    return read_mm * cut_radius_mm / arm_mm


def _matched(rotor: Blank, done: Sequence[DonePass], *, within_mm: float) -> Blank:
    """Return the rotor with zeros off by up to ``within_mm`` a tip, so that every draw has the last reading.

    The outboard tip's zero is drawn; the inboard one's is found by halving, since metal left falls with it.
    """
    out = within_mm * even_draws(stream=109)
    last = max(k for k, one in enumerate(done) if one.reading_mm is not None)
    fed_out, fed_in = sum(d.out_mm for d in done[: last + 1]), sum(d.in_mm for d in done[: last + 1])
    low, high = np.full(out.size, -within_mm), np.full(out.size, within_mm)
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        tried = replace(rotor, top_mm=rotor.top_mm + out, inner_low_mm=rotor.inner_low_mm + middle)
        too_thick = tried.least_after_mm(fed_out, fed_in) > (done[last].reading_mm or 0.0)
        low, high = np.where(too_thick, middle, low), np.where(too_thick, high, middle)
    return replace(rotor, top_mm=rotor.top_mm + out, inner_low_mm=rotor.inner_low_mm + (low + high) / 2)


def _weighed(rotor: Blank, done: Sequence[DonePass]) -> tuple[FloatArray, float]:
    """Return the draws' weights (DRAWS,) after the readings, and how far the worst is off the plan, mm or 0."""
    weight: FloatArray = np.full(rotor.top_mm.size, 1.0 / rotor.top_mm.size)
    fed_out = fed_in = off_mm = 0.0
    for one in done:
        fed_out, fed_in = fed_out + one.out_mm, fed_in + one.in_mm
        if one.reading_mm is None:
            continue
        least = rotor.least_after_mm(fed_out, fed_in)
        sd = math.hypot(one.graduation_mm / math.sqrt(12), _READ_AGAIN_MM)
        low, high = _quantile(least, weight, _RARE), _quantile(least, weight, 1 - _RARE)
        if not low - 3 * sd <= one.reading_mm <= high + 3 * sd:
            off = one.reading_mm - _quantile(least, weight, 0.5)
            off_mm = off if abs(off) > abs(off_mm) else off_mm
        weight = _updated(weight, least - one.reading_mm, sd)
    return weight, off_mm


def _updated(weight: FloatArray, off_mm: FloatArray, sd_mm: float) -> FloatArray:
    """Return the weights after a reading that each draw misses by ``off_mm``; widened until enough draws carry it."""
    while True:
        score = (off_mm / sd_mm) ** 2
        likely: FloatArray = weight * np.exp(-0.5 * (score - score.min()))
        likely = likely / likely.sum()
        if 1 / float((likely**2).sum()) >= _FEWEST:
            return likely
        sd_mm *= 1.3


def _passes(
    feeds: Sequence[tuple[float, float]],
    rotor: Blank,
    fed: tuple[float, float],
    lathe: Lathe,
    weight: FloatArray,
    machine_to_mm: float,
    *,
    first: int,
) -> tuple[Pass, ...]:
    passes = []
    out, inn = fed
    for k, (feed_out, feed_in) in enumerate(feeds):
        out, inn = out + feed_out, inn + feed_in
        ahead = sum(a + b for a, b in feeds[k + 1 :])
        passes.append(
            Pass(
                number=first + k,
                finish=lathe.finish_depth_mm is not None and k == len(feeds) - 1,
                out_mm=feed_out,
                in_mm=feed_in,
                out_lines=None if lathe.mm_per_line is None else round(feed_out / lathe.mm_per_line),
                in_lines=None if lathe.mm_per_line is None else round(feed_in / lathe.mm_per_line),
                reading_mm=_points(rotor.least_after_mm(out, inn), weight),
                stop_mm=machine_to_mm + ahead,
            )
        )
    return tuple(passes)


def _points(draws: FloatArray, weight: FloatArray) -> tuple[float, float, float]:
    low, middle, high = (_quantile(draws, weight, p) for p in POINTS)
    return low, middle, high


def _quantile(draws: FloatArray, weight: FloatArray, share: float) -> float:
    order = np.argsort(draws)
    place = int(np.searchsorted(np.cumsum(weight[order]), share))
    return float(draws[order[min(place, draws.size - 1)]])
