"""Stand-ins for outside devices: a simulated corner that sends its readings, a phone that has recorded a road test.

``bin/standin dial|micrometer`` plays a corner over the HTTP interface (``--to`` and ``--key``), or, with ``--type``, as
lines on standard output, as a keyboard-style sender types them. ``bin/standin road`` writes a recording.
"""

import argparse
import json
import random
import signal
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Final

import numpy as np

from compass.measure.recording import recording_csv
from compass.simulate.corner import SimulatedCorner, random_corner, worn_by_runout
from compass.simulate.road import made_recording

FAULTS: Final = {
    "disc": {"order": 1.0, "braking_only": True},
    "two-thin-places": {"order": 2.0, "braking_only": True},
    "wheel": {"order": 1.0, "braking_only": False},
    "nothing": {"order": 1.0, "amplitude": 0.0},
}
_TRIES: Final = 40


@dataclass(frozen=True)
class Reading:
    """One reading as a device names it."""

    name: str
    value_mm: float
    station: int


def readings(kind: str, *, seed: int, stations: int, run: str) -> list[Reading]:
    """Return a turn of a corner as a device reads it: a dial comes back to its start, a micrometer does not."""
    g = np.random.default_rng(seed)
    corner: SimulatedCorner = worn_by_runout(random_corner(g), depth_mm=0.02)
    if kind == "dial":
        sweep = corner.sweep(g, stations=stations, instrument=corner.dial(0.001))
        values = [*sweep.readings_mm.tolist(), sweep.closing_mm or 0.0]
    else:
        values = corner.micrometer_round(g, stations=stations).readings_mm[0].tolist()
    return [Reading(f"{run}-{k}", round(float(mm), 4), k) for k, mm in enumerate(values, start=1)]


def muddled(sent: list[Reading], *, seed: int, twice: bool, shuffle: bool) -> list[Reading]:
    """Return readings as a bad line delivers them: some twice, some late."""
    order = random.Random(seed)
    out = [one for one in sent for _n in range(2 if twice and order.random() < 0.5 else 1)]
    if shuffle:
        order.shuffle(out)
    return out


def post(url: str, key: str, body: dict[str, Any]) -> tuple[int, dict[str, Any]]:
    """Send one reading; return the status and what was answered. Status 0: nobody is there."""
    request = urllib.request.Request(  # noqa: S310  # the address is the one who starts this says
        f"{url.rstrip('/')}/api/1/readings",
        data=json.dumps(body).encode(),
        headers={"Authorization": f"Bearer {key}", "Content-Type": "application/json"},
    )
    try:
        with urllib.request.urlopen(request, timeout=10) as answer:  # noqa: S310
            return answer.status, json.load(answer)
    except urllib.error.HTTPError as error:
        with error:
            text = error.read().decode(errors="replace")
        try:
            return error.code, json.loads(text)
        except ValueError:
            return error.code, {}
    except (urllib.error.URLError, OSError):
        return 0, {}


def send(url: str, key: str, sent: list[Reading], *, pause_s: float, battery: float, stations: bool) -> Iterator[str]:
    """Send readings, each until it is answered; yield a line for each."""
    for one in sent:
        body: dict[str, Any] = {"id": one.name, "value": one.value_mm, "unit": "mm", "battery": battery}
        if stations:
            body["station"] = one.station
        for _try in range(_TRIES):
            status, told = post(url, key, body)
            if status not in (0, 409, 429, 502, 503):
                break
            time.sleep(max(pause_s, 0.25))  # kept, and sent again under its own name
        became = told.get("outcome") or told.get("expected", "")
        yield f"{one.value_mm:+.4f} mm  {status}  {became} {told.get('why', '')}"
        time.sleep(pause_s)


def recording(fault: str, *, seed: int, circumference_mm: float) -> str:
    """Return a road test as a phone's logger exports it: CSV of time, acceleration, speed."""
    made = made_recording(np.random.default_rng(seed), circumference_mm=circumference_mm, **FAULTS[fault])  # type: ignore[arg-type]
    return recording_csv(made)


def main(arguments: list[str] | None = None) -> int:
    """Play the device that is asked for."""
    parser = argparse.ArgumentParser(prog="bin/standin", description=__doc__)
    parser.add_argument("device", choices=["dial", "micrometer", "road"])
    parser.add_argument("--seed", type=int, default=1, help="which corner, which road")
    parser.add_argument("--stations", type=int, default=10)
    parser.add_argument("--to", default="http://127.0.0.1:8600", help="where Iron Compass is")
    parser.add_argument("--key", default="", help="the key made for this instrument in the store")
    parser.add_argument("--type", action="store_true", help="print readings as a keyboard-style sender types them")
    parser.add_argument("--pause", type=float, default=1.0, help="seconds between two readings")
    parser.add_argument("--battery", type=float, default=0.8)
    parser.add_argument("--twice", action="store_true", help="send some readings twice")
    parser.add_argument("--shuffle", action="store_true", help="send them out of order, each with its station")
    parser.add_argument("--fault", choices=sorted(FAULTS), default="disc", help="of a road test")
    parser.add_argument("--circumference", type=float, default=2000.0, help="of the tyre, mm; of a road test")
    told = parser.parse_args(arguments)
    if told.device == "road":
        sys.stdout.write(recording(told.fault, seed=told.seed, circumference_mm=told.circumference))
        return 0
    sent = readings(
        told.device, seed=told.seed, stations=told.stations, run=f"run{told.seed}-{random.getrandbits(40):x}"
    )
    if told.type:
        for one in sent:
            print(f"{one.value_mm:.3f}", flush=True)
            time.sleep(told.pause)
        return 0
    if not told.key:
        parser.error("--key is wanted: make one in the store, on the instrument's page")
    sent = muddled(sent, seed=told.seed, twice=told.twice, shuffle=told.shuffle)
    for line in send(told.to, told.key, sent, pause_s=told.pause, battery=told.battery, stations=told.shuffle):
        print(line, flush=True)
    return 0


if __name__ == "__main__":
    signal.signal(signal.SIGPIPE, signal.SIG_DFL)  # whoever reads has heard enough
    raise SystemExit(main())
