"""Durations, and how a line of them is written."""

import time
from collections.abc import Callable
from typing import Any

import numpy as np


def timed(act: Callable[[], object], count: int) -> Any:
    """Return ``count`` durations in seconds, after a tenth as many to warm up."""
    for _ in range(max(count // 10, 2)):
        act()
    times = np.empty(count)
    for k in range(count):
        start = time.perf_counter()
        act()
        times[k] = time.perf_counter() - start
    return times


def line(name: str, times: Any, floor: Any = None) -> str:
    """Say median, 95th percentile and rate of durations in seconds, and their ratio to those of a bare floor."""
    ratio = "" if floor is None else f"   {np.median(times) / np.median(floor):6.1f} × its floor"
    return (
        f"  {name:<31} median {np.median(times) * 1e3:8.2f} ms   p95 {np.quantile(times, 0.95) * 1e3:8.2f} ms"
        f"   {1 / np.mean(times):7.0f} a second{ratio}"
    )
