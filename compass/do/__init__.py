"""The work as data."""
