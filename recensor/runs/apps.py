"""The app of runs."""

from django.apps import AppConfig


class RunsConfig(AppConfig):
    """Runs. Their label is the name of their tables and of their rows in archives, from the first version on."""

    name = "recensor.runs"
    label = "bench"
