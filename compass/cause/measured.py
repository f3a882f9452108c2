"""What a corner's evidence says, gathered: the records between measuring and concluding. No conclusions here."""

from dataclasses import dataclass
from typing import Any, Final

from compass.evidence.records import Corner, Drum, Pads
from compass.ground.limits import State
from compass.ground.uncertainty import Estimate
from compass.measure.analysed import Analysed
from compass.measure.separation import Separation
from compass.measure.sweep import SweepResult
from compass.measure.thickness import ThicknessResult
from compass.measure.wear_pattern import MadeBy, Pattern

STOP_FINDINGS: Final = ("cracked", "vent_showing")
CONDITION_CHECKS: Final = {"joint_not_cleaned": "clean_and_sweep", "nuts_not_torqued": "torque_and_sweep"}
UNEVEN_PADS_MM: Final = 2.0  # inner against outer, or along one pad: slides or piston; ordinary workshop practice
OVAL_DRUM_MM: Final = 0.15  # between a drum's diameters: over what a drum gauge strays; our estimate


@dataclass(frozen=True, slots=True)
class Reason:
    """A fact that speaks, as a code with its figures; ``compass.words.codes`` makes the sentence."""

    code: str
    figures: dict[str, Any]


@dataclass(frozen=True, slots=True)
class Runout:
    """Runout as installed at index 0: estimate, state and what spoils it. ``sweep``: None for a quick one.

    ``before`` is what had not been put right when it was swept: dirt, nuts, both, or nothing (empty).
    """

    tir: Estimate | None
    state: State
    high_deg: float | None
    sweep: SweepResult | None
    flags: tuple[str, ...]
    before: str = ""


@dataclass(frozen=True, slots=True)
class WornLining:
    """Pads or shoes that have less left than they must: ``pads_worn`` or ``linings_worn``, the thinnest, the least."""

    code: str
    left_mm: float
    least_mm: float


@dataclass(frozen=True, slots=True)
class Thickness:
    """Thickness of one rotor with its two states; ``result`` is None where nothing was measured."""

    result: ThicknessResult | None
    state_discard: State
    state_variation: State
    pattern: Pattern | None = None

    @property
    def flags(self) -> tuple[str, ...]:
        """What spoils the round."""
        return self.result.flags if self.result is not None else ()

    @property
    def is_doubted(self) -> bool:
        """Whether a reading can hardly be of this disc: it is miked again before anything rests on it."""
        return self.result is not None and self.result.is_doubted

    @property
    def made_by(self) -> MadeBy | None:
        """What made the variation; ``none`` where there is none to speak of, None where it was not measured."""
        if self.result is None or self.result.variation is None:
            return None
        if self.state_variation is State.WITHIN:
            return MadeBy.NONE
        return self.pattern.made_by if self.pattern is not None else MadeBy.UNCLEAR

    @property
    def pattern_code(self) -> str | None:
        """What there is to say of where the disc is thin, as a code; None where there is no variation to speak of."""
        if self.pattern is None or self.made_by in (None, MadeBy.NONE):
            return None
        if self.made_by is not MadeBy.UNCLEAR:
            return {MadeBy.RUNOUT: "worn_by_runout", MadeBy.PATCH: "worn_in_a_patch"}[self.made_by]
        if self.pattern.like_runout:
            return "worn_in_a_lobe"
        return "pattern_unclear" if self.pattern.beyond_noise else "pattern_in_noise"


