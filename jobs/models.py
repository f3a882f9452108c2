"""A job, its corners, and the tapes of readings: one row a sweep or round, its readings as arrays.

What was typed stands beside its millimetres, slot by slot. A sweep's last slot is the reading back at the start.
"""

from typing import Any, ClassVar

from django.contrib.postgres.constraints import ExclusionConstraint
from django.contrib.postgres.fields import ArrayField, DateTimeRangeField, RangeBoundary, RangeOperators
from django.contrib.postgres.indexes import GinIndex, OpClass
from django.db import models
from django.db.models import F, Q
from django.db.models.functions import Upper
from django.utils.translation import gettext_lazy as _
from simple_history.models import HistoricalRecords

from compass.ground.units import Unit
from jobs.remedy_models import Cut, CutPass, Decision, FittedPlate
from workshop.models import POSITION_NAMES, AxleLimits, Instrument, User, Vehicle, axle_of


class JobQuerySet(models.QuerySet["Job"]):
    """Named reads of jobs; each fetches all that its page draws."""

    def for_floor(self) -> "JobQuerySet":
        """Fetch what a strip on the floor shows."""
        return self.select_related("vehicle", "assigned_to").prefetch_related("corners")

    def for_page(self) -> "JobQuerySet":
        """Fetch what every page of a job shows in its head and ribbon."""
        people = self.select_related("vehicle", "assigned_to", "closed_by")
        corners = models.Prefetch("corners", Corner.objects.select_related("limits", "look"))
        return people.prefetch_related(corners)

    def for_choosing(self) -> "JobQuerySet":
        """Fetch beside that what was decided and which plates the vehicle carries."""
        plates = models.Prefetch("vehicle__fitted_plates", FittedPlate.objects.select_related("plate"))
        decisions = models.Prefetch("decisions", Decision.objects.select_related("decided_by"))
        return self.for_page().prefetch_related(plates, decisions)

    def matching(self, words: str) -> "JobQuerySet":
        """Keep jobs whose vehicle, registration or complaint holds every word; a number finds the job."""
        found = self
        for word in words.split()[:6]:
            # Vehicles are few and looked up first: a join would keep PostgreSQL from the index on the words.
            vehicles = list(Vehicle.objects.matching(word).values_list("pk", flat=True)[:500])
            by_number = Q(pk=int(word)) if word.isdecimal() and len(word) < 10 else Q()
            found = found.filter(by_number | Q(vehicle_id__in=vehicles) | Q(complaint__icontains=word))
        return found


