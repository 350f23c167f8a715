"""The board page as a view model: built or planned, held against the drawing, with the way of the current."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from recensor.bench import boards
from recensor.bench.boards import KeptBoard
from recensor.bench.marks import Mark, mark
from recensor.core import network, record
from recensor.core.as_built import Comparison, Difference, Likeness, changed_by, changed_readings, compare
from recensor.core.breadboard import BoardError, Built, Hole, Sort
from recensor.core.circuit import Setup
from recensor.core.current_path import Stop, follow
from recensor.core.probing import Shown, probe
from recensor.core.quantity import AMPERE, VOLT, rounded
from recensor.drawing.board import BoardView, board_view

BUILT, PLANNED, PATH = "built", "planned", "path"


@dataclass(frozen=True)
class Item:
    """One thing on the board, as a line of the list."""

    name: str
    text: str
    sort: str
    pulled: bool


@dataclass(frozen=True)
class Step:
    """One node of the current's way."""

    node: str
    text: str
    is_now: bool


@dataclass(frozen=True)
class BoardPage:
    """Everything the page shows. `way` is built, planned or path."""

    way: str
    setup: str
    setups: tuple[str, ...]
    view: BoardView
    items: tuple[Item, ...]
    verdict: Mark | None
    differences: tuple[tuple[str, str], ...]
    changed: tuple[tuple[str, str, str], ...]
    missing: tuple[str, ...]
    steps: tuple[Step, ...]
    shown: Shown | None
    plan_refused: str
    lit_parts: tuple[str, ...]


def build(
    core_run: record.Run, setup: Setup, bench: KeptBoard, way: str, at: int, asked: Mapping[str, str]
) -> BoardPage:
    """Lay the page out; `at` is the step of the path, `asked` has the probes and their function.

    Raises `BoardError` for probes in holes that do not exist.
    """
    refused, built = "", bench.built
    core_run, shown_board = replace(core_run, parts={**core_run.parts, **bench.extra}), built
    if way in (PLANNED, PATH):
        try:
            shown_board = boards.plan_for(core_run, setup) if way == PLANNED or not built.placements else built
        except BoardError as error:
            refused = str(error)
    comparison = compare(core_run.parts, setup, shown_board)
    stops = _stops(core_run, setup) if way == PATH else []
    lit, holes = _lit(comparison, shown_board, way, stops, at)
    probes, shown = _probed(core_run, setup, shown_board, asked) if way == BUILT else ({}, None)
    verdict = None if way != BUILT or not built.placements else _verdict(comparison)
    is_built = way == BUILT and bool(built.placements)
    return BoardPage(
        way=way,
        setup=setup.name,
        setups=tuple(core_run.setups),
        view=board_view(shown_board, core_run.parts, comparison.nodes, lit, holes, probes),
        items=tuple(_item(one.name, one.sort, one.holes, one.pulled) for one in shown_board.placements.values()),
        verdict=verdict,
        differences=tuple((one.text, _effect(core_run, setup, one)) for one in comparison.differences)
        if is_built
        else (),
        changed=tuple(_changed(core_run, setup, built, comparison)) if is_built else (),
        missing=tuple(
            name for name in setup.connections if name not in built.placements and name not in setup.sources_off
        ),
        steps=tuple(_step(stop, k == at) for k, stop in enumerate(stops)),
        shown=shown,
        plan_refused=refused,
        lit_parts=tuple(lit),
    )


def _stops(core_run: record.Run, setup: Setup) -> list[Stop]:
    try:
        return follow(core_run.parts, setup)
    except network.NetworkError:
        return []


def _lit(comparison: Comparison, board: Built, way: str, stops: list[Stop], at: int) -> tuple[set[str], set[Hole]]:
    """What is marked: the differences, or where the current goes on from the present node."""
    if way == BUILT:
        found = comparison.differences
        return {name for one in found for name in one.parts}, {hole for one in found for hole in one.holes}
    if way == PATH and 0 <= at < len(stops):
        return {name for name, _, _ in stops[at].goes_on}, set()
    return set(), set()


def _probed(
    core_run: record.Run, setup: Setup, board: Built, asked: Mapping[str, str]
) -> tuple[dict[str, Hole], Shown | None]:
    if not asked.get("red", "").strip() and not asked.get("black", "").strip():
        return {}, None
    probes = {colour: board.board.hole(asked.get(colour, "")) for colour in ("red", "black")}
    quantity = asked.get("quantity") if asked.get("quantity") in record.UNITS else record.VOLTAGE
    return probes, probe(core_run.parts, setup, board, probes["red"], probes["black"], quantity)


def _verdict(comparison: Comparison) -> Mark:
    likeness = comparison.likeness
    return mark("fails" if likeness is Likeness.DIFFERS else "holds", likeness.value)


def _changed(core_run: record.Run, setup: Setup, built: Built, comparison: Comparison) -> list[tuple[str, str, str]]:
    rows = []
    for one in changed_readings(core_run.parts, setup, built, comparison):
        drawn = f"{rounded(one.drawn_volts, None, VOLT)}, {rounded(one.drawn_amperes, None, AMPERE)}"
        now = "nothing definite"
        if one.volts is not None and one.amperes is not None:
            now = f"{rounded(one.volts, None, VOLT)}, {rounded(one.amperes, None, AMPERE)}"
        rows.append((one.part, drawn, now))
    return rows


def _effect(core_run: record.Run, setup: Setup, difference: Difference) -> str:
    """What one difference by itself does to the readings, in one line."""
    moved = []
    for one in changed_by(core_run.parts, setup, difference):
        if one.volts is None or one.amperes is None:
            moved.append(f"{one.part} nothing definite")
        elif abs(one.volts - one.drawn_volts) > abs(one.drawn_volts) / 1000 + 1e-9:
            moved.append(f"{one.part} {rounded(one.drawn_volts, None, VOLT)} → {rounded(one.volts, None, VOLT)}")
        else:
            moved.append(
                f"{one.part} {rounded(one.drawn_amperes, None, AMPERE)} → {rounded(one.amperes, None, AMPERE)}"
            )
    return f"By itself it changes {', '.join(moved)}." if moved else ""


def _item(name: str, sort: Sort, holes: tuple[Hole, Hole], pulled: bool) -> Item:
    first, second = (hole.name.replace("-", "−") for hole in holes)
    words = {Sort.PART: "", Sort.JUMPER: "jumper ", Sort.LINK: "link "}[sort]
    return Item(name, f"{words}{name}: {first} to {second}{', pulled' if pulled else ''}", sort.value, pulled)


def _step(stop: Stop, is_now: bool) -> Step:
    ways = ", ".join(f"{name} to {after} ({rounded(current, None, AMPERE)})" for name, current, after in stop.goes_on)
    arrives = " and ".join(name for name, _ in stop.arrives)
    meets = f"{arrives} meet here; " if len(stop.arrives) > 1 else ""
    splits = "the current splits into" if len(stop.goes_on) > 1 else "all of it goes through"
    return Step(stop.node, f"Node {stop.node}, {rounded(stop.volts, None, VOLT)}: {meets}{splits} {ways}.", is_now)
