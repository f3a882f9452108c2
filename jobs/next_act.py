"""The single most useful next act of a job, from what its corners already know."""

from dataclasses import dataclass
from urllib.parse import urlencode

from django.urls import reverse
from django.utils.translation import gettext as _

from compass.cause.checks import MINUTES
from compass.cause.differential import corner_odds
from compass.words.codes import CHECKS
from jobs.models import Corner, Job, Sweep, Tape


@dataclass(frozen=True)
class NextAct:
    """What to do next and where: words, why, minutes (estimate), address, and whether it is a POST."""

    words: str
    why: str
    minutes: int | None
    url: str
    post: bool = False


def next_act(job: Job, *, corner: Corner | None = None, tape: Tape | None = None) -> NextAct | None:
    """Name the next act: finish the open ``tape``, else on ``corner``, then on the corners in their order."""
    corners = list(job.corners.all())
    odds = corner_odds([c.position for c in corners], job.story) if job.story else {}
    corners.sort(key=lambda c: -odds.get(c.position, 0.0))  # feel orders the measuring
    if job.is_closed:
        return None
    if corner is not None and tape is not None and tape.stations_to_go and not tape.is_empty:
        return NextAct(
            words=_("Finish this tape"),
            why=_("%(n)s stations to go") % {"n": tape.stations_to_go},
            minutes=None,
            url=reverse("jobs:measure", args=[job.pk, corner.position]) + f"?tape={tape.kind[0]}{tape.pk}",
        )
    sweep_pk = tape.pk if isinstance(tape, Sweep) else None
    ordered = ([corner] if corner else []) + [c for c in corners if corner is None or c.pk != corner.pk]
    for candidate in ordered:
        act = _on_corner(job, candidate, here=candidate is corner, sweep_pk=sweep_pk)
        if act is not None:
            return act
    return _to_choose(job, corners) or NextAct(
        words=_("Close the job"),
        why=_("every corner is measured and within its limits"),
        minutes=None,
        url=reverse("jobs:complaint", args=[job.pk]) + "#close",
    )


def _to_choose(job: Job, corners: list[Corner]) -> NextAct | None:
    """Lead to the first axle with something found on it that nobody has decided yet."""
    decided = job.decided
    for corner in corners:
        found = corner.verdict.get("root_cause", "none_found") != "none_found"
        if (found or corner.verdict.get("do_not_drive")) and corner.axle not in decided:
            url = reverse("jobs:choose", args=[job.pk, corner.axle])
            return NextAct(_("Choose the remedy"), _("what each one would leave, with odds"), None, url)
    if decided and any(c.verdict.get("root_cause", "none_found") != "none_found" for c in corners):
        return NextAct(
            _("Do it, then measure again"),
            _("decided; the proof is still to come"),
            None,
            reverse("jobs:choose-worst", args=[job.pk]),
        )
    return None


def _separating(corner: Corner, check: str, words: str, prepare: str, place: str) -> NextAct:
    """Lead to the set-up that tells hub from rotor best, worked out by the core."""
    surface = {"sweep_hub_face": "hub_face", "arbor_sweep": "arbor"}.get(check, "rotor_outboard")
    asked: dict[str, str | int] = {"surface": surface}
    index_deg = corner.verdict.get("next_index_deg")
    if index_deg and corner.limits is not None:
        asked["turned"] = round(index_deg * corner.limits.studs / 360)
        words = _("Turn the rotor on %(n)s studs, sweep again") % {"n": asked["turned"]} + place
    return NextAct(words, _("settles hub against rotor"), MINUTES[check], prepare + "?" + urlencode(asked))


def act_for(corner: Corner, check: str, *, why: str) -> NextAct:
    """Lead to where a check is made at a corner."""
    job_pk, position = corner.job_id, corner.position
    prepare = reverse("jobs:prepare", args=[job_pk, position])
    measure = reverse("jobs:measure", args=[job_pk, position])
    place = f" · {corner}"
    words, minutes = _(CHECKS[check]) + place, MINUTES.get(check)
    if corner.limits_id is None:
        return NextAct(_("Set the limits") + place, _("no verdict without them"), 1, prepare)
    match check:
        case "turn_rotor_and_sweep" | "sweep_hub_face" | "arbor_sweep":
            return _separating(corner, check, words, prepare, place)
        case "bearing_play" | "inspect_pads_and_slides":
            return NextAct(words, why, minutes, f"{measure}?tape=look")
        case "measure_thickness":
            return NextAct(words, why, minutes, f"{measure}?tape=thickness")
        case "sweep_rotor":
            return NextAct(words, why, minutes, f"{measure}?tape=sweep")
        case _:
            return NextAct(words, why, minutes, prepare)


def _on_corner(job: Job, corner: Corner, *, here: bool, sweep_pk: int | None) -> NextAct | None:
    prepare = reverse("jobs:prepare", args=[job.pk, corner.position])
    measure = reverse("jobs:measure", args=[job.pk, corner.position])
    place = "" if here else f" · {corner}"
    if corner.limits_id is None:
        return NextAct(_("Set the limits") + place, _("no verdict without them"), 1, prepare)
    check = corner.verdict.get("next_check", "sweep_rotor") if corner.verdict else "sweep_rotor"
    if corner.verdict.get("do_not_drive"):
        return None
    words = _(CHECKS[check]) + place if check in CHECKS else ""
    minutes = MINUTES.get(check)
    match check:
        case "sweep_rotor" | "reread_station":
            why = _("nothing measured here yet") if check == "sweep_rotor" else _("one reading stands alone")
            return NextAct(words, why, minutes, measure + "?" + urlencode({"tape": "sweep"}))
        case "measure_thickness":
            return NextAct(
                words,
                _("runout alone cannot clear a corner"),
                minutes,
                measure + "?" + urlencode({"tape": "thickness"}),
            )
        case "repeat_sweep" if here and sweep_pk:
            turn = reverse("jobs:turn", args=[sweep_pk])
            return NextAct(words, _("a second turn settles what one cannot"), minutes, turn, post=True)
        case "clean_and_sweep" | "torque_and_sweep":
            return NextAct(words, _("before anything is condemned for runout"), minutes, prepare)
        case "turn_rotor_and_sweep" | "sweep_hub_face" | "arbor_sweep":
            return _separating(corner, check, words, prepare, place)
        case "bearing_play" | "inspect_pads_and_slides":
            why = _("before any disc reading is believed") if check == "bearing_play" else _("the pads are uneven")
            return NextAct(words, why, minutes, measure + "?" + urlencode({"tape": "look"}))
        case "measure_other_corner" | None:
            return None
        case _:
            return NextAct(words, _("the reading is too close to its limit"), minutes, prepare)
