"""Signing on the page of a report: who signs, as what, and how the run stands to its signatures."""

from typing import Any

from django import forms
from django.contrib.auth import authenticate
from django.http import HttpRequest

from recensor.core.record import SignedAs
from recensor.formats.documents import run_document
from recensor.formats.documents.checksum import checksum, printed
from recensor.people.models import User
from recensor.runs import queries
from recensor.runs.models import RunRow
from recensor.runs.queries import RunSnapshot
from recensor.runs.services.sign_off import LONGEST_WHY
from recensor.web.forms import KeyForm, new_key


class SignForm(forms.Form):
    """A name under a run, with the password that shows whose it is; a reviewer signs at the performer's page.

    `seen` is the checksum of what the page showed.
    """

    signed_as = forms.TypedChoiceField(choices=[(one.value, one.value) for one in SignedAs], coerce=SignedAs)
    name = forms.CharField(max_length=150, required=False)
    password = forms.CharField(max_length=500, strip=False)
    seen = forms.CharField(max_length=64)

    def __init__(self, *args: Any, request: HttpRequest | None = None, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.request = request
        self.fields["password"].error_messages["required"] = "Sign with your password."

    def clean(self) -> dict[str, Any]:
        """Find out who signs, as signing in does: wrong passwords count, and lock out."""
        typed = super().clean() or self.cleaned_data
        if self.request is None or self.errors:
            return typed
        by_performer = typed["signed_as"] is SignedAs.PERFORMER
        name = self.request.user.get_username() if by_performer else typed["name"]
        if not name:
            self.add_error("name", "Say who reviews.")
            return typed
        signer = authenticate(self.request, username=name, password=typed["password"])
        if not isinstance(signer, User):
            self.add_error("password", "This name and password do not belong together.")
        return typed | {"signer": signer}


class ReviseForm(KeyForm):
    """Why a run that is signed off is opened again."""

    why = forms.CharField(max_length=LONGEST_WHY, required=False)


def mark_of(run: RunRow) -> str:
    """The checksum of what the rows of a run say: that of the document which would be signed now."""
    return checksum(run_document.to_tree(queries.unsigned(run, queries.load(run))))


def context(run: RunRow, loaded: RunSnapshot, form: SignForm | None) -> dict[str, Any]:
    """What the page says about signatures: who has signed what, and what may be done next."""
    revisions = list(run.revisions.prefetch_related("signatures__signer"))
    last = revisions[-1] if revisions and run.closed else None
    now = mark_of(run) if last else ""
    return {
        "sign": form or SignForm(),
        "signs_as": SignedAs.REVIEWER if run.closed else SignedAs.PERFORMER,
        "seen": checksum(run_document.to_tree(loaded.core)),
        "revisions": [(revision, printed(revision.checksum)) for revision in revisions],
        "is_reviewed": bool(last and any(s.signed_as == SignedAs.REVIEWER for s in last.signatures.all())),
        "is_otherwise": bool(last and now != last.checksum),
        "revise_key": new_key(),
    }
