"""A made-up corner that shows what the product draws before anybody has measured anything."""

from functools import cache

import numpy as np
from django.utils.translation import gettext as _

from compass.evidence.records import Spec
from compass.ground.angles import vector
from compass.ground.limits import against_upper
from compass.measure.sweep import analyse_sweep
from compass.measure.thickness import analyse_thickness
from compass.simulate.corner import SimulatedCorner, Wave
from drawing.curves import runout_curve, thickness_curve
from drawing.rose import Rose, draw_rose


def greeting_rose() -> str:
    """Return the rose of the sign-in page: a hub that throws its disc, drawn from simulated readings."""
    return _drawn(_("A rose: a disc face-on, its runout drawn on it"))


@cache
def _drawn(title: str) -> str:
    spec = Spec(
        studs=5,
        rotor="vented",
        discard_thickness_mm=25.4,
        max_runout_mm=0.05,
        max_thickness_variation_mm=0.015,
        measuring_radius_mm=138.0,
    )
    corner = SimulatedCorner(
        radius_mm=138.0,
        nominal_mm=26.4,
        hub=vector(0.09, 225.0),
        face=(Wave(2, 0.008, 40.0),),
        thickness=(Wave(1, 0.013, 45.0),),
    )
    generator = np.random.default_rng(7)
    swept = corner.sweep(generator, stations=10, instrument=corner.dial(0.01, 0.5))
    result = analyse_sweep([swept], spec=spec)
    measured = corner.micrometer_round(generator, stations=10)
    thickness = analyse_thickness(measured, spec=spec)
    readings = list(zip(swept.stations_deg.tolist(), swept.readings_mm.tolist(), strict=True))
    rose = Rose(
        spec=spec,
        stations_deg=tuple(swept.stations_deg.tolist()),
        runout=runout_curve(result, [readings], spec=spec, state=against_upper(result.tir, spec.max_runout_mm).value),
        thickness=thickness_curve(thickness, {}, spec=spec, state="over"),
        at_deg=0.0,
        current=0,
    )
    return draw_rose(rose, title=title)[0]
