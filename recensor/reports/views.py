"""The report of a run: its page, what goes into it, what the person writes, and every form to take away."""

from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from recensor.core.errors import Refused
from recensor.core.plan import Order
from recensor.experiments.models import Experiment
from recensor.experiments.queries import sheet_of
from recensor.experiments.views import of_experiment
from recensor.formats.documents import run_document
from recensor.people.requests import SignedIn
from recensor.reports import content, files, queries, services, signing
from recensor.reports.blank import as_pdf, blank_sheet
from recensor.reports.content import FULL, ONE_PAGE, ReportSection
from recensor.reports.signing import ReviseForm, SignForm
from recensor.reports.starters import starters
from recensor.runs import queries as bench
from recensor.runs import services as bench_services
from recensor.runs.access import run_view
from recensor.runs.models import RunRow, RunText
from recensor.web.downloads import download
from recensor.web.fields import whole_number
from recensor.web.refusals import UNPROCESSABLE, run_or_refuse
from recensor.web.transactions import atomic_with_retry


@require_GET
@run_view("runs.view")
def report(request: SignedIn, run: RunRow) -> HttpResponse:
    """The page."""
    return _page(request, run)


def _page(
    request: SignedIn, run: RunRow, message: str = "", status: int = 200, sign: SignForm | None = None
) -> HttpResponse:
    wanted = queries.wanted(run, request.user)
    written = wanted.for_page()
    context: dict[str, Any] = {
        "run": run,
        "report": written,
        "conventions": request.user.conventions,
        "sections": [(section.value, section in wanted.chosen) for section in ReportSection],
        "texts": [(kind, bench.last_text(run, kind)) for kind in RunText.Kind.values],
        "forms": [
            (ending[1:], form.words)
            for ending, form in files.FORMS.items()
            if files.is_available(ending, is_sealed=written.is_sealed)
        ],
        "starters": starters(wanted.loaded) if not written.is_sealed else [],
        "message": message,
        **signing.context(run, wanted.loaded, sign),
    }
    return render(request, "reports/report.html", context, status=status)


@require_GET
@run_view("runs.view")
def causes(request: SignedIn, run: RunRow) -> HttpResponse:
    """What would explain the run, for its report's page."""
    wanted = queries.wanted(run, request.user)
    cause_views = content.causes(wanted.loaded, wanted.about.as_signed) if not wanted.loaded.is_sealed else ()
    return render(request, "reports/_causes.html", {"causes": cause_views})


@require_POST
@run_view("runs.view")
def sections(request: SignedIn, run: RunRow) -> HttpResponse:
    """Remember what goes into the report; one button each for all of it, and for the form of one page."""
    form = request.POST.get("form")
    asked = {"full": FULL, "one page": ONE_PAGE}.get(form or "")
    if asked is None:
        asked = frozenset(section for section in ReportSection if section.value in request.POST.getlist("sections"))
    services.choose(request.user, run, asked)
    return redirect("reports:report", run.pk)


@require_POST
@run_view("runs.record")
def written(request: SignedIn, run: RunRow, kind: str) -> HttpResponse:
    """Keep notes or a conclusion as they are being written; refuse to write over what is newer."""
    if kind not in RunText.Kind.values:
        raise Http404
    text = request.POST.get("text", "").replace("\r\n", "\n")
    found = whole_number(request.POST.get("found"))
    context = {"run": run, "kind": kind, "typed": text}
    seen = request.POST.get("seen", "")

    @atomic_with_retry
    def keep() -> tuple[RunText | None, str]:
        """What is kept, and the checksum of what the page shows then; as it was sent where more was changed since."""
        bench.lock(run)
        is_shown = bool(seen) and signing.mark_of(run) == seen
        run_text = bench_services.write_text(run, request.user, kind, text, found)
        return run_text, signing.mark_of(run) if is_shown else seen

    def done(made: tuple[RunText | None, str]) -> HttpResponse:
        if not request.htmx:
            return redirect("reports:report", run.pk)
        run_text, mark = made
        return render(request, "reports/_kept.html", {**context, "kept": run_text, "mark": mark})

    def refused(error: Exception, status: int) -> HttpResponse:
        newer = error.text if isinstance(error, bench_services.MeanwhileError) else None
        return render(request, "reports/_kept.html", {**context, "kept": newer, "error": str(error)}, status=status)

    return run_or_refuse(keep, done, refused)


@require_POST
@run_view("runs.record")
def sign(request: SignedIn, run: RunRow) -> HttpResponse:
    """Sign a run off, with a password; what is wrong is said at its place."""
    form = SignForm(request.POST, request=request)

    def signed() -> None:
        if form.is_valid():
            typed = form.cleaned_data
            bench_services.sign(run, typed["signer"], typed["signed_as"], typed["seen"])

    def refused(error: Refused, status: int) -> HttpResponse:
        form.add_error(error.place if error.place in form.fields else None, error.message)
        return _page(request, bench.any_run().get(pk=run.pk), status=status, sign=form)

    def done(_: None) -> HttpResponse:
        return redirect("reports:report", run.pk) if form.is_valid() else refused_as_typed()

    def refused_as_typed() -> HttpResponse:
        return _page(request, run, status=UNPROCESSABLE, sign=form)

    return run_or_refuse(signed, done, refused)


@require_POST
@run_view("runs.record")
def revise(request: SignedIn, run: RunRow) -> HttpResponse:
    """Open a revision of a run that is signed off."""
    form = ReviseForm(request.POST)
    form.is_valid()
    typed = form.cleaned_data
    return run_or_refuse(
        lambda: bench_services.revise(run, request.user, typed.get("why", ""), typed.get("key")),
        lambda _: redirect(run),
        lambda error, status: _page(request, bench.any_run().get(pk=run.pk), error.message, status),
    )


@require_GET
@run_view("runs.view")
def revision(request: SignedIn, run: RunRow, number: int) -> HttpResponse:
    """The run document of a revision, with its signatures."""
    kept = get_object_or_404(run.revisions.prefetch_related("signatures__signer"), number=number)
    text = run_document.write(bench.document_of(kept))
    name = f"{files.file_name(run.title)}-revision-{number}.run.json"
    return download(text, name, "application/json; charset=utf-8")


@require_GET
@run_view("runs.view")
def file(request: SignedIn, run: RunRow, ending: str) -> HttpResponse:
    """The run in one of its forms."""
    form = files.FORMS.get(f".{ending}")
    if form is None:
        raise Http404
    wanted = queries.wanted(run, request.user, inside=True)
    return run_or_refuse(
        lambda: files.of_run(f".{ending}", wanted),
        lambda content: download(content, f"{files.file_name(run.title)}.{ending}", form.content_type),
        lambda error, status: _page(request, run, error.message, status),
    )


@require_GET
@of_experiment()
def blank(request: SignedIn, experiment: Experiment) -> HttpResponse:
    """A blank data sheet of an experiment, for paper."""
    person = request.user
    sheet = blank_sheet(sheet_of(experiment), experiment.aim, Order(person.reading_order), person.conventions)
    return download(
        as_pdf(sheet, person.conventions), f"{files.file_name(experiment.title)}-blank.pdf", "application/pdf"
    )
