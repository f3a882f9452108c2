"""The job with its legs."""

from django.apps import AppConfig


class JobsConfig(AppConfig):
    """Jobs, corners, sweeps, thickness rounds."""

    name = "jobs"
