"""Runs, the sheets they followed, what was read in them, and every act on what was read."""

import uuid
from typing import Any

from django.conf import settings
from django.db import models
from django.db.models import OuterRef, Subquery
from django.urls import reverse

from recensor.core import lengths
from recensor.core.circuit import MEASURED, JudgedBy
from recensor.core.quantity import LONGEST_TEXT
from recensor.experiments.models import Experiment, SheetRow
from recensor.kits.models import Bin
from recensor.meters.models import Meter, ProfileRow
from recensor.web.append_only import AppendOnly

NAME: dict[str, Any] = {"max_length": 60, "db_collation": "utf8mb4_bin", "blank": True}


class RunQuerySet(models.QuerySet):
    """Runs, perhaps with the sheet that each follows now."""

    def following(self) -> "RunQuerySet":
        """Each run with `run_sheet_id`, `sheet_id` and `renamed` of the last of its sheets."""
        last = RunSheet.objects.filter(run=OuterRef("pk")).order_by("-id")
        return self.select_related("meter").annotate(
            run_sheet_id=Subquery(last.values("pk")[:1]),
            sheet_id=Subquery(last.values("sheet_id")[:1], output_field=models.UUIDField()),
            renamed=Subquery(last.values("renamed")[:1], output_field=models.JSONField()),
        )


class RunRow(models.Model):
    """One performance by one person; `version` is the one of its experiment that it started from.

    `simulated`: read off a screen instead of a bench. `meter_in`: calculated with each reading's meter drawn in.
    `own_calculations`: people are asked for theirs. `key` makes pressing *start* twice harmless. `closed`: signed off
    then, and nothing is recorded in it until a revision is opened.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="runs")
    title = models.CharField(max_length=lengths.TITLE)
    experiment = models.ForeignKey(Experiment, on_delete=models.SET_NULL, null=True, related_name="runs")
    version = models.PositiveIntegerField(null=True)
    sealed = models.BooleanField(default=False)
    simulated = models.BooleanField(default=False)
    own_calculations = models.BooleanField(default=False, db_default=False)
    meter = models.ForeignKey(Meter, on_delete=models.PROTECT, null=True, related_name="runs")
    judged_by = models.CharField(max_length=12, default=JudgedBy.PERCENT)
    limit = models.CharField(max_length=LONGEST_TEXT, default="5%")
    against = models.CharField(max_length=12, default=MEASURED)
    meter_in = models.BooleanField(default=False, db_default=False)
    created = models.DateTimeField(auto_now_add=True)
    put_away = models.DateTimeField(null=True)
    closed = models.DateTimeField(null=True)
    key = models.UUIDField(null=True)

    objects = RunQuerySet.as_manager()

    # Of runs that are `following`.
    run_sheet_id: int
    sheet_id: uuid.UUID
    renamed: dict[str, str]

    class Meta:
        db_table = "bench_run"
        # By what the index of owners gives for nothing; a clock that was set back puts no new run under an old one.
        ordering = ("-id",)
        constraints = (models.UniqueConstraint(fields=("owner", "key"), name="one_run_for_each_key"),)

    def __str__(self) -> str:
        return self.title

    def get_absolute_url(self) -> str:
        """The run's bench page."""
        return reverse("bench:run", args=(self.pk,))


class RunSheet(AppendOnly):
    """A sheet that a run followed from this moment on.

    A *correction* says better what the circuit always was, and carries over to all readings whose points
    it still has; a *change* opens a new state of the circuit, and what was read before stays with the old one.
    `renamed` says what parts that readings name by an earlier name are called on this sheet.
    """

    class Kind(models.TextChoices):
        START = "start"
        CORRECTION = "correction"
        CHANGE = "change"

    run = models.ForeignKey(RunRow, on_delete=models.PROTECT, related_name="sheets")
    sheet = models.ForeignKey(SheetRow, on_delete=models.PROTECT, related_name="run_sheets")
    kind = models.CharField(max_length=12, choices=Kind.choices)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="run_sheets")
    time = models.DateTimeField()
    act = models.ForeignKey("ActRow", on_delete=models.PROTECT, null=True, related_name="sheets")
    renamed = models.JSONField(default=dict)

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.run}, {self.kind}"


