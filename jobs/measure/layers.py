"""What the rose can show, one layer at a time: runout, thickness, indices, the joint, where the runout rubs."""

import cmath
import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, Final

import numpy as np
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from compass.evidence.records import Spec, Surface
from compass.ground.translation import written
from compass.ground.units import Unit
from compass.measure.analysed import Analysed
from compass.measure.sweep import SweepResult
from compass.words.figures import length_text
from drawing.curves import Curve, runout_curve, thickness_curve
from drawing.indices import Swept, draw_overlay
from drawing.rose import Rose, draw_rose
from drawing.thickness_map import ThicknessMap, draw_thickness_map
from jobs.adapters import round_readings, station_readings
from jobs.judging import Judged
from jobs.models import Sweep, Tape, ThicknessRound


@dataclass(frozen=True)
class Layer:
    """One thing the rose can show; ``missing`` says what to measure for it, empty where it can be shown."""

    code: str
    name: str
    missing: str
    here: bool


@dataclass(frozen=True)
class Drawn:
    """A drawn layer: its SVG, the factor runout is exaggerated by (0: none), what it says."""

    svg: str
    factor: int
    caption: str


@dataclass(frozen=True)
class Curves:
    """The curves of a corner, for rose and trace."""

    runout: Curve
    thickness: Curve
    before: Curve | None  # as the disc came in
    installed: Curve | None  # as it stands at index 0, cleaned and torqued, where that was swept

    @classmethod
    def of(cls, judged: Judged, turns: list[Sweep], result: SweepResult | None, *, spec: Spec) -> "Curves":
        """Make the curves of the turns that are open, of the last round, and of what came in."""
        verdict = judged.verdict
        readings = [pairs for pairs in map(station_readings, turns) if pairs]
        if turns and turns[-1].surface == Surface.ROTOR_INBOARD.value:
            readings = [[(angle, -z) for angle, z in pairs] for pairs in readings]  # drawn in the outboard sense
        last = _last_round(judged)
        thickness = verdict.measured.thickness
        came_in = verdict.measured.before.result if verdict.measured.before is not None else None
        stands = verdict.measured.runout.sweep
        state = verdict.measured.runout.state.value
        bare = turns and turns[-1].surface == Surface.HUB_FACE.value
        return cls(
            # A bare hub face is drawn at its own radius, against its own limit where it has one.
            runout=runout_curve(
                result, readings, spec=_at_hub(spec, turns[-1].radius_mm) if bare else spec, state="" if bare else state
            ),
            thickness=thickness_curve(
                thickness.result, round_readings(last) if last else {}, spec=spec, state=thickness.state_variation.value
            ),
            before=runout_curve(came_in, [], spec=spec, state="") if came_in is not None else None,
            installed=None
            if stands is None
            else runout_curve(stands, [], spec=spec, state=verdict.measured.runout.state.value),
        )


def _at_hub(spec: Spec, radius_mm: float) -> Spec:
    if spec.max_hub_runout_mm is not None and spec.hub_runout_radius_mm is not None:
        return replace(spec, max_runout_mm=spec.max_hub_runout_mm * radius_mm / spec.hub_runout_radius_mm)
    return replace(spec, max_runout_mm=spec.max_runout_mm * radius_mm / spec.measuring_radius_mm)


LAYERS: Final = (
    ("runout", gettext_lazy("runout"), ""),
    ("thickness", gettext_lazy("thickness"), gettext_lazy("measure thickness first")),
    ("indices", gettext_lazy("indices"), gettext_lazy("sweep at a second index first")),
    ("joint", gettext_lazy("joint"), gettext_lazy("sweep before and after cleaning")),
    ("wear", gettext_lazy("wear"), gettext_lazy("measure runout and thickness first")),
)


def available_layers(judged: Judged, *, view: str) -> list[Layer]:
    """Return all layers; one that cannot be shown yet says what it needs, and the runout is shown instead."""
    verdict = judged.verdict
    has = {
        "runout": True,
        "thickness": verdict.measured.thickness.result is not None,
        "indices": len(_at_indices(judged)) > 1,
        "joint": verdict.measured.whose.joint is not None,
        "wear": verdict.measured.thickness.result is not None and verdict.measured.runout.sweep is not None,
    }
    here = view if has.get(view) else "runout"
    return [Layer(code, str(name), "" if has[code] else str(missing), code == here) for code, name, missing in LAYERS]


def draw_layer(
    view: str, curves: Curves, judged: Judged, *, spec: Spec, tape: Tape, at: int, unit: Unit, title: str
) -> Drawn:
    """Draw one layer of a corner."""
    draw: dict[str, Callable[..., Drawn]] = {
        "runout": _runout,
        "thickness": _thickness,
        "indices": _indices,
        "joint": _joint,
        "wear": _wear,
    }
    return draw[view](curves, judged, spec=spec, tape=tape, at=at, unit=unit, title=title)


def _rose(
    curves: Curves, *, spec: Spec, tape: Tape, at: int, title: str, runout: Curve | None = None, **layers: Any
) -> tuple[str, int]:
    stations = tuple(tape.stations_deg)
    return draw_rose(
        Rose(
            spec=spec,
            stations_deg=stations,
            runout=runout or curves.runout,
            thickness=curves.thickness,
            at_deg=stations[at],
            current=at,
            **layers,
        ),
        title=title,
    )


