"""What the editor's buttons do: each takes a sheet and what was typed, and gives the changed sheet."""

from collections.abc import Callable, Mapping
from dataclasses import replace

from recensor.core import editing, node_list, notation, ready_made
from recensor.core.circuit import Kind, Part
from recensor.core.notation import UNMARKED, NotationError, positive
from recensor.core.quantity import WATT, QuantityError, parse_percent
from recensor.core.record import Run

Typed = Mapping[str, str]

# What may be wrong with an edit; every message is for the person who made it.
REFUSALS = (editing.EditError, NotationError, node_list.NodeListError, QuantityError)


def after(run: Run, typed: Typed) -> Run:
    """Put a new part in series, behind the chosen one."""
    return editing.insert_in_series(run, typed["setup"], typed["part"], new_part(run, typed["what"]))


def before(run: Run, typed: Typed) -> Run:
    """Put a new part in series, before the chosen one."""
    return editing.insert_in_series(run, typed["setup"], typed["part"], new_part(run, typed["what"]), before=True)


def parallel(run: Run, typed: Typed) -> Run:
    """Put a new part across the chosen one."""
    return editing.add_in_parallel(run, typed["setup"], typed["part"], new_part(run, typed["what"]))


def change(run: Run, typed: Typed) -> Run:
    """Name, value, tolerance and rating of the chosen part, as its fields say."""
    old = _chosen(run, typed)
    value, name = typed["value"].strip(), typed["name"].strip()
    if not notation.NAME.fullmatch(name):
        raise editing.EditError(f"“{name[:20]}” is no name; names begin with a letter.", (old.name,))
    if value == UNMARKED and old.kind.is_source:
        raise editing.EditError("A source needs its value.", (old.name,))
    tolerance, rating = typed["tolerance"].strip(), typed["rating"].strip()
    part = replace(
        old,
        name=name,
        nominal=None if value == UNMARKED else positive(value, old.kind.unit),
        tolerance=parse_percent(tolerance if "%" in tolerance else f"{tolerance} %") if tolerance else None,
        rating=positive(rating, WATT) if rating and not old.kind.is_source else None,
    )
    return editing.replaced(run, old.name, part)


def exchange(run: Run, typed: Typed) -> Run:
    """Another part, of whatever kind, in the place of the chosen one."""
    old = _chosen(run, typed)
    new = notation.read_part(typed["what"])
    name = new.name or (old.name if new.kind is old.kind else editing.free_name(run, new.kind))
    return editing.replaced(run, old.name, replace(new, name=name))


def remove(run: Run, typed: Typed) -> Run:
    """Take the chosen part out of this setup."""
    return editing.remove(run, typed["setup"], typed["part"])


def bridge(run: Run, typed: Typed) -> Run:
    """Put a new part across two nodes."""
    return editing.bridge(run, typed["setup"], typed["first"], typed["second"], new_part(run, typed["what"]))


def leave_open(run: Run, typed: Typed) -> Run:
    """Take the chosen part out of this setup and leave its place open."""
    return editing.leave_open(run, typed["setup"], typed["part"])


def short(run: Run, typed: Typed) -> Run:
    """Put a wire in the place of the chosen part in this setup."""
    return editing.short(run, typed["setup"], typed["part"])


def instead(run: Run, typed: Typed) -> Run:
    """Another part in the place of the chosen one, in this setup only."""
    return editing.substitute(run, typed["setup"], typed["part"], new_part(run, typed["what"]))


def line(run: Run, typed: Typed) -> Run:
    """Draw this setup's circuit from its line."""
    return editing.redrawn(run, typed["setup"], notation.read(typed["line"], run.title))


def nodes(run: Run, typed: Typed) -> Run:
    """Draw this setup's circuit from its node list."""
    return editing.redrawn(run, typed["setup"], node_list.read(typed["nodes"], run.title))


def add_setup(run: Run, typed: Typed) -> Run:
    """Another setup, at first like this one."""
    return editing.add_setup(run, typed["setup_name"].strip(), typed["setup"])


def remove_setup(run: Run, typed: Typed) -> Run:
    """Drop this setup."""
    return editing.remove_setup(run, typed["setup"])


def off(run: Run, typed: Typed) -> Run:
    """Switch the chosen source off here."""
    return editing.turn_source(run, typed["setup"], typed["part"], off=True)


def on(run: Run, typed: Typed) -> Run:
    """Switch the chosen source on here."""
    return editing.turn_source(run, typed["setup"], typed["part"], off=False)


def here(run: Run, typed: Typed) -> Run:
    """Set the chosen part to another value in this setup; an empty field gives it its own again."""
    text = typed["here"].strip()
    value = positive(text, _chosen(run, typed).kind.unit) if text else None
    return editing.set_value(run, typed["setup"], typed["part"], value)


def superposition(run: Run, typed: Typed) -> Run:
    """Setups for all sources together and for each alone."""
    return ready_made.superposition(run, typed["setup"])


def equivalent(run: Run, typed: Typed) -> Run:
    """Setups for the equivalent source that the chosen part sees as its load."""
    return ready_made.equivalent_source(run, typed["setup"], typed["part"])


ACTS: dict[str, Callable[[Run, Typed], Run]] = {
    act.__name__: act
    for act in (
        *(after, before, parallel, change, exchange, instead, remove, leave_open, short, bridge, line, nodes),
        *(add_setup, remove_setup, off, on, here, superposition, equivalent),
    )
}


def new_part(run: Run, text: str) -> Part:
    """A part as it was typed; a resistor without a tolerance has the one that most others have."""
    part = notation.read_part(text)
    tolerance = part.tolerance
    if tolerance is None and part.kind is Kind.RESISTOR and part.nominal is not None:
        others = [one.tolerance for one in run.parts.values() if one.kind is Kind.RESISTOR and one.tolerance]
        tolerance = max(others, key=others.count, default=None)
    return replace(part, name=part.name or editing.free_name(run, part.kind), tolerance=tolerance)


def _chosen(run: Run, typed: Typed) -> Part:
    if typed["part"] not in run.parts:
        raise editing.EditError("Choose a part in the drawing or in the list.")
    return run.parts[typed["part"]]
