"""One's own calculation at a point, as the card shows it: the last one, and what there is to say of it."""

from dataclasses import dataclass

from recensor.core import entries
from recensor.core.circuit import Target
from recensor.core.entries import FormulaError, Remark
from recensor.core.figures import as_read
from recensor.core.judgement import Assessment
from recensor.core.quantity import parse
from recensor.ledger.marks import Mark
from recensor.runs.queries import RunSnapshot


@dataclass(frozen=True)
class OwnCalculation:
    """What was worked out for a point, if anything; `mark` is how it stands, once that may be seen.

    `others` are the ways in which the same value was worked out before.
    """

    value: str
    formula: str
    mark: Mark | None
    remarks: tuple[Remark, ...]
    others: tuple[str, ...]


def own_calculation(loaded: RunSnapshot, assessment: Assessment, target: Target) -> OwnCalculation | None:
    """The person's own calculation at a point; None where nobody is asked for one."""
    if loaded.own is None:
        return None
    rows = loaded.own.get(target.key, ())
    if not rows:
        return OwnCalculation("", "", None, (), ())
    *before, row = rows
    value = parse(row.text, target.unit, row.unit)
    is_sealed = loaded.core.sheet.sealed and assessment.of(target) is None
    known = None if is_sealed else assessment.expected(target)
    try:
        names = entries.names_of(loaded.core.sheet, assessment, target.setup)
        remarks = entries.worked_out(value, row.formula, target, known, names)
    except FormulaError as error:
        remarks = [Remark(None, error.message)]
    judged = next((c.judged for c in assessment.claims if c.claim.target.key == target.key), None)
    mark = None if is_sealed or judged is None else Mark(judged.outcome, judged.verdict.value, judged.reason)
    ways = {other.formula: other for other in before if other.formula not in ("", row.formula)}
    same = (way for way in ways.values() if entries.is_same_value(parse(way.text, target.unit, way.unit), value))
    others = tuple(f"{way.formula} = {as_read(parse(way.text, target.unit, way.unit), target.unit)}" for way in same)
    return OwnCalculation(as_read(value, target.unit), row.formula, mark, tuple(remarks), others)
