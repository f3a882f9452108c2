"""What is done at the bench: one row an act, what it changes and the minutes it would take at a vehicle."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Final

from compass.ground.units import Unit
from compass.measure.dial import read_dial
from compass.simulate.bench import micrometer_mm
from practice.corner.standing import DIAL, AtBench

MOST_NOTED: Final = 400  # readings of one attempt
_MOST_MM: Final = 10.0
_STEP_MM: Final = 2.0
_FURTHEST_IN, _FURTHEST_OUT = 0.5, 1.14  # of the measuring radius
_MOST_PRESSES: Final = 60
_TENTH: Final = 10  # stud, on the widest hubs


@dataclass(frozen=True)
class Touch:
    """Where the hand is: hub angle under the tip, the way it turned last and in which turn; what was typed or pressed.

    Nuts are typed as the digits of their studs, a tenth as 0.
    """

    angle_deg: float = 0.0
    way: int = 1
    turn: int = 0
    value: str = ""


def clean(bench: AtBench, touch: Touch) -> None:
    """Take the rotor off, clean hub face and hat, put it back on its mark: its nuts are off now."""
    bench.put(bench.stand.put_on(cleaned=True))


def nuts(bench: AtBench, touch: Touch) -> None:
    """Tighten nuts in the order in which they were pressed."""
    studs = [int(digit) or _TENTH for digit in touch.value if digit in "0123456789"][:_MOST_PRESSES]
    studs = [stud for stud in studs if stud <= bench.spec.studs]
    if studs and bench.stand.on == "hub" and len(bench.stand.nuts) < 4 * _MOST_PRESSES:
        bench.put(bench.stand.pressed(studs))


def turn_studs(bench: AtBench, touch: Touch) -> None:
    """Take the rotor off and put it back one stud on, clockwise."""
    bench.put(bench.stand.put_on(index=(bench.stand.index + 1) % bench.spec.studs))


def bare(bench: AtBench, touch: Touch) -> None:
    """Take the rotor off and set the tip on the hub's face, or put it back."""
    bench.put(bench.stand.put_on(on="hub" if bench.stand.on == "bare" else "bare"))


def arbor(bench: AtBench, touch: Touch) -> None:
    """Put the rotor on a true arbor, or back on its hub."""
    bench.put(bench.stand.put_on(on="hub" if bench.stand.on == "arbor" else "arbor"))


def tip(bench: AtBench, touch: Touch) -> None:
    """Move the tip in (value in) or out along the radius."""
    step = -_STEP_MM if touch.value == "in" else _STEP_MM
    usual = bench.spec.measuring_radius_mm
    radius = min(max(bench.stand.radius_mm + step, _FURTHEST_IN * usual), _FURTHEST_OUT * usual)
    bench.put(replace(bench.stand, radius_mm=radius))


def zero(bench: AtBench, touch: Touch) -> None:
    """Turn the bezel so that the needle stands at zero here."""
    shown = bench.turn(touch.turn).at(touch.angle_deg, touch.way)
    bench.put(replace(bench.stand, zero_mm=bench.stand.zero_mm + shown))


def clamp(bench: AtBench, touch: Touch) -> None:
    """Clamp the indicator again, with care; its zero is lost."""
    bench.put(bench.stand.clamped())


def chalk(bench: AtBench, touch: Touch) -> None:
    """Chalk the rotor under the tip; a mark turns with the rotor."""
    index_deg = 360.0 / bench.spec.studs * bench.stand.index
    bench.attempt.chalk = bench.attempt.chalk | {bench.here: round((touch.angle_deg - index_deg) % 360, 1)}


def next_turn(bench: AtBench, touch: Touch) -> None:
    """Go on into another turn, which the value counts."""
    if touch.value.isdecimal():
        turn = min(int(touch.value), bench.stand.turn + 1)
        bench.put(replace(bench.stand, turn=max(turn, bench.stand.turn)))


def note(bench: AtBench, touch: Touch) -> None:
    """Note what was read off the dial here. Raises ``UnreadableNumberError``."""
    typed, _certain = read_dial(touch.value, dial=DIAL, unit=Unit.DIVISION, most_mm=_MOST_MM)
    shown = bench.turn(touch.turn).at(touch.angle_deg, touch.way)
    row = {"kind": "dial", "typed": typed.text, "mm": typed.mm, "shown_mm": round(shown, 5)}
    _keep(bench, touch, row)


def mike(bench: AtBench, touch: Touch) -> None:
    """Set the micrometer on the disc here, at the radius of the tip, and note what it shows."""
    if bench.stand.on == "bare":
        return
    nth = len(bench.noted_here("mike"))
    mm = micrometer_mm(
        bench.corner,
        bench.spec,
        bench.stand,
        angle_deg=touch.angle_deg,
        radius_mm=bench.stand.radius_mm,
        seed=bench.seed,
        nth=nth,
    )
    _keep(bench, touch, {"kind": "mike", "typed": f"{mm:.3f}", "mm": mm, "shown_mm": mm})


def play(bench: AtBench, touch: Touch) -> None:
    """Rock the bearing under the dial and note its end play."""
    mm = round(bench.corner.play_mm * 1.1 + 0.004, 3)
    _keep(bench, touch, {"kind": "play", "typed": f"{mm:.3f}", "mm": mm, "shown_mm": mm})


def unnote(bench: AtBench, touch: Touch) -> None:
    """Strike the last thing noted at this corner."""
    rows = bench.attempt.noted
    last = next((k for k in range(len(rows) - 1, -1, -1) if rows[k]["at"] == bench.here), None)
    if last is not None:
        bench.attempt.noted = rows[:last] + rows[last + 1 :]


def corner(bench: AtBench, touch: Touch) -> None:
    """Go to another corner of the vehicle."""
    if touch.value in bench.corners:
        bench.attempt.here = touch.value


def _keep(bench: AtBench, touch: Touch, row: dict[str, object]) -> None:
    if len(bench.attempt.noted) >= MOST_NOTED:
        return
    stand = bench.stand
    where = {"at": bench.here, "deg": round(touch.angle_deg % 360, 1), "way": touch.way, "on": stand.on}
    held = {"index": stand.index, "radius_mm": stand.radius_mm, "set": bench.set_up(), "as_found": stand.as_found}
    bench.attempt.noted = [*bench.attempt.noted, where | held | bench.conditions() | row]


@dataclass(frozen=True)
class Act:
    """An act with the minutes it is charged."""

    do: Callable[[AtBench, Touch], None]
    minutes: float = 0.0


ACTS: Final[Mapping[str, Act]] = {
    "clean": Act(clean, 8),
    "nuts": Act(nuts, 2),
    "turn_studs": Act(turn_studs, 4),
    "bare": Act(bare, 5),
    "arbor": Act(arbor, 8),
    "tip": Act(tip, 0.2),
    "zero": Act(zero, 0.1),
    "clamp": Act(clamp, 1),
    "chalk": Act(chalk, 0.1),
    "next_turn": Act(next_turn, 0.3),
    "note": Act(note, 0.2),
    "mike": Act(mike, 0.4),
    "play": Act(play, 2),
    "unnote": Act(unnote),
    "corner": Act(corner),
}
OPENING_MINUTES: Final = 13.0  # another wheel off
