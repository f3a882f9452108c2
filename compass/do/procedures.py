"""The procedures of the trade as data: steps in their order, in our own plain words. ``compass.do.work`` reads them.

Each part is a table of steps; a remedy is a row of parts. Figures are never typed here: names in braces come from the
corner's own plan. docs/procedures.md is printed from these tables.
"""

from collections.abc import Mapping
from typing import Final

from compass.do.steps import Finding, Kind, Step
from compass.ground.translation import _N
from compass.words.codes import FELT

# fmt: off
# ruff: noqa: E501
LIFT: Final = (
    Step("chock", _N("Chock the wheels that stay on the ground, in neutral."), _N("A wheel that is turned by hand must not move the vehicle."),
         Kind.CONFIRM, (_N("chocks"),), cautions=("support", "maker")),
    Step("lift", _N("Lift at the maker’s points and set stands under."), _N("Nobody reaches in before it stands by itself."),
         Kind.HOLD, (_N("jack or lift"), _N("stands")), cautions=("support",), when=("wheels with nuts",)),
    Step("lift_motorcycle", _N("Set the motorcycle on its stand with the wheel free, and strap it upright."), _N("It must not come down while the wheel is out."),
         Kind.HOLD, (_N("paddock stand"), _N("straps")), cautions=("support",), when=("motorcycle",)),
    Step("parking_brake", _N("Let the parking brake off."), _N("A dragging shoe or pad turns with the disc and spoils every reading."),
         Kind.CONFIRM, when=("axle with the parking brake",)),
)
OPENING: Final = (
    Step("wheel_off", _N("Take the wheel off and lay it flat."), _N("Its face and the nuts show how it was clamped."),
         needs=(_N("socket"),), when=("one wheel",)),
    Step("twin_off", _N("Take both wheels off, the outer one first, and lay them flat."), _N("The faces between them clamp, too: rust or paint there lets them work loose."),
         needs=(_N("socket"),), when=("twin wheels",)),
    Step("pad_pin", _N("Loosen the pad pin while the caliper is still held."), _N("Held in the hand it turns with the wrench."),
         needs=(_N("wrench"),), when=("motorcycle",)),
    Step("caliper_off", _N("Take the caliper off and hang it on a hook."), _N("A hose that carries it is torn inside, and nobody sees it."),
         needs=(_N("hook"), _N("wrench")), cautions=("hot", "dust", "hose")),
    Step("other_caliper_off", _N("Take the wheel’s other caliper off too, and hang it on its hook."), _N("It holds the wheel, whichever disc is worked on."),
         needs=(_N("hook"), _N("wrench")), when=("beside a disc",), cautions=("hot", "hose")),
    Step("motorcycle_wheel", _N("Draw the axle and take the wheel out, spacers in their order."), _N("The disc is measured and worked on in its wheel."),
         when=("motorcycle",), cautions=("weight",)),
    Step("disc_off", _N("Mark disc and hub, then loosen the disc’s bolts crosswise; warm them first where thread lock holds."), _N("A bolt that is forced takes its thread along."),
         needs=(_N("marker"), _N("wrench")), when=("motorcycle",), cautions=("hot",)),
    Step("floats", _N("Turn every button of the floating disc by hand: each must move a little."), _N("One that is stuck tilts the disc like a flake of rust."), Kind.CONFIRM, when=("floating disc",)),
    Step("shoes_back", _N("Back the shoes off through the adjuster’s hole."), _N("A rotor that is cocked over its shoes bends them."),
         needs=(_N("adjuster spoon"),), when=("drum in the hat",)),
    Step("screws", _N("Take the locating screws out, with an impact driver where they are stuck."), _N("They only hold the rotor in place while the wheel is off."),
         needs=(_N("impact driver"),), when=("locating screw",)),
    Step("rotor_off", _N("Mark rotor and stud, then take the rotor off; where it sticks, push it by its screw holes, evenly, little by little."),
         _N("A hammer on the face makes the runout that is looked for."), needs=(_N("marker"), _N("two screws")), when=("wheels with nuts",), cautions=("weight", "dust")),
    Step("look", _N("Look for cracks, blue spots, grooves, lips, torn boots and pads that are worn on one side."), _N("What is seen now is not seen again until the next time it is open."),
         Kind.CONFIRM, cautions=("maker",)),
)
CLEANING: Final = (
    Step("bulk_rust", _N("Take the bulk of the rust off hub face and hat."), _N("A flake under the hat tilts the rotor by twice its height at the edge."),
         needs=(_N("scraper"), _N("rust disc")), cautions=("eyes", "dust")),
    Step("flat_stone", _N("Go over the hub face with a flat stone until machining marks show."), _N("A brush follows the hills, a flat stone takes them down."),
         needs=(_N("flat stone"),)),
    Step("spigot", _N("Clean the spigot, round each stud and the inside of the hat."), _N("The speck that is left is the one beside a stud."),
         needs=(_N("stud cleaner"), _N("cleaner")), cautions=("solvent",)),
    Step("seen_clean", _N("Run a finger over hub face and hat: bright, dry, nothing stands proud."), _N("It is not clean because it was cleaned."), Kind.CONFIRM),
)
CLAMP: Final = (
    Step("clamp", _N("Put the rotor on its mark and all nuts with cone washers on, star order {star}, two rounds."), _N("A rotor that is held by nothing flops and gives nonsense."),
         needs=(_N("cone washers"), _N("torque wrench")), torque="wheel", when=("wheels with nuts",), cautions=("torque",), figures=("star",), drawn="star"),
    Step("clamp_motorcycle", _N("Put the disc’s bolts in by their maker’s order and torque."), _N("A disc is only as true as it is clamped."),
         needs=(_N("torque wrench"),), torque="disc_bolts", when=("motorcycle",), cautions=("torque",)),
)
SWEEP_FIRST: Final = (
    Step("sweep_first", _N("Sweep the rotor before metal is cut, one way, back to the start."), _N("Where cleaning has cured it nothing is cut."), Kind.HOLD, (_N("dial indicator"),), expects="runout_before",
         otherwise=_N("Far less than before: it was the joint. Measure and choose anew before a tip touches. Far more: nuts again, then the joint.")),
)
SWEEP: Final = (
    Step("sweep_again", _N("Sweep the rotor again, one way, back to the start."), _N("What the work left is measured, not supposed."),
         Kind.MEASURE, (_N("dial indicator"),), expects="runout_after", otherwise=_N("Over it: nuts again, then the joint again, before any part is blamed."), back="clamp"),
)
INDEX: Final = (
    Step("turn_on_studs", _N("Turn the rotor clockwise, seen from outside. Studs on: {studs_on}."), _N("There hub and rotor cancel as far as they can."), figures=("studs_on",), drawn="turn", changes=True),
    Step("match_mark", _N("Mark rotor and stud anew."), _N("Whoever takes it off next must find this place again."), Kind.CONFIRM, (_N("marker"),)),
)
PLATE: Final = (
    Step("rotor_true", _N("See that the rotor is even and flat by its figures."), _N("A plate only tilts: it hides nothing of a bad rotor."), Kind.CONFIRM),
    Step("plate_place", _N("Put one new plate of {plate} on the hub, its thin side {plate_place}."), _N("The thin side lets the high spot in."),
         needs=(_N("plate"),), figures=("plate", "plate_place"), drawn="plate", fits="plate", changes=True),
    Step("plate_one", _N("Count the plates: one a side, new."), _N("Two never lie flat, and an old one has taken its set."), Kind.CONFIRM),
    Step("plate_rotor", _N("Put the rotor back on its marks (studs on: {studs_on}), and hold it at the bottom while the first nut goes on."), _N("The plate slips while nothing holds it."),
         needs=(_N("cone washers"),), figures=("studs_on",), cautions=("weight",), drawn="plate"),
)
BENCH: Final = (
    Step("bench_clean", _N("Clean both sides of the hat and the arbor."), _N("Dirt there is cut into the disc."), needs=(_N("cleaner"),), cautions=("solvent", "weight")),
    Step("bench_mount", _N("Mount with cones and adapters in pairs, spring and spacers; the left-hand nut by hand and then by its wrench."), _N("It is cut as true as it is held."),
         needs=(_N("cones"), _N("adapters"), _N("spacers"))),
    Step("bench_damper", _N("Put the damper on."), _N("A disc that rings comes out with a pattern."), needs=(_N("damper"),)),
    Step("bench_head", _N("Set the head in the middle of the disc, arms clear through all of the travel."), _N("A tool that meets the hat breaks, or the disc does."), Kind.CONFIRM),
    Step("bench_touch", _N("Touch each face lightly with the motor on."), _N("Where the tip touches shows how it runs."), cautions=("eyes", "turning", "stop")),
    Step("bench_half_turn", _N("Loosen, turn the rotor half a turn on the arbor, touch again beside it."), _N("The mark in the same place on the rotor is the rotor’s, else the mounting’s."),
         Kind.HOLD, otherwise=_N("The mounting: clean the adapters, mount again, touch again."),
         findings=(Finding("rotors", _N("same place on the rotor")), Finding("mountings", _N("another place"), "bench_clean"))),
    Step("bench_zero", _N("Set both dials to zero at first touch, at the thinnest place and the deepest groove."), _N("Every line counts from there.")),
)
BENCH_CUT: Final = (
    Step("bench_ridge", _N("Take the rust ridge off slowly by hand, never into the hat."), _N("A deep bite at the edge throws the tip."), cautions=("eyes", "turning")),
    Step("bench_pass", _N("Pass {pass}: {outboard} outboard, {inboard} inboard, {feed} feed."), _N("So much and no more comes off in one go."),
         each_pass=True, cautions=("eyes", "turning"), figures=("pass", "outboard", "inboard", "feed"), drawn="knobs", broken="bench_zero", changes=True),
    Step("bench_read", _N("Mike the disc at its thinnest: stop under {stop}."), _N("The next pass is made from this reading."), Kind.HOLD, (_N("micrometer"),),
         each_pass=True, expects="after_pass", otherwise=_N("Not as expected: a zero was off, or the reading is; the plan is made anew before the tip touches again."), back="bench_zero", figures=("stop",), drawn="knobs",
         broken="bench_zero"),
    Step("bench_finish", _N("Break the spiral on both faces by abrasive, crosswise."), _N("Pads climb along a spiral and click."), needs=(_N("abrasive disc"),), cautions=("eyes", "turning")),
    Step("bench_nail", _N("Draw a nail across both faces: it must not catch."), _N("What a nail feels, a pedal feels."), Kind.CONFIRM),
)
ADAPTER: Final = (
    Step("hub_work_first", _N("See that hub, bearing and suspension are in order and done."), _N("What is renewed afterwards makes the cut worthless."), Kind.HOLD, cautions=("maker",)),
    Step("side_first", _N("Begin on the side where the machine can stand upright."), _N("The second side is set up as the first was."), when=("two sides", "first side")),
    Step("hub_height", _N("Bring the hub to hip height, traction control off."), _N("Nobody leans over a turning disc."), when=("engine",), cautions=("turning",)),
    Step("other_side_bolted", _N("Open the axle’s other side and bolt its rotor with all nuts."), _N("Driven, it turns too, and a loose rotor flies."), Kind.HOLD, (_N("cone washers"),),
         when=("driven axle", "two sides"), cautions=("turning",),
         findings=(Finding("bolted", _N("opened and bolted")), Finding("not_driven", _N("this axle is not driven")))),
    Step("adapter", _N("Put the adapter that fits on, faces clean and flush, all nuts by hand or at low torque."), _N("An impact tool bends what it is to be trued by."),
         needs=(_N("adapter"),), when=("wheels with nuts",)),
    Step("drawbar", _N("Screw the drawbar in by hand until it is flush; stop if it resists."), _N("A thread that is forced leaves the machine askew.")),
    Step("carriage", _N("Move the carriage through all of its travel by hand, head in the middle."), _N("It must be free where the caliper sat, and stop before the hat."), Kind.CONFIRM),
    Step("tips", _N("See which corner of the tips is in use, both alike, and turn both where one is dull."), _N("A dull tip rubs and burns."), Kind.CONFIRM, (_N("tips"),)),
    Step("compensate", _N("Compensate until no more than {compensated} is carried to the cut."), _N("What the machine runs out is cut into the disc."), Kind.MEASURE, (_N("dial indicator"),),
         expects="compensated", otherwise=_N("It will not: adapter faces, nuts, drawbar; then the bearing."), back="adapter", cautions=("turning", "stop"), figures=("compensated",)),
    Step("scratch", _N("Scratch inboard, then outboard, and look at both bands."), _N("A band that comes and goes is the disc’s runout; a whole one is none."),
         Kind.HOLD, cautions=("eyes", "turning"), otherwise=_N("All round although the sweep said otherwise: nuts and sweep again, before a cut."),
         findings=(Finding("comes_and_goes", _N("comes and goes")), Finding("patch", _N("a patch")), Finding("all_round", _N("all round"), "clamp")), drawn="section"),
    Step("zero", _N("Set both knobs to zero at first touch."), _N("Every line counts from there.")),
    Step("motor_off", _N("With the motor off: damper for this disc on, chip tray, stop set, nothing loose, arms locked."), _N("What is forgotten now is found at speed."), Kind.HOLD,
         ("damper", "chip tray"), cautions=("turning", "stop")),
)
CUT: Final = (
    Step("finer_feed", _N("Take the finer feed and the heavier damper."), _N("Slots and holes make the tip hammer."), when=("slots or holes",)),
    Step("pass", _N("Pass {pass}: {outboard} outboard, {inboard} inboard, {feed} feed; lock both arms, clutch in, stand clear."), _N("So much and no more comes off in one go."),
         each_pass=True, cautions=("eyes", "turning", "stop"), figures=("pass", "outboard", "inboard", "feed"), drawn="knobs", broken="compensate", changes=True),
    Step("stay", _N("Stay and listen until its stop ends the pass: an even hiss is a full cut."), _N("A howl is the damper, a knock the tip."), each_pass=True, when=("stay with the lathe",), cautions=("stay", "turning"),
         drawn="knobs", broken="compensate"),
    Step("near", _N("Prepare pins and calipers within sight of the stop."), _N("The workshop’s policy lets work go on beside a running lathe."), each_pass=True,
         when=("lathe may be left",), cautions=("turning",), broken="compensate"),
    Step("read_pass", _N("Mike the disc at its thinnest: stop under {stop}."), _N("The next pass is made from this reading."), Kind.HOLD, (_N("micrometer"),),
         each_pass=True, expects="after_pass", otherwise=_N("Not as expected: a zero was off, or the reading is; the plan is made anew before the tip touches again."), back="zero", figures=("stop",), drawn="knobs",
         broken="compensate"),
    Step("dark_patch", _N("Look for a dark patch on both faces."), _N("It is a place the tip has not reached: compensate again, and one more pass where the metal is there."), Kind.HOLD,
         findings=(Finding("bright", _N("bright all round")), Finding("patch", _N("a dark patch"), "compensate")), drawn="section"),
)
MACHINE_OFF: Final = (
    Step("match_before_letting_go", _N("Leave without touching the tips; two nuts on, or a match mark, before the machine comes off."), _N("It is true to this hub in this place, and nowhere else."), Kind.HOLD, (_N("marker"),)),
    Step("feed_off", _N("Let the feed off, then take drawbar and adapter off."), _N("A machine that is still in feed drops onto the disc."), cautions=("weight",)),
)
NEW_ROTORS: Final = (
    Step("in_pairs", _N("Lay both new rotors out: a pair, the same part."), _N("One new side pulls."), Kind.CONFIRM, (_N("rotors"),), when=("two sides",), changes=True),
    Step("new_one", _N("Lay the new rotor out and hold it against the old one."), _N("A part that is nearly right is found before it is fitted."), Kind.CONFIRM, (_N("rotor"),), when=("one disc",), changes=True),
    Step("oil_off", _N("Wash the oil off with cleaner and paper until it stays white."), _N("What is left bakes into the pads."), needs=(_N("cleaner"), _N("paper")), cautions=("solvent", "friction")),
)
FITTED_SWEEP: Final = (
    Step("measured_when_fitted", _N("Sweep the new rotor as it is fitted and torqued."), _N("It is as true as the hub it sits on."), Kind.HOLD, (_N("dial indicator"),), expects="runout_after",
         otherwise=_N("Over it: the best of its positions, or a plate; never another new rotor."), back="clamp"),
)
NEW_MEASURED: Final = (
    Step("new_measured", _N("Sweep and mike the new rotor as it is clamped, on their tapes."), _N("The lines of its cut come from its own readings, not from the old one’s."), Kind.CONFIRM,
         ("dial indicator", "micrometer")),
)
NEW_INDEX: Final = (
    Step("new_best", _N("Try its positions on the studs and keep the one that reads least."), _N("A new rotor’s own runout stands at an angle nobody chose."), Kind.MEASURE,
         ("dial indicator",), expects="runout_after", otherwise=_N("None is within: a plate, or another choice."), drawn="turn", changes=True),
    Step("new_mark", _N("Mark rotor and stud."), _N("Whoever takes it off next must find this place again."), Kind.CONFIRM, (_N("marker"),)),
)
FITTED_PLATE: Final = (
    Step("fitted_read", _N("Read runout and high spot as it is fitted."), _N("The plate is chosen by what stands now, not by what was."), Kind.HOLD, (_N("dial indicator"),)),
    Step("fitted_plate", _N("Put one new plate of the taper nearest to that reading under it, its thin side to the high spot."), _N("The thin side lets the high spot in."), needs=(_N("plate"),), changes=True),
    Step("fitted_one", _N("Count the plates: one a side, new."), _N("Two never lie flat, and an old one has taken its set."), Kind.CONFIRM),
)
HUB: Final = (
    Step("hub_part", _N("Renew the hub or bearing unit by the maker’s way, with all that is to be used once."), _N("Nuts, bolts and rings that were stretched do not hold twice."),
         needs=(_N("hub unit"), _N("new fixings")), torque="hub_nut", cautions=("maker", "torque"), changes=True),
    Step("hub_play", _N("Measure the play of the new bearing."), _N("Nothing else is believed before."), Kind.HOLD, (_N("dial indicator"),), expects="play", otherwise=_N("Play in a new bearing: how it was drawn home, then the part."), back="hub_part"),
    Step("hub_sweep", _N("Sweep the hub face."), _N("A new part has a runout too."), Kind.MEASURE, (_N("dial indicator"),), expects="hub_runout", otherwise=_N("Over it: dirt under its seat, then the part."), back="hub_part"),
)
PADS: Final = (
    Step("pistons_shut", _N("Push the pistons back square; bleeder shut: watch the fluid; opened: hose and jar, and close it before the piston stops."),
         _N("Shut, the fluid comes up in its tank; opened, old fluid goes out and none may run dry."), needs=(_N("piston tool"),), cautions=("fluid",)),
    Step("shims", _N("Put shims that match and clips left and right in their places, wear indicators where they were."), _N("A clip on the wrong side rattles or drags."), Kind.CONFIRM, (_N("shims"), _N("clips"))),
    Step("grease", _N("Grease pins and ears thinly, never a face that brakes; boots whole, thread lock where the maker wants it."), _N("Seized slides wear one pad and heat the disc."),
         needs=(_N("brake grease"), _N("thread lock")), cautions=("friction",)),
)
SHOES: Final = (
    Step("shoes_new", _N("Renew the shoes of the parking brake on both sides, and type how thick their linings are: {lining_new}."), _N("The old ones are under their least thickness."), Kind.MEASURE, figures=("lining_new",), expects="lining_new", otherwise=_N("Under their least thickness: not these."), needs=(_N("new shoes"),), when=("drum in the hat", "worn shoes"), cautions=("friction",)),
    Step("shoes_set", _N("Set the shoes through the hole until the drum just drags, then back a little."), _N("Too far off there is no parking brake, too near it cooks."), when=("drum in the hat",), needs=(_N("adjuster spoon"),), cautions=("spring",)),
)
CLOSING: Final = (
    Step("wash", _N("Wash the disc with soapy water, dry it, and touch it no more."), _N("Chips and dust from a cut stay in the pads."), needs=(_N("soapy water"), _N("paper")), cautions=("friction",)),
    Step("rotor_held", _N("Keep the rotor clamped by two nuts until the caliper is on."), _N("It tips, and a flake falls behind it."), Kind.CONFIRM, when=("wheels with nuts",)),
    Step("wheel_in", _N("Put the wheel in, spacers in their order, and draw the axle home."), _N("A spacer the other way round stands the disc off its caliper."), torque="axle", when=("motorcycle",), cautions=("torque",)),
    Step("bracket", _N("Torque the bracket."), _N("It carries all of the braking."), torque="bracket", cautions=("torque",), when=("wheels with nuts",)),
    Step("pads_new", _N("Put new pads in, on the axle’s every wheel, and type their thickness: {pad_new}."), _N("The old ones are under their least thickness. A caliper that comes off for them once more is torqued once more."), Kind.MEASURE, figures=("pad_new",), expects="pad_new", otherwise=_N("Under their least thickness: not these."), needs=(_N("new pads"),), when=("worn pads",), cautions=("friction",)),
    Step("caliper_on", _N("Put the caliper on and torque its bolts."), _N("A bolt that is pulled by feel is found on the road."), torque="caliper", cautions=("torque", "hose")),
    Step("other_caliper_on", _N("Put the wheel’s other caliper on too and torque its bolts."), _N("Nobody looks at the side that was not worked on."), torque="caliper", when=("beside a disc",), cautions=("torque", "hose")),
    Step("pad_pin_home", _N("Torque the pad pin and put its clip or plug in."), _N("A pin that walks out lets the pads go."), torque="pad_pin", when=("motorcycle",), cautions=("torque",)),
    Step("hose_fitting", _N("See the hose: not twisted, not near the wheel; torque its fitting if it was opened."), _N("A twisted hose is worn through in a winter."), Kind.CONFIRM, torque="hose_fitting", cautions=("fluid",),
         findings=(Finding("shut", _N("it was not opened"), torqued=False), Finding("torqued", _N("opened, torqued now")))),
    Step("wheel_on", _N("Put the wheel on and torque its nuts in star order {star}, two rounds, by the wrench."), _N("Uneven nuts make the runout that was just cured."),
         needs=(_N("torque wrench"),), torque="wheel", when=("one wheel",), cautions=("torque",), figures=("star",), drawn="star"),
    Step("twin_faces", _N("Clean the faces of both twin wheels, and the one they stand on."), _N("Four faces clamp here: dirt between any two makes runout, and lets the wheels work loose."),
         needs=(_N("wire brush"),), when=("twin wheels",)),
    Step("twin_on", _N("Put both wheels on and torque their nuts in star order {star}, two rounds, by the wrench."), _N("Uneven nuts make the runout that was just cured."),
         needs=(_N("torque wrench"),), torque="wheel", when=("twin wheels",), cautions=("torque",), figures=("star",), drawn="star"),
)
_FELT: Final = tuple(Finding(code, words) for code, words in FELT.items())
LEAVING: Final = (
    Step("pump", _N("Pump the brake (pedal, lever, a trailer’s coupling) until it is high and hard; see the fluid."), _N("The pistons stand back: the first stroke may find nothing."), Kind.HOLD, cautions=("pump", "fluid")),
    Step("bed_in", _N("Bed the pads in as their maker says: many light stops, none to a stand."), _N("A hot pad that stands prints itself on the disc."), when=("engine",), cautions=("road",)),
    Step("road_test", _N("Drive it over the speeds of the complaint, braking lightly and harder."), _N("Only there is it proven that the driver feels nothing."), Kind.HOLD, when=("engine",),
         cautions=("road", "maker"),
         findings=_FELT),
    Step("twin_again", _N("Torque the nuts of the twin wheels once more after the drive."), _N("Their faces settle: the maker says after what distance they are torqued again."), Kind.CONFIRM, when=("twin wheels",), needs=(_N("torque wrench"),), torque="wheel", cautions=("torque", "maker")),
    Step("trailer_test", _N("Draw it over the speeds of the complaint, braking lightly and harder."), _N("Only there is it proven."), Kind.HOLD, when=("trailer",), cautions=("road", "maker"),
         findings=_FELT),
)
# fmt: on


