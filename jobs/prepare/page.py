"""What the Prepare leg shows. Reads only."""

from collections.abc import Mapping, Sequence
from datetime import timedelta
from typing import Any, Final

from django.utils import timezone
from django.utils.translation import gettext as _

from compass.do.star_order import star_order
from drawing.star import draw_star
from drawing.wanted import draw_wanted
from jobs.models import Corner, Decision, RunStep, Sweep, Tape, ThicknessRound
from jobs.prepare.forms import DIALS, MICROMETERS
from workshop.models import AxleLimits, Instrument, User

_AT_STEPS: Final = {"cleaned": {"seen_clean"}, "nuts_torqued": {"clamp", "clamp_motorcycle"}}
SAME_LIFT: Final = timedelta(hours=8)  # a vehicle stands on its stands no longer than a shift


def limits_initial(corner: Corner) -> dict[str, Any]:
    """Return the limits in force, as the form's starting values."""
    if corner.limits is not None:
        return corner.limits.figures()
    return {"rotor": AxleLimits.Rotor.SOLID} if corner.job.vehicle.is_motorcycle else {}


def instruments_in_use(user: User) -> list[Instrument]:
    """Return the workshop's instruments that measure today."""
    return list(Instrument.of(user).filter(retired=False))


def set_up_initial(
    user: User, corner: Corner, query: Mapping[str, str], instruments: Sequence[Instrument]
) -> dict[str, Any]:
    """Return what was set up last on this corner, without the confirmations, and what the next act asked for."""
    limits = corner.limits
    studs = limits.studs if limits is not None else 5
    surface = query.get("surface", "rotor_outboard")
    radius = limits.measuring_radius_mm if limits is not None else None
    last = _last_of(user, corner, Sweep)
    if surface == "hub_face" and limits is not None:
        radius = limits.hub_runout_radius_mm
    initial: dict[str, Any] = {
        "dial": "mm10",
        "surface": surface,
        "stations": max(2 * studs, 8),
        "radius_mm": radius,
        "turned": int(query["turned"]) if query.get("turned", "").isdecimal() else _decided_turn(user, corner, last),
        "read_to": "0.5",
    }
    first = {i.kind: f"i{i.pk}" for i in reversed(instruments)}
    initial |= {"dial": first.get("dial", "mm10"), "micrometer": first.get("micrometer", "mm1")}
    if last is not None:
        initial |= {"read_to": f"{last.read_to:g}", "entry_unit": last.entry_unit}
        initial["dial"] = code_of(last, DIALS) or initial["dial"]
        initial |= {"stations": len(last.stations_deg)} if last.corner_id == corner.pk else {}
        # The same lift. Joint, nuts and tip are this corner's own: ticked unseen, dirt would be read as hub or rotor.
        if last.created_at > timezone.now() - SAME_LIFT:
            initial["lifted"] = "lifted" in last.confirmed
    if "turned" not in query:  # then the rotor comes off once more
        initial |= dict.fromkeys(_confirmed_in_work(user, corner), True)
    miked = _last_of(user, corner, ThicknessRound)
    if miked is not None:
        initial |= {"micrometer": code_of(miked, MICROMETERS) or initial["micrometer"]}
        initial |= {"micrometer_unit": miked.entry_unit}
    return initial


def _confirmed_in_work(user: User, corner: Corner) -> set[str]:
    """Return what a hand confirmed of joint and nuts at the steps of the work that is decided, where it is begun."""
    if corner.is_to_do or not corner.job.decided:
        return set()
    steps = RunStep.of(user).filter(run__job=corner.job_id, position=corner.position, passed=True, taken_back=False)
    done = {key.rsplit(":", 1)[-1] for key in steps.values_list("key", flat=True)}
    return {name for name, codes in _AT_STEPS.items() if done & codes}


def _decided_turn(user: User, corner: Corner, last: Sweep | None) -> int:
    """Return by how many studs the rotor was decided to be turned, once the work is behind it; else as it stands."""
    studs = corner.limits.studs if corner.limits is not None else 5
    if not corner.episode or corner.is_to_do:
        stands = last.index_deg if corner.episode and last is not None and last.corner_id == corner.pk else 0.0
        return round(stands * studs / 360) % studs
    rows = Decision.of(user).filter(job_id=corner.job_id, axle=corner.axle).order_by("-pk")[:1]
    settings = next((row.settings.get(corner.position, {}) for row in rows), {})
    return round(settings.get("index_deg", 0.0) * studs / 360) % studs


def _last_of(user: User, corner: Corner, model: type[Any]) -> Any:
    """Return the last tape of this corner that counts, else of another corner of the same job; None without any."""
    rows = model.of(user).filter(corner__job_id=corner.job_id, struck=False).order_by("-pk")[:40]
    tapes = list(rows)
    return next((tape for tape in tapes if tape.corner_id == corner.pk), tapes[0] if tapes else None)


def code_of(tape: Tape, others: Mapping[str, tuple[Any, float]]) -> str:
    """Return the choice that stands for the instrument a tape was taken with; empty where none does."""
    if tape.instrument_id:
        return f"i{tape.instrument_id}"
    return next((code for code, (_name, mm) in others.items() if abs(mm - tape.graduation_mm) < 1e-9), "")


def _wanted(motorcycle: bool) -> str:
    labels = {
        "studs": _("bolts") if motorcycle else _("studs"),
        "radius": _("measuring radius"),
        "nominal": _("new"),
        "machine_to": _("machine-to"),
        "discard": _("discard"),
    }
    return draw_wanted(labels, title=_("A disc face-on and on edge, with what each limit is measured at"))


def star_context(corner: Corner) -> dict[str, Any]:
    """Return the drawn star order of the corner's studs or bolts, and its torque; nothing to draw without limits."""
    limits, vehicle = corner.limits, corner.job.vehicle
    stands = {
        "motorcycle": vehicle.is_motorcycle,
        "twin_wheels": vehicle.has_twin_wheels(corner.axle),
    }
    if limits is None:
        return {**stands, "star": "", "torque_nm": None, "order": "", "wanted": _wanted(vehicle.is_motorcycle)}
    order = " · ".join(str(stud) for stud in star_order(limits.studs))
    title = _("Torque the nuts in this order: %(order)s") % {"order": order}
    return {
        "star": draw_star(limits.studs, title=title),
        "torque_nm": limits.disc_bolt_torque_nm if vehicle.is_motorcycle else limits.wheel_torque_nm,
        "order": order,
        **stands,
    }
