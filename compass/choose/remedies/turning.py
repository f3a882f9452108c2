"""Index: the rotor turned on the hub, so that the two runouts cancel as far as they can."""

import numpy as np

from compass.choose.remedies.corner_draws import CornerDraws, ranges, trace_mm
from compass.choose.remedies.outcome import Option, Outcome, odds, points
from compass.ground.arrays import FloatArray
from compass.ground.uncertainty import DRAWS, even_draws


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
    stays = (parts.hub + parts.seating - fixed)[:rows]
    runout = ranges(stays * np.exp(-1j * np.radians(index_deg)) + parts.rotor[:rows], draws.higher_mm)
    if not (index_deg and draws.turned_before):
        return runout
    # What keeps a turn from doing what it should (a mark that is read wrong, a seat that pulls) sets it anywhere.
    anywhere = np.exp(1j * np.pi * even_draws(stream=113, rows=runout.size))
    in_vain = even_draws(stream=112, rows=runout.size) < 2 * spoilt_odds(draws.turned_before) - 1
    astray: FloatArray = ranges(stays * anywhere + parts.rotor[:rows], draws.higher_mm)
    return np.where(in_vain, astray, runout)


def spoilt_odds(turned_before: int) -> float:
    """Return how likely another turn comes to nothing, after so many that did, whatever the figures foretell.

    One in twenty to begin with, and with each turn in vain seven times likelier against a hub and a rotor that were
    told apart; both our estimate (odds form of Bayes' theorem).
    """
    return 1 / (1 + 19 * 7.0**-turned_before) if turned_before else 0.0
