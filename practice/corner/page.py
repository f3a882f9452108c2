"""What the bench shows: the corner and its dial, what was noted, the marks with the truth laid over. Reads only."""

from typing import Any, Final

import numpy as np
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _lazy
from django.utils.translation import ngettext

from compass.choose.remedies.comeback import NEVER_KM
from compass.evidence.records import Spec
from compass.ground.translation import written
from compass.ground.units import Unit
from compass.measure.sweep import analyse_sweep
from compass.simulate.bench import clamping, true_high_deg
from compass.simulate.marking import Drive, Mark, worst
from compass.words.codes import CAUSES, SEEN, STATES, remedy_name
from compass.words.places import place_text
from drawing.bench import BenchCorner, draw_bench
from drawing.curves import Curve, runout_curve
from drawing.rose import Rose, draw_rose
from jobs.words import about, money_text
from practice.corner.actions import SHOP, AtBench, marks_of, truth_of
from practice.corner.evidence import judged, sweep_of
from practice.models import Attempt
from workshop.models import POSITION_NAMES, User
from workshop.words import distance_text

_TENTHS: Final = 10_000  # of a µm a mm: as fine as a needle is drawn
_FINE: Final = np.arange(0.0, 360.0, 2.0)
_LAST: Final = 5
_TO_MM: Final = 0.002  # a truth is said as finely as the best instrument could

MARKS: Final = {
    "clean": _lazy("joint cleaned to bright metal"),
    "clamped": _lazy("nuts in a star, at the torque"),
    "bright": _lazy("tip on bright metal"),
    "one_way": _lazy("turned one way only"),
    "closed": _lazy("start read twice: it must return"),
    "thickness": _lazy("thickness measured round the disc"),
    "high": _lazy("high spot"),
    "amount": _lazy("amount"),
    "state": _lazy("runout judged"),
    "variation": _lazy("thickness variation judged"),
    "thinnest": _lazy("thinnest place"),
    "corner": _lazy("which wheel"),
    "cause": _lazy("what it is"),
    "choice": _lazy("what was done"),
    "minutes": _lazy("minutes of measuring"),
}
BETTER: Final = {
    "clean": _lazy(
        "Clean hub face and hat before you believe a reading: a flake at the hub is twice as high at the edge."
    ),
    "clamped": _lazy(
        "All nuts, in a star, in rounds, to the torque. A circle in one go leaves them uneven, and one that is not held flops."
    ),
    "bright": _lazy("Set the tip on bright metal, 10 to 15 mm in from the edge: rust and lips are no runout."),
    "one_way": _lazy("Turn one way only: a clamp gives a little before the needle follows back."),
    "closed": _lazy("Read the start again at the end: where it does not return, the clamp has moved."),
    "thickness": _lazy(
        "Take the micrometer round the disc, six places at least: what is felt is thickness, not runout."
    ),
    "high": _lazy("Go past the high spot and come on to it slowly, the same way as before; then mark it at once."),
    "amount": _lazy("Zero on the lowest place and read the highest: the amount is what lies between the two."),
    "state": _lazy("Hold the value with its ± against the limit: within, over, or too close to call."),
    "variation": _lazy("The variation is the thickest less the thinnest, round one radius, inside the swept band."),
    "thinnest": _lazy("The smallest reading counts, off the lips: move the tip in and read there."),
    "corner": _lazy("Measure every wheel before you name one: feel orders the work and proves nothing."),
    "cause": _lazy("Ask what stays and what goes: cleaning, torque, a turn on the studs each leave one suspect less."),
    "minutes": _lazy("Measure what can still change what you say: a check that cannot is time at somebody’s expense."),
    "choice": _lazy("Weigh what it costs against how likely it comes back, and what must be left of the metal."),
}


