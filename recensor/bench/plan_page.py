"""The whole plan of a run on one page: every step from the bench as it stands to the last reading."""

from dataclasses import dataclass, replace
from typing import Any

from recensor.bench import queries
from recensor.bench.at_bench import bench_of, proved, state_of
from recensor.bench.models import Run
from recensor.bench.queries import LoadedRun
from recensor.bench.rows import token_of
from recensor.core import plan
from recensor.core.plan import Order, Step, Way
from recensor.people.models import User


@dataclass(frozen=True)
class PlannedStep:
    """One step in words; `place` is that of its reading, empty where it only changes the bench."""

    number: int
    power: str
    words: str
    set_to: str
    shows: str
    moves: int
    place: str


def plan_page(run: Run, loaded: LoadedRun, person: User) -> dict[str, Any]:
    """What the template shows of what is still to be read."""
    assessment = loaded.judged()
    bench = bench_of(run, loaded, assessment, person)
    core = queries.with_boards(run, loaded.core)
    core = replace(core, sheet=replace(loaded.core.sheet, sealed=loaded.is_sealed))
    found = plan.plan(
        core, start=proved(run, state_of(loaded, bench)), order=Order(person.reading_order), way=Way(person.opens_by)
    )
    return {
        "run": run,
        "steps": [_step(k, step) for k, step in enumerate(found.steps, 1)],
        "moves": found.moves,
        "moves_as_asked": found.moves_as_asked,
        "refused": found.refused,
        "way": person.opens_by,
    }


def _step(number: int, step: Step) -> PlannedStep:
    setting = step.setting
    return PlannedStep(
        number,
        "ON" if step.state.powered else "OFF",
        step.words,
        f"{setting.dial}, {setting.range}{f', jack {step.jack}' if step.jack else ''}" if setting else "",
        setting.shows.text if setting and setting.shows else "",
        len(step.moves),
        token_of(step.reads) if step.reads else "",
    )
