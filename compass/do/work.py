"""A corner's procedure: the parts of its remedy, the steps that belong, their figures filled in or asked for."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from compass.do.cut_plan import Pass
from compass.do.procedures import PARTS, PROCEDURES
from compass.do.star_order import star_order
from compass.do.steps import Step, Work
from compass.evidence.records import Spec
from compass.evidence.shop import Lathe

Figure = float | str | tuple[float, ...]


@dataclass(frozen=True, slots=True)
class PlacedStep:
    """A step at its place in one corner's procedure.

    ``figures`` hold what its sentence names, and its torque and expected range by their names; ``asks`` are those that
    nobody has said yet: they are asked for at the step. ``pass_number`` counts the passes of a cut, None elsewhere.
    """

    step: Step
    part: str
    number: int
    pass_number: int | None
    figures: Mapping[str, Figure]
    asks: tuple[str, ...]


def procedure(work: Work, *, figures: Mapping[str, Figure], passes: Sequence[Pass] = ()) -> tuple[PlacedStep, ...]:
    """Return the steps of a remedy at one corner, in order; nothing for ``none``.

    ``passes`` are those of the cut plan: steps of a pass are repeated for each, rough before finish. Without a plan a
    cut has one pass whose figures are all asked for.
    """
    placed: list[PlacedStep] = []
    for part in PROCEDURES.get(work.remedy, ()):
        steps = [step for step in PARTS[part] if step.belongs(work)]
        first = next((k for k, step in enumerate(steps) if step.each_pass), len(steps))
        last = next((k for k in range(len(steps), 0, -1) if steps[k - 1].each_pass), first)
        laid: list[tuple[Step, Pass | None]] = [(step, None) for step in steps[:first]]
        turns: Sequence[Pass | None] = passes or (None,)
        laid += [(step, made) for made in turns for step in steps[first:last]] if first < last else []
        laid += [(step, None) for step in steps[last:]]
        for step, made in laid:
            number = None if not step.each_pass else 1 if made is None else made.number
            own = dict(figures) | (figures_of_pass(made) if made is not None else {})
            wants = _wanted(step)
            here = {name: own[name] for name in wants if name in own}
            if "pass" in wants and number is not None:
                here["pass"] = float(number)
            asks = tuple(name for name in wants if name not in here)
            placed.append(PlacedStep(step, part, len(placed) + 1, number, here, asks))
    return tuple(placed)


def _wanted(step: Step) -> tuple[str, ...]:
    """Name every figure of a step: of its sentence, its torque, the range its reading should fall into."""
    torque = (f"torque {step.torque}",) if step.torque else ()
    return (*step.figures, *torque, *((step.expects,) if step.expects else ()))


def figures_of_corner(
    spec: Spec,
    *,
    settings: Mapping[str, float],
    runout_after_mm: tuple[float, float, float] | None = None,
    lathe: Lathe | None = None,
    torques_nm: Mapping[str, float] | None = None,
) -> dict[str, Figure]:
    """Return what a corner's plan says: lengths in mm, torques in N·m, studs counted clockwise from outside.

    ``settings`` are the remedy's own (index_deg, plate_mm, plate_deg). What is not known is left out.
    """
    turned = settings.get("index_deg", 0.0) * spec.studs / 360
    figures: dict[str, Figure] = {
        "star": " · ".join(str(stud) for stud in star_order(spec.studs)),
        "studs_on": float(round(turned, 2)),
        "hub_runout": (0.0, spec.max_hub_runout_mm or spec.max_runout_mm),
    }
    if spec.max_bearing_play_mm is not None:
        figures["play"] = (0.0, spec.max_bearing_play_mm)
    if settings.get("plate_mm"):
        figures |= {"plate": settings["plate_mm"], "plate_place": settings.get("plate_deg", 0.0)}
    if runout_after_mm is not None:
        figures["runout_after"] = (runout_after_mm[0], runout_after_mm[2])
    if lathe is not None:
        figures["compensated"] = lathe.runout_left_mm
    return figures | {f"torque {name}": newton_metres for name, newton_metres in (torques_nm or {}).items()}


def figures_of_pass(made: Pass) -> dict[str, Figure]:
    """Return what one pass of a cut plan says: lines of the knob where it has them, feed, what to read, the stop."""
    figures: dict[str, Figure] = {
        "pass": float(made.number),
        "feed": "finish" if made.finish else "rough",
        "stop": made.stop_mm,
        "after_pass": (made.reading_mm[0], made.reading_mm[2]),
    }
    lines = {"out_lines": made.out_lines, "in_lines": made.in_lines}
    return figures | {name: float(count) for name, count in lines.items() if count is not None}
