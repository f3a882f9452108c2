"""The case file: JSON in, evidence out; verdict in, JSON out. Formats: docs/case-file.md, docs/schemas/."""

import json
from collections.abc import Callable, Iterable, Mapping
from functools import cache
from importlib import resources
from itertools import islice
from typing import TYPE_CHECKING, Any, Final, TypeVar, cast

import numpy as np
from fastjsonschema import JsonSchemaValueException
from fastjsonschema import compile as compile_schema

from compass.cause.causes import OF_THE_VEHICLE, Cause
from compass.evidence.complaint import Complaint, MendedBeside, VehicleFacts
from compass.evidence.records import (
    READINGS_FOR_STATIONS,
    AfterWork,
    Case,
    Corner,
    Drum,
    HighSpot,
    OverLips,
    Pads,
    Spec,
    Surface,
    Sweep,
    ThicknessRound,
    WearRate,
    radii_within_mm,
    stations_or_default,
)
from compass.evidence.shop import LEARNED, SEATING_TIR_MM, Lathe, Plate, Shop
from compass.files.strict_json import MOST_FAULTS, load_json
from compass.ground.arrays import FloatArray
from compass.ground.errors import EvidenceError, Fault, FaultyFileError, Words
from compass.ground.translation import _N

_TOLD: Final = ("policy", "prices", "minutes", "warranty_km", "wear_allowance_mm", "currency", "base_rates", *LEARNED)

if TYPE_CHECKING:
    from jsonschema import Draft202012Validator
    from jsonschema.exceptions import ValidationError

CASE_FORMAT: Final = "iron-compass-case/1"
_Record = TypeVar("_Record", Pads, Drum)
_MOST_TAPES: Final = 240  # of a case in all: twelve corners swept twenty times
_MOST_READINGS: Final = 6000
_AT_LEAST: Final = _N("at least {bound}, not {given}")
_AT_MOST: Final = _N("at most {bound}, not {given}")
_KINDS: Final = {
    "number": Words(_N("a number")),
    "integer": Words(_N("a whole number")),
    "string": Words(_N("text")),
    "boolean": Words(_N("true or false")),
    "array": Words(_N("a list")),
    "object": Words(_N("an object")),
}


@cache
def schema(name: str) -> dict[str, Any]:
    """Return a published JSON Schema: ``case-1`` or ``verdict-1``."""
    text = resources.files("compass.files").joinpath("schemas", f"{name}.schema.json").read_text(encoding="utf-8")
    return cast(dict[str, Any], json.loads(text))


def read_case(raw: bytes | str) -> Case:
    """Read one case file. Raises ``FaultyFileError`` with every fault found, never anything else."""
    return case_from_data(load_json(raw))


def case_from_data(data: Any) -> Case:
    """Validate parsed JSON against the published schema and make the evidence of it."""
    faults = [*_schema_faults(data)]
    if not faults:
        faults = [*_contradictions(data)]
    if faults:
        raise FaultyFileError(tuple(faults))
    try:
        return Case(
            corners=tuple(_corner(corner, data.get("shop", {})) for corner in data["corners"]),
            case_id=data.get("id"),
            vehicle=VehicleFacts(**{**data["vehicle"], "positions": tuple(data["vehicle"].get("positions", ()))}),
            complaint=complaint_from_data(data.get("complaint", {})),
            shop=shop_from_data(data.get("shop", {})),
        )
    except EvidenceError as error:  # the records guard themselves; a fault the checks above did not name
        raise FaultyFileError((error.fault,)) from error


@cache
def _validator() -> "Draft202012Validator":
    # Only a faulty file needs it, and it takes a tenth of a second to load.
    from jsonschema import Draft202012Validator

    # Looking references up costs more than checking a number: they are put in place once.
    published = schema("case-1")
    return Draft202012Validator(_in_place(published, published["$defs"]))


def _in_place(part: Any, definitions: dict[str, Any]) -> Any:
    """Return a schema with every reference replaced by what it refers to; ours refer to no part of themselves."""
    if isinstance(part, list):
        return [_in_place(item, definitions) for item in part]
    if not isinstance(part, dict):
        return part
    if "$ref" in part:
        return _in_place(definitions[part["$ref"].removeprefix("#/$defs/")], definitions)
    return {key: _in_place(value, definitions) for key, value in part.items() if key != "$defs"}


