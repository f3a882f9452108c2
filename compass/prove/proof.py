"""A corner after the work: value and limit, what was foretold, what that means, what to do where it is not proven."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from compass.cause.checks import enough_rounds, enough_turns, rounds_of, separates_best
from compass.cause.measured import Measured
from compass.evidence.records import WORKS_ON_METAL
from compass.ground.limits import State
from compass.ground.translation import _N
from compass.ground.uncertainty import Estimate

CLOSE_TO_LIMIT: Final = "close_to_limit"  # nothing more to read tells it

Band = tuple[float, float, float]


class Came(StrEnum):
    """How a value came beside the band in which nine of ten were foretold."""

    INSIDE = "inside"
    BETTER = "better"
    WORSE = "worse"
    UNFORETOLD = "unforetold"


@dataclass(frozen=True, slots=True)
class Figure:
    """One figure after the work: runout, variation or thinnest (mm), its limit, state, and how it came."""

    name: str
    estimate: Estimate | None
    limit_mm: float
    state: State
    foretold_mm: Band | None
    came: Came


@dataclass(frozen=True, slots=True)
class Proof:
    """A corner's figures after the work, which readings are still wanted, whether it is proven, and what comes next.

    ``advice`` is a code of ADVICE; empty where it is proven or where readings are wanted first.
    """

    figures: tuple[Figure, ...]
    wants: tuple[str, ...]
    advice: str

    @property
    def proven(self) -> bool:
        """Whether all that was wanted is read and within."""
        return not self.wants and not self.advice


# What to do where a corner is not proven: the first not told yet, so that nothing is told twice without reason.
ADVICE: Final[Mapping[str, str]] = {
    "measure_again": _N("Too close to call: sweep another turn, or mike again, before anything is done for it."),
    CLOSE_TO_LIMIT: _N(
        "Read as often as helps, and still too close to call: take a finer instrument, choose anew, "
        "or close the job with your reason."
    ),
    "torque_again": _N("Not within its limit: loosen all nuts, torque them anew in star order, and sweep again."),
    "clean_again": _N("Still not within: rotor off, clean the joint to bright metal once more, and sweep again."),
    "see_the_mark": _N("Still not within: see that rotor and plate’s thin side stand on the marks that were meant."),
    "see_the_mounting": _N("Still not within: the mounting was cut into the disc. Half-turn test, then choose anew."),
    "compensate_again": _N(
        "Still not within: the machine’s own runout was cut in. Compensate again; another pass if the metal is there."
    ),
    "turn_the_new_one": _N("Not within with a new rotor: turn it on its studs, keep the best position, else a plate."),
    "mike_again": _N("Uneven over its limit though it was cut or new: mike again on clean, bright metal."),
    "wrong_index": _N(
        "Read with the rotor at another place than was decided: see that it stands on its mark, put the tape right, "
        "or sweep again."
    ),
    "spoilt_sweep": _N(
        "The sweep after the work is spoilt (its tape says by what: clamp, turns, tip, unit, nuts): "
        "put the tape right, or sweep again."
    ),
    "still_uneven": _N("The disc is as uneven as it was, over its limit: choose now what it gets."),
    "too_thin": _N("Under what must stay: this disc is not to be used. Choose new rotors, both sides."),
    "tell_apart": _N(
        "What was foretold did not come: tell hub from rotor as they stand now, before anything is chosen."
    ),
    "choose_anew": _N("What was foretold did not come: choose again, by how it stands now."),
}
CHANGES_THE_DISC: Final = frozenset({"compensate_again", "see_the_mounting"})  # these may lead to another pass
_RUNOUT: Final[Mapping[str, Sequence[str]]] = {
    "clean_and_torque": ("torque_again", "clean_again", "choose_anew"),
    "index": ("torque_again", "see_the_mark", "clean_again", "choose_anew"),
    "plate": ("torque_again", "see_the_mark", "clean_again", "choose_anew"),
    "bench_cut": ("torque_again", "clean_again", "see_the_mounting", "choose_anew"),
    "on_vehicle_cut": ("torque_again", "compensate_again", "choose_anew"),
    "new_rotors": ("torque_again", "clean_again", "turn_the_new_one", "choose_anew"),
    "hub_unit": ("torque_again", "clean_again", "choose_anew"),
}
# Such a sweep proves nothing, within or over: what it read is not how the disc runs as it leaves.
_SPOILT: Final = frozenset({"clamp_moved", "turns_disagree", "tip_too_far_in", "unit_slip", "nuts_not_torqued"})
_INDEX_DEG: Final = 2.0  # nearer than any two positions of a rotor


def prove_corner(
    after: Measured | None,
    *,
    remedy: str,
    foretold: Mapping[str, Band | None],
    least_mm: float,
    told: Sequence[str] = (),
    index_deg: float | None = None,
    stands: Measured | None = None,
) -> Proof:
    """Hold a corner's readings after its work against its limits and what was foretold.

    ``foretold`` holds the bands (5, 50, 95 %) of ``runout``, ``variation`` and ``thinnest``, ``least_mm`` what must be
    left of the disc. ``told`` are the advices given already, ``index_deg`` how the rotor was to stand (None: as it
    came). Where metal was cut or the rotor is new the thickness is wanted too, unless it was miked since and only joint
    and nuts were touched after that; else the disc is as uneven as is known from before (both: ``stands``).
    """
    if after is None:
        return Proof((), ("sweep", "thickness") if of_metal(remedy) else ("sweep",), "")
    runout, thickness = after.runout, after.thickness
    if thickness.result is None and of_metal(remedy) and stands is not None:
        thickness = stands.thickness
    spec, result = after.corner.spec, thickness.result
    figures = [_figure("runout", runout.tir, spec.max_runout_mm, runout.state, foretold.get("runout"), less=True)]
    wants = ["sweep"] if runout.tir is None else []
    if result is not None:
        variation, minimum = result.variation, result.minimum
        figures.append(
            _figure(
                "variation",
                variation,
                spec.max_thickness_variation_mm,
                thickness.state_variation,
                foretold.get("variation"),
                less=True,
            )
        )
        left = _left(minimum, least_mm)
        figures.append(_figure("thinnest", minimum, least_mm, left, foretold.get("thinnest"), less=False))
    if (result is None and of_metal(remedy)) or thickness.is_doubted:
        wants.append("thickness")
    if index_deg is not None and not wants and not _stands_at(after, index_deg):
        return Proof(tuple(figures), (), "wrong_index")  # until it is put right: what it reads proves another setting
    if not wants and _SPOILT & set(runout.flags):
        return Proof(tuple(figures), (), "spoilt_sweep")
    uneven = result is None and stands is not None and stands.thickness.state_variation is State.OVER
    miked = after if after.thickness.result is not None or stands is None else stands
    advice = "" if wants else _advice(figures, remedy, told, uneven=uneven, swept=after, miked=miked)
    if advice == "choose_anew" and "tell_apart" not in told and separates_best(after) is not None:
        advice = "tell_apart"  # chosen by what came in it would be a guess
    return Proof(tuple(figures), tuple(wants), advice)


def _stands_at(after: Measured, index_deg: float) -> bool:
    """Whether anything was read with the rotor at an index."""
    read = [sweep.index_deg for sweep in after.corner.sweeps] + [spot.index_deg for spot in after.corner.high_spots]
    return any(abs((at - index_deg + 180) % 360 - 180) <= _INDEX_DEG for at in read)


def of_metal(remedy: str) -> bool:
    """Whether metal is cut or the rotor renewed: its thickness is wanted afterwards."""
    return any(work in remedy.split("+") for work in WORKS_ON_METAL)


def _figure(
    name: str, estimate: Estimate | None, limit_mm: float, state: State, foretold: Band | None, *, less: bool
) -> Figure:
    came = Came.UNFORETOLD
    if estimate is not None and foretold is not None:
        low, _middle, high = foretold
        under, over = (Came.BETTER, Came.WORSE) if less else (Came.WORSE, Came.BETTER)
        # A value is outside only where its own uncertainty does not reach into the band.
        came = Came.INSIDE
        came = under if estimate.value_mm + estimate.expanded_mm < low else came
        came = over if estimate.value_mm - estimate.expanded_mm > high else came
    return Figure(name, estimate, limit_mm, state, foretold, came)


def _left(minimum: Estimate, least_mm: float) -> State:
    if minimum.value_mm - minimum.expanded_mm >= least_mm:
        return State.ABOVE
    return State.BELOW if minimum.value_mm + minimum.expanded_mm < least_mm else State.TOO_CLOSE


def _advice(
    figures: Sequence[Figure], remedy: str, told: Sequence[str], *, uneven: bool, swept: Measured, miked: Measured
) -> str:
    states = {figure.name: figure.state for figure in figures}
    if states.get("thinnest") is State.BELOW:
        return "too_thin"
    ways: list[str] = []
    ladder = next((_RUNOUT[work] for work in reversed(remedy.split("+")) if work in _RUNOUT), ("choose_anew",))
    if states["runout"] is State.OVER:
        ways += ladder
    elif uneven:
        ways += ["still_uneven"]
    elif states.get("variation") is State.OVER:
        ways += ["choose_anew" if rounds_of(miked) > 1 else "mike_again"]
    elif State.TOO_CLOSE in states.values():
        turn = states["runout"] is State.TOO_CLOSE and not enough_turns(swept)
        thick = State.TOO_CLOSE in (states.get("variation"), states.get("thinnest")) and not enough_rounds(miked)
        # What came worse than foretold has a cause that a torque wrench or a rag may find; no metal is cut for it.
        worse = states["runout"] is State.TOO_CLOSE and figures[0].came is Came.WORSE
        looks = [way for way in ladder[:-1] if worse and way not in CHANGES_THE_DISC]
        ways += ["measure_again"] if turn or thick else [*looks, CLOSE_TO_LIMIT]
    if not ways:
        return ""
    return next((way for way in ways if way not in told), ways[-1])
