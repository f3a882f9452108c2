"""The brass act: the core's next step in words, with an address. ``compass.judge.next_step`` says which it is."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final
from urllib.parse import urlencode

from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from compass.cause.checks import MINUTES, OPENING_MINUTES, Separating
from compass.cause.stakes import ELSEWHERE_MINUTES
from compass.prove.proof import of_metal
from compass.words.codes import CHECKS, FELT, WHY
from jobs.look_fields import LININGS
from jobs.models import Corner, Job, Sweep, Tape, ThicknessRound
from jobs.words import place_words
from workshop.addresses import address
from workshop.permissions import Deed

# Where a check is made: the page of the corner, and what it opens with. What is not named begins with the set-up.
_PLACES: Final = {
    "sweep_rotor": ("measure", {"tape": "sweep"}),
    "reread_station": ("measure", {"tape": "sweep"}),
    "measure_thickness": ("measure", {"tape": "thickness"}),
    "repeat_round": ("measure", {"tape": "thickness"}),
    "bearing_play": ("measure", {"tape": "look"}),
    "inspect_pads_and_slides": ("measure", {"tape": "look"}),
    "turn_rotor_and_sweep": ("prepare", {"surface": "rotor_outboard"}),
    "sweep_hub_face": ("prepare", {"surface": "hub_face"}),
    "arbor_sweep": ("prepare", {"surface": "arbor"}),
}

# Checks of the vehicle as a whole: the page, where on it, and who may.
_OF_THE_VEHICLE: Final = {
    "road_test": ("jobs:cause", "#road", Deed.MEASURE),
    "ask_driver": ("jobs:complaint", "#story", Deed.EDIT_JOB),
}

# What is taken at once where a corner is opened: its set-up lays both tapes out.
_BOTH: Final = ("sweep_rotor", "measure_thickness")
_SWEEPS: Final = {"hub_face": "sweep_hub_face", "arbor": "arbor_sweep"}


@dataclass(frozen=True)
class NextAct:
    """What to do next and where: words, why, minutes (estimate), address, and whether it is a POST.

    ``check`` and ``position`` are the core's step that it words; empty where it is the application's own.
    """

    words: str
    why: str
    minutes: int | None
    url: str
    post: bool = False
    check: str = ""
    position: str = ""
    deed: str = "measure"  # what its doer must be allowed: shown before it is pressed


def hand_over(job: Job) -> NextAct | None:
    """Return what comes after a job is closed: its sheet for the owner; None where no work was decided."""
    if not job.decided:
        return None
    words, why = _("Hand over the owner’s sheet"), _("felt, found, done, proven, and when to look again")
    return NextAct(words, why, None, address("jobs:owner", job.pk), deed=Deed.READ_JOBS.value)


def next_act(job: Job, *, corner: Corner | None = None, tape: Tape | None = None) -> NextAct | None:
    """Word the next act: finish the open ``tape``, else the core's next step, else choose, else close."""
    if job.is_closed:
        return None
    if corner is not None and tape is not None and tape.stations_to_go:
        check = _SWEEPS.get(tape.surface, "sweep_rotor") if isinstance(tape, Sweep) else "measure_thickness"
        return NextAct(
            words=_(CHECKS[check]) if tape.is_empty else _("Finish this tape"),
            why=ngettext("%(n)s station to go", "%(n)s stations to go", tape.stations_to_go)
            % {"n": tape.stations_to_go},
            minutes=None,
            url=address("jobs:measure", job.pk, corner.position) + f"?tape={tape.name}",
        )
    kept = job.kept
    step = kept.step
    if kept.undecided and (act := _to_choose(job)) is not None:  # what forbids driving was found since
        return act
    begun = _begun(job)
    if begun is not None and (step.check is None or step.position == begun.position):
        return _finish(begun, begun.kept.broken_off, _("nobody has read the rest of it"))
    if step.check is not None:
        at = next((c for c in job.corners.all() if c.position == step.position), None)
        if at is None:
            page, place, deed = _OF_THE_VEHICLE[step.check]
            return NextAct(
                words=_(CHECKS[step.check]),
                why=_(WHY[step.why]),
                minutes=kept.minutes,
                url=address(page, job.pk) + place,
                check=step.check,
                deed=deed.value,
            )
        here = at if corner is not None and corner.pk == at.pk else None
        return act_for(
            at, step.check, why=step.why, index_deg=step.index_deg, here=here, tape=tape, minutes=kept.minutes
        )
    if step.why == "beside":
        words = _("See to: %(what)s") % {"what": place_words(*kept.beside[0])}
        why = _("before any disc is worked on") if kept.troubled else _(WHY[step.why])
        return NextAct(words, why, ELSEWHERE_MINUTES, address("jobs:cause", job.pk) + "#see-to", deed=Deed.DO.value)
    if step.why in ("put_right", "mended_beside"):
        url = address("jobs:cause", job.pk) + "#road"
        return NextAct(_("Road-test it"), _(WHY[step.why]), MINUTES["road_test"], url, deed=Deed.MEASURE.value)
    return (
        _to_choose(job)
        or renew_linings(job)
        or NextAct(
            words=_("Close the job"),
            why=_why_closed(job),
            minutes=None,
            url=address("jobs:complaint", job.pk) + "#close",
            deed=Deed.CLOSE_JOB.value,
        )
    )


