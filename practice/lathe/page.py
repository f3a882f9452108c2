"""What the lathes show: the disc unrolled, bands, needle, sound, the plan from what stands there now. Reads only."""

from typing import Any, Final

import numpy as np
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _lazy

from compass.simulate.lathe import (
    ANGLES,
    LINE_MM,
    MARKS,
    SCRATCH_MM,
    compensated,
    disc_of,
    faces_of,
    plan_of,
    sound_of,
    touched,
)
from drawing.cut_section import CutSection, draw_section
from drawing.lathe import LatheTraces, draw_traces
from jobs.words import about
from practice.exercises import SPEC
from practice.lathe.actions import AtLathe
from practice.lathe.tasks import TASKS
from practice.models import LatheTry
from workshop.models import User

_TO_MM: Final = 0.002
_DRAWN_MM: Final = 0.06  # how far apart the faces are drawn: what no tip reaches is left out
SAID: Final = {
    "not_on": _lazy("The lathe is not bolted on yet."),
    "no_lines": _lazy("How many lines? Set a knob first."),
    "rotors": _lazy("Half a turn on: the mark is in the same place on the rotor. It is the rotor’s."),
    "mountings": _lazy("Half a turn on: the mark is elsewhere on the rotor. It is the mounting’s: clean, mount again."),
}
WORTH: Final = {
    "set_up": _lazy("faces clean, nuts by hand, drawn flush"),
    "compensated": _lazy("compensated until it is calm"),
    "scratched": _lazy("scratched before the first pass"),
    "zeroed": _lazy("zeroed at first touch"),
    "depths": _lazy("passes neither too light nor too deep"),
    "finish": _lazy("finish smooth: damper, fine feed"),
    "even": _lazy("even all round, no dark patch"),
    "runs_true": _lazy("runs true as fitted"),
    "metal_left": _lazy("metal above machine-to"),
}
SOUNDS: Final = {
    "steady": _lazy("a steady hiss"),
    "rubs": _lazy("it rubs and whistles: too light a pass"),
    "chatters": _lazy("it chatters: too deep a pass"),
    "rings": _lazy("it rings: no damper"),
}
FINISHES: Final = {
    "none": _lazy("as it came"),
    "smooth": _lazy("smooth"),
    "spiral": _lazy("a spiral that pads climb"),
    "torn": _lazy("torn: a nail catches"),
}


def lathe_context(user: User, bench: AtLathe, *, said: str = "") -> dict[str, Any]:
    """Return the lathe and its disc as they stand."""
    row, stand, corner = bench.row, bench.stand, bench.corner
    seed = row.seed
    disc, plan = disc_of(corner, stand, seed=seed), plan_of(corner, SPEC, stand, seed=seed)

    def say(mm: float) -> str:
        shown = about(mm, user.unit, expanded_mm=_TO_MM)
        return f"{shown.figure} {shown.unit}"

    last = stand.cuts[-1] if stand.cuts else None
    return {
        "row": row,
        "task": bench.task,
        "stand": stand,
        "section": _section(bench),
        "traces": _traces(bench),
        "sound_code": last.sound if last is not None else "",
        "sound": SOUNDS[last.sound] if last is not None else "",
        "said": str(SAID.get(said, "")),
        "lines": row.lines or ["", ""],
        "feed": row.feed,
        "line_mm": say(LINE_MM),
        "left": say(stand.left_mm) if stand.left_mm is not None else "",
        "facts": [
            (_("thinnest"), say(disc.thinnest_mm)),
            (_("variation"), say(disc.variation_mm)),
            (_("runout as fitted"), say(disc.runout_mm)),
            (_("finish"), str(FINISHES[disc.finish])),
            (_("not reached"), f"{disc.dark_out:.0%} / {disc.dark_in:.0%}" if last is not None else "–"),
        ],
        "plan": {
            "out": plan.out_lines,
            "in": plan.in_lines,
            "left": say(plan.left_mm),
            "stop": say(SPEC.machine_to_thickness_mm or SPEC.discard_thickness_mm),
            "allowed": plan.allowed,
        },
        "minutes": round(row.minutes),
        "total": row.total,
        "marks": [(WORTH[code], row.marks[code], round(of)) for code, of in MARKS.items()] if row.marks else [],
    }


def _section(bench: AtLathe) -> str:
    """Draw both faces with the planes that the knobs stand at."""
    out, inn = faces_of(bench.corner, bench.stand, seed=bench.row.seed)
    lines = [float(n or 0) * LINE_MM for n in (bench.row.lines or [0, 0])]
    thick = float((out - inn).mean())
    section = CutSection(
        outboard_mm=out,
        inboard_mm=inn + thick - _DRAWN_MM,
        out_mm=(float(out.max()) - lines[0],),
        in_mm=(float(inn.min()) + thick - _DRAWN_MM + lines[1],),
        done=0,
        studs=SPEC.studs,
        radius_mm=SPEC.measuring_radius_mm,
    )
    labels = {"outboard": _("outboard"), "inboard": _("inboard"), "pass": _("knob")}
    return draw_section(section, labels=labels, title=_("The disc unrolled, and where the tips stand"))[0]


def _traces(bench: AtLathe) -> str:
    stand, corner, seed = bench.stand, bench.corner, bench.row.seed
    out, inn = faces_of(corner, stand, seed=seed)
    blank = np.zeros(ANGLES.size)
    on = stand.scratched or bool(stand.cuts)
    depth = SCRATCH_MM if not stand.cuts else 0.004
    bands = [
        (_("outboard"), touched(out, depth) if on else blank),
        (_("inboard"), touched(inn, depth, inboard=True) if on else blank),
    ]
    needle = compensated(stand, seed=seed)[1] if stand.left_mm is not None else None
    sound = sound_of(stand, seed=seed) if stand.cuts else None
    labels = {"needle": _("needle"), "sound": _("sound")}
    return draw_traces(
        LatheTraces(bands, needle, sound), labels=labels, title=_("What the tips touched, needle, sound")
    )


def lathe_shelf(user: User) -> list[dict[str, Any]]:
    """Return the discs for the lathes, with how far one has got. One query."""
    best: dict[str, int | None] = {}
    begun = set()
    for row in LatheTry.of(user).filter(person=user):
        if row.ended_at is None:
            begun.add(row.task)
        else:
            best[row.task] = max(best.get(row.task) or 0, row.total or 0)
    return [
        {"code": task.code, "title": task.title, "best": best.get(task.code), "open": task.code in begun}
        for task in TASKS
    ]