def _schema_faults(data: Any) -> Iterable[Fault]:
    """Return what is wrong with the shape of a case. The schema is compiled once; the slower library names faults."""
    try:
        _compiled()(data)
        return []
    except JsonSchemaValueException:
        pass
    except RecursionError:
        return [Fault("", _N("JSON that is not nested so deeply"))]
    try:
        first = list(islice(_validator().iter_errors(data), MOST_FAULTS))
    except RecursionError:
        return [Fault("", _N("JSON that is not nested so deeply"))]
    errors = sorted(first, key=lambda e: [str(p) for p in e.absolute_path])
    faults = [fault for error in errors for fault in _faults_of(error)]
    if len(faults) < MOST_FAULTS and len(first) < MOST_FAULTS:
        return faults
    return [*faults[:MOST_FAULTS], Fault("", _N("fewer faults; the first {most} stand above"), {"most": MOST_FAULTS})]


@cache
def _compiled() -> Callable[[Any], Any]:
    compiled: Callable[[Any], Any] = compile_schema(schema("case-1"), use_default=False)
    return compiled


def _faults_of(error: "ValidationError") -> list[Fault]:
    path = _path(error.absolute_path)
    rule: Any = error.validator_value
    instance: Any = error.instance
    match error.validator:
        case "additionalProperties":
            keys: Any = cast(Any, error.schema)["properties"]
            known = {"known": ", ".join(sorted(keys))}
            return [
                Fault(_join(path, key), _N("unknown key; known here: {known}"), known)
                for key in instance
                if key not in keys
            ]
        case "required":
            missing = [key for key in rule if key not in instance]
            # jsonschema reports each missing key by itself; its message names it first
            named = [key for key in missing if error.message.startswith(f"'{key}'")]
            return [Fault(_join(path, key), _N("missing")) for key in named or missing]
        case "enum":
            allowed = ", ".join(str(value) for value in rule)
            return [Fault(path, _N("one of {allowed}, not {given}"), {"allowed": allowed, "given": _shown(instance)})]
        case "const":
            return [Fault(path, _N("{wanted}, not {given}"), {"wanted": _shown(rule), "given": _shown(instance)})]
        case "type":
            return [Fault(path, _N("{wanted}, not {given}"), {"wanted": _KINDS[rule], "given": _shown(instance)})]
        case "exclusiveMinimum":
            return [
                Fault(path, _N("more than {bound}, not {given}"), {"bound": f"{rule:g}", "given": _shown(instance)})
            ]
        case "minimum":
            return [Fault(path, _AT_LEAST, {"bound": f"{rule:g}", "given": _shown(instance)})]
        case "maximum":
            return [Fault(path, _AT_MOST, {"bound": f"{rule:g}", "given": _shown(instance)})]
        case "minItems":
            return [Fault(path, _AT_LEAST, {"bound": rule, "given": len(instance)})]
        case "maxItems":
            return [Fault(path, _AT_MOST, {"bound": rule, "given": len(instance)})]
        case "maxLength":
            return [Fault(path, _N("at most {bound} characters, not {given}"), {"bound": rule, "given": len(instance)})]
        case _:
            return [Fault(path, _N("as docs/case-file.md tells"))]


