"""The picture beside a statement: made by the drawings of the job, from figures that show the point."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cache, partial
from typing import Final

import numpy as np
from django.utils.functional import Promise
from django.utils.translation import get_language, gettext_lazy
from django.utils.translation import gettext as _

from compass.do.star_order import star_order
from compass.ground.angles import vector
from compass.ground.translation import written
from drawing.bench import BenchCorner, draw_bench
from drawing.curves import Curve, Dot
from drawing.cut_section import CutSection, draw_section
from drawing.gauge import Gauge, draw_gauge
from drawing.rose import Rose, draw_rose
from drawing.setting import Setting
from drawing.speeds import draw_speeds
from drawing.star import draw_star
from drawing.trace import draw_trace
from drawing.vehicle import draw_wheels
from practice.exercises import SPEC

_ANGLES: Final = np.arange(0.0, 361.0, 2.0)
_WHEELS: Final = ("FL", "FR", "RL", "RR")


@dataclass(frozen=True)
class Shown:
    """A picture with its caption; ``on_paper`` where its lines are ink."""

    svg: str
    caption: str
    on_paper: bool = False


@dataclass(frozen=True)
class _Disc:
    """A disc to be drawn: vectors in mm TIR and degrees, thickness as a hollow, what state it is in."""

    hub: complex = 0j
    rotor: complex = 0j
    joint: complex = 0j
    hollow_mm: float = 0.0
    hollow_deg: float = 0.0
    state: str = "over"
    says: Promise = field(default_factory=lambda: gettext_lazy("The disc as swept."))
    setting: Setting | None = None
    plate: complex = 0j


def _runout(tilt: complex, state: str) -> Curve:
    z = np.real(tilt * np.exp(-1j * np.radians(_ANGLES)))
    stations = range(0, 360, 36)
    dots = tuple(Dot(float(a), float(np.real(tilt * np.exp(-1j * np.radians(a))))) for a in stations)
    return Curve(_ANGLES, z, dots, SPEC.max_runout_mm, state, float(_ANGLES[int(np.argmax(z))]))


def _rose(disc: _Disc) -> Shown:
    tilt = disc.hub + disc.rotor + disc.joint - disc.plate
    thickness = None
    if disc.hollow_mm:
        away = (_ANGLES - disc.hollow_deg + 180) % 360 - 180
        values = -disc.hollow_mm * np.exp(-0.5 * (away / 24) ** 2) + disc.hollow_mm / 2
        thickness = Curve(_ANGLES, values, (), SPEC.max_thickness_variation_mm, "over", disc.hollow_deg)
    parts = (disc.hub, disc.rotor) if disc.hub or disc.rotor else (None, None)
    rose = Rose(
        spec=SPEC,
        stations_deg=tuple(36.0 * k for k in range(10)),
        runout=_runout(tilt, disc.state),
        thickness=thickness,
        at_deg=0.0,
        current=None,
        hub=parts[0],
        rotor=parts[1],
        joint=(disc.joint, disc.hub + disc.rotor) if disc.joint else None,
        before=None,
        setting=disc.setting,
    )
    return Shown(draw_rose(rose, title=str(disc.says))[0], str(disc.says))


def _bench(*, radius_mm: float, says: Promise) -> Shown:
    corner = BenchCorner(SPEC, "hub", radius_mm, 0.0, [1.0] * SPEC.studs, 20.0, chalk_deg=200.0, cleaned=True)
    return Shown(draw_bench(corner, title=str(says), unit=written("0.01 mm")), str(says))


def _trace(kind: str, says: Promise) -> Shown:
    z = np.real(vector(0.04, 150.0) * np.exp(-1j * np.radians(_ANGLES)))
    dots = [Dot(36.0 * k, float(np.interp(36.0 * k, _ANGLES, z))) for k in range(10)]
    if kind == "jump":
        dots[6] = Dot(dots[6].angle_deg, dots[6].value_mm + 0.03, jump=True)
    if kind == "drift":
        dots = [Dot(dot.angle_deg, dot.value_mm + 0.04 * dot.angle_deg / 360) for dot in dots]
        dots.append(Dot(359.0, float(z[-1]) + 0.04))
    curve = Curve(_ANGLES, z, tuple(dots), SPEC.max_runout_mm, "over", 150.0)
    svg = draw_trace(curve, studs=5, stations=10, title=str(says), mark_label=_("high"))
    return Shown(svg, str(says), on_paper=True)


def _gauge() -> Shown:
    gauge = Gauge(nominal=26.0, now=24.6, after=(24.2, 24.35, 24.45), machine_to=24.2, discard=23.5)
    labels = {"new": _("new"), "after": _("after"), "least": _("machine-to, discard")}
    says = _("The metal of a disc: new, now, what a cut leaves, machine-to, discard.")
    return Shown(draw_gauge(gauge, labels=labels, title=says), says, on_paper=True)


def _star() -> Shown:
    order = " · ".join(str(stud) for stud in star_order(SPEC.studs))
    says = _("The star: %(order)s, in rounds.") % {"order": order}
    return Shown(draw_star(SPEC.studs, title=says), says)


def _wheels(*at: str) -> Shown:
    says = _("Every wheel is measured; the story says which first.")
    return Shown(draw_wheels("van", _WHEELS, at=at, title=says), says, on_paper=True)


def _speeds() -> Shown:
    says = _("Where in the drive it is felt: 70 to 100 km/h.")
    return Shown(draw_speeds(70, 100, per_step=20, steps=8, unit="km/h", title=says), says, on_paper=True)


def _section(*, planes: bool, says: Promise) -> Shown:
    angles = np.radians(np.arange(0.0, 361.0, 2.0))
    out, inn = 0.045 * np.cos(angles - 1.0), 0.045 * np.cos(angles - 1.0) + 0.006 * np.cos(2 * angles) - 0.02
    section = CutSection(
        outboard_mm=out,
        inboard_mm=inn,
        out_mm=(float(out.min()) - 0.03,) if planes else (float(out.min()),),
        in_mm=(float(inn.max()) + 0.03,) if planes else (float(inn.max()),),
        done=0,
        studs=SPEC.studs,
        radius_mm=SPEC.measuring_radius_mm,
    )
    labels = {"outboard": _("outboard"), "inboard": _("inboard"), "pass": _("pass {number}")}
    return Shown(draw_section(section, labels=labels, title=str(says))[0], str(says))


def _disc(says: Promise, **figures: object) -> Callable[[], Shown]:
    return partial(_rose, _Disc(says=says, **figures))  # type: ignore[arg-type]


_THIN: Final = 200.0
_PICTURES: Final[Mapping[str, Callable[[], Shown]]] = {
    "worn": _disc(
        gettext_lazy("Runout, and the thin place where its high spot rubs."),
        rotor=vector(0.1, _THIN),
        hub=vector(0.01, 30),
        hollow_mm=0.03,
        hollow_deg=_THIN,
    ),
    "patch": _disc(
        gettext_lazy("Runs true; a sector as wide as a pad is thin."),
        hub=vector(0.012, 60),
        rotor=vector(0.008, 200),
        hollow_mm=0.03,
        hollow_deg=110.0,
        state="within",
    ),
    "hub": _disc(
        gettext_lazy("Engineer’s blue: the hub’s share. It stays when the rotor is turned."),
        hub=vector(0.1, 140),
        rotor=vector(0.012, 20),
    ),
    "rotor": _disc(
        gettext_lazy("Steel: the rotor’s share. It turns when the rotor is turned."),
        hub=vector(0.012, 20),
        rotor=vector(0.1, 250),
    ),
    "stack": _disc(
        gettext_lazy("Hub and rotor the same way round: they add up."), hub=vector(0.05, 120), rotor=vector(0.05, 140)
    ),
    "cancel": _disc(
        gettext_lazy("Hub and rotor against each other: little is left."),
        hub=vector(0.06, 120),
        rotor=vector(0.055, 295),
        state="within",
    ),
    "joint": _disc(
        gettext_lazy("What dirt in the joint added, and what is left without it."),
        hub=vector(0.012, 40),
        rotor=vector(0.01, 90),
        joint=vector(0.1, 300),
    ),
    "play": _disc(gettext_lazy("Every turn tells another tale."), hub=vector(0.07, 80), rotor=vector(0.03, 300)),
    "close": _disc(
        gettext_lazy("About the limit: the stippled band says too close to call."),
        hub=vector(0.048, 210),
        state="too_close",
    ),
    "over": _disc(
        gettext_lazy("Ten readings and the curve through them; what leaves the band is hatched."),
        rotor=vector(0.08, 210),
    ),
    "within": _disc(
        gettext_lazy("Within its band all round."), hub=vector(0.015, 60), rotor=vector(0.01, 100), state="within"
    ),
    "plate": _disc(
        gettext_lazy("A tapered plate, its thin side at the high spot."),
        hub=vector(0.07, 144),
        setting=Setting(0.0, 144.0, vector(0.07, 144)),
        plate=vector(0.06, 144),
        state="within",
    ),
    "indices": _disc(
        gettext_lazy("The rotor two studs on: what it would leave there."),
        hub=vector(0.05, 120),
        rotor=vector(0.05, 284),
        setting=Setting(144.0, None),
        state="within",
    ),
    "lips": partial(
        _bench, radius_mm=152.0, says=gettext_lazy("The tip beyond the swept band: lip and rust, no bright metal.")
    ),
    "dial": partial(
        _bench, radius_mm=140.0, says=gettext_lazy("The tip on bright metal; a hundred divisions of 0.01 mm a turn.")
    ),
    "jump": partial(_trace, "jump", gettext_lazy("One reading stands alone: clean the place and read it again.")),
    "drift": partial(_trace, "drift", gettext_lazy("The last reading does not meet the first.")),
    "gauge": _gauge,
    "star": _star,
    "wheels": partial(_wheels, "FL", "FR"),
    "wheels-rear": partial(_wheels, "RL", "RR"),
    "speeds": _speeds,
    "cut": partial(
        _section, planes=True, says=gettext_lazy("The rotor unrolled: both faces, and the planes a cut would leave.")
    ),
    "section": partial(_section, planes=False, says=gettext_lazy("Both faces of a disc, unrolled and exaggerated.")),
}
NAMES: Final = frozenset(_PICTURES)


def picture_of(name: str) -> Shown:
    """Return a picture by its name, in the reader's language."""
    return _drawn(name, get_language() or "")


@cache
def _drawn(name: str, language: str) -> Shown:
    return _PICTURES[name]()
