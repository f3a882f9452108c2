"""The measured chain of one corner: thickness variation ← runout ← whose. What is to blame, and why, as reasons."""

from typing import Final

from compass.cause.causes import FOUND_BESIDE
from compass.cause.measured import CONDITION_CHECKS, Measured, Reason
from compass.ground.limits import State
from compass.measure.analysed import turned_unprepared
from compass.measure.wear_pattern import MadeBy

_FAR_OVER: Final = 3.0  # times the runout limit: a hub beyond it was knocked, not made so
CARRIES_MOST: Final = 0.6  # share of the installed runout along its own direction; beside it, the other is small
_JOINT_CAUSES: Final = {"dirt": "joint_contamination", "nuts": "lug_torque", "both": "joint_contamination"}


def first_call(measured: Measured) -> tuple[str, str | None]:
    """Return (root cause, recommended remedy) as far as the corner's own evidence tells; None is an honest answer."""
    runout, thickness = measured.runout, measured.thickness
    if measured.bearing_over:  # rule 3: bearing first, whatever the disc says
        return "wheel_bearing", "hub_unit"
    if measured.broken:
        return "cracked_or_broken", "new_rotors"
    if measured.worn and not measured.lips_hide_wear:
        return "worn_below_limit", "new_rotors"
    if "turns_disagree" in runout.flags:
        return "not_separable", None
    if measured.to_be_cleaned:
        return "not_separable", "clean_and_torque"  # rule 4
    if runout.state is State.OVER:
        return _carrier(measured), None
    thick_enough = not measured.lips_hide_wear  # else nothing is signed for, whatever else is in order
    if runout.state is State.WITHIN and (cured := _cured(measured)) is not None:
        return cured, "none" if thickness.state_variation is State.WITHIN and thick_enough else None
    if (runout.state, thickness.state_variation) == (State.WITHIN, State.WITHIN):
        beside = _beside_the_disc(measured)
        return (beside or "none_found", "none") if thick_enough else (beside or "not_separable", None)
    if runout.state is State.WITHIN and thickness.state_variation is State.OVER:
        return _unevenness(measured), None
    return "not_separable", None


def because(measured: Measured) -> list[Reason]:
    """Return the reasons of a corner, the weightiest first: what was measured, what stands, what it is made of."""
    reasons = [Reason("found", {"finding": finding}) for finding in measured.broken]
    reasons += _bearing(measured)
    reasons += _worn_linings(measured)
    reasons += _standing(measured)
    reasons += _flags(measured)
    reasons += _whose(measured)
    reasons += _wear(measured)
    reasons += _open_ends(measured)
    reasons += _beside(measured)
    return reasons


def _carrier(measured: Measured) -> str:
    """Name whose runout it is: the one that carries most of it, if the evidence tells them apart."""
    whose = measured.whose
    if whose.disagrees:
        return "not_separable"
    wobble_mm = measured.runout.sweep.wobble_mm if measured.runout.sweep is not None else None
    limit_mm = measured.corner.spec.max_runout_mm
    tir = measured.runout.tir
    if wobble_mm is not None and tir is not None and wobble_mm + tir.expanded_mm < 0.5 * limit_mm:
        return "rotor_runout"  # the higher orders are the disc's own, and they alone put it over
    if whose.hub is None or whose.rotor is None:
        return "not_separable"
    for part, cause in ((whose.hub, "hub_face_runout"), (whose.rotor, "rotor_runout")):
        if part.share is not None and part.share >= CARRIES_MOST:
            knocked = part is whose.hub and part.tir_mm - part.expanded_mm > _FAR_OVER * limit_mm
            return "bent_hub_or_axle" if knocked else cause
    return "hub_and_rotor_together"  # each under that share, and both are known


def _beside_the_disc(measured: Measured) -> str | None:
    """Name what was seen or measured beside a disc that is itself in order."""
    for finding, cause in FOUND_BESIDE.items():
        if finding in measured.noted:
            return cause.value
    return "caliper_or_slides" if measured.pads_uneven_mm is not None else None


