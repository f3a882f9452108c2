"""What is concluded of one corner: the record between diagnosing and weighing."""

from dataclasses import dataclass

from compass.cause.checks import Separating
from compass.cause.measured import Measured, Reason


@dataclass(frozen=True, slots=True)
class CornerVerdict:
    """What one corner's evidence says, and what would tell hub from rotor best there.

    ``provisional`` names the flags it rests on.
    ``to_blame``: the vehicle's weighing blames its disc for what is felt, though its unevenness is too close to call.
    ``settled``: it was worked on, and nothing that was read since is over its limit.
    ``recommended`` is only what must come before anything else (a clean joint, the bearing, a disc that is done).
    """

    position: str
    measured: Measured
    root_cause: str
    recommended: str | None
    because: tuple[Reason, ...]
    separating: Separating | None
    do_not_drive: bool
    provisional: tuple[str, ...]
    to_blame: bool = False
    settled: bool = False