def stage_context(bench: AtBench, *, noted: bool = False, error: str = "", typed: str = "") -> dict[str, Any]:
    """Return the corner as it stands, with one turn of its needle."""
    stand, spec, turn = bench.stand, bench.spec, bench.turn()
    clamp = clamping(spec.studs, stand.nuts)
    seen = bench.exercise.seen if bench.here == bench.exercise.at else ()
    patches = bench.corner.thickness_patches
    edge = spec.swept_outer_radius_mm or spec.measuring_radius_mm
    corner = BenchCorner(
        spec=spec,
        on=stand.on,
        radius_mm=stand.radius_mm,
        index_deg=360.0 / spec.studs * stand.index,
        clamp=[None] * spec.studs if stand.as_found else [float(share) for share in clamp],
        at_deg=0.0,
        chalk_deg=bench.attempt.chalk.get(bench.here),
        slots_deg=[slot.centre_deg for slot in bench.corner.slots],
        cleaned=stand.cleaned,
        patch_deg=patches[0].centre_deg if seen and patches else None,
        patch=seen[0].replace("_", "-") if seen else "",
    )
    return {
        "svg": draw_bench(corner, title=_("The corner and its dial"), unit=written("0.01 mm")),
        "on": _tenths(turn.on_mm),
        "back": _tenths(turn.back_mm),
        "turn": stand.turn,
        "stations": bench.stations,
        "advance": noted,
        "stand": stand,
        "inside_mm": round(edge + 3 - stand.radius_mm),
        "holds": _holds(bench),
        "cells": _cells(bench),
        "miked": _miked(bench),
        "mounts": _mounted(bench),
        "seen": [_(SEEN[code]) for code in seen],
        "corners": [(code, POSITION_NAMES[code], code == bench.here) for code in bench.corners],
        "attempt": bench.attempt,
        "error": error,
        "typed": typed,
        "minutes": round(bench.attempt.minutes),
    }


def _tenths(turn_mm: Any) -> str:
    return " ".join(str(round(float(mm) * _TENTHS)) for mm in turn_mm)


def turn_data(bench: AtBench) -> dict[str, Any]:
    """Return one turn of the needle, for the script that draws it."""
    turn = bench.turn()
    return {"turn": bench.stand.turn, "on": _tenths(turn.on_mm), "back": _tenths(turn.back_mm)}


def _holds(bench: AtBench) -> list[dict[str, Any]]:
    """Say what holds of how somebody works, as the marks will see it."""
    now = bench.conditions()
    rows = [row for row in bench.noted_here("dial") if row["set"] == bench.set_up()]
    first = rows[0]["deg"] if rows else None
    again = any(abs((row["deg"] - first + 180) % 360 - 180) < 3 for row in rows[3:]) if first is not None else False
    told = now | {"one_way": len({row["way"] for row in rows}) == 1, "closed": again}
    return [{"name": MARKS[code], "holds": told[code]} for code in ("clamped", "clean", "bright", "one_way", "closed")]


def _mounted(bench: AtBench) -> str:
    match bench.stand.on:
        case "bare":
            return _("The bare hub: the tip stands at 65 mm.")
        case "arbor":
            return _("The rotor alone, on a true arbor.")
        case _ if bench.stand.index:
            return ngettext(
                "The rotor stands %(n)s stud on.", "The rotor stands %(n)s studs on.", bench.stand.index
            ) % {"n": bench.stand.index}
        case _:
            return ""


def _cells(bench: AtBench) -> list[dict[str, Any]]:
    rows = [row for row in bench.noted_here("dial") if row["set"] == bench.set_up()]
    return [{"deg": round(row["deg"]), "typed": row["typed"]} for row in rows[-2 * bench.stations :]]


def _miked(bench: AtBench) -> dict[str, Any] | None:
    rows = bench.noted_here("mike")
    played = bench.noted_here("play")
    if not rows and not played:
        return None
    values = [row["mm"] for row in rows]
    return {
        "last": written(f"{values[-1]:.3f}") if values else "",
        "deg": round(rows[-1]["deg"]) if rows else None,
        "n": len(values),
        "least": written(f"{min(values):.3f}") if values else "",
        "spread": written(f"{max(values) - min(values):.3f}") if values else "",
        "play": written(played[-1]["typed"]) if played else "",
    }


def result_context(user: User, bench: AtBench) -> dict[str, Any]:
    """Return marks, the one thing to do better, and the truth laid over what was measured."""
    row = bench.attempt
    marks, driven, best = marks_of(row)
    lost = worst(marks)
    return {
        "attempt": row,
        "exercise": bench.exercise,
        "total": row.total,
        "marks": [_mark(one, user) for one in marks],
        "better": BETTER[lost.code] if lost is not None else "",
        "driven": _driven(driven, user) if driven is not None else None,
        "best": _driven(best, user) if best is not None else None,
        "truths": _truths(bench, user.unit),
        "rose": _overlay(bench),
        "traced": bool(bench.newest_sweep()),
        "program": _program(bench),
        "minutes": round(row.minutes),
    }


def _program(bench: AtBench) -> str:
    """Say what the program would have named from these very readings."""
    verdict = judged(bench, bench.exercise.at)
    return str(_(CAUSES[verdict.root_cause])) if verdict is not None and bench.exercise.right else ""


