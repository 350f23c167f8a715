"""What is packed or unpacked in the background, and the files that it comes to."""

from collections.abc import Iterator
from datetime import timedelta

from django.conf import settings
from django.db import models
from django.db.models import Sum
from django.utils import timezone

from recensor.people.models import User


class Job(models.Model):
    """One long piece of work for a person, done step by step by whichever worker takes it.

    `wanted` says what: the runs and the form of reports. `total` steps are known, `made` of them are done. Until
    `claimed` a worker is at it; `tries` is how often the step that is next was begun. `size` in bytes is that of its
    files, which count against what a person may keep, until they go after `KEPT`.
    """

    class Kind(models.TextChoices):
        REPORTS = "reports"
        ACCOUNT = "account"
        BRING = "bring"

    class State(models.TextChoices):
        ARRIVING = "arriving"
        ASKED = "asked"
        WAITING = "waiting"
        WORKING = "working"
        DONE = "done"
        CANCELLED = "cancelled"
        FAILED = "failed"

    KEPT = timedelta(days=3)
    OPEN = (State.WAITING, State.WORKING)

    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="jobs")
    kind = models.CharField(max_length=12, choices=Kind.choices)
    state = models.CharField(max_length=12, choices=State.choices, default=State.WAITING)
    title = models.CharField(max_length=120)
    wanted = models.JSONField(default=dict)
    total = models.PositiveIntegerField(default=1)
    made = models.PositiveIntegerField(default=0)
    size = models.PositiveBigIntegerField(default=0)
    tries = models.PositiveIntegerField(default=0)
    claimed = models.DateTimeField(null=True)
    why = models.CharField(max_length=500, blank=True)
    created = models.DateTimeField(auto_now_add=True)
    ended = models.DateTimeField(null=True)
    key = models.UUIDField(null=True)

    class Meta:
        ordering = ("-id",)
        constraints = (models.UniqueConstraint(fields=("person", "key"), name="one_job_for_each_key"),)

    def __str__(self) -> str:
        return f"{self.title}: {self.state}"

    @property
    def is_open(self) -> bool:
        """Whether it is still to be done."""
        return self.state in self.OPEN

    @property
    def waits_long(self) -> bool:
        """Whether nobody has begun it for a while: no worker runs, or others come first."""
        return self.state == self.State.WAITING and timezone.now() - self.created > timedelta(seconds=30)

    @property
    def percent(self) -> int:
        """How much of it is done."""
        return 100 * self.made // self.total if self.total else 0

    def made_files(self) -> "Iterator[JobFile]":
        """Its files in their order, one in memory at a time."""
        for key in list(self.files.values_list("pk", flat=True)):
            yield self.files.get(pk=key)

    @property
    def goes(self) -> object:
        """When its files go."""
        return (self.ended or self.created) + self.KEPT


class JobFile(models.Model):
    """A file that a job made, or a piece of one that was sent; without content where it could not be made, and why."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="files")
    number = models.PositiveIntegerField()
    name = models.CharField(max_length=120, blank=True)
    content = models.BinaryField(default=b"")
    why = models.CharField(max_length=500, blank=True)

    class Meta:
        ordering = ("number",)
        constraints = (models.UniqueConstraint(fields=("job", "number"), name="each_file_once"),)

    def __str__(self) -> str:
        return self.name or f"piece {self.number}"


def kept_by(person: User) -> int:
    """How many bytes of a person's archives are kept."""
    return Job.objects.filter(person=person).aggregate(sum=Sum("size"))["sum"] or 0
