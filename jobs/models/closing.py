"""What a job was closed as: the work of each corner with what was foretold and what came, and when to look again.

The record that looking back, learning and the ledger read. Rows are only added: a job that is opened again has its
closing set aside (``stands``), and closing it anew writes another.
"""

from datetime import date
from typing import Any, ClassVar

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import Case, F, Q, When
from django.db.models.functions import Cast, Floor, Least
from django.utils.translation import gettext_lazy as _
from simple_history.models import HistoricalRecords

from jobs.models.job import Job
from workshop.models import POSITION_NAMES, Lathe, PlateKind, User, Vehicle
from workshop.models.door import InWorkshop
from workshop.vehicles import ran_back


class ClosingQuerySet(models.QuerySet["Closing"]):
    """Named reads of closings."""

    def standing(self, job: Job) -> "Closing | None":
        """Return what a job stands closed as; None while it is open."""
        return self.filter(job=job, stands=True).select_related("by").first() if job.is_closed else None

    def waiting(self) -> "ClosingQuerySet":
        """Keep those whose vehicle has not been seen since and is to be looked at again."""
        return self._unseen().exclude(rung=Closing.Rung.GONE)

    def gone(self) -> "ClosingQuerySet":
        """Keep those whose vehicle is said to be sold or scrapped: not looked at again, unless by a slip."""
        return self._unseen().filter(rung=Closing.Rung.GONE)

    def _unseen(self) -> "ClosingQuerySet":
        return self.filter(stands=True, seen_again=None, due_on__isnull=False)

    def due(self, by: date) -> "ClosingQuerySet":
        """Keep those to be looked at by a day, or that have gone their distance already."""
        return self.waiting().filter(Q(due_on__lte=by) | Q(due_km__lte=F("vehicle__odometer_km")))


class Closing(InWorkshop):
    """A job closed: by whom, proven or for what reason, by which figures, and when it is to be looked at again.

    ``due_km`` is an odometer; ``chance`` is that of its being felt again before. ``seen_again`` is the vehicle's next
    job; whether that is a comeback of this work is for a person to say (``comeback``; None: not said yet).
    """

    class Rung(models.TextChoices):
        """What was said when the owner was rung."""

        FINE = "fine", _("all is well")
        FELT = "felt", _("it is felt again")
        NO_ANSWER = "no_answer", _("nobody answered")
        COMES = "comes", _("a day is agreed")
        GONE = "gone", _("sold or scrapped: not to be looked at again")

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="closings")
    vehicle = models.ForeignKey(Vehicle, on_delete=models.PROTECT, related_name="closings")
    model = models.CharField(max_length=60, blank=True)  # of the vehicle, as it was called then
    at = models.DateTimeField()
    by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    proven = models.BooleanField()
    reason = models.TextField(max_length=1000, blank=True)
    found_cause = models.CharField(max_length=40, blank=True)
    odometer_km = models.PositiveIntegerField(null=True, blank=True)
    judged_by = models.JSONField(default=dict, blank=True)  # figures the work was judged by, as in a case's shop
    stands = models.BooleanField(default=True)
    due_on = models.DateField(null=True, blank=True)
    due_km = models.PositiveIntegerField(null=True, blank=True)
    due_why = models.CharField(max_length=8, blank=True)
    chance = models.FloatField(null=True, blank=True)
    rung = models.CharField(max_length=10, choices=Rung.choices, blank=True)
    rung_at = models.DateTimeField(null=True, blank=True)
    rung_by = models.ForeignKey(User, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    rung_note = models.CharField(max_length=300, blank=True)
    seen_again = models.ForeignKey(Job, on_delete=models.PROTECT, null=True, blank=True, related_name="after_closing")
    seen_km = models.PositiveIntegerField(null=True, blank=True)
    comeback = models.BooleanField(null=True, blank=True)
    comeback_by = models.ForeignKey(User, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    part_minutes = models.JSONField(default=dict, blank=True)  # of each part of the work, wherever it was done whole

    history = HistoricalRecords(excluded_fields=["judged_by", "part_minutes"])
    objects = ClosingQuerySet.as_manager()

    class Meta:
        ordering: ClassVar = ["-at", "-pk"]
        indexes: ClassVar = [
            models.Index(fields=["workshop", "-at"], name="closing_by_time", condition=Q(stands=True)),
            models.Index(fields=["workshop", "due_on"], name="closing_due", condition=Q(stands=True, seen_again=None)),
            models.Index(fields=["vehicle", "-at"], name="closing_of_vehicle"),
            models.Index(  # counted by what was found, without a look at the rows
                fields=["workshop", "found_cause"],
                name="closing_by_cause",
                condition=Q(stands=True),
                include=["proven"],
            ),
        ]
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["workshop", "job"], condition=Q(stands=True), name="closing_stands_once"),
            models.CheckConstraint(condition=Q(proven=True) | ~Q(reason=""), name="closing_unproven_has_reason"),
            models.CheckConstraint(
                condition=Q(comeback__isnull=True) | Q(comeback_by__isnull=False), name="closing_comeback_by_somebody"
            ),
        ]

    def __str__(self) -> str:
        """Name it."""
        return f"closing of {self.job}"

    def said(self, **fields: Any) -> None:
        """Change what is said of this closing, and what its works repeat of it."""
        for name, value in fields.items():
            setattr(self, name, value)
        self.save(update_fields=list(fields))
        gone = None
        if self.seen_km is not None and self.odometer_km is not None and not ran_back(self.seen_km, self.odometer_km):
            gone = max(self.seen_km - self.odometer_km, 0)
        self.works.update(stands=self.stands, back=self.comeback, gone_km=gone)


