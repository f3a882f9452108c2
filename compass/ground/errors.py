"""Everything the core refuses, as named errors. They carry facts; whoever shows them makes the words."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from compass.ground.translation import tongue


class CompassError(ValueError):
    """Base of all refusals of the core."""


class UnreadableNumberError(CompassError):
    """Say that a typed text is no reading.

    ``code`` is one of ``empty``, ``letters``, ``two_points``, ``mixed_points``, ``no_digits``,
    ``unknown_unit``, ``unknown_rest``, ``no_divisions``, ``too_large``, ``negative``, ``thousands``.
    """

    def __init__(self, code: str, text: str, **details: object) -> None:
        super().__init__(f"{code}: {text!r}")
        self.code = code
        self.text = text
        self.details = details


class Words(str):
    """Words of ours among the values of a fault: told in the reader's language, where other texts stay as given."""

    __slots__ = ()


@dataclass(frozen=True, slots=True)
class Fault:
    """One fault of a file or record: where (a JSON path, or nothing), and what was expected there.

    ``expected`` is marked for translation and names its ``values`` in braces; it is told in the reader's language.
    """

    path: str
    expected: str
    values: Mapping[str, object] = field(default_factory=dict, hash=False)

    def __str__(self) -> str:
        translate = tongue().translate
        values = {n: translate(v) if isinstance(v, Words) else v for n, v in self.values.items()}
        expected = translate(self.expected).format(**values)
        return f"{self.path}: {expected}" if self.path else expected


class EvidenceError(CompassError):
    """Say that a record of evidence contradicts itself; ``field`` names the culprit."""

    def __init__(self, field: str, expected: str, **values: object) -> None:
        self.fault = Fault(field, expected, values)
        super().__init__(str(self.fault))
        self.field = field


class FaultyFileError(CompassError):
    """Refuse a file (a case, limits, readings of a device), with every fault found."""

    def __init__(self, faults: tuple[Fault, ...]) -> None:
        super().__init__("; ".join(str(fault) for fault in faults))
        self.faults = faults

    @classmethod
    def of(cls, path: str, expected: str, **values: object) -> "FaultyFileError":
        """Refuse for one fault."""
        return cls((Fault(path, expected, values),))