def _contradictions(data: dict[str, Any]) -> Iterable[Fault]:
    """Name what a schema cannot: lists that disagree, positions named twice, radii the wrong way round."""
    speed = data.get("complaint", {}).get("speed_kmh")
    if speed and speed[0] > speed[1]:
        yield Fault("complaint.speed_kmh", _N("the lower speed first"))
    for m, mended in enumerate(data.get("complaint", {}).get("mended_beside", ())):
        if (Cause(mended["cause"]) in OF_THE_VEHICLE) is ("position" in mended):
            expected = _N("a corner for a caliper or a drum, and none for what is the vehicle’s")
            yield Fault(f"complaint.mended_beside[{m}]", expected)
    tapes = [tape for corner in data["corners"] for read in (corner, *corner.get("after", [])) for tape in _tapes(read)]
    for most, words, number in (
        (_MOST_TAPES, _N("at most {most} sweeps in all, not {number}"), len(tapes)),
        (_MOST_READINGS, _N("at most {most} readings in all, not {number}"), sum(tapes)),
    ):
        if number > most:
            yield Fault("corners", words, {"most": most, "number": number})
            return
    seen: set[str] = set()
    for c, corner in enumerate(data["corners"]):
        here = f"corners[{c}]"
        if corner["position"] in seen:
            twice = {"position": corner["position"]}
            yield Fault(f"{here}.position", _N("each position once; {position} stands here twice"), twice)
        seen.add(corner["position"])
        spec = corner["spec"]
        inner, outer = spec.get("swept_inner_radius_mm"), spec.get("swept_outer_radius_mm")
        if inner is not None and outer is not None and inner >= outer:
            radii = {"outer": f"{outer:g}", "inner": f"{inner:g}"}
            where = f"{here}.spec.swept_inner_radius_mm"
            yield Fault(where, _N("less than the outer radius {outer}, not {inner}"), radii)
        new, discard = spec.get("nominal_thickness_mm"), spec["discard_thickness_mm"]
        if new is not None and new <= discard:
            thicknesses = {"discard": f"{discard:g}", "new": f"{new:g}"}
            yield Fault(f"{here}.spec.nominal_thickness_mm", _N("more than discard, {discard}, not {new}"), thicknesses)
        within = radii_within_mm(spec["measuring_radius_mm"])
        for read, where in (
            (corner, here),
            *((r, f"{here}.after[{n}]") for n, r in enumerate(corner.get("after", []))),
        ):
            yield from _reading_contradictions(read, where)
            yield from _misplaced(read, where, within)


def _tapes(read: dict[str, Any]) -> list[int]:
    """Return how many readings each sweep, row of a round, and quick reading has."""
    swept = [len(sweep["readings_mm"]) for sweep in read.get("sweeps", [])]
    return [
        *swept,
        *map(len, read.get("thickness", {}).get("readings_mm", [])),
        *(1 for _ in read.get("high_spots", [])),
    ]


def _reading_contradictions(read: dict[str, Any], here: str) -> Iterable[Fault]:
    for s, sweep in enumerate(read.get("sweeps", [])):
        stations, readings = sweep.get("stations_deg"), sweep["readings_mm"]
        if stations is not None and len(stations) != len(readings):
            counts = {"readings": len(readings), "stations": len(stations)}
            yield Fault(f"{here}.sweeps[{s}].readings_mm", READINGS_FOR_STATIONS, counts)
    yield from _thickness_contradictions(read.get("thickness"), f"{here}.thickness")


def _misplaced(read: dict[str, Any], here: str, within: tuple[float, float]) -> Iterable[Fault]:
    """Name radii at which no tip can have stood on this disc."""
    tips = [
        (f"{here}.{kind}[{n}].radius_mm", tip["radius_mm"])
        for kind in ("sweeps", "high_spots")
        for n, tip in enumerate(read.get(kind, []))
    ]
    radii = read.get("thickness", {}).get("radii_mm", [])
    tips += [(f"{here}.thickness.radii_mm[{n}]", radius) for n, radius in enumerate(radii)]
    for path, radius in tips:
        if not within[0] < radius < within[1]:
            between = {"low": f"{within[0]:g}", "high": f"{within[1]:g}", "given": f"{radius:g}"}
            yield Fault(path, _N("between {low} and {high}, by the measuring radius, not {given}"), between)


def _thickness_contradictions(thickness: dict[str, Any] | None, here: str) -> Iterable[Fault]:
    if thickness is None:
        return
    rows, radii = thickness["readings_mm"], thickness["radii_mm"]
    if len(rows) != len(radii):
        counts = {"rows": len(rows), "radii": len(radii)}
        yield Fault(f"{here}.readings_mm", _N("{rows} rows for {radii} radii"), counts)
    stations = len(thickness["stations_deg"]) if "stations_deg" in thickness else len(rows[0])
    for r, row in enumerate(rows):
        if len(row) != stations:
            counts = {"readings": len(row), "stations": stations}
            yield Fault(f"{here}.readings_mm[{r}]", READINGS_FOR_STATIONS, counts)


