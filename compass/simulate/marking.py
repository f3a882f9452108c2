"""Marks for work on the bench: how it was measured, how near the truth, what was named and chosen, driven on.

Every mark is a row: what it is for, what was got of what there is, the figure it rests on. Words are made elsewhere.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Final

import numpy as np

from compass.choose.remedies.comeback import distance_km
from compass.evidence.records import Spec
from compass.evidence.shop import Shop
from compass.simulate.bench import off_deg
from compass.simulate.corner import SimulatedCorner
from compass.simulate.repair import repaired

WITHIN_DEG: Final = 15.0  # as a quick reading is good for
_LOST_DEG: Final = 45.0
_NEAR_MM: Final = 0.01  # one division
_LOST_MM: Final = 0.04
_NEAR_SHARE: Final = 0.1
_TOO_CLOSE_MM: Final = 0.008  # U of one careful sweep with a dial of 0.01 mm; our estimate
_LAST: Final = 4  # readings by which one is judged: what was put right before them counts
_MIKE_NEAR_MM, _MIKE_LOST_MM = 0.005, 0.03
TECHNIQUE: Final = ("clean", "clamped", "bright", "one_way", "closed", "thickness")
_WEIGHTS: Final[Mapping[str, float]] = {
    "clean": 8,
    "clamped": 8,
    "bright": 6,
    "one_way": 5,
    "closed": 5,
    "thickness": 8,
    "high": 20,
    "amount": 15,
    "state": 15,
    "variation": 15,
    "thinnest": 15,
    "corner": 15,
    "cause": 25,
    "choice": 25,
    "minutes": 8,
}
_PAR_MINUTES: Final = 12.0  # one corner measured well: opened, cleaned, clamped, a turn read and closed; our estimate
_PAR_OF: Final[Mapping[str, float]] = {"cause": 25.0, "variation": 6.0, "thinnest": 3.0, "choice": 6.0}
_PAR_CORNER: Final = 28.0  # each further wheel
REMEDIES: Final = (
    "none",
    "clean_and_torque",
    "index",
    "plate",
    "bench_cut",
    "on_vehicle_cut",
    "new_rotors",
    "new_rotors+index",
    "hub_unit",
)


@dataclass(frozen=True, slots=True)
class Noted:
    """One reading that was noted: ``kind`` dial or mike, hub angle, the way turned, how the corner stood then."""

    kind: str
    angle_deg: float
    way: int
    turn: int
    clean: bool
    clamped: bool
    bright: bool


@dataclass(frozen=True, slots=True)
class Answer:
    """What somebody says it is; None and empty where nothing was said. Lengths in mm, angles on the hub."""

    high_deg: float | None = None
    tir_mm: float | None = None
    state: str = ""
    variation: str = ""
    thinnest_mm: float | None = None
    corner: str = ""
    cause: str = ""
    remedy: str = ""
    settings: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Drive:
    """What came of a remedy: the bill, the km until it is felt (NEVER_KM: not in sight), whether it may be driven."""

    bill: float
    minutes: float
    km: float
    safe: bool
    cost: float


@dataclass(frozen=True, slots=True)
class Truth:
    """What there was to find: the true high spot and runout as it stands, causes that are right, the best drive."""

    high_deg: float
    tir_mm: float
    variation_mm: float
    thinnest_mm: float
    corners: tuple[str, ...]
    causes: tuple[str, ...]
    best: Drive | None = None


@dataclass(frozen=True, slots=True)
class Mark:
    """One line of the marks. ``off`` is how far from the truth, in its own unit; None where that is no length."""

    code: str
    got: float
    of: float
    off: float | None = None


def technique(noted: Sequence[Noted], *, asks: Sequence[str], looked: Noted) -> list[Mark]:
    """Mark how it was measured: by the readings noted, or by how the corner stood when it was answered (``looked``)."""
    dial = [one for one in noted if one.kind == "dial"] or [looked]
    newest = dial[-_LAST:]
    holds = {
        "clean": all(one.clean for one in newest),
        "clamped": all(one.clamped for one in newest),
        "bright": all(one.bright for one in newest),
        "one_way": dial != [looked] and len({one.way for one in newest}) == 1,
        "closed": _closed(dial),
    }
    if any(ask in asks for ask in ("variation", "thinnest", "choice")):
        holds["thickness"] = sum(one.kind == "mike" for one in noted) >= 6
    return [Mark(code, _WEIGHTS[code] * held, _WEIGHTS[code]) for code, held in holds.items()]


def _closed(dial: Sequence[Noted]) -> bool:
    """Whether the first place was read again at the end of a turn: what does not return is not believed."""
    for k, one in enumerate(dial):
        later = dial[k + 3 :]
        if any(off_deg(other.angle_deg, one.angle_deg) < 3 for other in later):
            return True
    return False


def mark(asks: Sequence[str], answer: Answer, truth: Truth, spec: Spec, *, driven: Drive | None) -> list[Mark]:
    """Mark what was said, ask by ask."""
    marks = []
    for ask in asks:
        of = _WEIGHTS[ask]
        match ask:
            case "high":
                off = None if answer.high_deg is None else off_deg(answer.high_deg, truth.high_deg)
                marks.append(Mark(ask, of * _near(off, WITHIN_DEG, _LOST_DEG), of, off))
            case "amount":
                off = None if answer.tir_mm is None else abs(answer.tir_mm - truth.tir_mm)
                near = max(_NEAR_MM, _NEAR_SHARE * truth.tir_mm)
                marks.append(Mark(ask, of * _near(off, near, near + _LOST_MM), of, off))
            case "thinnest":
                off = None if answer.thinnest_mm is None else abs(answer.thinnest_mm - truth.thinnest_mm)
                marks.append(Mark(ask, of * _near(off, _MIKE_NEAR_MM, _MIKE_LOST_MM), of, off))
            case "state":
                marks.append(_state(ask, answer.state, truth.tir_mm, spec.max_runout_mm, _TOO_CLOSE_MM))
            case "variation":
                limit = spec.max_thickness_variation_mm
                marks.append(_state(ask, answer.variation, truth.variation_mm, limit, 0.002))
            case "corner":
                marks.append(Mark(ask, of * (answer.corner in truth.corners), of))
            case "cause":
                marks.append(Mark(ask, of * (answer.cause in truth.causes), of))
            case "choice":
                marks.append(Mark(ask, of * _choice(driven, truth.best), of))
    return marks


def par_minutes(asks: Sequence[str], corners: int) -> float:
    """Return the minutes that somebody who knows how takes for what is asked, at a vehicle; our estimate."""
    return _PAR_MINUTES + sum(_PAR_OF.get(ask, 0.0) for ask in asks) + _PAR_CORNER * (corners - 1)


def mark_minutes(minutes: float, par: float) -> Mark:
    """Mark the time: all of it within a fifth over the par, nothing from twice as long on."""
    share = min(1.0, max(0.0, (2.0 * par - minutes) / (0.8 * par)))
    return Mark("minutes", _WEIGHTS["minutes"] * share, _WEIGHTS["minutes"])


def _state(code: str, said: str, true_mm: float, limit_mm: float, too_close_mm: float) -> Mark:
    """Mark a verdict; within what a dial can tell, "too close" is right and the side it truly lies on half right."""
    of = _WEIGHTS[code]
    side = "over" if true_mm > limit_mm else "within"
    if abs(true_mm - limit_mm) < too_close_mm:
        return Mark(code, of * (1.0 if said == "too_close" else 0.5 if said == side else 0.0), of)
    return Mark(code, of * (said == side), of)


def _near(off: float | None, near: float, lost: float) -> float:
    if off is None:
        return 0.0
    return min(1.0, max(0.0, (lost - off) / (lost - near)))


def _choice(driven: Drive | None, best: Drive | None) -> float:
    """The share of a comeback that was kept: nothing for what must not be driven."""
    if driven is None or best is None or not driven.safe:
        return 0.0
    return min(1.0, max(0.0, 1 - (driven.cost - best.cost) / Shop().comeback_at_stake))


def share_of_marks(marks: Sequence[Mark]) -> int:
    """Return all marks of a hundred."""
    of = sum(one.of for one in marks)
    return round(100 * sum(one.got for one in marks) / of) if of else 0


def worst(marks: Sequence[Mark]) -> Mark | None:
    """Return where most was lost; None where nothing was."""
    lost = max(marks, key=lambda one: one.of - one.got, default=None)
    return lost if lost is not None and lost.of - lost.got > 0.5 else None


def drive(
    corners: Mapping[str, SimulatedCorner],
    specs: Mapping[str, Spec],
    where: str,
    remedy: str,
    settings: Mapping[str, float],
    *,
    shop: Shop,
    seed: int,
) -> Drive:
    """Carry a remedy out at a corner, put the vehicle on its wheels, and drive it until it is felt."""
    bill, minutes = shop.bill(remedy), shop.minutes_of(remedy)
    km, safe = [], True
    for position, corner in corners.items():
        spec, made = specs[position], corner
        if position == where:
            g = np.random.default_rng((seed, 11, len(remedy)))
            made = repaired(corner, spec, remedy, dict(settings), shop=shop, g=g)
            if "cut" in remedy or remedy == "none" or remedy == "index":
                stop = spec.machine_to_thickness_mm if "cut" in remedy else spec.discard_thickness_mm
                safe &= made.true_minimum_mm() >= (stop or spec.discard_thickness_mm)
            safe &= not made.play_mm > (spec.max_bearing_play_mm or np.inf)
        km.append(_felt_km(made, shop))
    far = min(km)
    return Drive(bill, minutes, far, safe, bill + (shop.comeback_at_stake if far < shop.warranty_km else 0.0))


@lru_cache(maxsize=256)
def _felt_km(corner: SimulatedCorner, shop: Shop) -> float:
    """Return the distance until a disc is felt; remembered, since most wheels of a vehicle are left as they are."""
    tir = np.array([corner.true_tir_mm(cleaned=False, torqued=False)])
    return float(distance_km(tir, np.array([corner.true_variation_mm()]), shop=shop)[0])


def best_drive(
    corners: Mapping[str, SimulatedCorner], specs: Mapping[str, Spec], places: Sequence[str], *, shop: Shop, seed: int
) -> Drive:
    """Return the cheapest drive that is safe, over all remedies and settings at the places that matter."""
    drives = [
        drive(corners, specs, place, remedy, settings, shop=shop, seed=seed)
        for place in places
        for remedy in REMEDIES
        for settings in settings_of(remedy, specs[place], shop)
    ]
    return min(drives, key=lambda one: (not one.safe, one.cost))


def settings_of(remedy: str, spec: Spec, shop: Shop) -> list[dict[str, float]]:
    """Return the settings a remedy may be carried out with."""
    if remedy == "index":
        return [{"index_deg": angle} for angle in spec.positions_deg if angle]
    if remedy == "plate":
        fits = [plate for plate in shop.plates if plate.studs == spec.studs]
        return [{"plate_mm": p.correction_mm, "plate_deg": angle} for p in fits for angle in p.angles_deg]
    return [{}]
