"""The editor as a view model: one setup of an experiment, drawn, listed and written."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from recensor.core import node_list, notation, safety
from recensor.core.circuit import Kind, Part, Setup
from recensor.core.editing import EditError
from recensor.core.notation import UNMARKED, NotationError
from recensor.core.quantity import WATT, rounded
from recensor.core.record import Run
from recensor.library import drawings

ABOVE_LIMIT = (
    f"At the top of its tolerance this reaches more than {safety.PAPER_ONLY_ABOVE:.0f} V DC: "
    "for paper only, no run can be started from it."
)
NOTHING = "nothing"
WARNING = f"This circuit reaches more than {safety.WARNING_ABOVE:.0f} V DC."


@dataclass(frozen=True)
class PartRow:
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
class Chosen:
    """The part that the editor's buttons are about, with its fields as they stand."""

    name: str
    value: str
    tolerance: str
    rating: str
    here: str
    unit: str
    is_source: bool
    is_off: bool


@dataclass(frozen=True)
class Refusal:
    """Why an edit was refused, what was typed, and for a line the text before, in and behind the wrong place."""

    act: str
    message: str
    typed: Mapping[str, str] = field(default_factory=dict)
    marked: tuple[str, str, str] | None = None
    drawing: str = ""


@dataclass(frozen=True)
class Editor:
    """Everything that the editor shows."""

    setup: str
    setups: tuple[str, ...]
    drawing: str
    rows: tuple[PartRow, ...]
    chosen: Chosen | None
    nodes: tuple[str, ...]
    line: str
    node_list: str
    cautions: tuple[str, ...]
    shown: str
    shown_choices: tuple[str, ...]
    can_undo: bool
    can_redo: bool


def build(
    run: Run, setup_name: str, part_name: str, shown: str, *, zigzag: bool, can_undo: bool, can_redo: bool
) -> Editor:
    """The editor for one setup of a sheet; unknown names choose the first setup and no part."""
    setup = run.setups.get(setup_name) or next(iter(run.setups.values()))
    part = run.parts.get(part_name) if part_name in setup.connections else None
    beside = drawings.calculated(run, setup, shown)
    return Editor(
        setup=setup.name,
        setups=tuple(run.setups),
        drawing=drawings.of_setup(run, setup, zigzag=zigzag, lit=[part.name] if part else (), beside=beside),
        rows=tuple(_row(run, setup, one, k, part) for k, one in enumerate(run.parts.values())),
        chosen=_chosen(part, setup) if part else None,
        nodes=setup.nodes,
        line=notation.write(run, setup) or "",
        node_list=node_list.write(run, setup),
        cautions=tuple(_cautions(run)),
        shown=shown if shown in drawings.SHOWN else NOTHING,
        shown_choices=(NOTHING, *drawings.SHOWN),
        can_undo=can_undo,
        can_redo=can_redo,
    )


def refusal(act: str, error: Exception, typed: Mapping[str, str], *, zigzag: bool) -> Refusal:
    """Say why at the place, and show the circuit that cannot be, as far as one was made."""
    marked, drawing = None, ""
    if isinstance(error, NotationError) and act == "line":
        line = typed["line"]
        marked = line[: error.start], line[error.start : error.end] or " ", line[error.end :]
    if isinstance(error, EditError) and error.attempt:
        drawing = drawings.of_setup(*error.attempt, zigzag=zigzag, lit=error.parts)
    return Refusal(act, str(error), typed, marked, drawing)


def _row(run: Run, setup: Setup, part: Part, index: int, chosen: Part | None) -> PartRow:
    is_here = part.name in setup.connections
    note = ""
    if part.name in setup.sources_off:
        note = "off"
    elif part.name in setup.values:
        note = f"{setup.values[part.name].text} here"
    elif not is_here:
        note = "not in this setup"
    return PartRow(
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


def _chosen(part: Part, setup: Setup) -> Chosen:
    return Chosen(
        name=part.name,
        value=_value(part),
        tolerance=part.tolerance.text if part.tolerance else "",
        rating=part.rating.text if part.rating else "",
        here=setup.values[part.name].text if part.name in setup.values else "",
        unit=part.kind.unit,
        is_source=part.kind is not Kind.RESISTOR,
        is_off=part.name in setup.sources_off,
    )


def _value(part: Part) -> str:
    return part.nominal.text if part.nominal else UNMARKED


def _cautions(run: Run) -> list[str]:
    said = {safety.Caution.WARNING: [WARNING], safety.Caution.PAPER_ONLY: [ABOVE_LIMIT]}.get(safety.caution(run), [])
    for taken in safety.dissipations(run):
        if taken.is_over:
            power, rating = rounded(taken.power, None, WATT), rounded(taken.rating, None, WATT)
            said.append(f"{taken.part} takes {power} in {taken.setup}, more than its {rating}.")
    return said