def renew_linings(job: Job) -> NextAct | None:
    """Lead to the first corner whose pads or shoes are under their least thickness: renewed, and read anew."""
    worn = [(corner, one.code) for corner in job.corners.all() if corner.kept for one in corner.kept.linings]
    if not worn:
        return None
    corner, code = worn[0]
    words = _("Renew the pads · %(name)s") if code == "pads_worn" else _("Renew the shoes · %(name)s")
    url = address("jobs:measure", job.pk, corner.position) + f"?tape=look#look-{LININGS[code][-1]}"
    return NextAct(words % {"name": corner}, _(WHY["linings"]), None, url)


def _begun(job: Job) -> Corner | None:
    """Return the first corner with a tape that was broken off as it came in, while its axle is not decided."""
    corners = (c for c in job.corners.all() if not c.episode and c.axle not in job.decided)
    return next((c for c in corners if c.kept is not None and c.kept.broken_off), None)


def _finish(corner: Corner, tape: str, why: str) -> NextAct:
    """Lead back to a tape that was begun and not read to its end."""
    url = address("jobs:measure", corner.job_id, corner.position) + f"?tape={tape}"
    return NextAct(_("Finish this tape") + f" · {corner}", why, None, url)


def _why_closed(job: Job) -> str:
    """Say why nothing is left to be done on a job without trouble."""
    if job.decided and job.kept.troubled:
        return _("left as it is, as decided; with your reason")
    if job.kept.holes:
        return _(WHY["not_looked_at"])
    if job.story.get("after_work") == "gone":
        return _("driven: %(felt)s") % {"felt": _(FELT["gone"])}
    return _("every corner is measured and within its limits")


