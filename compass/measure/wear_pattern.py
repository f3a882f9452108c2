"""Wear: what made the thickness variation, and how long the metal lasts.

The installed runout says where a released pad rubs: the outboard face near the high spot, the inboard face opposite
(measurement.md#wear-pattern). So T is held against max(0, z) and max(0, −z), not order 1 alone: equal wear on both
faces gives two thin places a turn.
"""

import math
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache
from typing import Final

import numpy as np

from compass.ground.angles import difference_deg
from compass.ground.arrays import FloatArray

RUBS_FROM_MM: Final = 0.015  # TIR under which a pad is not reached on every turn; our estimate
_AS_MADE_MM: Final = 0.0012  # irregularity of a disc as made, one standard deviation; our estimate
_PATCH_WIDTHS_DEG: Final = (30.0, 45.0, 60.0)  # of a pad's print, two standard deviations
_CLEAR_NATS: Final = 2.0  # log likelihood by which one story must beat the other; about 7 to 1
_FREEDOM: Final = 2.0
_BY_CHANCE_NATS: Final = 5.0  # what noise alone lets the best story explain, one round in twenty aside (6–24 stations)
_STANDS_BACK: Final = (0.0, 0.3, 0.6)  # of the runout
_NEAR_DEG: Final = 35.0
_HALF_EXPLAINED: Final = 0.45
_EXPLAINED: Final = 0.6  # share of the variation a story must explain


class MadeBy(StrEnum):
    """What made the thickness variation."""

    RUNOUT = "runout"
    PATCH = "patch"
    UNCLEAR = "unclear"
    NONE = "none"


@dataclass(frozen=True, slots=True)
class Pattern:
    """How thickness and runout hang together: shares (0..1) of the variation that rubbing and a patch explain.

    ``outboard_mm`` and ``inboard_mm`` are the wear at the place each face rubs hardest; ``patch_deg`` is the middle
    of the best patch, None where a patch explains nothing. ``beyond_noise``: more than noise and rounding make.
    """

    made_by: MadeBy
    rubbing_share: float
    patch_share: float
    outboard_mm: float
    inboard_mm: float
    patch_deg: float | None
    hollow: bool = False  # a patch that is thin, not one that stands proud
    beyond_noise: bool = True
    narrow: bool = False  # no wider than a pad's print: no lobe that a runout rubs explains it as well
    like_runout: bool = False  # thin in a lobe as wide as a runout rubs, whichever way that runout stood


def wear_pattern(angles_deg: FloatArray, thickness_mm: FloatArray, runout_mm: FloatArray, *, u_mm: float) -> Pattern:
    """Say what made the variation of ``thickness_mm`` (n,), given the installed ``runout_mm`` (n,) beside it.

    Both stand at ``angles_deg`` of the same rotor; ``u_mm`` is the standard uncertainty of one thickness. Rubbing is
    fitted by non-negative least squares on max(0, z) and max(0, −z), a patch by a bump of a pad's width anywhere.
    """
    t = thickness_mm - thickness_mm.mean()
    z = runout_mm - (runout_mm.max() + runout_mm.min()) / 2
    total = float(t @ t)
    if total <= 0:
        return Pattern(MadeBy.UNCLEAR, 0.0, 0.0, 0.0, 0.0, None)
    scale = u_mm**2 + _AS_MADE_MM**2
    rubbed, wear = _rubbing(t, z)
    patched, centre_deg, hollow = _patch(angles_deg, t)
    rubbing_share, patch_share = 1 - rubbed / total, 1 - patched / total
    # A patch may sit anywhere and be of any width: more figures than rubbing has (Akaike 1974). And however fine the
    # micrometer, a story that leaves as much unexplained as the other is no better.
    ahead = (patched - rubbed) / (2 * scale) + _FREEDOM
    ahead = math.copysign(
        min(abs(ahead), t.size * abs(math.log((patched + scale) / (rubbed + scale))) + _FREEDOM), ahead
    )
    rubs = bool(np.ptp(z) >= RUBS_FROM_MM)
    lobed, clearly = _lobe(angles_deg, t), _CLEAR_NATS * 2 * scale
    beyond_noise = total - min(rubbed, patched, lobed) > _BY_CHANCE_NATS * 2 * scale
    # Nothing that rubs makes a disc thicker: what stands proud must be the narrower by a clear margin, what is hollow
    # is wide only by one.
    wide = lobed < patched - clearly if hollow else lobed < patched + clearly
    made_by = MadeBy.UNCLEAR
    if beyond_noise and rubs and rubbing_share >= _EXPLAINED and ahead > _CLEAR_NATS:
        made_by = MadeBy.RUNOUT
    elif beyond_noise and not wide and patch_share >= _EXPLAINED and (ahead < -_CLEAR_NATS or not rubs):
        # A hollow just where a face rubs hardest is hardly there by chance.
        where_it_rubs = (
            rubs and hollow and rubbing_share >= _HALF_EXPLAINED and _near_rubbing(centre_deg, angles_deg, z)
        )
        made_by = MadeBy.UNCLEAR if where_it_rubs else MadeBy.PATCH
    high = float(np.ptp(z)) / 2
    return Pattern(
        made_by=made_by,
        rubbing_share=max(rubbing_share, 0.0),
        patch_share=max(patch_share, 0.0),
        outboard_mm=wear[0] * high,
        inboard_mm=wear[1] * high,
        patch_deg=centre_deg if patch_share > 0 else None,
        hollow=hollow,
        beyond_noise=beyond_noise,
        narrow=beyond_noise and not wide,
        like_runout=beyond_noise and wide and hollow,
    )


