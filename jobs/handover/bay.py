"""What the bay's sheet says: limits, corners as they came in, what was decided, the work to tick off. Reads only."""

from typing import Any

from django.utils import timezone
from django.utils.translation import gettext as _

from compass.cause.measured import Reason, WornLining
from compass.do.steps import Kind
from compass.do.work import Part
from compass.ground.units import Unit
from compass.words.codes import CAUSES, STATES, STATES_OF_A_FIGURE, remedy_name
from compass.words.figures import plain_text
from compass.words.reasons import sentence
from jobs.do.doing import Doing
from jobs.do.step_words import part_name
from jobs.handover.owner import state_words
from jobs.models import Closing, Corner, Job
from jobs.words import about, axle_name, setting_words
from workshop.models import POSITION_NAMES, TORQUES, User, limit_label
from workshop.words import torque_text


def bay_context(user: User, job: Job, doing: Doing | None) -> dict[str, Any]:
    """Return the bay's sheet of a job as it is saved now. ``job`` comes from ``for_doing``."""
    closing, unit = Closing.of(user).standing(job), user.unit
    return {
        "job": job,
        "closing": closing,
        "state": "" if closing is not None and closing.proven else state_words(job, closing),
        "limits": _limits(job, unit),
        "corners": [_corner(corner, unit) for corner in job.corners.all()],
        "decided": [_decided(side.corner, side.remedy, side.decision, unit) for side in _sides(doing)],
        "parts": [_part(doing, part) for part in doing.parts] if doing is not None else [],
        "to_read": [POSITION_NAMES[side.position] for side in _sides(doing)],
        "printed": timezone.now(),
    }


def _sides(doing: Doing | None) -> list[Any]:
    return list(doing.sides.values()) if doing is not None else []


def _limits(job: Job, unit: Unit) -> list[dict[str, Any]]:
    """Return the limits in force, axle by axle, with the torques that are on record."""
    rows = {}
    for corner in job.corners.all():
        limits = corner.limits
        if limits is None or corner.axle in rows:
            continue

        def say(mm: float | None) -> str:
            return "–" if mm is None else f"{plain_text(mm, unit=unit).figure} {plain_text(mm, unit=unit).unit}"

        torques = limits.torques_nm()
        rows[corner.axle] = {
            "axle": axle_name(job.vehicle, corner.axle),
            "runout": say(limits.max_runout_mm),
            "variation": say(limits.max_thickness_variation_mm),
            "discard": say(limits.discard_thickness_mm),
            "machine_to": say(limits.machine_to_thickness_mm),
            "torques": ", ".join(
                f"{limit_label(TORQUES[name]).split(',')[0].split(' (')[0]} {torque_text(nm, unit)}"
                for name, nm in torques.items()
            ),
            "source": limits.get_source_display(),
        }
    return list(rows.values())


def _corner(corner: Corner, unit: Unit) -> dict[str, Any]:
    kept = corner.kept

    def say(mm: float | None, expanded_mm: float, state: str) -> str:
        if mm is None:
            return _(STATES["unknown"])
        shown = about(mm, unit, expanded_mm=expanded_mm or 0.005)
        return f"{shown.figure} ± {shown.plus_minus} {shown.unit}, {_(STATES_OF_A_FIGURE[state])}"

    return {
        "name": str(corner),
        "runout": say(kept.runout_mm, kept.runout_expanded_mm, kept.runout) if kept is not None else "",
        "variation": say(kept.variation_mm, kept.variation_expanded_mm, kept.variation) if kept is not None else "",
        "thinnest": say(kept.min_mm, kept.min_expanded_mm, "unknown").rpartition(",")[0] if kept is not None else "",
        "cause": _(CAUSES[kept.root_cause]) if kept is not None else _("not measured"),
        "stop": _("do not drive") if kept is not None and kept.do_not_drive else "",
        "worn": [_worn(worn, unit) for worn in kept.linings] if kept is not None else [],
    }


def _worn(worn: WornLining, unit: Unit) -> str:
    figures = {"play_mm": worn.left_mm, "limit_mm": worn.least_mm}
    return sentence(Reason(worn.code, figures), unit=unit, translate=_)


def _decided(corner: Corner, remedy: str, decision: Any, unit: Unit) -> dict[str, str]:
    studs = corner.limits.studs if corner.limits is not None else 5
    return {
        "name": str(corner),
        "words": _(remedy_name(remedy, corner.position)),
        "setting": setting_words(decision.settings.get(corner.position, {}), studs, unit),
        "who": str(decision.decided_by),
        "why": decision.reason,
    }


def _part(doing: Doing, part: Part) -> dict[str, Any]:
    done = doing.done
    held = any(placed.step.kind is Kind.HOLD for placed in part.steps)
    where = POSITION_NAMES[part.position] if part.position else ""
    return {
        "name": part_name(part.name),
        "where": where,
        "steps": len(part.steps),
        "hold": held,
        "done": all((placed.position, placed.key) in done for placed in part.steps),
    }
