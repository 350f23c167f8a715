"""What is typed about experiments."""

from collections.abc import Iterable
from dataclasses import dataclass

from django import forms

from recensor.core import lengths
from recensor.core.circuit import MOST_ROUNDS, Asked, NotationError, Sheet, Target, asking_everything, node_list, slug
from recensor.core.editing import EditError, accepted, colour_words
from recensor.core.errors import Refused
from recensor.core.examples import EXPERIMENTS, Example, circuits
from recensor.formats import spice
from recensor.formats.documents import run_document
from recensor.web.fields import PercentField, against_field, judged_by_field, meter_in_field, refuse_larger

LARGEST_FILE = 1_000_000

# What an experiment calls its circuit until it is named.
UNNAMED = "Circuit"


class LineForm(forms.Form):
    """A new experiment from one line of text."""

    title = forms.CharField(max_length=lengths.TITLE, label="Title")
    line = forms.CharField(
        max_length=lengths.PROSE, label="Circuit in one line", help_text="9V: 1k + (2k2 | 3k3 + 470) + 100; 5%"
    )
    marked: tuple[str, str, str] | None = None

    def clean_line(self) -> str:
        """A line that is a circuit; what is wrong is marked."""
        line = self.cleaned_data["line"]
        try:
            self.sheet = accepted(colour_words.read(line, self.cleaned_data.get("title") or UNNAMED))
        except EditError as error:
            raise forms.ValidationError(str(error)) from None
        except NotationError as error:
            self.marked = line[: error.start], line[error.start : error.end] or " ", line[error.end :]
            raise forms.ValidationError(str(error)) from None
        return line


class BeginExperimentForm(forms.Form):
    """A new experiment from a starting shape or from a ready-made experiment."""

    start = forms.ChoiceField(
        choices=[
            ("shapes", [(f"shape:{name}", name) for name in circuits.SHAPES]),
            ("several setups", [(f"ready:{name}", name) for name in EXPERIMENTS]),
        ],
        label="Start from",
    )
    count = forms.IntegerField(
        min_value=circuits.FEWEST,
        max_value=circuits.MOST,
        initial=3,
        label="How many",
        help_text="resistors, or sections of a ladder",
    )

    def made(self) -> Example:
        """The chosen circuit, with its aim where it has one."""
        kind, name = self.cleaned_data["start"].split(":", 1)
        if kind == "ready":
            return EXPERIMENTS[name]()
        return Example(asking_everything(circuits.circuit(name, self.cleaned_data["count"])), "")


class ImportForm(forms.Form):
    """A new experiment from a run document, a netlist or a node list."""

    file = forms.FileField(
        required=False,
        label="File",
        help_text="a run document, or a SPICE netlist",
        widget=forms.FileInput(attrs={"data-largest": LARGEST_FILE}),
    )
    text = forms.CharField(
        required=False,
        max_length=lengths.PROSE,
        label="Or a node list",
        widget=forms.Textarea(attrs={"rows": 5, "spellcheck": "false"}),
        help_text="one part in a line: R1 A B 4k7 5%",
        strip=False,
    )
    passed_over: tuple[str, ...] = ()
    refused: EditError | None = None

    def clean(self) -> dict[str, object]:
        """Read the file by what it begins with, else the node list."""
        cleaned = super().clean()
        if self.errors:
            return cleaned
        file = cleaned.get("file")
        if not file and not cleaned.get("text", "").strip():
            self.add_error("file", "Choose a file, or write a node list.")
            return cleaned
        at = "file" if file else "text"
        try:
            self.sheet = accepted(self._from_file(file) if file else node_list.read(cleaned["text"], UNNAMED))
        except Refused as error:
            self.refused = error if isinstance(error, EditError) else None
            self.add_error(at, error.message)
        return cleaned

    def _from_file(self, file: "forms.UploadedFile") -> Sheet:
        brought = read_file(file)
        self.passed_over = brought.passed_over
        return brought.sheet


@dataclass(frozen=True)
class Brought:
    """A circuit out of a file, and what of a netlist was passed over."""

    sheet: Sheet
    passed_over: tuple[str, ...] = ()


def read_file(file: "forms.UploadedFile") -> Brought:
    """The circuit of a run document or a netlist. Raises `Refused`."""
    refuse_larger(file, LARGEST_FILE)
    content = file.read()
    file.seek(0)
    if content.lstrip()[:1] == b"{":
        return Brought(run_document.read(content).sheet)
    imported = spice.read(content.decode("utf-8", "replace"))
    return Brought(imported.sheet, imported.passed_over)


def file_sheet(file: "forms.UploadedFile") -> Sheet:
    """The circuit alone."""
    return read_file(file).sheet


class SettingsForm(forms.Form):
    """What an experiment says beside its circuit."""

    title = forms.CharField(max_length=lengths.TITLE, label="Title")
    aim = forms.CharField(
        max_length=lengths.AIM, required=False, label="Aim", widget=forms.Textarea(attrs={"rows": 3}), strip=True
    )
    judged_by = judged_by_field()
    limit = PercentField(label="Limit")
    against = against_field()
    meter_in = meter_in_field()
    sealed = forms.BooleanField(
        required=False, label="Sealed: calculated values are shown only once a point has been read"
    )
    own_calculations = forms.BooleanField(required=False, label="Ask for each person's own calculation beside a point")

    def clean_limit(self) -> str:
        """As it is kept."""
        return self.cleaned_data["limit"].text


def rounds_field(label: str = "Everything is read") -> forms.IntegerField:
    """How often everything is read, one time after the other; empty is once."""
    return forms.IntegerField(label=label, min_value=1, max_value=MOST_ROUNDS, required=False)


class AskedForm(forms.Form):
    """Which readings are asked for: those that are ticked, or one of the sets."""

    asked = forms.MultipleChoiceField(required=False, widget=forms.CheckboxSelectMultiple)
    rounds = rounds_field()
    predict = forms.BooleanField(
        required=False, label="Predict first: what is expected is written down before it is read"
    )
    which = forms.ChoiceField(required=False, choices=[(which, which) for which in Asked])
    part = forms.CharField(required=False, max_length=lengths.NAME)

    def __init__(self, *args: object, readings: Iterable[Target], **kwargs: object) -> None:
        super().__init__(*args, **kwargs)
        self.readings = {slug(target): target for target in readings}
        self.fields["asked"].choices = [(address, address) for address in self.readings]

    def clean(self) -> dict[str, object]:
        """The readings of the addresses; none at all is said by its own button."""
        cleaned = super().clean()
        if not cleaned.get("which") and not cleaned.get("asked") and not self.errors:
            self.add_error("asked", "Tick one reading at least, or press none.")
        cleaned["asked"] = {self.readings[address].key for address in cleaned.get("asked", ())}
        return cleaned
