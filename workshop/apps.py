"""Who works here, on what, and within which limits."""

from django.apps import AppConfig


class WorkshopConfig(AppConfig):
    """People, vehicles, limits."""

    name = "workshop"
