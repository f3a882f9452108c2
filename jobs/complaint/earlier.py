"""What a vehicle was here for before this visit: the work, how it was left, what was foretold. Reads only."""

from typing import Any

from django.utils.translation import gettext as _

from compass.ground.translation import written
from compass.ground.units import Unit
from compass.words.codes import CAUSES, remedy_name
from compass.words.figures import odds_text
from jobs.models import Closing, CornerWorked, Job
from jobs.words import about
from workshop.models import POSITION_NAMES, ShopFigures, User
from workshop.vehicles import ran_back


def earlier_work(user: User, job: Job) -> dict[str, Any] | None:
    """Return the work that this visit is the first to see again; None where there is none."""
    rows = Closing.of(user).filter(seen_again=job).select_related("by", "comeback_by").prefetch_related("works")
    closing = next((one for one in rows if one.works.all()), None)
    if closing is None:
        return None
    gone = None
    if closing.odometer_km is not None and job.odometer_km is not None:
        changed = ran_back(job.odometer_km, closing.odometer_km)
        gone = None if changed else max(job.odometer_km - closing.odometer_km, 0)
    return {
        "closing": closing,
        "gone_km": gone,
        "cause": _(CAUSES[closing.found_cause]) if closing.found_cause in CAUSES else "",
        "works": [_work(worked, user.unit) for worked in closing.works.all()],
        "chance": odds_text(closing.chance) if closing.chance is not None else "",
        "early": gone is not None
        and closing.due_km is not None
        and closing.odometer_km is not None
        and closing.odometer_km + gone < closing.due_km,
    }


def judged_by(user: User, closing: Closing | None) -> str:
    """Say by which figures a closed job was judged; empty where that is not on record."""
    figures = closing.judged_by if closing is not None else {}
    if "growth_mm" not in figures:
        return ""

    def fine(mm: float) -> str:
        return written(f"{mm / 0.0254:.2f} thou" if user.unit is Unit.THOU else f"{mm * 1000:.1f} µm")

    return _("growth %(growth)s over a quiet runout of %(quiet)s, seating %(seating)s, policy “%(policy)s”") % {
        "growth": written(f"{figures['growth_mm']:.3f}"),
        "quiet": fine(figures["quiet_runout_mm"]),
        "seating": fine(figures["seating_tir_mm"]),
        "policy": ShopFigures.School(figures["policy"]).label,
    }


def _work(worked: CornerWorked, unit: Unit) -> dict[str, str]:
    def say(mm: float | None, expanded_mm: float | None) -> str:
        if mm is None:
            return ""
        shown = about(mm, unit, expanded_mm=expanded_mm or 0.005)
        return f"{shown.figure} ± {shown.plus_minus} {shown.unit}"

    foretold = ""
    if worked.foretold_low_mm is not None and worked.foretold_high_mm is not None:
        low, high = (about(mm, unit, expanded_mm=0.005) for mm in (worked.foretold_low_mm, worked.foretold_high_mm))
        foretold = f"{low.figure}–{high.figure} {high.unit}"
    return {
        "name": str(POSITION_NAMES[worked.position]),
        "remedy": _(remedy_name(worked.remedy, worked.position)),
        "runout": say(worked.runout_mm, worked.runout_expanded_mm),
        "variation": say(worked.variation_mm, worked.variation_expanded_mm),
        "foretold": foretold,
        "odds": odds_text(worked.comeback_odds) if worked.comeback_odds is not None else "",
    }
