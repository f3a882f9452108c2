"""The last judgement as it is kept beside its rows: typed records, the only readers and writers of those columns.

``Corner.verdict`` and ``Job.judgement`` are written in the transaction that changes the evidence, so that lists and
heads of pages need no computing. Each carries the digest of the evidence it rests on and the version of the core.
"""

from dataclasses import dataclass
from typing import Any

from compass import __version__
from compass.cause.causes import CURED_BY_MEASURING
from compass.cause.measured import WornLining
from compass.cause.verdict import CornerVerdict
from compass.ground.limits import State
from compass.judge.next_step import NextStep
from compass.judge.vehicle import Judgement


@dataclass(frozen=True, slots=True)
class KeptCorner:
    """What lists and heads of pages say of one measured corner."""

    root_cause: str
    do_not_drive: bool
    runout: str  # states
    variation: str
    high_deg: float | None
    min_mm: float | None
    min_expanded_mm: float
    evidence: str = ""
    runout_mm: float | None = None
    runout_expanded_mm: float = 0.0
    variation_mm: float | None = None
    variation_expanded_mm: float = 0.0
    broken_off: str = ""  # the tape that was begun and not read to its end
    linings: tuple[WornLining, ...] = ()  # pads and shoes that are under their least thickness
    thickness_doubted: bool = False  # a thickness can hardly be of this disc: it is miked again
    lips_hide_wear: bool = False  # lips that nobody measured hide whether it is worn: they are measured

    @property
    def clear(self) -> bool:
        """Whether everything is measured, to its end, and within: nothing was found here."""
        return self.root_cause == "none_found" and not self.broken_off

    @property
    def settled(self) -> bool:
        """Whether nothing is left to be done: in order, or cured by the cleaning and torquing that measuring took."""
        cured = self.within and self.root_cause in CURED_BY_MEASURING and not self.broken_off
        return self.clear or cured

    @property
    def within(self) -> bool:
        """Whether runout and variation are within their limits, and nothing forbids driving."""
        return self.runout == self.variation == State.WITHIN.value and not self.do_not_drive

    @property
    def over(self) -> bool:
        """Whether anything is over its limit for sure, or forbids driving."""
        return State.OVER.value in (self.runout, self.variation) or self.do_not_drive

    @property
    def begun(self) -> str:
        """Which reading was begun and not finished: ``sweep``, ``thickness`` or empty."""
        return {"": "", "s": "sweep"}.get(self.broken_off[:1], "thickness")

    @classmethod
    def of(cls, verdict: CornerVerdict, *, root_cause: str, evidence: str, broken_off: str = "") -> "KeptCorner":
        """Keep a verdict with the root cause the vehicle's judgement gives it, and the tape that was broken off."""
        measured = verdict.measured
        result, tir = measured.thickness.result, measured.runout.tir
        variation = result.variation if result is not None else None
        return cls(
            root_cause=root_cause,
            do_not_drive=verdict.do_not_drive,
            runout=measured.runout.state.value,
            variation=measured.thickness.state_variation.value,
            high_deg=measured.runout.high_deg,
            min_mm=result.minimum.value_mm if result is not None else None,
            min_expanded_mm=result.minimum.expanded_mm if result is not None else 0.0,
            evidence=evidence,
            runout_mm=tir.value_mm if tir is not None else None,
            runout_expanded_mm=tir.expanded_mm if tir is not None else 0.0,
            variation_mm=variation.value_mm if variation is not None else None,
            variation_expanded_mm=variation.expanded_mm if variation is not None else 0.0,
            broken_off=broken_off,
            linings=measured.worn_linings,
            thickness_doubted=measured.thickness.is_doubted,
            lips_hide_wear=measured.lips_hide_wear,
        )

    @classmethod
    def read(cls, data: dict[str, Any]) -> "KeptCorner | None":
        """Read the column; None where nothing is measured. Rows of earlier versions hold more keys."""
        if not data:
            return None
        runout, thickness = data.get("runout", {}), data.get("thickness", {})
        return cls(
            root_cause=data.get("root_cause", "not_separable"),
            do_not_drive=bool(data.get("do_not_drive")),
            runout=runout.get("state", State.UNKNOWN.value),
            variation=thickness.get("state_variation", State.UNKNOWN.value),
            high_deg=runout.get("high_deg"),
            min_mm=thickness.get("min_mm"),
            min_expanded_mm=thickness.get("u_mm") or 0.0,
            evidence=data.get("evidence", ""),
            runout_mm=runout.get("mm"),
            runout_expanded_mm=runout.get("expanded_mm") or 0.0,
            variation_mm=thickness.get("variation_mm"),
            variation_expanded_mm=thickness.get("variation_expanded_mm") or 0.0,
            broken_off=data.get("broken_off", ""),
            linings=tuple(WornLining(*worn) for worn in data.get("linings", ())),
            thickness_doubted=bool(data.get("thickness_doubted")),
            lips_hide_wear=bool(data.get("lips_hide_wear")),
        )

    def data(self) -> dict[str, Any]:
        """Return what the column holds."""
        return {
            "core": __version__,
            "evidence": self.evidence,
            "root_cause": self.root_cause,
            "do_not_drive": self.do_not_drive,
            "broken_off": self.broken_off,
            "linings": [[worn.code, worn.left_mm, worn.least_mm] for worn in self.linings],
            "thickness_doubted": self.thickness_doubted,
            "lips_hide_wear": self.lips_hide_wear,
            "runout": {
                "state": self.runout,
                "high_deg": self.high_deg,
                "mm": self.runout_mm,
                "expanded_mm": self.runout_expanded_mm,
            },
            "thickness": {
                "state_variation": self.variation,
                "min_mm": self.min_mm,
                "u_mm": self.min_expanded_mm,
                "variation_mm": self.variation_mm,
                "variation_expanded_mm": self.variation_expanded_mm,
            },
        }