class DrawnPart(models.Model):
    """A part of a run that came out of a kit; `put_back` once it is in its bin again."""

    run = models.ForeignKey(RunRow, on_delete=models.CASCADE, related_name="drawn_parts")
    name = models.CharField(**NAME)
    bin = models.ForeignKey(Bin, on_delete=models.PROTECT, related_name="drawn_parts")
    put_back = models.DateTimeField(null=True)

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return self.name


class BoardState(models.Model):
    """A board as it stands after one act, for one setup of a run; undo takes the last one away.

    `placements` and `board` are the trees of a run document; `parts` are those that the circuit does
    not have, as they were typed.
    """

    run = models.ForeignKey(RunRow, on_delete=models.CASCADE, related_name="board_states")
    setup = models.CharField(**NAME)
    placements = models.JSONField()
    board = models.JSONField(default=dict)
    parts = models.JSONField(default=list)

    class Meta:
        ordering = ("id",)
        indexes = (models.Index(fields=("run", "setup")),)

    def __str__(self) -> str:
        return f"{self.run}, {self.setup}: {len(self.placements)} placed"


class AtTarget(AppendOnly):
    """What was read, or worked out, at a target: one of `of`, (`red`, `black`) and `through`, or the touched leads.

    `at` is the part whose leads the probes touched, or beside which the circuit was opened, where that is meant; `step`
    the row of a sweep.
    """

    quantity = models.CharField(max_length=12)
    of = models.CharField(**NAME)
    red = models.CharField(**NAME)
    black = models.CharField(**NAME)
    through = models.CharField(**NAME)
    setup = models.CharField(**NAME)
    at = models.CharField(**NAME)
    step = models.PositiveIntegerField(null=True)

    class Meta:
        abstract = True


class ReadingRow(AtTarget):
    """One reading as typed, with all it must carry for good.

    `value` and `resolution` are in the SI unit, empty for over-range; `unit` is what was written beside the digits,
    `unit_supplied` whether the page wrote it. A `look` is kept and never counted. `found` is the
    reading that was seen standing when this one was typed; `key` makes a resend harmless. A `question` is open until an
    act says what the reading is.
    """

    class Question(models.TextChoices):
        NONE = ""
        DOUBT = "doubt"
        MEANWHILE = "meanwhile"

    run = models.ForeignKey(RunRow, on_delete=models.PROTECT, related_name="readings")
    run_sheet = models.ForeignKey(RunSheet, on_delete=models.PROTECT, related_name="readings")
    text = models.CharField(max_length=LONGEST_TEXT)
    unit = models.CharField(max_length=lengths.UNIT, blank=True)
    unit_supplied = models.BooleanField(default=False)
    value = models.DecimalField(max_digits=30, decimal_places=15, null=True)
    resolution = models.DecimalField(max_digits=30, decimal_places=15, null=True)
    range = models.CharField(max_length=LONGEST_TEXT, blank=True)
    meter = models.ForeignKey(Meter, on_delete=models.PROTECT, null=True, related_name="readings")
    profile = models.ForeignKey(ProfileRow, on_delete=models.PROTECT, null=True, related_name="readings")
    look = models.BooleanField(default=False)
    question = models.CharField(max_length=12, choices=Question.choices, blank=True, db_default="")
    note = models.CharField(max_length=lengths.REASON, blank=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="readings")
    typed = models.DateTimeField(null=True)
    time = models.DateTimeField()
    found = models.ForeignKey("self", on_delete=models.PROTECT, null=True, related_name="found_by")
    key = models.UUIDField()

    class Meta:
        db_table = "bench_reading"
        ordering = ("id",)
        constraints = (models.UniqueConstraint(fields=("run", "key"), name="one_reading_for_each_key"),)

    def __str__(self) -> str:
        return f"{self.text} {self.unit}".strip()


