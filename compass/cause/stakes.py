"""What is at stake at one wheel: what each kind of work mends, what it costs, what a fault that is left costs.

With it the odds of causes become money: what acting on what is known now would cost on average, and so what a check
saves that could change it (value of sample information: Raiffa & Schlaifer 1961).
"""

from collections.abc import Sequence
from functools import lru_cache
from typing import Final, NamedTuple

import numpy as np

from compass.cause.causes import Cause
from compass.evidence.shop import Shop
from compass.ground.arrays import FloatArray

ELSEWHERE_MINUTES: Final = 60  # work beside the disc: a caliper, a tyre, a joint, the anti-lock; our estimate
UNSAFE: Final = 3.0  # comebacks that a fault is worth that is not to be driven; our estimate
_MATCHED: Final = 0.6  # odds that work on an uneven disc mends a runout with it: a matched cut does, new rotors may

# Kinds of work, each with the causes it mends. Work on the runout cleans the joint, work on the metal does too.
_MENDS: Final[dict[str, frozenset[Cause]]] = {
    "leave": frozenset(),
    "joint": frozenset({Cause.JOINT, Cause.NUTS}),
    "runout": frozenset({Cause.JOINT, Cause.NUTS, Cause.ROTOR, Cause.HUB, Cause.STACK, Cause.BENT}),
    "metal": frozenset({Cause.JOINT, Cause.NUTS, Cause.RUNOUT_MADE_VARIATION, Cause.CORROSION, Cause.DEPOSIT}),
    "renewal": frozenset(
        {Cause.WORN, Cause.BROKEN, Cause.RUNOUT_MADE_VARIATION, Cause.CORROSION, Cause.DEPOSIT, Cause.ROTOR}
    ),
    "bearing": frozenset({Cause.BEARING}),
    "caliper": frozenset({Cause.CALIPER}),
    "drum": frozenset({Cause.DRUM}),
    "suspension": frozenset({Cause.SUSPENSION}),
    "tyre": frozenset({Cause.TYRE}),
    "anti_lock": frozenset({Cause.ABS}),  # its own fault mended, or its kick shown to who felt it
}
RUNS_OUT: Final = frozenset({Cause.JOINT, Cause.NUTS, Cause.ROTOR, Cause.HUB, Cause.STACK, Cause.BENT})
_UNSAFE: Final = frozenset({Cause.WORN, Cause.BROKEN, Cause.BEARING})


class Stakes(NamedTuple):
    """Money: ``bills`` (works,), ``losses`` (works, hypotheses) beside them, ``stays`` where the disc is uneven too.

    A fault that is not mended comes back. ``stays`` (works, hypotheses) is lost where a runout is mended and an uneven
    disc is left as it is: it is still felt.
    """

    bills: FloatArray
    losses: FloatArray
    stays: FloatArray


@lru_cache(maxsize=64)
def _stakes(hypotheses: tuple[tuple[Cause, ...], ...], bills: tuple[float, ...], comeback: float) -> Stakes:
    works = list(_MENDS)
    losses = np.zeros((len(works), len(hypotheses)))
    stays = np.zeros_like(losses)
    for t, work in enumerate(works):
        for h, causes in enumerate(hypotheses):
            odds = 1.0
            for cause in causes:
                mends = float(cause in _MENDS[work])
                odds *= _MATCHED if work == "metal" and cause in RUNS_OUT and not mends else mends
            weight = UNSAFE if set(causes) & _UNSAFE else 1.0
            losses[t, h] = (1 - odds) * comeback * weight
            if work in ("joint", "runout") and set(causes) <= RUNS_OUT:
                stays[t, h] = odds * comeback
    return Stakes(np.array(bills), losses, stays)


def stakes(hypotheses: Sequence[tuple[Cause, ...]], shop: Shop) -> Stakes:
    """Return what is at stake under hypotheses (the causes each holds) in this workshop's money."""
    labour = shop.minute_of_checking
    bills = {
        "joint": shop.bill("clean_and_torque"),
        "runout": min(shop.bill("index"), shop.bill("plate")),
        "metal": 2 * min(shop.bill("on_vehicle_cut"), shop.bill("new_rotors")),  # both sides alike
        "renewal": 2 * shop.bill("new_rotors"),
        "bearing": shop.bill("hub_unit"),
    } | dict.fromkeys(("caliper", "drum", "suspension", "tyre", "anti_lock"), ELSEWHERE_MINUTES * labour)
    return _stakes(tuple(hypotheses), tuple(bills.get(work, 0.0) for work in _MENDS), shop.comeback_at_stake)
