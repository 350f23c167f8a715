"""A judged run as tables of plain cells, for CSV and for workbooks: values in SI units, and as they were typed."""

from collections.abc import Iterator
from dataclasses import dataclass, field

from recensor.core.circuit import NOMINAL, Across, Basis, Target, Through
from recensor.core.judgement import Account, Assessment, Judged
from recensor.core.quantity import CURRENT, VOLTAGE


@dataclass(frozen=True)
class Ref:
    """A cell of the same table, both counted from 0; row 0 is the header."""

    column: int
    row: int


@dataclass(frozen=True)
class Formula:
    """A live formula: `text` with a place ``{}`` for each of its cells, and the value that it has now."""

    text: str
    cells: tuple[Ref, ...]
    value: float | None = None


Cell = str | float | int | Formula | None


@dataclass(frozen=True)
class Table:
    """A table with a name and a header; each row has a cell for each of its columns."""

    name: str
    header: tuple[str, ...]
    rows: list[tuple[Cell, ...]] = field(default_factory=list)


# The columns of a table of readings, and what each says; in docs/formats.md in the same order.
READING_COLUMNS = (
    "index", "setup", "quantity", "of", "red", "black", "through", "at", "row", "typed", "typed_unit", "value", "unit",
    "range", "meter", "standing", "why", "time", "by", "note", "calculated_nominal", "calculated_measured",
    "percent_error", "uncertainty", "verdict", "reason",
)  # fmt: skip

# How a reading stands that was struck.
STRUCK = "struck"


def tables(assessment: Assessment) -> list[Table]:
    """Every table of a judged run; those that have nothing to say are left out."""
    found = [parts(assessment), readings(assessment), *_accounts(assessment), ohms_law(assessment)]
    return [table for table in found if table.rows]


def parts(assessment: Assessment) -> Table:
    """Each part, what stands on it, what it was read to be, and how far that is off."""
    table = Table("Parts", ("part", "kind", "nominal", "unit", "tolerance_percent", "measured", "percent_error",
                            "verdict"))  # fmt: skip
    sheet = assessment.against.run.sheet
    for row, (name, part) in enumerate(assessment.parts.items(), 1):
        error: Cell = part.percent_error
        if part.percent_error is not None:
            error = Formula("({}-{})/ABS({})*100", (Ref(5, row), Ref(2, row), Ref(2, row)), part.percent_error)
        kind = sheet.parts[name].kind
        table.rows.append((name, kind.word, part.nominal, kind.measured_as.unit, part.tolerance_percent, part.measured,
                           error, part.verdict.value))  # fmt: skip
    return table


def readings(assessment: Assessment) -> Table:
    """Every reading in the order in which it was taken, struck ones too, with how it stands."""
    run = assessment.against.run
    against = run.sheet.judge.against
    table = Table("Readings", READING_COLUMNS)
    assessed = {one.index: one for one in assessment.readings}
    for row, (index, reading) in enumerate(enumerate(run.readings), 1):
        reading_assessment = assessed.get(index)
        why = reading.struck.reason if reading.struck else "read again" if reading.later else None
        table.rows.append((
            index, *_place(reading.target), reading.value.text, reading.value.beside or None,
            None if reading.value.value is None else float(reading.value.value), reading.target.unit,
            reading.range.text if reading.range else None, reading.meter,
            reading_assessment.standing.value if reading_assessment else STRUCK, why,
            reading.time.isoformat() if reading.time else None, reading.by, reading.note,
            *(_judged(reading_assessment.judged, reading.target, row, against) if reading_assessment else (None,) * 6),
        ))  # fmt: skip
    return table


def _judged(judged: Judged, target: Target, row: int, against: Basis) -> tuple[Cell, ...]:
    """What was calculated of a reading, its error as a formula, its uncertainty and its verdict."""
    basis = NOMINAL if not target.in_circuit else against
    basis = basis if judged.percent_error[basis] is not None else basis.other
    error: Cell = judged.percent_error[basis]
    if isinstance(error, float):
        calculated = Ref(READING_COLUMNS.index(f"calculated_{basis}"), row)
        error = Formula(
            "({}-{})/ABS({})*100", (Ref(READING_COLUMNS.index("value"), row), calculated, calculated), error
        )
    return (judged.nominal.value, judged.measured.value, error, judged.expanded, judged.verdict.value, judged.reason)


def _place(target: Target) -> tuple[Cell, ...]:
    """Setup, quantity, of, red, black, through, at and row of a target."""
    columns = target.columns
    of = "leads" if target.is_leads else columns.of
    named = (of, columns.red, columns.black, columns.through, columns.at)
    step = None if columns.step is None else columns.step + 1
    return target.setup, columns.quantity, *(name or None for name in named), step


def _accounts(assessment: Assessment) -> Iterator[Table]:
    """Loops and nodes, each a block of terms with the sum of its signed values."""
    for law, name in ((VOLTAGE, "Loops"), (CURRENT, "Nodes")):
        table = Table(name, ("account", "setup", "part", "sign", "value", "unit", "signed_value", "verdict"))
        for account in assessment.laws:
            if account.law is law and account.terms:
                _account(table, account)
        yield table


def _account(table: Table, account: Account) -> None:
    title = f"Node {account.at}" if account.at is not None else f"Loop {' · '.join(account.around)}"
    first = len(table.rows) + 1
    for row, term in enumerate(account.terms, first):
        signed: Cell = None
        if term.value is not None:
            signed = Formula("{}*{}", (Ref(3, row), Ref(4, row)), term.sign * term.value)
        table.rows.append((title, account.setup, term.part, term.sign, term.value, account.law.unit, signed, None))
    last = len(table.rows)
    left: Cell = None
    if account.residual is not None:
        left = Formula("SUM({}:{})", (Ref(6, first), Ref(6, last)), account.residual)
    table.rows.append((title, account.setup, "what is left", None, None, account.law.unit, left,
                       account.verdict.value))  # fmt: skip


def ohms_law(assessment: Assessment) -> Table:
    """Volts over amperes, and volts times amperes, of every part of which both were read."""
    table = Table("Ohm's law", ("setup", "part", "volts", "amps", "ohms", "watts", "nominal_ohms", "percent_error"))
    sheet = assessment.against.run.sheet
    for setup in sheet.setups.values():
        for name, leads in setup.connections.items():
            part = sheet.parts[name]
            volts = _mean(Across(VOLTAGE, leads, setup.name), assessment)
            amps = _mean(Through(name, setup.name), assessment)
            if part.kind.is_source or volts is None or not amps:
                continue
            row = len(table.rows) + 1
            v, i, r, stated = (Ref(column, row) for column in (2, 3, 4, 6))
            stated_ohms = setup.stated(part) if part.kind.ohmic else None
            nominal = float(stated_ohms) if stated_ohms else None
            ohms = volts / amps
            off = Formula("({}-{})/{}*100", (r, stated, stated), (ohms - nominal) / nominal * 100) if nominal else None
            table.rows.append((setup.name, name, volts, amps, Formula("{}/{}", (v, i), ohms),
                               Formula("{}*{}", (v, i), volts * amps), nominal, off))  # fmt: skip
    return table


def _mean(target: Target, assessment: Assessment) -> float | None:
    """What was read at a target, with its leads as the target has them."""
    target_assessment = assessment.of(target)
    if target_assessment is None or target_assessment.measurement.mean is None:
        return None
    turned = target.reversed_against(target_assessment.measurement.target)
    return -target_assessment.measurement.mean if turned else target_assessment.measurement.mean
