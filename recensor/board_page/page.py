"""The board page as a view model: built or planned, held against the drawing, with the way of the current."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from recensor.board_page import kept_board
from recensor.board_page.kept_board import KeptBoard
from recensor.core.boards import (
    BoardComparison,
    BoardError,
    Built,
    Changed,
    Consequences,
    Difference,
    Hole,
    Likeness,
    Piece,
    Placement,
    Shown,
    compare,
    probe,
    probes_at,
)
from recensor.core.circuit import Across, Setup, Sheet, Target
from recensor.core.figures import rounded
from recensor.core.judgement import Outcome
from recensor.core.meters import ORDINARY_HANDHELD, Profile
from recensor.core.quantity import AMPERE, CURRENT, VOLT, Measurand
from recensor.core.solving import NetworkError, Waypoint, current_path
from recensor.drawing.board import BoardView, Lies, board_view
from recensor.ledger.marks import Mark


@dataclass(frozen=True)
class Looking:
    """How a person looks at a board: as it lies before them, whole or folded, at what, and with which meter."""

    lies: Lies = Lies.UPRIGHT
    whole: bool = False
    at: Target | None = None
    meter: Profile = ORDINARY_HANDHELD


class Side(StrEnum):
    """What the page shows of a board."""

    PLANNED = "planned"
    BUILT = "built"
    PATH = "path"


@dataclass(frozen=True)
class Item:
    """One thing on the board, as a line of the list."""

    name: str
    text: str
    piece: str
    pulled: bool


@dataclass(frozen=True)
class PathStep:
    """One node of the current's way."""

    node: str
    text: str
    is_now: bool


@dataclass(frozen=True)
class BoardPage:
    """Everything the page shows of one side of a board."""

    side: Side
    setup: str
    setups: tuple[str, ...]
    view: BoardView
    items: tuple[Item, ...]
    verdict: Mark | None
    differences: tuple[tuple[str, str], ...]
    changed: tuple[tuple[str, str, str], ...]
    missing: tuple[str, ...]
    steps: tuple[PathStep, ...]
    shown: Shown | None
    is_sealed: bool
    plan_refused: str
    lit_parts: tuple[str, ...]
    reads: Target | None = None


def board_page(
    sheet: Sheet,
    setup: Setup,
    board: KeptBoard,
    side: Side,
    at: int,
    probed: tuple[str, str, Measurand],
    looking: Looking,
) -> BoardPage:
    """Lay the page out; `at` is the step of the path, `probed` has the holes of red and black and what is read.

    Of a sealed sheet it shows what is connected and where the current goes, and no value that is calculated.

    Raises `BoardError` for probes in holes that do not exist.
    """
    refused, built = "", board.built
    sheet, shown_board = replace(sheet, parts={**sheet.parts, **board.extra}), built
    if side is not Side.BUILT:
        try:
            shown_board = kept_board.plan_for(sheet, setup) if side is Side.PLANNED or not built.placements else built
        except BoardError as error:
            refused = error.message
    comparison = compare(sheet, setup, shown_board)
    waypoints = _waypoints(sheet, setup) if side is Side.PATH else []
    lit, holes = _lit(comparison, side, waypoints, at)
    is_probed = side is Side.BUILT and not sheet.sealed
    probes, shown = _probed(sheet, setup, shown_board, probed, looking.meter) if is_probed else ({}, None)
    if looking.at is not None:
        lit, probes = {*lit, *looking.at.parts_read(sheet)}, probes or probes_at(looking.at, shown_board, comparison)
    is_built = side is Side.BUILT and bool(built.placements)
    consequences = Consequences.of(sheet, setup) if is_built and not sheet.sealed else None
    return BoardPage(
        side=side,
        setup=setup.name,
        setups=tuple(sheet.setups),
        view=board_view(
            shown_board, sheet.parts, comparison.nodes, lit, holes, probes, looking.lies, whole=looking.whole
        ),
        items=tuple(map(_item, shown_board.placements.values())),
        verdict=_verdict(comparison) if is_built else None,
        differences=tuple((difference.text, _effect(consequences, difference)) for difference in comparison.differences)
        if is_built
        else (),
        changed=tuple(map(_changed, consequences.of_board(built, comparison))) if consequences else (),
        missing=tuple(
            name for name in setup.connections if name not in built.placements and name not in setup.sources_off
        ),
        steps=tuple(_step(waypoint, k == at, sealed=sheet.sealed) for k, waypoint in enumerate(waypoints)),
        shown=shown,
        is_sealed=sheet.sealed,
        plan_refused=refused,
        lit_parts=tuple(lit),
        reads=_reads(probes, probed[2], shown_board, comparison, setup) if shown else None,
    )


