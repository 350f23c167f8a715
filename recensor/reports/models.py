"""What a person wants in the reports of an experiment."""

from django.conf import settings
from django.db import models

from recensor.experiments.models import Experiment


class SectionChoice(models.Model):
    """The sections that a person chose for an experiment's reports; without one, for those of all other runs."""

    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="report_choices")
    experiment = models.ForeignKey(Experiment, on_delete=models.CASCADE, null=True, related_name="report_choices")
    sections = models.JSONField(default=list)

    class Meta:
        db_table = "reports_choice"
        constraints = (models.UniqueConstraint(fields=("person", "experiment"), name="one_choice_for_each_experiment"),)

    def __str__(self) -> str:
        return ", ".join(self.sections)
