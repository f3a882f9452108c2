"""What the workshop's own jobs say of its figures: pairs out of the rows, refits out of the core, by a worker.

They are kept with the version of the rows they were made of; whoever looks at them after a change asks for them anew.
"""

from collections.abc import Callable
from dataclasses import asdict
from typing import Any, Final

import numpy as np
from django.utils import timezone
from django.utils.translation import gettext_lazy

from compass.choose.offers import REMEDIES
from compass.choose.remedies.replacing import NEW_ROTOR_MM
from compass.do.tasks import MINUTES as MINUTES_OF_PARTS
from compass.do.tasks import usual_minutes
from compass.evidence.shop import MINUTES
from compass.learn.refits import (
    Grown,
    Refit,
    refit_growth,
    refit_lathe,
    refit_minutes,
    refit_new_rotors,
    refit_seating,
)
from jobs.kept import KeptCorner
from jobs.models import Closing, Corner, CornerWorked, Refitted
from ledger.learning import on_record
from workshop.addresses import address
from workshop.long_work.asking import ask_for, newest_of
from workshop.long_work.kinds import Made, Report, can_do
from workshop.models import MINUTE_FIELDS, Lathe, Learned, LongWork, User
from workshop.planning import planned_anew

MOST: Final = 300  # pairs of one figure: the newest say how the workshop works now
_KIND: Final = "refit"
_FEWEST_KM: Final = 500.0
_ON_VEHICLE: Final = tuple(code for code in REMEDIES if code.endswith("on_vehicle_cut"))
Figure = Learned.Figure
Learnt = list[tuple[str, str, Refit]]  # of which figure, and whose


def can_be_done() -> None:
    """Tell workers of it."""
    can_do(
        _KIND, gettext_lazy("Working out what has changed"), _refit, leads_to=lambda _work: address("ledger:learning")
    )


def asked_anew(user: User, kept: Refitted | None) -> LongWork | None:
    """Return the work by which changed rows are refitted for this person, asked for once a change; None: none has."""
    if kept is not None and kept.is_current:
        return None
    version = kept.version if kept is not None else 0
    return newest_of(user, _KIND, version) or ask_for(user, _KIND, about=version)


def refit_anew(user: User, report: Report | None = None) -> Refitted:
    """Refit every figure and keep that for the version of the rows it began with."""
    kept, _made = Refitted.of(user).get_or_create()
    version, found = kept.version, []
    for n, part in enumerate(_PARTS):
        with planned_anew():
            refits = part(user)
        found += [{"figure": figure, "whose": whose, "refit": asdict(refit)} for figure, whose, refit in refits]
        if report is not None:
            report.note(n + 1, len(_PARTS))
    kept.made_of, kept.made_at, kept.refits = version, timezone.now(), found
    kept.save(update_fields=["made_of", "made_at", "refits"])
    return kept


def _refit(work: LongWork, report: Report) -> Made:
    refit_anew(work.asked_by, report)
    return Made()


def _works(user: User) -> Any:
    # The newest by their day: an index that begins with the workshop has them in that order, whoever else closed since.
    return CornerWorked.of(user).filter(stands=True).order_by("-on", "-pk")


def _growth(user: User) -> Learnt:
    growth, quiet = refit_growth(grown_pairs(user))
    return [(Figure.GROWTH, "", growth), (Figure.QUIET, "", quiet)]


def grown_pairs(user: User) -> list[Grown]:
    """Return discs met again with their variation then and now: three queries, the newest ``MOST``."""
    works = _works(user).filter(runout_mm__isnull=False, variation_mm__isnull=False, gone_km__isnull=False)
    figures = ("runout_mm", "runout_expanded_mm", "variation_mm", "variation_expanded_mm", "gone_km")
    # Three plain queries: joined, all works of ten years would be sorted for the newest few.
    rows = works.values_list("closing", "position", *figures)[:MOST]
    again = dict(Closing.of(user).filter(pk__in={closing for closing, *_ in rows}).values_list("pk", "seen_again"))
    seen = Corner.of(user).filter(job_id__in=set(again.values()))
    now = {
        (job, place): KeptCorner.read(data) for job, place, data in seen.values_list("job_id", "position", "verdict")
    }
    pairs = []
    for closing, position, runout, runout_u, variation, variation_u, km in rows:
        kept = now.get((again[closing], position))
        if kept is None or kept.variation_mm is None or km < _FEWEST_KM:
            continue
        then = (runout, (runout_u or 0.004) / 2, variation, (variation_u or 0.002) / 2)
        pairs.append(Grown(*then, kept.variation_mm, (kept.variation_expanded_mm or 0.002) / 2, float(km)))
    return pairs


