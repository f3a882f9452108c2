"""A setting of rotor and plate tried by hand. Reads only."""

from typing import Any

from compass.choose.remedies.corner_draws import draw_corner
from compass.choose.remedies.setting import Tried, tried
from jobs.choose.axle import AxleChoice, ForbiddenRemedyError


def try_setting(choice: AxleChoice, setting: dict[str, Any]) -> Tried:
    """Return what a setting by hand would leave. Raises ``ForbiddenRemedyError`` for one the disc does not go on by."""
    corner = choice.corner(setting["position"])
    if corner is None or not corner.remedies:
        raise ForbiddenRemedyError(())
    spec = corner.measured.corner.spec
    index_deg = float(setting.get("index_deg") or 0.0) % 360
    allowed = [0.0, *(p % 360 for p in spec.positions_deg)]
    if not any(abs(index_deg - p) < 0.01 for p in allowed):
        raise ForbiddenRemedyError(((corner.position, "one_position"),))
    plate_mm = setting.get("plate_mm")
    plate = None
    if plate_mm:
        kit = [p for p in choice.shop.plates if p.studs == spec.studs]
        plate = next((p for p in kit if abs(p.correction_mm - plate_mm) < 1e-6), None)
        if plate is None:
            raise ForbiddenRemedyError(((corner.position, "plate_pattern"),))
    return tried(
        draw_corner(corner.measured), index_deg=index_deg, plate=plate, thin_deg=float(setting.get("plate_deg") or 0.0)
    )
