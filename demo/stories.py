"""The demo's jobs: what the driver said, what is hidden in the corners, and how far the work has come."""

from dataclasses import dataclass, field
from typing import Final


@dataclass(frozen=True)
class Hidden:
    """Hidden truth of one measured corner, TIRs in mm, angles in degrees; what was measured of it."""

    hub: tuple[float, float] = (0.012, 40)
    rotor: tuple[float, float] = (0.01, 250)
    joint: tuple[float, float] | None = None  # swept before cleaning if given
    saddle: float = 0.006
    uneven: float = 0.003  # thickness variation
    worn: float = 1.1  # mm below new
    patch: tuple[float, float] | None = None
    # all, runout, half (of the sweep), turns (two turns), turned (rotor half a turn on), face (and the bare hub),
    # three (indices, thickness at three radii), quick (readings at two indices)
    read: str = "all"
    seen: tuple[str, ...] = ()
    typed: tuple[tuple[str, str], ...] = ()  # of the look: field, text


@dataclass(frozen=True)
class Story:
    """One job."""

    vehicle: str
    days_ago: float
    state: str
    who: str | None
    words: str
    corners: dict[str, Hidden] = field(default_factory=dict)
    closing: str = ""
    told: dict[str, object] = field(default_factory=dict)  # the interview, in the case file's words
    cause: str = ""
    booked: tuple[tuple[str, float, int], ...] = ()  # place, hour of today, minutes
    decided: tuple[tuple[str, str, str], ...] = ()  # axle, remedy, why (only against the advice)


QUIET: Final = Hidden()

