"""Corners, axles, ends, kinds of vehicle: who has which wheels."""

from collections.abc import Mapping, Sequence
from typing import Final

POSITIONS: Final = ("FL", "FR", "RL", "RR", "F", "R", "A1L", "A1R", "A2L", "A2R", "A3L", "A3R")


BY_KIND: Final[Mapping[str, tuple[str, ...]]] = {
    "car": ("FL", "FR", "RL", "RR"),
    "van": ("FL", "FR", "RL", "RR"),
    "light_truck": ("FL", "FR", "RL", "RR"),
    "trailer": ("A1L", "A1R", "A2L", "A2R"),
    "motorcycle": ("F", "R"),
}

# Those that are not as their kind usually is: a name, and the wheels or discs it has.
LAYOUTS: Final[Mapping[str, tuple[str, ...]]] = {
    "one_axle": ("A1L", "A1R"),
    "three_axles": ("A1L", "A1R", "A2L", "A2R", "A3L", "A3R"),
    "two_front_discs": ("FL", "FR", "R"),
    "twin_rear": ("FL", "FR", "RL", "RR"),
}


def positions_of(named: Sequence[str], kind: str | None) -> tuple[str, ...]:
    """Return the corners a vehicle has: by its kind, else by the positions that are ``named``."""
    if kind is None and set(named) & {"F", "R"}:
        kind = "motorcycle"
    if any(p.startswith("A") for p in named):
        kind = "trailer"
    usual = BY_KIND[kind or "car"]
    if kind == "motorcycle" and set(named) & {"FL", "FR"} and "F" not in named:
        usual = LAYOUTS["two_front_discs"]
    return (*usual, *(p for p in named if p not in usual))


def end_of(position: str) -> str:
    """Tell whether a corner is at the front or the rear; a trailer's axles count as rear."""
    return "front" if position in ("FL", "FR", "F") else "rear"


def axle_of(position: str) -> str:
    """Return the axle of a position: FL → F, A1R → A1; a motorcycle's wheel is its own."""
    return position if position in ("F", "R") else position[:-1]


def is_single(position: str) -> bool:
    """Tell whether a disc is alone on its axle: a motorcycle's, where it has no twin."""
    return position in ("F", "R")
