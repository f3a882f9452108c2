"""Rules that no policy overrides: each a small named function, in a table with its number and its reason.

What a function forbids is said in ``REASONS`` under its name. ``FORBIDS`` is read by one general function;
docs/rules.md is printed from it. A rule sees one remedy at one corner.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cache, lru_cache
from typing import Final, NamedTuple

from compass.cause.checks import enough_turns
from compass.cause.measured import Measured
from compass.choose.remedies.corner_draws import CornerDraws, shape_range_mm
from compass.choose.remedies.cutting import blank_of
from compass.choose.remedies.feeding import odds_fed
from compass.choose.remedies.outcome import Outcome
from compass.choose.remedies.plating import fitting
from compass.choose.remedies.turning import other_positions
from compass.evidence.shop import Lathe, Shop
from compass.ground.angles import wrap_deg
from compass.ground.limits import State
from compass.ground.translation import _N
from compass.ground.uncertainty import median, share

METAL_ODDS: Final = 0.95  # rule 2
_CUTS: Final = ("bench_cut", "on_vehicle_cut")  # as works
# Remedies alike, as rules are about them.
_CUT: Final = ("bench_cut", "on_vehicle_cut", "bench_cut+plate", "new_rotors+on_vehicle_cut")
_PLATED: Final = ("plate", "bench_cut+plate", "new_rotors+plate")
_SET_WHEN_FITTED: Final = ("new_rotors+index", "new_rotors+plate")  # by what the new rotor reads


@dataclass(frozen=True, slots=True)
class Question:
    """One remedy at one corner, with all that a rule may ask. ``outcome`` is None where it could not be predicted.

    ``renewed_anyway``: the disc on the axle's other side is done, and rotors are renewed in pairs.
    """

    remedy: str
    measured: Measured
    draws: CornerDraws
    shop: Shop = field(hash=False)  # many plates and lathes; compared all the same
    outcome: Outcome | None
    kind: str | None = None  # of the vehicle
    renewed_anyway: bool = False

    @property
    def works(self) -> tuple[str, ...]:
        """The single works of the remedy."""
        return _works_of(self.remedy)

    @property
    def cuts(self) -> bool:
        """Whether metal is cut."""
        return self.remedy in _CUT

    @property
    def renews(self) -> bool:
        """Whether the disc is replaced."""
        return "new_rotors" in self.works

    @property
    def odds_metal(self) -> float | None:
        """The odds that enough metal is left after a cut; None where none is cut or nobody knows.

        Of a cut just as deep as it must be, or, where they are too low for it, of one fed in whole lines as it will be.
        """
        if not self.cuts or self.outcome is None or self.outcome.least_mm is None:
            return None
        wanted = least_after_cut_mm(self)
        odds = share(self.outcome.least_mm > wanted)
        if odds < METAL_ODDS or self.renews:  # a new rotor is miked before it is cut
            return odds
        fed = _odds_fed(self.draws, self.shop.lathe(self.works[0].removesuffix("_cut")), wanted)
        return odds if fed is None or fed >= METAL_ODDS else fed


@lru_cache(maxsize=16)
def _odds_fed(draws: CornerDraws, lathe: Lathe | None, wanted_mm: float) -> float | None:
    rotor = blank_of(draws, lathe, own=lathe.kind == "bench") if lathe is not None else None
    if rotor is None or lathe is None:
        return None
    return odds_fed(rotor, lathe, draws.spec.rotor, least_mm=wanted_mm, enough=METAL_ODDS)


@cache
def _works_of(remedy: str) -> tuple[str, ...]:
    return tuple(remedy.split("+"))


def least_after_cut_mm(question: Question) -> float:
    """Return what must be left after a cut: machine-to, or discard plus the workshop's wear allowance (rule 2)."""
    spec = question.measured.corner.spec
    if spec.machine_to_thickness_mm is not None:
        return spec.machine_to_thickness_mm
    return spec.discard_thickness_mm + question.shop.wear_allowance_mm


