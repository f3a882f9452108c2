"""Context of one setting tried by hand: the rotor on its studs, a plate under it, what both would leave."""

from typing import Any, Final
from urllib.parse import urlencode

import numpy as np
from django.utils.translation import gettext as _

from compass.choose.axle import Chosen
from compass.choose.remedies.corner_draws import ANGLES_DEG
from compass.choose.remedies.outcome import Option, Remedy
from compass.choose.remedies.setting import Tried
from compass.choose.rules import REASONS
from compass.evidence.shop import Plate
from compass.ground.translation import written
from compass.ground.units import Unit
from compass.words.figures import odds_text, plain_text
from compass.words.places import between_studs
from drawing.curves import Curve
from drawing.rose import Rose, draw_rose
from drawing.setting import Setting
from drawing.trace import draw_trace
from jobs.choose.axle import AxleChoice
from jobs.choose.setting import try_setting
from jobs.models import Corner, Job
from jobs.words import about, axle_name, setting_words
from workshop.addresses import address
from workshop.models import POSITION_NAMES, User

_LISTED: Final = 9


def turning_context(
    user: User, job: Job, corner: Corner, choice: AxleChoice, setting: dict[str, Any]
) -> dict[str, Any]:
    """Return what the page of a setting shows. Raises ``ForbiddenRemedyError`` for one that cannot be mounted."""
    side = choice.corner(corner.position)
    if side is None:
        return {}
    unit = user.unit
    remedies = {remedy.code: remedy for remedy in side.remedies}
    if "index_deg" not in setting:
        setting = {"position": corner.position, **_start(remedies)}
    tried = try_setting(choice, setting)
    option, spec = tried.option, side.measured.corner.spec
    code = "plate" if option.plate_mm is not None else "index"
    kit = [plate for plate in choice.shop.plates if plate.studs == spec.studs]
    plate = next(
        (p for p in kit if option.plate_mm is not None and abs(p.correction_mm - option.plate_mm) < 1e-6), None
    )
    limit = plain_text(spec.max_runout_mm, unit=unit)
    low, middle, high = (about(mm, unit, expanded_mm=0.005).figure for mm in option.runout_mm)
    return {
        "axle": corner.axle,
        "axle_name": axle_name(job.vehicle, corner.axle),
        "name": POSITION_NAMES[corner.position],
        "rose": _rose(side, tried, option),
        "trace": _trace(side, tried),
        "words": setting_words(_settings(option), spec.studs, unit) or _("as it is mounted now"),
        "figure": middle,
        "spread": _("%(low)s to %(high)s %(unit)s with 9 in 10 odds, limit %(limit)s %(unit)s")
        % {"low": low, "high": high, "unit": limit.unit, "limit": limit.figure},
        "unit": limit.unit,
        "odds": odds_text(option.odds_within),
        "marks": [k < round(option.odds_within * 20) for k in range(20)],
        "steps": _steps(job, corner, side, option, plate),
        "kit": _kit(job, corner, option, kit, unit),
        "options": _options(job, corner, remedies, option, unit),
        "index_deg": option.index_deg,
        "plate_mm": option.plate_mm,
        "plate_deg": option.plate_deg,
        "code": code,
        "forbidden": _forbidden(choice, side, code),
        "changed": bool(option.index_deg) or plate is not None,
        "positions": ",".join(f"{p % 360:g}" for p in sorted({0.0, *(p % 360 for p in spec.positions_deg)})),
        "thin_positions": ",".join(f"{angle:g}" for angle in plate.angles_deg) if plate is not None else "",
        "turn_url": address("jobs:turn-rotor", job.pk, corner.position),
    }


def _forbidden(choice: AxleChoice, side: Chosen, code: str) -> str:
    """Say which rule stands against turning or plating here, of this side or of the plan for both; empty if none."""
    remedy = next(r for r in side.remedies if r.code == code)
    lane = choice.lane(code)
    rules = list(remedy.blocked_by)
    if lane is not None and lane.lead == side.position:
        rules += [rule for _position, rule in lane.blocked]
    return _(REASONS[rules[0]]) if rules else ""


def _start(remedies: dict[str, Remedy]) -> dict[str, Any]:
    """Begin with the best setting the rules allow."""
    allowed = [remedies[c] for c in ("index", "plate") if c in remedies and remedies[c].feasible]
    best = max(allowed, key=lambda r: r.odds_within or 0.0, default=None)
    return dict(best.settings) if best is not None else {"index_deg": 0.0}


def _settings(option: Option) -> dict[str, float]:
    settings = {"index_deg": option.index_deg}
    if option.plate_mm is not None and option.plate_deg is not None:
        settings |= {"plate_mm": option.plate_mm, "plate_deg": option.plate_deg}
    return settings


def _url(job: Job, corner: Corner, settings: dict[str, float]) -> str:
    query = urlencode({name: f"{value:.6g}" for name, value in settings.items()})
    return address("jobs:turn-rotor", job.pk, corner.position) + "?" + query


