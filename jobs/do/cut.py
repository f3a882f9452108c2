"""The cut plan of one corner. Reads only."""

from collections.abc import Sequence

from compass.cause.measured import Measured
from compass.choose.axle import Chosen
from compass.do.cut_plan import CutPlan, DonePass, carried_mm, plan_cut
from compass.evidence.shop import Lathe as LatheRecord
from compass.evidence.shop import Shop
from jobs.adapters import done_passes
from jobs.models import Corner, Cut
from jobs.remembered import Remembered, digest
from workshop.models import Lathe


def cuts_of_work(corner: Corner) -> list[Cut]:
    """Return a corner's cuts of the work that is decided now; one that was decided and made before is over."""
    return [cut for cut in corner.cuts.all() if cut.episode == (corner.decided_in or 0)]


def chosen_lathe(lathes: Sequence[Lathe], corner: Corner, *, asked: str = "") -> Lathe | None:
    """Return the lathe asked for by its number, else one a cut was begun on here, else the one that leaves least."""
    wanted = next((lathe for lathe in lathes if str(lathe.pk) == asked), None)
    begun = {cut.lathe_id for cut in cuts_of_work(corner)}
    return (
        wanted
        or next((lathe for lathe in lathes if lathe.pk in begun), None)
        or min(lathes, key=lambda x: (x.kind != "on_vehicle", x.runout_left_mm), default=None)
    )


def plan_for(
    measured: Measured, lathe: LatheRecord, shop: Shop, cut: Cut | None, *, one_more: bool = False
) -> CutPlan | None:
    """Plan what is still to be cut, after the passes made; ``one_more`` where a dark patch is left after them."""
    done = done_passes(cut)
    name = digest(measured.corner, lathe, shop, done, one_more)
    return _planned(measured, lathe, shop, done, one_more, name=name)


def _plan(
    measured: Measured, lathe: LatheRecord, shop: Shop, done: tuple[DonePass, ...], one_more: bool
) -> CutPlan | None:
    return plan_cut(measured, lathe, shop, done=done, one_more=one_more)


_planned = Remembered(_plan, most=64)


def refused_by(side: Chosen, lathe: Lathe) -> str | None:
    """Return the first rule that keeps this lathe off this corner's disc, or None."""
    remedy = next((r for r in side.remedies if r.code == f"{lathe.kind}_cut"), None)
    if remedy is None:
        return "thickness_unknown"
    return remedy.blocked_by[0] if remedy.blocked_by else None


def carried_by(cut: Cut | None, side: Chosen) -> float | None:
    """Return the runout (mm) that the compensation check says is carried to the cut; None where none was made."""
    if cut is None or cut.check_read_mm is None or not cut.check_arm_mm:
        return None
    radius = side.measured.corner.spec.measuring_radius_mm
    return carried_mm(cut.check_read_mm, arm_mm=cut.check_arm_mm, cut_radius_mm=radius)


def check_failed(cut: Cut | None, lathe: Lathe, side: Chosen) -> bool:
    """Whether a compensation check was made and carries more to the cut than the lathe's profile leaves."""
    carried = carried_by(cut, side)
    return carried is not None and carried > lathe.runout_left_mm * 1.001
