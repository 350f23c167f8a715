"""Runs and what was read in them."""

from django.conf import settings
from django.db import models
from django.urls import reverse

from recensor.core.quantity import LONGEST_TEXT
from recensor.library.append_only import AppendOnly
from recensor.library.models import Bin, Experiment, Sheet

NAME = {"max_length": 60, "db_collation": "utf8mb4_bin", "blank": True}


class Run(models.Model):
    """One performance of a sheet by one person; `version` is the step of its experiment that it started from."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="runs")
    title = models.CharField(max_length=120)
    sheet = models.ForeignKey(Sheet, on_delete=models.PROTECT, related_name="runs")
    experiment = models.ForeignKey(Experiment, on_delete=models.SET_NULL, null=True, related_name="runs")
    version = models.PositiveIntegerField(null=True)
    sealed = models.BooleanField(default=False)
    meter = models.CharField(max_length=60, blank=True)
    judged_by = models.CharField(max_length=12, default="percent")
    limit = models.CharField(max_length=LONGEST_TEXT, default="5%")
    against = models.CharField(max_length=12, default="measured")
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-created", "-id")
        indexes = (models.Index(fields=("owner", "-created")),)

    def __str__(self) -> str:
        return self.title

    def get_absolute_url(self) -> str:
        """The run's bench page."""
        return reverse("bench:run", args=(self.pk,))


class DrawnPart(models.Model):
    """A part of a run that came out of a kit; `put_back` once it is in its bin again."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="drawn_parts")
    name = models.CharField(**NAME)
    bin = models.ForeignKey(Bin, on_delete=models.PROTECT, related_name="drawn_parts")
    put_back = models.DateTimeField(null=True)

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return self.name


class BoardState(models.Model):
    """A board as it stands after one act, for one setup of a run; undo takes the last one away.

    `placements` is a list of [name, sort, first hole, second hole, pulled]; `parts` are those that the circuit does
    not have, as they were typed.
    """

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="board_states")
    setup = models.CharField(**NAME)
    rows = models.PositiveSmallIntegerField()
    split = models.BooleanField(default=False)
    placements = models.JSONField()
    parts = models.JSONField(default=list)

    class Meta:
        ordering = ("id",)
        indexes = (models.Index(fields=("run", "setup")),)

    def __str__(self) -> str:
        return f"{self.run}, {self.setup}: {len(self.placements)} placed"


class Reading(AppendOnly):
    """One reading as typed, with all it must carry for good.

    Its target is one of `of`, (`red`, `black`) and `through`. `value` and `resolution` are in the SI
    unit, empty for over-range; `unit` is what was written beside the digits. `key` makes a resend harmless.
    """

    run = models.ForeignKey(Run, on_delete=models.PROTECT, related_name="readings")
    quantity = models.CharField(max_length=12)
    of = models.CharField(**NAME)
    red = models.CharField(**NAME)
    black = models.CharField(**NAME)
    through = models.CharField(**NAME)
    setup = models.CharField(**NAME)
    text = models.CharField(max_length=LONGEST_TEXT)
    unit = models.CharField(max_length=12, blank=True)
    value = models.DecimalField(max_digits=30, decimal_places=15, null=True)
    resolution = models.DecimalField(max_digits=30, decimal_places=15, null=True)
    range = models.CharField(max_length=LONGEST_TEXT, blank=True)
    meter = models.CharField(max_length=60, blank=True)
    note = models.CharField(max_length=200, blank=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="readings")
    time = models.DateTimeField()
    key = models.UUIDField()

    class Meta:
        ordering = ("id",)
        constraints = (models.UniqueConstraint(fields=("run", "key"), name="one_reading_for_each_key"),)

    def __str__(self) -> str:
        return f"{self.text} {self.unit}".strip()


class Strike(AppendOnly):
    """Why, by whom and when a reading was struck through."""

    reading = models.OneToOneField(Reading, on_delete=models.PROTECT, primary_key=True, related_name="strike")
    reason = models.CharField(max_length=200)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="strikes")
    time = models.DateTimeField()

    def __str__(self) -> str:
        return self.reason
