"""Index: the rotor turned on the hub, so that the two runouts cancel as far as they can."""

import numpy as np

from compass.choose.remedies.corner_draws import CornerDraws, ranges, trace_mm
from compass.choose.remedies.outcome import Option, Outcome, odds, points
from compass.ground.arrays import FloatArray
from compass.ground.uncertainty import DRAWS


def other_positions(draws: CornerDraws) -> tuple[float, ...]:
    """Return the allowed indices other than the present one."""
    return tuple(p % 360.0 for p in draws.spec.positions_deg if min(p % 360.0, 360.0 - p % 360.0) > 0.5)


def index_options(draws: CornerDraws, *, fixed: complex = 0j) -> list[Option]:
    """Return every allowed index with what it would leave, best first; ``fixed`` is a plate's tilt, already in."""
    options = []
    for index_deg in (0.0, *other_positions(draws)):
        runout = _after(draws, index_deg, rows=DRAWS, fixed=fixed)
        options.append(Option(index_deg, None, None, points(runout), odds(runout, at_most=draws.spec.max_runout_mm)))
    return sorted(options, key=lambda o: o.rank)


def index(draws: CornerDraws) -> Outcome | None:
    """Return the best index other than the present one, or None where the rotor goes on only one way."""
    options = index_options(draws)
    best = next((option for option in options if option.index_deg), None)
    if best is None:
        return None
    turn = np.exp(1j * np.radians(best.index_deg))
    return Outcome(
        runout_mm=_after(draws, best.index_deg),
        variation_mm=draws.variation_mm,
        least_mm=draws.metal.least_mm if draws.metal is not None else None,
        settings={"index_deg": best.index_deg},
        trace_mm=trace_mm(draws.parts.hub + draws.parts.rotor * turn, draws.higher_mm, index_deg=best.index_deg),
        options=tuple(options),
    )


def _after(draws: CornerDraws, index_deg: float, *, rows: int | None = None, fixed: complex = 0j) -> FloatArray:
    # H + R·e^{iφ}, the higher orders turned by φ (measurement.md#what-remedies-leave): in the rotor's own frame the
    # hub turns back instead.
    parts = draws.parts
    stays = (parts.hub + parts.seating - fixed)[:rows] * np.exp(-1j * np.radians(index_deg))
    return ranges(stays + parts.rotor[:rows], draws.higher_mm)
