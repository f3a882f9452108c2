"""Everything the core refuses, as named errors. They carry facts; whoever shows them makes the words."""

from dataclasses import dataclass


class CompassError(ValueError):
    """Base of all refusals of the core."""


class UnreadableNumberError(CompassError):
    """Say that a typed text is no reading.

    ``code`` is one of ``empty``, ``letters``, ``two_points``, ``mixed_points``, ``no_digits``,
    ``unknown_unit``, ``unknown_rest``, ``no_divisions``, ``too_large``, ``negative``.
    """

    def __init__(self, code: str, text: str, **details: object) -> None:
        super().__init__(f"{code}: {text!r}")
        self.code = code
        self.text = text
        self.details = details


class EvidenceError(CompassError):
    """Say that a record of evidence contradicts itself; ``field`` names the culprit."""

    def __init__(self, field: str, expected: str) -> None:
        super().__init__(f"{field}: {expected}")
        self.field = field
        self.expected = expected


@dataclass(frozen=True, slots=True)
class Fault:
    """One fault of a file: JSON path and what was expected there."""

    path: str
    expected: str

    def __str__(self) -> str:
        return f"{self.path}: {self.expected}" if self.path else self.expected


class FaultyFileError(CompassError):
    """Refuse a file (a case, limits, readings of a device), with every fault found."""

    def __init__(self, faults: tuple[Fault, ...]) -> None:
        super().__init__("; ".join(str(fault) for fault in faults))
        self.faults = faults

    @classmethod
    def of(cls, path: str, expected: str) -> "FaultyFileError":
        """Refuse for one fault."""
        return cls((Fault(path, expected),))
