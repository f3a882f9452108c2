"""A reason's code with its figures as a sentence; a flag as words."""

from collections.abc import Callable
from typing import Any, Final

from compass.cause.measured import Reason
from compass.ground.translation import _N, gettext_noop, written
from compass.ground.units import Unit
from compass.words.codes import CAUSES, CHECKS, FINDINGS, REMEDIES, SEEN, STATES, SURFACES
from compass.words.figures import length_text, odds_text, plain_text
from compass.words.places import place_text

SENTENCES: Final[dict[str, str]] = {
    "runout_stands": _N("Lateral runout is {tir} ± {u} {unit}, {state} (limit {limit}); its high spot is at {place}."),
    "minimum_stands": _N("The thinnest place is {min} ± {u} {unit}, {state} discard {limit}."),
    "stands_alone": _N(
        "One thickness at {at}° stands out between its neighbours: a slip of the pen, or a narrow patch? "
        "Mike it again before metal is cut for it."
    ),
    "minimum_open": _N("The thinnest place read is {min} ± {u} {unit}, not judged yet (discard {limit})."),
    "variation_open": _N("Thickness variation is {variation} ± {u} {unit}, not judged yet (limit {limit})."),
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
    "back_separates_best": _N(
        "Turning the rotor back to where it first stood tells hub from rotor best: "
        "both to about ±{expected} {unit} (worked out)."
    ),
    "turn_separates_best": _N(
        "Turning the rotor on by {turned} studs tells hub from rotor best: "
        "both to about ±{expected} {unit} (worked out)."
    ),
    "stud_separates_best": _N(
        "Turning the rotor on by one stud tells hub from rotor best: both to about ±{expected} {unit} (worked out)."
    ),
    "worn_by_runout": _N("It is thin where the runout rubs: the runout made it."),
    "worn_in_a_patch": _N(
        "The unevenness sits in one patch about as wide as a pad, near {place}: corrosion, a print or a hot spot, "
        "not runout."
    ),
    "worn_in_a_lobe": _N(
        "It is thin in a lobe as wide as a runout rubs, but not where one that was swept would rub: a runout made it "
        "that is gone, or that nobody swept."
    ),
    "pattern_in_noise": _N(
        "Where it is thin is lost in the noise and the steps of the readings: nothing is said of it."
    ),
    "pattern_unclear": _N("Where it is thin fits neither the runout nor a single patch."),
    "provisional": _N("Provisional: it rests on readings that want a second look."),
    "one_radius": _N("Measured at one radius: taper across the swept band is not known."),
    "pads_uneven": _N("The pads differ by {play}: look at slides and piston."),
    "pads_worn": _N("A pad is down to {play} (least {limit})."),
    "drum_over": _N("The drum in the hat measures {play}, over its limit {limit}: replace the rotor."),
    "linings_worn": _N("A shoe lining is down to {play} (least {limit})."),
    "drum_oval": _N("The drum’s diameters differ by {play}: it is out of round."),
    "seen": _N("Seen: {seen}."),
    "flag_elsewhere": _N("{surface}: {flag}"),
    "captive_cannot_tell": _N(
        "The disc comes off only with its hub: nothing tells whose runout it is. A cut on the vehicle takes it out "
        "whosever it is; new parts go by their odds."
    ),
    "as_it_stands": _N("What is still to be done is chosen by what was read after the work."),
    "tell_apart_anew": _N(
        "It is over again after its work, and whose the runout is now nobody knows: tell hub from rotor first "
        "({check} at {position}, {minutes} min)."
    ),
    "turned_unprepared": _N(
        "The sweep with the rotor turned on is set up as not cleaned or not torqued, so it tells hub from rotor no "
        "better. If it was both, put its set-up right; else clean, torque and sweep it again."
    ),
    "one_sweep_cannot_tell": _N(
        "One sweep cannot tell hub from rotor: neither is condemned until the rotor is turned and swept again."
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
    "felt_here": _N("Its unevenness is too close to its limit to call, but is what is felt ({odds}): it is not left."),
    "axle_waits": _N("The axle is decided together: first see to {positions}."),
    "measure_first": _N("Measure first: {check} at {position}, {minutes} min, is worth more than acting now."),
    "plan": _N("{positions}: {remedies}."),
    "most_likely": _N("Most likely: {cause} ({odds})."),
    "measured_corners_within": _N("Nothing found at {positions}. Not all of the others were looked at."),
    "all_within": _N("Nothing found at any disc: {positions}."),
    "beside_found": _N("See to what was found beside the discs, then drive: {cause}{at}."),
    "beside_likely": _N("See to what likely sits beside the discs, then drive: {cause}{at} ({odds})."),
    "renew_pads_worn": _N("Renew all pads of the axle: {position}."),
    "renew_linings_worn": _N("Renew all shoes of the parking brake: {position}."),
    "drive_the_work": _N("Nothing is over any more where it was worked on: road-test it ({positions})."),
    "work_held": _N("Nothing is over any more where it was worked on, and nothing is felt: {positions}."),
    "drive_mended": _N("What sits beside the discs was seen to: road-test it."),
    "drive_it": _N(
        "Nothing found, but what was cleaned or torqued to be swept may have been it: road-test it ({positions})."
    ),
}


FLAGS: Final[dict[str, str]] = {
    "clamp_moved": _N("The dial did not come back to where it began: fix the clamp and sweep again."),
    "turns_disagree": _N("The turns do not repeat: check the bearing and the nuts before you believe the disc."),
    "lone_jump": _N("One reading jumps at {at}°: rust, a slot or a hole. Clean the spot and read it again."),
    "dial_too_coarse": _N("This dial's graduation is over a quarter of the limit: take a finer one."),
    "lips_not_measured": _N(
        "A plain caliper rests on the lips: measure both lips (Look), or take one with tips; "
        "until then the thinnest place is not known any closer."
    ),
    "micrometer_too_coarse": _N("This micrometer's graduation is over a quarter of the limit: take a finer one."),
    "too_few_stations": _N("At least four stations are needed; one or two a stud are better."),
    "tip_too_far_in": _N("The tip stood too far in: move it out to the measuring radius and sweep again."),
    "unit_slip": _N("These readings look like the wrong unit or dial beside the earlier sweep: check both."),
    "joint_not_cleaned": _N("The joint was not cleaned: clean hub face and hat to bright metal, then sweep again."),
    "nuts_not_torqued": _N("The nuts were not torqued: torque all of them in star order, then sweep again."),
}
# What a flag says of a round of thickness, where it says another thing of a sweep.
FLAGS_OF_A_ROUND: Final[dict[str, str]] = {
    **FLAGS,
    "lone_jump": _N(
        "One thickness at {at}° can hardly be of this disc: a digit missed, a chip, a hole? Mike it again; "
        "if it stays so, take another round. The rest is judged without it, and clears nothing until then."
    ),
    "unit_slip": _N(
        "These thicknesses can hardly be of this disc: another unit, a digit missed, another disc? Mike it again."
    ),
}


def sentence(reason: Reason, *, unit: Unit = Unit.MM, translate: Callable[[str], str] = gettext_noop) -> str:
    """Put a reason into words, lengths in ``unit``, texts through ``translate``."""
    if "flag" in reason.figures:
        table = FLAGS_OF_A_ROUND if reason.code == "flag_of_a_round" else FLAGS
        flag = translate(table[reason.figures["flag"]]).format(at=reason.figures["at"])
        if reason.code != "flag_elsewhere":
            return flag
        return translate(SENTENCES[reason.code]).format(
            flag=flag, surface=translate(SURFACES[reason.figures["surface"]])
        )
    code = reason.code
    if code == "separates_best" and reason.figures["turned"] is not None:
        code = {0: "back_separates_best", 1: "stud_separates_best"}.get(reason.figures["turned"], "turn_separates_best")
    return translate(SENTENCES[code]).format(**_words(reason.figures, unit, translate))


def _words(figures: dict[str, Any], unit: Unit, translate: Callable[[str], str]) -> dict[str, str]:
    expanded_mm = figures.get("expanded_mm")
    words: dict[str, str] = {}
    for name, value in figures.items():
        if name in ("limit_mm", "play_mm"):
            plain = plain_text(value, unit=unit)
            words[name.removesuffix("_mm")] = f"{plain.figure} {plain.unit}"
        elif name.endswith("_mm") and name != "expanded_mm":
            text = length_text(value, unit=unit, expanded_mm=expanded_mm)
            words |= {name.removesuffix("_mm"): text.figure, "u": text.plus_minus or "", "unit": text.unit}
        elif name == "odds":
            words[name] = odds_text(value)
        elif name == "turned":
            words[name] = written(f"{value:g}") if value is not None else ""
        elif name == "positions":
            words[name] = ", ".join(value)
        elif name == "remedies":
            words[name] = ", ".join(translate(REMEDIES[code]) if code else "…" for code in value)
        elif name in _TABLES:
            words[name] = translate(_TABLES[name][value])
        else:
            words[name] = str(value)
    if figures.get("high_deg") is not None:
        words["place"] = place_text(figures["high_deg"], figures["studs"], translate=translate)
    return words


_TABLES: Final = {
    "cause": CAUSES,
    "state": STATES,
    "check": CHECKS,
    "finding": FINDINGS,
    "seen": SEEN,
    "remedy": REMEDIES,
}
