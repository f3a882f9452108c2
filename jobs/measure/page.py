"""What the workbench page shows. Reads only."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Final

from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from compass.ground.angles import equal_stations_deg
from compass.ground.units import Unit
from compass.words.codes import SEEN, SURFACES
from compass.words.places import place_text
from jobs.adapters import look_of
from jobs.frame import corner_links, job_context, stopped_corners
from jobs.judging import Judged, fetch_evidence, judge
from jobs.look_fields import FIELDS, LININGS, Looked, read_look, unit_of_field
from jobs.measure.forms import QuickForm
from jobs.measure.looking import STOPPING
from jobs.measure.workbench import build
from jobs.models import Corner, Job, Sweep, Tape, ThicknessRound
from jobs.next_act import next_act
from jobs.prepare.forms import MICROMETERS, AnotherRoundForm
from jobs.prepare.page import code_of, instruments_in_use
from jobs.words import about
from workshop.addresses import address
from workshop.models import User
from workshop.permissions import Deed, may
from workshop.words import unreadable

BESIDE: Final = {"quick": gettext_lazy("Quick"), "look": gettext_lazy("Look")}


def corner_context(
    user: User, job: Job, corner: Corner, *, tape_name: str, view: str = "", judged: Judged | None = None
) -> dict[str, Any]:
    """Return the whole workbench page of a corner, ``judged`` where a write has just done so."""
    episode = _episode(corner, tape_name)
    judged = judged or judge(corner, episode=episode)
    beside = tape_name if tape_name in BESIDE else ""
    tape = _choose_tape(tape_name, judged, episode)
    first_free = next((slot for slot, text in enumerate(tape.typed) if not text), 0)
    bench = build(corner, tape, judged=judged, unit=user.unit, current=first_free, view=view)
    if tape.typed and all(tape.typed):  # a station that stands alone is the one to read again
        first_free = next((cell.slot for cell in bench.cells if cell.flagged), first_free)
    tabs = _tabs(job, corner, judged, tape, beside)
    here = next((tab["name"] for tab in tabs if tab["here"]), "")
    context = {
        **job_context(job, leg="measure", corner=corner, tape=tape if tape.pk else None),
        "bench": bench,
        "tape": tape,
        "beside": beside,
        "surface": _(SURFACES[tape.surface]) if isinstance(tape, Sweep) else "",
        "tape_query": _tape_query(tape, beside),
        "tabs": tabs,
        "again": AnotherRoundForm(
            instruments=instruments_in_use(user),
            unit=user.unit,
            radii=len(tape.radii_mm),
            initial={"micrometer": code_of(tape, MICROMETERS)},
        )
        if isinstance(tape, ThicknessRound) and not tape.is_empty
        else None,
        "locked": job.is_closed or bool(tape.pk and tape.struck),
        "tape_name": " · ".join(str(part) for part in (corner, here) if part),
        "first_free": first_free,
        "columns": min(len(tape.stations_deg), 12),
    }
    if beside == "quick":
        context |= quick_context(corner, judged)
    if beside == "look":
        context |= look_context(user, corner)
    return context


def _episode(corner: Corner, name: str) -> int:
    """Return the episode of the tape asked for (or asked for itself, ``e0``), else the one the corner is in now."""
    if not corner.episode:
        return 0
    if name[:1] == "e" and name[1:].isdecimal():
        return min(int(name[1:4]), corner.episode)
    fetch_evidence([corner])
    tapes = (*corner.sweeps.all(), *corner.rounds.all())
    return next((tape.episode for tape in tapes if name == tape.name), corner.episode)


def quick_context(corner: Corner, judged: Judged, *, form: QuickForm | None = None) -> dict[str, Any]:
    """Return what the quick reading's line and list need."""
    studs = corner.limits.studs
    readings = [
        {"row": quick, "place": place_text(quick.high_deg, studs, translate=_), "turned": quick.index_deg * studs / 360}
        for quick in judged.quick
    ]
    return {"quick_form": form or QuickForm(studs=studs), "quick_readings": readings}