def _reads(
    probes: dict[str, Hole], measurand: Measurand, built: Built, comparison: BoardComparison, setup: Setup
) -> Target | None:
    """The reading that the probes take, where both are at nodes of the drawing."""
    nets = built.nets()
    red, black = (comparison.nodes.get(nets.of(probes[colour]), "") for colour in ("red", "black"))
    if not red or not black or red == black or measurand is CURRENT:
        return None
    return Across(measurand, (red, black), setup.name)


def _waypoints(sheet: Sheet, setup: Setup) -> list[Waypoint]:
    try:
        return current_path.follow(sheet, setup)
    except NetworkError:
        return []


def _lit(comparison: BoardComparison, side: Side, waypoints: Sequence[Waypoint], at: int) -> tuple[set[str], set[Hole]]:
    """What is marked: the differences, or where the current goes on from the present node."""
    if side is Side.BUILT:
        differences = comparison.differences
        return {name for difference in differences for name in difference.parts}, {
            hole for difference in differences for hole in difference.holes
        }
    if side is Side.PATH and 0 <= at < len(waypoints):
        return {name for name, _, _ in waypoints[at].goes_on}, set()
    return set(), set()


def _probed(
    sheet: Sheet, setup: Setup, built: Built, probed: tuple[str, str, Measurand], meter: Profile
) -> tuple[dict[str, Hole], Shown | None]:
    red, black, measurand = probed
    if not red.strip() and not black.strip():
        return {}, None
    probes = {"red": built.board.hole(red), "black": built.board.hole(black)}
    return probes, probe(sheet, setup, built, probes["red"], probes["black"], measurand, meter)


def _verdict(comparison: BoardComparison) -> Mark:
    likeness = comparison.likeness
    if likeness is Likeness.DIFFERS:
        return Mark(Outcome.OUTSIDE, "fails", likeness.value)
    return Mark(Outcome.AGREES, "holds", likeness.value)


def _changed(changed: Changed) -> tuple[str, str, str]:
    drawn = f"{rounded(changed.drawn_volts, None, VOLT)}, {rounded(changed.drawn_amperes, None, AMPERE)}"
    now = "nothing definite"
    if changed.volts is not None and changed.amperes is not None:
        now = f"{rounded(changed.volts, None, VOLT)}, {rounded(changed.amperes, None, AMPERE)}"
    return changed.part, drawn, now


def _effect(consequences: Consequences | None, difference: Difference) -> str:
    """What one difference by itself does to the readings, in one line; nothing where that is kept back."""
    if consequences is None:
        return ""
    moved = []
    for changed in consequences.of_difference(difference):
        if changed.volts is None or changed.amperes is None:
            moved.append(f"{changed.part} nothing definite")
        elif abs(changed.volts - changed.drawn_volts) > abs(changed.drawn_volts) / 1000 + 1e-9:
            moved.append(
                f"{changed.part} {rounded(changed.drawn_volts, None, VOLT)} → {rounded(changed.volts, None, VOLT)}"
            )
        else:
            drawn, now = rounded(changed.drawn_amperes, None, AMPERE), rounded(changed.amperes, None, AMPERE)
            moved.append(f"{changed.part} {drawn} → {now}")
    return f"By itself it changes {', '.join(moved)}." if moved else ""


def _item(placement: Placement) -> Item:
    first, second = (hole.shown for hole in placement.holes)
    words = {Piece.PART: "", Piece.JUMPER: "jumper ", Piece.LINK: "link "}[placement.piece]
    text = f"{words}{placement.name}: {first} to {second}{', pulled' if placement.pulled else ''}"
    return Item(placement.name, text, placement.piece.value, placement.pulled)


def _step(waypoint: Waypoint, is_now: bool, *, sealed: bool) -> PathStep:
    def told(value: float, unit: str, words: str) -> str:
        return "" if sealed else words.format(rounded(value, None, unit))

    ways = ", ".join(f"{name} to {after}{told(amps, AMPERE, ' ({})')}" for name, amps, after in waypoint.goes_on)
    arrives = " and ".join(name for name, _ in waypoint.arrives)
    meets = f"{arrives} meet here; " if len(waypoint.arrives) > 1 else ""
    splits = "the current splits into" if len(waypoint.goes_on) > 1 else "all of it goes through"
    text = f"Node {waypoint.node}{told(waypoint.volts, VOLT, ', {}')}: {meets}{splits} {ways}."
    return PathStep(waypoint.node, text, is_now)
