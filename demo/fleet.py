"""The demo's people and vehicles: the workshop of a small island's community transport. All of it is made up."""

from typing import Any, Final

PASSWORD: Final = "salt-and-iron"  # noqa: S105 — printed by bin/start; the demo holds nothing worth guarding

PEOPLE: Final = (
    ("holm", "Runa", "Holm", "lead"),
    ("brandt", "Aksel", "Brandt", "technician"),
    ("okoro", "Sunniva", "Okoro", "technician"),
    ("ness", "Ivo", "Ness", "trainee"),
)

# name, registration, kind, made-up make and model, odometer km, rolling circumference mm
VEHICLES: Final = (
    ("Minibus 1", "IS 10 431", "van", "Ternholm Pilot 16", 212_480, 2180),
    ("Minibus 2", "IS 10 432", "van", "Ternholm Pilot 16", 187_905, 2180),
    ("Minibus 3", "IS 10 877", "van", "Ternholm Pilot 16 L", 154_310, 2180),
    ("Minibus 4", "IS 11 206", "van", "Varda Combina", 121_744, 2095),
    ("Minibus 5", "IS 11 207", "van", "Varda Combina", 118_020, 2095),
    ("Minibus 6", "IS 12 058", "van", "Varda Combina Lift", 84_210, 2095),
    ("Meal van 1", "IS 20 115", "van", "Klippa Box", 96_350, 1980),
    ("Meal van 2", "IS 20 116", "van", "Klippa Box", 101_870, 1980),
    ("Meal van 3", "IS 20 240", "van", "Klippa Box Cool", 43_290, 1980),
    ("Nurse’s car", "IS 30 018", "car", "Aldra Mono", 66_940, 1875),
    ("Pool car", "IS 30 022", "car", "Aldra Mono", 141_615, 1875),
    ("Quay truck", "IS 40 003", "light_truck", "Bergvik 35", 73_480, 2310),
    ("Wheelchair trailer", "IS 90 077", "trailer", "Holm & Daughter twin-axle", 58_640, 1790),  # a counter on its hub
    ("Bin trailer", "IS 90 081", "trailer", "Holm & Daughter twin-axle", 61_020, 1790),
    ("Courier motorcycle", "IS 50 009", "motorcycle", "Myrra 250 Post", 38_760, 1960),
)

# Vehicles that are only in the record: nothing is wrong with them today.
QUIET_VEHICLES: Final = (
    ("Minibus 7", "IS 12 311", "van", "Varda Combina", 71_920, 2095),
    ("Library bus", "IS 41 007", "light_truck", "Bergvik 35", 58_230, 2310),
    ("Meal van 4", "IS 20 318", "van", "Klippa Box", 61_470, 1980),
    ("Doctor’s car", "IS 30 031", "car", "Aldra Mono", 49_105, 1875),
)

# name, kind, native, graduation mm, face, divisions, error limit mm, days since its last check
INSTRUMENTS: Final = (
    ("Dial 1", "dial", "mm", 0.01, "balanced", 100, 0.0, 40),
    ("Dial 2, continuous", "dial", "mm", 0.01, "continuous", 100, 0.004, 210),
    ("Lever dial", "dial", "mm", 0.002, "balanced", 100, 0.002, 95),
    ("Old inch dial", "dial", "in", 0.0254, "continuous", 100, 0.013, 520),
    ("Disc micrometer", "micrometer", "mm", 0.001, "balanced", 100, 0.002, 40),
    ("Micrometer in the van", "micrometer", "mm", 0.01, "balanced", 100, 0.005, 300),
    ("Plain caliper", "caliper", "mm", 0.02, "balanced", 100, 0.03, 130),
)

# vehicle, position, odometer km when fitted, thickness mm
FITTINGS: Final = (
    ("Minibus 6", "FL", 41_800, 28.03),
    ("Minibus 6", "FR", 41_800, 28.01),
    ("Minibus 2", "FL", 180_400, 30.02),
    ("Pool car", "FL", 118_000, 22.04),
    ("Pool car", "FR", 118_000, 22.02),
)

# name, kind, mm a line, runout left mm, least depth, finish depth, most vented, most solid mm, feeds, tip corners, in use
LATHES: Final = (
    ("Hub lathe", "on_vehicle", 0.02, 0.015, 0.05, 0.1, 0.4, 0.2, "0.15 mm a turn", "0.08 mm a turn", 3, 2),
    ("Bench lathe", "bench", 0.025, 0.02, 0.08, 0.1, 0.5, 0.25, "0.2 mm a turn", "0.06 mm a turn", 3, 1),
)

