"""The page of what would explain a run."""

from typing import Any

from recensor.core.faults import coincidences, explain
from recensor.core.judgement import Assessment, Outcome
from recensor.ledger import books, budget_table
from recensor.ledger.causes import CausesView, describe_causes
from recensor.ledger.marks import Mark
from recensor.runs.models import RunRow
from recensor.runs.queries import RunSnapshot


def causes_page(run: RunRow, loaded: RunSnapshot) -> dict[str, Any]:
    """What the page of a run's causes shows."""
    assessment = loaded.judged()
    causes = describe_causes(loaded.core, explain(assessment), is_sealed=loaded.is_sealed)
    state = books(loaded.core, loaded.points, assessment)
    is_sealed = loaded.is_sealed
    found = None if is_sealed else coincidences(assessment)
    return {
        "run": run,
        "line": overview(loaded, assessment, state, causes),
        "state": state,
        "told": causes,
        "chart": None if is_sealed else budget_table.chart(assessment),
        "rows": [] if is_sealed else budget_table.rows(assessment),
        "is_sealed": is_sealed,
        "coincidences": found,
        "chance": f"1 in {1.0 / max(found.chance, 1e-9):,.0f}".replace(",", " ") if found else "",
    }


def overview(loaded: RunSnapshot, assessment: Assessment, state: Mark, causes: CausesView) -> str:
    """The state of a run in one line: what is read, what is outside, what is out, and what is likely."""
    wanted = loaded.core.sheet.asked or tuple(loaded.points)
    read = sum(map(assessment.is_read, wanted))
    outside = sum(t.judged.outcome is Outcome.OUTSIDE for t in assessment.targets.values())
    texts = [f"{read} of {len(wanted)} read"]
    if outside:
        texts.append(f"{outside} outside")
    if not outside or "out" in state.reason.split():
        texts.append(state.reason)
    if causes.first:
        texts.append(f"likely: {causes.first.name}" if causes.is_explained else "no single cause explains it")
    return " · ".join(dict.fromkeys(texts))
