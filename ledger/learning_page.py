"""What the Learning page shows: each figure with ours, the data and both, in words and drawn."""

from typing import Any, Final

from django.utils.translation import gettext as _

from compass.ground.translation import written
from compass.ground.units import Unit
from compass.words.codes import CAUSES, REMEDIES
from drawing.refitted import Refitted, draw_refitted
from jobs.do.step_words import part_name
from ledger.learning import Learning, base_rates
from ledger.page import Table, of_all
from workshop.models import Learned, User

_MOVES: Final = 0.05  # relative; less is not worth a press


def learning_rows(rows: list[Learning], unit: Unit) -> dict[str, list[dict[str, Any]]]:
    """Return each figure with ours, the data and now, in words and drawn; the many minutes of steps by themselves."""
    steps = [row for row in rows if row.figure == Learned.Figure.PART]
    return {
        "rows": [_learning(row, unit) for row in rows if row not in steps],
        "steps": [_learning(row, unit) for row in steps],
    }


def _learning(row: Learning, unit: Unit) -> dict[str, Any]:
    refit = row.refit

    def say(value: float | None) -> str:
        if value is None:
            return "–"
        if row.figure == Learned.Figure.MINUTES:
            return f"{value:.0f} min"
        if row.figure == Learned.Figure.PART:
            return written(f"{value:.1f} min")
        if row.figure == Learned.Figure.GROWTH:
            return written(f"{value:.3f}")
        return written(f"{value / 0.0254:.2f} thou" if unit is Unit.THOU else f"{value * 1000:.1f} µm")

    figure = Refitted(
        refit.prior, refit.prior_low, refit.prior_high, refit.data, refit.now, refit.low, refit.high, row.in_force
    )
    name = str(Learned.Figure(row.figure).label)
    return {
        "row": row,
        "key": row.key,
        "name": name[:1].upper() + name[1:],
        "whose": _whose(row),
        "prior": f"{say(refit.prior)} ({say(refit.prior_low)} – {say(refit.prior_high)})",
        "data": say(refit.data),
        "pairs": refit.pairs,
        "now": say(refit.now),
        "range": f"{say(refit.low)} – {say(refit.high)}",
        "seen": repr(refit.now),
        "in_force": say(row.in_force),
        "accepted": row.accepted,
        "moves": abs(refit.now / row.in_force - 1) > _MOVES,
        "usable": not _is_rotor(row) or not row.whose,
        "picture": draw_refitted(figure, title=f"{name}: {say(refit.now)}"),
    }


def _whose(row: Learning) -> str:
    match row.figure:
        case Learned.Figure.MINUTES:
            return str(_(REMEDIES.get(row.whose, "")))
        case Learned.Figure.PART:
            return part_name(row.whose)
        case Learned.Figure.NEW_ROTOR if not row.whose:
            return _("all suppliers")
        case _:
            return row.name


def _is_rotor(row: Learning) -> bool:
    return row.figure == Learned.Figure.NEW_ROTOR


def rates_table(user: User) -> Table:
    """Return the base rates of causes: ours, closed, now."""
    return Table(
        (_("cause"), _("ours"), _("closed as it"), _("now")),
        tuple(
            (
                str(_(CAUSES[rate.cause])),
                f"{rate.prior:.0%}",
                of_all(rate.closed.hits, rate.closed.of),
                f"{rate.now:.0%}",
            )
            for rate in base_rates(user)
        ),
    )
