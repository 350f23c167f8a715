"""A series-parallel circuit of one source, drawn round a loop as on a ruled sheet.

The source stands at the left. A chain runs along the top, down the right and back along the bottom; a
parallel group hangs between two rails, and its last branch may go on along the upper one, as a ladder does.
"""

from collections.abc import Sequence

from recensor.core.circuit import Leaf, Parallel, Series, Tree, leaves
from recensor.drawing.schematic.canvas import COLUMN, LEFT, PITCH, TOP, Canvas, Schematic

PARTS_DOWN = 3
RAIL = 16


def draw(canvas: Canvas, source: str, tree: Tree) -> Schematic:
    """The source at the left, the tree round the loop."""
    members = _members(tree)
    along_top, down, along_bottom = _round_the_loop(members)
    right = LEFT + COLUMN * max(len(along_top), len(along_bottom), 1)
    span = max(sum(_height(member) for member in down), 2 * PITCH)
    bottom = TOP + span

    x = float(LEFT)
    canvas.node(tree.start, LEFT, TOP, "above")
    for leaf in along_top:
        canvas.part_along(leaf.part, x, x + COLUMN, TOP, leaf.start)
        x += COLUMN
        canvas.node(leaf.end, x, TOP, "above")
    canvas.wire(x, TOP, right, TOP)
    _stack(canvas, down, right, TOP, span, free=True)

    x = float(LEFT)
    for leaf in reversed(along_bottom):
        canvas.part_along(leaf.part, x, x + COLUMN, bottom, leaf.end)
        x += COLUMN
        canvas.node(leaf.start, x, bottom, "below")
    canvas.wire(x, bottom, right, bottom)
    canvas.node(tree.end, LEFT, bottom, "below")
    canvas.part_between(source, LEFT, TOP, bottom, tree.start, label_left=True)
    return canvas.finished(right + max(_width(member, free=True) for member in down) + 8, bottom + 44, (LEFT, bottom))


def _stack(canvas: Canvas, members: Sequence[Tree], x: float, y: float, height: float, *, free: bool) -> None:
    """Members one below the other from (x, y) over `height`; `free` where nothing stands at their right."""
    if len(members) == 1 and isinstance(members[0], Parallel):
        _group(canvas, members[0], x, y, y + height, free=free)
        return
    stretch = (height - sum(_height(member) for member in members)) / len(members)
    for member in members:
        end = y + _height(member) + stretch
        if isinstance(member, Leaf):
            canvas.part_between(member.part, x, y, end, member.start)
        elif isinstance(member, Parallel):
            canvas.wire(x, y, x, y + RAIL)
            _group(canvas, member, x, y + RAIL, end - RAIL, free=free)
            canvas.wire(x, end - RAIL, x, end)
        y = end
        if member is not members[-1]:
            canvas.node(member.end, x, y, "left")


def _group(canvas: Canvas, group: Parallel, x: float, upper: float, lower: float, *, free: bool) -> None:
    """A parallel group between two rails from column `x` on."""
    plain, along, onward = _rungs(group, free=free)
    column = x
    for k, member in enumerate(plain):
        if k:
            step = _width(plain[k - 1], free=False)
            canvas.wire(column, upper, column + step, upper)
            canvas.wire(column, lower, column + step, lower)
            column += step
        _stack(canvas, _members(member), column, upper, lower - upper, free=False)
    if not onward:
        return
    left, right = column, column + max(_width(plain[-1], free=False), COLUMN)
    for leaf in along:
        canvas.part_along(leaf.part, column, right, upper, leaf.start)
        canvas.node(leaf.end, right, upper, "above")
        column, right = right, right + COLUMN
    canvas.wire(left, lower, column, lower)
    _stack(canvas, onward, column, upper, lower - upper, free=True)


def _rungs(group: Parallel, *, free: bool) -> tuple[list[Tree], list[Leaf], tuple[Tree, ...]]:
    """The members that hang between the rails, and of a ladder's last one what lies along the rail and what hangs."""
    ladders = [member for member in group.members if free and _goes_on(member)]
    if not ladders:
        return list(group.members), [], ()
    last = max(ladders, key=lambda member: sum(1 for _ in leaves(member)))
    members = _members(last)
    count = next(k for k, member in enumerate(members) if not isinstance(member, Leaf))
    along = [member for member in members[:count] if isinstance(member, Leaf)]
    return [member for member in group.members if member is not last], along, members[count:]


def _goes_on(member: Tree) -> bool:
    """Whether a member of a group begins with parts and has a group of its own behind them."""
    return (
        isinstance(member, Series)
        and isinstance(member.members[0], Leaf)
        and any(isinstance(inner, Parallel) for inner in member.members)
    )


def _members(tree: Tree) -> tuple[Tree, ...]:
    return tree.members if isinstance(tree, Series) else (tree,)


def _round_the_loop(members: tuple[Tree, ...]) -> tuple[list[Leaf], list[Tree], list[Leaf]]:
    """Which members go along the top, down the right and back along the bottom."""
    surplus = max(0, len(members) - PARTS_DOWN)
    first_group = next((k for k, member in enumerate(members) if not isinstance(member, Leaf)), 0)
    most_top = max((surplus + 1) // 2, first_group)
    top: list[Leaf] = []
    for member in members:
        if not isinstance(member, Leaf) or len(top) == most_top:
            break
        top.append(member)
    bottom: list[Leaf] = []
    for member in reversed(members[len(top) :]):
        if not isinstance(member, Leaf) or len(bottom) >= surplus - len(top):
            break
        bottom.insert(0, member)
    return top, list(members[len(top) : len(members) - len(bottom)]), bottom


def _height(tree: Tree) -> float:
    if isinstance(tree, Leaf):
        return PITCH
    heights = [_height(member) for member in tree.members]
    return sum(heights) if isinstance(tree, Series) else max(heights) + 2 * RAIL


def _width(tree: Tree, *, free: bool) -> float:
    if isinstance(tree, Leaf):
        return COLUMN
    if isinstance(tree, Series):
        return max(_width(member, free=free) for member in tree.members)
    plain, along, onward = _rungs(tree, free=free)
    width = sum(_width(member, free=False) for member in plain)
    if onward:
        width += COLUMN * (len(along) - 1) + max(_width(member, free=True) for member in onward)
    return width