def disc_is_done(question: Question) -> bool:
    return (
        bool(question.measured.broken or question.measured.worn)
        and not question.renews
        and question.remedy != "hub_unit"
    )


def hub_beside_a_done_disc(question: Question) -> bool:
    return bool(question.measured.broken or question.measured.worn) and not question.measured.bearing_over


def in_order(question: Question) -> bool:
    return not question.measured.anything_over


def metal_short(question: Question) -> bool:
    odds = question.odds_metal
    return odds is not None and odds < METAL_ODDS


def thickness_unknown(question: Question) -> bool:
    return (
        question.outcome is None
        or question.outcome.least_mm is None
        or (not question.renews and not question.draws.variation_known)
    )


def bearing_first(question: Question) -> bool:
    return question.measured.bearing_over and question.remedy != "hub_unit"


def turns_do_not_repeat(question: Question) -> bool:
    measured = question.measured
    if "turns_disagree" not in measured.runout.flags or measured.bearing_over:
        return False
    # Rocked and swept again and again, and still so: it is the bearing, or too little to matter.
    found_out = measured.corner.bearing_play_mm is not None and enough_turns(measured)
    return not (found_out and question.remedy in ("hub_unit", "new_rotors", "none"))


def clean_first(question: Question) -> bool:
    measured = question.measured
    if not measured.to_be_cleaned or question.remedy == "clean_and_torque":
        return False
    return question.remedy == "none" or not (
        question.measured.broken or question.measured.worn or question.measured.bearing_over
    )


def plate_not_here(question: Question) -> bool:
    corner = question.measured.corner
    bare = question.kind == "motorcycle" or corner.position in ("F", "R")
    return bare or bool(corner.spec.features & {"floating", "captive"})


def plate_stacked(question: Question) -> bool:
    return question.measured.corner.plate_fitted


def plate_pattern(question: Question) -> bool:
    return not fitting(question.shop, question.draws)


def plate_not_parallel(question: Question) -> bool:
    return question.measured.thickness.state_variation is not State.WITHIN


def plate_not_flat(question: Question) -> bool:
    return median(shape_range_mm(question.draws)) > question.measured.corner.spec.max_runout_mm


def beyond_taper(question: Question) -> bool:
    fits = fitting(question.shop, question.draws)
    if not fits:
        return False
    spec = question.measured.corner.spec
    most_mm = max(p.tir_at_mm(spec.measuring_radius_mm) for p in fits) + spec.max_runout_mm
    if question.remedy == "plate":
        tir = question.measured.runout.tir
        return tir is not None and tir.value_mm + tir.expanded_mm > most_mm
    before = question.outcome.before_plate_mm if question.outcome is not None else None
    return before is not None and share(before <= most_mm) < METAL_ODDS


def no_cut_here(question: Question) -> bool:
    return bool(question.measured.corner.spec.features & {"metal_matrix", "carbon"})


def hub_work_first(question: Question) -> bool:
    return question.measured.bearing_over or "joint_play" in question.measured.corner.seen


def over_limit(question: Question) -> bool:
    return State.OVER in (question.measured.runout.state, question.measured.thickness.state_variation)


def variation_stays(question: Question) -> bool:
    measured = question.measured
    # On a hub that is over by itself a cut or a new rotor comes next, and not instead.
    hub_first = question.remedy == "hub_unit" and (measured.bearing_over or measured.hub_alone_over)
    return not (hub_first or measured.to_be_cleaned) and measured.thickness.state_variation is State.OVER


def already_clean(question: Question) -> bool:
    return not question.measured.to_be_cleaned


def runout_unknown(question: Question) -> bool:
    done = question.measured.broken or question.measured.worn
    if (question.renews and done) or (question.remedy == "hub_unit" and question.measured.bearing_over):
        return False
    return question.measured.runout.tir is None


def thickness_missing(question: Question) -> bool:
    return question.measured.thickness.result is None


