"""The work on a vehicle: each corner's procedure with its figures filled in or asked for, part by part."""

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from compass.do.cut_plan import Pass
from compass.do.procedures import CLOSING_ONE_WHEEL, ONCE, OPENING_ONE_WHEEL, PARTS, PROCEDURES
from compass.do.star_order import star_order
from compass.do.steps import Step, Work
from compass.evidence.records import Spec
from compass.evidence.shop import Lathe
from compass.ground.positions import axle_of

Figure = float | str | tuple[float, ...]
_NO_PASS: Final[Mapping[str, Figure]] = {}


@dataclass(frozen=True, slots=True)
class PlacedStep:
    """A step at its place in the work; ``position`` is empty where it is done once for the vehicle.

    ``key`` names it among the steps of its position, whatever else is planned anew. ``figures`` hold what its sentence
    names, and its torque and expected range by their names; ``asks`` are those that nobody has said yet: they are asked
    for at the step. ``pass_number`` counts the passes of a cut, None elsewhere.
    """

    step: Step
    position: str
    part: str
    key: str
    number: int
    pass_number: int | None
    figures: Mapping[str, Figure]
    asks: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class CornerWork:
    """What is done at one corner: the conditions, the plan's figures, the passes of its cut, minutes if known.

    ``passes`` are made ones (a number alone) and those ahead, in their order.
    """

    position: str
    work: Work
    figures: Mapping[str, Figure]
    passes: Sequence[Pass | int] = ()
    minutes: float | None = None


@dataclass(frozen=True, slots=True)
class Part:
    """A part of the work at one place: what is planned and drawn as one block. ``turn`` counts its returns there."""

    position: str
    name: str
    turn: int
    steps: tuple[PlacedStep, ...]

    @property
    def key(self) -> str:
        """Name it among the parts of the vehicle."""
        return f"{self.position}:{self.name}:{self.turn}"


def procedure(corner: CornerWork) -> tuple[PlacedStep, ...]:
    """Return the steps at one corner in order, those done once for the vehicle among them; nothing for ``none``."""
    return tuple(step for part in vehicle_work([corner]) for step in part.steps)


def changes_corner(remedy: str | None) -> bool:
    """Whether a remedy changes what is read at its corner; where it is only cleaned and torqued, the disc stays."""
    return any(step.changes for name in PROCEDURES.get(remedy or "", ()) for step in PARTS[name])


def vehicle_work(corners: Sequence[CornerWork]) -> tuple[Part, ...]:
    """Return the work on a vehicle in plain order: opened once, corner after corner, left once.

    Steps of a pass are repeated for each, rough before finish. A cut without a plan has one pass whose figures are all
    asked for.
    """
    corners = [corner for corner in corners if corner.work.remedy in PROCEDURES]
    parts = [_once(name, corners) for name in ONCE[:1]]
    turns: Counter[tuple[str, str]] = Counter()
    for corner, name in _laid_out(corners):
        turns[corner.position, name] += 1
        turn = turns[corner.position, name]
        parts.append(Part(corner.position, name, turn, _placed(corner, name, turn)))
    parts += [_once(name, corners) for name in ONCE[1:]]
    number, counted = 0, []
    for part in parts:
        steps = []
        for placed in part.steps:
            number += 1
            steps.append(_numbered(placed, number))
        if steps:
            counted.append(Part(part.position, part.name, part.turn, tuple(steps)))
    return tuple(counted)


def _laid_out(corners: Sequence[CornerWork]) -> Iterator[tuple[CornerWork, str]]:
    """Yield every corner's parts in plain order, those of two discs on one wheel together."""
    for corner in corners:
        if not corner.work.shares_wheel:
            yield from ((corner, name) for name in PROCEDURES[corner.work.remedy] if name not in ONCE)
        elif corner.work.first:
            mates = (c for c in corners if c is not corner and axle_of(c.position) == axle_of(corner.position))
            yield from _on_one_wheel([corner, *mates])


def _on_one_wheel(discs: Sequence[CornerWork]) -> Iterator[tuple[CornerWork, str]]:
    calipers_off, wheel_out, disc_off = OPENING_ONE_WHEEL
    washed, wheel_in, calipers_on = CLOSING_ONE_WHEEL
    yield from ((disc, calipers_off) for disc in discs)
    yield discs[0], wheel_out
    for disc in discs:
        yield disc, disc_off
        between = (name for name in PROCEDURES[disc.work.remedy] if name not in (*ONCE, "opening", "closing"))
        yield from ((disc, name) for name in between)
    yield from ((disc, washed) for disc in discs)
    yield discs[0], wheel_in
    yield from ((disc, calipers_on) for disc in discs)


