"""Every sweep and quick reading of a corner, analysed, and the first-order vectors that tell hub from rotor."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from compass.evidence.records import ROTOR_SURFACES, Corner, HighSpot, Spec, Surface, Sweep
from compass.evidence.shop import SEATING_TIR_MM
from compass.ground.angles import wrap_deg
from compass.ground.uncertainty import Estimate
from compass.measure.profile import Profile
from compass.measure.quick import quick_tir, quick_vector
from compass.measure.separation import VectorEvidence
from compass.measure.sweep import SweepResult, analyse_sweep, set_up_flags, unit_slip
from compass.measure.thickness import ThicknessResult


@dataclass(frozen=True, slots=True, eq=False)
class Analysed:
    """The turns of one set-up, told by their first, or one quick reading (``result`` None), and what it says."""

    evidence: Sweep | HighSpot
    tir: Estimate | None
    high_deg: float | None
    result: SweepResult | None
    flags: tuple[str, ...]

    @property
    def installed(self) -> bool:
        """Whether the rotor stood on its hub."""
        return self.evidence.surface in ROTOR_SURFACES

    @property
    def before(self) -> str:
        """What had not been put right yet: dirt, nuts, both, or nothing (a bare face has no nuts)."""
        cleaned, torqued = self.evidence.cleaned, self.evidence.nuts_torqued or not self.installed
        if cleaned:
            return "" if torqued else "nuts"
        return "dirt" if torqued else "both"


def analyse_all(corner: Corner, thickness: ThicknessResult | None) -> list[Analysed]:
    """Analyse the repeat turns of every set-up, then the quick readings."""
    analysed = [_analysed_sweep(turns, corner, thickness) for turns in _repeat_turns(corner.sweeps)]
    analysed += [
        Analysed(
            evidence=spot,
            tir=quick_tir(spot, spec=corner.spec),
            high_deg=wrap_deg(spot.high_deg),
            result=None,
            flags=tuple(set_up_flags(spot, spec=corner.spec)),
        )
        for spot in corner.high_spots
    ]
    return analysed


def preferred(analysed: Sequence[Analysed]) -> Analysed | None:
    """Return what tells the installed runout best: cleaned and torqued, at index 0, a whole sweep, outboard."""
    installed = [a for a in analysed if a.installed]
    return min(installed, key=_preference) if installed else None


def from_before(analysed: Sequence[Analysed]) -> Analysed | None:
    """Return what tells the runout as the vehicle came in: index 0, the least put right; None where all was clean."""
    came_in = [a for a in analysed if a.installed and a.before and a.tir is not None]
    order = ("both", "dirt", "nuts")
    return min(came_in, key=lambda a: (_index(a) != 0, order.index(a.before), a.result is None), default=None)


def turned_unprepared(swept: Analysed) -> bool:
    """Whether a rotor was swept turned on, the joint not cleaned or the nuts not torqued since it was off for that."""
    return swept.installed and bool(swept.before) and _index(swept) != 0 and swept.tir is not None


def vectors(analysed: Sequence[Analysed], *, spec: Spec) -> list[VectorEvidence]:
    """Return the first-order vectors of steady evidence, each with its covariance (measurement.md#whose-runout)."""
    evidence = []
    for a in analysed:
        if "turns_disagree" in a.flags or (a.before and not a.installed):
            continue  # a dirty hub face says nothing of the hub
        if isinstance(a.evidence, HighSpot):
            vector, covariance = quick_vector(a.evidence, spec=spec)
        elif a.result is None or a.result.vector is None or a.result.vector_covariance is None:
            continue
        else:
            vector, covariance = a.result.vector, a.result.vector_covariance
        surface = a.evidence.surface
        index_deg = wrap_deg(a.evidence.index_deg) if a.installed else 0.0
        evidence.append(
            VectorEvidence(
                hub=a.installed or surface is Surface.HUB_FACE,
                rotor=a.installed or surface is Surface.ARBOR,
                index_deg=index_deg,
                vector=vector,
                covariance=covariance,
                before=a.before,
                mounting=f"{surface.value if not a.installed else 'hub'}@{index_deg:.3f}{a.before}",
                source=surface.value,
            )
        )
    return evidence


def flags_between(analysed: Sequence[Analysed], chosen: Analysed) -> list[str]:
    """Return flags that only show beside other sweeps of this corner: the slip of a unit."""
    if chosen.result is None:
        return []
    others = (a.result for a in analysed if a is not chosen and a.installed and a.result is not None)
    return ["unit_slip"] if any(unit_slip(chosen.result, other) for other in others) else []


def further_sweep(spec: Spec, analysed: Sequence[Analysed], surface: Surface, index_deg: float) -> VectorEvidence:
    """Return what one further sweep with the same dial would be worth: a covariance beside no value."""
    covariances = [a.result.vector_covariance for a in analysed if a.result is not None and a.installed]
    traces = [float(np.trace(c)) / 2 for c in covariances if c is not None]
    variance = min(traces) if traces else (SEATING_TIR_MM / 2) ** 2
    if surface is Surface.HUB_FACE:
        # A tilt read at a small radius is scaled up, and its error with it; 0.47 is an ordinary flange.
        radius_mm = spec.hub_runout_radius_mm or 0.47 * spec.measuring_radius_mm
        variance *= (spec.measuring_radius_mm / radius_mm) ** 2
    return VectorEvidence(
        hub=surface is not Surface.ARBOR,
        rotor=surface is not Surface.HUB_FACE,
        index_deg=index_deg,
        vector=0j,
        covariance=np.eye(2) * variance,
        mounting=f"further {surface.value}",
    )


def _analysed_sweep(turns: list[Sweep], corner: Corner, thickness: ThicknessResult | None) -> Analysed:
    first = turns[0]
    result = analyse_sweep(turns, spec=corner.spec, thickness=_thickness_at(corner, thickness, first))
    return Analysed(evidence=first, tir=result.tir, high_deg=result.high_deg, result=result, flags=result.flags)


def _thickness_at(corner: Corner, thickness: ThicknessResult | None, sweep: Sweep) -> Profile | None:
    """Return the measured thickness as it stood under an inboard sweep: turned from the index at which it was miked."""
    if sweep.surface is not Surface.ROTOR_INBOARD or thickness is None or corner.thickness is None:
        return None
    if thickness.variation is None:  # too few stations to know where it is thin
        return None
    turned_on = sweep.index_deg - corner.thickness.index_deg
    return thickness.profile_near(sweep.radius_mm).turned(turned_on)


def _repeat_turns(sweeps: Sequence[Sweep]) -> list[list[Sweep]]:
    groups: list[list[Sweep]] = []
    for sweep in sweeps:
        for group in groups:
            if group[0].same_conditions(sweep):
                group.append(sweep)
                break
        else:
            groups.append([sweep])
    return groups


def _index(analysed: Analysed) -> float:
    index = wrap_deg(analysed.evidence.index_deg)
    return 0.0 if math.isclose(index, 360.0, abs_tol=1e-6) else index


def _preference(analysed: Analysed) -> tuple[bool, bool, bool, bool]:
    return (
        bool(analysed.before),
        _index(analysed) != 0,
        analysed.tir is None or analysed.result is None,
        analysed.evidence.surface is not Surface.ROTOR_OUTBOARD,
    )