def _some(part: tuple[Step, ...], *codes: str) -> tuple[Step, ...]:
    return tuple(step for step in part if step.code in codes)


PARTS: Final[Mapping[str, tuple[Step, ...]]] = {
    "lift": LIFT,
    "opening": OPENING,
    "cleaning": CLEANING,
    "hub": HUB,
    "bench": BENCH,
    "bench cut": BENCH_CUT,
    "new rotors": NEW_ROTORS,
    "index": INDEX,
    "plate": PLATE,
    "clamp": CLAMP,
    "sweep first": SWEEP_FIRST,
    "new measured": NEW_MEASURED,
    "new index": NEW_INDEX,
    "fitted plate": FITTED_PLATE,
    "adapter": ADAPTER,
    "cut": CUT,
    "machine off": MACHINE_OFF,
    "sweep": SWEEP,
    "fitted sweep": FITTED_SWEEP,
    "pads": PADS,
    "shoes": SHOES,
    "closing": CLOSING,
    "caliper off": _some(OPENING, "pad_pin", "caliper_off"),
    "wheel out": _some(OPENING, "motorcycle_wheel"),
    "disc off": _some(OPENING, "disc_off", "floats", "look"),
    "disc washed": _some(CLOSING, "wash"),
    "wheel in": _some(CLOSING, "wheel_in"),
    "caliper on": _some(CLOSING, "pads_new", "caliper_on", "pad_pin_home", "hose_fitting"),
    "leaving": LEAVING,
}
SAYS: Final = {step.code: step.says for part in PARTS.values() for step in part}  # a step's sentence by its code
ONCE: Final = ("lift", "leaving")  # once for the vehicle, whatever is done at its corners
# Two discs on one wheel: both calipers come off before it, and it is out and in once.
OPENING_ONE_WHEEL: Final = ("caliper off", "wheel out", "disc off")
CLOSING_ONE_WHEEL: Final = ("disc washed", "wheel in", "caliper on")

