"""A visit to the workshop, simulated: checks that are asked for are made on the hidden vehicle and charged in minutes,
what is decided is carried out, and the vehicle is driven on.
"""

from dataclasses import dataclass, field, replace
from typing import Final

import numpy as np

from compass.cause.causes import Cause
from compass.cause.checks import MINUTES, OPENING_MINUTES
from compass.choose.remedies.comeback import FELT_MM, distance_km
from compass.evidence.complaint import Complaint, MendedBeside
from compass.evidence.records import AfterWork, Case, Corner, OverLips, Pads, Surface, Sweep, ThicknessRound
from compass.evidence.shop import Lathe, Plate, Shop
from compass.simulate.corner import Instrument, SimulatedCorner
from compass.simulate.happenings import Fault, HiddenVehicle, braked
from compass.simulate.repair import repaired

FINE_DIAL_MM: Final = 0.002
FINE_MICROMETER_MM: Final = 0.001
_IN_SIGHT: Final = frozenset(
    {"cracked", "vent_showing", "blue_spots", "pad_shaped_patch", "deep_grooves", "tyre_damage"}
)
_BESIDE: Final = frozenset({"slides_seized", "piston_stuck", "joint_play", "drum_out_of_round"})
_FELT_BESIDE: Final = frozenset({Cause.TYRE, Cause.SUSPENSION, Cause.ABS, Cause.CALIPER, Cause.BEARING})
_TELLS_RIGHT: Final = 0.95
_WITHOUT_BRAKING: Final = frozenset({Cause.TYRE, Cause.SUSPENSION})
WORKSHOP: Final = Shop(
    plates=tuple(Plate(c, 140.0, 2 * n, n) for c in (0.04, 0.07, 0.10) for n in (4, 5, 6)),
    lathes=(Lathe("on_vehicle", 0.012, 0.05, {"vented": 0.4}), Lathe("bench", 0.01, 0.05, {"vented": 0.3})),
)


@dataclass(slots=True)
class Habits:
    """How this workshop measures: dial, micrometer, lips under a caliper, stations, how the first sweep is taken."""

    dial_mm: float
    read_to: float
    micrometer_mm: float
    over_lips: bool
    stations: int
    cleaned_at_first: bool
    torqued_at_first: bool

    @classmethod
    def of(cls, g: np.random.Generator) -> "Habits":
        """Draw a workshop's instruments as they are met."""
        caliper = bool(g.random() < 0.15)
        return cls(
            dial_mm=float(g.choice([0.01, 0.01, 0.01, 0.002])),
            read_to=float(g.choice([0.5, 1.0])),
            micrometer_mm=0.02 if caliper else float(g.choice([0.001, 0.001, 0.01])),
            over_lips=caliper,
            stations=int(g.choice([8, 10, 12])),
            cleaned_at_first=bool(g.random() < 0.15),
            torqued_at_first=bool(g.random() < 0.5),
        )


@dataclass(slots=True)
class _Bench:
    """One wheel as the technician has it: what was measured, how the rotor sits."""

    sweeps: list[Sweep] = field(default_factory=list)
    thickness: ThicknessRound | None = None
    play_mm: float | None = None
    pads: Pads | None = None
    seen: frozenset[str] = frozenset()
    seat: complex | None = None  # of the mounting that stands
    fine_dial: bool = False
    fine_micrometer: bool = False
    opened: bool = False


