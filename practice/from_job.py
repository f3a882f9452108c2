"""An exercise out of a closed job: what was measured there becomes what is hidden, without names."""

from typing import Final

import numpy as np
from django.db import transaction
from django.utils.translation import gettext as _

from compass.cause.measured import Measured
from compass.evidence.records import Spec
from compass.ground.angles import vector
from compass.simulate.corner import SimulatedCorner, Wave
from compass.simulate.corner_data import corner_to_data
from jobs.judging import judge_corners
from jobs.models import Job
from practice.corner.standing import spec_to_data
from practice.models import MadeExercise
from workshop.adapters import spec_of
from workshop.models import User
from workshop.permissions import Deed, require

MOST_OFFERED: Final = 8
_ORDERS: Final = 6
_GRID: Final = np.arange(0.0, 360.0, 5.0)


class NothingMeasuredError(Exception):
    """The job has no corner that was swept: there is nothing to make an exercise of."""


def can_become_one(user: User) -> list[Job]:
    """Return the newest closed jobs that an exercise can be made from. One query."""
    rows = Job.of(user).filter(state=Job.State.CLOSED, corners__verdict__runout__isnull=False).distinct()
    return list(rows.select_related("vehicle").order_by("-pk")[:MOST_OFFERED])


@transaction.atomic
def make_exercise(user: User, job: Job) -> MadeExercise:
    """Make an exercise from a closed job. Raises ``NothingMeasuredError``."""
    require(user, Deed.LEAD_PRACTICE)
    corners, specs, worst = {}, {}, ("", -1.0)
    cause = ""
    rows = [corner for corner in job.corners.all() if corner.limits_id]
    for corner, judged in zip(rows, judge_corners(rows), strict=True):  # as it came in: episode 0
        verdict = judged.verdict
        if verdict is None or verdict.measured.runout.tir is None:
            continue
        spec = spec_of(corner.limits)
        made = hidden_of(verdict.measured, spec)
        corners[corner.position], specs[corner.position] = corner_to_data(made), spec_to_data(spec)
        over = max(
            made.true_tir_mm(cleaned=False) / spec.max_runout_mm,
            made.true_variation_mm() / spec.max_thickness_variation_mm,
        )
        if over > worst[1]:
            worst, cause = (corner.position, over), verdict.root_cause
    if not corners:
        raise NothingMeasuredError
    asks = ["cause", "choice"] if len(corners) == 1 else ["corner", "cause", "choice"]
    right = [code for code in dict.fromkeys((job.found_cause, cause)) if code and code != "not_separable"]
    return MadeExercise.of(user).create(
        title=_("A %(kind)s of ours, %(n)s")
        % {"kind": job.vehicle.get_kind_display().lower(), "n": MadeExercise.of(user).count() + 1},
        tale=_(
            "What is it, and what would you do? It was measured in this workshop, and is hidden here as it was found."
        ),
        corners=corners,
        specs=specs,
        at=worst[0],
        right=right,
        asks=asks,
        made_by=user,
    )


def retire(user: User, pk: int) -> bool:
    """Take an exercise that was made here off the shelf; what was tried of it stays. Return whether there was one."""
    require(user, Deed.LEAD_PRACTICE)
    return bool(MadeExercise.of(user).filter(pk=pk, retired=False).update(retired=True))


def hidden_of(measured: Measured, spec: Spec) -> SimulatedCorner:
    """Return a corner that would measure as this one did: vectors as told apart, thickness as its first orders.

    Where hub and rotor were not told apart, all of the runout is the hub's if that is where the verdict looks first,
    else the rotor's.
    """
    whose, runout, thickness = measured.whose, measured.runout, measured.thickness.result
    tir = runout.tir.value_mm if runout.tir is not None else 0.0
    hub = vector(whose.hub.tir_mm, whose.hub.high_deg) if whose.hub is not None else 0j
    rotor = vector(whose.rotor.tir_mm, whose.rotor.high_deg) if whose.rotor is not None else 0j
    if whose.hub is None or whose.rotor is None:
        hub, rotor = 0j, vector(tir, runout.high_deg or 0.0)
    joint = vector(whose.joint.tir_mm, whose.joint.high_deg) if whose.joint is not None else 0j
    nominal = spec.nominal_thickness_mm or spec.discard_thickness_mm + 1.5
    waves: tuple[Wave, ...] = ()
    if thickness is not None and thickness.curve_mm.size:
        row = thickness.curve_mm[int(np.argmax(np.ptp(thickness.curve_mm, axis=1)))]
        at = np.interp(_GRID, thickness.curve_deg, row, period=360)
        nominal = (
            float(thickness.minimum.value_mm - (at - at.mean()).min()) if thickness.minimum is not None else nominal
        )
        spectrum = np.fft.rfft(at - at.mean()) / at.size
        waves = tuple(
            Wave(n, float(2 * abs(spectrum[n])), float(np.degrees(-np.angle(spectrum[n])) / n))
            for n in range(1, _ORDERS + 1)
        )
    return SimulatedCorner(
        radius_mm=spec.measuring_radius_mm,
        nominal_mm=nominal,
        hub=hub,
        rotor=rotor,
        joint=joint,
        thickness=waves,
        seating_mm=0.002,
        noise_mm=0.0009,
    )
