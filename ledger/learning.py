"""What is learnt of the workshop's figures: ours, what its jobs say, what is judged by now. Reads only."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from compass.cause.causes import BASE_RATES, adjusted_rates
from compass.choose.remedies.replacing import NEW_ROTOR_MM
from compass.do.tasks import usual_minutes
from compass.evidence.shop import GROWTH_MM, MINUTES, QUIET_RUNOUT_MM, SEATING_TIR_MM
from compass.learn.came_true import Share, share_of
from compass.learn.refits import Refit
from jobs.models import Refitted
from ledger.facts import causes_closed
from workshop.models import MINUTE_FIELDS, Lathe, Learned, ShopFigures, User

Figure = Learned.Figure


@dataclass(frozen=True)
class Learning:
    """One figure with its refit, what is judged by now, and the row by which a lead accepted that (None: ours)."""

    figure: str
    whose: str
    name: str
    refit: Refit
    in_force: float
    accepted: Learned | None

    @property
    def key(self) -> str:
        """Name it in a form."""
        return f"{self.figure}|{self.whose}"


def on_record(user: User) -> list[Learned]:
    """Return what was ever accepted, the newest first: some hundreds in ten years."""
    return list(Learned.of(user).select_related("accepted_by", "taken_back_by").order_by("-pk"))


def last_refitted(user: User) -> Refitted | None:
    """Return what the jobs said when they were last asked; None where they never were."""
    kept: Refitted | None = Refitted.of(user).first()
    return kept


def all_learning(user: User, record: Sequence[Learned], kept: Refitted | None) -> list[Learning]:
    """Return every figure that is learnt, in a fixed order; ``record`` is ``on_record``, ``kept`` ``last_refitted``."""
    standing = [row for row in record if row.taken_back_by_id is None]
    accepted = {(row.figure, row.whose): row for row in reversed(standing)}
    lathes = {str(row.pk): row for row in Lathe.of(user).filter(retired=False, kind=Lathe.Kind.ON_VEHICLE)}
    said = ShopFigures.in_force(user).told(MINUTE_FIELDS)
    rows = []
    for one in kept.refits if kept is not None else ():
        figure, whose = one["figure"], one["whose"]
        if figure == Figure.LATHE and whose not in lathes:
            continue
        row = accepted.get((figure, whose))
        in_force = row.value if row is not None else _ours(figure, whose, lathes, said)
        name = lathes[whose].name if figure == Figure.LATHE else whose if figure == Figure.NEW_ROTOR else ""
        rows.append(Learning(figure, whose, name, Refit(**one["refit"]), in_force, row))
    return rows


def _ours(figure: str, whose: str, lathes: Mapping[str, Lathe], said: Mapping[str, float]) -> float:
    """Return what is judged by where nothing was accepted."""
    match figure:
        case Figure.GROWTH:
            return GROWTH_MM
        case Figure.QUIET:
            return QUIET_RUNOUT_MM
        case Figure.SEATING:
            return SEATING_TIR_MM
        case Figure.LATHE:
            return lathes[whose].runout_left_mm
        case Figure.MINUTES:
            return float(said.get(whose, MINUTES[whose]))
        case Figure.PART:
            return usual_minutes(whose)
        case _:
            return NEW_ROTOR_MM


@dataclass(frozen=True)
class Rate:
    """One cause: our share of complaints, how many were closed as it, and the share by both."""

    cause: str
    prior: float
    closed: Share
    now: float


def base_rates(user: User) -> list[Rate]:
    """Return the base rates of causes as they are weighed at the next opening; they need no accepting."""
    counts = dict(causes_closed(user))
    total, of = sum(counts.values()), sum(BASE_RATES.values())
    adjusted = adjusted_rates(counts)
    whole = sum(adjusted.values())
    rates = [
        Rate(cause.value, rate / of, share_of(counts.get(cause.value, 0), total), adjusted[cause] / whole)
        for cause, rate in BASE_RATES.items()
    ]
    return sorted(rates, key=lambda rate: -rate.now)
