"""Tests of the core. Slow machines are no fault: properties are not timed."""

from hypothesis import HealthCheck, settings

# The same examples every run: a figure that is drawn scatters, and a run must say the same of the same code.
settings.register_profile("house", deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("house")