# correction mm, at radius mm, studs, positions, in stock
PLATES: Final = (
    (0.05, 130.0, 5, 10, 4), (0.1, 130.0, 5, 10, 3), (0.15, 130.0, 5, 10, 2),
    (0.05, 130.0, 6, 12, 2), (0.1, 130.0, 6, 12, 2), (0.15, 130.0, 6, 12, 0),
    (0.1, 150.0, 8, 16, 1),
)  # fmt: skip

# the workshop's own figures, in the island's money
FIGURES: Final[dict[str, Any]] = {
    "currency": "kr", "labour_per_hour": 640, "price_rotor": 780, "price_plate": 290, "price_hub_unit": 1950,
    "price_comeback": 2600, "minutes_on_vehicle_cut": 50, "minutes_bench_cut": 65, "minutes_new_rotors": 35,
}  # fmt: skip

# per make: axle → figures of its limits (mm)
LIMITS: Final[dict[str, dict[str, dict[str, Any]]]] = {
    "Ternholm": {
        "F": {"studs": 6, "rotor": "vented", "new": 30.0, "discard": 27.0, "machine": 27.6, "radius": 142, "runout": 0.06, "torque": 190, "hub": (0.03, 68), "play": 0.06, "pad": 3.0,
              "torques": {"caliper": 36, "bracket": 168, "hose_fitting": 19, "hub_nut": 320}},
        "R": {"studs": 6, "rotor": "solid", "new": 16.0, "discard": 14.0, "machine": 14.5, "radius": 138, "runout": 0.07, "torque": 190, "play": 0.06, "pad": 3.0},
    },
    "Varda": {
        "F": {"studs": 5, "rotor": "vented", "new": 28.0, "discard": 25.4, "machine": 25.8, "radius": 138, "runout": 0.05, "torque": 140, "hub": (0.03, 64), "play": 0.05, "pad": 3.0,
              "torques": {"bracket": 112, "hose_fitting": 17}},
        "R": {"studs": 5, "rotor": "solid", "new": 14.0, "discard": 12.4, "machine": None, "radius": 132, "runout": 0.06, "torque": 140, "hub": (0.04, 62), "play": 0.05, "pad": 2.5,
              "features": ["drum_in_hat"], "drum": 191.0, "lining": 1.0},
    },
    "Klippa": {
        "F": {"studs": 5, "rotor": "vented", "new": 25.0, "discard": 22.4, "machine": 23.0, "radius": 128, "runout": 0.05, "torque": 120, "play": 0.05, "pad": 2.5},
        "R": {"studs": 5, "rotor": "solid", "new": 12.0, "discard": 10.2, "machine": None, "radius": 120, "runout": 0.06},
    },
    "Aldra": {
        "F": {"studs": 4, "rotor": "vented", "new": 22.0, "discard": 19.6, "machine": 20.1, "radius": 118, "runout": 0.04, "torque": 100, "play": 0.04},
        "R": {"studs": 4, "rotor": "solid", "new": 10.0, "discard": 8.3, "machine": None, "radius": 112, "runout": 0.05},
    },
    "Bergvik": {
        "F": {"studs": 8, "rotor": "vented", "new": 34.0, "discard": 31.0, "machine": 31.8, "radius": 158, "runout": 0.08, "torque": 210, "play": 0.08},
        "R": {"studs": 8, "rotor": "vented", "new": 32.0, "discard": 29.0, "machine": 29.8, "radius": 152, "runout": 0.08},
    },
    "Holm": {
        "A1": {"studs": 5, "rotor": "solid", "new": 12.0, "discard": 10.0, "machine": None, "radius": 115, "runout": 0.08},
        "A2": {"studs": 5, "rotor": "solid", "new": 12.0, "discard": 10.0, "machine": None, "radius": 115, "runout": 0.08},
    },
    "Myrra": {
        "F": {"studs": 6, "rotor": "solid", "new": 5.0, "discard": 4.5, "machine": None, "radius": 126, "runout": 0.15,
              "torques": {"caliper": 25, "pad_pin": 16, "axle": 68, "disc_bolt": 26},
              "features": ["drilled", "floating"]},
        "R": {"studs": 5, "rotor": "solid", "new": 5.0, "discard": 4.5, "machine": None, "radius": 108, "runout": 0.15,
              "features": ["drilled"]},
    },
}  # fmt: skip
