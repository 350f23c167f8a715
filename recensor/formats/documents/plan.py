"""A plan as the JSON tree that ``recensor plan`` prints: each step states the bench while it is carried out."""

import json
from collections.abc import Iterator
from typing import Any

from recensor.core.figures import plainly
from recensor.core.plan import Opening, Plan, Step, Way
from recensor.core.quantity import Measurand
from recensor.formats.documents.reader import said
from recensor.formats.documents.sheet import target_tree

_FUNCTIONS = {Measurand.RESISTANCE: "ohms", Measurand.VOLTAGE: "volts", Measurand.CURRENT: "amps"}


def to_tree(plan: Plan) -> dict[str, Any]:
    """The whole plan; ``refused`` says why it has no steps, ``left_out`` what this meter must not read.

    ``waived`` is what is left out on purpose.
    """
    return {
        "steps": [_step(step) for step in plan.steps],
        "moves": plan.moves,
        "moves_in_document_order": plan.moves_as_asked,
        **said(
            refused=plan.refused or None,
            left_out=[target_tree(target) for target in plan.left_out],
            waived=[target_tree(target) for target in plan.waived],
        ),
    }


def lines(plan: Plan) -> Iterator[str]:
    """The whole plan as JSON text."""
    yield json.dumps(to_tree(plan), ensure_ascii=False, allow_nan=False, indent=2)


def _step(step: Step) -> dict[str, Any]:
    state, setting = step.state, step.setting
    shows = setting.shows if setting else None
    is_placed = state.in_circuit or bool(step.reads and step.reads.is_across)  # else at no node
    read = step.reads.measurand if step.reads else state.measurand
    red, black = (state.red, state.black) if is_placed else (None, None)
    if step.reads and step.reads.is_through and state.opened:
        red, black = state.opened.red, state.opened.black
    return {
        "reads": target_tree(step.reads) if step.reads else None,
        "words": step.words,
        "power": "on" if state.powered else "off",
        "supply": "connected" if state.connected else "disconnected",
        "function": _FUNCTIONS[read] if read else None,
        "jack": step.jack,
        "range": _range(step),
        "red": red,
        "black": black,
        "opened": _opened(state.opened),
        "moves": len(step.moves),
        "expects": {"display": shows.digits, "value": step.expects} if shows else None,
    }


def _range(step: Step) -> str | None:
    """The range to take, or the one that is set by hand."""
    if step.setting:
        return step.setting.range.replace(" ", "")
    state = step.state
    return plainly(state.full, state.measurand.unit).replace(" ", "") if state.full and state.measurand else None


def _opened(opening: Opening | None) -> dict[str, str] | None:
    if opening is None:
        return None
    key = {Way.LINK: "link", Way.OUT: "out"}.get(opening.way, "lead")
    return {key: opening.name}
