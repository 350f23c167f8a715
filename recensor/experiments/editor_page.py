"""The editor as a view model: one setup of an experiment, drawn, listed and written."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace

from recensor.core import safety
from recensor.core.circuit import UNMARKED, NotationError, Part, Rule, Setup, Sheet, node_list, one_line
from recensor.core.editing import EditError
from recensor.core.errors import Refused
from recensor.core.figures import as_read, rounded
from recensor.core.quantity import WATT
from recensor.drawing.conventions import Conventions
from recensor.experiments.acts import ACTS, EditorFocus, EditorForm
from recensor.ledger.cautions import unbounded_caution
from recensor.web import drawings
from recensor.web.part_fields import SOURCE_CHOICES, PartField, part_fields

ABOVE_LIMIT = (
    f"At the top of its tolerance this reaches more than {safety.PAPER_ONLY_ABOVE:.0f} V DC: "
    "for paper only, no run can be started from it."
)
NOTHING = "nothing"
WARNING = f"This circuit reaches more than {safety.WARNING_ABOVE:.0f} V DC."


@dataclass(frozen=True)
class EditorPart:
    """A part of the list, in this setup or only in others."""

    id: str
    name: str
    value: str
    tolerance: str
    rating: str
    ends: str
    is_chosen: bool
    is_here: bool
    note: str


@dataclass(frozen=True)
class ChosenPart:
    """The part that the editor's buttons are about, with its fields as they stand."""

    name: str
    value: str
    fields: tuple[PartField, ...]
    can_be_set: bool
    is_sweepable: bool
    adjustable: bool
    source: str
    here: str
    unit: str
    is_source: bool
    is_off: bool

    sources = SOURCE_CHOICES


@dataclass(frozen=True)
class Refusal:
    """Why an act was refused, what was typed, and for a line the text before, in and behind the wrong place.

    `place` is the form that says so; None where that form is not on the page.
    """

    act: str
    place: EditorForm | None
    message: str
    typed: Mapping[str, str] = field(default_factory=dict)
    marked: tuple[str, str, str] | None = None
    drawing: str = ""

    @property
    def is_in_nodes(self) -> bool:
        """Whether it is the node list that was refused, which then stays open."""
        return self.place is EditorForm.NODES


@dataclass(frozen=True)
class Editor:
    """Everything that the editor shows."""

    standing: EditorFocus
    setup: str
    setups: tuple[str, ...]
    drawing: str
    rows: tuple[EditorPart, ...]
    chosen: ChosenPart | None
    nodes: tuple[str, ...]
    line: str
    node_list: str
    cautions: tuple[str, ...]
    shown: str
    shown_choices: tuple[str, ...]
    can_undo: bool
    can_redo: bool
    rules: tuple[str, ...] = ()
    said: tuple[str, ...] = ()
    temperature: str = ""

    @property
    def last_node(self) -> str:
        """The node that a bridge goes to, unless another is chosen."""
        return self.nodes[-1] if self.nodes else ""


def editor_page(
    sheet: Sheet,
    setup_name: str,
    part_name: str,
    shown: str,
    conventions: Conventions,
    *,
    can_undo: bool,
    can_redo: bool,
) -> Editor:
    """The editor for one setup of a sheet; unknown names choose the first setup and no part."""
    setup = sheet.setup(setup_name)
    whole = {half: name for name, halves in sheet.potentiometers.items() for half in halves}
    pot = whole.get(part_name, part_name if part_name in sheet.potentiometers else "")
    part_name = sheet.potentiometers[pot][1] if pot else part_name
    part = sheet.parts.get(part_name) if part_name in setup.connections else None
    beside = drawings.calculated(sheet, setup, shown)
    lit = sheet.potentiometers.get(pot, (part_name,)) if part else ()
    return Editor(
        standing=EditorFocus(
            setup.name,
            sheet.several,
            part,
            part_name in setup.sources_off,
            part_name in setup.open,
            any((sweep.setup, sweep.amps.part) == (setup.name, part_name) for sweep in sheet.sweeps.values()),
            any(sheet.parts[name].kind.warms for name in setup.connections),
            has_two_leads=not pot,
        ),
        rules=tuple(rule.value for rule in Rule),
        said=tuple(_said(sheet)),
        temperature=setup.temperature.text if setup.temperature else "",
        setup=setup.name,
        setups=tuple(sheet.setups),
        drawing=drawings.of_setup(sheet, setup, conventions, lit=lit, beside=beside),
        rows=tuple(_rows(sheet, setup, part)),
        chosen=_chosen(part, setup, pot, several=sheet.several) if part else None,
        nodes=setup.nodes,
        line=one_line.write(sheet, setup) or "",
        node_list=node_list.write(sheet, setup),
        cautions=tuple(_cautions(sheet)),
        shown=shown if shown in drawings.SHOWN else NOTHING,
        shown_choices=(NOTHING, *drawings.SHOWN),
        can_undo=can_undo,
        can_redo=can_redo,
    )