def _cured(measured: Measured) -> str | None:
    """Name what cleaning or torquing has put right, where the corner came in over its limit."""
    joint = measured.whose.joint
    if measured.before_state is State.OVER and joint is not None and joint.tir_mm > joint.expanded_mm:
        return _JOINT_CAUSES[measured.whose.joint_of]
    return None


def _unevenness(measured: Measured) -> str:
    pattern = measured.thickness.pattern
    match measured.thickness.made_by:
        case MadeBy.PATCH:
            return "pad_deposit_or_hot_spots" if "blue_spots" in measured.corner.seen else "corrosion_or_pad_imprint"
        case MadeBy.RUNOUT:
            return "runout_made_thickness_variation"
        case _:
            rubbed_once = pattern is not None and pattern.like_runout
            return "runout_made_thickness_variation" if rubbed_once else "not_separable"


def _bearing(measured: Measured) -> list[Reason]:
    if not measured.bearing_over:
        return []
    figures = {"play_mm": measured.corner.bearing_play_mm, "limit_mm": measured.corner.spec.max_bearing_play_mm}
    return [Reason("bearing_over", figures)]


def _worn_linings(measured: Measured) -> list[Reason]:
    return [Reason(worn.code, {"play_mm": worn.left_mm, "limit_mm": worn.least_mm}) for worn in measured.worn_linings]


def _standing(measured: Measured) -> list[Reason]:
    spec, runout, thickness = measured.corner.spec, measured.runout, measured.thickness
    reasons = []
    if runout.tir is not None:
        figures = {
            "tir_mm": runout.tir.value_mm,
            "expanded_mm": runout.tir.expanded_mm,
            "limit_mm": spec.max_runout_mm,
            "state": runout.state.value,
            "high_deg": runout.high_deg,
            "studs": spec.studs,
        }
        reasons.append(Reason("runout_stands", figures))
    result = thickness.result
    if result is not None:
        figures = {"min_mm": result.minimum.value_mm, "expanded_mm": result.minimum.expanded_mm}
        figures |= {"limit_mm": spec.discard_thickness_mm, "state": thickness.state_discard.value}
        is_open = thickness.state_discard is State.UNKNOWN
        reasons.append(Reason("minimum_open" if is_open else "minimum_stands", figures))
        if result.variation is not None:
            figures = {"variation_mm": result.variation.value_mm, "expanded_mm": result.variation.expanded_mm}
            figures |= {"limit_mm": spec.max_thickness_variation_mm, "state": thickness.state_variation.value}
            is_open = thickness.state_variation is State.UNKNOWN
            reasons.append(Reason("variation_open" if is_open else "variation_stands", figures))
    return reasons


def _flags(measured: Measured) -> list[Reason]:
    reasons = [_flag(flag) for flag in measured.runout.flags]
    reasons += [_flag(flag, code="flag_of_a_round") for flag in measured.thickness.flags]
    if measured.thickness.result is not None:
        reasons += [Reason("stands_alone", {"at": f"{at:g}"}) for at in measured.thickness.result.alone_deg]
    for a in measured.analysed:
        if not a.installed:
            reasons += [_flag(flag, code="flag_elsewhere", surface=a.evidence.surface.value) for flag in a.flags]
    if measured.provisional:
        reasons.append(Reason("provisional", {}))
    return reasons


def _flag(flag: str, *, code: str = "flag", surface: str = "") -> Reason:
    name, _, at = flag.partition(":")
    return Reason(code, {"flag": name, "at": at} | ({"surface": surface} if surface else {}))


