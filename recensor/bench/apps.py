"""The app of the bench page."""

from django.apps import AppConfig


class BenchConfig(AppConfig):
    """The bench page; it has no tables, and those of runs have the label that it would have."""

    name = "recensor.bench"
    label = "bench_page"