_UNJUDGED = NextStep(None, None, "unjudged")


@dataclass(frozen=True, slots=True)
class KeptJob:
    """What the vehicle's judgement says: the next step, where there is trouble, what is unmeasured, what leads."""

    step: NextStep = _UNJUDGED
    minutes: int | None = None
    troubled: tuple[str, ...] = ()
    holes: tuple[tuple[str, str], ...] = ()
    likeliest: str = ""
    settled: bool = False
    still_stopped: tuple[str, ...] = ()  # corners worked on, what forbids driving left as it was
    undecided: tuple[str, ...] = ()  # their axles, where what was decided does not see to that
    beside: tuple[tuple[str, str | None], ...] = ()  # to be put right beside the discs: causes and places
    evidence: str = ""
    core: str = ""

    @classmethod
    def of(
        cls, judged: Judgement, *, evidence: str, still_stopped: tuple[str, ...] = (), undecided: tuple[str, ...] = ()
    ) -> "KeptJob":
        """Keep a judgement."""
        step = judged.next
        best = next((c for c in judged.weighed.checks if (c.check, c.position) == (step.check, step.position)), None)
        return cls(
            step=step,
            minutes=best.minutes if best is not None else None,
            troubled=judged.troubled,
            holes=judged.weighed.holes,
            likeliest=judged.weighed.causes[0][0].value,
            settled=judged.weighed.settled,
            still_stopped=still_stopped,
            undecided=undecided,
            beside=tuple((beside.cause.value, beside.position) for beside in judged.beside_discs),
            evidence=evidence,
            core=__version__,
        )

    @classmethod
    def read(cls, data: dict[str, Any]) -> "KeptJob":
        """Read the column."""
        if not data:
            return cls()
        return cls(
            step=NextStep(**data["next"]),
            minutes=data["minutes"],
            troubled=tuple(data["troubled"]),
            holes=tuple((position, what) for position, what in data["holes"]),
            likeliest=data["likeliest"],
            settled=data["settled"],
            still_stopped=tuple(data.get("still_stopped", ())),
            undecided=tuple(data.get("undecided", ())),
            beside=tuple((cause, position) for cause, position in data.get("beside", ())),
            evidence=data["evidence"],
            core=data["core"],
        )

    def data(self) -> dict[str, Any]:
        """Return what the column holds."""
        step = self.step
        return {
            "core": self.core,
            "evidence": self.evidence,
            "next": {
                "check": step.check,
                "position": step.position,
                "why": step.why,
                "index_deg": step.index_deg,
            },
            "minutes": self.minutes,
            "troubled": list(self.troubled),
            "holes": [list(hole) for hole in self.holes],
            "likeliest": self.likeliest,
            "settled": self.settled,
            "still_stopped": list(self.still_stopped),
            "undecided": list(self.undecided),
            "beside": [list(place) for place in self.beside],
        }
