"""What a run follows, and the parts it is built from."""

import uuid

from django.conf import settings
from django.db import models
from django.urls import reverse

from recensor.core.quantity import LONGEST_TEXT, OHM, stated
from recensor.core.record import MEASURED, PERCENT, Run
from recensor.formats import run_document
from recensor.library.append_only import AppendOnly


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


class Experiment(models.Model):
    """What a run follows, as it stands now: title, aim, what judges, and the sheet that step `at` of its editing made.

    Runs keep the sheet that they started from. `sealed`: calculated values are shown once a point is read.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="experiments")
    title = models.CharField(max_length=120)
    aim = models.TextField(max_length=2000, blank=True)
    judged_by = models.CharField(max_length=12, default=PERCENT)
    limit = models.CharField(max_length=LONGEST_TEXT, default="5 %")
    against = models.CharField(max_length=12, default=MEASURED)
    sealed = models.BooleanField(default=False)
    at = models.PositiveIntegerField(default=1)
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ("-changed", "-id")

    def __str__(self) -> str:
        return self.title

    def get_absolute_url(self) -> str:
        """The experiment's page."""
        return reverse("library:experiment", args=(self.pk,))


class Step(models.Model):
    """One state of an experiment's sheet, made from the state `before`. Steps stay: a number is a version for good."""

    experiment = models.ForeignKey(Experiment, on_delete=models.CASCADE, related_name="steps")
    number = models.PositiveIntegerField()
    before = models.PositiveIntegerField(null=True)
    sheet = models.ForeignKey(Sheet, on_delete=models.PROTECT, related_name="steps")

    class Meta:
        ordering = ("number",)
        constraints = (models.UniqueConstraint(fields=("experiment", "number"), name="one_sheet_for_each_step"),)

    def __str__(self) -> str:
        return f"{self.experiment}, step {self.number}"


class Kit(models.Model):
    """A stock of resistors: its bins hold the values and how many there are."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="kits")
    name = models.CharField(max_length=80)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("name", "id")

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        """The kit's page."""
        return reverse("library:kit", args=(self.pk,))


class Bin(models.Model):
    """One value of a kit: ohms, tolerance in %, rating in watts where stated, and how many are in it now."""

    kit = models.ForeignKey(Kit, on_delete=models.CASCADE, related_name="bins")
    value = models.DecimalField(max_digits=30, decimal_places=15)
    tolerance = models.DecimalField(max_digits=6, decimal_places=3)
    rating = models.DecimalField(max_digits=8, decimal_places=4, null=True)
    count = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ("value", "tolerance")
        constraints = (models.UniqueConstraint(fields=("kit", "value", "tolerance"), name="one_bin_for_each_value"),)

    def __str__(self) -> str:
        return f"{stated(self.value, OHM)} ± {self.tolerance.normalize():f} %"


class Sorting(models.Model):
    """A handful that is being measured part by part into a kit's bins.

    `bins` are its bins for good: pairs of nominal value in ohms and tolerance in %, as texts.
    """

    kit = models.ForeignKey(Kit, on_delete=models.CASCADE, related_name="sortings")
    bins = models.JSONField()
    words = models.CharField(max_length=80)
    accuracy = models.CharField(max_length=LONGEST_TEXT, blank=True)
    put_away = models.DateTimeField(null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-created", "-id")

    def __str__(self) -> str:
        return f"{self.kit}: {self.words}"

    def get_absolute_url(self) -> str:
        """The sorting table."""
        return reverse("library:sorting", args=(self.pk,))


class SortedPart(AppendOnly):
    """One part measured on a sorting table, as typed; or the taking back of an earlier entry, with the same value.

    `value` and `resolution` in ohms; `key` makes a resend harmless.
    """

    sorting = models.ForeignKey(Sorting, on_delete=models.PROTECT, related_name="entries")
    text = models.CharField(max_length=LONGEST_TEXT)
    unit = models.CharField(max_length=12, blank=True)
    value = models.DecimalField(max_digits=30, decimal_places=15)
    resolution = models.DecimalField(max_digits=30, decimal_places=15)
    takes_back = models.OneToOneField("self", on_delete=models.PROTECT, null=True, related_name="taken_back_by")
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="sorted_parts")
    time = models.DateTimeField()
    key = models.UUIDField()

    class Meta:
        ordering = ("id",)
        constraints = (models.UniqueConstraint(fields=("sorting", "key"), name="one_part_for_each_key"),)

    def __str__(self) -> str:
        return f"{self.text} {self.unit}".strip()
