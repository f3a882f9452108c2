"""What the drills say, as data: two people who speak, or a situation; which is right, why, and the picture that shows it.

Our own words throughout. Every topic of the job is here; a picture is named by ``practice.drills.pictures``.
"""

from dataclasses import dataclass
from typing import Final

from django.utils.functional import Promise
from django.utils.translation import gettext_lazy as _

ONE, OTHER, BOTH, NEITHER = "one", "other", "both", "neither"
CHAIN: Final = _("Why it pulses")
COMPLAINT: Final = _("Complaint")
OPENING: Final = _("Opening, bearing")
THICK: Final = _("Thickness")
CLEAN: Final = _("Clean and clamp")
DIAL: Final = _("The dial")
WHOSE: Final = _("Whose runout")
CHOOSE: Final = _("Choose")
PLATES: Final = _("Index and plate")
LATHE: Final = _("Machining")
PROVE: Final = _("Prove it")
SAFETY: Final = _("Safety")
TOPICS: Final = (CHAIN, COMPLAINT, OPENING, THICK, CLEAN, DIAL, WHOSE, CHOOSE, PLATES, LATHE, PROVE, SAFETY)


@dataclass(frozen=True)
class Drill:
    """One card. ``says`` are two statements, or one situation; ``choices`` what may be done there (empty for two)."""

    code: str
    topic: Promise
    says: tuple[Promise, ...]
    right: str
    why: Promise
    picture: str
    choices: tuple[Promise, ...] = ()


def _two(code: str, topic: Promise, one: Promise, other: Promise, right: str, why: Promise, picture: str) -> Drill:
    return Drill(code, topic, (one, other), right, why, picture)


def _now(
    code: str,
    topic: Promise,
    tale: Promise,
    choices: tuple[Promise, ...],
    right: int,
    why: Promise,
    picture: str,
) -> Drill:
    return Drill(code, topic, (tale,), str(right), why, picture, choices)


