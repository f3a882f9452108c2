"""Steps of the work in words: the sentence with this corner's figures, what it needs, expects and warns of."""

from typing import Any, Final

from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from compass.do.steps import CAUTIONS, Kind
from compass.do.work import PlacedStep
from compass.ground.units import Unit
from jobs.words import figure_words
from workshop.models import POSITION_NAMES

MARKS: Final = {Kind.HOLD: "◆", Kind.MEASURE: "◇"}
# What is asked for at a step where nobody has said it.
_ASKED: Final = {
    "torque wheel": gettext_lazy("torque of the wheel nuts"),
    "torque caliper": gettext_lazy("torque of the caliper"),
    "torque bracket": gettext_lazy("torque of the bracket"),
    "torque hose_fitting": gettext_lazy("torque of the hose fitting"),
    "torque pad_pin": gettext_lazy("torque of the pad pin"),
    "torque axle": gettext_lazy("torque of the axle"),
    "torque disc_bolts": gettext_lazy("torque of the disc's bolts"),
    "torque hub_nut": gettext_lazy("torque of the hub nut"),
    "runout_before": gettext_lazy("runout as it was measured"),
    "runout_after": gettext_lazy("runout to expect"),
    "after_pass": gettext_lazy("reading to expect"),
    "stop": gettext_lazy("reading to stop at"),
    "outboard": gettext_lazy("lines outboard"),
    "inboard": gettext_lazy("lines inboard"),
    "feed": gettext_lazy("feed"),
    "compensated": gettext_lazy("what the lathe may read"),
    "play": gettext_lazy("play to expect"),
    "hub_runout": gettext_lazy("runout of the hub to expect"),
    "pad_new": gettext_lazy("least thickness of a pad"),
    "lining_new": gettext_lazy("least thickness of a lining"),
    "plate": gettext_lazy("taper of the plate"),
    "plate_place": gettext_lazy("where its thin side stands"),
}
_PARTS: Final = {
    "lift": gettext_lazy("Lift"),
    "opening": gettext_lazy("Open"),
    "cleaning": gettext_lazy("Clean"),
    "hub": gettext_lazy("Hub or bearing"),
    "bench": gettext_lazy("Mount on the bench"),
    "bench cut": gettext_lazy("Cut on the bench"),
    "new rotors": gettext_lazy("New rotors"),
    "index": gettext_lazy("Turn"),
    "plate": gettext_lazy("Plate"),
    "clamp": gettext_lazy("Clamp"),
    "sweep first": gettext_lazy("Sweep first"),
    "new measured": gettext_lazy("Measure the new one"),
    "new index": gettext_lazy("Turn the new one"),
    "fitted plate": gettext_lazy("Plate as fitted"),
    "adapter": gettext_lazy("Adapter"),
    "cut": gettext_lazy("Cut"),
    "machine off": gettext_lazy("Machine off"),
    "sweep": gettext_lazy("Sweep"),
    "fitted sweep": gettext_lazy("Sweep as fitted"),
    "pads": gettext_lazy("Pads and hardware"),
    "shoes": gettext_lazy("Shoes"),
    "closing": gettext_lazy("Close"),
    "caliper off": gettext_lazy("Caliper off"),
    "wheel out": gettext_lazy("Wheel out"),
    "disc off": gettext_lazy("Disc off"),
    "disc washed": gettext_lazy("Wash"),
    "wheel in": gettext_lazy("Wheel in"),
    "caliper on": gettext_lazy("Caliper on"),
    "leaving": gettext_lazy("Pump and drive"),
}


def part_name(part: str) -> str:
    """Name a part of the work."""
    return str(_PARTS[part])


def place_name(position: str) -> str:
    """Name the place of a step; what is done once is done at the vehicle."""
    return str(POSITION_NAMES[position]) if position else _("The vehicle")


def step_words(placed: PlacedStep, studs: int, unit: Unit) -> dict[str, Any]:
    """Return a step in words, figures in the reader's units."""
    step = placed.step
    said = {name: figure_words(name, figure, studs, unit) for name, figure in placed.figures.items()}
    return {
        "part": part_name(placed.part),
        "place": place_name(placed.position),
        "number": placed.number,
        "mark": MARKS.get(step.kind, ""),
        "hold": step.kind is Kind.HOLD,
        "says": _(step.says).format_map(dict.fromkeys(step.figures, "…") | said),
        "why": _(step.why),
        "needs": [_(need) for need in step.needs],
        "torque": said.get(f"torque {step.torque}", "") if step.torque else "",
        "expects": said.get(step.expects, "") if step.expects else "",
        "otherwise": _(step.otherwise) if step.otherwise else "",
        "cautions": [_(CAUTIONS[name]) for name in step.cautions],
        "asks": ", ".join(str(_ASKED[name]) for name in placed.asks),
    }


def asked_name(name: str) -> str:
    """Name a figure that nobody has said."""
    return str(_ASKED[name])
