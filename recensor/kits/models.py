"""Stocks of resistors, and what was measured on a sorting table."""

from django.conf import settings
from django.db import models
from django.urls import reverse

from recensor.core import lengths
from recensor.core.figures import stated
from recensor.core.quantity import LONGEST_TEXT, OHM
from recensor.web.append_only import AppendOnly


class Kit(models.Model):
    """A stock of resistors: its bins hold the values and how many there are."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="kits")
    name = models.CharField(max_length=80)
    created = models.DateTimeField(auto_now_add=True)
    filled = models.UUIDField(null=True)  # by which press a list of parts last went in

    class Meta:
        ordering = ("name", "id")

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        """The kit's page."""
        return reverse("kits:kit", args=(self.pk,))


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
        return reverse("kits:sorting", args=(self.pk,))


class SortedPart(AppendOnly):
    """One part measured on a sorting table, as typed; or the taking back of an earlier entry, with the same value.

    `value` and `resolution` in ohms; `key` makes a resend harmless.
    """

    sorting = models.ForeignKey(Sorting, on_delete=models.PROTECT, related_name="entries")
    text = models.CharField(max_length=LONGEST_TEXT)
    unit = models.CharField(max_length=lengths.UNIT, blank=True)
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