class ActRow(AppendOnly):
    """One thing done to what was read; its lines say to which readings, and how.

    A reading's standing is that of the last line on it whose act was not undone. An act is undone at most once, by
    another one; undoing restores the very readings, with their times and their places in the order. An act with a
    `profile` says how the meter of its readings was found to be: the whole run is judged with that.
    """

    class Kind(models.TextChoices):
        STRIKE = "strike"
        MOVE = "move"
        REPLACE = "replace"
        COUNT = "count"
        SWAP = "swap"
        MEND = "mend"
        SHIFT = "shift"
        CHANGE = "change"
        SWITCH = "switch"
        REVISE = "revise"
        EXPLAIN = "explain"
        METER = "meter"
        UNDO = "undo"

    run = models.ForeignKey(RunRow, on_delete=models.PROTECT, related_name="acts")
    kind = models.CharField(max_length=12, choices=Kind.choices)
    reason = models.CharField(max_length=lengths.REASON, blank=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="acts")
    time = models.DateTimeField()
    key = models.UUIDField(default=uuid.uuid4)
    undoes = models.OneToOneField("self", on_delete=models.PROTECT, null=True, related_name="undone_by")
    profile = models.ForeignKey(ProfileRow, on_delete=models.PROTECT, null=True, related_name="found_by")

    class Meta:
        db_table = "bench_act"
        ordering = ("id",)
        constraints = (models.UniqueConstraint(fields=("run", "key"), name="one_act_for_each_key"),)

    def __str__(self) -> str:
        return f"{self.kind}: {self.reason}"


class BenchMove(AppendOnly):
    """What somebody said that they did at the bench itself, between readings; `state` is how it stands from then on."""

    class Kind(models.TextChoices):
        POWER_ON = "power on"
        POWER_OFF = "power off"
        PUT_BACK = "put back"

    run = models.ForeignKey(RunRow, on_delete=models.PROTECT, related_name="moves")
    kind = models.CharField(max_length=12, choices=Kind.choices)
    state = models.JSONField()
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="bench_moves")
    time = models.DateTimeField()
    key = models.UUIDField(default=uuid.uuid4)

    class Meta:
        ordering = ("id",)
        constraints = (models.UniqueConstraint(fields=("run", "key"), name="one_move_for_each_key"),)

    def __str__(self) -> str:
        return f"{self.kind}, {self.run}"


class Photo(AppendOnly):
    """A picture of a display or a board, of a reading: made anew from what was sent, without what it said of itself.

    `sum` is the SHA-256 of `picture`, by which the run document names it.
    """

    reading = models.ForeignKey(ReadingRow, on_delete=models.PROTECT, related_name="photos")
    sum = models.CharField(max_length=64)
    content_type = models.CharField(max_length=20)
    picture = models.BinaryField()
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="photos")
    time = models.DateTimeField()

    class Meta:
        ordering = ("id",)
        constraints = (models.UniqueConstraint(fields=("reading", "sum"), name="each_picture_once"),)

    def __str__(self) -> str:
        return f"{self.reading}, {self.sum[:8]}"


class OwnValue(AtTarget):
    """A value that somebody worked out by hand for a point, perhaps with its formula; the last one is theirs.

    Judged like a reading, and never mixed with one.
    """

    run = models.ForeignKey(RunRow, on_delete=models.PROTECT, related_name="own_values")
    text = models.CharField(max_length=LONGEST_TEXT)
    unit = models.CharField(max_length=lengths.UNIT, blank=True)
    formula = models.CharField(max_length=lengths.FORMULA, blank=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="own_values")
    time = models.DateTimeField()
    key = models.UUIDField()

    class Meta:
        ordering = ("id",)
        constraints = (models.UniqueConstraint(fields=("run", "key"), name="one_own_value_for_each_key"),)

    def __str__(self) -> str:
        return f"{self.text} {self.unit}".strip()


