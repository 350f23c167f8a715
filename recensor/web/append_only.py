"""Rows that are inserted once and then stay as they are: what was read, and what was drawn."""

from contextlib import nullcontext
from typing import Any, NoReturn, Self

from django.db import IntegrityError, connection, models, transaction


class AppendOnlyQuerySet(models.QuerySet[Any]):
    """Rows that are only ever added."""

    def update(self, **kwargs: object) -> NoReturn:
        raise TypeError("What was read is never edited; strike it and read again.")

    def delete(self) -> NoReturn:
        raise TypeError("What was read is never deleted; strike it.")


class InsertOnly(models.Model):
    """A row that is inserted once; it may go, but never change."""

    class Meta:
        abstract = True

    def save(self, *args: Any, **kwargs: Any) -> None:
        """Insert only."""
        if not self._state.adding:
            raise TypeError(f"A {self._meta.verbose_name} is never changed; make a new one.")
        super().save(*args, force_insert=True, using=kwargs.get("using"))


class AppendOnly(InsertOnly):
    """A row that is inserted once and then stays as it is."""

    objects = AppendOnlyQuerySet.as_manager()

    class Meta:
        abstract = True

    def delete(self, *args: object, **kwargs: object) -> NoReturn:
        """Never."""
        raise TypeError("What was read is never deleted; strike it.")

    def append_once(self, **under: object) -> Self:
        """Insert this row, or give the one that stands already under the same key.

        By itself the one INSERT is its own transaction; inside another it needs a savepoint to fail alone.
        """
        try:
            with transaction.atomic() if connection.in_atomic_block else nullcontext():
                self.save()
        except IntegrityError:
            standing: Self | None = type(self).objects.filter(**under).first()
            if standing is None:
                raise
            return standing
        return self
