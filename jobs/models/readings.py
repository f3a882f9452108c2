"""The tapes of readings, quick readings and looks: one row a sweep or round, its readings as arrays.

What was typed stands beside its millimetres, slot by slot. A sweep's last slot is the reading back at the start.
"""

from typing import Any, ClassVar

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import F, Q
from django.utils.translation import gettext_lazy as _
from simple_history.models import HistoricalRecords

from compass.ground.units import Unit
from jobs.models.job import Corner
from workshop.models import Instrument, User
from workshop.models.door import InWorkshop


class Tape(InWorkshop):
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
    struck = models.BooleanField(default=False)  # a wrong one is struck out, not wiped out
    episode = models.PositiveSmallIntegerField(default=0)  # of the corner: 0 as it came in, then after each work
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
        return 0 if self.struck else sum(z is None for z in self.readings_mm[: len(self.stations_deg)])

    @property
    def is_broken_off(self) -> bool:
        """Whether it was begun and not read to its last station: what the rest of the turn is, nobody has seen."""
        return not self.is_empty and not self.struck and self.readings_mm[len(self.stations_deg) - 1] is None

    def stands_in_for(self, broken_off: "Tape") -> bool:
        """Whether it was read to its end, later, of the same thing: what was broken off is not missed any more."""
        whole = not (self.is_empty or self.struck or self.is_broken_off)
        return whole and self.subject == broken_off.subject and self.created_at > broken_off.created_at

    @property
    def subject(self) -> tuple[Any, ...]:
        """What was read: two tapes of the same are readings of one thing."""
        return (self.kind, getattr(self, "surface", ""), self.index_deg)

    @property
    def name(self) -> str:
        """What names it among the tapes of its corner, in addresses."""
        return f"{self.kind[0]}{self.pk}"

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
    rounds = models.PositiveSmallIntegerField(default=1)  # of an imported case: how many each reading is the mean of
    history = HistoricalRecords(excluded_fields=["marks", "undo_cursor"])

    kind = "thickness"
    most_mm = 100.0  # mm; no disc is thicker
    signed = False

    @property
    def rows_mm(self) -> list[list[float | None]]:
        """The readings radius by radius, one a station."""
        stations = len(self.stations_deg) or 1
        return [self.readings_mm[k : k + stations] for k in range(0, len(self.readings_mm), stations)]

    @property
    def stations_to_go(self) -> int:
        """How many stations have no usable reading yet, at all radii."""
        return 0 if self.struck else sum(mm is None for mm in self.readings_mm)

    @property
    def is_broken_off(self) -> bool:
        """Whether a radius was begun and not read to its last station; one that nobody began is not missed."""
        begun = [row for row in self.rows_mm if any(mm is not None for mm in row)]
        return not (self.is_empty or self.struck) and (not begun or any(row[-1] is None for row in begun))

    class Meta:
        ordering: ClassVar = ["pk"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=_as_long("typed", "readings_mm"), name="round_typed_beside_mm"),
        ]


class QuickReading(InWorkshop):
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
    episode = models.PositiveSmallIntegerField(default=0)
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


class Look(InWorkshop):
    """What looking and measuring beside the disc has found at one corner: as typed, field by field."""

    corner = models.OneToOneField(Corner, on_delete=models.CASCADE, related_name="look")
    typed = models.JSONField(default=dict, blank=True)
    findings = ArrayField(models.CharField(max_length=20), default=list, blank=True)
    unit = models.CharField(max_length=4, default="mm")  # of a bare number, as the person who typed it reads
    history = HistoricalRecords()

    class Meta:
        constraints: ClassVar = [models.UniqueConstraint(fields=["workshop", "corner"], name="look_once_a_corner")]

    def __str__(self) -> str:
        """Name it for the audit trail."""
        return f"look {self.pk}"


# All that a corner is diagnosed from beside its limits and its look, with the instruments, in three queries.
EVIDENCE = (
    models.Prefetch("sweeps", Sweep.objects.select_related("instrument")),
    models.Prefetch("rounds", ThicknessRound.objects.select_related("instrument")),
    "quick_readings",
)
