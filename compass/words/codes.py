"""Codes into sentences. One table; the caller may translate it and choose the unit.

The only place of the core that makes words: the case file prints them, the application shows them.
"""

from typing import Final

from compass.ground.positions import is_single
from compass.ground.translation import _N

CHECKS: Final[dict[str, str]] = {
    "sweep_rotor": _N("Sweep the rotor"),
    "sweep_hub_face": _N("Sweep the hub face"),
    "turn_rotor_and_sweep": _N("Turn the rotor, sweep again"),
    "arbor_sweep": _N("Sweep the rotor on a true arbor"),
    "measure_thickness": _N("Measure thickness round the disc"),
    "finer_micrometer": _N("Measure again with a finer micrometer"),
    "finer_dial": _N("Sweep again with a finer dial"),
    "repeat_sweep": _N("Sweep another turn"),
    "repeat_round": _N("Take another thickness round"),
    "reread_station": _N("Clean and read the jumping station again"),
    "clean_and_sweep": _N("Clean the joint and sweep again"),
    "torque_and_sweep": _N("Torque the nuts and sweep again"),
    "bearing_play": _N("Measure the bearing play"),
    "inspect_pads_and_slides": _N("Inspect pads and slides"),
    "measure_other_corner": _N("Measure the next corner"),
    "road_test": _N("Road-test"),
    "ask_driver": _N("Ask the driver: braking lightly, or hard only"),
}
REMEDIES: Final[dict[str, str]] = {
    "none": _N("Nothing to do at this disc"),
    "clean_and_torque": _N("Clean the joint, torque the nuts, sweep again"),
    "index": _N("Turn the rotor on its studs"),
    "plate": _N("Correction plate"),
    "bench_cut": _N("Machine on the bench"),
    "on_vehicle_cut": _N("Match on the vehicle"),
    "new_rotors": _N("Replace the rotors, both sides"),
    "hub_unit": _N("Bearing or hub unit first"),
    "bench_cut+plate": _N("Machine on the bench, then a plate"),
    "new_rotors+plate": _N("New rotors with a plate"),
    "new_rotors+index": _N("New rotors, best of their positions"),
    "new_rotors+on_vehicle_cut": _N("New rotors, matched on the vehicle"),
}
# On an axle that has one disc only, a motorcycle's.
REMEDIES_OF_ONE: Final[dict[str, str]] = {
    **REMEDIES,
    "new_rotors": _N("Replace the rotor"),
    "new_rotors+plate": _N("A new rotor with a plate"),
    "new_rotors+index": _N("A new rotor, best of its positions"),
    "new_rotors+on_vehicle_cut": _N("A new rotor, matched on the vehicle"),
}


def remedy_name(code: str, position: str) -> str:
    """Return what a remedy is called where there are two sides, and where there is one disc (untranslated)."""
    return (REMEDIES_OF_ONE if is_single(position) else REMEDIES)[code]


SCRATCH: Final[dict[str, str]] = {
    "scratch_no_runout_here": _N(
        "Clean all round: the lathe runs true to this hub, and the disc has next to no runout here. "
        "If the sweep said otherwise, check the nuts and sweep again before you cut."
    ),
    "scratch_runout": _N(
        "It comes and goes: this is the disc's runout against its own hub, as swept. Go on with the plan."
    ),
    "scratch_patch": _N(
        "One patch: a hard spot, a print or a high place. It may need another pass; if it stays dark and hard after "
        "the finish pass, the disc is not to be cut further."
    ),
    "scratch_rotor_true": _N("Clean all round: the rotor is true on this arbor. The runout belongs to the hub."),
    "scratch_rotor_or_mounting": _N(
        "It comes and goes: rotor or mounting. Loosen, turn the rotor half a turn on the arbor, scratch again beside "
        "it: in the same place on the rotor it is the rotor, else clean the adapters and mount it again."
    ),
}
STATES: Final[dict[str, str]] = {
    "within": _N("within"),
    "over": _N("over"),
    "above": _N("above"),
    "below": _N("below"),
    "too_close": _N("too close to call"),
    "unknown": _N("not measured"),
}
# Of a figure that is there: it was read, and is not believed until it was read again.
STATES_OF_A_FIGURE: Final[dict[str, str]] = {**STATES, "unknown": _N("not judged yet")}
FINDINGS: Final[dict[str, str]] = {
    "cracked": _N("Cracked"),
    "vent_showing": _N("A vent shows through the face"),
}
SEEN: Final[dict[str, str]] = {
    "cracked": _N("a crack or missing metal"),
    "vent_showing": _N("a vent through the face"),
    "blue_spots": _N("blue or dark spots"),
    "pad_shaped_patch": _N("a patch shaped like a pad"),
    "rust_at_joint": _N("rust at the joint"),
    "deep_grooves": _N("deep grooves"),
    "slides_seized": _N("slides seized"),
    "piston_stuck": _N("piston stuck"),
    "joint_play": _N("play in a joint"),
    "tyre_damage": _N("tyre damage"),
    "abs_active": _N("anti-lock at work"),
    "drum_out_of_round": _N("drum out of round"),
}
SURFACES: Final[dict[str, str]] = {
    "rotor_outboard": _N("Rotor, outboard"),
    "rotor_inboard": _N("Rotor, inboard"),
    "hub_face": _N("Hub face"),
    "arbor": _N("On the arbor"),
}


