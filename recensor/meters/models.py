"""Meters as things on a shelf, and profiles as what is known of their kind."""

from django.conf import settings
from django.db import models
from django.urls import reverse

from recensor.core import lengths
from recensor.web.append_only import InsertOnly


class ProfileRow(InsertOnly):
    """What is known of a kind of meter: functions, ranges, accuracies, jacks. A change makes a new one.

    `tree` is a profile as a run document holds it; a shipped one is its name. `replaces` is what it was before the
    last change.
    """

    name = models.CharField(max_length=80)
    tree = models.JSONField()
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="profiles")
    created = models.DateTimeField(auto_now_add=True)
    replaces = models.OneToOneField("self", on_delete=models.PROTECT, null=True, related_name="replaced_by")

    class Meta:
        db_table = "meters_profile"
        ordering = ("name", "-id")

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        """The profile's page."""
        return reverse("meters:profile", args=(self.pk,))


class Meter(models.Model):
    """One instrument, by the name that its owner knows it under; its profile where that is known.

    Instrument number and calibration date belong to the instrument, not to the profile.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="meters")
    name = models.CharField(max_length=lengths.NAME, db_collation="utf8mb4_bin")
    number = models.CharField(max_length=lengths.NAME, blank=True)
    calibrated = models.DateField(null=True)
    profile = models.ForeignKey(ProfileRow, on_delete=models.PROTECT, null=True, related_name="meters")

    class Meta:
        ordering = ("name",)
        constraints = (models.UniqueConstraint(fields=("owner", "name"), name="one_meter_of_each_name"),)

    def __str__(self) -> str:
        return self.name
