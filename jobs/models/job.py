"""A job and its corners."""

from typing import Any, ClassVar

from django.contrib.postgres.fields import ArrayField
from django.contrib.postgres.indexes import GinIndex, OpClass
from django.db import models
from django.db.models import Q
from django.db.models.functions import Upper
from django.utils.translation import gettext_lazy as _
from simple_history.models import HistoricalRecords

from compass.evidence.complaint import STILL_FELT
from compass.ground.positions import axle_of
from jobs.kept import KeptCorner, KeptJob
from jobs.models.decision import Decision
from jobs.models.fitted import FittedPlate
from workshop.models import POSITION_NAMES, AxleLimits, User, Vehicle
from workshop.models.door import InWorkshop

_MENDED = "mended_beside"  # in the story, in the words of the case file


class JobQuerySet(models.QuerySet["Job"]):
    """Named reads of jobs; each fetches all that its page draws."""

    def for_floor(self) -> "JobQuerySet":
        """Fetch what a strip on the floor shows."""
        return self.select_related("vehicle", "assigned_to").prefetch_related("corners")

    def for_page(self) -> "JobQuerySet":
        """Fetch what every page of a job shows in its head and ribbon."""
        return self.select_related("vehicle").prefetch_related(CORNERS)

    def for_complaint(self) -> "JobQuerySet":
        """Fetch beside that who has the job and who closed it."""
        return self.for_page().select_related("assigned_to", "closed_by")

    def for_choosing(self) -> "JobQuerySet":
        """Fetch beside that what was decided and which plates the vehicle carries."""
        plates = models.Prefetch("vehicle__fitted_plates", FittedPlate.objects.select_related("plate"))
        decisions = models.Prefetch("decisions", Decision.objects.select_related("decided_by"))
        return self.for_page().prefetch_related(plates, decisions)

    def for_doing(self) -> "JobQuerySet":
        """Fetch what was decided and the work under way beside what every page shows."""
        decisions = models.Prefetch("decisions", Decision.objects.select_related("decided_by"))
        return self.for_page().select_related("run").prefetch_related(decisions)

    def open_beside(self, job: "Job") -> "Job | None":
        """Return another job of the same vehicle that is open; None where there is none."""
        others = self.filter(vehicle_id=job.vehicle_id).exclude(state=Job.State.CLOSED).exclude(pk=job.pk)
        return others.order_by("-pk").first()

    def matching(self, words: str) -> "JobQuerySet":
        """Keep jobs whose vehicle, registration or complaint holds every word; a number finds the job."""
        rows = self
        for word in words.split()[:6]:
            # Vehicles are few and looked up first: a join would keep PostgreSQL from the index on the words.
            vehicles = list(Vehicle.objects.matching(word).values_list("pk", flat=True)[:500])
            by_number = Q(pk=int(word)) if word.isdecimal() and len(word) < 10 else Q()
            rows = rows.filter(by_number | Q(vehicle_id__in=vehicles) | Q(complaint__icontains=word))
        return rows


