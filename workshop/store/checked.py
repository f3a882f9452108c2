"""Instruments over their checks, repeatability studies, torque wrenches: what a page of the store shows. Reads only."""

from datetime import date
from typing import Any

import numpy as np
from django.utils.formats import date_format
from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from compass.ground.errors import EvidenceError, UnreadableNumberError
from compass.ground.translation import written
from compass.ground.units import Unit, parse_length
from compass.learn.study import Study, drift, study
from compass.words.figures import plain_text
from drawing.drift import DriftLine, draw_drift
from drawing.shares import ShareRow, draw_shares
from workshop.models import Instrument, RepeatabilityStudy, TorqueWrench, User
from workshop.words import torque_text, unreadable

_MOST_MM = 300.0
_GOOD, _BARELY = 0.2, 0.4  # share of a limit that the spread of readings may take; ordinary gauge practice


def instrument_context(instrument: Instrument, unit: Unit) -> dict[str, Any]:
    """Return an instrument's checks, its drift and its studies."""
    checks = list(instrument.checks.select_related("by", "withdrawn_by"))
    rows = [
        {
            "row": check,
            "on": check.on,
            "standard": _size(check.standard_mm, unit),
            "off": _fine(check.deviation_mm, unit),
            "over": instrument.error_limit_mm > 0 and abs(check.deviation_mm) > instrument.error_limit_mm,
            "by": check.by,
            "note": check.note,
        }
        for check in reversed(checks)
    ]
    return {
        "instrument": instrument,
        "checks": rows,
        **_drift(instrument, [c for c in checks if c.withdrawn_by is None], unit),
    }


def _drift(instrument: Instrument, checks: list[Any], unit: Unit) -> dict[str, Any]:
    if not checks:
        return {"picture": "", "words": ""}
    days = np.array([float(check.on.toordinal()) for check in checks])
    off = np.array([check.deviation_mm for check in checks])
    limit = instrument.error_limit_mm or float(instrument.graduation_mm)
    told = drift(days - days.min(), off, limit_mm=limit)
    line, words = None, _("Three checks on different days are needed to tell drift from chance.")
    if told is not None:
        reach = float(days.max() - days.min())
        line = (told.now_mm - told.per_year_mm / 365 * reach, told.now_mm)
        per_year = f"{_fine(told.per_year_mm, unit)} ± {_fine(told.expanded_per_year_mm, unit, sign=False)}"
        words = _("Drift: %(rate)s a year.") % {"rate": per_year}
        if told.days_left is None:
            words += " " + _("No more than chance explains.")
        elif told.days_left <= 0:
            words += " " + _("It is beyond its error limit: put it right or take it out of use.")
        else:
            words += " " + ngettext(
                "At this pace it leaves its error limit in %(n)s day.",
                "At this pace it leaves its error limit in %(n)s days.",
                told.days_left,
            ) % {"n": told.days_left}
    points = tuple(zip(days.tolist(), off.tolist(), strict=True))
    shown = draw_drift(
        DriftLine(points, limit, both=True, line=line),
        first=date_format(checks[0].on, "DAY"),
        last=date_format(checks[-1].on, "DAY"),
        limit=_fine(limit, unit, sign=False),
        title=_("What it showed too much at each check, between its error limits"),
    )
    return {"picture": shown, "words": words}


def wrench_card(wrench: TorqueWrench, unit: Unit, today: date) -> dict[str, Any]:
    """Return a torque wrench with its span and when it is due."""
    span = f"{torque_text(wrench.least_nm, unit)} – {torque_text(wrench.most_nm, unit)}"
    due = wrench.is_due(today)
    if wrench.checked_on is None:
        words = _("never checked")
    else:
        left = wrench.check_every_days - (today - wrench.checked_on).days
        words = (
            ngettext("due since %(n)s day", "due since %(n)s days", -left) % {"n": -left}
            if due
            else ngettext("next check in %(n)s day", "next check in %(n)s days", left) % {"n": left}
        )
    off = written(f"±{wrench.off_percent:g} %") if wrench.off_percent is not None else ""
    return {"row": wrench, "span": span, "due": due and not wrench.retired, "check": words, "off": off}


def read_typed(row: RepeatabilityStudy, data: Any, unit: Unit) -> tuple[list[str], list[float | None], dict[int, str]]:
    """Read what was typed into a study's cells: texts, millimetres (None: empty or wrong), what is wrong by cell."""
    typed, read, wrong = [], [], {}
    entry = Unit.MM if unit is Unit.MM else Unit.THOU
    for k in range(len(row.typed)):
        text = str(data.get(f"r{k}", "")).strip()[:40]
        mm = None
        if text:
            try:
                mm = parse_length(text, unit=entry, most_mm=_MOST_MM, signed=True).mm
            except UnreadableNumberError as error:
                wrong[k] = unreadable(error)
        typed.append(text)
        read.append(mm)
    return typed, read, wrong


