"""What a run follows."""

import uuid

from django.conf import settings
from django.db import models

from recensor.core.record import Run
from recensor.formats import run_document


class Sheet(models.Model):
    """Parts, setups and asked readings, as one run-document tree. Immutable: editing makes a new sheet."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    tree = models.JSONField()
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="sheets")
    created = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return str(self.tree.get("title", self.id))

    def save(self, *args: object, **kwargs: object) -> None:
        """Insert only."""
        if not self._state.adding:
            raise TypeError("A sheet is never changed; make a new one.")
        super().save(*args, force_insert=True, using=kwargs.get("using"))

    @classmethod
    def of(cls, run: Run, author: models.Model) -> "Sheet":
        """Keep the parts, setups and asked readings of a run."""
        tree = run_document.to_tree(run)
        tree["readings"] = []
        return cls.objects.create(tree=tree, author=author)

    def as_run(self) -> Run:
        """The sheet as a run without readings."""
        return run_document.from_tree(self.tree)