class Sighting(AppendOnly):
    """What somebody saw of a lamp or a light diode in a setup; the last of a part counts, an empty one takes back."""

    run = models.ForeignKey(RunRow, on_delete=models.PROTECT, related_name="sightings")
    setup = models.CharField(**NAME)
    part = models.CharField(**NAME)
    light = models.CharField(max_length=12, blank=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="sightings")
    time = models.DateTimeField()
    key = models.UUIDField(default=uuid.uuid4)

    class Meta:
        ordering = ("id",)
        constraints = (models.UniqueConstraint(fields=("run", "key"), name="one_sighting_for_each_key"),)

    def __str__(self) -> str:
        return f"{self.part} {self.light}"


class RunText(AppendOnly):
    """Notes or a conclusion as they stood once; the last of each kind counts, an empty one too.

    `found` is the text that was seen standing when this one was written.
    """

    class Kind(models.TextChoices):
        NOTES = "notes"
        CONCLUSION = "conclusion"

    run = models.ForeignKey(RunRow, on_delete=models.PROTECT, related_name="texts")
    kind = models.CharField(max_length=12, choices=Kind.choices)
    text = models.TextField(max_length=lengths.PROSE, blank=True)
    found = models.ForeignKey("self", on_delete=models.PROTECT, null=True, related_name="found_by")
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="run_texts")
    time = models.DateTimeField()

    class Meta:
        ordering = ("id",)
        indexes = (models.Index(fields=("run", "kind")),)

    def __str__(self) -> str:
        return f"{self.kind} of {self.run}"


class Revision(AppendOnly):
    """A run as it was signed off: its run document, and the checksum that the signatures are of."""

    run = models.ForeignKey(RunRow, on_delete=models.PROTECT, related_name="revisions")
    number = models.PositiveIntegerField()
    document = models.TextField()
    checksum = models.CharField(max_length=64)
    time = models.DateTimeField()

    class Meta:
        ordering = ("number",)
        constraints = (models.UniqueConstraint(fields=("run", "number"), name="one_revision_of_each_number"),)

    def __str__(self) -> str:
        return f"{self.run}, revision {self.number}"


class KeptAssessment(AppendOnly):
    """How a revision was judged, with what would have explained it: the tree that ``recensor judge`` prints.

    `rules` is the version whose rules judged; of a revision that was signed before any was kept, those of later.
    """

    revision = models.OneToOneField(Revision, on_delete=models.PROTECT, related_name="assessment")
    rules = models.CharField(max_length=20)
    tree = models.JSONField()
    time = models.DateTimeField()

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.revision}, judged by {self.rules}"


class SignatureRow(AppendOnly):
    """Somebody's name under a revision, given with their password."""

    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, related_name="signatures")
    signer = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="signatures")
    signed_as = models.CharField(max_length=12)
    time = models.DateTimeField()

    class Meta:
        db_table = "bench_signature"
        ordering = ("id",)
        constraints = (models.UniqueConstraint(fields=("revision", "signer"), name="one_signature_of_each_person"),)

    def __str__(self) -> str:
        return f"{self.signer} as {self.signed_as}"


class ActLine(AppendOnly):
    """What an act does to one reading; `other` is the one that stands elsewhere, or instead of it, from then on."""

    class Effect(models.TextChoices):
        STRIKE = "strike"
        RESTORE = "restore"
        MOVE = "move"
        REPLACE = "replace"
        COUNT = "count"
        NOT_COUNT = "not count"
        EXPLAIN = "explain"
        LATER = "later"
        BY_PROFILE = "by profile"

    act = models.ForeignKey(ActRow, on_delete=models.PROTECT, related_name="lines")
    reading = models.ForeignKey(ReadingRow, on_delete=models.PROTECT, related_name="lines")
    effect = models.CharField(max_length=12, choices=Effect.choices)
    other = models.ForeignKey(ReadingRow, on_delete=models.PROTECT, null=True, related_name="lines_as_other")

    class Meta:
        ordering = ("id",)
        constraints = (models.UniqueConstraint(fields=("act", "reading"), name="one_line_for_each_reading"),)

    def __str__(self) -> str:
        return f"{self.effect} {self.reading}"