def beside(row: RepeatabilityStudy, typed: list[str]) -> tuple[list[str], dict[int, str]]:
    """Return what was typed with what another has kept meanwhile where it is empty, and theirs where both differ."""
    both = [mine or theirs for mine, theirs in zip(typed, row.typed, strict=True)]
    differ = {k: theirs for k, theirs in enumerate(row.typed) if theirs and typed[k] and theirs != typed[k]}
    return both, differ


def study_context(
    row: RepeatabilityStudy, unit: Unit, *, typed: list[str], wrong: dict[int, str], theirs: dict[int, str]
) -> dict[str, Any]:
    """Return a study as a grid to type into, and what it says once it is whole."""
    grid = []
    for p, person in enumerate(row.persons):
        for turn in range(row.turns):
            cells = []
            for part in range(row.parts):
                k = (p * row.parts + part) * row.turns + turn
                label = _("%(who)s, part %(part)s, turn %(turn)s") % {"who": person, "part": part + 1, "turn": turn + 1}
                cells.append(
                    {
                        "name": f"r{k}",
                        "typed": typed[k],
                        "wrong": wrong.get(k, ""),
                        "theirs": theirs.get(k, ""),
                        "label": label,
                    }
                )
            grid.append({"person": person, "turn": turn + 1, "first": turn == 0, "cells": cells})
    left = sum(mm is None for mm in row.readings_mm)
    return {
        "study": row,
        "grid": grid,
        "part_numbers": range(1, row.parts + 1),
        "left": left,
        "wrong": [{"label": k, "words": words} for k, words in wrong.items()],
        "unit": (Unit.MM if unit is Unit.MM else Unit.THOU).value,
        "result": _result(row, unit) if not left else None,
    }


def _result(row: RepeatabilityStudy, unit: Unit) -> dict[str, Any] | None:
    shape = (len(row.persons), row.parts, row.turns)
    try:
        told = study(np.array(row.readings_mm, dtype=float).reshape(shape))
    except EvidenceError:
        return None
    names = {"dial": _("the dial and the hand, turn by turn"), "person": _("the person"), "part": _("the part")}
    drawn = [ShareRow(names[name], share, share, share, f"{share:.0%}") for name, share in told.shares.items()]
    share = told.share_of_limit(row.limit_mm)
    if share <= _GOOD:
        verdict = _("Good for this limit: readings of one and the same part spread over %(share)s of it.")
    elif share <= _BARELY:
        verdict = _("Barely good for this limit: readings of one and the same part spread over %(share)s of it.")
    else:
        verdict = _("Not good for this limit: readings of one and the same part spread over %(share)s of it.")
    return {
        "picture": draw_shares(drawn, title=_("What makes the spread of these readings")),
        "verdict": verdict % {"share": f"{share:.0%}"},
        "advice": _advice(told),
        "figures": [
            (_("dial and hand"), _fine(told.dial_mm, unit, sign=False)),
            (_("person"), _fine(told.person_mm, unit, sign=False)),
            (_("part"), _fine(told.part_mm, unit, sign=False)),
            (_("kinds of part told apart"), str(told.kinds)),
        ],
    }


def _advice(told: Study) -> str:
    if told.person_mm > told.dial_mm:
        return _("Most of it is the person: agree on where the tip stands, how hard it is loaded, where zero is.")
    return _("Most of it is the dial and the hand: clamp it stiffer, take a finer one, read to the half line.")


def studies_of(user: User, instrument: Instrument) -> list[dict[str, Any]]:
    """Return an instrument's studies, newest first, with how many readings are to go."""
    rows = RepeatabilityStudy.of(user).filter(instrument=instrument)[:12]
    return [
        {"row": row, "left": sum(mm is None for mm in row.readings_mm), "who": ", ".join(row.persons)} for row in rows
    ]


def _size(mm: float, unit: Unit) -> str:
    shown = plain_text(mm, unit=unit)
    return f"{shown.figure} {shown.unit}"


def _fine(mm: float, unit: Unit, *, sign: bool = True) -> str:
    """Say a small length to the micrometre, or to a hundredth of a thou."""
    plus = "+" if sign else ""
    said = f"{mm / 0.0254:{plus}.2f} thou" if unit is Unit.THOU else f"{mm * 1000:{plus}.1f} µm"
    return written(said).replace("-", "−")
