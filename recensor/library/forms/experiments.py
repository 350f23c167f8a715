"""What is typed about experiments."""

from django import forms

from recensor.core import node_list, notation, ready_made, starting
from recensor.core.editing import EditError, accepted, asking_everything
from recensor.core.record import MEASURED, NOMINAL, PERCENT, UNCERTAINTY, Run
from recensor.formats import run_document, spice
from recensor.library.fields import MOST_CHARACTERS, PercentField

LARGEST_FILE = 1_000_000

# What an experiment calls its circuit until it is named.
UNNAMED = "Circuit"


class LineForm(forms.Form):
    """A new experiment from one line of text."""

    title = forms.CharField(max_length=120, label="Title")
    line = forms.CharField(
        max_length=MOST_CHARACTERS, label="Circuit in one line", help_text="9V: 1k + (2k2 | 3k3 + 470) + 100; 5%"
    )
    marked: tuple[str, str, str] | None = None

    def clean_line(self) -> str:
        """A line that is a circuit; what is wrong is marked."""
        line = self.cleaned_data["line"]
        try:
            self.run = accepted(notation.read(line, self.cleaned_data.get("title") or UNNAMED))
        except EditError as error:
            raise forms.ValidationError(str(error)) from None
        except notation.NotationError as error:
            self.marked = line[: error.start], line[error.start : error.end] or " ", line[error.end :]
            raise forms.ValidationError(str(error)) from None
        return line


class StartForm(forms.Form):
    """A new experiment from a starting shape or from a ready-made experiment."""

    start = forms.ChoiceField(
        choices=[
            ("shapes", [(f"shape:{name}", name) for name in starting.SHAPES]),
            ("several setups", [(f"ready:{name}", name) for name in ready_made.READY_MADE]),
        ],
        label="Start from",
    )
    count = forms.IntegerField(
        min_value=starting.FEWEST,
        max_value=starting.MOST,
        initial=3,
        label="How many",
        help_text="resistors, or sections of a ladder",
    )

    def made(self) -> ready_made.ReadyMade:
        """The chosen circuit."""
        kind, name = self.cleaned_data["start"].split(":", 1)
        if kind == "ready":
            return ready_made.READY_MADE[name]()
        shape, _ = starting.SHAPES[name]
        return ready_made.ReadyMade(asking_everything(shape(self.cleaned_data["count"])), "")


class ImportForm(forms.Form):
    """A new experiment from a run document, a netlist or a node list."""

    file = forms.FileField(required=False, label="File", help_text="a run document, or a SPICE netlist")
    text = forms.CharField(
        required=False,
        max_length=MOST_CHARACTERS,
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
        try:
            self.run = accepted(self._from_file(file) if file else node_list.read(cleaned["text"], UNNAMED))
        except EditError as error:
            self.refused = error
            self.add_error("file" if file else "text", str(error))
        except (spice.NetlistError, run_document.DocumentError) as error:
            self.add_error("file", str(error))
        except node_list.NodeListError as error:
            self.add_error("text", str(error))
        return cleaned

    def _from_file(self, file: "forms.UploadedFile") -> Run:
        if file.size > LARGEST_FILE:
            raise spice.NetlistError(f"The file is larger than {LARGEST_FILE // 1000} kB.", 1)
        content = file.read()
        if content.lstrip()[:1] == b"{":
            return run_document.read(content)
        imported = spice.read(content.decode("utf-8", "replace"))
        self.passed_over = imported.passed_over
        return imported.run


class SettingsForm(forms.Form):
    """What an experiment says beside its circuit."""

    title = forms.CharField(max_length=120, label="Title")
    aim = forms.CharField(
        max_length=2000, required=False, label="Aim", widget=forms.Textarea(attrs={"rows": 3}), strip=True
    )
    judged_by = forms.ChoiceField(
        choices=[(PERCENT, "percent error within the limit"), (UNCERTAINTY, "normalised error |E| ≤ 1")],
        label="What decides",
    )
    limit = PercentField(label="Limit")
    against = forms.ChoiceField(
        choices=[(MEASURED, "measured part values"), (NOMINAL, "nominal part values")], label="Calculated from"
    )
    sealed = forms.BooleanField(
        required=False, label="Sealed: calculated values are shown only once a point has been read"
    )

    def clean_limit(self) -> str:
        """As it is kept."""
        return self.cleaned_data["limit"].text


class AskedForm(forms.Form):
    """Which of the usual readings are asked for."""

    asked = forms.MultipleChoiceField(required=False, widget=forms.CheckboxSelectMultiple)

    def __init__(self, *args: object, count: int, **kwargs: object) -> None:
        super().__init__(*args, **kwargs)
        self.fields["asked"].choices = [(str(k), str(k)) for k in range(count)]

    def clean_asked(self) -> set[int]:
        """Places in the list of usual readings; none at all would leave nothing to do."""
        if not self.cleaned_data["asked"]:
            raise forms.ValidationError("Ask for one reading at least.")
        return {int(k) for k in self.cleaned_data["asked"]}
