"""The bench as a Django app."""

from django.apps import AppConfig


class PracticeConfig(AppConfig):
    """Practice: tries and drills."""

    name = "practice"