def refusal(name: str, error: Refused, typed: Mapping[str, str], conventions: Conventions, page: Editor) -> Refusal:
    """Say why at the place, and show the circuit that cannot be, as far as one was made."""
    act, marked, drawing = ACTS.get(name), None, ""
    place = act.place if act and not (act.place.needs_part and page.chosen is None) else None
    if isinstance(error, NotationError) and place is EditorForm.LINE:
        line = typed["line"]
        marked = line[: error.start], line[error.start : error.end] or " ", line[error.end :]
    if isinstance(error, EditError) and error.attempt:
        drawing = drawings.of_setup(*error.attempt, conventions, lit=error.parts)
    return Refusal(name, place, error.message, typed, marked, drawing)


def _rows(sheet: Sheet, setup: Setup, chosen: Part | None) -> Iterator[EditorPart]:
    """The parts in their order; a potentiometer once, from end to slider to end."""
    wholes = {upper: (name, lower) for name, (upper, lower) in sheet.potentiometers.items()}
    lowers = {lower for _, lower in wholes.values()}
    for index, part in enumerate(sheet.parts.values()):
        if part.name in lowers:
            continue
        row = _row(setup, part, index, chosen)
        if part.name in wholes:
            name, lower = wholes[part.name]
            here = setup.connections.get(lower, ("", ""))
            set_to = setup.values.get(lower)
            row = replace(
                row,
                name=name,
                ends=f"{row.ends} → {here[1]}" if row.ends else "",
                is_chosen=chosen is not None and chosen.name in (part.name, lower),
                note=f"at {set_to.text}" if set_to else row.note,
            )
        yield row


def _row(setup: Setup, part: Part, index: int, chosen: Part | None) -> EditorPart:
    is_here = part.name in setup.connections
    note = ""
    if part.name in setup.sources_off:
        note = "off"
    elif part.name in setup.open:
        note = "open"
    elif part.name in setup.values:
        note = f"{setup.values[part.name].text} here"
    elif is_here and (warm := setup.stated(part)) != part.marked and warm is not None:
        note = f"{as_read(warm, part.kind.unit)} here"
    elif not is_here:
        note = "not in this setup"
    return EditorPart(
        id=f"part-{index}",
        name=part.name,
        value=_value(part),
        tolerance=part.tolerance.text if part.tolerance else "",
        rating=part.rating.text if part.rating else "",
        ends=" → ".join(setup.connections[part.name]) if is_here else "",
        is_chosen=part is chosen,
        is_here=is_here,
        note=note,
    )


def _chosen(part: Part, setup: Setup, pot: str, *, several: bool) -> ChosenPart:
    """The chosen part; of the potentiometer `pot` that of which `part` is the lower half."""
    return ChosenPart(
        name=pot or part.name,
        value=part.nominal.text if part.nominal else UNMARKED,
        fields=part_fields(replace(part, name=pot) if pot else part),
        can_be_set=several or part.kind.adjustable_value,
        is_sweepable=not pot and (part.kind.ohmic or part.kind.is_nonlinear),
        adjustable=part.adjustable,
        source=part.source or "",
        here=setup.values[part.name].text if part.name in setup.values else "",
        unit=part.kind.unit,
        is_source=part.kind.is_source,
        is_off=part.name in setup.sources_off,
    )


def _value(part: Part) -> str:
    if part.kind.is_wire:
        return part.kind.word
    return " ".join(quantity.text for quantity in (part.nominal, part.current) if quantity) or UNMARKED


def _said(sheet: Sheet) -> Iterator[str]:
    """The sweeps and comparisons of a sheet, in words."""
    for sweep in sheet.sweeps.values():
        where = f" in {sweep.setup}" if sheet.several else ""
        settings = ", ".join(setting.text for setting in sweep.settings)
        yield f"{sweep.name}{where}: {len(sweep.settings)} settings of {sweep.source}, {settings}"
    for comparison in sheet.compare:
        yield f"{comparison.rule}: {' against '.join(comparison.setups)}"


def _cautions(sheet: Sheet) -> list[str]:
    texts = {safety.Caution.WARNING: [WARNING], safety.Caution.PAPER_ONLY: [ABOVE_LIMIT]}.get(safety.caution(sheet), [])
    if names := safety.unbounded(sheet):
        texts.append(unbounded_caution(names))
    for taken in safety.dissipations(sheet):
        if taken.is_over and taken.power is not None:
            power, rating = rounded(taken.power, None, WATT), rounded(taken.rating, None, WATT)
            texts.append(f"{taken.part} takes up to {power} in {taken.setup}, more than its {rating}.")
    return texts