def _once(name: str, corners: Sequence[CornerWork]) -> Part:
    """Place what is done once: a step belongs where it belongs for any of the corners."""
    steps = []
    for step in PARTS[name]:
        corner = next((corner for corner in corners if step.belongs(corner.work)), None)
        if corner is not None:
            steps.append(_place(step, "", name, 1, None, corner.figures))
    return Part("", name, 1, tuple(steps))


def _placed(corner: CornerWork, name: str, turn: int) -> tuple[PlacedStep, ...]:
    steps = [step for step in PARTS[name] if step.belongs(corner.work)]
    first = next((k for k, step in enumerate(steps) if step.each_pass), len(steps))
    last = next((k for k in range(len(steps), 0, -1) if steps[k - 1].each_pass), first)
    laid: list[tuple[Step, Pass | int | None]] = [(step, None) for step in steps[:first]]
    laid += [(step, made) for made in corner.passes or (1,) for step in steps[first:last]] if first < last else []
    laid += [(step, None) for step in steps[last:]]
    return tuple(_place(step, corner.position, name, turn, made, corner.figures) for step, made in laid)


def _place(
    step: Step, position: str, part: str, turn: int, made: Pass | int | None, figures: Mapping[str, Figure]
) -> PlacedStep:
    number = made.number if isinstance(made, Pass) else made
    own = {**figures, **(figures_of_pass(made) if isinstance(made, Pass) else _NO_PASS)}
    if number is not None:
        own["pass"] = float(number)
    wants = _wanted(step)
    here = {name: own[name] for name in wants if name in own}
    key = f"{part}:{turn}:{step.code}" + ("" if number is None else f":{number}")
    asks = tuple(name for name in wants if name not in here)
    return PlacedStep(step, position, part, key, 0, number, here, asks)


def _numbered(placed: PlacedStep, number: int) -> PlacedStep:
    return PlacedStep(
        placed.step,
        placed.position,
        placed.part,
        placed.key,
        number,
        placed.pass_number,
        placed.figures,
        placed.asks,
    )


def _wanted(step: Step) -> tuple[str, ...]:
    """Name every figure of a step: of its sentence, its torque, the range its reading should fall into."""
    torque = (f"torque {step.torque}",) if step.torque else ()
    return (*step.figures, *torque, *((step.expects,) if step.expects else ()))


def figures_of_corner(
    spec: Spec,
    *,
    settings: Mapping[str, float],
    runout_before_mm: tuple[float, float] | None = None,
    runout_after_mm: tuple[float, float, float] | None = None,
    lathe: Lathe | None = None,
    torques_nm: Mapping[str, float] | None = None,
) -> dict[str, Figure]:
    """Return what a corner's plan says: lengths in mm, torques in N·m, studs counted clockwise from outside.

    ``settings`` are the remedy's own (index_deg, plate_mm, plate_deg); ``runout_before_mm`` is the runout measured and
    its expanded uncertainty. What is not known is left out.
    """
    turned = settings.get("index_deg", 0.0) * spec.studs / 360
    figures: dict[str, Figure] = {
        "star": " · ".join(str(stud) for stud in star_order(spec.studs)),
        "studs_on": float(round(turned, 2)),
        "hub_runout": (0.0, spec.max_hub_runout_mm or spec.max_runout_mm),
    }
    least = {"pad_new": spec.min_pad_mm, "lining_new": spec.min_lining_mm}
    figures |= {name: mm for name, mm in least.items() if mm is not None}
    if spec.max_bearing_play_mm is not None:
        figures["play"] = (0.0, spec.max_bearing_play_mm)
    if settings.get("plate_mm"):
        figures |= {"plate": settings["plate_mm"], "plate_place": settings.get("plate_deg", 0.0)}
    if runout_before_mm is not None:
        runout, expanded = runout_before_mm
        figures["runout_before"] = (max(runout - expanded, 0.0), runout + expanded)
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
    # (mm, lines of the knob), or the millimetres alone where it has no lines.
    feeds = {"outboard": (made.out_mm, made.out_lines), "inboard": (made.in_mm, made.in_lines)}
    return figures | {face: (mm,) if lines is None else (mm, float(lines)) for face, (mm, lines) in feeds.items()}