def whose_unknown(question: Question) -> bool:
    measured = question.measured
    if "captive" in measured.corner.spec.features:
        return False  # nothing can tell them apart before both are off
    if question.renewed_anyway and question.renews:
        return False  # it is no longer blamed for anything
    kept = not (measured.broken or measured.worn or measured.bearing_over)
    return kept and measured.runout.state is State.OVER and not measured.whose.told_apart


def measure_when_fitted(question: Question) -> bool:
    return not question.measured.whose.told_apart


def one_position(question: Question) -> bool:
    return not other_positions(question.draws)


def already_best(question: Question) -> bool:
    if question.outcome is None or not question.outcome.options:
        return False
    return wrap_deg(question.outcome.options[0].index_deg) == 0


def no_lathe(question: Question) -> bool:
    return any(question.shop.lathe(work.removesuffix("_cut")) is None for work in question.works if work in _CUTS)


class Rule(NamedTuple):
    """A rule: its code in files, the number under which the trade knows it (0: it cannot be done), its test.

    It is asked of the remedies in ``of``, of every one where that is empty. ``foretold``: it asks what the remedy
    would leave; the others are asked before anything is predicted.
    """

    code: str
    number: int
    forbids: Callable[[Question], bool]
    of: tuple[str, ...] = ()
    foretold: bool = False

    @property
    def reason(self) -> str:
        """The reason, in one sentence."""
        return REASONS[self.code]


FORBIDS: Final = (
    Rule("disc_is_done", 1, disc_is_done),
    Rule("hub_beside_a_done_disc", 1, hub_beside_a_done_disc, ("hub_unit",)),
    Rule("in_order", 9, in_order, ("index", "plate", "hub_unit")),
    Rule("bearing_first", 3, bearing_first),
    Rule("turns_do_not_repeat", 3, turns_do_not_repeat),
    Rule("clean_first", 4, clean_first),
    Rule("runout_unknown", 0, runout_unknown),
    Rule("whose_unknown", 0, whose_unknown, ("new_rotors", *_SET_WHEN_FITTED, "hub_unit")),
    Rule("measure_when_fitted", 0, measure_when_fitted, _SET_WHEN_FITTED),
    Rule("thickness_missing", 9, thickness_missing, ("none",)),
    Rule("over_limit", 9, over_limit, ("none",)),
    Rule("variation_stays", 9, variation_stays, ("clean_and_torque", "index", "hub_unit")),
    Rule("already_clean", 0, already_clean, ("clean_and_torque",)),
    Rule("one_position", 0, one_position, ("index", "new_rotors+index")),
    Rule("already_best", 0, already_best, ("index",), foretold=True),
    Rule("no_lathe", 0, no_lathe, _CUT),
    Rule("no_cut_here", 6, no_cut_here, _CUT),
    Rule("hub_work_first", 8, hub_work_first, ("on_vehicle_cut", "new_rotors+on_vehicle_cut")),
    Rule("thickness_unknown", 2, thickness_unknown, _CUT, foretold=True),
    Rule("metal_short", 2, metal_short, _CUT, foretold=True),
    Rule("plate_not_here", 5, plate_not_here, _PLATED),
    Rule("plate_stacked", 5, plate_stacked, _PLATED),
    Rule("plate_pattern", 5, plate_pattern, _PLATED),
    Rule("plate_not_parallel", 5, plate_not_parallel, ("plate",)),
    Rule("plate_not_flat", 5, plate_not_flat, ("plate",)),
    Rule("beyond_taper", 5, beyond_taper, _PLATED, foretold=True),
)


@cache
def _asked_of(remedy: str, *, foretold: bool) -> tuple[Rule, ...]:
    return tuple(rule for rule in FORBIDS if rule.foretold == foretold and (not rule.of or remedy in rule.of))


