"""Experiments, and the sheets that they and their runs follow."""

import uuid

from django.conf import settings
from django.db import models
from django.urls import reverse

from recensor.core import circuit, lengths
from recensor.core.circuit import MEASURED, JudgedBy
from recensor.core.quantity import LONGEST_TEXT
from recensor.formats.documents import run_document
from recensor.web.append_only import InsertOnly


class SheetRow(InsertOnly):
    """Parts, setups and asked readings, as one run-document tree. Immutable: editing makes a new sheet."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    tree = models.JSONField()
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="sheets")
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        db_table = "experiments_sheet"

    def __str__(self) -> str:
        return str(self.tree.get("title", self.id))

    @classmethod
    def of(cls, sheet: circuit.Sheet, author: models.Model) -> "SheetRow":
        """Keep a sheet. Raises `Refused` for one that could not be read back."""
        tree = run_document.sheet_to_tree(sheet)
        run_document.sheet_from_tree(tree)
        return cls.objects.create(tree=tree, author=author)

    def holds(self, sheet: circuit.Sheet) -> bool:
        """Whether it is the same sheet, to the letter."""
        return bool(self.tree == run_document.sheet_to_tree(sheet))

    def as_sheet(self) -> circuit.Sheet:
        """The sheet as the core knows it."""
        return run_document.sheet_from_tree(self.tree)


class Experiment(models.Model):
    """What a run follows, as it stands now: title, aim, what judges, and the sheet of its version `at`.

    Runs keep the sheet that they started from. `sealed`: calculated values are shown once a point is read;
    `own_calculations`: people are asked for their own calculation.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="experiments")
    title = models.CharField(max_length=lengths.TITLE)
    aim = models.TextField(max_length=lengths.AIM, blank=True)
    judged_by = models.CharField(max_length=12, default=JudgedBy.PERCENT)
    limit = models.CharField(max_length=LONGEST_TEXT, default="5 %")
    against = models.CharField(max_length=12, default=MEASURED)
    meter_in = models.BooleanField(default=False, db_default=False)
    sealed = models.BooleanField(default=False)
    own_calculations = models.BooleanField(default=False, db_default=False)
    at = models.PositiveIntegerField(default=1)
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ("-changed", "-id")

    def __str__(self) -> str:
        return self.title

    def get_absolute_url(self) -> str:
        """The experiment's page."""
        return reverse("experiments:experiment", args=(self.pk,))


class Version(models.Model):
    """One state of an experiment's sheet, made from the state `before`. A number is a version for good."""

    experiment = models.ForeignKey(Experiment, on_delete=models.CASCADE, related_name="versions")
    number = models.PositiveIntegerField()
    before = models.PositiveIntegerField(null=True)
    sheet = models.ForeignKey(SheetRow, on_delete=models.PROTECT, related_name="versions")

    class Meta:
        ordering = ("number",)
        constraints = (models.UniqueConstraint(fields=("experiment", "number"), name="one_sheet_for_each_version"),)

    def __str__(self) -> str:
        return f"{self.experiment}, version {self.number}"
