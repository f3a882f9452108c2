"""Leaving the disc as it is, or cleaning the joint and torquing the nuts."""

from compass.choose.remedies.corner_draws import CornerDraws, faces_mm, mean_draw, ranges, trace_mm
from compass.choose.remedies.outcome import Outcome


def nothing(draws: CornerDraws) -> Outcome:
    """Return the corner as it stands."""
    faces = faces_mm(draws.mounted_mm)
    return Outcome(
        runout_mm=faces.max(axis=0) - faces.min(axis=0),
        variation_mm=draws.variation_mm,
        least_mm=draws.metal.least_mm if draws.metal is not None else None,
        trace_mm=mean_draw(faces),
    )


def clean_and_torque(draws: CornerDraws) -> Outcome:
    """Return what hub and rotor leave once the joint is clean and the nuts are torqued."""
    parts = draws.parts
    return Outcome(
        runout_mm=ranges(parts.hub + parts.rotor + parts.seating, draws.higher_mm),
        variation_mm=draws.variation_mm,
        least_mm=draws.metal.least_mm if draws.metal is not None else None,
        trace_mm=trace_mm(parts.hub + parts.rotor, draws.higher_mm),
    )