# Rule 7 is about an axle, not a corner: ``compass.choose.axle`` keeps it, and names it by these codes.
OTHER_SIDE_NEEDS_METAL: Final = "other_side_needs_metal"
NOTHING_OVER: Final = "nothing_over"
# What is forbidden only because something is not measured yet.
WANTS_MEASURING: Final = frozenset(
    {"runout_unknown", "thickness_missing", "thickness_unknown", "whose_unknown", "measure_when_fitted"}
)
# Why, in one sentence a rule: what a predicate above forbids, under its own name.
REASONS: Final = {
    "disc_is_done": _N(
        "Cracked, broken, vent showing, or thickness below (or too close to) discard: only a new disc will do."
    ),
    "hub_beside_a_done_disc": _N(
        "A hub unit does not mend a disc that is done; it comes first only where the bearing has play."
    ),
    "in_order": _N("Nothing is over its limit here: no part is turned, tilted or replaced for it."),
    "bearing_first": _N("Bearing play over its limit: the bearing comes first, and nothing else is recommended here."),
    "turns_do_not_repeat": _N(
        "Turns that disagree say bearing or loose rotor: find out first; no disc reading can be believed."
    ),
    "clean_first": _N(
        "The joint not cleaned or the nuts not torqued: clean, torque and sweep again before anything is condemned."
    ),
    "runout_unknown": _N("Nobody has swept here: what a remedy would leave of the runout cannot be told."),
    "whose_unknown": _N(
        "Over the limit, but nobody knows yet whether hub or rotor carries it: tell them apart before a part is blamed."
    ),
    "measure_when_fitted": _N(
        "Hub and rotor are not told apart: fit the new rotor, measure it there, and decide on index or plate then."
    ),
    "thickness_missing": _N("Runout alone clears no corner: measure the thickness round the disc first."),
    "over_limit": _N("Runout or variation stands over its limit: leaving it is no remedy."),
    "variation_stays": _N("The disc is uneven over its limit, and this leaves it so: the pedal would still pulse."),
    "already_clean": _N(
        "The joint is clean and the nuts are torqued already, or the disc runs true as it came in: nothing to gain."
    ),
    "one_position": _N("The rotor goes on only one way: a locating screw, a pin, or its own hub fixes it."),
    "already_best": _N("No other position leaves less than the present one."),
    "no_lathe": _N("The workshop has no lathe of this kind."),
    "no_cut_here": _N("Metal-matrix and carbon rotors are not cut here: the maker's service information decides."),
    "hub_work_first": _N("Hub, bearing, axle or suspension work comes before any cut that is matched to the hub."),
    "thickness_unknown": _N(
        "Metal is cut only where its thickness is known: miked round the disc, or a new disc's nominal thickness."
    ),
    "metal_short": _N("Less than 19 in 20 odds that enough metal is left above machine-to after the cut."),
    "plate_not_here": _N("No plate under floating or captive rotors, nor on a motorcycle."),
    "plate_stacked": _N(
        "A plate is under this disc already, and two are never stacked: take it out, clean, sweep again, then choose."
    ),
    "plate_pattern": _N("No plate in stock has holes for this many studs."),
    "plate_not_parallel": _N("A plate only tilts: the rotor itself must be measured parallel first, or be cut or new."),
    "plate_not_flat": _N("A plate cannot take out what the rotor's own shape alone has over the limit."),
    "beyond_taper": _N("Installed runout beyond the largest taper plus the limit: the hub is to be found out instead."),
    "nothing_over": _N("Nothing on this axle is over its limit: no metal is cut and no part replaced for it."),
    "other_side_needs_metal": _N(
        "The other side must be cut or replaced, and so must this one: both sides get the same."
    ),
}


def forbidden_by(question: Question, *, foretold: bool) -> tuple[str, ...]:
    """Return the codes of the rules that forbid this remedy here: those that need its outcome, or those that do not."""
    asked = _asked_of(question.remedy, foretold=foretold)
    return tuple(rule.code for rule in asked if rule.forbids(question))