class Job(models.Model):
    """One visit of one vehicle for one complaint."""

    class State(models.TextChoices):
        """Where a job stands."""

        BOOKED = "booked", _("booked")
        OPEN = "open", _("in the bay")
        WAITING = "waiting", _("waiting for parts")
        CLOSED = "closed", _("closed")

    vehicle = models.ForeignKey(Vehicle, on_delete=models.PROTECT, related_name="jobs")
    complaint = models.TextField(_("complaint, in the driver's words"), max_length=2000, blank=True)
    odometer_km = models.PositiveIntegerField(_("odometer (km)"), null=True, blank=True)
    state = models.CharField(_("state"), max_length=8, choices=State.choices, default=State.BOOKED)
    assigned_to = models.ForeignKey(
        User, on_delete=models.SET_NULL, null=True, blank=True, related_name="jobs", verbose_name=_("who has it")
    )
    story = models.JSONField(default=dict, blank=True)  # the interview, in the words of the case file's complaint
    road_test = models.JSONField(default=dict, blank=True)  # what a recording showed, for the page
    found_cause = models.CharField(_("cause found"), max_length=40, blank=True)
    case_rest = models.JSONField(default=dict, blank=True)  # of an imported case: what has no place of its own yet
    closing_reason = models.TextField(_("reason for closing"), max_length=1000, blank=True)
    closed_by = models.ForeignKey(User, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    created_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField()
    changed_at = models.DateTimeField(auto_now=True)
    decided = ArrayField(models.CharField(max_length=2), default=list, blank=True)  # axles with a decision
    version = models.PositiveIntegerField(default=1)  # optimistic check of the words and who has it
    history = HistoricalRecords(excluded_fields=["changed_at", "version"])

    objects = JobQuerySet.as_manager()

    class Meta:
        ordering: ClassVar = ["-created_at", "-pk"]
        indexes: ClassVar = [
            models.Index(fields=["state", "-created_at"], name="job_floor"),
            models.Index(fields=["-created_at", "-id"], name="job_newest"),
            models.Index(fields=["vehicle", "-created_at"], name="job_of_vehicle"),
            models.Index(fields=["found_cause", "-created_at"], name="job_by_cause", condition=~Q(found_cause="")),
            # icontains is UPPER(x) LIKE UPPER(%…%): only a trigram index serves it at 100,000 jobs.
            GinIndex(OpClass(Upper("complaint"), name="gin_trgm_ops"), name="job_complaint_words"),
        ]
        constraints: ClassVar = [
            models.CheckConstraint(
                condition=~Q(state="closed") | Q(closed_by__isnull=False), name="job_closed_by_somebody"
            ),
        ]

    def __str__(self) -> str:
        """Name the job as the bay does."""
        return str(_("Job %(number)s") % {"number": self.pk})

    @property
    def is_closed(self) -> bool:
        """Whether nothing may be written any more."""
        return self.state == Job.State.CLOSED


class Corner(models.Model):
    """One wheel of a job. ``verdict`` keeps the core's last answer as data, so that lists need no computing."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="corners")
    position = models.CharField(_("position"), max_length=3, choices=list(POSITION_NAMES.items()))
    place = models.PositiveSmallIntegerField()  # order of the positions on the vehicle
    limits = models.ForeignKey(AxleLimits, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    verdict = models.JSONField(default=dict, blank=True)

    class Meta:
        ordering: ClassVar = ["place"]
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["job", "position"], name="corner_once_a_job"),
        ]

    def __str__(self) -> str:
        """Name the position in words."""
        return str(POSITION_NAMES[self.position])

    @property
    def axle(self) -> str:
        """The axle this corner is on."""
        return axle_of(self.position)


class Tape(models.Model):
    """Readings of one instrument at stations; base of sweeps and thickness rounds."""

    class EntryUnit(models.TextChoices):
        """What a bare number on this tape counts."""

        DIVISION = Unit.DIVISION.value, _("dial divisions")
        MM = Unit.MM.value, _("mm")
        THOU = Unit.THOU.value, _("thou")
        INCH = Unit.INCH.value, _("inches")

    instrument = models.ForeignKey(Instrument, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    confirmed = ArrayField(models.CharField(max_length=12), default=list, blank=True)  # what the hand confirmed
    graduation_mm = models.FloatField()
    instrument_error_mm = models.FloatField(default=0.0)
    entry_unit = models.CharField(max_length=4, choices=EntryUnit.choices)
    index_deg = models.FloatField(default=0.0)
    stations_deg = ArrayField(models.FloatField())
    typed = ArrayField(models.CharField(max_length=40, blank=True))
    readings_mm = ArrayField(models.FloatField(null=True))
    marks = models.JSONField(default=dict, blank=True)  # slot → who wrote it last: {"c": client, "n": edit number}
    undo_cursor = models.BigIntegerField(null=True, blank=True)  # history row that is shown while undoing
    created_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        abstract = True

    def __str__(self) -> str:
        """Name the tape for the audit trail."""
        return f"{self._meta.verbose_name} {self.pk}"

    @property
    def slots(self) -> int:
        """How many readings the tape takes."""
        return len(self.typed)

    @property
    def unit(self) -> Unit:
        """The unit of a bare number."""
        return Unit(self.entry_unit)

    @property
    def stations_to_go(self) -> int:
        """How many stations have no usable reading yet; the way back is not counted."""
        return sum(z is None for z in self.readings_mm[: len(self.stations_deg)])

    @property
    def is_empty(self) -> bool:
        """Whether nothing has been typed yet."""
        return not any(self.typed)


def _as_long(first: str, second: str) -> Any:
    return Q(**{f"{first}__len": F(f"{second}__len")})


class Sweep(Tape):
    """One turn under the dial. Slots: one a station, then the reading back at the start."""

    corner = models.ForeignKey(Corner, on_delete=models.CASCADE, related_name="sweeps")
    surface = models.CharField(max_length=16, default="rotor_outboard")
    radius_mm = models.FloatField()
    read_to = models.FloatField(default=1.0)
    cleaned = models.BooleanField(default=False)
    nuts_torqued = models.BooleanField(default=False)
    history = HistoricalRecords(excluded_fields=["marks", "undo_cursor"])

    kind = "sweep"
    most_mm = 10.0  # mm; the longest travel of a workshop dial
    signed = True

    class Meta:
        ordering: ClassVar = ["pk"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=_as_long("typed", "readings_mm"), name="sweep_typed_beside_mm"),
            models.CheckConstraint(condition=Q(radius_mm__gt=0, graduation_mm__gt=0), name="sweep_above_zero"),
        ]

    @property
    def set_up(self) -> tuple[Any, ...]:
        """What must be the same for another turn to be a repeat of this one."""
        return (self.surface, self.index_deg, self.radius_mm, self.cleaned, self.nuts_torqued)


class ThicknessRound(Tape):
    """Micrometer readings round the disc. Slots: radius by radius, one a station."""

    corner = models.ForeignKey(Corner, on_delete=models.CASCADE, related_name="rounds")
    radii_mm = ArrayField(models.FloatField())
    lips_within_mm = models.FloatField(default=0.05)  # even bound of each lip, where a caliper rests on them
    history = HistoricalRecords(excluded_fields=["marks", "undo_cursor"])

    kind = "thickness"
    most_mm = 100.0  # mm; no disc is thicker
    signed = False

    class Meta:
        ordering: ClassVar = ["pk"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=_as_long("typed", "readings_mm"), name="round_typed_beside_mm"),
        ]


class QuickReading(models.Model):
    """The high spot and the amount, taken on a slow turn without a tape; as typed beside its millimetres."""

    corner = models.ForeignKey(Corner, on_delete=models.CASCADE, related_name="quick_readings")
    instrument = models.ForeignKey(Instrument, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    surface = models.CharField(max_length=16, default="rotor_outboard")
    radius_mm = models.FloatField()
    index_deg = models.FloatField(default=0.0)
    cleaned = models.BooleanField(default=False)
    nuts_torqued = models.BooleanField(default=False)
    typed = models.CharField(max_length=40)
    tir_mm = models.FloatField()
    graduation_mm = models.FloatField()
    high_deg = models.FloatField()
    within_deg = models.FloatField(default=15.0)
    withdrawn = models.BooleanField(default=False)  # a wrong one is struck out, not wiped out
    created_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    history = HistoricalRecords()

    class Meta:
        ordering: ClassVar = ["pk"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(tir_mm__gte=0, radius_mm__gt=0), name="quick_reading_is_a_size"),
        ]

    def __str__(self) -> str:
        """Name it for the audit trail."""
        return f"quick reading {self.pk}"


class Look(models.Model):
    """What looking and measuring beside the disc has found at one corner: as typed, field by field."""

    corner = models.OneToOneField(Corner, on_delete=models.CASCADE, related_name="look")
    typed = models.JSONField(default=dict, blank=True)
    findings = ArrayField(models.CharField(max_length=20), default=list, blank=True)
    unit = models.CharField(max_length=4, default="mm")  # of a bare number, as the person who typed it reads
    history = HistoricalRecords()

    def __str__(self) -> str:
        """Name it for the audit trail."""
        return f"look {self.pk}"


class RotorFitting(models.Model):
    """That a rotor was fitted at a distance driven, with its thickness then: the beginning of its wear."""

    class Source(models.TextChoices):
        """Where the thickness comes from."""

        MEASURED = "measured", _("measured when fitted")
        NOMINAL = "nominal", _("as new, by the maker's figure")

    vehicle = models.ForeignKey(Vehicle, on_delete=models.CASCADE, related_name="rotor_fittings")
    position = models.CharField(_("position"), max_length=3, choices=list(POSITION_NAMES.items()))
    odometer_km = models.PositiveIntegerField(_("odometer when fitted (km)"))
    thickness_mm = models.FloatField(_("thickness when fitted"))
    source = models.CharField(_("source"), max_length=8, choices=Source.choices, default=Source.MEASURED)
    created_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    history = HistoricalRecords()

    class Meta:
        ordering: ClassVar = ["odometer_km", "pk"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(thickness_mm__gt=0), name="rotor_fitting_has_metal"),
        ]

    def __str__(self) -> str:
        """Name it for the audit trail."""
        return f"{self.vehicle} {self.position} {self.odometer_km}"


class TsTzRange(models.Func):
    """A range of time out of two columns, for the constraint below."""

    function = "TSTZRANGE"
    output_field = DateTimeRangeField()


class Booking(models.Model):
    """A place of the workshop (bay or lathe) taken by a job for a while. No place is taken twice at once."""

    class Place(models.TextChoices):
        """Where a job can stand, or what it needs."""

        BAY_1 = "bay_1", _("bay 1")
        BAY_2 = "bay_2", _("bay 2")
        LATHE = "lathe", _("lathe")

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="bookings")
    place = models.CharField(_("place"), max_length=6, choices=Place.choices)
    starts_at = models.DateTimeField(_("from"))
    ends_at = models.DateTimeField(_("until"))
    created_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    history = HistoricalRecords()

    class Meta:
        ordering: ClassVar = ["starts_at", "pk"]
        indexes: ClassVar = [models.Index(fields=["starts_at"], name="booking_day")]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(ends_at__gt=F("starts_at")), name="booking_takes_time"),
            ExclusionConstraint(
                name="booking_once_a_place",
                expressions=[
                    (TsTzRange("starts_at", "ends_at", RangeBoundary()), RangeOperators.OVERLAPS),
                    ("place", RangeOperators.EQUAL),
                ],
            ),
        ]

    def __str__(self) -> str:
        """Name it for the audit trail."""
        return f"{self.place} {self.starts_at:%H:%M}"


__all__ = [
    "Booking",
    "Corner",
    "Cut",
    "CutPass",
    "Decision",
    "FittedPlate",
    "Job",
    "Look",
    "QuickReading",
    "RotorFitting",
    "Sweep",
    "Tape",
    "ThicknessRound",
]
