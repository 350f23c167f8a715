"""The page of what would explain a run."""

from typing import Any

from recensor.bench import trouble
from recensor.bench.causes import CausesView, describe_causes
from recensor.bench.ledger import books
from recensor.bench.models import Run
from recensor.bench.queries import RunSnapshot
from recensor.core.faults import coincidences, explain
from recensor.core.judgement import Assessment, Outcome
from recensor.web.marks import Mark


def causes_page(run: Run, loaded: RunSnapshot) -> dict[str, Any]:
    """What the page of a run's causes shows."""
    assessment = loaded.judged()
    causes = describe_causes(loaded, explain(assessment))
    state = books(loaded.core, loaded.points, assessment)
    is_sealed = loaded.is_sealed
    found = None if is_sealed else coincidences(assessment)
    return {
        "run": run,
        "line": overview(loaded, assessment, state, causes),
        "state": state,
        "told": causes,
        "chart": None if is_sealed else trouble.chart(loaded, assessment),
        "rows": [] if is_sealed else trouble.rows(loaded, assessment),
        "is_sealed": is_sealed,
        "coincidences": found,
        "chance": f"1 in {1.0 / max(found.chance, 1e-9):,.0f}".replace(",", " ") if found else "",
    }


def overview(loaded: RunSnapshot, assessment: Assessment, state: Mark, causes: CausesView) -> str:
    """The state of a run in one line: what is read, what is outside, what is out, and what is likely."""
    wanted = loaded.core.sheet.asked or tuple(loaded.points)
    read = sum(target.key in assessment.targets for target in wanted)
    outside = sum(t.judged.outcome is Outcome.OUTSIDE for t in assessment.targets.values())
    said = [f"{read} of {len(wanted)} read"]
    if outside:
        said.append(f"{outside} outside")
    if not outside or "out" in state.reason.split():
        said.append(state.reason)
    if causes.first:
        said.append(f"likely: {causes.first.name}" if causes.is_explained else "no single cause explains it")
    return " · ".join(dict.fromkeys(said))
