"""Rows of this app into records of the core."""

from typing import Final

from compass.evidence.records import Spec
from compass.evidence.shop import LEARNED, Plate, Shop
from compass.evidence.shop import Lathe as LatheRecord
from compass.measure.dial import Dial, Face
from workshop.models import (
    LIMIT_FIGURES,
    MINUTE_FIELDS,
    PRICE_FIELDS,
    TORQUES,
    Instrument,
    Lathe,
    Learned,
    LimitFigures,
    PlateKind,
    ShopFigures,
    User,
    Workshop,
)

# Figures of the library that the core judges by; torques and source are the workshop's own business.
_SPEC_FIGURES = tuple(name for name in LIMIT_FIGURES if name not in ("features", *TORQUES.values(), "source"))


def spec_of(limits: LimitFigures) -> Spec:
    """Return the core's record of an axle's limits."""
    figures = {name: getattr(limits, name) for name in _SPEC_FIGURES}
    positions = figures.pop("index_positions")
    return Spec(features=frozenset(limits.features), index_positions=tuple(positions) if positions else None, **figures)


def dial_of(instrument: Instrument | None, *, graduation_mm: float) -> Dial:
    """Return the core's record of a dial; without an instrument, a balanced one of the tape's graduation."""
    if instrument is None or instrument.kind != Instrument.Kind.DIAL:
        return Dial(graduation_mm)
    return Dial(graduation_mm, Face(instrument.face), instrument.divisions, instrument.error_limit_mm)


def plate_of(kind: PlateKind) -> Plate:
    """Return the core's record of a kind of plate."""
    return Plate(kind.correction_mm, kind.reference_radius_mm, kind.positions, kind.studs)


def lathe_of(lathe: Lathe) -> LatheRecord:
    """Return the core's record of a lathe."""
    depths = {"vented": lathe.max_vented_mm, "solid": lathe.max_solid_mm}
    return LatheRecord(
        kind=lathe.kind,
        runout_left_mm=lathe.runout_left_mm,
        min_depth_mm=lathe.min_depth_mm,
        max_depth_mm={rotor: depth for rotor, depth in depths.items() if depth is not None},
        finish_depth_mm=lathe.finish_depth_mm,
        mm_per_line=lathe.mm_per_line,
        name=lathe.name,
    )


def learned_figures(user: User) -> dict[str, float]:
    """Return the figures refitted from the workshop's own jobs that are in force, as a case's shop names them."""
    names = (*LEARNED, Learned.Figure.NEW_ROTOR.value)
    rows = Learned.of(user).in_force().filter(figure__in=names, whose="")
    return {row.figure: row.value for row in rows}


def part_minutes_here(user: User) -> dict[str, float]:
    """Return the minutes of parts of a work that were refitted and accepted, by the names of ``compass.do.tasks``."""
    rows = Learned.of(user).in_force().filter(figure=Learned.Figure.PART)
    return {row.whose: row.value for row in rows}


def shop_of_workshop(user: User) -> Shop:
    """Return what this workshop has and asks: plates in stock, lathes in use, its figures. Kept until one changes."""
    version = Workshop.shop_version_of(user)
    kept = _shops.get(user.here_id)
    if kept is None or kept[0] != version:
        kept = _shops[user.here_id] = version, _shop(user)
    return kept[1]


_shops: Final[dict[int, tuple[int, Shop]]] = {}  # one a workshop, as this process last read it


def _shop(user: User) -> Shop:
    figures = ShopFigures.in_force(user)
    one = {"warranty_km": "warranty_km", "wear_allowance_mm": "wear_allowance_mm"}
    return Shop(
        policy=figures.policy,
        plates=tuple(plate_of(kind) for kind in PlateKind.of(user).filter(stock__gt=0)),
        lathes=tuple(lathe_of(lathe) for lathe in Lathe.of(user).filter(retired=False)),
        prices=figures.told(PRICE_FIELDS),
        minutes=figures.told(MINUTE_FIELDS),
        currency=figures.currency,
        leaves_lathe=figures.leaves_lathe,
        **figures.told(one),
    )