@dataclass(frozen=True)
class LookPage:
    """A page of the look that has just written: what it shows now, and what was not written of it.

    ``figures`` and ``findings`` are what its fields stand on, which a colleague may have changed since. ``conflicts``:
    name → (theirs, yours). ``held``: findings that only a reason lifts, ``reason``: what is typed of it. ``lifted``:
    what was lifted just now.
    """

    figures: Mapping[str, str]
    findings: tuple[str, ...]
    conflicts: Mapping[str, tuple[str, str]]
    held: tuple[str, ...] = ()
    lifted: str = ""
    reason: str = ""
    asked: str = ""  # the finding it asks the reason of already

    @property
    def asks_anew(self) -> bool:
        """Whether the question why changes: one that is being answered is not drawn over."""
        return bool(self.lifted or (self.held and self.held[0] != self.asked))


def _worn_words(corner: Corner, name: str, looked: Looked, unit: Unit) -> str:
    """Say beside its field that a lining is under its least thickness, until new ones are in; else empty."""
    worn = corner.kept.linings if corner.kept is not None else ()
    least_mm = next((one.least_mm for one in worn if name in LININGS[one.code]), None)
    if least_mm is None or min(looked.mm.get(name, (least_mm,))) >= least_mm:
        return ""
    least = about(least_mm, unit if unit is Unit.MM else Unit.INCH, expanded_mm=0.05)
    return _("under its least thickness, %(mm)s: to be renewed") % {"mm": f"{least.figure} {least.unit}"}


def look_context(user: User, corner: Corner, *, page: LookPage | None = None) -> dict[str, Any]:
    """Return the fields of what is measured and seen beside the disc, each with its error, and what stands against."""
    look = look_of(corner)
    unit = Unit(look.unit) if look is not None else user.unit
    typed = look.typed if look is not None else {}
    looked = read_look(typed, unit)
    errors = {name: unreadable(error) for name, error in looked.errors.items()}
    conflicts = page.conflicts if page is not None else {}
    for name, (theirs, yours) in conflicts.items():
        words = _(
            "Meanwhile somebody typed “%(theirs)s” here: it stands. You typed “%(yours)s”: type it again if meant."
        )
        errors[name] = words % {"theirs": theirs, "yours": yours}
    features = corner.limits.features if corner.limits is not None else []
    seen = look.findings if look is not None else []
    return {
        "look_fields": [
            {
                "name": field.name,
                "label": f"{field.label} ({unit_of_field(field, unit).value})",
                "text": typed.get(field.name, ""),
                # What a later write is held against: what the page shows, not what a colleague has written since.
                "was": (page.figures if page is not None else typed).get(field.name, ""),
                "again": field.name in conflicts,
                "several": field.several,
                "error": errors.get(field.name, ""),
                "worn": _worn_words(corner, field.name, looked, user.unit),
            }
            for field in FIELDS
            if not field.feature or field.feature in features
        ],
        "findings": [
            {
                "code": code,
                "name": _(name),
                "seen": code in seen,
                # A stop that somebody found is lifted only by who may: shown before anybody tries.
                "held": code in seen and code in STOPPING and not may(user, Deed.LIFT_STOP),
                "again": page is not None and code in (*page.held, page.lifted),
            }
            for code, name in SEEN.items()
        ],
        "was_findings": " ".join(page.findings if page is not None else seen),
        "lifting": {
            "code": page.held[0],
            "name": _(SEEN[page.held[0]]),
            "may": may(user, Deed.LIFT_STOP),
            "reason": page.reason,
        }
        if page is not None and page.held
        else None,
        "asks_anew": page is not None and page.asks_anew,
    }


def live_context(user: User, job: Job, tape: Tape, *, current: int, judged: Judged, view: str = "") -> dict[str, Any]:
    """Return only what is redrawn after an edit of ``tape``, whose corner has just been ``judged``."""
    corner = tape.corner
    bench = build(corner, tape, judged=judged, unit=user.unit, current=current, view=view)
    return {
        "job": job,
        "corner": corner,
        "bench": bench,
        "tape": tape,
        "tape_query": _tape_query(tape, ""),
        "act": next_act(job, corner=corner, tape=tape if tape.pk else None),
        "corner_links": corner_links(job, here=corner),
        "stop": stopped_corners(job),
    }


