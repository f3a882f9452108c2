"""The exercises, as data: what came in, what is asked, what is hidden, what is right. Words may be translated."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final

from django.utils.functional import Promise
from django.utils.translation import gettext_lazy as _

from compass.evidence.records import Spec
from compass.simulate.hidden import Hidden

SPEC: Final = Spec(
    studs=5,
    rotor="vented",
    nominal_thickness_mm=26.0,
    discard_thickness_mm=23.5,
    machine_to_thickness_mm=24.2,
    max_runout_mm=0.05,
    max_thickness_variation_mm=0.015,
    measuring_radius_mm=140.0,
    swept_inner_radius_mm=96.0,
    swept_outer_radius_mm=151.0,
    max_bearing_play_mm=0.05,
    max_hub_runout_mm=0.03,
    hub_runout_radius_mm=65.0,
)
FOUR: Final = Spec(
    studs=4,
    rotor="solid",
    nominal_thickness_mm=12.0,
    discard_thickness_mm=10.0,
    machine_to_thickness_mm=10.6,
    max_runout_mm=0.06,
    max_thickness_variation_mm=0.015,
    measuring_radius_mm=118.0,
    swept_inner_radius_mm=82.0,
    swept_outer_radius_mm=128.0,
    max_bearing_play_mm=0.05,
    max_hub_runout_mm=0.03,
    hub_runout_radius_mm=55.0,
)
SIX: Final = Spec(
    studs=6,
    rotor="vented",
    features=frozenset({"slotted"}),
    nominal_thickness_mm=30.0,
    discard_thickness_mm=27.0,
    machine_to_thickness_mm=27.7,
    max_runout_mm=0.05,
    max_thickness_variation_mm=0.015,
    measuring_radius_mm=150.0,
    swept_inner_radius_mm=100.0,
    swept_outer_radius_mm=162.0,
    max_bearing_play_mm=0.05,
    max_hub_runout_mm=0.03,
    hub_runout_radius_mm=65.0,
)
DIAL: Final = _("The dial")
WHOSE: Final = _("Whose runout")
THICK: Final = _("Thickness")
CHOOSE: Final = _("Choose")
WHOLE: Final = _("The whole vehicle")
LEVELS: Final = (DIAL, WHOSE, THICK, CHOOSE, WHOLE)


@dataclass(frozen=True)
class Exercise:
    """One exercise. ``given`` is how it comes: clean, clamped (by somebody to be trusted), nuts off. ``right`` are causes.

    ``tip_mm`` is where the tip was left, beside the measuring radius; ``at`` is where the trouble is, and ``seen`` what
    shows on the disc there.
    """

    code: str
    level: Promise
    title: Promise
    tale: Promise
    hint: Promise
    asks: tuple[str, ...]
    corners: Mapping[str, Hidden] = field(default_factory=dict)
    spec: Spec = SPEC
    given: frozenset[str] = frozenset()
    right: tuple[str, ...] = ()
    at: str = "FL"
    tip_mm: float = 0.0
    seen: tuple[str, ...] = ()


_HIGH: Final = ("high", "amount")
_BOTH: Final = frozenset({"clean", "clamped"})
_STILL: Final = Hidden()
# fmt: off
EXERCISES: Final = (
    Exercise("find-it", DIAL, _("Find the high spot"), _("A minibus came in after new pads. Find this disc’s high spot and how far it runs out."),
             _("It is clean, and its nuts are torqued by somebody you trust. Turn slowly, one way."), _HIGH, {"FL": Hidden(hub=(0.05, 0.09))}, given=_BOTH),
    Exercise("in-a-hurry", DIAL, _("Fitted in a hurry"), _("A meal van, wheels off yesterday. Find this disc’s high spot and how far it truly runs out."),
             _("Somebody fitted it in a hurry. Trust nothing you have not put right yourself."), _HIGH, {"FL": Hidden(rotor=(0.05, 0.08), joint=(0.05, 0.09), nuts=(0.03, 0.06))}),
    Exercise("small", DIAL, _("Hardly anything"), _("A routine look at a quiet van. How far does it run out, and is it within?"),
             _("Small movements are read between the lines, and from more than one turn."), ("amount", "state"), {"FL": Hidden(hub=(0.012, 0.02), rotor=(0.004, 0.01), beside_deg=0.0)}, given=_BOTH),
    Exercise("slots", DIAL, _("A slotted disc"), _("The needle jumps six times a turn. Find the high spot all the same."),
             _("A slot is no runout: read beside it, and let the needle settle."), _HIGH, {"FL": Hidden(rotor=(0.06, 0.1), slots=6)}, spec=SIX, given=_BOTH),
    Exercise("drift", DIAL, _("It does not come back"), _("The last reading never met the first. How far does this disc run out?"),
             _("If the start does not read as it did, the clamp has moved: clamp again, then sweep again."), _HIGH, {"FL": Hidden(hub=(0.04, 0.07), drift=(0.03, 0.05))}, given=_BOTH),
    Exercise("too-close", DIAL, _("Too close to call"), _("The limit is 0.05 mm, and the disc is somewhere about it. What may be said?"),
             _("A dial of 0.01 mm is not good for less than most of a division: where value ± U meets the limit, say so."), ("amount", "state"), {"FL": Hidden(hub=(0.047, 0.052), rotor=(0.0, 0.001), saddle=(0.0, 0.001))}, given=_BOTH),
    Exercise("loose", DIAL, _("Held by nothing"), _("The wheel is off, the rotor hangs on its hub. Find its high spot."),
             _("A rotor that is held by nothing flops: all nuts, in a star, in rounds, to the torque."), _HIGH, {"FL": Hidden(rotor=(0.05, 0.08))}, given=frozenset({"clean", "nuts off"})),
    Exercise("on-rust", DIAL, _("Where the tip stands"), _("The readings are wild, says the trainee before you. Find the high spot."),
             _("Look where the tip stands: bright metal, 10 to 15 mm in from the edge."), _HIGH, {"FL": Hidden(hub=(0.05, 0.08))}, given=_BOTH, tip_mm=14.0),
    Exercise("joint", WHOSE, _("Before anything is blamed"), _("A courier van, discs renewed last month, pulses since. What throws this disc?"),
             _("Clean before you condemn: what is left afterwards is the parts’, what has gone was the joint’s."), (*_HIGH, "cause"), {"FL": Hidden(joint=(0.09, 0.14), rotor=(0.01, 0.02))}, right=("joint_contamination",)),
    Exercise("nuts", WHOSE, _("An impact gun"), _("Shakes since the tyres were changed. The joint is bright. What is it?"),
             _("Sweep it as it came, then torque in a star and sweep again."), (*_HIGH, "cause"), {"FL": Hidden(nuts=(0.08, 0.12))}, given=frozenset({"clean"}), right=("lug_torque",)),
    Exercise("hub", WHOSE, _("New discs twice"), _("Two sets of discs in a year, and it is back each time. Whose is the runout?"),
             _("Turn the rotor on its studs: what turned with it is the rotor’s, what stayed is the hub’s."), (*_HIGH, "cause"), {"FL": Hidden(hub=(0.08, 0.12), rotor=(0.004, 0.012))}, given=frozenset({"clean"}), right=("hub_face_runout",)),
    Exercise("rotor", WHOSE, _("A dropped box"), _("New discs from a dented box. Whose is the runout?"),
             _("Half a turn on the studs is the classic; three places are better."), (*_HIGH, "cause"), {"FL": Hidden(rotor=(0.09, 0.13), hub=(0.004, 0.012))}, given=frozenset({"clean"}), right=("rotor_runout",)),
    Exercise("stack", WHOSE, _("Each of them a little"), _("Neither part looks bad. Why does it run out so far?"),
             _("Two that are each in order can stand the same way round, and add up."), (*_HIGH, "cause"), {"FL": Hidden(hub=(0.045, 0.055), rotor=(0.045, 0.055), beside_deg=12.0)}, given=frozenset({"clean"}), right=("hub_and_rotor_together",)),
    Exercise("cancel", WHOSE, _("Leave it as it is"), _("The record says hub 0.05. Is the disc in order as it stands?"),
             _("Two that stand against each other take each other away: do not turn what runs true."), ("amount", "state", "cause"), {"FL": Hidden(hub=(0.05, 0.06), rotor=(0.045, 0.055), beside_deg=180.0)}, given=frozenset({"clean"}), right=("none_found",)),
    Exercise("bare", WHOSE, _("Under the hat"), _("The rotor may stand in one place only. Is it the hub?"),
             _("Sweep the bare hub face, and scale by the radii: what is small at the hub is large at the edge."), (*_HIGH, "cause"), {"FL": Hidden(hub=(0.09, 0.13), rotor=(0.0, 0.01))}, spec=FOUR, given=frozenset({"clean"}), right=("hub_face_runout",)),
    Exercise("play", WHOSE, _("Never the same twice"), _("Every turn tells another tale. What is it?"),
             _("Turns that differ are the bearing’s: rock it before any disc is blamed."), ("cause",), {"FL": Hidden(play=(0.07, 0.1), hub=(0.02, 0.03))}, given=_BOTH, right=("wheel_bearing",)),
    Exercise("uneven", THICK, _("It runs true and pulses"), _("The dial hardly moves, the pedal does. Measure what is felt. The van stood all winter."),
             _("What is felt is thickness: a micrometer at ten places round, inside the swept band."), ("state", "variation", "thinnest", "cause"), {"FL": Hidden(patch_mm=(-0.035, -0.026))}, given=_BOTH, right=("corrosion_or_pad_imprint",), seen=("pad_shaped_patch",)),
    Exercise("lips", THICK, _("Over the lips"), _("Somebody wrote 25.6 mm, “plenty left”. How thin is it at the thinnest?"),
             _("Over a lip every reading is too thick: go in, where the pads run."), ("thinnest",), {"FL": Hidden(metal=(0.1, 0.3))}, given=_BOTH, tip_mm=12.0),
    Exercise("deposit", THICK, _("After the ferry hill"), _("Came down the hill with a loaded trailer; pulses since. What was left on the disc?"),
             _("Thicker in one place is not thinner everywhere else: look which way the patch stands."), ("variation", "cause"), {"FL": Hidden(patch_mm=(0.026, 0.034))}, given=_BOTH, right=("pad_deposit_or_hot_spots",), seen=("blue_spots",)),
    Exercise("made-by-runout", THICK, _("Why is it uneven"), _("Pulses more every month. It is uneven; what made it so?"),
             _("Thin where it rubs: hold the thin place against the high spot of the runout."), (*_HIGH, "variation", "cause"), {"FL": Hidden(rotor=(0.09, 0.12), worn_mm=(0.026, 0.034))}, right=("rotor_runout", "runout_made_thickness_variation")),
    Exercise("cured-uneven", THICK, _("Cured but uneven"), _("The hub was renewed last week, the disc was kept, and it pulses as before. What is left, and what now?"),
             _("A cured runout leaves its wear behind. Runout alone never says that it is done."), ("state", "variation", "cause", "choice"), {"FL": Hidden(worn_mm=(0.028, 0.036), ran_out=(0.11, 0.14))}, right=("runout_made_thickness_variation",)),
    Exercise("turn-it", CHOOSE, _("Free of charge"), _("A stack of two. Cure it without a part and without cutting."),
             _("Where hub and rotor are known, the best place on the studs can be worked out instead of tried."), ("cause", "choice"), {"FL": Hidden(hub=(0.042, 0.05), rotor=(0.042, 0.05), beside_deg=10.0)}, right=("hub_and_rotor_together",)),
    Exercise("plate-it", CHOOSE, _("A thin ring"), _("A true new disc on a hub that is a little out. What does the least?"),
             _("The thin side goes to the high spot; the taper that is nearest to the runout."), ("cause", "choice"), {"FL": Hidden(hub=(0.075, 0.09), rotor=(0.0, 0.006), metal=(0.97, 1.0))}, right=("hub_face_runout",)),
    Exercise("cut-it", CHOOSE, _("Metal enough"), _("Uneven, out of true, and nearly new. Two sets of new discs are not what the owner wants."),
             _("Machine-to is what must be left after a cut, not discard."), ("variation", "cause", "choice"), {"FL": Hidden(rotor=(0.09, 0.12), worn_mm=(0.026, 0.032), metal=(0.8, 0.95))}, right=("rotor_runout",)),
    Exercise("no-metal", CHOOSE, _("Nothing left to cut"), _("Uneven, out of true, and it has done its distance. What now?"),
             _("Count what a cut takes before the tip touches: the whole wobble, and a clean-up on each face."), ("thinnest", "cause", "choice"), {"FL": Hidden(rotor=(0.09, 0.12), worn_mm=(0.026, 0.032), metal=(0.12, 0.22))}, right=("rotor_runout",)),
    Exercise("condemn", CHOOSE, _("A kerb at the harbour"), _("Shakes since it met the quay. New discs are ordered already. Are they what it needs?"),
             _("A hub that is far out wastes every disc that is put on it."), ("cause", "choice"), {"FL": Hidden(hub=(0.26, 0.34), rotor=(0.0, 0.012))}, right=("bent_hub_or_axle", "hub_face_runout")),
    Exercise("leave-it", CHOOSE, _("Nothing at all"), _("The owner felt something once and wants new discs. What does the disc say?"),
             _("A disc in order is a finding, too, and the cheapest one."), ("state", "variation", "cause", "choice"), {"FL": Hidden(hub=(0.008, 0.014), rotor=(0.008, 0.012))}, right=("none_found",)),
    Exercise("rear", WHOLE, _("The rear shakes the wheel"), _("The steering wheel shakes under braking. Everybody has looked at the front."),
             _("Feel orders the work and proves nothing. Four wheels, not two."), ("corner", "cause", "choice"), {"FL": _STILL, "FR": _STILL, "RL": _STILL, "RR": Hidden(rotor=(0.09, 0.12), worn_mm=(0.028, 0.036), metal=(0.7, 0.9))}, right=("rotor_runout",), at="RR"),
    Exercise("twice-back", WHOLE, _("A van that has come back twice"), _("New discs, and back after 7,000 km; new discs again, and back after 6,000. The front pulses."),
             _("What was there before the new discs and is there still?"), ("corner", "cause", "choice"), {"FL": Hidden(rotor=(0.004, 0.012)), "FR": Hidden(hub=(0.085, 0.11), rotor=(0.004, 0.012), metal=(0.85, 0.95))}, right=("hub_face_runout",), at="FR"),
    Exercise("dirt-one-side", WHOLE, _("One side was cleaned"), _("Both front discs are new; the apprentice cleaned “the hub”. Which side, and what does it need?"),
             _("A joint is clean when it was seen clean, on this side and on that."), ("corner", "cause", "choice"), {"FL": Hidden(metal=(0.97, 1.0)), "FR": Hidden(joint=(0.09, 0.13), metal=(0.97, 1.0))}, right=("joint_contamination",), at="FR"),
)
# fmt: on
BY_CODE: Final[Mapping[str, Exercise]] = {exercise.code: exercise for exercise in EXERCISES}
