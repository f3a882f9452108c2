"""A vehicle's past."""
