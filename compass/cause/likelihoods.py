"""How likely each sign is under each cause: readable data with a reason for every entry. Our estimates throughout.

``clean`` is the column of a corner (or a vehicle) that has nothing to do with the complaint. A cause that a row does
not name takes ``clean``. Signs of a corner speak of the cause at that corner; signs of the vehicle of all causes.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Final

from compass.cause.causes import Cause as C
from compass.ground.translation import _N

# fmt: off


@dataclass(frozen=True, slots=True)
class Sign:
    """One sign: a question, its outcomes, and P(outcome | cause), every column adding to 1."""

    name: str
    outcomes: tuple[str, ...]
    clean: tuple[float, ...]
    given: Mapping[C, tuple[float, ...]]
    why: str
    of_corner: bool = True
    tolerant: float = field(default=0.01)  # nothing is ever ruled out by one sign

    def column(self, cause: C | None) -> tuple[float, ...]:
        """Return P(outcome | cause); None is the clean column."""
        column = self.given.get(cause, self.clean) if cause is not None else self.clean
        return tuple((1 - self.tolerant) * p + self.tolerant / len(column) for p in column)


def _yes(p: float) -> tuple[float, float]:
    return (p, 1 - p)


def _table(**percent: float) -> dict[C, tuple[float, float]]:
    return {C[name]: _yes(p / 100) for name, p in percent.items()}


_CLOSE: Final = 0.05


def _graded(clean: float, *, far: float, far_clean: float, **percent: float) -> tuple[tuple[float, ...], dict[C, tuple[float, ...]]]:
    """Split "over" into far over and just over: what is to blame is mostly far over, an innocent corner just over.

    Too close to call speaks for nobody: how often it is met is the instrument's doing.
    """
    def split(p: float, share: float) -> tuple[float, ...]:
        p *= 1 - _CLOSE
        return (p * share, p * (1 - share), _CLOSE, 1 - _CLOSE - p)

    return split(clean / 100, far_clean), {C[name]: split(p / 100, far) for name, p in percent.items()}


# ---- signs of one corner ---------------------------------------------------------------------------------------------

RUNOUT_OVER: Final = Sign(
    "runout_over",
    ("far over", "over", "close", "within"),
    *_graded(
        4, far=0.8, far_clean=0.12,
        RUNOUT_MADE_VARIATION=4, CORROSION=8, DEPOSIT=8, ROTOR=96, HUB=96, STACK=96, JOINT=4, NUTS=4, BEARING=60, BENT=98,
        CALIPER=10, WORN=15, BROKEN=25,
    ),
    _N("Runout as installed, joint clean, nuts torqued: only what hub, rotor or bearing throw is left."),
)


def _swept_before(name: str, reason: str, *still_in: str) -> Sign:
    """Return the sign of a runout swept before all was put right: what is ``still_in`` may be to blame for it."""
    return Sign(
        name,
        ("over", "within"),
        _yes(0.15),
        _table(
            **dict.fromkeys(still_in, 95),
            RUNOUT_MADE_VARIATION=15,
            CORROSION=15,
            DEPOSIT=15,
            ROTOR=96,
            HUB=96,
            STACK=96,
            BEARING=60,
            BENT=98,
            CALIPER=15,
            WORN=20,
            BROKEN=25,
        ),
        reason,
    )


DIRTY_RUNOUT_OVER: Final = _swept_before(
    "dirty_runout_over", _N("Runout as the vehicle came in: dirt and uneven nuts are still in it."), "JOINT", "NUTS"
)
UNCLEANED_RUNOUT_OVER: Final = _swept_before(
    "uncleaned_runout_over",
    _N("Runout before cleaning, the nuts torqued: dirt is still in it, and uneven nuts are no longer."),
    "JOINT",
)
UNTORQUED_RUNOUT_OVER: Final = _swept_before(
    "untorqued_runout_over",
    _N("Runout before torquing, the joint cleaned: uneven nuts are still in it, and dirt is no longer."),
    "NUTS",
)
JOINT_TOOK: Final = Sign(
    "joint_took",
    ("past the limit", "much", "little"),
    (0.012, 0.038, 0.95),
    {
        **dict.fromkeys((C.JOINT, C.NUTS), (0.78, 0.2, 0.02)),
        **dict.fromkeys((C.ROTOR, C.HUB, C.STACK), (0.004, 0.016, 0.98)),
        C.BEARING: (0.25, 0.25, 0.5),  # it stands otherwise each time, whatever was cleaned
    },
    _N("Cleaning or torquing took out more than half the limit: the joint was to blame, or a bearing that wanders."),
)
CURED: Final = Sign(  # of those that took out much; only its presence speaks, since another fault may stay beside it
    "cured",
    ("over before, within since", "still over"),
    _yes(0.3),
    _table(JOINT=90, NUTS=90, ROTOR=10, HUB=10, STACK=10, BENT=2, BEARING=40),
    _N("Over its limit as it came in, and within it since: nothing else was needed."),
)
JOINT_OF: Final = Sign(
    "joint_of",
    ("dirt", "nuts", "both"),
    (0.4, 0.4, 0.2),
    {C.JOINT: (0.74, 0.02, 0.24), C.NUTS: (0.02, 0.74, 0.24)},
    _N("What was put right between the two sweeps."),
)
WHOSE: Final = Sign(
    "whose",
    ("hub", "hub or both", "rotor", "rotor or both", "both", "both for sure"),
    (0.27, 0.06, 0.27, 0.06, 0.14, 0.2),
    {
        C.HUB: (0.92, 0.04, 0.005, 0.005, 0.02, 0.01),
        C.ROTOR: (0.005, 0.005, 0.92, 0.04, 0.02, 0.01),
        C.STACK: (0.01, 0.16, 0.01, 0.16, 0.03, 0.63),
        C.BENT: (0.93, 0.03, 0.005, 0.005, 0.025, 0.005),
        C.BEARING: (0.45, 0.08, 0.17, 0.05, 0.15, 0.1),
    },
    _N(
        "What stayed when the rotor was turned belongs to the hub, what turned to the rotor. Where neither can carry most "
        "of it, whatever the readings are off by, it is a stack; what their U leaves open is left open."
    ),
)
HUB_FAR_OVER: Final = Sign(
    "hub_far_over",
    ("far over", "ordinary"),
    _yes(0.02),
    _table(BENT=88, HUB=8, BEARING=15),
    _N("A hub that runs out by more than three times the disc's limit was knocked, not made so."),
)
VARIATION_OVER: Final = Sign(
    "variation_over",
    ("far over", "over", "close", "within"),
    *_graded(
        4, far=0.65, far_clean=0.15,
        RUNOUT_MADE_VARIATION=97, CORROSION=97, DEPOSIT=95, ROTOR=45, HUB=45, STACK=45, JOINT=40, NUTS=30, BEARING=35, BENT=45,
        CALIPER=40, WORN=35, BROKEN=25,
    ),
    _N("Thickness variation is what is felt; runout makes it, so runout without it is a young fault."),
)
def _made_by(name: str, reason: str, *still_in: str, swept: bool = True) -> Sign:
    """Return the sign of where a disc is thin, held against a sweep that had the runout of ``still_in`` in it.

    What was put right before that sweep, or long ago, rubbed where nothing stands now: it leaves a lobe as wide as a
    runout rubs, somewhere. Where nobody swept, so does every runout.
    """
    rubs = (0.8, 0.05, 0.02, 0.01, 0.12)
    rubbed = (0.12, 0.67, 0.06, 0.01, 0.14) if swept else (0.0, 0.77, 0.07, 0.01, 0.15)
    return Sign(
        name,
        ("runout", "wide lobe", "hollow patch", "raised patch", "unclear"),
        (0.15, 0.2, 0.15, 0.15, 0.35) if swept else (0.0, 0.35, 0.15, 0.15, 0.35),
        {
            **dict.fromkeys((C.RUNOUT_MADE_VARIATION, C.ROTOR, C.HUB, C.STACK, C.BENT, C.JOINT, C.NUTS), rubbed),
            **dict.fromkeys((C[cause] for cause in still_in), rubs),
            C.CORROSION: (0.02, 0.04, 0.76, 0.03, 0.15),
            C.DEPOSIT: (0.01, 0.02, 0.04, 0.83, 0.1),
        },
        reason,
    )


_ALWAYS_IN: Final = ("ROTOR", "HUB", "STACK", "BENT")  # whatever is cleaned and torqued
# By what was still in the sweep it is held against: both dirt and nuts, one of them, neither; None where nobody swept.
MADE_BY: Final[Mapping[str | None, Sign]] = {
    "both": _made_by(
        "made_by",
        _N("Thin where the runout rubs; thin in a lobe as wide as some runout would rub; or one patch as wide as a pad."),
        *_ALWAYS_IN, "JOINT", "NUTS",
    ),
    "dirt": _made_by(
        "made_by_torqued",
        _N("Held against a sweep with the nuts torqued: where uneven nuts let it rub, no runout stands any more."),
        *_ALWAYS_IN, "JOINT",
    ),
    "nuts": _made_by(
        "made_by_cleaned",
        _N("Held against a sweep with the joint cleaned: where dirt let it rub, no runout stands any more."),
        *_ALWAYS_IN, "NUTS",
    ),
    "": _made_by(
        "made_by_put_right",
        _N("Held against a sweep clean and torqued: where dirt or nuts let it rub, no runout stands any more."),
        *_ALWAYS_IN,
    ),
    None: _made_by(
        "made_by_unswept", _N("Nobody swept: a wide lobe may be of any runout, gone or still there."), swept=False
    ),
}
CAME_IN: Final = Sign(  # told where something had been put right before: a sweep as it came in speaks for nothing
    "came_in",
    ("swept as it came in", "swept torqued, not cleaned", "swept cleaned, not torqued", "swept cleaned only"),
    (0.2, 0.08, 0.08, 0.64),
    {C.JOINT: (0.77, 0.1, 0.06, 0.07), C.NUTS: (0.77, 0.05, 0.1, 0.08)},
    _N("Dirt and uneven nuts are shown by a sweep from before each was put right; without one nothing speaks for them."),
)
NO_RUST: Final = Sign(
    "no_rust",
    ("not noted", "seen"),
    _yes(0.94),
    _table(JOINT=60, NUTS=90, CORROSION=90),
    _N("Swept before the joint was cleaned and after: who cleaned it would mostly have noted rust."),
)
BEARING_PLAY_OVER: Final = Sign(
    "bearing_play_over",
    ("over", "within"),
    _yes(0.004),
    _table(BEARING=93, BENT=3),
    _N("Play is the bearing's own sign, and the bearing comes first."),
    tolerant=0.004,
)
TURNS_REPEAT: Final = Sign(
    "turns_repeat",
    ("disagree", "agree"),
    _yes(0.02),
    _table(BEARING=80, NUTS=8, JOINT=4),
    _N("A worn bearing wanders: its turns do not repeat."),
)
UNDER_DISCARD: Final = Sign(
    "under_discard",
    ("under", "above"),
    _yes(0.003),
    _table(WORN=97, BROKEN=15),
    _N("Too close to call counts as under: then nothing else matters first."),
    tolerant=0.002,
)
PADS_UNEVEN: Final = Sign(
    "pads_uneven",
    ("uneven", "even"),
    _yes(0.04),
    _table(CALIPER=85, DEPOSIT=12),
    _N("Slides or a piston that stick wear one pad."),
)
JOINT_PLAY: Final = Sign(  # its presence speaks as what was seen does; noted where the wheel was rocked, or the caliper hung
    "joint_play",
    ("play in a joint", "no play"),
    _yes(0.01),
    _table(SUSPENSION=22, BENT=6),
    _N("Rocked at one wheel of four a worn joint shows where it sits; where it does not, it is less likely."),
)
# Measured from looking: only their presence speaks, since nobody notes what was not there.
_SEEN: Final = {
    "cracked": (0.1, {C.BROKEN: 75.0, C.DEPOSIT: 0.3}, _N("A crack ends the discussion.")),
    "vent_showing": (0.1, {C.BROKEN: 30.0, C.WORN: 6.0}, _N("A vent through the face is a broken disc.")),
    "blue_spots": (2.0, {C.DEPOSIT: 70.0, C.CALIPER: 15.0, C.WORN: 5.0}, _N("Blue spots are heat: deposit or hot spots.")),
    "pad_shaped_patch": (1.5, {C.CORROSION: 75.0, C.DEPOSIT: 25.0}, _N("A parked pad leaves its shape.")),
    "rust_at_joint": (6.0, {C.JOINT: 65.0, C.NUTS: 10.0, C.CORROSION: 12.0}, _N("Rust or a flake in the joint.")),
    "deep_grooves": (6.0, {C.WORN: 30.0, C.CALIPER: 15.0, C.BROKEN: 20.0}, _N("Grooves go with worn or sticking brakes.")),
    "slides_seized": (2.0, {C.CALIPER: 70.0}, _N("Seized slides.")),
    "piston_stuck": (1.0, {C.CALIPER: 50.0}, _N("A stuck piston.")),
    "joint_play": (1.0, {C.SUSPENSION: 85.0, C.BENT: 6.0}, _N("Play in a joint of suspension or steering.")),
    "tyre_damage": (1.0, {C.TYRE: 75.0}, _N("A damaged tyre shakes, braked or not.")),
    "abs_active": (0.7, {C.ABS: 90.0}, _N("The anti-lock system at work kicks the pedal.")),
    "drum_out_of_round": (0.5, {C.DRUM: 90.0}, _N("An out-of-round drum pulses with the hand brake.")),
}
SEEN_SIGNS: Final = {
    name: Sign(f"seen:{name}", ("seen", "not noted"), _yes(clean / 100), {c: _yes(p / 100) for c, p in given.items()}, why,
               tolerant=0.0005)
    for name, (clean, given, why) in _SEEN.items()
}

# ---- signs of the vehicle --------------------------------------------------------------------------------------------


def _vehicle(name: str, clean: float, why: str, **percent: float) -> Sign:
    return Sign(name, ("yes", "no"), _yes(clean / 100), _table(**percent), why, of_corner=False, tolerant=0.02)


WHEN_ALWAYS: Final = _vehicle(
    "when_always", 6, _N("Tyres, joints and bearings shake without braking too; discs do not."),
    TYRE=80, SUSPENSION=55, BEARING=50, BENT=40, NONE=20, ABS=4, NUTS=12,
)
HARD_ONLY: Final = replace(
    _vehicle("hard_only", 10, _N("The anti-lock system works only near lock-up."), ABS=85, SUSPENSION=25, NONE=15),
    outcomes=("hard only", "lightly too"),
)
WORSE_HOT: Final = _vehicle(
    "worse_hot", 25, _N("Hot spots and sticking calipers grow with heat."), DEPOSIT=65, CALIPER=60, BROKEN=40, CORROSION=12
)
WORSE_COLD: Final = _vehicle("worse_cold", 10, _N("A rust film is worst in the morning."), CORROSION=45, DEPOSIT=8)
HISTORY: Final = {
    "wheels_off": _vehicle(
        "wheels_off", 18, _N("Nuts and joints go wrong when wheels have been off."), NUTS=75, JOINT=55, ROTOR=22, TYRE=30
    ),
    "pads_renewed": _vehicle(
        "pads_renewed", 15, _N("New pads on old discs leave deposits; wheels were off."), DEPOSIT=40, JOINT=25, CALIPER=20
    ),
    "rotors_renewed": _vehicle(
        "rotors_renewed",
        10,
        _N("New discs on an old hub, or on a dirty one, come back."),
        HUB=40,
        JOINT=50,
        RUNOUT_MADE_VARIATION=22,
        BENT=30,
        ROTOR=18,
        STACK=30,
        NUTS=25,
    ),
    "kerb_strike": _vehicle(
        "kerb_strike", 4, _N("A knock bends hubs."), BENT=80, SUSPENSION=25, TYRE=25, BEARING=15, HUB=8
    ),
    "stood_unused": _vehicle(
        "stood_unused", 6, _N("Pads rust onto a disc that stands."), CORROSION=75, CALIPER=15, JOINT=8
    ),
    "towing": _vehicle("towing", 6, _N("Heat: deposits, worn discs."), DEPOSIT=25, WORN=15, BROKEN=15),
    "hub_or_bearing_work": _vehicle(
        "hub_or_bearing_work", 4, _N("What was worked on last is suspect."), HUB=14, BEARING=15, JOINT=18, NUTS=8
    ),
    "tyres_renewed": _vehicle(
        "tyres_renewed", 8, _N("Wheels were off, and new tyres may be out of balance."), TYRE=50, NUTS=35, JOINT=18
    ),
}
NOTHING_BESIDE: Final = _vehicle(
    "nothing_beside", 95, _N("Who has looked at every corner's pads would have noted a tyre or a drum."), TYRE=60, DRUM=40
)
FREQUENCY: Final = Sign(
    "frequency",
    ("wheel order", "other"),
    _yes(0.93),
    {C.ABS: _yes(0.1), C.SUSPENSION: _yes(0.35), C.NONE: _yes(0.5)},
    _N("Discs, hubs and wheels come at once or twice the wheel's turn."),
    of_corner=False,
    tolerant=0.02,
)
ROAD_TEST: Final = Sign(
    "road_test",
    ("only when braking", "without braking too", "no shake recorded", "not at wheel order"),
    (0.86, 0.05, 0.05, 0.04),
    {
        C.TYRE: (0.08, 0.85, 0.05, 0.02),
        C.SUSPENSION: (0.3, 0.4, 0.12, 0.18),
        C.BEARING: (0.4, 0.35, 0.22, 0.03),  # nothing to record on a disc not yet uneven
        C.BENT: (0.55, 0.38, 0.05, 0.02),
        C.ABS: (0.15, 0.02, 0.15, 0.68),
        C.NONE: (0.05, 0.05, 0.87, 0.03),
    },
    _N("Recorded on the road: brakes shake when braked, at the wheel's order; the anti-lock kick is no wheel's."),
    of_corner=False,
)
AFTER_WORK: Final = Sign(  # the clean column is that of any felt fault: the first explains it, a second adds nothing
    "after_work",
    ("still felt", "nothing felt"),
    (0.9, 0.1),
    {
        C.NONE: (0.04, 0.96),
        **dict.fromkeys((C.ROTOR, C.HUB, C.STACK, C.JOINT, C.NUTS), (0.55, 0.45)),  # young runout is not felt
        **dict.fromkeys((C.BENT, C.BEARING, C.CALIPER, C.WORN, C.BROKEN), (0.7, 0.3)),
    },
    _N("Driven once the decided work was done: a shake that is left has a cause that is left."),
    of_corner=False,
)
# Where it is felt, by the axle of the culprit: it orders the measuring, so it is kept weak (measurement.md#frequency: it misleads).
FELT: Final[Mapping[str, Mapping[str, float]]] = {
    "steering_wheel": {"front": 0.72, "rear": 0.25, "vehicle": 0.5},
    "seat": {"front": 0.25, "rear": 0.62, "vehicle": 0.4},
    "pedal": {"front": 0.6, "rear": 0.5, "vehicle": 0.3},
}
BY_NAME: Final[Mapping[str, Sign]] = {
    sign.name: sign
    for sign in (
        *(v for v in list(vars().values()) if isinstance(v, Sign)),
        *MADE_BY.values(),
        *HISTORY.values(),
        *SEEN_SIGNS.values(),
    )
}