class Visit:
    """One hidden vehicle in one workshop. ``minutes_at`` are those of checks by corner, ``checks`` what was made."""

    def __init__(self, hidden: HiddenVehicle, habits: Habits, g: np.random.Generator, shop: Shop = WORKSHOP) -> None:
        self.hidden, self.habits, self.g, self.shop = hidden, habits, g, shop
        self.discs: dict[str, SimulatedCorner] = {p: c.disc for p, c in hidden.corners.items()}
        self.benches = {p: _Bench() for p in hidden.corners}
        self.complaint: Complaint = hidden.complaint
        self.minutes_at: dict[str | None, float] = {}
        self.checks: list[tuple[str, str | None]] = []
        self.repaired: dict[str, list[str]] = {}
        self._came_in: dict[str, Corner] = {}  # what was found before the first work there
        self.proven: set[str] = set()  # worked on, and measured since
        self.put_right: set[Fault] = set()  # beside the discs, where it was truly at fault or not

    @property
    def minutes(self) -> float:
        """Return what all checks took."""
        return sum(self.minutes_at.values())

    def _charge(self, position: str | None, minutes: float) -> None:
        self.minutes_at[position] = self.minutes_at.get(position, 0.0) + minutes

    @property
    def case(self) -> Case:
        """All that was measured so far."""
        return Case(
            corners=tuple(self._corner(p) for p, bench in self.benches.items() if bench.opened),
            vehicle=self.hidden.facts,
            complaint=self.complaint,
            shop=self.shop,
        )

    def make(self, check: str, position: str | None, index_deg: float | None = None) -> None:
        """Make a check on the hidden vehicle, and charge its minutes."""
        self.checks.append((check, position))
        self._charge(position, MINUTES[check])
        if check == "road_test":
            self.complaint = replace(self.complaint, road_test=self._on_the_road())
            return
        if check == "ask_driver":
            self.complaint = replace(self.complaint, braking=braked(self.g, self.hidden.faults))
            return
        if position is None:
            raise ValueError(check)
        bench, hidden = self.benches[position], self.hidden.corners[position]
        if not bench.opened:
            self._charge(position, OPENING_MINUTES)
            bench.opened, bench.seen = True, hidden.seen & _IN_SIGHT
        match check:
            case "sweep_rotor" | "measure_other_corner":
                self._sweep(position, self.habits.cleaned_at_first, self.habits.torqued_at_first)
            case "clean_and_sweep":
                bench.seen |= hidden.seen & {"rust_at_joint"}
                bench.seat = None
                self._sweep(position, True, True)
            case "torque_and_sweep":
                bench.seat = None
                self._sweep(position, any(s.cleaned for s in bench.sweeps), True)
            case "repeat_sweep" | "reread_station" | "finer_dial":
                bench.fine_dial |= check == "finer_dial"
                last = next((s for s in reversed(bench.sweeps) if s.surface is Surface.ROTOR_OUTBOARD), None)
                clean, torqued = (last.cleaned, last.nuts_torqued) if last else (True, True)
                self._sweep(position, clean, torqued, index_deg=last.index_deg if last else 0.0)
            case "turn_rotor_and_sweep":
                bench.seat = None
                half = min(hidden.spec.positions_deg, key=lambda p: abs(p - 180))
                self._sweep(position, True, True, index_deg=half if index_deg is None else index_deg)
            case "sweep_hub_face" | "arbor_sweep":
                hub = check == "sweep_hub_face"
                surface = Surface.HUB_FACE if hub else Surface.ARBOR
                bench.seat = None
                self._sweep(position, True, True, surface=surface, radius_mm=65.0 if hub else None)
            case "measure_thickness" | "repeat_round" | "finer_micrometer":
                bench.fine_micrometer |= check == "finer_micrometer"
                self._mike(position, again=check == "repeat_round")
            case "bearing_play":
                renewed = "hub_unit" in self.repaired.get(position, [])
                bench.play_mm = 0.0 if renewed else round(hidden.play_mm, 2)
                bench.seen |= hidden.seen & {"joint_play"}
            case "inspect_pads_and_slides":
                bench.pads, bench.seen = hidden.pads, bench.seen | hidden.seen & _BESIDE
            case _:
                raise ValueError(check)

    def carry_out(self, position: str, remedy: str, settings: dict[str, float]) -> None:
        """Carry a remedy out; what was measured of the disc as it was no longer counts."""
        spec = self.hidden.corners[position].spec
        self.discs[position] = repaired(self.discs[position], spec, remedy, settings, shop=self.shop, g=self.g)
        self.repaired.setdefault(position, []).append(remedy)
        if remedy != "none":
            old = self.benches[position]
            self.proven.discard(position)
            self._came_in.setdefault(position, self._corner(position))
            seen = old.seen - {"cracked", "vent_showing", "deep_grooves", "rust_at_joint"}
            play_mm = 0.0 if remedy == "hub_unit" else old.play_mm
            self.benches[position] = _Bench(opened=True, pads=old.pads, seen=seen, play_mm=play_mm)

    def prove(self, position: str) -> None:
        """Sweep and mike what was worked on, as it is when it is clamped with its nuts torqued."""
        self._sweep(position, True, True)
        self._mike(position)

    def keep_proof(self, position: str) -> None:
        """Take what was measured after a work for its proof: what was found before stands beside it from now on."""
        self.proven.add(position)

    def put_right_beside(self, cause: Cause, position: str | None) -> None:
        """Put right what sits beside the discs, where the program says so: it may have been in order."""
        self.put_right.add(Fault(cause, position))
        mended = MendedBeside(cause.value, position)
        self.complaint = replace(self.complaint, mended_beside=(*self.complaint.mended_beside, mended))

    def drive(self) -> bool:
        """Drive it over the speeds of the complaint, a part of every work; return whether it is still felt."""
        uneven = any(disc.true_variation_mm() > FELT_MM for disc in self.discs.values())
        renewed = {p for p, works in self.repaired.items() if "hub_unit" in works}
        left = {f for f in self.hidden.faults if f.cause in _FELT_BESIDE} - self.put_right
        felt = uneven or any(f.cause is not Cause.BEARING or f.position not in renewed for f in left)
        felt = felt if self.g.random() < _TELLS_RIGHT else not felt
        mended = tuple(replace(m, driven=True) for m in self.complaint.mended_beside)
        self.complaint = replace(self.complaint, after_work="same" if felt else "gone", mended_beside=mended)
        return felt

    def comes_back_km(self, position: str) -> float:
        """Return the distance until this wheel's disc is felt again, km."""
        disc = self.discs[position]
        tir = np.array([disc.true_tir_mm(cleaned=False, torqued=False)])
        return float(distance_km(tir, np.array([disc.true_variation_mm()]), shop=Shop())[0])

    def _corner(self, position: str) -> Corner:
        bench = self.benches[position]
        now = Corner(
            position=position,
            spec=self.hidden.corners[position].spec,
            sweeps=tuple(bench.sweeps),
            thickness=bench.thickness,
            bearing_play_mm=bench.play_mm,
            pads=bench.pads,
            seen=bench.seen,
        )
        if position not in self.proven:
            return now
        after = AfterWork(now.sweeps, thickness=now.thickness, work=self.repaired[position][-1])
        before = self._came_in[position]
        return replace(now, sweeps=before.sweeps, thickness=before.thickness, after=(after,))

    def _sweep(
        self,
        position: str,
        cleaned: bool,
        torqued: bool,
        *,
        surface: Surface = Surface.ROTOR_OUTBOARD,
        radius_mm: float | None = None,
        index_deg: float = 0.0,
    ) -> None:
        bench = self.benches[position]
        disc = self.discs[position]
        if surface is not Surface.HUB_FACE and (cleaned or torqued):  # what was put right stays right
            disc = replace(disc, joint=0j if cleaned else disc.joint, nuts=0j if torqued else disc.nuts)
            self.discs[position] = disc
        if bench.seat is None:
            bench.seat = disc.seat(self.g)
        dial = Instrument(
            FINE_DIAL_MM if bench.fine_dial else self.habits.dial_mm,
            self.habits.read_to,
            0.0,
            disc.noise_mm,
            disc.drift_mm,
        )
        taken = disc.sweep(
            self.g,
            stations=self.habits.stations,
            instrument=dial,
            surface=surface,
            radius_mm=radius_mm,
            index_deg=index_deg,
            cleaned=cleaned,
            torqued=torqued,
            tilt=bench.seat if surface is not Surface.HUB_FACE else 0j,
        )
        bench.sweeps.append(taken)

    def _mike(self, position: str, *, again: bool = False) -> None:
        bench, disc = self.benches[position], self.discs[position]
        lips = self.habits.over_lips and not bench.fine_micrometer
        taken = disc.micrometer_round(
            self.g,
            stations=self.habits.stations,
            graduation_mm=FINE_MICROMETER_MM if bench.fine_micrometer else self.habits.micrometer_mm,
            radii_mm=(disc.radius_mm,),
        )
        if lips:
            out, inn = self.g.uniform(0.2, 0.8, 2)
            read = self.g.uniform(-0.05, 0.05, 2)
            shown = np.round((taken.readings_mm + out + inn) / taken.graduation_mm) * taken.graduation_mm
            over = OverLips(float(out + read[0]), float(inn + read[1]))
            taken = replace(taken, readings_mm=shown, over_lips=over)
        if again and bench.thickness is not None:
            n = bench.thickness.rounds
            mean = (bench.thickness.readings_mm * n + taken.readings_mm) / (n + 1)
            taken = replace(taken, readings_mm=mean, rounds=n + 1, over_lips=bench.thickness.over_lips)
        bench.thickness = taken

    def _on_the_road(self) -> str:
        causes = {fault.cause for fault in self.hidden.faults}
        if Cause.ABS in causes and self.g.random() < 0.8:  # its valves beat by themselves, whatever the wheels do
            return "not at wheel order"
        if causes & _WITHOUT_BRAKING or (causes & {Cause.BENT, Cause.BEARING} and self.g.random() < 0.5):
            return "without braking too"
        felt = any(disc.true_variation_mm() > 0.015 for disc in self.discs.values())
        return "only when braking" if felt or causes & {Cause.CALIPER, Cause.DRUM} else "no shake recorded"
