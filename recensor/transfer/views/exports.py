"""Archives: what can be asked for, how far each is, and the files to take away."""

import tempfile
import zipfile
from collections.abc import Callable

from django import forms
from django.contrib.auth.decorators import login_required
from django.http import FileResponse, Http404, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from recensor.core.errors import Refused
from recensor.jobs import queue
from recensor.jobs import services as job_services
from recensor.jobs.models import Job, kept_by
from recensor.people.requests import SignedIn
from recensor.reports import services as report_services
from recensor.reports.files import FORMS, file_name
from recensor.runs.queries import runs_of
from recensor.transfer import services
from recensor.transfer.account import about_of
from recensor.web.access import object_view
from recensor.web.fields import whole_number
from recensor.web.forms import KeyForm
from recensor.web.refusals import UNPROCESSABLE, first_error, run_or_refuse

of_job = object_view(
    lambda: Job.objects.select_related("person"), "job", look="jobs.use_job", change="jobs.use_job", hides=True
)

# The forms in which many reports are had at once, with their words.
ENDINGS = [(ending, form.words) for ending, form in FORMS.items()]


class ReportsForm(KeyForm):
    """The form of reports; the runs that they are of stand beside it."""

    ending = forms.ChoiceField(choices=ENDINGS)


class SendForm(KeyForm):
    """A file that is about to be sent in pieces."""

    name = forms.CharField(max_length=255)
    size = forms.IntegerField(min_value=1)


@login_required
@require_GET
def exports(request: SignedIn) -> HttpResponse:
    """The page; or its list of what is in hand, which asks for itself again while something is."""
    if request.htmx:
        return render(request, "transfer/_jobs.html", _jobs(request))
    return _page(request)


def _jobs(request: SignedIn) -> dict[str, object]:
    queue.take_up(request.user)
    jobs = list(request.user.jobs.all())
    return {
        "jobs": jobs,
        "any_open": any(one.is_open for one in jobs),
        "kept": kept_by(request.user) / 1e6,
        "most": job_services.MOST_KEPT / 1e6,
        "days": Job.KEPT.days,
    }


def _page(request: SignedIn, message: str = "", status: int = 200) -> HttpResponse:
    words = request.GET.get("q", "").strip()[:120]
    context = {
        "runs": runs_of(request.user, words)[: report_services.MOST_RUNS],
        "chosen": request.POST.getlist("runs"),
        "words": words,
        "most_runs": report_services.MOST_RUNS,
        "endings": ENDINGS,
        "ending": request.POST.get("ending", ".pdf"),
        "message": message,
        "piece": services.PIECE,
        "most_sent": services.MOST_SENT,
        **_jobs(request),
    }
    return render(request, "transfer/exports.html", context, status=status)


def _ask(request: SignedIn, asked: Callable[[], Job]) -> HttpResponse:
    return run_or_refuse(
        asked,
        lambda _: redirect("transfer:exports"),
        lambda error, status: _page(request, error.message, status),
    )


@login_required
@require_POST
def ask_reports(request: SignedIn) -> HttpResponse:
    """Ask for the reports of the chosen runs."""
    form = ReportsForm(request.POST)
    if not form.is_valid():
        return _page(request, first_error(form), UNPROCESSABLE)
    sent = form.cleaned_data
    named = [whole_number(text) for text in request.POST.getlist("runs")]
    runs = [run for run in named if run is not None]
    return _ask(request, lambda: report_services.ask_reports(request.user, runs, sent["ending"], sent["key"]))


@login_required
@require_POST
def ask_account(request: SignedIn) -> HttpResponse:
    """Ask for everything."""
    form = KeyForm(request.POST)
    key = form.cleaned_data["key"] if form.is_valid() else None
    return _ask(request, lambda: services.ask_account(request.user, key))


@login_required
@require_POST
def begin_sending(request: SignedIn) -> HttpResponse:
    """A script announces a file; where pieces go is the answer."""
    form = SendForm(request.POST)

    def begin() -> dict[str, str]:
        if not form.is_valid():
            raise Refused(first_error(form))
        sent = form.cleaned_data
        begun = services.begin_sending(request.user, sent["name"], sent["size"], sent["key"])
        return {"piece": f"{begun.pk}/piece/", "then": f"{begun.pk}/"}

    return _told(begin)


def _told(act: Callable[[], dict[str, str]]) -> HttpResponse:
    """The answer to a script: what an act gives, or why it was refused."""
    return run_or_refuse(
        act, JsonResponse, lambda error, status: JsonResponse({"message": error.message}, status=status)
    )


@require_POST
@of_job
def take_piece(request: SignedIn, job: Job) -> HttpResponse:
    """A piece of a file arrives; the last one shows what is in it."""
    piece, number = request.FILES.get("piece"), whole_number(request.POST.get("number"))

    def take() -> dict[str, str]:
        if piece is None or number is None:
            raise Refused("This is no piece of a file.")
        services.take_piece(job, number, piece.read())
        return {}

    return _told(take)


@require_GET
@of_job
def job(request: SignedIn, job: Job) -> HttpResponse:
    """What is in an archive that was sent, before it is brought in."""
    context: dict[str, object] = {"job": job}
    if job.state == Job.State.ASKED:
        try:
            context["about"], context["said"] = about_of(job)
        except Refused as error:
            context["message"] = error.message
    return render(request, "transfer/job.html", context, status=UNPROCESSABLE if "message" in context else 200)


@require_POST
@of_job
def start_import(request: SignedIn, job: Job) -> HttpResponse:
    """It is wanted."""
    return run_or_refuse(
        lambda: services.start_import(job),
        lambda _: redirect("transfer:exports"),
        lambda error, status: _page(request, error.message, status),
    )


@require_POST
@of_job
def cancel(request: SignedIn, job: Job) -> HttpResponse:
    """Stop it."""
    job_services.cancel(job)
    return redirect("transfer:exports")


@require_POST
@of_job
def drop(request: SignedIn, job: Job) -> HttpResponse:
    """Take it away."""
    job_services.drop(job)
    return redirect("transfer:exports")


@require_GET
@of_job
def file(request: SignedIn, job: Job) -> FileResponse:
    """What a job made, as one ZIP; what could not be made is said in it."""
    if job.kind == Job.Kind.BRING or job.is_open or not job.files.exists():
        raise Http404
    out = tempfile.TemporaryFile()  # noqa: SIM115 (the answer closes it)
    if job.kind == Job.Kind.ACCOUNT:
        for piece in job.made_files():
            out.write(piece.content)
    else:
        with zipfile.ZipFile(out, "w") as archive:
            for made in job.made_files():
                archive.writestr(*((made.name, made.content) if not made.why else (f"{made.name}.txt", made.why)))
    out.seek(0)
    name = f"{file_name(job.title)}-{job.created:%Y-%m-%d}.zip"
    return FileResponse(out, as_attachment=True, filename=name, content_type="application/zip")
