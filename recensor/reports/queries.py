"""What reads the rows that a report is written from."""

import base64
from collections.abc import Iterator
from dataclasses import replace

from django.urls import reverse

from recensor.core import plan
from recensor.core.judgement import Assessment
from recensor.formats.documents.kept_assessment import as_it_was, changed_verdicts, kept_causes
from recensor.ledger import shown
from recensor.people.models import User
from recensor.reports.content import FULL, AsSigned, Pictured, ReportHead, ReportSection
from recensor.reports.files import ReportRequest
from recensor.reports.models import SectionChoice
from recensor.runs import queries
from recensor.runs.models import KeptAssessment, Photo, RunRow


def chosen_sections(person: User, run: RunRow) -> frozenset[ReportSection]:
    """What the person last chose for reports of the run's experiment; everything before they chose."""
    choice = SectionChoice.objects.filter(person=person, experiment=run.experiment_id).first()
    return (
        frozenset(ReportSection(section) for section in choice.sections if section in set(ReportSection))
        if choice
        else FULL
    )


def wanted(run: RunRow, person: User, *, inside: bool = False) -> ReportRequest:
    """A run, judged, with all that its report says; its pictures for a file `inside`, for a page at their addresses."""
    loaded = queries.load(run, person)
    loaded = replace(loaded, core=queries.whole(run, loaded))
    today = loaded.judged()
    as_signed = _as_signed(run, loaded, today)
    loaded = replace(loaded, assessment=as_signed.assessment if as_signed else today)
    about = ReportHead(
        run.experiment.aim if run.experiment else "",
        run.owner.get_full_name() or run.owner.username,
        tuple(_pictured(run, loaded, inside=inside)),
        as_signed,
    )
    return ReportRequest(loaded, person.conventions, about, chosen_sections(person, run))


def _as_signed(run: RunRow, loaded: queries.RunSnapshot, today: Assessment) -> AsSigned | None:
    """How a run that is signed off was judged then; None of one that is open, or whose judgement is not kept yet."""
    revision = queries.last_revision(run) if run.closed else None
    kept = KeptAssessment.objects.filter(revision=revision).first() if revision else None
    if kept is None:
        return None
    then = as_it_was(today, kept.tree)
    changed = () if loaded.is_sealed else tuple(changed_verdicts(today, then))
    return AsSigned(then, kept.rules, tuple(kept_causes(kept.tree)), changed)


def _pictured(run: RunRow, loaded: queries.RunSnapshot, *, inside: bool) -> Iterator[Pictured]:
    rows = Photo.objects.filter(reading__in=loaded.reading_ids).order_by("id")
    for row in rows if inside else rows.defer("picture"):
        reading = loaded.core.readings[loaded.reading_ids.index(row.reading_id)]
        title = f"{plan.title(reading.target, loaded.core.sheet)}: {shown(reading)}"
        address = reverse("bench:photo", args=(run.pk, row.pk))
        if inside:
            address = f"data:{row.content_type};base64,{base64.b64encode(row.picture).decode()}"
        yield Pictured(title, address, row.sum)
