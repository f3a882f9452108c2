"""Array types and guards shared by the ground floor."""

from collections.abc import Iterable
from typing import Any, TypeAlias

import numpy as np
from numpy.typing import NDArray

from compass.ground.errors import EvidenceError
from compass.ground.translation import _N

FloatArray: TypeAlias = NDArray[np.floating[Any]]
ComplexArray: TypeAlias = NDArray[np.complexfloating[Any, Any]]
BoolArray: TypeAlias = NDArray[np.bool_]
IntArray: TypeAlias = NDArray[np.integer[Any]]


def read_only(values: Iterable[float], *, field: str) -> FloatArray:
    """Copy ``values`` into a read-only float array; refuse infinities and NaN."""
    array = np.array(list(values) if not isinstance(values, np.ndarray) else values, dtype=np.float64)
    if not np.isfinite(array).all():
        raise EvidenceError(field, _N("finite numbers"))
    array.flags.writeable = False
    return array


def require_positive(value: float, *, field: str) -> None:
    """Refuse anything but a finite number above zero."""
    if not (np.isfinite(value) and value > 0):
        raise EvidenceError(field, _N("a number above zero"))
