"""Where limits come from outside: one interface, and the simulated service that ships with the product.

A real service would be another class with ``find`` and its name in the setting ``IC_LIMITS_SOURCE``.
"""

import json
from functools import cache
from pathlib import Path
from typing import Any, Final, Protocol

from django.conf import settings
from django.utils.module_loading import import_string

from workshop.store.limits_files import FORMAT, Read, read_file

_FILE: Final = Path(__file__).with_name("simulated_limits.json")


class LimitsUnreachableError(Exception):
    """The service does not answer; nothing was changed."""


class LimitsSource(Protocol):
    """Anything that knows limits of vehicle models."""

    name: str

    def find(self, model: str) -> Read:
        """Return the axles of models that hold every word; raises ``LimitsUnreachableError``."""


class SimulatedLimits:
    """A stand-in that knows the demo's made-up makes. ``down`` answers as a broken line would."""

    name = "Island parts register (simulated)"

    def find(self, model: str) -> Read:
        """Look into the file that ships with the product."""
        words = model.casefold().split()
        if "down" in words:
            raise LimitsUnreachableError
        rows = [r for r in _known() if words and all(word in r["model"].casefold() for word in words)]
        return read_file(json.dumps({"format": FORMAT, "limits": rows}).encode())


@cache
def _known() -> list[dict[str, Any]]:
    return list(json.loads(_FILE.read_text(encoding="utf-8"))["limits"])


def limits_source() -> LimitsSource:
    """Return the source the settings name."""
    source: LimitsSource = import_string(settings.IC_LIMITS_SOURCE)()
    return source
