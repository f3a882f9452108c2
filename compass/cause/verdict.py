"""What is concluded of one corner: the record between diagnosing and weighing."""

from dataclasses import dataclass

from compass.cause.checks import Separating
from compass.cause.measured import Findings, Reason, Runout, Thickness
from compass.choose.remedies.outcome import Remedy
from compass.ground.limits import State
from compass.measure.analysed import Analysed
from compass.measure.separation import Separation


@dataclass(frozen=True, slots=True)
class CornerVerdict:
    """What is known of one corner and what to do next. ``provisional`` names the flags it rests on."""

    position: str
    found: Findings
    runout: Runout
    before: Analysed | None
    whose: Separation
    hub_state: State
    thickness: Thickness
    root_cause: str
    recommended: str | None
    because: tuple[Reason, ...]
    next_check: str | None
    separating: Separating | None
    do_not_drive: bool
    provisional: tuple[str, ...]
    remedies: tuple[Remedy, ...] = ()
