"""A hand at a step that finds everything as expected."""

from typing import Any

from compass.do.steps import RENEWED
from compass.do.work import PlacedStep
from jobs.do.running import Sent

ALONE = "alone, seen by myself"


def as_expected(placed: PlacedStep) -> str:
    """Return the middle of what a step expects to be read, in mm."""
    expected = placed.figures.get(placed.step.expects, 0.02)
    if placed.step.expects in RENEWED:
        return "9.5"
    low, high = expected if isinstance(expected, tuple) else (0.0, expected)
    return f"{(low + high) / 2:.3f}"


def answer(placed: PlacedStep, **also: Any) -> Sent:
    """Return what it would send."""
    sent: dict[str, Any] = {}
    if placed.step.findings:
        sent["finding"] = placed.step.findings[0].code
    if placed.step.expects:
        sent |= {"typed": as_expected(placed), "arm": "276"}
    elif placed.step.kind == "hold" and not placed.step.findings:
        sent["reason"] = ALONE
    if any(name.startswith("torque ") for name in placed.asks):
        sent |= {"torque_nm": 41.0, "source": "maker's book, page 12"}
    return Sent(placed.position, placed.key, **sent | also)
