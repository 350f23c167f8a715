"""The pane of parts and circuits: what is in hand, what was built of it, and what is to be built next."""

from collections.abc import Iterator
from dataclasses import dataclass

from recensor.bench.forms import CircuitsForm, NewPartsForm
from recensor.core.circuit import USUAL_WISHES, Part, PartAlone, Setup, Sheet, Target, Wish, slug, wishes_met
from recensor.core.editing import alike, grown, presets
from recensor.core.entries import MOST_AT_ONCE
from recensor.core.errors import Refused
from recensor.core.figures import rounded
from recensor.core.judgement import Assessment
from recensor.core.quantity import OHM, RESISTANCE
from recensor.core.record import Run
from recensor.core.uncertainty import COVERAGE_FACTOR
from recensor.drawing.conventions import Conventions
from recensor.ledger import Ledger, Row
from recensor.runs.services.build_circuits import circuits_made
from recensor.web import drawings

# So many circuits are drawn in their table.
_MOST_DRAWN = 12


@dataclass(frozen=True)
class PartInHand:
    """A part of the run: what it should be, what it was read as by itself, and whether it is on the board."""

    name: str
    value: str
    row: Row | None
    address: str
    is_on_board: bool


@dataclass(frozen=True)
class AlikeParts:
    """Parts that are marked alike, in `words` and by their `names`; `value` is what any of a group may be."""

    words: str
    names: tuple[str, ...]
    is_group: bool
    value: str


@dataclass(frozen=True)
class BuiltCircuit:
    """A circuit of the run: its number and name, its total as calculated and read, and where it is read on.

    `rules` are what its shape alone demands of its total, each with whether that holds. Of a long list nothing is
    drawn.
    """

    number: int
    name: str
    label: str
    address: str
    total: Row | None
    left: int
    is_present: bool
    drawing: str
    rules: tuple[tuple[str, bool], ...]


@dataclass(frozen=True)
class ProposedCircuit:
    """A circuit that was typed and is not built yet: its drawing, and what has to be moved to come to it."""

    name: str
    drawing: str
    moves: str


@dataclass(frozen=True)
class Proposal:
    """The circuits that a text means, or why it means none."""

    circuits: tuple[ProposedCircuit, ...] = ()
    refused: str = ""


@dataclass(frozen=True)
class PartsPane:
    """All that the pane shows: `circuits` were built, those of the `proposal` are typed in `form` and not yet made.

    `grown` is the circuit on the board with one part more: in words, and as its line.
    """

    parts: tuple[PartInHand, ...]
    circuits: tuple[BuiltCircuit, ...]
    presets: tuple[tuple[str, str], ...]
    grown: tuple[tuple[str, str], ...]
    form: CircuitsForm
    proposal: Proposal
    new_parts: NewPartsForm
    alike: tuple[AlikeParts, ...]


@dataclass(frozen=True)
class TypedInPane:
    """What was typed in the pane: its forms where they were refused, or the `text` of a preset."""

    form: CircuitsForm | None = None
    new_parts: NewPartsForm | None = None
    text: str = ""


def parts_pane(run: Run, present: str, ledger: Ledger, conventions: Conventions, typed: TypedInPane) -> PartsPane:
    """The pane at the setup on the board; of a circuit is asked what was asked of the last that was built so."""
    sheet, text = run.sheet, typed.text
    here = sheet.setup(present)
    typed_last = next((setup for setup in reversed(list(sheet.setups.values())) if setup.line), None)
    wishes = wishes_met(sheet, typed_last) if typed_last else USUAL_WISHES
    initial = {"setup": present, "circuits": text, "wish": [wish.value for wish in Wish if wish in wishes]}
    return PartsPane(
        tuple(_parts(sheet, here, ledger)),
        tuple(_circuits(sheet, present, ledger, conventions)),
        tuple((preset.value, lines) for preset, lines in presets(sheet, here, MOST_AT_ONCE)),
        tuple((f"{part} {joined}", line) for joined, part, line in grown(sheet, here)),
        typed.form or CircuitsForm(initial=initial, auto_id="build-%s"),
        proposal(run, present, text, conventions) if text else Proposal(),
        typed.new_parts or NewPartsForm(auto_id="new-%s"),
        tuple(_alike(sheet, ledger.assessment)),
    )


