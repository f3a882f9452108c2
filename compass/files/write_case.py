"""Evidence into a case file's data, the way back of ``compass.files.read_case``; defaults are left out."""

from dataclasses import asdict, fields
from typing import Any, Final

import numpy as np

from compass.evidence.complaint import Complaint, MendedBeside, VehicleFacts
from compass.evidence.records import AfterWork, Case, Corner, HighSpot, Spec, Sweep, ThicknessRound
from compass.evidence.shop import LEARNED, Shop
from compass.ground.angles import equal_stations_deg
from compass.ground.arrays import FloatArray

CASE_FORMAT: Final = "iron-compass-case/1"


def case_to_data(case: Case) -> dict[str, Any]:
    """Return plain data of format iron-compass-case/1; reading it back gives the same evidence to the last digit."""
    data: dict[str, Any] = {"format": CASE_FORMAT}
    if case.case_id is not None:
        data["id"] = case.case_id
    data["vehicle"] = _told(case.vehicle, VehicleFacts, positions=list(case.vehicle.positions) or None)
    if case.complaint != Complaint():
        data["complaint"] = complaint_to_data(case.complaint)
    if case.shop != Shop():
        data["shop"] = shop_to_data(case.shop)
    data["corners"] = [_corner(corner) for corner in case.corners]
    return data


def _corner(corner: Corner) -> dict[str, Any]:
    data: dict[str, Any] = {"position": corner.position, "spec": _spec(corner.spec)} | _readings(corner)
    if corner.bearing_play_mm is not None:
        data["bearing_play_mm"] = corner.bearing_play_mm
    if corner.pads is not None:
        data["pads_mm"] = {"inner": list(corner.pads.inner), "outer": list(corner.pads.outer)}
        data["pads_mm"] |= {"renewed": list(corner.pads.renewed)} if corner.pads.renewed else {}
    if corner.drum is not None:
        data["drum_mm"] = {"diameters": list(corner.drum.diameters_mm), "linings": list(corner.drum.linings_mm)}
        data["drum_mm"] |= {"renewed": list(corner.drum.renewed_mm)} if corner.drum.renewed_mm else {}
    if corner.seen:
        data["findings"] = sorted(corner.seen)
    if corner.wear is not None:
        data["wear"] = {"mm_per_1000_km": corner.wear.mm_per_1000_km, "u_mm": corner.wear.expanded_mm}
    if corner.plate_fitted:
        data["plate_fitted"] = True
    if corner.after:
        data["after"] = [_readings(read) | ({"work": read.work} if read.work else {}) for read in corner.after]
    return data


def _readings(corner: Corner | AfterWork) -> dict[str, Any]:
    data: dict[str, Any] = {}
    if corner.sweeps:
        data["sweeps"] = [_sweep(sweep) for sweep in corner.sweeps]
    if corner.high_spots:
        data["high_spots"] = [_told(spot, HighSpot, surface=spot.surface.value) for spot in corner.high_spots]
    if corner.thickness is not None:
        data["thickness"] = _thickness(corner.thickness)
    return data


def _spec(spec: Spec) -> dict[str, Any]:
    data = _told(spec, Spec, features=sorted(spec.features))
    if not spec.features:
        data.pop("features")
    if spec.index_positions is not None:
        data["index_positions"] = list(spec.index_positions)
    return data


def _sweep(sweep: Sweep) -> dict[str, Any]:
    data = _told(sweep, Sweep, surface=sweep.surface.value, stations_deg=None, readings_mm=None)
    return data | _stations(sweep.stations_deg) | {"readings_mm": sweep.readings_mm.tolist()}


def _thickness(measured: ThicknessRound) -> dict[str, Any]:
    data = _told(measured, ThicknessRound, stations_deg=None, radii_mm=None, readings_mm=None, over_lips=None)
    data |= _stations(measured.stations_deg)
    data |= {"radii_mm": measured.radii_mm.tolist(), "readings_mm": measured.readings_mm.tolist()}
    if measured.over_lips is not None:
        lips = measured.over_lips
        data["over_lips"] = {
            "outboard_mm": lips.outboard_mm,
            "inboard_mm": lips.inboard_mm,
            "within_mm": lips.within_mm,
        }
    return data


def _stations(stations_deg: FloatArray) -> dict[str, Any]:
    if stations_deg.size and np.array_equal(stations_deg, equal_stations_deg(stations_deg.size)):
        return {}
    return {"stations_deg": stations_deg.tolist()}


def _told(record: Any, kind: type[Any], **instead: Any) -> dict[str, Any]:
    """Return the fields of a record that differ from their defaults; ``instead`` replaces, None leaves out."""
    data = {}
    for field in fields(kind):
        value = instead[field.name] if field.name in instead else getattr(record, field.name)
        if value is not None and (field.name in instead or value != field.default):
            data[field.name] = value
    # Conditions are not optional in the file, whatever the record's defaults are.
    data |= {name: getattr(record, name) for name in ("cleaned", "nuts_torqued") if hasattr(record, name)}
    return data


def complaint_to_data(complaint: Complaint) -> dict[str, Any]:
    """Return what a complaint tells, as data of a case file; what was not told is left out."""
    given = _told(complaint, Complaint)
    data = {name: list(value) if isinstance(value, tuple) else value for name, value in given.items()}
    if complaint.mended_beside:
        data["mended_beside"] = [_told(mended, MendedBeside) for mended in complaint.mended_beside]
    return data


def shop_to_data(shop: Shop) -> dict[str, Any]:
    """Return a shop as data of a case file; reading it back gives the same shop."""
    data: dict[str, Any] = {"policy": shop.policy}
    if shop.plates:
        data["plates"] = [asdict(plate) for plate in shop.plates]
    if shop.lathes:
        data["lathes"] = [
            {
                name: dict(value) if name == "max_depth_mm" else value
                for field_ in fields(lathe)
                if (value := getattr(lathe, name := field_.name)) not in (None, "")
            }
            for lathe in shop.lathes
        ]
    for name in ("prices", "minutes", "currency", "base_rates"):
        if getattr(shop, name):
            figures = getattr(shop, name)
            data[name] = figures if isinstance(figures, str) else dict(figures)
    usual = Shop()
    data |= {name: getattr(shop, name) for name in LEARNED if getattr(shop, name) != getattr(usual, name)}
    return data | {"warranty_km": shop.warranty_km, "wear_allowance_mm": shop.wear_allowance_mm}
