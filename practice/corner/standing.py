"""An attempt as the core needs it: its hidden corners from exercise and seed, how each stands, what was noted."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from functools import lru_cache
from typing import Any, Final

import numpy as np

from compass.do.star_order import star_order
from compass.evidence.records import Spec
from compass.measure.dial import Dial
from compass.simulate.bench import Stand, Turn, is_bright, is_clamped, turn_of
from compass.simulate.corner import SimulatedCorner
from compass.simulate.corner_data import corner_from_data
from compass.simulate.hidden import hide
from compass.simulate.marking import Noted
from practice.exercises import BY_CODE, WHOLE, Exercise
from practice.models import Attempt, MadeExercise

DIAL: Final = Dial(graduation_mm=0.01)
STATIONS: Final = 2  # a stud
FEWEST: Final = 4  # readings of a sweep that can be drawn
_ROUNDS: Final = 3


@dataclass
class AtBench:
    """Somebody at a corner. ``stands`` change with every act; what is hidden does not."""

    attempt: Attempt
    exercise: Exercise
    corners: dict[str, SimulatedCorner]
    specs: dict[str, Spec]
    stands: dict[str, Stand]

    @property
    def here(self) -> str:
        """The corner somebody stands at."""
        return self.attempt.here

    @property
    def spec(self) -> Spec:
        """Its limits."""
        return self.specs[self.here]

    @property
    def stand(self) -> Stand:
        """How it stands."""
        return self.stands[self.here]

    @property
    def corner(self) -> SimulatedCorner:
        """What it hides."""
        return self.corners[self.here]

    @property
    def stations(self) -> int:
        """How many places a turn is read at."""
        return self.spec.studs * STATIONS

    def turn(self, number: int | None = None) -> Turn:
        """Return what the needle shows over the turn that is on, or over one before it."""
        stand = self.stand if number is None else replace(self.stand, turn=min(max(number, 0), self.stand.turn))
        return turn_of(self.corner, self.spec, stand, seed=self.seed)

    @property
    def seed(self) -> int:
        """The seed of this corner's instruments."""
        return int(self.attempt.seed) * 16 + list(self.corners).index(self.here)

    def put(self, stand: Stand) -> None:
        """Let the corner stand otherwise."""
        self.stands[self.here] = stand
        self.attempt.stands = {position: asdict(one) for position, one in self.stands.items()}

    def conditions(self) -> dict[str, bool]:
        """Return what holds of the corner now, as a reading noted now would carry it."""
        spec, stand = self.spec, self.stand
        return {
            "clean": stand.cleaned or stand.on == "bare",
            "clamped": is_clamped(spec, stand),
            "bright": stand.on == "bare" or is_bright(spec, stand.radius_mm),
        }

    def noted_here(self, kind: str = "") -> list[dict[str, Any]]:
        """Return what was noted at this corner, in order."""
        return [row for row in self.attempt.noted if row["at"] == self.here and kind in ("", row["kind"])]

    def set_up(self) -> list[int]:
        """Name how the corner stands: readings with the same name belong together."""
        stand = self.stand
        return [stand.mounting, stand.clamp, round(stand.radius_mm)]

    def newest_sweep(self) -> list[dict[str, Any]]:
        """Return the readings of the newest set-up of the rotor on its hub that has enough of them to be drawn."""
        rows = [row for row in self.noted_here("dial") if row["on"] == "hub"]
        for row in reversed(rows):
            turn = [other for other in rows if other["set"] == row["set"]]
            if len({other["deg"] for other in turn}) >= FEWEST:
                return turn
        return []


def records(rows: Sequence[dict[str, Any]]) -> list[Noted]:
    """Return noted rows as the core marks them; turns are told apart by how the corner stood."""
    sets: list[Any] = []
    noted = []
    for row in rows:
        name = [row["at"], *row["set"]]
        if name not in sets:
            sets.append(name)
        holds = {key: row[key] for key in ("clean", "clamped", "bright")}
        noted.append(Noted(row["kind"], row["deg"], row["way"], sets.index(name), **holds))
    return noted


def exercise_of(code: str, made: MadeExercise | None) -> Exercise:
    """Return an exercise, one of ours or one that was made here; raises KeyError where it is neither."""
    if made is None:
        return BY_CODE[code]
    return Exercise(
        code=code,
        level=WHOLE,
        title=made.title,  # type: ignore[arg-type]  # a lead's words, in the lead's language
        tale=made.tale,  # type: ignore[arg-type]
        hint="",  # type: ignore[arg-type]
        asks=tuple(made.asks),
        right=tuple(made.right),
        at=made.at,
    )


@lru_cache(maxsize=256)
def _hidden(code: str, seed: int) -> dict[str, SimulatedCorner]:
    exercise = BY_CODE[code]
    g = np.random.default_rng((seed, 0))
    return {position: hide(hidden, exercise.spec, g) for position, hidden in exercise.corners.items()}


def at_bench(attempt: Attempt) -> AtBench:
    """Return an attempt with what it hides."""
    exercise = exercise_of(attempt.exercise, attempt.made)
    if attempt.made is not None:
        corners = {position: corner_from_data(data) for position, data in attempt.made.corners.items()}
        specs = {position: spec_from_data(attempt.made.specs[position]) for position in corners}
    else:
        corners = _hidden(attempt.exercise, attempt.seed)
        specs = dict.fromkeys(corners, exercise.spec)
    stands = {
        position: _stand(attempt.stands[position])
        if position in attempt.stands
        else first_stand(exercise, specs[position])
        for position in corners
    }
    return AtBench(attempt, exercise, corners, specs, stands)


def first_stand(exercise: Exercise, spec: Spec) -> Stand:
    """Return how a corner stands when one comes to it."""
    stand = Stand(radius_mm=spec.measuring_radius_mm + exercise.tip_mm, cleaned="clean" in exercise.given)
    if "clamped" in exercise.given:
        stand = stand.pressed([*star_order(spec.studs)] * _ROUNDS)
    elif "nuts off" in exercise.given:
        stand = replace(stand.put_on(), mounting=0)
    return stand


def _stand(data: dict[str, Any]) -> Stand:
    return Stand(**data | {"nuts": tuple((int(stud), float(share)) for stud, share in data["nuts"])})


def spec_to_data(spec: Spec) -> dict[str, Any]:
    """Return limits as JSON can hold them."""
    return asdict(spec) | {"features": sorted(spec.features)}


def spec_from_data(data: dict[str, Any]) -> Spec:
    """Return limits that were kept."""
    places = data.get("index_positions")
    listed = {"features": frozenset(data["features"]), "index_positions": tuple(places) if places else None}
    return Spec(**data | listed)
