"""A road test as a phone would record it."""

import math

import numpy as np
from scipy import signal

from compass.measure.recording import Recording


def made_recording(
    generator: np.random.Generator,
    *,
    circumference_mm: float = 2000.0,
    order: float = 1.0,
    amplitude: float = 0.5,
    braking_only: bool = True,
    rate_hz: float = 100.0,
    noise: float = 0.15,
) -> Recording:
    """Make a recording: three brakings from 100 to 50 km/h with free driving between, a shake at ``order``."""
    seconds = 66.0
    t = np.arange(0, seconds, 1 / rate_hz)
    phase = np.mod(t, 22.0)
    # 6 s at speed, 8 s braking, 8 s picking up again
    speed = np.interp(phase, [0, 6, 14, 22], [100.0, 100.0, 50.0, 100.0]) / 3.6
    braking = (phase > 6) & (phase < 14)
    angle = 2 * math.pi * np.cumsum(speed / rate_hz) / (circumference_mm / 1000)
    strength = amplitude * (braking if braking_only else np.ones_like(t))
    shake = strength * np.sin(order * angle + 0.7)
    road = signal.lfilter([0.2], [1, -0.8], generator.normal(0, noise, (3, t.size)), axis=1) + generator.normal(
        0, noise, (3, t.size)
    )
    axes = road + np.array([0.3, 1.0, 0.4])[:, None] * shake
    axes[0] += np.gradient(speed, t)
    return Recording(t, axes.T, speed)
