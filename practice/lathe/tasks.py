"""The work for the lathes, as data: what is to be cut, how the lathe was left, what is asked."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from django.utils.functional import Promise
from django.utils.translation import gettext_lazy as _

from compass.simulate.hidden import Hidden
from compass.simulate.lathe import LatheStand


@dataclass(frozen=True)
class LatheTask:
    """One disc for the lathe."""

    code: str
    title: Promise
    tale: Promise
    hidden: Hidden
    begins: LatheStand


TASKS: Final = (
    LatheTask(
        "match",
        _("Match a disc on the vehicle"),
        _("Rotor 0.1 mm out and worn uneven, metal enough. Cut it true to its own hub."),
        Hidden(rotor=(0.08, 0.11), worn_mm=(0.02, 0.03), metal=(0.75, 0.95)),
        LatheStand(),
    ),
    LatheTask(
        "by-the-gun",
        _("Somebody was in a hurry"),
        _("The lathe hangs on already; it was put on with the gun, over rust. Make it good, then cut."),
        Hidden(hub=(0.05, 0.07), rotor=(0.04, 0.06), worn_mm=(0.02, 0.026), metal=(0.75, 0.95)),
        LatheStand(by_hand=False, flush=True),
    ),
    LatheTask(
        "bench",
        _("On the bench"),
        _("A pair of rotors, good hubs. Mount it so that the lathe cuts the rotor and not its own mounting."),
        Hidden(hub=(0.0, 0.01), rotor=(0.08, 0.1), worn_mm=(0.02, 0.026), metal=(0.75, 0.95)),
        LatheStand(kind="bench"),
    ),
    LatheTask(
        "enough",
        _("Is there metal enough?"),
        _("Uneven and out of true, and it has done its distance. Look before the tip touches."),
        Hidden(rotor=(0.09, 0.12), worn_mm=(0.026, 0.03), metal=(0.33, 0.36)),
        LatheStand(),
    ),
)
BY_CODE: Final[Mapping[str, LatheTask]] = {task.code: task for task in TASKS}
