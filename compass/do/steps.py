"""What a step of work is, the conditions under which it belongs, the cautions that stand at it. No procedures here."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from compass.ground.translation import _N


class Kind(StrEnum):
    """What a step asks: to be done, confirmed, measured, or held until a reading, a second person or a reason."""

    DO = "do"
    CONFIRM = "confirm"
    MEASURE = "measure"
    HOLD = "hold"


@dataclass(frozen=True, slots=True)
class Work:
    """What decides which steps belong: the remedy, the vehicle and its axle, the rotor, the workshop's policy.

    ``driven``: whether the axle is; None where nobody has said, and then its steps are there too. ``first``: whether
    this is the side of its axle that is begun with.
    """

    remedy: str
    vehicle: str = "car"
    axle: str = "F"
    driven: bool | None = None
    single: bool = False
    first: bool = True
    features: frozenset[str] = frozenset()
    locating_screw: bool = False
    twin: bool = False  # two wheels stand on this hub
    shares_wheel: bool = False  # the other disc of this wheel is worked on too
    beside_a_disc: bool = False  # this wheel's other disc is not worked on: its caliper comes off all the same
    leaves_lathe: bool = False  # the workshop's policy lets work go on beside a running lathe
    worn: frozenset[str] = frozenset()  # linings of the axle that are under their least: pads_worn, linings_worn


def _motorcycle(work: Work) -> bool:
    return work.vehicle == "motorcycle"


CONDITIONS: Final[Mapping[str, Callable[[Work], bool]]] = {
    "motorcycle": _motorcycle,
    "beside a disc": lambda work: work.beside_a_disc,
    "wheels with nuts": lambda work: not _motorcycle(work),
    "one wheel": lambda work: not _motorcycle(work) and not work.twin,
    "twin wheels": lambda work: work.twin,
    "axle with the parking brake": lambda work: not _motorcycle(work) and work.axle != "F",
    "driven axle": lambda work: work.driven is not False and not _motorcycle(work) and work.vehicle != "trailer",
    "engine": lambda work: work.vehicle != "trailer",
    "trailer": lambda work: work.vehicle == "trailer",
    "two sides": lambda work: not work.single,
    "first side": lambda work: work.first,
    "one disc": lambda work: work.single,
    "drum in the hat": lambda work: "drum_in_hat" in work.features,
    "worn pads": lambda work: "pads_worn" in work.worn,
    "worn shoes": lambda work: "linings_worn" in work.worn,
    "floating disc": lambda work: "floating" in work.features,
    "slots or holes": lambda work: bool(work.features & {"slotted", "drilled"}),
    "locating screw": lambda work: work.locating_screw,
    "stay with the lathe": lambda work: not work.leaves_lathe,
    "lathe may be left": lambda work: work.leaves_lathe,
}


RENEWED: Final = ("pad_new", "lining_new")  # readings of what is put in new
# At which steps, by what they take the place of.
RENEWED_AT: Final = {"pads_new": "pads_worn", "shoes_new": "linings_worn"}


@dataclass(frozen=True, slots=True)
class Finding:
    """One of the things a look may show: code, words, and the step that is gone back to; empty where work goes on.

    ``torqued``: whether the step's torque is wanted then.
    """

    code: str
    says: str
    back: str = ""
    torqued: bool = True


@dataclass(frozen=True, slots=True)
class Step:
    """One step: what to do in one imperative sentence, and why.

    Names in braces are figures of this corner's plan, never typed here. ``needs`` are tools and consumables, ``torque``
    a torque by its name. ``when`` are conditions that must all hold. ``expects`` names the range a reading should fall
    into, ``otherwise`` says what else it may mean, ``back`` is the step gone back to then. ``findings`` are what a look
    may show. ``broken`` is gone back to where this step is broken off. ``each_pass``: it is repeated for every pass of
    the cut plan. ``drawn`` names its picture, ``fits`` a part that it takes from the stock. ``changes``: the
    corner is another one after it, and what is read from then on says nothing of what it was.
    """

    code: str
    says: str
    why: str
    kind: Kind = Kind.DO
    needs: tuple[str, ...] = ()
    torque: str = ""
    when: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    expects: str = ""
    otherwise: str = ""
    back: str = ""
    findings: tuple[Finding, ...] = ()
    broken: str = ""
    each_pass: bool = False
    figures: tuple[str, ...] = ()
    drawn: str = ""
    fits: str = ""
    changes: bool = False

    def belongs(self, work: Work) -> bool:
        """Whether every condition of the step holds for this work."""
        return all(CONDITIONS[name](work) for name in self.when)


CAUTIONS: Final[Mapping[str, str]] = {
    "support": _N("Nobody under or beside a vehicle that stands on a jack alone."),
    "hot": _N("Discs and calipers may be hot enough to burn: let them cool."),
    "dust": _N("Wet-clean brake dust, never blow it. Old linings may hold asbestos."),
    "solvent": _N("Solvent: air, no flame, no skin."),
    "hose": _N("The caliper hangs from a hook, never by its hose."),
    "eyes": _N("Eyes: goggles on, and on everybody near."),
    "turning": _N("No gloves, sleeves, rags or jewellery near a turning rotor, and nobody reaches over it."),
    "stop": _N("Know the stop switch before the motor runs."),
    "stay": _N("Stay with the machine while it cuts."),
    "weight": _N("A rotor is heavy and its edges cut: two hands, feet clear."),
    "friction": _N("No grease and no fingers on the faces that brake."),
    "torque": _N("The vehicle maker’s torque, by a torque wrench; an impact gun undoes a perfect cut."),
    "pump": _N("Pump the brake before the vehicle moves: the first stroke may find nothing."),
    "road": _N("Road-test only where it is lawful and safe, by somebody licensed to."),
    "maker": _N("The vehicle maker’s information, local rules and licensed practice decide."),
    "spring": _N("Springs and shoes fly: goggles, and one end at a time."),
    "fluid": _N("Brake fluid takes paint and skin: cap, cover, wash."),
}