STORIES: Final = (
    Story(
        "Minibus 2", 96, "closed", "brandt",
        "Wheel shakes from 80 down to 60 when braking off the causeway. New discs in spring, it came back by midsummer.",
        {"FL": Hidden((0.086, 212), (0.02, 60), uneven=0.026), "FR": Hidden((0.02, 100), uneven=0.004), "RL": QUIET, "RR": QUIET},
        "Front hub units renewed both sides, discs matched on the vehicle, 0.02 mm left. Driver rang back: quiet.",
        {"felt_in": ["steering_wheel"], "when": ["braking"], "speed_kmh": [60, 80], "history": ["rotors_renewed"], "km_since_work": 5200},
        "hub_face_runout",
    ),
    Story(
        "Meal van 1", 71, "closed", "okoro", "Pedal ticks at walking pace, only in the morning. Stands by the quay overnight.",
        {"FL": QUIET, "FR": QUIET, "RL": Hidden(patch=(-0.006, 80)), "RR": Hidden(uneven=0.004)},
        "Rust film from standing; gone after ten hard stops. Nothing at the discs.",
        {"felt_in": ["pedal"], "when": ["braking"], "heat": "worse_cold", "history": ["stood_unused"]},
        "corrosion_or_pad_imprint",
    ),
    Story("Pool car", 58, "closed", "brandt", "Yearly look-over, no complaint.",
          {"FL": Hidden(saddle=0.004), "FR": Hidden(saddle=0.004), "RL": QUIET, "RR": QUIET}),
    Story("Nurse’s car", 44, "closed", "brandt", "Seat buzzes on the long hill when braking lightly, since the tyres were changed.",
          {"FL": QUIET, "FR": QUIET, "RL": Hidden((0.015, 10), (0.02, 80), joint=(0.07, 140), seen=("rust_at_joint",)), "RR": QUIET},
          "Rust flake under the rear left disc, cleaned to bright metal and torqued; 0.03 mm after.",
          {"felt_in": ["seat"], "when": ["braking"], "braking": ["light"], "history": ["tyres_renewed", "wheels_off"]}, "joint_contamination"),
    Story("Bin trailer", 30, "closed", "okoro", "Grinding noise right hand side, salt water launch ramp every day.",
          {"A1R": Hidden(worn=2.3, uneven=0.02), "A1L": Hidden(worn=1.5), "A2L": QUIET, "A2R": QUIET},
          "Discs of axle 1 replaced in pairs."),
    Story("Minibus 1", 9, "waiting", "okoro",
          "Shudder through the whole bus from 90, hot brakes after the school run. Kerbed in January, right front.",
          {"FL": Hidden((0.02, 300), uneven=0.006), "FR": Hidden((0.21, 118), (0.03, 200), uneven=0.03, read="turned"), "RL": QUIET},
          told={"felt_in": ["steering_wheel", "pedal"], "when": ["braking"], "speed_kmh": [70, 90], "heat": "worse_hot", "history": ["kerb_strike"]}),
    Story("Wheelchair trailer", 7, "waiting", "brandt", "Drags and pulses when empty. Stood all winter under the tarpaulin.",
          {"A1L": Hidden(uneven=0.022, patch=(-0.02, 200), worn=0.6), "A1R": Hidden(uneven=0.02, patch=(-0.018, 30), worn=0.7)}),
    Story("Meal van 2", 2.2, "open", "brandt", "Pedal pulses at 50, steering quiet. Pads done in autumn, discs left as they were.",
          {"FL": Hidden((0.02, 20), (0.018, 80), uneven=0.021, worn=1.7, typed=(("pad_inner", "3.9 4.2"), ("pad_outer", "7.0 6.9"))),
           "FR": Hidden((0.025, 320), uneven=0.019, worn=1.8)}),
    Story("Minibus 3", 1.4, "open", "okoro", "Steering wheel nods left and right when braking from 100, worse with a full bus.",
          {"FL": Hidden((0.03, 150), (0.045, 165), joint=(0.05, 90), read="three", uneven=0.018, seen=("rust_at_joint", "deep_grooves"),
                        typed=(("bearing_play", "0.02"), ("pad_inner", "7.1 7.0"), ("pad_outer", "7.6 7.5"), ("edge", "29.9")))}),
    Story("Minibus 6", 0.2, "open", "brandt", "Shake at the wheel, 80–100 km/h, only when braking. Worse since the wheels were off for the winter tyres.",
          {"FL": Hidden((0.092, 240), (0.028, 190), saddle=0.012, uneven=0.028, worn=1.6, typed=(("bearing_play", "0.02"),)),
           "FR": Hidden((0.03, 60), (0.062, 100), uneven=0.007, worn=1.5, read="face", typed=(("bearing_play", "0.02"),))},
          told={"felt_in": ["steering_wheel"], "when": ["braking"], "speed_kmh": [80, 100], "history": ["wheels_off", "tyres_renewed"], "km_since_work": 4200},
          booked=(("bay_1", 8.0, 150), ("lathe", 10.75, 75))),
    Story("Courier motorcycle", 0.9, "open", "ness", "Front lever pulses gently when slowing for the ferry ramp.",
          {"F": Hidden((0.06, 70), (0.05, 110), uneven=0.009, worn=0.2, read="runout")}),
    Story("Quay truck", 0.5, "open", "okoro", "Judder when braking with the crane up, seat more than wheel.",
          {"RL": Hidden((0.05, 15), (0.03, 40), uneven=0.012, worn=1.0, read="turns"),
           "RR": Hidden((0.02, 90), (0.04, 210), read="quick")}),
    Story("Meal van 1", 0.7, "open", "okoro", "Wheel shimmies on the brakes since the hub was changed in the spring. Pads fine.",
          {"FL": Hidden((0.076, 100), (0.014, 40), uneven=0.004, worn=0.9, read="turned", typed=(("bearing_play", "0.02"),)),
           "FR": Hidden((0.018, 200), (0.012, 300), uneven=0.004, worn=0.9, typed=(("bearing_play", "0.01"),))},
          told={"felt_in": ["steering_wheel"], "when": ["braking"], "speed_kmh": [60, 90], "history": ["hub_or_bearing_work"]},
          decided=(("F", "plate", ""),)),
    Story("Meal van 3", 0.3, "open", "ness", "Nothing felt; squeal. Look at the discs while it is here.", {"FL": Hidden(read="half")}, booked=(("bay_2", 8.5, 60),)),
    Story("Minibus 4", 0.15, "booked", None, "Vibration in the seat at 70–80, mostly downhill with the heating on. Since the rear pads?",
          told={"felt_in": ["seat"], "when": ["braking"], "speed_kmh": [70, 80], "heat": "worse_hot", "history": ["pads_renewed"]}, booked=(("bay_2", 13.0, 120),)),
    Story("Minibus 5", 0.1, "booked", "brandt", "Pulls left and pulses, light braking.", booked=(("bay_1", 11.0, 90),)),
    Story("Pool car", 0.05, "booked", None, "ABS light came on twice, pedal kicked on the wet ramp."),
)  # fmt: skip
