"""What the driver tells and what the vehicle is: records beside the measured corners."""

from dataclasses import dataclass
from typing import Final

STILL_FELT: Final = ("less", "same")  # words of ``after_work``: another fault is left, or the work did not hold


@dataclass(frozen=True, slots=True)
class MendedBeside:
    """What sat beside the discs and was put right: a cause of ``BESIDE``, where (None: the vehicle's), driven since."""

    cause: str
    position: str | None = None
    driven: bool = False


@dataclass(frozen=True, slots=True)
class Complaint:
    """The interview, in the words of the case file's ``complaint``; nothing told is empty or None.

    ``speed_kmh`` is (from, to); ``road_test`` is what a recording showed; ``after_work`` what was felt on the road once
    the decided work was done: gone, less or same; ``mended_beside`` what was put right beside the discs.
    """

    felt_in: tuple[str, ...] = ()
    when: tuple[str, ...] = ()
    braking: tuple[str, ...] = ()
    speed_kmh: tuple[float, float] | None = None
    frequency_hz: float | None = None
    heat: str | None = None
    history: tuple[str, ...] = ()
    km_since_work: float | None = None
    road_test: str | None = None
    after_work: str | None = None
    mended_beside: tuple[MendedBeside, ...] = ()

    @property
    def still_felt(self) -> bool:
        """Whether it was felt on the road after the work, as before or less."""
        return self.after_work in STILL_FELT


@dataclass(frozen=True, slots=True)
class VehicleFacts:
    """What is known of the vehicle itself, in the words of the case file's ``vehicle``.

    ``positions`` are its wheels or discs where they are not those of its kind; empty otherwise.
    """

    label: str | None = None
    kind: str | None = None
    odometer_km: float | None = None
    rolling_circumference_mm: float | None = None
    positions: tuple[str, ...] = ()