def _runout(curves: Curves, judged: Judged, *, spec: Spec, tape: Tape, at: int, unit: Unit, title: str) -> Drawn:
    whose = judged.verdict.measured.whose
    turned = cmath.rect(1.0, math.radians(tape.index_deg))  # the rotor as it stands at this index
    hub = whose.hub.vector if whose.hub else None
    rotor = whose.rotor.vector * turned if whose.rotor else None
    svg, factor = _rose(curves, spec=spec, tape=tape, at=at, title=title, hub=hub, rotor=rotor)
    return Drawn(svg, factor, "")


def _joint(curves: Curves, judged: Judged, *, spec: Spec, tape: Tape, at: int, unit: Unit, title: str) -> Drawn:
    joint = judged.verdict.measured.whose.joint
    after = judged.verdict.measured.runout.sweep
    left = after.vector if after is not None and after.vector is not None else 0j
    svg, factor = _rose(
        curves,
        spec=spec,
        tape=tape,
        at=at,
        title=title,
        runout=curves.installed,
        before=curves.before,
        joint=(joint.vector, left),
    )
    said = length_text(joint.tir_mm, unit=unit, expanded_mm=joint.expanded_mm)
    taken = {"dirt": _("Cleaning took out"), "nuts": _("Torquing took out")}.get(
        judged.verdict.measured.whose.joint_of, _("Cleaning and torquing took out")
    )
    return Drawn(svg, factor, f"{taken} {said.figure} ±{said.plus_minus} {said.unit}. " + _("Dashed: as it came in."))


def _wear(curves: Curves, judged: Judged, *, spec: Spec, tape: Tape, at: int, unit: Unit, title: str) -> Drawn:
    svg, factor = _rose(
        curves, spec=spec, tape=tape, at=at, title=title, runout=curves.before or curves.installed, rubbing=True
    )
    words = {
        None: _("No variation to speak of yet; this is where a released pad is reached."),
        "worn_by_runout": _("Thin where it rubs: the runout made the variation."),
        "worn_in_a_patch": _("Thin in one patch: not made by this runout."),
        "worn_in_a_lobe": _("Thin in a lobe as wide as a runout rubs, but not where this one does."),
        "pattern_in_noise": _("Where it is thin is lost in the noise and the steps of the readings."),
        "pattern_unclear": _("Where it is thin fits neither rubbing nor one patch."),
    }[judged.verdict.measured.thickness.pattern_code]
    return Drawn(svg, factor, words + " " + _("Stippled outside: outboard pad; inside: inboard pad."))


def _thickness(curves: Curves, judged: Judged, *, spec: Spec, tape: Tape, at: int, unit: Unit, title: str) -> Drawn:
    result, last = judged.verdict.measured.thickness.result, _last_round(judged)
    low, high = (length_text(float(value), unit=unit) for value in (result.curve_mm.min(), result.curve_mm.max()))
    # A radius that was begun beside one read all round does not count yet: it has no ring here.
    rings = {radius: ring for ring, radius in enumerate(result.radii_mm.tolist())}
    readings = tuple(
        (angle, rings[radius])
        for radius, pairs in (round_readings(last).items() if last is not None else ())
        if radius in rings
        for angle, _t in pairs
    )
    svg = draw_thickness_map(
        ThicknessMap(
            spec=spec,
            angles_deg=result.curve_deg,
            radii_mm=result.radii_mm,
            thickness_mm=result.curve_mm,
            thin_deg=result.minimum_deg,
            readings=readings,
        ),
        title=_("The disc shaded by thickness"),
        labels=(f"{low.figure} {low.unit}", f"{high.figure} {high.unit}"),
    )
    if result.taper_mm is None:
        return Drawn(svg, 0, _("One radius measured: taper across the band is not known."))
    taper = length_text(result.taper_mm, unit=unit)
    return Drawn(svg, 0, _("Taper, inner less outer radius: %(t)s.") % {"t": f"{taper.figure} {taper.unit}"})


def _indices(curves: Curves, judged: Judged, *, spec: Spec, tape: Tape, at: int, unit: Unit, title: str) -> Drawn:
    swept = []
    for analysed in _at_indices(judged):
        curve = runout_curve(analysed.result, [], spec=spec, state="")
        studs = analysed.evidence.index_deg * spec.studs / 360
        name = _("as first mounted") if studs == 0 else _("turned on %(n)s studs") % {"n": written(f"{studs:g}")}
        swept.append(Swept(name, analysed.evidence.index_deg, curve.angles_deg, curve.values_mm))
    svg = draw_overlay(
        swept,
        studs=spec.studs,
        captions=(_("on the hub"), _("turned back on the rotor")),
        title=_("Every index overlaid, on the hub and turned back on the rotor"),
    )
    return Drawn(
        svg, 0, _("Together on the left: it stayed with the hub. Together on the right: it turned with the rotor.")
    )


def _at_indices(judged: Judged) -> list[Analysed]:
    """Return one clean, torqued outboard sweep an index."""
    by_index: dict[float, Analysed] = {}
    for analysed in judged.verdict.measured.analysed:
        whole = analysed.installed and not analysed.before and analysed.tir is not None and analysed.result is not None
        if whole and analysed.evidence.surface is Surface.ROTOR_OUTBOARD:
            by_index.setdefault(float(np.round(analysed.evidence.index_deg % 360, 3)), analysed)
    return [by_index[index] for index in sorted(by_index)]


def _last_round(judged: Judged) -> ThicknessRound | None:
    return next((r for r in reversed(judged.rounds) if not r.is_empty), None)
