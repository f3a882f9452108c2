"""Codes into sentences. One table; the caller may translate it and choose the unit.

The only place of the core that makes words: the case file prints them, the application shows them.
"""

from collections.abc import Callable
from typing import Any, Final

from compass.angles import nearest_stud
from compass.figures import length_text, plain_text
from compass.findings import Reason
from compass.units import Unit


def gettext_noop(text: str) -> str:
    """Mark a text for translation without translating it."""
    return text


_N = gettext_noop
SENTENCES: Final[dict[str, str]] = {
    "runout_stands": _N("Lateral runout is {tir} ± {u} {unit}, {state} (limit {limit}); its high spot is at {place}."),
    "minimum_stands": _N("The thinnest place is {min} ± {u} {unit}, {state} discard {limit}."),
    "variation_stands": _N("Thickness variation is {variation} ± {u} {unit}, {state} (limit {limit})."),
    "bearing_over": _N(
        "Bearing play {play} is over its limit {limit}: the bearing comes first, "
        "and no disc reading can be believed yet."
    ),
    "hub_carries": _N("The hub carries {tir} ± {u} {unit}, high at {place}."),
    "rotor_carries": _N("The rotor carries {tir} ± {u} {unit}, high at {place} as first mounted."),
    "hub_face_stands": _N("At the hub's own radius that is {tir} ± {u} {unit}, {state} (limit {limit})."),
    "joint_dirt": _N("Cleaning the joint took out {tir} ± {u} {unit}, which stood high at {place}."),
    "joint_nuts": _N("Torquing the nuts took out {tir} ± {u} {unit}, which stood high at {place}."),
    "joint_both": _N("Cleaning and torquing took out {tir} ± {u} {unit}, which stood high at {place}."),
    "hub_disagrees": _N(
        "The hub face says {direct} {unit}, turning the rotor says {turned} {unit}: "
        "clean the face again, check the tip's radius, sweep again."
    ),
    "rotor_disagrees": _N(
        "The arbor says {direct} {unit}, turning the rotor says {turned} {unit}: "
        "clean the arbor's faces, loosen, turn half a turn and touch again."
    ),
    "evidence_disagrees": _N(
        "The sweeps do not fit together: something moved between them. Clean, torque and sweep again."
    ),
    "separates_best": _N("{check} tells hub from rotor best: both to about ±{expected} {unit} (worked out)."),
    "turn_separates_best": _N(
        "Turning the rotor on by {turned} studs tells hub from rotor best: "
        "both to about ±{expected} {unit} (worked out)."
    ),
    "worn_by_runout": _N("It is thin where the runout rubs: the runout made it."),
    "worn_in_a_patch": _N(
        "The unevenness sits in one patch about as wide as a pad, near {place}: corrosion, a print or a hot spot, "
        "not runout."
    ),
    "pattern_unclear": _N("Where it is thin fits neither the runout nor a single patch."),
    "provisional": _N("Provisional: this rests on flagged evidence."),
    "one_radius": _N("Measured at one radius: taper across the swept band is not known."),
    "pads_uneven": _N("The pads differ by {play}: look at slides and piston."),
    "pads_worn": _N("A pad is down to {play} (least {limit})."),
    "drum_over": _N("The drum in the hat measures {play}, over its limit {limit}: replace the rotor."),
    "linings_worn": _N("A shoe lining is down to {play} (least {limit})."),
    "seen": _N("Seen: {seen}."),
    "flag_elsewhere": _N("{surface}: {flag}"),
    "one_sweep_cannot_tell": _N(
        "One sweep cannot tell hub from rotor: turn the rotor and sweep again before anything is condemned."
    ),
    "variation_remains": _N("The runout is in, but the disc is still uneven: the pedal will still pulse."),
    "runout_too_close": _N("The runout is too close to its limit to call: another turn or a finer dial settles it."),
    "variation_too_close": _N(
        "The variation is too close to its limit to call: more stations or a finer micrometer settle it."
    ),
    "minimum_too_close": _N("The thickness is too close to discard to call, and so counts as below it."),
    "runout_missing": _N("Runout has not been measured here yet."),
    "thickness_missing": _N("Thickness has not been measured here yet: runout alone cannot clear a corner."),
    "found": _N("{finding}: replace the rotor. Do not drive."),
    "do_not_drive": _N("Do not drive this vehicle: see {positions}."),
    "next_check": _N("{check} at {position}."),
    "both_sides_alike": _N("{remedy} here too, for the axle's other side: both sides get the same."),
    "axle_waits": _N("The axle is decided together: first see to {positions}."),
    "plan": _N("{positions}: {remedies}."),
    "most_likely": _N("Most likely: {cause} ({odds})."),
    "measured_corners_within": _N("Nothing found at {positions}. Measure the other corners before closing."),
}
FLAGS: Final[dict[str, str]] = {
    "clamp_moved": _N("The dial did not come back to where it began: fix the clamp and sweep again."),
    "turns_disagree": _N("The turns do not repeat: check the bearing and the nuts before you believe the disc."),
    "lone_jump": _N("One reading jumps at {at}°: rust, a slot or a hole. Clean the spot and read it again."),
    "dial_too_coarse": _N("This dial's graduation is over a quarter of the limit: take a finer one."),
    "micrometer_too_coarse": _N("This micrometer's graduation is over a quarter of the limit: take a finer one."),
    "too_few_stations": _N("At least four stations are needed; one or two a stud are better."),
    "tip_too_far_in": _N("The tip stood too far in: move it out to the measuring radius and sweep again."),
    "unit_slip": _N("These readings look like the wrong unit or dial beside the earlier sweep: check both."),
    "joint_not_cleaned": _N("The joint was not cleaned: clean hub face and hat to bright metal, then sweep again."),
    "nuts_not_torqued": _N("The nuts were not torqued: torque all of them in star order, then sweep again."),
}
CHECKS: Final[dict[str, str]] = {
    "sweep_rotor": _N("Sweep the rotor"),
    "sweep_hub_face": _N("Sweep the hub face"),
    "turn_rotor_and_sweep": _N("Turn the rotor, sweep again"),
    "arbor_sweep": _N("Sweep the rotor on a true arbor"),
    "measure_thickness": _N("Measure thickness round the disc"),
    "finer_micrometer": _N("Measure again with a finer micrometer"),
    "finer_dial": _N("Sweep again with a finer dial"),
    "repeat_sweep": _N("Sweep another turn"),
    "reread_station": _N("Clean and read the jumping station again"),
    "clean_and_sweep": _N("Clean the joint and sweep again"),
    "torque_and_sweep": _N("Torque the nuts and sweep again"),
    "bearing_play": _N("Measure the bearing play"),
    "inspect_pads_and_slides": _N("Inspect pads and slides"),
    "measure_other_corner": _N("Measure the next corner"),
    "road_test": _N("Road-test"),
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
STUD_PLACE: Final = _N("stud {stud}")
AT_STUD: Final = _N("at stud {stud}")
BETWEEN_STUDS: Final = _N("between studs {first} and {second}")
_AT_STUD: Final = 0.12  # of the way to the next stud: nearer than that it stands at one
STUD_PLACE_OFF: Final = _N("stud {stud} {offset:+.0f}°")


def between_studs(angle_deg: float, studs: int, *, translate: Callable[[str], str] = gettext_noop) -> str:
    """Name a plate's place: at a stud, or between which two."""
    step = 360.0 / studs
    place = (angle_deg % 360.0) / step
    near = round(place)
    if abs(place - near) < _AT_STUD:
        return translate(AT_STUD).format(stud=near % studs + 1)
    low = int(place)
    return translate(BETWEEN_STUDS).format(first=low % studs + 1, second=(low + 1) % studs + 1)


def sentence(reason: Reason, *, unit: Unit = Unit.MM, translate: Callable[[str], str] = gettext_noop) -> str:
    """Put a reason into words, lengths in ``unit``, texts through ``translate``."""
    if "flag" in reason.figures:
        flag = translate(FLAGS[reason.figures["flag"]]).format(at=reason.figures["at"])
        if reason.code == "flag":
            return flag
        return translate(SENTENCES[reason.code]).format(
            flag=flag, surface=translate(SURFACES[reason.figures["surface"]])
        )
    code = reason.code
    if code == "separates_best" and reason.figures["turned"] is not None:
        code = "turn_separates_best"
    return translate(SENTENCES[code]).format(**_words(reason.figures, unit, translate))


def place_text(angle_deg: float, studs: int, *, translate: Callable[[str], str] = gettext_noop) -> str:
    """Name a hub angle by its nearest stud and the degrees past it."""
    place = nearest_stud(angle_deg, studs)
    template = STUD_PLACE if abs(place.offset_deg) < 0.5 else STUD_PLACE_OFF
    return translate(template).format(stud=place.stud, offset=place.offset_deg).replace("-", "−")


def odds_text(probability: float) -> str:
    """Say a probability as odds out of twenty, or out of a hundred near certainty: never a false precision."""
    if 0.05 <= probability <= 0.95:
        return f"{round(probability * 20)} in 20"
    return f"{min(max(round(probability * 100), 1), 99)} in 100"


def _words(figures: dict[str, Any], unit: Unit, translate: Callable[[str], str]) -> dict[str, str]:
    u_mm = figures.get("u_mm")
    words: dict[str, str] = {}
    for name, value in figures.items():
        if name in ("limit_mm", "play_mm"):
            plain = plain_text(value, unit=unit)
            words[name.removesuffix("_mm")] = f"{plain.figure} {plain.unit}"
        elif name.endswith("_mm") and name != "u_mm":
            text = length_text(value, unit=unit, u_mm=u_mm)
            words |= {name.removesuffix("_mm"): text.figure, "u": text.plus_minus or "", "unit": text.unit}
        elif name == "odds":
            words[name] = odds_text(value)
        elif name == "turned":
            words[name] = f"{value:g}" if value is not None else ""
        elif name == "positions":
            words[name] = ", ".join(value)
        elif name == "remedies":
            words[name] = ", ".join(translate(REMEDIES[told]) if told else "…" for told in value)
        elif name in _TABLES:
            words[name] = translate(_TABLES[name][value])
        else:
            words[name] = str(value)
    if figures.get("high_deg") is not None:
        words["place"] = place_text(figures["high_deg"], figures["studs"], translate=translate)
    return words


CAUSES: Final[dict[str, str]] = {
    "runout_made_thickness_variation": _N("thickness variation made by a runout that is no longer there"),
    "corrosion_or_pad_imprint": _N("corrosion or the print of a parked pad"),
    "pad_deposit_or_hot_spots": _N("pad deposit or hot spots"),
    "rotor_runout": _N("the rotor runs out"),
    "hub_face_runout": _N("the hub face runs out"),
    "joint_contamination": _N("dirt in the joint"),
    "lug_torque": _N("unevenly torqued nuts"),
    "wheel_bearing": _N("wheel bearing"),
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
SIGNS: Final[dict[str, str]] = {
    "runout_over": _N("Runout, clean and torqued"),
    "dirty_runout_over": _N("Runout as it came in"),
    "joint_took": _N("What cleaning or torquing took out"),
    "joint_of": _N("What was put right"),
    "came_in": _N("Swept"),
    "whose": _N("Who carries the runout"),
    "hub_far_over": _N("The hub's own runout"),
    "variation_over": _N("Thickness variation"),
    "made_by": _N("Where it is thin"),
    "bearing_play_over": _N("Bearing play"),
    "turns_repeat": _N("Repeat turns"),
    "under_discard": _N("Thickness against discard"),
    "pads_uneven": _N("Pads, inner against outer"),
    "when_always": _N("Felt without braking too"),
    "hard_only": _N("Felt only when braking hard"),
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
    **{f"seen:{name}": _N(f"Seen: {words}") for name, words in SEEN.items()},
}
OUTCOMES: Final[dict[str, str]] = {
    "over": _N("over"),
    "within": _N("within"),
    "close": _N("too close to call"),
    "much": _N("more than half the limit"),
    "little": _N("little"),
    "dirt": _N("dirt"),
    "nuts": _N("nuts"),
    "both": _N("both"),
    "swept as it came in": _N("as it came in"),
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
    "not at wheel order": _N("a shake, but not at the wheel's order"),
}
_TABLES: Final = {
    "cause": CAUSES,
    "state": STATES,
    "check": CHECKS,
    "finding": FINDINGS,
    "seen": SEEN,
    "remedy": REMEDIES,
}