def act_for(
    corner: Corner,
    check: str,
    *,
    why: str,
    index_deg: float | None = None,
    here: Corner | None = None,
    tape: Tape | None = None,
    minutes: int | None = None,
) -> NextAct:
    """Lead to where a check is made at a corner; ``why`` is a code of the core's, or words already.

    ``minutes`` are those of the core's step, opening the corner among them; without them, the check's own.
    """
    place = "" if here is not None else f" · {corner}"
    because = _(WHY[why]) if why in WHY else why
    if check == "repeat_sweep" and here is not None and isinstance(tape, Sweep) and tape.pk:
        turn = address("jobs:turn", tape.pk)
        return NextAct(
            _(CHECKS[check]), because, MINUTES[check], turn, post=True, check=check, position=corner.position
        )
    if check == "repeat_round" and here is not None and isinstance(tape, ThicknessRound) and tape.pk:
        again = address("jobs:another-round", tape.pk)
        return NextAct(
            _(CHECKS[check]), because, MINUTES[check], again, post=True, check=check, position=corner.position
        )
    page, query = _PLACES.get(check, ("prepare", {}))
    words, minutes = _(CHECKS[check]) + place, minutes or MINUTES.get(check)
    opens_with: dict[str, str | int] = dict(query)
    if check == "reread_station" and corner.kept is not None and corner.kept.thickness_doubted:
        opens_with["tape"] = "thickness"
    if check == "finer_micrometer" and corner.kept is not None and corner.kept.lips_hide_wear:
        page, opens_with = "measure", {"tape": "look"}
        words = _("Measure both lips, or mike it with tips") + place
        because = _("lips that nobody measured hide how thick it is")
    if why == "unopened" and check in _BOTH:
        words, minutes = _("Sweep and mike") + place, OPENING_MINUTES + sum(MINUTES[both] for both in _BOTH)
    if corner.limits_id is None:
        page, opens_with, minutes = "prepare", {}, 1
        words, because = _("Set the limits") + place, _("no verdict without them")
    elif index_deg is not None and corner.limits is not None and check == "turn_rotor_and_sweep":
        opens_with["turned"] = turned = round(index_deg * corner.limits.studs / 360) % corner.limits.studs
        words = _turned_to(turned, worked=bool(corner.episode)) + place
    url = address(f"jobs:{page}", corner.job_id, corner.position)
    return NextAct(
        words,
        because,
        minutes,
        url + ("?" + urlencode(opens_with) if opens_with else ""),
        check=check,
        position=corner.position,
        deed=Deed.SET_LIMITS.value if corner.limits_id is None else Deed.MEASURE.value,
    )


def tell_apart(corner: Corner, way: Separating) -> NextAct:
    """Lead to the measurement that tells hub from rotor as they stand now, after a work."""
    why = _("what is chosen now rests on it")
    return act_for(corner, way.check, why=why, index_deg=way.index_deg, minutes=way.minutes)


def _to_choose(job: Job) -> NextAct | None:
    """Lead to the first axle with something to be put right that nobody has decided yet, or by what was known then."""
    anew = job.kept.undecided
    corners = _troubled(job)
    for axle in dict.fromkeys(corner.axle for corner in corners if corner.axle in anew or not holds_after(corner)):
        if axle not in job.decided or axle in anew or side_waited(job, axle):
            unread = None if anew else _unread(job, axle)
            if unread is not None:  # worked on, and given up: what is chosen rests on how it stands
                return measure_after(unread, wants_after(unread))
            url = address("jobs:choose", job.pk, axle)
            why = _("what was found since comes first") if anew else _("what each one would leave, with odds")
            return NextAct(_("Choose the remedy"), why, None, url, deed=Deed.READ_JOBS.value)
    if job.decided and (corners or any(corner.is_to_do for corner in job.corners.all())):
        return _after_work(job) if _has_work(job) else None
    return None


def _troubled(job: Job) -> list[Corner]:
    """Return the corners that came in with something to be put right, in the core's order, then others worked on.

    A true disc that is cut with its neighbour can be worse for it, and belongs to the axle that is decided.
    """
    corners = {corner.position: corner for corner in job.corners.all()}
    came_in = [corners[position] for position in job.kept.troubled]
    return came_in + [corner for corner in corners.values() if corner.episode and corner not in came_in]


def side_waited(job: Job, axle: str = "") -> bool:
    """Whether a side that waited for the other's work is to be chosen for: that is done, was read and holds."""
    sides = [corner for corner in job.corners.all() if axle in ("", corner.axle)]
    waits = {c.axle for c in sides if c.position in job.kept.troubled and not c.episode and not c.remedy}
    done = [corner for corner in sides if corner.episode and corner.axle in waits & {*job.decided}]
    return bool(done) and all(holds_after(c) for c in done) and not any(c.is_to_do for c in sides if c.axle in waits)