def _choose_tape(name: str, judged: Judged, episode: int) -> Tape:
    sweeps, rounds = judged.sweeps, judged.rounds
    for tape in (*sweeps, *rounds):
        if name == tape.name:
            return tape
    counting = [r for r in rounds if not r.struck]
    if name == "thickness" and counting:
        return counting[-1]
    for tapes in ([s for s in sweeps if not s.struck], counting, sweeps, rounds):
        if tapes:
            return tapes[-1]
    # Nothing but quick readings or a look, or nothing since the work: the rose still needs its stations.
    stations = [float(angle) for angle in equal_stations_deg(max(2 * judged.record.spec.studs, 8))]
    spec = judged.record.spec
    return Sweep(
        stations_deg=stations,
        typed=[],
        readings_mm=[],
        graduation_mm=0.01,
        radius_mm=spec.measuring_radius_mm,
        entry_unit=Unit.DIVISION.value,
        episode=episode,
    )


def _tape_query(tape: Tape, beside: str) -> str:
    """Return the query that opens what is open now, for links that change only the layer."""
    return f"?tape={beside or (tape.name if tape.pk else f'e{tape.episode}')}"


def _is_ready(sweep: Sweep) -> bool:
    """Whether the joint was clean and the nuts torqued when the sweep was taken; a bare hub has no nuts."""
    return sweep.cleaned and (sweep.nuts_torqued or sweep.surface in ("hub_face", "arbor"))


def _tabs(job: Job, corner: Corner, judged: Judged, tape: Tape, beside: str) -> list[dict[str, Any]]:
    url = address("jobs:measure", job.pk, corner.position)
    tabs: list[dict[str, Any]] = []
    studs = corner.limits.studs if corner.limits is not None else 1
    seen: dict[tuple[Any, ...], int] = {}
    names = {"rotor_outboard": _("Runout"), "rotor_inboard": _("Inboard"), "hub_face": _("Hub"), "arbor": _("Arbor")}
    for sweep in judged.sweeps:
        seen[sweep.set_up] = seen.get(sweep.set_up, 0) + (not sweep.struck)
        turned = round(sweep.index_deg * studs / 360)
        name = names[sweep.surface]
        if turned:
            name = _("%(name)s +%(n)s") % {"name": name, "n": turned}
        if not _is_ready(sweep):
            put_right = any(_is_ready(s) and s.pk > sweep.pk and s.surface == sweep.surface for s in judged.sweeps)
            if put_right:
                name = _("%(name)s, before") % {"name": name}
            else:
                state = _("not torqued") if sweep.cleaned else _("not cleaned")
                name = _("%(name)s, %(state)s") % {"name": name, "state": state}
        if seen[sweep.set_up] > 1:
            name = _("%(name)s, turn %(n)s") % {"name": name, "n": seen[sweep.set_up]}
        here = sweep is tape and not beside
        tabs.append({"name": name, "url": f"{url}?tape=s{sweep.pk}", "here": here, "struck": sweep.struck})
    for number, measured in enumerate(judged.rounds, start=1):
        here = measured is tape and not beside
        name = _("Thickness") if number == 1 else _("round %(n)s") % {"n": number}
        tabs.append({"name": name, "url": f"{url}?tape=t{measured.pk}", "here": here, "struck": measured.struck})
    for episode in range(corner.episode + 1 if corner.episode else 0):
        if episode != tape.episode or beside or not tape.pk:
            name = (
                _("as it came in") if episode == 0 else _("after the work") if episode == 1 else _("after work %(n)s")
            )
            shown = str(name) % {"n": episode} if episode > 1 else str(name)
            here = episode == tape.episode and not beside  # what was asked for, and nothing is laid out there
            tabs.append({"name": shown, "url": f"{url}?tape=e{episode}", "here": here, "struck": False})
    for code, name in BESIDE.items():
        tabs.append({"name": str(name), "url": f"{url}?tape={code}", "here": code == beside})
    return tabs
