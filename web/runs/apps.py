from django.apps import AppConfig


class RunsConfig(AppConfig):
    """Calculations in supervised processes, and their events."""

    name = "runs"