def _corner(data: dict[str, Any], shop: Mapping[str, Any]) -> Corner:
    return Corner(
        position=data["position"],
        spec=_spec(data["spec"]),
        **_readings(data),
        bearing_play_mm=data.get("bearing_play_mm"),
        pads=_lists(Pads, data.get("pads_mm")),
        drum=_lists(Drum, data.get("drum_mm"), suffix="_mm"),
        seen=frozenset(data.get("findings", [])),
        wear=wear_from_data(data["wear"]) if "wear" in data else None,
        plate_fitted=data.get("plate_fitted", False),
        seating_tir_mm=shop.get("seating_tir_mm", SEATING_TIR_MM),
        after=tuple(AfterWork(**_readings(read), work=read.get("work", "")) for read in data.get("after", [])),
    )


def _readings(data: dict[str, Any]) -> dict[str, Any]:
    return {
        # One without a reading is only laid out: it says nothing, as on a page.
        "sweeps": tuple(_sweep(sweep) for sweep in data.get("sweeps", []) if sweep["readings_mm"]),
        "high_spots": tuple(
            HighSpot(**{**spot, "surface": Surface(spot["surface"])}) for spot in data.get("high_spots", [])
        ),
        "thickness": _thickness(data["thickness"]) if "thickness" in data else None,
    }


def _lists(record: type[_Record], data: dict[str, list[float]] | None, *, suffix: str = "") -> _Record | None:
    if data is None:
        return None
    return record(**{key + suffix: tuple(values) for key, values in data.items()})


def _spec(data: dict[str, Any]) -> Spec:
    positions = data.get("index_positions")
    return Spec(
        **{
            **data,
            "studs": int(data["studs"]),
            "features": frozenset(data.get("features", [])),
            "index_positions": tuple(positions) if positions else None,
        }
    )


def _sweep(data: dict[str, Any]) -> Sweep:
    readings = _floats(data["readings_mm"])
    stations = _floats(data["stations_deg"]) if "stations_deg" in data else None
    return Sweep(
        **{
            **data,
            "surface": Surface(data["surface"]),
            "stations_deg": stations_or_default(stations, readings.size),
            "readings_mm": readings,
        }
    )


def _thickness(data: dict[str, Any]) -> ThicknessRound:
    rows = _floats(data["readings_mm"])
    stations = _floats(data["stations_deg"]) if "stations_deg" in data else None
    return ThicknessRound(
        **{
            **data,
            "stations_deg": stations_or_default(stations, rows.shape[1]),
            "radii_mm": _floats(data["radii_mm"]),
            "readings_mm": rows,
            "over_lips": OverLips(**data["over_lips"]) if "over_lips" in data else None,
        }
    )


def _floats(values: Any) -> FloatArray:
    return np.asarray(values, dtype=np.float64)


def _path(parts: Iterable[str | int]) -> str:
    path = ""
    for part in parts:
        path = f"{path}[{part}]" if isinstance(part, int) else _join(path, part)
    return path


def _join(path: str, key: str) -> str:
    return f"{path}.{key}" if path else key


def _shown(value: Any) -> str:
    if isinstance(value, (dict, list)):
        return _KINDS["array" if isinstance(value, list) else "object"]
    if isinstance(value, int) and not isinstance(value, bool) and abs(value) > 10**15:
        return Words(_N("so large a number"))
    text = json.dumps(value, ensure_ascii=True) if not isinstance(value, str) else repr(value)
    return text if len(text) <= 60 else text[:57] + "…"


def shop_from_data(data: Mapping[str, Any]) -> Shop:
    """Read the ``shop`` of a case file that has passed its schema."""
    given = {name: data[name] for name in _TOLD if name in data}
    return Shop(
        plates=tuple(
            Plate(**{**row, "positions": int(row["positions"]), "studs": int(row["studs"])})
            for row in data.get("plates", [])
        ),
        lathes=tuple(Lathe(**row) for row in data.get("lathes", [])),
        **given,
    )


def wear_from_data(data: Mapping[str, float]) -> WearRate:
    """Read a corner's ``wear``: the file says ``u_mm`` for the expanded uncertainty."""
    return WearRate(mm_per_1000_km=data["mm_per_1000_km"], expanded_mm=data.get("u_mm", 0.0))


def complaint_from_data(data: Mapping[str, Any]) -> Complaint:
    """Read a ``complaint`` that has passed its schema."""
    given: dict[str, Any] = {name: tuple(value) if isinstance(value, list) else value for name, value in data.items()}
    mended = tuple(MendedBeside(**one) for one in data.get("mended_beside", ()))
    return Complaint(**given | {"mended_beside": mended})
