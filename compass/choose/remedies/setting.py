"""One setting of the rotor on its studs and of a plate under it, tried on the draws: what it would leave."""

from dataclasses import dataclass

import numpy as np

from compass.choose.remedies.corner_draws import CornerDraws, ranges, trace_mm
from compass.choose.remedies.outcome import Option, odds, points
from compass.choose.remedies.plating import tilt
from compass.evidence.shop import Plate
from compass.ground.arrays import FloatArray
from compass.ground.uncertainty import DRAWS


@dataclass(frozen=True, slots=True, eq=False)
class Tried:
    """A setting with what it would leave: the option, its expected trace (mm at ANGLES_DEG), and mean vectors, mm.

    ``plate`` is what the plate adds: its thin side lets the rotor in, so it points away from it.
    """

    option: Option
    trace_mm: FloatArray
    hub: complex
    rotor: complex
    plate: complex


def tried(draws: CornerDraws, *, index_deg: float, plate: Plate | None = None, thin_deg: float = 0.0) -> Tried:
    """Try one index with one plate, or none: z_after = H + R·e^{iφ} − plate, and the higher orders turned by φ."""
    parts, spec = draws.parts, draws.spec
    taken = tilt(plate, thin_deg, radius_mm=spec.measuring_radius_mm) if plate is not None else 0j
    turn = complex(np.exp(1j * np.radians(index_deg)))
    # In the rotor's own frame hub and plate turn back instead; the range is the same.
    first = (parts.hub + parts.seating - taken)[:DRAWS] / turn + parts.rotor[:DRAWS]
    runout = ranges(first, draws.higher_mm)
    return Tried(
        option=Option(
            index_deg,
            plate.correction_mm if plate is not None else None,
            thin_deg if plate is not None else None,
            points(runout),
            odds(runout, at_most=spec.max_runout_mm),
        ),
        trace_mm=trace_mm(parts.hub - taken + parts.rotor * turn, draws.higher_mm, index_deg=index_deg),
        hub=complex(parts.hub.mean()),
        rotor=complex(parts.rotor.mean()) * turn,
        plate=-taken,
    )