def _mark(one: Mark, user: User) -> dict[str, Any]:
    off = ""
    if one.off is not None and one.code == "high":
        off = _("%(n)s° off") % {"n": round(one.off)}
    elif one.off is not None:
        shown = about(one.off, user.unit, expanded_mm=_TO_MM)
        off = _("%(figure)s %(unit)s off") % {"figure": shown.figure, "unit": shown.unit}
    return {
        "name": MARKS[one.code],
        "got": round(one.got),
        "of": round(one.of),
        "full": one.got >= one.of - 0.5,
        "off": off,
    }


def _driven(one: Drive, user: User) -> dict[str, Any]:
    return {
        "safe": one.safe,
        "gone": one.km >= SHOP.warranty_km,
        "at_once": one.km <= 0,
        "km": _("no end in sight") if one.km >= NEVER_KM else distance_text(round(one.km, -2), user.unit),
        "bill": money_text(one.bill, SHOP.currency),
        "minutes": round(one.minutes),
    }


def _truths(bench: AtBench, unit: Unit) -> list[tuple[str, str]]:
    """Say what was hidden, in plain figures."""
    at, exercise = bench.exercise.at, bench.exercise
    spec, truth, corner = bench.specs[at], truth_of(bench, None), bench.corners[at]

    def say(mm: float) -> str:
        shown = about(mm, unit, expanded_mm=_TO_MM)
        return f"{shown.figure} {shown.unit}"

    rows = []
    if len(bench.corners) > 1:
        rows.append((_("the wheel"), str(POSITION_NAMES[at])))
    rows += [
        (_("high spot"), place_text(truth.high_deg, spec.studs, translate=_)),
        (_("runout, clean and clamped"), say(truth.tir_mm)),
        (_("of the hub"), say(2 * abs(corner.hub))),
        (_("of the rotor"), say(2 * abs(corner.rotor))),
    ]
    if corner.joint:
        rows.append((_("of the dirt in the joint"), say(2 * abs(corner.joint))))
    if corner.nuts:
        rows.append((_("of the nuts as they came"), say(2 * abs(corner.nuts))))
    rows += [(_("thickness variation"), say(truth.variation_mm)), (_("thinnest"), say(truth.thinnest_mm))]
    if exercise.right:
        rows.append((_("what it is"), str(_(CAUSES[exercise.right[0]]))))
    return rows


def _overlay(bench: AtBench) -> str:
    """Lay the hidden truth over the trainee's own rose."""
    bench.attempt.here = bench.exercise.at
    spec, stand, corner = bench.spec, bench.stand, bench.corner
    rows = bench.newest_sweep()
    own = own_curve(rows, spec)
    z = corner.runout_mm(_FINE, index_deg=360.0 / spec.studs * stand.index)
    middle = (z.max() + z.min()) / 2
    truth = Curve(_FINE, z - middle, (), spec.max_runout_mm, "", true_high_deg(corner, spec, stand))
    stations = tuple(360.0 * k / bench.stations for k in range(bench.stations))
    rose = Rose(spec, stations, own or truth, None, 0.0, None, before=truth if own is not None else None)
    return draw_rose(rose, title=_("What you measured, with what was hidden laid over it"))[0]


def own_curve(rows: list[dict[str, Any]], spec: Spec) -> Curve | None:
    """Return the trainee's own trace, by the very analysis of a job; None with fewer than four readings."""
    sweep = sweep_of(rows, studs=spec.studs)
    if sweep is None:
        return None
    dots = list(zip(sweep.stations_deg.tolist(), sweep.readings_mm.tolist(), strict=True))
    return runout_curve(analyse_sweep([sweep], spec=spec), [dots], spec=spec, state="")


def last_marks(user: User, exercise: str) -> dict[str, Any] | None:
    """Return how somebody's last tries of an exercise came out."""
    totals = list(
        Attempt.of(user)
        .filter(person=user, exercise=exercise, ended_at__isnull=False)
        .values_list("total", flat=True)[:_LAST]
    )
    return {"totals": totals[::-1], "best": max(totals)} if totals else None


def said_words(row: Attempt, position: str) -> list[tuple[str, str]]:
    """Say what somebody answered, in words."""
    said = row.answer
    words = []
    if said.get("corner"):
        words.append((_("which wheel"), str(POSITION_NAMES[said["corner"]])))
    for name in ("state", "variation"):
        if said.get(name):
            words.append((str(MARKS[name]), str(_(STATES.get(said[name], said[name])))))
    if said.get("cause"):
        words.append((_("what it is"), str(_(CAUSES[said["cause"]]))))
    if said.get("remedy"):
        words.append((_("what was done"), str(_(remedy_name(said["remedy"], position)))))
    return words
