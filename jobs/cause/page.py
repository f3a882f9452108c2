"""What the weighed causes of a job's vehicle look like on the page: odds, ledger, next checks, holes. Reads only."""

from collections.abc import Iterable
from typing import Any

from django.utils.translation import gettext as _

from compass.cause.differential import NextCheck
from compass.ground.translation import written
from compass.ground.units import Unit
from compass.words.codes import CAUSES, CHECKS, OUTCOMES, SIGNS, WORTH
from compass.words.figures import odds_text
from drawing.curves import runout_curve, thickness_curve
from drawing.rose import Rose, draw_rose
from jobs.cause.pairs import measured_pairs
from jobs.judging import JudgedJob
from jobs.models import Job
from jobs.words import money_text
from workshop.models import POSITION_NAMES

_SHOWN_CAUSES = 5
_SHOWN_CHECKS = 4
_TOGETHER = 1.05  # odds that add up to more than this want a word


def cause_context(job: Job, judged: JudgedJob, *, unit: Unit, currency: str, chosen: str = "") -> dict[str, Any]:
    """Return what the Cause leg shows; ``chosen`` opens another cause's ledger."""
    d = judged.judged.weighed
    ledger = d.ledger
    opened = next((cause for cause in ledger if cause.value == chosen), d.causes[0][0])
    return {
        "causes": [
            {
                "code": cause.value,
                "name": _(CAUSES[cause.value]),
                "odds": odds_text(p),
                "marks": [k < round(p * 20) for k in range(20)],
                "open": cause is opened,
                "has_ledger": cause in ledger,
            }
            for cause, p in d.causes[:_SHOWN_CAUSES]
        ],
        "ledger": [
            {
                "words": _sign_words(entry.seen.sign.name, entry.seen.outcome),
                "place": POSITION_NAMES[entry.seen.position] if entry.seen.position else "",
                "why": _(entry.seen.sign.why),
                "times": written(f"{10 ** (abs(entry.decibans) / 10):.2g}"),
                "pro": entry.decibans > 0,
                "bar": min(round(abs(entry.decibans) / 2), 10),
            }
            for entry in ledger.get(opened, ())
            if abs(entry.decibans) >= 0.4
        ],
        "opened": _(CAUSES[opened.value]),
        "checks": [_check_words(check, currency) for check in d.checks if check.worth > 0][:_SHOWN_CHECKS],
        "spared": _check_words(d.checks[0], currency) if d.checks and d.settled else None,
        "together": sum(p for _cause, p in d.causes) > _TOGETHER,
        "holes": holes_in_words(d.holes),
        "pairs": measured_pairs(job, judged, unit),
        "suspect": _suspect(judged),
        "settled": d.settled,
        "corner_odds": {p: odds_text(odds) for p, odds in d.corners.items()},
    }


def _sign_words(name: str, outcome: str) -> str:
    return f"{_(SIGNS[name])}: {_(OUTCOMES[outcome])}" if outcome not in ("yes", "seen") else _(SIGNS[name])


def _check_words(check: NextCheck, currency: str) -> dict[str, Any]:
    return {
        "words": _(CHECKS[check.check]),
        "place": POSITION_NAMES[check.position] if check.position else "",
        "minutes": check.minutes,
        "saves": money_text(check.saves, currency),
        "costs": money_text(check.saves - check.worth, currency),
        "outcomes": outcome_words(check),
        "why": worth_words(check),
    }


def worth_words(check: NextCheck) -> str:
    """Say why a check saves something, where it is not for the causes that it tells apart."""
    return _(WORTH[check.why]) if check.why is not None else ""


def outcome_words(check: NextCheck) -> list[dict[str, str]]:
    """Say what a check may find, the likeliest two, and what would then be ahead."""
    return [
        {
            "name": " · ".join(_(OUTCOMES[part]) for part in outcome.name.split(" · ")),
            "odds": odds_text(outcome.probability),
            "cause": _(CAUSES[outcome.cause.value]),
            "cause_odds": odds_text(outcome.cause_probability),
        }
        for outcome in check.outcomes[:2]
    ]


def holes_in_words(holes: Iterable[tuple[str, str]]) -> list[str]:
    """Say which corners and which of runout and thickness are still unmeasured."""
    by_position: dict[str, list[str]] = {}
    for position, what in holes:
        by_position.setdefault(position, []).append(_("runout") if what == "runout" else _("thickness"))
    return [f"{POSITION_NAMES[p]}: {', '.join(what)}" for p, what in by_position.items()]


def _suspect(judged: JudgedJob) -> dict[str, Any] | None:
    """Draw the most suspect corner's rose with its vector triangle; None while none was swept."""
    swept = [v for v in judged.verdicts if v.measured.runout.sweep is not None]
    if not swept:
        return None
    verdict = max(swept, key=lambda v: judged.judged.weighed.corners.get(v.position, 0.0))
    spec, whose = verdict.measured.corner.spec, verdict.measured.whose
    rose = Rose(
        spec=spec,
        stations_deg=(),
        runout=runout_curve(verdict.measured.runout.sweep, [], spec=spec, state=verdict.measured.runout.state.value),
        thickness=thickness_curve(
            verdict.measured.thickness.result, {}, spec=spec, state=verdict.measured.thickness.state_variation.value
        ),
        at_deg=0.0,
        current=None,
        hub=whose.hub.vector if whose.hub else None,
        rotor=whose.rotor.vector if whose.rotor else None,
    )
    name = str(POSITION_NAMES[verdict.position])
    svg, _factor = draw_rose(rose, title=_("%(corner)s: the most suspect corner") % {"corner": name})
    return {"name": name, "svg": svg, "told_apart": rose.hub is not None and rose.rotor is not None}
