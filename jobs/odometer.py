"""An odometer held against what was read of it before and after, asked back where that cannot be, and put right."""

from collections.abc import Iterable
from datetime import date, datetime
from typing import Final, NamedTuple

from django import forms
from django.utils import timezone
from django.utils.formats import date_format
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from compass.ground.units import Unit
from jobs.models import Closing, Job
from workshop.models import User, Vehicle
from workshop.vehicles import note_odometer, ran_back
from workshop.words import distance_text

_MOST_A_DAY_KM: Final = 1_500  # two drivers, day and night; our estimate
_UNASKED_KM: Final = 25_000  # more than that in a day is a digit too many, and no wrong day; our estimate


class OdometerRead(NamedTuple):
    """What an odometer showed, and on which day."""

    km: int
    on: date


def read_before(vehicle: Vehicle, job: Job | None = None) -> OdometerRead | None:
    """Return what was read at the last visit, before ``job`` where there is one; None where nothing was."""
    visits = vehicle.jobs.filter(odometer_km__isnull=False)
    if job is not None:
        visits = visits.filter(created_at__lt=job.created_at)
    return _read(visits.order_by("-created_at").values_list("odometer_km", "created_at").first())


def read_after(job: Job) -> OdometerRead | None:
    """Return what was read at the first visit after a job; None where nothing was."""
    visits = job.vehicle.jobs.filter(odometer_km__isnull=False, created_at__gt=job.created_at)
    return _read(visits.order_by("created_at").values_list("odometer_km", "created_at").first())


def _read(row: tuple[int, datetime] | None) -> OdometerRead | None:
    return None if row is None else OdometerRead(row[0], timezone.localdate(row[1]))


def doubt(km: int, *, on: date, before: OdometerRead | None, after: OdometerRead | None, unit: Unit) -> str:
    """Say why an odometer cannot show ``km`` on a day; empty where it may."""
    if before is not None:
        stood = {"at": distance_text(before.km, unit), "on": date_format(before.on, "DAY")}
        if ran_back(km, before.km):
            return _("It stood at %(at)s on %(on)s, and does not run back. Read it again.") % stood
        most = before.km + _UNASKED_KM + _MOST_A_DAY_KM * (max((on - before.on).days, 0) + 1)
        if km > most:
            return _("It stood at %(at)s on %(on)s: nobody drives as far as that since. Read it again.") % stood
    if after is not None and ran_back(after.km, km):
        stood = {"at": distance_text(after.km, unit), "on": date_format(after.on, "DAY")}
        return _("It stood at %(at)s on %(on)s, which is later, and does not run back. Read it again.") % stood
    return ""


def since_changed(reads: Iterable[tuple[datetime, int]]) -> list[tuple[datetime, int]]:
    """Return what was read (when, km) since the odometer last stood lower than before, by time: all by one clock."""
    by_one: list[tuple[datetime, int]] = []
    for read in sorted(reads):
        if by_one and ran_back(read[1], by_one[-1][1]):
            by_one = []
        by_one.append(read)
    return by_one


class HoldsOdometer(forms.BaseForm):
    """A form that asks back about an ``odometer_km`` that cannot be; the question is a field only where it is asked."""

    def hold_odometer(
        self,
        km: int | None,
        unit: Unit,
        *,
        before: OdometerRead | None,
        after: OdometerRead | None = None,
        on: date | None = None,
    ) -> None:
        """Put the doubt beside the field, unless it was said that it does stand so."""
        if km is None:
            return
        words = doubt(km, on=on or timezone.localdate(), before=before, after=after, unit=unit)
        if not words or self.data.get(self.add_prefix("odometer_meant")):
            return
        self.add_error("odometer_km", words)
        meant = gettext_lazy("It does stand so: the odometer was changed, or the record is wrong")
        self.fields["odometer_meant"] = forms.BooleanField(label=meant, required=False)


def put_right(user: User, job: Job) -> None:
    """Carry a job's odometer that was changed on to what repeats it: its vehicle, and what it had seen again."""
    newest = read_before(job.vehicle)
    if newest is not None:
        note_odometer(user, job.vehicle, newest.km, runs_back=True)
    for closing in Closing.of(user).filter(seen_again=job):
        closing._history_user = user
        closing.said(seen_km=job.odometer_km)
