"""Bringing a run in: what will become of a document is shown, and nothing is written before that is wanted."""

from collections import Counter
from dataclasses import dataclass

from django import forms
from django.contrib.auth.decorators import login_required
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from recensor.core import plan
from recensor.core.errors import Refused
from recensor.core.figures import as_read
from recensor.core.judgement import assess
from recensor.core.record import Reading, Run
from recensor.formats.documents import run_document
from recensor.ledger import books
from recensor.ledger.marks import Mark
from recensor.people.requests import SignedIn
from recensor.runs import services
from recensor.runs.queries import points
from recensor.web.fields import refuse_larger
from recensor.web.refusals import UNPROCESSABLE, first_error

# A document that a page takes is no longer than this, in bytes.
LARGEST = 1_000_000

# So many readings are shown before anything is written.
_SHOWN = 200


class BringForm(forms.Form):
    """A document, as a file or as it was shown; `key` makes pressing twice harmless."""

    file = forms.FileField(required=False, label="Run document (.run.json)")
    text = forms.CharField(required=False, max_length=LARGEST, strip=False)
    key = forms.UUIDField(required=False)
    wanted = forms.BooleanField(required=False)

    def document(self) -> str:
        """The document's text. Raises `Refused`."""
        file = self.cleaned_data.get("file")
        if file is None:
            if not self.cleaned_data.get("text"):
                raise Refused("Choose a file.")
            return str(self.cleaned_data["text"])
        refuse_larger(file, LARGEST)
        try:
            return str(file.read().decode("utf-8-sig"))
        except UnicodeDecodeError as error:
            raise Refused(f"This is no UTF-8 text: {error.reason} at byte {error.start}.") from None


@dataclass(frozen=True)
class Preview:
    """What will become of a document: how it will stand, each reading, and what stays behind."""

    title: str
    state: Mark
    counts: tuple[tuple[str, int], ...]
    readings: tuple[tuple[str, str, str], ...]
    more: int
    meters: tuple[str, ...]
    left: tuple[str, ...]

    @classmethod
    def of(cls, run: Run) -> "Preview":
        """The preview of a run."""
        kinds = Counter(_becomes(reading).partition(":")[0] for reading in run.readings)
        shown = run.readings[:_SHOWN]
        return cls(
            run.sheet.title or "Run",
            books(run, points(run), assess(run)),
            tuple(kinds.items()),
            tuple((plan.title(r.target, run.sheet), as_read(r.value, r.target.unit), _becomes(r)) for r in shown),
            len(run.readings) - len(shown),
            tuple(run.meters),
            tuple(services.left_behind(run)),
        )


def _becomes(reading: Reading) -> str:
    if reading.struck:
        return f"struck: {reading.struck.reason}"
    return "a look" if reading.counted is False else "recorded"


@login_required
@require_http_methods(["GET", "HEAD", "POST"])
def import_document(request: SignedIn) -> HttpResponse:
    """Ask for a document, show what will become of it, and begin the run."""
    if request.method != "POST":
        return render(request, "transfer/import_document.html", {"form": BringForm()})
    form = BringForm(request.POST, request.FILES)
    text = ""
    try:
        if not form.is_valid():
            raise Refused(first_error(form))
        text = form.document()
        run = run_document.read(text)
        if form.cleaned_data["wanted"]:
            return redirect(services.import_run(request.user, run, form.cleaned_data["key"]))
        preview = Preview.of(run)
    except Refused as error:
        context = {"form": form, "message": error.message}
        return render(request, "transfer/import_document.html", context, status=UNPROCESSABLE)
    return render(request, "transfer/import_document.html", {"form": form, "preview": preview, "text": text})