CAUSES: Final[dict[str, str]] = {
    "runout_made_thickness_variation": _N("thickness variation made by a runout that is no longer there"),
    "corrosion_or_pad_imprint": _N("corrosion or the print of a parked pad"),
    "pad_deposit_or_hot_spots": _N("pad deposit or hot spots"),
    "rotor_runout": _N("the rotor runs out"),
    "hub_face_runout": _N("the hub face runs out"),
    "joint_contamination": _N("dirt in the joint"),
    "lug_torque": _N("unevenly torqued nuts"),
    "wheel_bearing": _N("wheel bearing"),
    "hub_and_rotor_together": _N("hub and rotor together, neither by itself"),
    "bent_hub_or_axle": _N("a bent hub or axle"),
    "caliper_or_slides": _N("caliper or slides"),
    "drum_out_of_round": _N("a drum out of round"),
    "suspension_or_steering_play": _N("play in suspension or steering"),
    "tyre_or_wheel": _N("tyre or wheel"),
    "abs_operation": _N("the anti-lock system at work"),
    "worn_below_limit": _N("a disc worn below its limit"),
    "cracked_or_broken": _N("a cracked or broken disc"),
    "not_separable": _N("not told apart yet"),
    "none_found": _N("nothing found"),
}
WORTH: Final[dict[str, str]] = {
    "wanting": _N("Without it, what is done at this corner rests on a guess."),
    "figure": _N("What it reads may change which remedy costs least."),
    "both_sides": _N("Metal is due on this axle, and both its sides get the same: this side must be known, too."),
}
SIGNS: Final[dict[str, str]] = {
    "runout_over": _N("Runout, clean and torqued"),
    "dirty_runout_over": _N("Runout as it came in"),
    "uncleaned_runout_over": _N("Runout, torqued but not cleaned"),
    "untorqued_runout_over": _N("Runout, cleaned but not torqued"),
    "joint_took": _N("What cleaning or torquing took out"),
    "joint_of": _N("What was put right"),
    "came_in": _N("Swept"),
    "cured": _N("Put right at once"),
    "no_rust": _N("Rust in the joint when it was cleaned"),
    "whose": _N("Who carries the runout"),
    "hub_far_over": _N("The hub's own runout"),
    "variation_over": _N("Thickness variation"),
    **dict.fromkeys(
        ("made_by", "made_by_torqued", "made_by_cleaned", "made_by_put_right", "made_by_unswept"),
        _N("Where it is thin"),
    ),
    "bearing_play_over": _N("Bearing play"),
    "joint_play": _N("Rocked, a joint of suspension or steering"),
    "turns_repeat": _N("Repeat turns"),
    "under_discard": _N("Thickness against discard"),
    "pads_uneven": _N("Pads, inner against outer"),
    "when_always": _N("Felt without braking too"),
    "hard_only": _N("Felt"),
    "worse_hot": _N("Worse hot"),
    "worse_cold": _N("Worse cold"),
    "wheels_off": _N("Wheels were off"),
    "pads_renewed": _N("Pads were renewed"),
    "rotors_renewed": _N("Rotors were renewed"),
    "kerb_strike": _N("A kerb was struck"),
    "stood_unused": _N("It stood unused"),
    "towing": _N("Towing or heavy loads"),
    "hub_or_bearing_work": _N("Hub or bearing was worked on"),
    "tyres_renewed": _N("Tyres were renewed"),
    "nothing_beside": _N("Every corner looked at, nothing noted beside the discs"),
    "frequency": _N("Frequency"),
    "road_test": _N("Road test"),
    "after_work": _N("Driven after the work"),
    **{f"seen:{name}": _N(f"Seen: {words}") for name, words in SEEN.items()},
}
OUTCOMES: Final[dict[str, str]] = {
    "over": _N("over"),
    "within": _N("within"),
    "close": _N("too close to call"),
    "play in a joint": _N("play in a joint"),
    "no play": _N("no play"),
    "over before, within since": _N("over as it came in, within since"),
    "still over": _N("still over"),
    "past the limit": _N("more than the limit"),
    "much": _N("more than half the limit"),
    "little": _N("little"),
    "dirt": _N("dirt"),
    "nuts": _N("nuts"),
    "both": _N("both"),
    "both for sure": _N("both, for sure"),
    "hub or both": _N("the hub, or both"),
    "rotor or both": _N("the rotor, or both"),
    "swept as it came in": _N("as it came in"),
    "swept torqued, not cleaned": _N("torqued, before cleaning"),
    "swept cleaned, not torqued": _N("cleaned, before torquing"),
    "swept cleaned only": _N("only after cleaning"),
    "hub": _N("the hub"),
    "rotor": _N("the rotor"),
    "far over": _N("far over the limit"),
    "ordinary": _N("ordinary"),
    "runout": _N("where the runout rubs"),
    "wide lobe": _N("in a wide lobe, as some runout rubs"),
    "hollow patch": _N("in one patch as wide as a pad"),
    "raised patch": _N("all but one raised patch"),
    "unclear": _N("no clear pattern"),
    "disagree": _N("do not repeat"),
    "agree": _N("repeat"),
    "under": _N("under, or too close"),
    "above": _N("above"),
    "uneven": _N("uneven"),
    "even": _N("even"),
    "yes": _N("yes"),
    "no": _N("no"),
    "seen": _N("seen"),
    "not noted": _N("not noted"),
    "wheel order": _N("once or twice the wheel's turn"),
    "other": _N("not the wheel's"),
    "only when braking": _N("only when braking"),
    "without braking too": _N("without braking too"),
    "no shake recorded": _N("no shake recorded"),
    "hard only": _N("only when braking hard"),
    "lightly too": _N("when braking lightly too"),
    "still felt": _N("still felt"),
    "nothing felt": _N("nothing felt"),
    "not at wheel order": _N("a shake, but not at the wheel's order"),
}
# What is felt on the road, driven over the speeds of the complaint.
FELT: Final[dict[str, str]] = {
    "gone": _N("nothing is felt"),
    "less": _N("less, but still there"),
    "same": _N("as before"),
}
# Why a step comes next: codes of ``compass.judge.next_step.NextStep``.
WHY: Final[dict[str, str]] = {
    "worth_most": _N("worth most for its time"),
    "not_looked_at": _N("no further check is worth its minutes"),
    "sweep_rotor": _N("nothing measured here yet"),
    "reread_station": _N("one reading stands alone"),
    "measure_thickness": _N("runout alone cannot clear a corner"),
    "repeat_sweep": _N("another turn settles what one cannot"),
    "repeat_round": _N("too close to its limit: another round lessens the doubt, one at more stations lessens it more"),
    "clean_and_sweep": _N("before anything is condemned for runout"),
    "torque_and_sweep": _N("before anything is condemned for runout"),
    "turn_rotor_and_sweep": _N("settles hub against rotor"),
    "sweep_hub_face": _N("settles hub against rotor"),
    "arbor_sweep": _N("settles hub against rotor"),
    "bearing_play": _N("before any disc reading is believed"),
    "inspect_pads_and_slides": _N("uneven pads would tell of a caliper that sticks"),
    "finer_dial": _N("the reading is too close to its limit"),
    "finer_micrometer": _N("the reading is too close to its limit"),
    "measure_other_corner": _N("the corners measured do not explain it"),
    "nothing_left": _N("no check is left that would tell more"),
    "put_right": _N("what was cleaned or torqued to be swept may have been it"),
    "before_it_leaves": _N("nothing explains it yet, and a loose bearing must not leave: the wheel is off"),
    "before_a_guess": _N("three minutes, before an hour’s work on what is only likelier than the rest"),
    "beside": _N("driving tells whether it was that"),
    "mended_beside": _N("what sits beside the discs was seen to: driving tells whether it was that"),
    "linings": _N("under their least thickness: all of the axle; then write the new ones down"),
    "unopened": _N("nothing measured here yet"),
    "unjudged": _N("nothing measured here yet"),
}