def proposal(run: Run, present: str, text: str, conventions: Conventions) -> Proposal:
    """What a text of circuits means, drawn and with its moves, before any of it is made; a run with its boards."""
    try:
        changed, made = circuits_made(run.sheet, present, text, USUAL_WISHES, run.boards)
    except Refused as error:
        return Proposal(refused=error.message)
    return Proposal(
        tuple(
            ProposedCircuit(
                one.setup, drawings.of_setup(changed, changed.setups[one.setup], conventions), "; ".join(one.moves)
            )
            for one in made
        )
    )


def marked(part: Part) -> str:
    """What is marked on a part; what three bands or a kit say of its tolerance is seen at once."""
    value = part.nominal.text if part.nominal else part.doubtful
    return f"{value} ± {part.tolerance.text}" if part.tolerance and value else value


def _parts(sheet: Sheet, here: Setup, ledger: Ledger) -> Iterator[PartInHand]:
    """Every part but wires; a potentiometer once, read by its lower half."""
    wholes = {lower: name for name, (_, lower) in sheet.potentiometers.items()}
    uppers = {upper for upper, _ in sheet.potentiometers.values()}
    for name, part in sheet.parts.items():
        if part.kind.is_wire or name in uppers:
            continue
        alone = PartAlone(name, part.kind.measured_as)
        is_there = alone.key in ledger.rows.index
        yield PartInHand(
            wholes.get(name, name),
            marked(part),
            ledger.rows.row_of(alone) if is_there else None,
            slug(alone),
            name in here.connections,
        )


def _alike(sheet: Sheet, assessment: Assessment) -> Iterator[AlikeParts]:
    """The groups, then whatever else is marked alike."""
    grouped = {name for group in sheet.groups for name in group}
    for group in sheet.groups:
        any_of_them = assessment.against.measurements.of_part(PartAlone(group[0], RESISTANCE))
        value = ""
        if any_of_them and any_of_them.mean is not None:
            margin = COVERAGE_FACTOR * any_of_them.spread.standard
            value = f"{rounded(any_of_them.mean, margin, OHM)} ± {rounded(margin, margin, OHM)}"
        yield AlikeParts(" and ".join(group), group, True, value)
    for names in alike.marked_alike(sheet):
        left = [name for name in names if name not in grouped]
        if len(left) > 1:
            yield AlikeParts(" and ".join(left), tuple(left), False, "")


def _circuits(sheet: Sheet, present: str, ledger: Ledger, conventions: Conventions) -> Iterator[BuiltCircuit]:
    are_drawn = len(sheet.setups) <= _MOST_DRAWN
    asked: dict[str, list[Target]] = {}
    for target in ledger.rows.points:
        if target.setup:
            asked.setdefault(target.setup, []).append(target)
    for number, setup in enumerate(sheet.setups.values(), 1):
        there = asked.get(setup.name, [])
        unread = [target for target in there if not ledger.rows.assessment.is_read(target)]
        total = next((target for target in there if target.is_across and target.measurand is RESISTANCE), None)
        go_to = next(iter(unread or there), None)
        yield BuiltCircuit(
            number,
            setup.name,
            setup.label,
            slug(go_to) if go_to else "",
            ledger.rows.row_of(total) if total else None,
            len(unread),
            setup.name == present,
            drawings.of_setup(sheet, setup, conventions) if are_drawn else "",
            tuple(
                (check.reason, check.holds)
                for check in ledger.assessment.sanity
                if check.setup == setup.name and check.is_of_total
            ),
        )