def _rose(side: Chosen, tried: Tried, option: Option) -> str:
    spec = side.measured.corner.spec
    state = "within" if option.runout_mm[1] <= spec.max_runout_mm else "over"
    title = _("%(corner)s: rotor and plate as set, with the runout to expect") % {
        "corner": POSITION_NAMES[side.position]
    }
    rose = Rose(
        spec=spec,
        stations_deg=(),
        runout=_curve(tried.trace_mm, spec.max_runout_mm, state),
        thickness=None,
        at_deg=0.0,
        current=None,
        hub=tried.hub,
        rotor=tried.rotor,
        before=_before(side),
        setting=Setting(option.index_deg, option.plate_deg, tried.plate, _("thin")),
    )
    return draw_rose(rose, title=title)[0]


def _before(side: Chosen) -> Curve | None:
    stays = next((r for r in side.remedies if r.code == "none"), None)
    if stays is None or stays.trace_mm is None or not stays.trace_mm.size:
        return None
    return _curve(stays.trace_mm, side.measured.corner.spec.max_runout_mm, side.measured.runout.state.value)


def _curve(trace_mm: Any, limit_mm: float, state: str) -> Curve:
    values = trace_mm - (trace_mm.max() + trace_mm.min()) / 2
    angles = np.append(ANGLES_DEG, 360.0)
    return Curve(angles, np.append(values, values[0]), (), limit_mm, state, float(ANGLES_DEG[int(values.argmax())]))


def _trace(side: Chosen, tried: Tried) -> str:
    spec = side.measured.corner.spec
    after = _curve(tried.trace_mm, spec.max_runout_mm, "within")
    title = _("Runout before (dashed) and as set, over one turn")
    return draw_trace(after, studs=spec.studs, stations=8, title=title, mark_label=_("high"), before=_before(side))


def _steps(job: Job, corner: Corner, side: Chosen, option: Option, plate: Plate | None) -> dict[str, str]:
    """Return where one step of the rotor or of the plate leads, either way."""
    spec = side.measured.corner.spec
    places = sorted({0.0, *(round(p % 360, 6) for p in spec.positions_deg)})
    here = min(range(len(places)), key=lambda k: abs(places[k] - option.index_deg))
    now = _settings(option)
    steps = {}
    if len(places) > 1:
        steps |= {
            name: _url(job, corner, now | {"index_deg": places[(here + by) % len(places)]})
            for name, by in (("back", -1), ("on", 1))
        }
    if plate is not None:
        thin = min(range(plate.positions), key=lambda k: abs(plate.angles_deg[k] - (option.plate_deg or 0.0)))
        steps |= {
            name: _url(job, corner, now | {"plate_deg": plate.angles_deg[(thin + by) % plate.positions]})
            for name, by in (("plate_back", -1), ("plate_on", 1))
        }
    return steps


def _kit(job: Job, corner: Corner, option: Option, kit: list[Plate], unit: Unit) -> list[dict[str, Any]]:
    """Return the plates to choose from, none first."""
    if not kit:
        return []
    rows = [
        {
            "name": _("no plate"),
            "url": _url(job, corner, {"index_deg": option.index_deg}),
            "here": option.plate_mm is None,
        }
    ]
    for plate in kit:
        shown = plain_text(plate.correction_mm, unit=unit)
        settings = {
            "index_deg": option.index_deg,
            "plate_mm": plate.correction_mm,
            "plate_deg": option.plate_deg or 0.0,
        }
        here = option.plate_mm is not None and abs(option.plate_mm - plate.correction_mm) < 1e-6
        rows.append({"name": f"{shown.figure} {shown.unit}", "url": _url(job, corner, settings), "here": here})
    return rows


def _options(job: Job, corner: Corner, remedies: dict[str, Remedy], now: Option, unit: Unit) -> list[dict[str, Any]]:
    """Return every position without a plate and the best with one, best first; where each would leave the runout."""
    studs = corner.limits.studs
    options: list[Option] = [o for code in ("index", "plate") if code in remedies for o in remedies[code].options]
    options.sort(key=lambda o: o.rank)
    rows = []
    for option in options[:_LISTED]:
        low, middle, high = (about(mm, unit, expanded_mm=0.005) for mm in option.runout_mm)
        rows.append(
            {
                "rotor": written(f"+{option.index_deg * studs / 360:g}") if option.index_deg else "0",
                "plate": plain_text(option.plate_mm, unit=unit).figure if option.plate_mm else "–",
                "thin": between_studs(option.plate_deg, studs, translate=_) if option.plate_deg is not None else "",
                "url": _url(job, corner, _settings(option)),
                "middle": middle.figure,
                "spread": f"{low.figure}–{high.figure} {high.unit}",
                "odds": odds_text(option.odds_within),
                "here": (option.index_deg, option.plate_mm, option.plate_deg)
                == (now.index_deg, now.plate_mm, now.plate_deg),
            }
        )
    return rows