# fmt: off
DRILLS: Final[tuple[Drill, ...]] = (
    _two("felt-is-thickness", CHAIN, _("What the foot feels is nearly always a disc that is thicker in one place than in another."), _("What the foot feels is nearly always a disc that wobbles from side to side."), ONE, _("A floating or sliding caliper follows a wobble; it cannot follow thickness. Wobble makes the thickness, over thousands of kilometres."), "worn"),
    _two("runout-makes-it", CHAIN, _("A disc that runs out wears itself uneven although nobody brakes."), _("It does so where its high spot touches a released pad, once a turn."), BOTH, _("An idle pad is a file that is touched once a turn. The high spot is worn thin there."), "worn"),
    _two("new-discs-hub", CHAIN, _("New discs on a hub that runs out will pulse on the first day."), _("New discs on a hub that runs out will never pulse: they are new."), NEITHER, _("They run out at once and are quiet at first. They pulse when they have been worn uneven, some thousand kilometres on."), "hub"),
    _two("cured-not-done", CHAIN, _("When runout is cured, the pulse is gone."), _("A disc that was worn uneven stays uneven when its runout is cured."), OTHER, _("Two links of the chain, two measurements. Cured runout keeps it from getting worse; the wear is still there."), "patch"),
    _two("thickness-only", CHAIN, _("Who measures thickness alone does not know why it is uneven."), _("Who measures runout alone may miss what is felt."), BOTH, _("One is the cause, the other the effect; each is blind without the other."), "worn"),
    _two("parked-pad", CHAIN, _("A van that stood all winter can pulse though its discs run true."), _("Under a parked pad a sector rusts that is as wide as the pad."), BOTH, _("A pad-wide patch of rust or print is thickness without runout: dial quiet, micrometer not."), "patch"),
    _two("worn-shape", CHAIN, _("Equal wear on both faces gives one thin place a turn."), _("It can give two: one face wears at the high spot, the other opposite it."), OTHER, _("The outboard pad rubs near the high spot, the inboard pad half a turn away: two thin places where both faces wear."), "worn"),
    _two("where-thin", CHAIN, _("Hold the thin place against the high spot to tell what made the unevenness."), _("A thin place far from where anything rubs was not made by that runout."), BOTH, _("Place tells cause: thin where runout rubs was made by runout; elsewhere ask for rust, deposits or the foundry."), "patch"),
    _two("wheel-front", COMPLAINT, _("A steering wheel that shakes proves that a front disc is at fault."), _("A seat that buzzes proves that a rear disc is at fault."), NEITHER, _("They suggest where to begin. A rear disc can shake the wheel, a front disc the seat: feel orders the work, the dial decides."), "wheels-rear"),
    _two("always-shakes", COMPLAINT, _("What shakes without braking is first looked for at tyres and wheels."), _("What shakes without braking cannot be a bearing."), ONE, _("Tyres, balance, bent parts and bearings shake without the brake. Discs come in with the pedal."), "speeds"),
    _two("abs-kick", COMPLAINT, _("A fast kick only just before the wheels lock is the anti-lock system at work."), _("It is a warped disc that shows when braking hard."), ONE, _("Disc trouble comes once or twice a turn at every braking; the system kicks fast, and only near lock-up."), "speeds"),
    _two("frequency", COMPLAINT, _("Turns a second are speed over the tyre’s circumference."), _("Disc trouble comes once or twice that often."), BOTH, _("At 72 km/h a tyre of 2 m turns ten times a second: look for 10 or 20 a second."), "speeds"),
    _two("drum", COMPLAINT, _("An out-of-round drum feels much like an uneven disc."), _("So a rear axle with drums need not be measured."), ONE, _("It feels alike, and that is why it has to be measured."), "wheels-rear"),
    _two("kerb", COMPLAINT, _("A kerb strike before the complaint makes hub and axle suspects."), _("Wheels off before the complaint make dirt and nuts suspects."), BOTH, _("What was done lately orders the suspects. It condemns none of them."), "hub"),
    _two("loose-joints", COMPLAINT, _("Play in steering joints lets a small pulse shake the wheel."), _("So joints are looked at before discs are machined."), BOTH, _("Suspension and steering come before any matched cut: what is renewed afterwards makes the cut worthless."), "wheels"),
    _two("hot-cold", COMPLAINT, _("Worse when hot speaks of spots or deposits that swell."), _("It proves that the disc is warped by heat."), ONE, _("It is a sign with some weight. Hardly any disc “warps”: measure it cold, thickness and runout."), "patch"),
    _two("bearing-first", OPENING, _("Turns that do not repeat put the bearing first."), _("They call for another set of pads first."), ONE, _("Nothing that is read over a bearing with play can be believed."), "play"),
    _two("play-hides", OPENING, _("A loose bearing can look like a rotor that runs out."), _("It can push the piston back, so that the first stroke finds nothing."), BOTH, _("Both happen. Rock it, and measure its end play with the dial."), "play"),
    _two("jack", OPENING, _("Stands go under before a hand goes in."), _("A good jack may hold for a minute’s look."), ONE, _("Nobody under or beside a vehicle that stands on a jack alone. There is no minute’s look."), "wheels"),
    _two("hose", OPENING, _("A caliper may hang by its hose for as long as it takes to sweep."), _("It hangs on a hook."), OTHER, _("A hose that carries a caliper is torn inside, where nobody sees it."), "section"),
    _two("parking-brake", OPENING, _("The parking brake is let off before a rear disc is swept."), _("Neutral is enough."), ONE, _("Shoes in the hat drag and tilt what is read."), "wheels-rear"),
    _two("worn-unlike", OPENING, _("An inner pad worn far more than the outer speaks of slides or piston."), _("It speaks of a disc that runs out."), ONE, _("A seized slide keeps one pad on the disc: it wears, it heats, it leaves deposits."), "section"),
    _two("cracked", OPENING, _("A crack through to the edge ends the discussion."), _("A cracked disc may be machined if there is metal enough."), ONE, _("Cracked or with metal missing: replace, do not drive."), "section"),
    _two("smallest-counts", THICK, _("The mean of ten readings is held against the limit."), _("The smallest reading is held against the limit."), OTHER, _("A disc is as thin as its thinnest place."), "gauge"),
    _two("over-lip", THICK, _("A plain caliper over the lips reads too thick."), _("The lips’ heights have to come off, both of them."), BOTH, _("The error is always in the hopeful direction."), "lips"),
    _two("one-place", THICK, _("Four places round the disc will do for the variation."), _("A pad-wide patch can lie between them."), OTHER, _("Ten places, twelve where a patch is suspected: a patch of forty degrees fits between four."), "patch"),
    _two("taper", THICK, _("Inner, middle and outer radius are read where taper matters."), _("With one radius read, the thinnest place may be at another."), BOTH, _("What was not measured has to widen what is said: a cut meets the whole band."), "section"),
    _two("coarse-mike", THICK, _("A caliper of 0.02 mm can judge a limit of 0.015 mm."), _("A coarse instrument makes an even disc look uneven."), OTHER, _("The range of noisy readings is never zero. “Too close to call: take a finer one” is the answer, not new discs."), "close"),
    _two("discard", THICK, _("Under discard it may be driven home slowly."), _("Too close to discard counts as under it."), OTHER, _("Where safety hangs on it, too close to call is called under. Replace, do not drive."), "gauge"),
    _two("machine-to", THICK, _("Discard is what must be left after a cut."), _("Machine-to is more than discard, and that is what must be left."), OTHER, _("The disc has to wear on after it is cut. Where no machine-to exists, the workshop’s allowance goes on top of discard."), "gauge"),
    _two("unswept", THICK, _("The unswept edge shows how thick the disc once was."), _("From it and the distance one works out how long it lasts."), BOTH, _("Wear is metal over distance; what is left over wear is distance to go."), "gauge"),
    _two("flake", CLEAN, _("A flake of 0.02 mm under the hat tilts the disc by 0.02 mm at its edge."), _("It tilts it by about twice that or more."), OTHER, _("A tilt grows with the radius: what is small at the hat is large at the edge."), "joint"),
    _two("finger", CLEAN, _("A hub is clean when it was cleaned."), _("A hub is clean when machining marks show and a finger finds nothing proud."), OTHER, _("The speck that is left is the one beside a stud."), "joint"),
    _two("brush", CLEAN, _("A wire brush follows the hills."), _("A flat stone takes them down."), BOTH, _("What stands proud tilts; what lies low does not matter."), "joint"),
    _two("before-after", CLEAN, _("A sweep before cleaning is wasted."), _("The difference between before and after is evidence of its own."), OTHER, _("What went with the dirt was the joint’s: a cause found, and nothing condemned."), "joint"),
    _two("star", CLEAN, _("Nuts are tightened crosswise, in rounds, to the torque."), _("Round the circle in one go does as well, if the torque is right."), ONE, _("A nut takes some of its neighbours’ clamp. In a circle the first is left loose, and the disc stands off there."), "star"),
    _two("no-nuts", CLEAN, _("A slip-on rotor may be swept with two nuts by hand."), _("Held by nothing it flops and gives nonsense."), OTHER, _("All nuts, with cone washers where the wheel clamps, at the torque."), "star"),
    _two("impact", CLEAN, _("An impact gun with a torque stick is as good as a wrench."), _("An impact gun undoes a perfect cut."), OTHER, _("Uneven clamp bends hub and disc by hundredths: what the lathe just took out."), "star"),
    _two("condemn-early", CLEAN, _("A rotor may be condemned for runout before the joint is clean, to save time."), _("Nothing is condemned before joint and nuts are in order."), OTHER, _("Clean, torque, sweep again. It is twenty minutes against a pair of discs."), "joint"),
    _two("tip-where", DIAL, _("The tip stands 10 to 15 mm in from the edge, on bright metal."), _("The tip stands at the very edge, where runout is greatest."), ONE, _("At the edge are lip and rust. The limit is meant for where the pads run."), "lips"),
    _two("one-way", DIAL, _("Turn one way only."), _("A little back and forth finds the high spot sooner, and costs nothing."), ONE, _("A clamp gives before the needle follows: back and forth adds what is not there."), "dial"),
    _two("returns", DIAL, _("The start is read again at the end."), _("If it does not return, the mean of both is the start."), ONE, _("If it does not return, the clamp has moved: clamp again, sweep again."), "drift"),
    _two("stations-under", DIAL, _("Four readings a turn can miss most of what lies between."), _("Two a stud under-read a plain wobble only a little."), BOTH, _("Four can miss a third of a wobble, ten five parts in a hundred; the curve through them brings that back."), "over"),
    _two("graduation", DIAL, _("A dial of 0.01 mm can judge a limit of 0.05 mm."), _("A dial of 0.05 mm can judge it, read between the lines."), ONE, _("A division of a quarter of the limit or less. A coarser dial cannot tell within from over."), "dial"),
    _two("thou", DIAL, _("0.05 mm is about 2 thou."), _("5 thou is about 0.05 mm."), ONE, _("One thou is 0.0254 mm. Five thou are 0.13 mm: a slip that condemns a good disc."), "dial"),
    _two("slot-jump", DIAL, _("A jump at every slot is runout."), _("A lone jump on a plain disc is read again after the place was cleaned."), OTHER, _("Slots and holes jump by design; a lone jump elsewhere is rust or a chip."), "jump"),
    _two("too-close", DIAL, _("0.048 ± 0.006 against a limit of 0.05 is within."), _("0.048 ± 0.006 against a limit of 0.05 is too close to call."), OTHER, _("Value and its ± meet the limit: another turn or a finer dial settles it, a guess does not."), "close"),
    _two("small-hand", DIAL, _("The small hand counts turns of the large one."), _("Who misses one is out by a whole millimetre on a dial of a hundred hundredths."), BOTH, _("Look at the small hand before you believe the large one."), "dial"),
    _two("lift-tip", DIAL, _("Lift the tip a few times before a sweep."), _("It must come back to where it was."), BOTH, _("A stand that does not return will not return at the end of the turn either."), "dial"),
    _two("magnet", DIAL, _("On an aluminium knuckle a magnet will not hold."), _("Then the stand may be put on the floor."), ONE, _("A clamp and a locking arm on a rigid part of the knuckle. A stand on the floor measures the bushes, too."), "dial"),
    _two("turned-with", WHOSE, _("What turns with the rotor is the rotor’s."), _("What stays where it was is the hub’s."), BOTH, _("Two sweeps, the rotor turned between: two unknowns, two equations."), "rotor"),
    _two("half-turn", WHOSE, _("After half a turn on the studs the runout is the same: it is the hub’s."), _("After half a turn the high spot has gone half round, too: it is the rotor’s."), BOTH, _("Same amount and same place: the hub. Same amount, place gone along: the rotor."), "hub"),
    _two("bare-hub", WHOSE, _("A hub face that runs out 0.03 mm at 60 mm makes 0.03 mm at the disc’s edge."), _("It makes about 0.07 mm at 140 mm."), OTHER, _("A tilt grows with the radius: 0.03 × 140 / 60."), "hub"),
    _two("one-sweep", WHOSE, _("One sweep of the disc as fitted tells hub from rotor."), _("It tells their sum only."), OTHER, _("One equation, two unknowns. Turn the rotor, or sweep the bare hub."), "stack"),
    _two("stack", WHOSE, _("Hub and rotor may each be in order and together be over."), _("They may each be out and together be in order."), BOTH, _("They add like arrows: the same way round they add up, against each other they take each other away."), "stack"),
    _two("arbor", WHOSE, _("On a true arbor only the rotor’s own runout is left."), _("Loosened and turned half round there, the mark that moves with the rotor is the rotor’s."), BOTH, _("The mark in another place on the rotor is the mounting’s: clean the adapters and mount again."), "rotor"),
    _two("turn-quiet", WHOSE, _("A disc that runs true on a bad hub is best turned to see what happens."), _("It is best left where it is, and its place marked."), OTHER, _("They cancel there and nowhere else. Match-mark it, so that nobody undoes it."), "cancel"),
    _two("index-free", PLATES, _("Turning the rotor costs nothing, so it can always help."), _("It cannot help where one of the two is small."), OTHER, _("Nothing small cancels something large. From two sweeps one works out what each place gives."), "indices"),
    _two("plate-thin", PLATES, _("The thin side of a tapered plate goes to the high spot."), _("The thick side goes to the high spot."), ONE, _("The thin side lets the high spot in, towards the vehicle."), "plate"),
    _two("two-plates", PLATES, _("Two thin plates may be stacked where no thick one is at hand."), _("A plate may be used again if it looks good."), NEITHER, _("One a side, new. Two never lie flat, and an old one has taken its set."), "plate"),
    _two("plate-rotor", PLATES, _("A plate wants a rotor that is itself even and flat."), _("A plate makes an uneven rotor even."), ONE, _("It only tilts. It hides nothing of a bad rotor, and it leaves the hub as it is."), "plate"),
    _two("plate-large", PLATES, _("A runout far beyond the largest taper is brought down as far as it goes."), _("It is for the hub to be found out."), OTHER, _("What a plate cannot carry is not to be half carried."), "hub"),
    _two("holes", PLATES, _("A plate can stand at the studs only."), _("Its hole pattern often lets it stand between them, too."), OTHER, _("Twice as many places as studs: the nearest is never far."), "plate"),
    _two("match-what", LATHE, _("Cut on the vehicle, the disc is true to its own hub."), _("Cut on the bench, it is true to the lathe, and the hub’s runout remains."), BOTH, _("So one is swept when it is done, the other again when it is fitted."), "cut"),
    _two("match-cost", LATHE, _("A matched cut takes the hub’s runout out in metal."), _("So it costs more metal than a cut on the bench."), BOTH, _("The whole wobble comes off, and a clean-up on each face."), "cut"),
    _two("new-skim", LATHE, _("New rotors have to be skimmed."), _("New rotors have to be measured when they are fitted."), OTHER, _("They need no skim, and they sit on the old hub. Whether to match them is the workshop’s policy."), "hub"),
    _two("light-pass", LATHE, _("The lighter the pass, the better the finish."), _("A pass that is too light rubs and burns; one that is too deep chatters."), OTHER, _("Every lathe has a least and a most for its tips."), "cut"),
    _two("one-side", LATHE, _("Cut on one side, the other side is cut likewise."), _("One under the limit means that both are replaced."), BOTH, _("Unlike thickness and unlike faces pull."), "wheels"),
    _two("scratch", LATHE, _("A band that comes and goes at the scratch cut tells of runout."), _("A band all round although the sweep said otherwise is a good sign: cut."), ONE, _("Two that disagree are looked at again: nuts, then sweep, before a tip touches in earnest."), "cut"),
    _two("compensate", LATHE, _("What the machine itself runs out is cut into the disc."), _("So it is compensated before the first pass."), BOTH, _("Adapter clean and flush, nuts by hand, then the needle is brought to rest."), "cut"),
    _two("same-studs", LATHE, _("After a matched cut the rotor may go back on any studs."), _("After a matched cut it goes back on its own for ever."), OTHER, _("It is true to this hub in this place. That is what the match mark is for."), "cancel"),
    _two("order-hub", LATHE, _("Hub, bearing and suspension are done before a matched cut."), _("They are done after it, so that the new parts stay clean."), ONE, _("What is renewed afterwards is what the disc was cut true to."), "cut"),
    _two("damper", LATHE, _("A disc that rings comes out with a pattern."), _("Abrasive crosswise breaks the spiral of the tip."), BOTH, _("The damper stops the ringing, the abrasive stops pads from climbing along a groove."), "cut"),
    _two("prove-both", PROVE, _("After a cut thickness is measured, after refitting runout."), _("A good finish needs no proof."), ONE, _("What was cut must be left, what was clamped must run."), "within"),
    _two("pump", PROVE, _("The pedal is pumped before the vehicle moves."), _("The first stop of the road test does that."), ONE, _("The first stroke may find nothing: pistons are back."), "wheels"),
    _two("mark", PROVE, _("Rotor and stud are marked at the end."), _("So that whoever takes the wheel off next finds the place again."), BOTH, _("All that was worked out holds in one place of the studs only."), "cancel"),
    _two("record", PROVE, _("Before and after are written down where it went well, too."), _("Only what went wrong needs a record."), ONE, _("What went well is what the next one is held against."), "within"),
    _two("soap", PROVE, _("Faces that were cut are washed with soapy water."), _("Blown off with air they are clean enough."), ONE, _("Metal dust gets into the pads, and brake dust is never blown."), "within"),
    _two("dust", SAFETY, _("Brake dust is wet-cleaned."), _("Brake dust is blown out of the door."), ONE, _("Never blow it: old linings may hold asbestos."), "section"),
    _two("gloves", SAFETY, _("Gloves keep the hands safe at a turning disc."), _("No gloves, sleeves, rags or jewellery near a turning disc."), OTHER, _("What is caught takes the hand along. Goggles yes, gloves no."), "cut"),
    _two("leave-lathe", SAFETY, _("One stays with the machine while it cuts."), _("Where a workshop lets work go on beside it, that is written as its policy."), BOTH, _("We begin with staying; anything else is said, and by whom."), "cut"),
    _two("drive-it", SAFETY, _("With play in the bearing it may be driven to the next town."), _("With a cracked disc it may be driven if one brakes gently."), NEITHER, _("Neither. Cracked, under discard, or a bearing with play: not to be driven, plainly."), "play"),
    _two("grease", SAFETY, _("A thin film of grease keeps a new disc from rusting to the hub."), _("Grease and fingers stay off what brakes, and out of the joint that has to lie flat."), OTHER, _("The joint is clean and dry, the faces are clean."), "joint"),
    _now("n-first", CHAIN, _("A minibus pulses at the pedal. Discs look new. What is measured first?"), (_("runout of the front left"), _("thickness and runout where the story points, then the others"), _("nothing: new discs cannot pulse"), _("the tyres")), 2, _("Both quantities, corner by corner, in the order of the story. New discs on an old hub wear uneven in a few thousand kilometres."), "wheels"),
    _now("n-flop", CLEAN, _("Two turns of the same disc differ by 0.08 mm. Its nuts are on by hand."), (_("new bearing"), _("all nuts to the torque, then sweep again"), _("take the mean"), _("new rotor")), 2, _("Held by nothing it flops. First the clamp, then the bearing."), "play"),
    _now("n-drift", DIAL, _("A sweep begins at 0 and comes back at 4 lines. The limit is 5."), (_("the disc is within"), _("take 4 off every reading"), _("clamp the dial again and sweep again"), _("the bearing is worn")), 3, _("It did not return: nothing of this turn is believed."), "drift"),
    _now("n-close", DIAL, _("0.049 mm ± 0.006, limit 0.05."), (_("within: sign it"), _("over: order discs"), _("another turn, or a finer dial"), _("turn the rotor and hope")), 3, _("Too close to call is an answer, and it names what settles it."), "close"),
    _now("n-joint", WHOSE, _("0.11 mm before cleaning, 0.02 mm after."), (_("the rotor was bad"), _("it was the joint: keep it, mark it, close it"), _("the hub is bad"), _("machine it anyway")), 2, _("What went with the dirt was the dirt’s. Thickness still has to be measured."), "joint"),
    _now("n-hubbad", WHOSE, _("Hub 0.10, rotor 0.01, discs new. Back for the second time."), (_("new discs again"), _("turn the rotor on its studs"), _("plate, a matched cut or a hub, whatever carries it"), _("softer pads")), 3, _("A small rotor cancels nothing. The hub throws every disc that is put on it."), "hub"),
    _now("n-stack", PLATES, _("Hub 0.05 and rotor 0.05, high at the same stud. Nothing is worn yet."), (_("turn the rotor half round"), _("new rotors"), _("a new hub"), _("leave it")), 1, _("They are alike and can cancel: free of charge, and worked out beforehand."), "stack"),
    _now("n-cancel", PLATES, _("Hub 0.06, rotor 0.06, and the disc runs out 0.01."), (_("turn it to be sure"), _("plate the hub"), _("mark it and leave it there"), _("cut it")), 3, _("It is as good as it can be, in this place only."), "cancel"),
    _now("n-kerb", CHOOSE, _("After a kerb: hub 0.30, play in the bearing."), (_("a plate of 0.10"), _("hub and bearing first, then measure again"), _("matched cut"), _("new rotors")), 2, _("Bearing before any disc; a hub that far out is nothing for plate or lathe."), "hub"),
    _now("n-thin", CHOOSE, _("24.3 mm at the thinnest, machine-to 24.2, runout 0.09."), (_("matched cut"), _("bench cut"), _("new rotors, measured when fitted"), _("drive on")), 3, _("A cut takes the wobble and a clean-up on each face: that is more than 0.1 mm."), "gauge"),
    _now("n-one-under", CHOOSE, _("Left 23.4, right 24.8, discard 23.5."), (_("replace the left"), _("replace both"), _("cut both"), _("drive on carefully")), 2, _("Under discard is replaced, and its mate likewise: unlike discs pull."), "gauge"),
    _now("n-patch", CHOOSE, _("Runs true, uneven by 0.03 in one pad-wide sector, metal enough."), (_("plate"), _("turn it on its studs"), _("cut both sides, or new rotors, by price"), _("new hub")), 3, _("Thickness is cured by cutting or replacing; index and plate only tilt."), "patch"),
    _now("n-quiet", CHOOSE, _("All four within, nothing uneven, and the owner wants new discs."), (_("fit them"), _("say so, and look for what else shakes"), _("skim them"), _("plate them")), 2, _("A disc in order is a finding. Tyres, joints, bearings are asked next."), "within"),
    _now("n-rear", COMPLAINT, _("The wheel shakes; both front discs are in order in every way."), (_("new front discs all the same"), _("measure the rear"), _("steering rack"), _("softer pads")), 2, _("Feel misleads about the axle. Four wheels, not two."), "wheels-rear"),
    _now("n-scratch", LATHE, _("The sweep said 0.08, the scratch band is whole all round."), (_("go on, it is true"), _("deeper scratch"), _("nuts and sweep again before a cut"), _("turn the tips")), 3, _("Two instruments that disagree are asked again."), "cut"),
    _now("n-dark", LATHE, _("After the pass a dark sector is left."), (_("compensate again and take another pass, if metal allows"), _("it will wear off"), _("abrasive by hand"), _("deeper, on that side only")), 1, _("The tip did not reach it: the disc is not yet true. The stop line decides whether there is metal for it."), "cut"),
    _now("n-comp", LATHE, _("The needle will not calm down when the lathe is compensated."), (_("cut with it"), _("adapter faces, nuts, drawbar; then the bearing"), _("a slower feed"), _("more nuts by the gun")), 2, _("What will not compensate is not set up, or turns in a worn bearing."), "cut"),
    _now("n-after", PROVE, _("Matched on the vehicle, refitted, swept: 0.06."), (_("cut again"), _("torque again and sweep: nuts first, then the joint"), _("sign it"), _("new hub")), 2, _("The cheapest and likeliest first: it was clamped otherwise than it was cut."), "star"),
    _now("n-lips", THICK, _("A caliper says 25.4 over lips of 0.6 and 0.7. How thick is it?"), (_("25.4"), _("24.1, give or take the lips’ own ±"), _("26.7"), _("24.7")), 2, _("Both lips come off: 25.4 − 0.6 − 0.7."), "lips"),
    _now("n-bed", PROVE, _("All is fitted. What comes before the road?"), (_("straight to the hill"), _("pump the pedal, torque the wheels, wash, then bed in where it is lawful"), _("a hard stop in the yard"), _("nothing")), 2, _("The first stroke may find nothing, and a wheel that is not torqued undoes the work."), "star"),
    _two("floating", OPENING, _("A floating motorcycle disc whose buttons are stuck tilts like a flake of rust."), _("Its buttons are greased so that it floats."), ONE, _("Each button is turned by hand and must move a little; grease has no place beside a face that brakes."), "joint"),
    _two("motorcycle-plate", PLATES, _("A motorcycle’s wheel takes a correction plate like a van’s."), _("Its disc may be turned on its bolts wherever they fit."), NEITHER, _("There is no flange for a plate to lie on, and the maker says where the disc goes. Clean it, measure it, replace it."), "plate"),
    _two("drum-in-hat", OPENING, _("A disc with a drum in its hat has a largest drum diameter, too."), _("Its shoes have a least lining of their own."), BOTH, _("The disc may have metal enough and the drum none: both are read while it is open."), "section"),
    _two("bleeder", OPENING, _("Piston back with the bleeder shut sends old fluid up the line and raises the level."), _("With the bleeder open no fluid goes up, and air may come in."), BOTH, _("Two schools, each with its price: watch the level in the one, bleed after the other."), "section"),
    _two("deep-or-two", LATHE, _("One deep pass is always better than rough and finish."), _("Rough and finish is always better than one deep pass."), NEITHER, _("It depends on lathe and rotor: the lathe’s profile says which. A thin solid disc takes less than a vented one."), "cut"),
    _two("tips", LATHE, _("Both tips are turned to the next corner together."), _("A tip is turned when it cuts badly."), ONE, _("Unlike tips cut unlike faces. Turned in unison, and written down which corner is in use."), "cut"),
    _two("feel-or-dial", COMPLAINT, _("The experienced hand needs no dial."), _("A dial makes the road test needless."), NEITHER, _("Feel orders the work, the dial decides it, the road proves it."), "dial"),
    _two("seized-slide", CHAIN, _("A disc that is worn thin on its inner face only may have a seized slide."), _("New discs cure it."), ONE, _("The pad stays on the disc and eats it: the slide first, or the new disc goes the same way."), "section"),
    _two("trailer", COMPLAINT, _("A trailer’s axles are not felt in the car."), _("A trailer’s discs wear so little that they need not be measured."), NEITHER, _("A trailer pushes and pulls at the hitch, and rusts more than it wears: every wheel is measured."), "wheels"),
    _two("check-due", DIAL, _("An instrument that is overdue for its check may read rightly."), _("Until it was held against its standard nobody knows."), BOTH, _("That is what the check is for: a drift is seen over several, long before it matters."), "drift"),
    _now("n-mike-lips", THICK, _("Ten readings between 26.4 and 26.6 on a disc that is 26.0 new."), (_("over the lips: go further in and read again"), _("a thick disc: cut it"), _("the mean is 26.5"), _("a new micrometer")), 1, _("No disc is thicker than it was made. The anvils sat on the lips."), "lips"),
    _now("n-impact", PROVE, _("The cut is perfect, the tyre fitter comes with his gun."), (_("let him, it is only the wheel"), _("half torque by the gun"), _("a torque stick will do"), _("the wrench, in a star, to the torque")), 4, _("Uneven nuts bend hub and disc by what was just cut away."), "star"),
    _now("n-odometer", CHOOSE, _("Hub 0.03, rotor 0.03, together 0.055; thickness even, new discs last month, limit 0.05."), (_("replace the hub"), _("cut both sides"), _("new discs again"), _("turn the rotor to where they cancel")), 4, _("Two that are each in order and together just over: the studs cure it free of charge."), "stack"),
    _now("n-wheelhub", OPENING, _("The caliper is off, the rotor will not come off its hub."), (_("push it evenly by its screw holes, little by little"), _("a hammer on the face"), _("heat it red"), _("pull at the caliper bracket")), 1, _("A hammer on the face makes the runout that is looked for."), "joint"),
)
# fmt: on
BY_CODE: Final = {drill.code: drill for drill in DRILLS}
