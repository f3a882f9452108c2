"""Words for the vehicle's owner: what was found, what was done and what to expect, in plain language."""

from typing import Final

from compass.ground.translation import _N

# What was found, said to somebody who never saw a dial; by cause.
FOUND: Final[dict[str, str]] = {
    "runout_made_thickness_variation": _N(
        "The brake disc has worn uneven: it is thicker on one side than on the other, and the pedal feels that once "
        "or twice a turn. The wobble that wore it so is no longer there."
    ),
    "corrosion_or_pad_imprint": _N(
        "Rust, or the print of a pad that stood on it, has left one rough place on the disc."
    ),
    "pad_deposit_or_hot_spots": _N("Pad material or overheated spots have left the disc uneven."),
    "rotor_runout": _N("The brake disc itself does not run true: it wobbles as it turns."),
    "hub_face_runout": _N(
        "The hub, the part the disc is bolted to, does not run true. Any disc on it wobbles, a new one too."
    ),
    "joint_contamination": _N("Rust or dirt between hub and disc held the disc aslant."),
    "lug_torque": _N("Unevenly tightened wheel nuts had pulled the disc aslant."),
    "wheel_bearing": _N("The wheel bearing has play: the wheel, and the disc with it, is not held steady."),
    "bent_hub_or_axle": _N("Hub or axle is bent, as after a kerb."),
    "hub_and_rotor_together": _N("Hub and disc each wobble a little, and as they stood both added up to too much."),
    "caliper_or_slides": _N("The brake caliper does not let go or slide as it must."),
    "drum_out_of_round": _N("The drum of the parking brake is out of round."),
    "suspension_or_steering_play": _N("A joint of the suspension or steering has play and shakes along."),
    "tyre_or_wheel": _N("A tyre or wheel is out of balance or round; the brake discs are not to blame."),
    "abs_operation": _N("What was felt is the anti-lock system doing its work."),
    "worn_below_limit": _N("A brake disc was worn below the thickness at which it may be used."),
    "cracked_or_broken": _N("A brake disc was cracked or broken."),
    "none_found": _N("All brake discs were measured and are within their limits."),
    "not_separable": _N("The disc wobbles; which part makes it could not be told apart by measuring."),
}
# Where no cause is named, or more is to be said than its name: by what was measured.
SO_FAR: Final[dict[str, str]] = {
    "uneven": _N("The disc is uneven; what made it so could not be told by measuring."),
    "still_over": _N(
        "Cleaned and tightened, a disc still wobbled more than it may: the dirt or the nuts were not all."
    ),
    "over_since": _N("A disc that was worked on is not within its limits yet."),
    "unmeasured": _N("No brake disc was measured."),
    "nothing_over": _N(
        "Nothing that was measured is over its limits for certain; not every brake disc was measured to its end."
    ),
}
# What was found worn beside the disc, by its code: said whatever was done, and above all where it is left so.
WORN: Final[dict[str, str]] = {
    "pads_worn": _N("Brake pads are worn thinner than they may be. They must be renewed before it is driven further."),
    "linings_worn": _N("The shoes of the parking brake are worn thinner than they may be and must be renewed."),
}
# What was done; by the works of a remedy.
DONE: Final[dict[str, str]] = {
    "clean_and_torque": _N(
        "Cleaned hub and disc to bright metal and tightened all nuts to the maker’s torque, crosswise."
    ),
    "index": _N("Turned the disc on its studs to the place where the wobbles of hub and disc cancel most."),
    "plate": _N("Fitted a thin tapered ring between hub and disc that takes the wobble out."),
    "bench_cut": _N("Machined both faces of the disc true, off the vehicle."),
    "on_vehicle_cut": _N("Machined the disc true to its own hub, on the vehicle."),
    "new_rotors": _N("Fitted new brake discs."),
    "hub_unit": _N("Renewed the hub or its bearing."),
    "none": _N("Nothing: this disc is in order."),
}
# What was put in new beside the disc, by the field of its look.
DONE_NEW: Final[dict[str, str]] = {
    "pad_new": _N("Fitted new brake pads."),
    "lining_new": _N("Fitted new shoes of the parking brake."),
}
# What was put right beside the discs, by its cause.
DONE_BESIDE: Final[dict[str, str]] = {
    "caliper_or_slides": _N("Freed or renewed what stuck at the brake caliper."),
    "drum_out_of_round": _N("Put the parking brake’s drum in order."),
    "suspension_or_steering_play": _N("Renewed the worn joint of suspension or steering."),
    "tyre_or_wheel": _N("Put tyre and wheel in order."),
    "abs_operation": _N("Looked at the anti-lock system and showed how it feels at work."),
}
# What to expect, and what must not be undone; by the works of a remedy.
EXPECT: Final[dict[str, str]] = {
    "clean_and_torque": _N("Have the wheel nuts tightened with a torque wrench whenever a wheel is off."),
    "index": _N("Disc and stud are marked: whoever takes the disc off puts it back on its mark."),
    "plate": _N("The ring stays under the disc. It is never used twice: with a new disc comes a new measurement."),
    "bench_cut": _N("The brake may sound a little different for the first hundred kilometres."),
    "on_vehicle_cut": _N(
        "The disc fits this hub in one place only, and it is marked: whoever takes it off puts it back on its mark."
    ),
    "new_rotors": _N("Brake gently for the first two hundred kilometres, until pads and discs have run in."),
    "hub_unit": _N("A humming noise from this wheel would be a reason to come at once."),
}
# What stands on every owner's sheet.
CAUTIONS: Final = (
    _N("If it pulses again, ring us before you have anything changed: we know what it measured."),
    _N("A grinding noise, a pedal that goes soft or a warning lamp is no matter for waiting: stop and ring."),
    _N("The vehicle maker’s information and local rules decide; this sheet does not replace an inspection."),
)