def holds_after(corner: Corner) -> bool:
    """Whether it was worked on, measured since and is over no limit: with its decision withdrawn, too, it is mended."""
    stands = corner.stands
    return bool(corner.episode) and stands is not None and not wants_after(corner) and not stands.over


def _has_work(job: Job) -> bool:
    """Whether work is decided: what was decided to be left as it is leads nowhere but to closing."""
    return any(corner.remedy not in ("", "none") for corner in job.corners.all())


def is_worked(job: Job) -> bool:
    """Whether something was worked on, and neither a choice nor a decided work is still open."""
    corners = job.corners.all()
    chosen = all(corner.axle in job.decided or holds_after(corner) for corner in _troubled(job))
    return chosen and any(c.episode for c in corners) and not any(c.is_to_do for c in corners)


def _turned_to(studs: int, *, worked: bool) -> str:
    """Say where the rotor is turned to, counted from where it first stood; after a work it stands elsewhere by now."""
    if studs == 0:
        return _("Turn the rotor back to where it first stood, sweep again")
    words = _("Turn the rotor to %(n)s studs from where it first stood, sweep again") if worked else ""
    return (words or _("Turn the rotor on %(n)s studs, sweep again")) % {"n": studs}


def measure_after(corner: Corner, wants: Sequence[str]) -> NextAct:
    """Lead to what is wanted of a corner after its work: ``sweep``, ``thickness``, or both; first what was begun."""
    if corner.stands is not None and corner.stands.broken_off:
        return _finish(corner, corner.stands.broken_off, _("only a measured work is proven"))
    if "sweep" not in wants:
        words, url = _("Mike it, after · %(name)s"), address("jobs:measure", corner.job_id, corner.position)
        why = _("only a measured work is proven")
        return NextAct(words % {"name": corner}, why, MINUTES["measure_thickness"], url + "?tape=thickness")
    words = _("Sweep and mike, after · %(name)s") if "thickness" in wants else _("Sweep, after · %(name)s")
    url = address("jobs:prepare", corner.job_id, corner.position)
    return NextAct(words % {"name": corner}, _("only a measured work is proven"), 6, url)


def wants_after(corner: Corner) -> tuple[str, ...]:
    """Return what is still to be measured of a corner that was worked on, by what is kept of it.

    How thick a disc is, is known from before where its work took no metal.
    """
    stands, came_in = corner.stands, corner.kept
    if stands is None:
        work = corner.remedy or (corner.works[-1] if corner.works else "")
        return ("sweep", "thickness") if of_metal(work) else ("sweep",)
    miked = came_in is not None and came_in.min_mm is not None
    wanted = {"sweep": stands.runout_mm is None, "thickness": miked and stands.min_mm is None}
    return tuple(what for what, is_wanted in wanted.items() if is_wanted or what == stands.begun)


def _unread(job: Job, axle: str = "") -> Corner | None:
    """Return the first corner that was worked on and not measured since, of all or of one axle."""
    corners = (corner for corner in job.corners.all() if axle in ("", corner.axle))
    return next((corner for corner in corners if corner.episode and wants_after(corner)), None)


def _after_work(job: Job) -> NextAct:
    """Lead through the work to its proof: what was changed is measured again, what is measured again is proven."""
    worked, unread = is_worked(job), _unread(job)
    if worked and unread is not None:
        return measure_after(unread, wants_after(unread))
    return NextAct(
        _("Prove it") if worked else _("Do it, then measure again"),
        _("before and after, and what must hold") if worked else _("decided; step by step"),
        None,
        address("jobs:prove-first" if worked else "jobs:do", job.pk),
        deed=Deed.READ_JOBS.value,
    )