def _whose(measured: Measured) -> list[Reason]:
    whose, studs = measured.whose, measured.corner.spec.studs
    reasons = []
    if whose.joint is not None and whose.joint.tir_mm > whose.joint.expanded_mm:
        figures = {
            "tir_mm": whose.joint.tir_mm,
            "expanded_mm": whose.joint.expanded_mm,
            "high_deg": whose.joint.high_deg,
        }
        reasons.append(Reason(f"joint_{whose.joint_of}", figures | {"studs": studs}))
    for code, part in (("hub_carries", whose.hub), ("rotor_carries", whose.rotor)):
        if part is not None:
            figures = {
                "tir_mm": part.tir_mm,
                "expanded_mm": part.expanded_mm,
                "high_deg": part.high_deg,
                "studs": studs,
            }
            reasons.append(Reason(code, figures))
    if measured.hub_state in (State.OVER, State.TOO_CLOSE) and whose.hub is not None:
        spec = measured.corner.spec
        scale = (spec.hub_runout_radius_mm or spec.measuring_radius_mm) / spec.measuring_radius_mm
        at_hub = {"tir_mm": whose.hub.tir_mm * scale, "expanded_mm": whose.hub.expanded_mm * scale}
        limit = {"limit_mm": spec.max_hub_runout_mm, "state": measured.hub_state.value}
        reasons.append(Reason("hub_face_stands", {**at_hub, **limit}))
    if whose.disagreement is not None:
        d = whose.disagreement
        reasons.append(Reason(f"{d.part}_disagrees", {"direct_mm": d.direct_mm, "turned_mm": d.turned_mm}))
    elif whose.disagrees:
        reasons.append(Reason("evidence_disagrees", {}))
    spoilt = set(measured.runout.flags) & {"turns_disagree", *CONDITION_CHECKS}
    if measured.runout.state is State.OVER and not whose.told_apart and not spoilt:
        reasons.append(Reason(_why_not_told_apart(measured), {}))
    return reasons


def _why_not_told_apart(measured: Measured) -> str:
    if "captive" in measured.corner.spec.features:
        return "captive_cannot_tell"
    return "turned_unprepared" if any(map(turned_unprepared, measured.analysed)) else "one_sweep_cannot_tell"


def _wear(measured: Measured) -> list[Reason]:
    pattern, code = measured.thickness.pattern, measured.thickness.pattern_code
    if pattern is None or code is None:
        return []
    figures = {"high_deg": pattern.patch_deg, "studs": measured.corner.spec.studs}
    return [Reason(code, figures if code == "worn_in_a_patch" else {})]


def _open_ends(measured: Measured) -> list[Reason]:
    runout, thickness = measured.runout, measured.thickness
    steps = (
        (thickness.state_variation is State.OVER and runout.state is State.WITHIN, "variation_remains"),
        (runout.state is State.TOO_CLOSE, "runout_too_close"),
        (thickness.state_variation is State.TOO_CLOSE, "variation_too_close"),
        (thickness.state_discard is State.TOO_CLOSE, "minimum_too_close"),
        (runout.tir is None, "runout_missing"),
        (thickness.result is None, "thickness_missing"),
        (thickness.result is not None and thickness.result.taper_mm is None, "one_radius"),
    )
    return [Reason(code, {}) for applies, code in steps if applies]


def _beside(measured: Measured) -> list[Reason]:
    """Return what looking and measuring beside the disc has measured."""
    spec, oval = measured.corner.spec, measured.drum_oval_mm
    reasons = []
    if measured.pads_uneven_mm is not None:
        reasons.append(Reason("pads_uneven", {"play_mm": round(measured.pads_uneven_mm, 2)}))
    if measured.drum_over_mm is not None:
        reasons.append(Reason("drum_over", {"play_mm": measured.drum_over_mm, "limit_mm": spec.max_drum_diameter_mm}))
    if oval is not None:
        reasons.append(Reason("drum_oval", {"play_mm": round(oval, 2)}))
    reasons += [Reason("seen", {"seen": f}) for f in sorted(measured.corner.seen - set(measured.broken))]
    return reasons