class Job(InWorkshop):
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
    with_trainee = models.ForeignKey(
        User,
        on_delete=models.SET_NULL,
        null=True,
        blank=True,
        related_name="+",
        verbose_name=_("trainee at it"),
        limit_choices_to={"role": User.Role.TRAINEE},
    )
    story = models.JSONField(default=dict, blank=True)  # the interview, in the words of the case file's complaint
    road_test = models.JSONField(default=dict, blank=True)  # what a recording showed, for the page
    found_cause = models.CharField(_("cause found"), max_length=40, blank=True)
    judgement = models.JSONField(default=dict, blank=True)  # what the core says of the vehicle; read through ``kept``
    base_rates = models.JSONField(default=dict, blank=True)  # of causes, as the workshop knew them at the opening
    figures = models.JSONField(default=dict, blank=True)  # learnt ones in force at the opening, as in a case's shop
    case_rest = models.JSONField(default=dict, blank=True)  # of an imported case: what has no place of its own yet
    closing_reason = models.TextField(_("reason for closing"), max_length=1000, blank=True)
    closed_by = models.ForeignKey(User, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    created_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField()
    changed_at = models.DateTimeField(auto_now=True)
    decided = ArrayField(models.CharField(max_length=2), default=list, blank=True)  # axles with a decision
    version = models.PositiveIntegerField(default=1)  # optimistic check of the words and who has it
    history = HistoricalRecords(excluded_fields=["changed_at", "version", "judgement", "base_rates", "figures"])

    objects = JobQuerySet.as_manager()

    class Meta:
        ordering: ClassVar = ["-created_at", "-pk"]
        indexes: ClassVar = [
            models.Index(fields=["workshop", "state", "-created_at"], name="job_floor"),
            models.Index(fields=["workshop", "-created_at", "-id"], name="job_newest"),
            models.Index(fields=["vehicle", "-created_at"], name="job_of_vehicle"),
            models.Index(
                fields=["workshop", "created_at"], name="job_with_work", condition=~Q(decided=[]) & ~Q(state="closed")
            ),
            models.Index(
                fields=["workshop", "found_cause", "-created_at"], name="job_by_cause", condition=~Q(found_cause="")
            ),
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
    def still_felt(self) -> bool:
        """Whether it was felt on the road after the work, as before or less."""
        return self.story.get("after_work") in STILL_FELT

    @property
    def mended_beside(self) -> list[dict[str, Any]]:
        """What was put right beside the discs: cause, position of what sits at a corner, whether it was driven."""
        return list(self.story.get(_MENDED, []))

    def mend_beside(self, mended: list[dict[str, Any]]) -> None:
        """Tell what was put right beside the discs; the caller saves."""
        rest = {name: value for name, value in self.story.items() if name != _MENDED}
        self.story = rest | ({_MENDED: mended} if mended else {})

    @property
    def kept(self) -> KeptJob:
        """What the core said of the vehicle last."""
        return KeptJob.read(self.judgement)

    def keep_judgement(self, data: dict[str, Any]) -> None:
        """Keep what the core says of the vehicle: no change of the job, so no line in its history."""
        self.judgement = data
        Job.objects.filter(pk=self.pk).update(judgement=data)

    @property
    def is_closed(self) -> bool:
        """Whether nothing may be written any more."""
        return self.state == Job.State.CLOSED


class Corner(InWorkshop):
    """One wheel of a job. ``verdict`` keeps the core's last answer as data, so that lists need no computing.

    ``episode`` counts the works that changed it; readings taken now belong to it and never join those of an earlier
    one. ``after`` keeps what the core says of the episode now, once there is a work behind it. ``decided_in`` is the
    episode in which work that will change it was decided last; None where none is. ``works`` are what began each
    episode, a remedy; empty where that is not on record. ``remedy`` is what is decided for it now; empty: nothing.
    """

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="corners")
    position = models.CharField(_("position"), max_length=3, choices=list(POSITION_NAMES.items()))
    place = models.PositiveSmallIntegerField()  # order of the positions on the vehicle
    limits = models.ForeignKey(AxleLimits, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    verdict = models.JSONField(default=dict, blank=True)
    episode = models.PositiveSmallIntegerField(default=0)
    after = models.JSONField(default=dict, blank=True)
    decided_in = models.PositiveSmallIntegerField(null=True, blank=True)
    remedy = models.CharField(max_length=60, blank=True)
    works = ArrayField(models.CharField(max_length=60, blank=True), default=list, blank=True)

    class Meta:
        ordering: ClassVar = ["place"]
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["workshop", "job", "position"], name="corner_once_a_job"),
        ]

    def __str__(self) -> str:
        """Name the position in words."""
        return str(POSITION_NAMES[self.position])

    @property
    def kept(self) -> KeptCorner | None:
        """What the core said of this corner as it came in; None while nothing is measured."""
        return KeptCorner.read(self.verdict)

    @property
    def stands(self) -> KeptCorner | None:
        """What the core says of it as it stands now: after the last work, None until it is measured again."""
        return KeptCorner.read(self.after) if self.episode else self.kept

    @property
    def is_to_do(self) -> bool:
        """Whether work was decided for it that has not changed it yet; another one may have."""
        if self.decided_in is None or self.episode <= self.decided_in:
            return self.decided_in is not None
        since = set(self.works[self.decided_in : self.episode])
        return bool(since) and not since & {"", self.remedy}

    def next_decided_in(self, code: str, *, same: bool) -> int:
        """Return in which episode the work ``code``, decided now, begins; ``same``: it is the one decided last.

        What was changed and not read since is a work under way: another choice goes on from it, but a new disc has
        nothing of what was done to the old one. The same work once more begins where the last was read and did not
        hold.
        """
        stands, before = self.stands, self.decided_in
        if self.episode == 0:
            return 0
        if stands is None:
            if code.startswith("new_rotors") and self.works[self.episode - 1 : self.episode] != [code]:
                return self.episode
            return before if same and before is not None and before < self.episode else self.episode - 1
        if before is not None and (self.episode <= before or (same and stands.within)):
            return min(before, self.episode)
        return self.episode - 1 if same and stands.within else self.episode

    @property
    def axle(self) -> str:
        """The axle this corner is on."""
        return axle_of(self.position)

    @classmethod
    def on_jobs(cls, jobs: models.QuerySet[Job]) -> models.QuerySet["Corner"]:
        """Return the corners of jobs that came through their own door."""
        return cls.objects.filter(job__in=jobs)

    def keep_verdict(self, verdict: dict[str, Any], after: dict[str, Any]) -> None:
        """Keep what the core says beside the corner: no change of the job, so no line in its history."""
        self.verdict, self.after = verdict, after
        Corner.objects.filter(pk=self.pk).update(verdict=verdict, after=after)


CORNERS = models.Prefetch("corners", Corner.objects.select_related("limits", "look"))