def _rubbing(t: FloatArray, z: FloatArray) -> tuple[float, tuple[float, float]]:
    """Fit T = c − w₁·max(0, z − f) − w₂·max(0, −z − f), w ≥ 0; return the squares left and both w (mm per mm).

    f is how far a released pad stands back, as a share of the runout: nothing is known of it, so a few are tried.
    """
    whole = float(t @ t)
    best, wear = whole, (0.0, 0.0)
    furthest = float(np.abs(z).max())
    for share in _STANDS_BACK:
        features = -np.maximum(0, np.stack([z, -z]) - share * furthest)
        centred = features - features.mean(axis=1, keepdims=True)
        # t and the features are centred, so the constant drops out of the normal equations.
        (one, both), (_, two) = (centred @ centred.T).tolist()
        first, second = (centred @ t).tolist()
        det = one * two - both * both
        tried = [(first / one, 0.0)] if one > 1e-30 else []
        tried += [(0.0, second / two)] if two > 1e-30 else []
        if det > 1e-30:
            tried.append(((first * two - second * both) / det, (second * one - first * both) / det))
        for outer, inner in tried:
            left = whole - outer * first - inner * second
            if outer >= 0 and inner >= 0 and left < best:
                best, wear = left, (outer, inner)
    return best, wear


def _near_rubbing(centre_deg: float, angles_deg: FloatArray, z: FloatArray) -> bool:
    places = (float(angles_deg[int(np.argmax(z))]), float(angles_deg[int(np.argmin(z))]))
    return any(abs(difference_deg(centre_deg, place)) <= _NEAR_DEG for place in places)


@lru_cache(maxsize=64)
def _bumps(angles: bytes) -> tuple[FloatArray, tuple[tuple[FloatArray, FloatArray], ...]]:
    """Return where a pad could have stood, and for every width its bump at the stations (centres, n) with its size."""
    angles_deg, centres = np.frombuffer(angles), np.arange(0, 360, 5.0)
    away = np.abs((angles_deg[None, :] - centres[:, None] + 180) % 360 - 180)
    bumps = []
    for width in _PATCH_WIDTHS_DEG:
        bump = np.exp(-0.5 * (away / (width / 2)) ** 2)
        bump = bump - bump.mean(axis=1, keepdims=True)
        bumps.append((bump, np.maximum((bump**2).sum(axis=1), 1e-12)))
    return centres, tuple(bumps)


def _patch(angles_deg: FloatArray, t: FloatArray) -> tuple[float, float, bool]:
    """Fit a bump or hollow of a pad's width; return the squares left, its middle, and whether it is a hollow."""
    centres, bumps = _bumps(angles_deg.tobytes())
    best, place, hollow = float(t @ t), 0.0, False
    for bump, size in bumps:
        gain = (bump @ t) ** 2 / size
        k = int(np.argmax(gain))
        if float(t @ t) - gain[k] < best:
            best, place, hollow = float(t @ t) - float(gain[k]), float(centres[k]), bool(bump[k] @ t < 0)
    return best, place, hollow


def _lobe(angles_deg: FloatArray, t: FloatArray) -> float:
    """Fit what a runout high at any place would have rubbed, on one face or on both; return the squares left."""
    away = np.cos(np.radians(angles_deg[None, :] - np.arange(0, 360, 10.0)[:, None]))
    lobes = [-np.maximum(0, away - back) for back in _STANDS_BACK]
    lobes += [-np.maximum(0, np.abs(away) - back) for back in _STANDS_BACK]
    rubbed = np.concatenate(lobes)
    rubbed = rubbed - rubbed.mean(axis=1, keepdims=True)
    along = np.maximum(rubbed @ t, 0.0)  # wear makes thin, never thick
    gain = along**2 / np.maximum((rubbed**2).sum(axis=1), 1e-12)
    return float(t @ t - gain.max())
