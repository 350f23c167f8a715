"""The name of a kind of row in backups and archives: that of its table, which stays whatever its class is called."""

from functools import cache

from django.apps import apps
from django.db import models


def published_name(model: type[models.Model] | models.Model) -> str:
    """The name of a kind of row, as ``bench.reading``."""
    return model._meta.db_table.replace("_", ".", 1)


@cache
def labels() -> dict[str, str]:
    """Django's own names of all kinds of rows, by their published ones."""
    return {published_name(model): model._meta.label_lower for model in apps.get_models()}
