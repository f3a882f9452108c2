"""A road test on a job: kept as what it showed, drawn as amplitude over the wheel's orders."""

from typing import Any, Final

import numpy as np
from django.utils.translation import gettext as _

from compass.ground.translation import written
from compass.measure.recording import RecordingError, read_recording
from compass.words.codes import FELT
from drawing.orders import draw_orders
from jobs.models import Decision, Job
from workshop.models import User

_USUAL_CIRCUMFERENCE_MM: Final = 2000  # where a vehicle's own is not known; said beside the result
Showed = dict[str, Any]  # what a recording showed, as it is kept with its job


def what_it_shows(raw: bytes, circumference_mm: int | None) -> Showed:
    """Read a recording and return what it shows: a second for the longest. Raises ``RecordingError``."""
    recording = read_recording(raw)
    # scipy takes a second to load, and only a road test needs it: not every start of a worker.
    from compass.measure.road_test import analyse_orders

    orders = analyse_orders(recording, circumference_mm=circumference_mm or _USUAL_CIRCUMFERENCE_MM)
    return {
        "orders": _short(orders.orders),
        "braked": _short(orders.braked),
        "free": _short(orders.free),
        "order": orders.order,
        "other_order": orders.other_order,
        "shake": orders.shake.value,
        "seconds": [round(s, 1) for s in orders.seconds],
        "guessed_circumference": circumference_mm is None,
    }


def road_test_context(job: Job) -> dict[str, Any]:
    """Return the recording's drawing and words, empty where there is none."""
    kept = job.road_test
    if not kept:
        return {"orders_svg": "", "road_words": ""}
    svg = draw_orders(
        np.array(kept["orders"]),
        None if kept["braked"] is None else np.array(kept["braked"]),
        None if kept["free"] is None else np.array(kept["free"]),
        labels=(_("braked"), _("not braked"), _("turns of the wheel")),
        title=_("Shake over the orders of the wheel"),
    )
    words = {
        "only when braking": _("A shake at order %(n)s of the wheel, only when braking: a brake makes it."),
        "without braking too": _("A shake at order %(n)s of the wheel, braked or not: wheel, tyre, hub or bearing."),
        "no shake recorded": _("No shake stands out at the wheel's orders."),
        "not at wheel order": _("A shake at %(other)s turns of the wheel: neither once nor twice, so not a disc."),
    }[kept["shake"]]
    said = words % {"n": kept["order"], "other": written(f"{kept['other_order'] or 0:.1f}")}
    if kept["guessed_circumference"]:
        said += " " + _("Rolling circumference not known; 2000 mm was taken.")
    return {"orders_svg": svg, "road_words": said}


def has_own_drive(user: User, job: Job) -> bool:
    """Whether work is decided, whose steps end with a drive: what is left as it is has none."""
    if not job.decided:
        return False
    works = {decision.axle: decision.remedies for decision in Decision.of(user).filter(job=job).order_by("pk")}
    return any(code not in (None, "none") for remedies in works.values() for code in remedies.values())


def is_driven_again(job: Job) -> bool:
    """Whether something beside the discs was seen to, and a work's own drive was before it or is another matter."""
    return "after_work" in job.story and bool(job.mended_beside)


def driven_context(user: User, job: Job) -> dict[str, Any]:
    """Return whether driving it is asked for, where no work has its own drive, and what was felt so far."""
    said = job.story.get("after_work", "")
    drives = not job.is_closed and (bool(said) or job.kept.step.why in ("put_right", "mended_beside"))
    own = drives and has_own_drive(user, job)
    asks = drives and (not own or is_driven_again(job))
    words = {code: _(text) for code, text in FELT.items()}
    return {
        "asks_felt": asks,
        "felt": said,
        "felt_words": words.get(said, ""),
        "felt_choices": words.items(),
        "takes_drive_back": bool(said) and not own,
    }


def refusal_words(error: RecordingError) -> str:
    """Say what is wrong with a recording and what to do."""
    words = {
        "too_large": _("The file has %(megabytes).0f MB; send at most 20. Cut the recording to the drive itself."),
        "too_many_rows": _("More than %(most)s rows. Cut the recording to the drive itself."),
        "not_text": _("This is no text file. Export the recording as CSV."),
        "not_csv": _("Not a CSV table: %(why)s."),
        "missing_columns": _("Columns missing: %(missing)s. Found: %(found)s."),
        "not_a_number": _("Row %(row)s, column “%(column)s”: not a number."),
        "too_short": _("%(seconds).1f s were recorded; at least %(least).0f s are needed."),
        "time_runs_back": _("Time stands still or runs back in row %(row)s."),
        "too_slow": _("%(rate).0f readings a second; at least %(least).0f are needed. Set the logger faster."),
        "too_many_columns": _("More than %(most)s columns. Keep time, acceleration and speed."),
        "too_fast": _(
            "%(kmh).0f km/h stand in it; %(most).0f are the most. Look at the speed’s unit in the column’s name."
        ),
        "too_far": _("It goes over %(km).0f km; %(most).0f are the most. Cut the recording to the drive itself."),
        "stood_still": _("The vehicle hardly moved. Record the drive."),
        "wheel_too_quick": _(
            "At %(kmh).0f km/h the wheel turns %(turns).0f times a second: %(rate).0f readings a second cannot show "
            "that. Set the logger faster, or drive more slowly."
        ),
        "twice_a_turn_unseen": _(
            "Nothing shakes once a turn, and what shakes twice a turn cannot be seen: at %(kmh).0f km/h the wheel "
            "turns %(turns).0f times a second, with %(rate).0f readings. Set the logger faster, or drive more slowly."
        ),
        "not_braked": _(
            "No braking in it lasts %(turns)s turns of the wheel, so it cannot show what a brake does. Record it once "
            "more, with a few brakings from speed."
        ),
        "never_free": _(
            "It shakes, and the brakes are on nearly all along: it cannot show whether it shakes without them. Record "
            "it once more, with driving between the brakings."
        ),
    }
    return str(words[error.code]) % error.figures


def _short(values: Any) -> list[float] | None:
    return None if values is None else [round(float(v), 5) for v in values]