_SHUT: Final = ("shoes", "closing", "leaving")
_SHUT_PADS: Final = ("pads", *_SHUT)
_MATCH: Final = ("adapter", "cut", "machine off", "clamp", "sweep")
# What each remedy is made of, in order. Hub work comes before any matched cut, cleaning before anything is clamped.
PROCEDURES: Final[Mapping[str, tuple[str, ...]]] = {
    "clean_and_torque": ("lift", "opening", "cleaning", "clamp", "sweep", *_SHUT),
    "index": ("lift", "opening", "cleaning", "index", "clamp", "sweep", *_SHUT),
    "plate": ("lift", "opening", "cleaning", "plate", "clamp", "sweep", *_SHUT),
    "bench_cut": ("lift", "opening", "bench", "bench cut", "cleaning", "clamp", "sweep", *_SHUT_PADS),
    "bench_cut+plate": (
        "lift", "opening", "bench", "bench cut", "cleaning", "clamp", "fitted plate", "clamp", "sweep", *_SHUT_PADS,
    ),
    "on_vehicle_cut": ("lift", "opening", "cleaning", "clamp", "sweep first", *_MATCH, *_SHUT_PADS),
    "new_rotors": ("lift", "opening", "cleaning", "new rotors", "clamp", "fitted sweep", *_SHUT_PADS),
    "new_rotors+plate": (
        "lift", "opening", "cleaning", "new rotors", "clamp", "fitted plate", "clamp", "sweep", *_SHUT_PADS,
    ),
    "new_rotors+index": (
        "lift", "opening", "cleaning", "new rotors", "clamp", "new index", "clamp", "sweep", *_SHUT_PADS,
    ),
    "new_rotors+on_vehicle_cut": (
        "lift", "opening", "cleaning", "new rotors", "clamp", "new measured", *_MATCH, *_SHUT_PADS,
    ),
    "hub_unit": ("lift", "opening", "hub", "cleaning", "clamp", "sweep", *_SHUT),
}  # fmt: skip
