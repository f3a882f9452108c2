"""A simulated corner as plain data and back: what is kept of an exercise that was made from a job."""

from dataclasses import asdict, fields
from typing import Any, Final

from compass.simulate.corner import Patch, SimulatedCorner, Slot, Wave

_VECTORS: Final = ("hub", "rotor", "joint", "nuts")
_LISTS: Final[dict[str, type[Wave] | type[Patch] | type[Slot]]] = {
    "face": Wave,
    "face_patches": Patch,
    "slots": Slot,
    "thickness": Wave,
    "thickness_patches": Patch,
}


def corner_to_data(corner: SimulatedCorner) -> dict[str, Any]:
    """Return a corner as JSON can hold it: vectors as pairs, parts as objects."""
    data = asdict(corner)
    return data | {name: [data[name].real, data[name].imag] for name in _VECTORS}


def corner_from_data(data: dict[str, Any]) -> SimulatedCorner:
    """Return the corner that was kept; what this version does not know is passed over."""
    known = {field.name for field in fields(SimulatedCorner)}
    plain = {name: value for name, value in data.items() if name in known}
    plain |= {name: complex(*plain[name]) for name in _VECTORS if name in plain}
    plain |= {name: tuple(made(**part) for part in plain[name]) for name, made in _LISTS.items() if name in plain}
    return SimulatedCorner(**plain)
