"""A repeatability study: how much of the spread of readings is the person, the dial, the part measured.

Two-way analysis of variance with interaction, crossed and balanced (Montgomery, Design and Analysis of Experiments,
section 13.3): variance components from mean squares, an interaction that is not there is pooled with the error.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from compass.ground.arrays import FloatArray
from compass.ground.errors import EvidenceError

_POOL: Final = 0.25  # an interaction less surprising than this is pooled with the error (Montgomery, 13.3)
_FEWEST: Final = 2


@dataclass(frozen=True, slots=True)
class Study:
    """Standard deviations, mm: of the dial (repeatability), of the person (with the part they read), of the part.

    ``kinds`` is how many kinds of part the readings can tell apart (1.41 × part / gauge).
    """

    dial_mm: float
    person_mm: float
    part_mm: float
    persons: int
    parts: int
    turns: int

    @property
    def gauge_mm(self) -> float:
        """The spread of readings of one and the same part, one sd."""
        return float(np.hypot(self.dial_mm, self.person_mm))

    @property
    def shares(self) -> dict[str, float]:
        """The share of the whole variance that is the dial's, the person's, the part's."""
        parts = {"dial": self.dial_mm**2, "person": self.person_mm**2, "part": self.part_mm**2}
        whole = sum(parts.values()) or 1.0
        return {name: variance / whole for name, variance in parts.items()}

    @property
    def kinds(self) -> int:
        """How many kinds of part the readings tell apart."""
        return int(2**0.5 * self.part_mm / self.gauge_mm) if self.gauge_mm > 0 else 0

    def share_of_limit(self, limit_mm: float) -> float:
        """Return how much of a limit the spread of readings takes: 2 sd, as a U is, over the limit."""
        return 2 * self.gauge_mm / limit_mm


def study(readings_mm: FloatArray) -> Study:
    """Work out a study of readings (persons, parts, turns), each at least 2; raises ``EvidenceError`` otherwise."""
    from scipy import stats  # a second and a half to load: only who opens a study waits for it

    if readings_mm.ndim != 3 or min(readings_mm.shape) < _FEWEST or not np.isfinite(readings_mm).all():
        raise EvidenceError("readings_mm", "two persons, two parts, two turns or more, all read")
    p, k, n = readings_mm.shape
    grand = readings_mm.mean()
    cell, person, part = readings_mm.mean(axis=2), readings_mm.mean(axis=(1, 2)), readings_mm.mean(axis=(0, 2))
    ms_person = k * n * np.square(person - grand).sum() / (p - 1)
    ms_part = p * n * np.square(part - grand).sum() / (k - 1)
    ss_both = n * np.square(cell - person[:, None] - part[None, :] + grand).sum()
    ss_error = np.square(readings_mm - cell[:, :, None]).sum()
    dof_both, dof_error = (p - 1) * (k - 1), p * k * (n - 1)
    ms_both, ms_error = ss_both / dof_both, ss_error / dof_error
    surprising = ms_error == 0 or stats.f.sf(ms_both / ms_error, dof_both, dof_error) < _POOL
    if surprising:
        both = max(0.0, (ms_both - ms_error) / n)
    else:
        ms_both = ms_error = (ss_both + ss_error) / (dof_both + dof_error)
        both = 0.0
    by_person = max(0.0, (ms_person - ms_both) / (k * n)) + both
    by_part = max(0.0, (ms_part - ms_both) / (p * n))
    return Study(float(ms_error**0.5), float(by_person**0.5), float(by_part**0.5), p, k, n)


@dataclass(frozen=True, slots=True)
class Drift:
    """How an instrument's deviation from its standard moves: mm a year with its expanded U, and where it stands now.

    ``days_left`` is when it will have left its error limit if it goes on so; None where it does not.
    """

    per_year_mm: float
    expanded_per_year_mm: float
    now_mm: float
    days_left: int | None

    @property
    def drifts(self) -> bool:
        """Whether the drift is more than its uncertainty."""
        return abs(self.per_year_mm) > self.expanded_per_year_mm


def drift(days: FloatArray, deviation_mm: FloatArray, *, limit_mm: float) -> Drift | None:
    """Return the drift over checks at ``days`` (n,) with deviations (n,); None with fewer than three days."""
    from scipy import stats

    if np.unique(days).size < 3:
        return None
    line = stats.linregress(days, deviation_mm)
    wide = float(stats.t.ppf(0.975, len(days) - 2))
    now = float(line.intercept + line.slope * days.max())
    left = None
    if abs(line.slope) > wide * line.stderr and limit_mm > 0:
        ahead = (np.sign(line.slope) * limit_mm - now) / line.slope
        left = max(round(ahead), 0)
    return Drift(float(line.slope * 365), float(wide * line.stderr * 365), now, left)
