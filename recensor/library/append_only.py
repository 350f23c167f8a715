"""Rows that are inserted once and then stay as they are: what was read."""

from typing import NoReturn

from django.db import models


class AppendOnlyQuerySet(models.QuerySet):
    """Rows that are only ever added."""

    def update(self, **kwargs: object) -> NoReturn:
        raise TypeError("What was read is never edited; strike it and read again.")

    def delete(self) -> NoReturn:
        raise TypeError("What was read is never deleted; strike it.")


class AppendOnly(models.Model):
    """A row that is inserted once and then stays as it is."""

    objects = AppendOnlyQuerySet.as_manager()

    class Meta:
        abstract = True

    def save(self, *args: object, **kwargs: object) -> None:
        """Insert only."""
        if not self._state.adding:
            raise TypeError("What was read is never edited; strike it and read again.")
        super().save(*args, force_insert=True, using=kwargs.get("using"))

    def delete(self, *args: object, **kwargs: object) -> NoReturn:
        """Never."""
        raise TypeError("What was read is never deleted; strike it.")
