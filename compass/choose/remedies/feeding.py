"""How a cut is fed: from the first touch of each face, in whole lines of the knob and passes of a depth.

What a plan will feed is reckoned where a cut is chosen, too: it must not be refused once the vehicle stands open.
"""

import math
from dataclasses import replace
from typing import Final

import numpy as np

from compass.choose.remedies.cutting import Blank
from compass.evidence.shop import Lathe
from compass.ground.arrays import FloatArray
from compass.ground.uncertainty import even_draws, share

TOUCH_MM: Final = 0.015  # how far off the first touch of a tip is found, even bound; our estimate


def touched(rotor: Blank, within_mm: float = TOUCH_MM) -> Blank:
    """Return the rotor with its zeros where a hand finds the first touch, off by up to ``within_mm`` a tip."""
    out, inn = (within_mm * even_draws(stream=stream) for stream in (109, 110))
    return replace(rotor, top_mm=rotor.top_mm + out, inner_low_mm=rotor.inner_low_mm + inn)


def share_feed(
    to_go: tuple[float, float], lathe: Lathe, rotor: str, *, begun: bool = False, deepest_mm: float = math.inf
) -> list[tuple[float, float]]:
    """Share the feed of both faces over passes: none deeper than the lathe may; a finish pass last."""
    return [feed for feed, count in _shares(to_go, lathe, rotor, begun, deepest_mm) for _ in range(count)]


def _shares(
    to_go: tuple[float, float], lathe: Lathe, rotor: str, begun: bool, deepest_mm: float
) -> list[tuple[tuple[float, float], int]]:
    """Return the feeds of ``share_feed`` and how many passes are fed so: a file may ask for millions of them."""
    if max(to_go) <= 0 or (begun and max(to_go) < lathe.min_depth_mm / 2):
        return []
    to_go = (max(to_go[0], lathe.min_depth_mm), max(to_go[1], lathe.min_depth_mm))
    deepest = min(lathe.most_mm(rotor) or max(to_go), deepest_mm)
    finish = lathe.finish_depth_mm
    if finish is None or max(to_go) <= finish:
        count = max(1, math.ceil(max(to_go) / deepest - 1e-9))
        return [(whole_lines((to_go[0] / count, to_go[1] / count), lathe), count)]
    rough = (max(to_go[0] - finish, 0.0), max(to_go[1] - finish, 0.0))
    if max(rough) < lathe.min_depth_mm and max(to_go) <= deepest:  # too shallow a pass rubs instead of cutting
        return [(whole_lines(to_go, lathe), 1)]
    count = max(1, math.ceil(max(rough) / deepest - 1e-9))
    return [
        (whole_lines((rough[0] / count, rough[1] / count), lathe), count),
        (whole_lines((finish, finish), lathe), 1),
    ]


def whole_lines(feed: tuple[float, float], lathe: Lathe) -> tuple[float, float]:
    """Return a feed of each face (mm) in whole lines of the lathe's knob, as far as wanted or further."""
    step = lathe.mm_per_line
    if step is None:
        return feed
    return math.ceil(feed[0] / step - 1e-6) * step, math.ceil(feed[1] / step - 1e-6) * step


def odds_fed(mounted: Blank, lathe: Lathe, rotor: str, *, least_mm: float, enough: float) -> float:
    """Return the odds that ``least_mm`` is left once both faces are fed as a plan would, before its first reading.

    Where planes and lowest places alone give ``enough``, those odds: the faces are not laid out for more.
    """
    blank = touched(mounted)
    first = blank.cut(lathe.min_depth_mm)
    shares = _shares((_middle(first.out_mm), _middle(first.in_mm)), lathe, rotor, False, math.inf)
    out_mm = sum(out * count for (out, _inn), count in shares)
    in_mm = sum(inn * count for (_out, inn), count in shares)
    outer, inner = blank.top_mm - out_mm, blank.inner_low_mm + in_mm
    at_least = np.minimum(outer, blank.low_mm) - np.maximum(inner, blank.inner_top_mm)
    odds = share(at_least > least_mm)
    return odds if odds >= enough else share(blank.least_after_mm(out_mm, in_mm) > least_mm)


def _middle(draws: FloatArray) -> float:
    """Return the middle draw, the lower of two: as the plan's weighted quantile has it, all weights alike."""
    place = (draws.size - 1) // 2
    return float(np.partition(draws, place)[place])