def _tenth_of(odds: str) -> models.GeneratedField:
    """Keep the tenth of the scale, 1 to 10, that odds lie in; none where none were said."""
    tenth = Least(Cast(Floor(F(odds) * 10), models.IntegerField()) + 1, 10)
    # Least passes over a null, and would call odds that were never said the tenth tenth.
    known = Case(When(Q(**{f"{odds}__isnull": False}), then=tenth), default=None)
    return models.GeneratedField(expression=known, output_field=models.SmallIntegerField(), db_persist=True)


class CornerWorked(InWorkshop):
    """One corner's work at a closing: what was found, decided and foretold, and what was measured after it.

    ``stands``, ``on``, ``month``, ``vehicle``, ``odometer_km``, ``model``, ``back`` and ``gone_km`` repeat what its
    closing says, and the tenths of the odds are kept, so that a hundred thousand jobs are counted in one pass over this
    table; ``Closing.said`` is the one place that changes both.
    Lengths in mm, ``expanded`` beside each. ``odds_within`` and ``comeback_odds`` are as said when it was decided.
    ``seating`` is what this corner's mountings say of how rotors seat here (compass.learn.refits).
    """

    closing = models.ForeignKey(Closing, on_delete=models.CASCADE, related_name="works")
    stands = models.BooleanField(default=True)
    on = models.DateField()
    month = models.DateField()  # its first day
    vehicle = models.ForeignKey(Vehicle, on_delete=models.PROTECT, null=True, related_name="+")
    odometer_km = models.PositiveIntegerField(null=True, blank=True)
    model = models.CharField(max_length=60, blank=True)
    back = models.BooleanField(null=True, blank=True)
    gone_km = models.PositiveIntegerField(null=True, blank=True)  # until it was seen again
    position = models.CharField(_("position"), max_length=3, choices=list(POSITION_NAMES.items()))
    axle = models.CharField(max_length=2)
    leads = models.BooleanField(default=False)  # the corner it was all for: one a job, so that jobs can be counted
    root_cause = models.CharField(max_length=40, blank=True)
    remedy = models.CharField(max_length=40)
    against = models.BooleanField(default=False)
    needless = models.BooleanField(default=False)  # metal or parts, though it was closed as no fault of a disc
    spared = models.BooleanField(default=False)  # proven without new rotors, which habit would have fitted
    decided_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    done_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    lathe = models.ForeignKey(Lathe, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    plate = models.ForeignKey(PlateKind, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    supplier = models.CharField(max_length=60, blank=True)  # of a new rotor
    price = models.FloatField(default=0.0)
    minutes_said = models.FloatField(default=0.0)
    minutes_taken = models.FloatField(null=True, blank=True)
    runout_before_mm = models.FloatField(null=True, blank=True)
    variation_before_mm = models.FloatField(null=True, blank=True)
    hub_mm = models.FloatField(null=True, blank=True)
    rotor_mm = models.FloatField(null=True, blank=True)
    hub_share = models.FloatField(null=True, blank=True)
    foretold_low_mm = models.FloatField(null=True, blank=True)
    foretold_mm = models.FloatField(null=True, blank=True)
    foretold_high_mm = models.FloatField(null=True, blank=True)
    odds_within = models.FloatField(null=True, blank=True)
    comeback_odds = models.FloatField(null=True, blank=True)
    odds_tenth = _tenth_of("odds_within")
    comeback_tenth = _tenth_of("comeback_odds")
    runout_mm = models.FloatField(null=True, blank=True)
    runout_expanded_mm = models.FloatField(null=True, blank=True)
    variation_mm = models.FloatField(null=True, blank=True)
    variation_expanded_mm = models.FloatField(null=True, blank=True)
    thinnest_mm = models.FloatField(null=True, blank=True)
    within = models.BooleanField(null=True, blank=True)  # its runout, by the limit in force
    came = models.CharField(max_length=10, blank=True)  # beside the band foretold, as compass.prove.proof.Came
    new_rotor_mm = models.FloatField(null=True, blank=True)
    new_rotor_u_mm = models.FloatField(null=True, blank=True)
    seating = ArrayField(models.FloatField(), default=list, blank=True)

    class Meta:
        ordering: ClassVar = ["pk"]
        indexes: ClassVar = [
            models.Index(fields=["workshop", "on"], name="corner_worked_on", condition=Q(stands=True)),
            models.Index(
                fields=["workshop", "odds_tenth"],
                include=["on", "odds_within", "within"],
                name="corner_worked_odds",
                condition=Q(stands=True),
            ),
            models.Index(
                fields=["workshop", "comeback_tenth"],
                include=["on", "comeback_odds", "vehicle", "odometer_km", "back", "gone_km"],
                name="corner_worked_comeback",
                condition=Q(leads=True, stands=True),
            ),
            models.Index(
                fields=["workshop", "vehicle"],
                name="corner_worked_on_the_road",
                condition=Q(leads=True, stands=True, gone_km__isnull=True),
            ),
            models.Index(
                fields=["workshop", "lathe"],
                name="corner_worked_lathe",
                condition=Q(stands=True, lathe__isnull=False),
            ),
            models.Index(
                fields=["workshop", "remedy", "gone_km", "back"],
                name="corner_worked_held",
                condition=Q(leads=True, stands=True),
            ),
        ]
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["workshop", "closing", "position"], name="corner_worked_once"),
            models.UniqueConstraint(
                fields=["workshop", "closing"], condition=Q(leads=True), name="corner_worked_leads_once"
            ),
        ]

    def __str__(self) -> str:
        """Name it."""
        return f"{self.position} {self.remedy}"
