"""Make a road test to try with: python docs/tools/make_recording.py [ORDER] > drive.csv (66 s, three brakings)."""

import sys

import numpy as np

from compass.measure.recording import recording_csv
from compass.simulate.road import made_recording

if __name__ == "__main__":
    order = float(sys.argv[1]) if len(sys.argv) > 1 else 1.0
    print(recording_csv(made_recording(np.random.default_rng(1), order=order, rate_hz=50.0)), end="")