def _seating(user: User) -> Learnt:
    told = _works(user).exclude(seating=[]).values_list("seating", flat=True)[:MOST]
    return [(Figure.SEATING, "", refit_seating([np.array(one) for one in told]))]


def _lathes(user: User) -> Learnt:
    """Refit what each lathe on the vehicle leaves; on the bench what stands afterwards is the hub's too.

    A prior is what stood before the first refit was accepted, not what the data have made of it since.
    """
    standing = [row for row in on_record(user) if row.taken_back_by_id is None]
    priors = {row.whose: row.prior for row in standing if row.figure == Figure.LATHE}  # the oldest is the last of them
    read: dict[int, list[tuple[float, float]]] = {}
    # Which lathe is not asked for: the newest few are found by their day, and not among all that a lathe ever cut.
    cut = _works(user).filter(remedy__in=_ON_VEHICLE, runout_mm__isnull=False)
    for lathe, runout, expanded in cut.values_list("lathe_id", "runout_mm", "runout_expanded_mm")[:MOST]:
        if lathe is not None:
            read.setdefault(lathe, []).append((runout, (expanded or 0.004) / 2))
    rows: Learnt = []
    for lathe in Lathe.of(user).filter(retired=False, kind=Lathe.Kind.ON_VEHICLE):
        pairs = read.get(lathe.pk, [])
        ours = priors.get(str(lathe.pk), lathe.runout_left_mm)
        refit = refit_lathe(ours, [left for left, _u in pairs], [u for _left, u in pairs])
        rows.append((Figure.LATHE, str(lathe.pk), refit))
    return rows


def _minutes(user: User) -> Learnt:
    taken: dict[str, list[float]] = {}
    timed = _works(user).filter(minutes_taken__isnull=False).values_list("remedy", "minutes_taken")[: 4 * MOST]
    for remedy, minutes in timed:
        taken.setdefault(remedy, []).append(minutes)
    known = [remedy for remedy in MINUTE_FIELDS if remedy in taken]
    return [(Figure.MINUTES, remedy, refit_minutes(MINUTES[remedy], taken[remedy])) for remedy in known]


def _parts(user: User) -> Learnt:
    """Refit the minutes of each part of a work, from the newest closings: one query."""
    taken: dict[str, list[float]] = {}
    closings = Closing.of(user).filter(stands=True).exclude(part_minutes={}).order_by("-at")
    for minutes in closings.values_list("part_minutes", flat=True)[:MOST]:
        for part, every in minutes.items():
            taken.setdefault(part, []).extend(every)
    known = [part for part in MINUTES_OF_PARTS if part in taken]
    return [(Figure.PART, part, refit_minutes(usual_minutes(part), taken[part])) for part in known]


def _new_rotors(user: User) -> Learnt:
    """Refit the runout of new rotors: of all suppliers together, and of each that is named."""
    read: dict[str, list[tuple[float, float]]] = {"": []}
    measured = _works(user).filter(new_rotor_mm__isnull=False)
    for supplier, runout, u in measured.values_list("supplier", "new_rotor_mm", "new_rotor_u_mm")[:MOST]:
        read[""].append((runout, u or 0.002))
        if supplier:
            read.setdefault(supplier, []).append((runout, u or 0.002))
    return [
        (Figure.NEW_ROTOR, supplier, refit_new_rotors(NEW_ROTOR_MM, [mm for mm, _u in pairs], [u for _mm, u in pairs]))
        for supplier, pairs in read.items()
    ]


_PARTS: Final[tuple[Callable[[User], Learnt], ...]] = (_growth, _seating, _lathes, _minutes, _parts, _new_rotors)
