"""The app of work in the background."""

from django.apps import AppConfig


class JobsConfig(AppConfig):
    """Jobs. Their label is the name that their tables have had from the first."""

    name = "recensor.jobs"
    label = "archive"
