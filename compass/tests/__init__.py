"""Tests of the core. Slow machines are no fault: properties are not timed."""

from hypothesis import HealthCheck, settings

settings.register_profile("house", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("house")