@dataclass(frozen=True, slots=True, eq=False)
class Measured:
    """All that is known of one corner before anything is concluded."""

    corner: Corner
    analysed: tuple[Analysed, ...]
    runout: Runout
    before: Analysed | None
    before_state: State
    whose: Separation
    hub_state: State
    thickness: Thickness

    @property
    def anything(self) -> bool:
        """Whether anything at all was measured or seen here."""
        corner = self.corner
        beside = corner.seen or corner.pads or corner.drum or corner.bearing_play_mm is not None
        return bool(beside) or self.runout.tir is not None or self.thickness.result is not None

    @property
    def broken(self) -> list[str]:
        """Findings that end the discussion."""
        return [finding for finding in STOP_FINDINGS if finding in self.corner.seen]

    @property
    def bearing_over(self) -> bool:
        """Whether the bearing has more play than it may."""
        play, most = self.corner.bearing_play_mm, self.corner.spec.max_bearing_play_mm
        return play is not None and most is not None and play > most

    @property
    def worn(self) -> bool:
        """Whether the disc is under discard; too close counts as below: safety (measurement.md#verdicts)."""
        return self.thickness.state_discard in (State.BELOW, State.TOO_CLOSE)

    @property
    def lips_hide_wear(self) -> bool:
        """Whether lips that nobody measured hide how thick the disc is: not to be driven so, and not found worn."""
        return self.thickness.state_discard is State.TOO_CLOSE and "lips_not_measured" in self.thickness.flags

    @property
    def to_be_cleaned(self) -> bool:
        """Whether the joint or the nuts come first (rule 4): a disc that runs true as it came in needs neither."""
        return bool(set(self.runout.flags) & set(CONDITION_CHECKS)) and self.runout.state is not State.WITHIN

    @property
    def anything_over(self) -> bool:
        """Whether anything of disc, hub or bearing is over its limit, or too close to it to be called within."""
        states = (self.runout.state, self.thickness.state_variation)
        done = bool(self.broken) or self.worn or self.bearing_over or self.drum_over_mm is not None
        return done or State.OVER in states or State.TOO_CLOSE in states

    @property
    def hub_alone_over(self) -> bool:
        """Whether the hub by itself carries more than the disc's runout limit, told apart from the rotor."""
        hub = self.whose.hub
        return self.whose.told_apart and hub is not None and hub.tir_mm > self.corner.spec.max_runout_mm

    @property
    def pads_uneven_mm(self) -> float | None:
        """The largest difference between pad readings that shows slides or piston at fault, or None."""
        pads = self.corner.pads
        if pads is None:
            return None
        readings = [*pads.inner, *pads.outer]
        spread = max(readings) - min(readings) if len(readings) > 1 else 0.0
        return spread if spread >= UNEVEN_PADS_MM else None

    @property
    def drum_over_mm(self) -> float | None:
        """The drum's largest diameter where it is over its limit, or None."""
        drum, most = self.corner.drum, self.corner.spec.max_drum_diameter_mm
        if drum is None or most is None or not drum.diameters_mm:
            return None
        return max(drum.diameters_mm) if max(drum.diameters_mm) > most else None

    @property
    def drum_oval_mm(self) -> float | None:
        """The largest difference between the drum's diameters that shows it out of round, or None."""
        across = self.corner.drum.diameters_mm if self.corner.drum is not None else ()
        spread = max(across) - min(across) if across else 0.0
        return spread if spread >= OVAL_DRUM_MM else None

    @property
    def noted(self) -> frozenset[str]:
        """What was seen here, or measured as good as seen: findings by their codes."""
        oval = {"drum_out_of_round"} if self.drum_oval_mm is not None else set()
        return self.corner.seen | oval

    @property
    def worn_linings(self) -> tuple[WornLining, ...]:
        """Pads and shoes that are under their least thickness: whatever the disc reads, they are renewed.

        What was put in since stands for what it took the place of; how that had worn stays evidence.
        """
        pads, drum, spec = self.corner.pads or Pads(), self.corner.drum or Drum(), self.corner.spec
        left = {
            "pads_worn": (pads.renewed or (*pads.inner, *pads.outer), spec.min_pad_mm),
            "linings_worn": (drum.renewed_mm or drum.linings_mm, spec.min_lining_mm),
        }
        return tuple(
            WornLining(code, min(read), least)
            for code, (read, least) in left.items()
            if read and least is not None and min(read) < least
        )

    @property
    def provisional(self) -> tuple[str, ...]:
        """The flags this corner's verdict rests on; empty where nothing measured is flagged."""
        flags = [*self.runout.flags, *self.thickness.flags]
        flags += [flag for a in self.analysed if not a.installed for flag in a.flags]
        if self.bearing_over:
            flags.append("bearing_over")
        if self.whose.disagrees:
            flags.append("evidence_disagrees")
        return tuple(dict.fromkeys(flags))
