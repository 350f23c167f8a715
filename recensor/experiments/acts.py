"""What the editor's buttons do: each act takes a sheet and what was typed, and gives the changed sheet.

One decorator says all that an act needs elsewhere: what it takes from the form, where a refusal is said, its button
and its key.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

from recensor.core.circuit import (
    KINDS,
    NAME,
    SOURCE_WORDS,
    UNMARKED,
    Part,
    Rule,
    Sheet,
    check_part,
    node_list,
    one_line,
    parts_line,
    potentiometer,
    read_part,
    read_temperature,
)
from recensor.core.editing import (
    EditError,
    edits,
    equivalent_source,
    evenly,
    free_name,
    held_against,
    potentiometers,
    sweep,
)
from recensor.core.editing import superposition as each_source_alone
from recensor.core.quantity import VOLT, positive

Typed = Mapping[str, str]

# What every act is told: the setup and the part that the editor stands at.
COMMON = ("setup", "part")

# What may be stated of a part beside its name and value, whatever its kind.
STATED = tuple({stated.name: None for kind in KINDS.values() for stated in kind.states if stated is not kind.value})


class EditorForm(StrEnum):
    """The form of the editor that an act is in, and where it is said why it was refused."""

    AROUND = "around"
    FIELDS = "fields"
    CHOSEN = "chosen"
    SWEEP = "sweep"
    BRIDGE = "bridge"
    SETUPS = "setups"
    WARM = "warm"
    LINE = "line"
    NODES = "nodes"

    @property
    def needs_part(self) -> bool:
        """Whether the form is only there while a part is chosen."""
        return self in (EditorForm.AROUND, EditorForm.FIELDS, EditorForm.CHOSEN, EditorForm.SWEEP)


@dataclass(frozen=True)
class EditorFocus:
    """Where the editor stands: the setup, whether there are several, and the chosen part.

    Of a potentiometer the part is its lower half, and it has three leads and not two.
    """

    setup: str
    several: bool
    part: Part | None = None
    is_off: bool = False
    is_open: bool = False
    is_swept: bool = False
    is_warmed: bool = False
    has_two_leads: bool = True

    @property
    def is_switch(self) -> bool:
        """Whether the chosen part can be opened and closed."""
        return self.part is not None and self.part.kind.can_open

    @property
    def can_be_set(self) -> bool:
        """Whether the chosen part can have a value of its own in this setup."""
        return self.several or (self.part is not None and self.part.kind.adjustable_value)

    @property
    def is_source(self) -> bool:
        """Whether the chosen part drives the circuit."""
        return self.part is not None and self.part.kind.is_source


def always(standing: EditorFocus) -> bool:
    """An act that is offered wherever its form is."""
    return True


@dataclass(frozen=True)
class Act:
    """One act: its wire name, form, typed fields, the words on its button, its key, and when it is offered."""

    name: str
    place: EditorForm
    takes: tuple[str, ...]
    label: str
    key: str
    offered: Callable[[EditorFocus], bool]
    carry_out: Callable[[Sheet, Typed], Sheet]


ACTS: dict[str, Act] = {}


def act(
    name: str,
    place: EditorForm,
    label: str,
    *,
    takes: tuple[str, ...] = (),
    key: str = "",
    offered: Callable[[EditorFocus], bool] = always,
) -> Callable[[Callable[[Sheet, Typed], Sheet]], Callable[[Sheet, Typed], Sheet]]:
    """Register an act; `label` may name the setup."""

    def register(function: Callable[[Sheet, Typed], Sheet]) -> Callable[[Sheet, Typed], Sheet]:
        ACTS[name] = Act(name, place, takes, label, key, offered, function)
        return function

    return register


def offered(place: EditorForm, standing: EditorFocus) -> Iterator[tuple[Act, str]]:
    """The acts of one form that make sense where the editor stands, each with the words on its button."""
    for one in ACTS.values():
        if one.place is place and one.offered(standing):
            yield one, one.label.format(setup=standing.setup)


def _in_several(standing: EditorFocus) -> bool:
    return standing.several and standing.has_two_leads


def _several_setups(standing: EditorFocus) -> bool:
    return standing.several


def _of_two_leads(standing: EditorFocus) -> bool:
    return standing.has_two_leads


@act("after", EditorForm.AROUND, "in series after", takes=("what",), key="s")
def after(sheet: Sheet, typed: Typed) -> Sheet:
    """Put a new part in series, behind the chosen one."""
    at = _half(sheet, typed["part"], 1)
    return _put(sheet, typed, lambda sheet, part: edits.insert_in_series(sheet, typed["setup"], at, part))


@act("before", EditorForm.AROUND, "in series before", takes=("what",), key="b")
def before(sheet: Sheet, typed: Typed) -> Sheet:
    """Put a new part in series, before the chosen one."""
    at = _half(sheet, typed["part"], 0)
    return _put(sheet, typed, lambda sheet, part: edits.insert_in_series(sheet, typed["setup"], at, part, before=True))


@act("parallel", EditorForm.AROUND, "in parallel", takes=("what",), key="p")
def parallel(sheet: Sheet, typed: Typed) -> Sheet:
    """Put a new part across the chosen one."""
    if typed["part"] in sheet.potentiometers:
        first, second = potentiometers.ends(sheet, typed["setup"], typed["part"])
        return bridge(sheet, {**typed, "first": first, "second": second})
    return _put(sheet, typed, lambda sheet, part: edits.add_in_parallel(sheet, typed["setup"], typed["part"], part))


@act("exchange", EditorForm.AROUND, "in its place", takes=("what",), key="x", offered=_of_two_leads)
def exchange(sheet: Sheet, typed: Typed) -> Sheet:
    """Another part, of whatever kind, in the place of the chosen one."""
    old = _chosen(sheet, typed)
    new = _read_part(sheet, typed["what"])
    name = new.name or (old.name if new.kind is old.kind else free_name(sheet, new.kind))
    return edits.replaced(sheet, old.name, replace(new, name=name))


@act("instead", EditorForm.AROUND, "in its place here only", takes=("what",), offered=_in_several)
def instead(sheet: Sheet, typed: Typed) -> Sheet:
    """Another part in the place of the chosen one, in this setup only."""
    return edits.substitute(sheet, typed["setup"], typed["part"], new_part(sheet, typed["what"]))


@act("change", EditorForm.FIELDS, "Change", takes=("name", "value", *STATED, "source", "adjustable"))
def change(sheet: Sheet, typed: Typed) -> Sheet:
    """Name, value, and what else is said of the chosen part; what kind of source it is, and whether it has a knob."""
    old = _chosen(sheet, typed)
    value, name = typed["value"].strip() or (UNMARKED if old.kind.is_wire else ""), typed["name"].strip()
    if not NAME.fullmatch(name):
        raise EditError(f"“{name[:20]}” is no name; names begin with a letter.", (old.name,))
    if value == UNMARKED and not old.kind.may_be_unmarked:
        raise EditError("A source needs its value.", (old.name,))
    part = replace(
        old.saying({name: typed[name] for name in STATED}),
        name=name,
        nominal=None if value == UNMARKED else positive(value, old.kind.unit),
        adjustable=bool(typed["adjustable"]) and old.kind.is_source,
        source=SOURCE_WORDS.get(typed["source"]) if old.kind.is_source else None,
    )
    check_part(part)
    if typed["part"] in sheet.potentiometers:
        return potentiometers.changed(sheet, typed["part"], part)
    return edits.replaced(sheet, old.name, part)


@act("remove", EditorForm.CHOSEN, "Take it out", key="Delete")
def remove(sheet: Sheet, typed: Typed) -> Sheet:
    """Take the chosen part out of this setup."""
    if typed["part"] in sheet.potentiometers:
        return potentiometers.taken_out(sheet, typed["setup"], typed["part"])
    return edits.remove(sheet, typed["setup"], typed["part"])


@act("leave_open", EditorForm.CHOSEN, "Leave its place open", offered=_of_two_leads)
def leave_open(sheet: Sheet, typed: Typed) -> Sheet:
    """Take the chosen part out of this setup and leave its place open."""
    return edits.leave_open(sheet, typed["setup"], typed["part"])


@act("short", EditorForm.CHOSEN, "A wire in its place", offered=_of_two_leads)
def short(sheet: Sheet, typed: Typed) -> Sheet:
    """Put a wire in the place of the chosen part in this setup."""
    return edits.short(sheet, typed["setup"], typed["part"])


@act("on", EditorForm.CHOSEN, "Switch it on here", offered=lambda standing: standing.is_source and standing.is_off)
def on(sheet: Sheet, typed: Typed) -> Sheet:
    """Switch the chosen source on here."""
    return edits.turn_source(sheet, typed["setup"], typed["part"], off=False)


@act(
    "off", EditorForm.CHOSEN, "Switch it off here", offered=lambda standing: standing.is_source and not standing.is_off
)
def off(sheet: Sheet, typed: Typed) -> Sheet:
    """Switch the chosen source off here."""
    return edits.turn_source(sheet, typed["setup"], typed["part"], off=True)


@act("open", EditorForm.CHOSEN, "Open it here", offered=lambda standing: standing.is_switch and not standing.is_open)
def open_switch(sheet: Sheet, typed: Typed) -> Sheet:
    """Open the chosen switch here."""
    return edits.turn_switch(sheet, typed["setup"], typed["part"], is_open=True)


@act("close", EditorForm.CHOSEN, "Close it here", offered=lambda standing: standing.is_switch and standing.is_open)
def close_switch(sheet: Sheet, typed: Typed) -> Sheet:
    """Close the chosen switch here."""
    return edits.turn_switch(sheet, typed["setup"], typed["part"], is_open=False)


@act(
    "equivalent",
    EditorForm.CHOSEN,
    "Equivalent source for it as load",
    offered=lambda standing: standing.part is not None and standing.part.kind.ohmic and standing.has_two_leads,
)
def equivalent(sheet: Sheet, typed: Typed) -> Sheet:
    """Setups for the equivalent source that the chosen part sees as its load."""
    return equivalent_source(sheet, typed["setup"], typed["part"])


@act("here", EditorForm.CHOSEN, "Set", takes=("here",), offered=lambda standing: standing.can_be_set)
def here(sheet: Sheet, typed: Typed) -> Sheet:
    """Set the chosen part to another value in this setup; an empty field gives it its own again."""
    text = typed["here"].strip()
    _refuse_name(sheet, text)
    value = positive(text, _chosen(sheet, typed).kind.unit) if text else None
    if typed["part"] in sheet.potentiometers:
        return potentiometers.set_to(sheet, typed["setup"], typed["part"], value)
    return edits.set_value(sheet, typed["setup"], typed["part"], value)


@act("sweep", EditorForm.SWEEP, "Read its line", takes=("first_setting", "last_setting", "rows"))
def sweep_it(sheet: Sheet, typed: Typed) -> Sheet:
    """A table of settings of the source, with the chosen part's volts and amps at each; without any, row after row."""
    if not (typed["first_setting"].strip() or typed["last_setting"].strip()):
        return sweep(sheet, typed["setup"], typed["part"], ())
    first, last = (float(positive(typed[key].strip(), VOLT)) for key in ("first_setting", "last_setting"))
    rows = typed["rows"].strip()
    if not rows.isdigit() or len(rows) > 3:
        raise EditError(f"“{rows[:10]}” is no number of rows; write 5, for example.")
    return sweep(sheet, typed["setup"], typed["part"], evenly(first, last, int(rows), VOLT))


@act("no_sweep", EditorForm.SWEEP, "Without its line", offered=lambda standing: standing.is_swept)
def no_sweep(sheet: Sheet, typed: Typed) -> Sheet:
    """The chosen part's line is not read."""
    gone = [one for one in sheet.sweeps.values() if (one.setup, one.amps.part) == (typed["setup"], typed["part"])]
    if not gone:
        raise EditError("No line of this part is read here.")
    asked = tuple(target for target in sheet.asked if sheet.sweep_of(target) not in gone)
    left = {name: one for name, one in sheet.sweeps.items() if one not in gone}
    return replace(sheet, sweeps=left, asked=asked)


@act("bridge", EditorForm.BRIDGE, "Put it in", takes=("what", "first", "second"))
def bridge(sheet: Sheet, typed: Typed) -> Sheet:
    """Put a new part across two nodes."""
    first, second = typed["first"], typed["second"]
    return _put(sheet, typed, lambda sheet, part: edits.bridge(sheet, typed["setup"], first, second, part))


@act("add_setup", EditorForm.SETUPS, "Copy “{setup}”", takes=("setup_name",))
def add_setup(sheet: Sheet, typed: Typed) -> Sheet:
    """Another setup, at first like this one."""
    return edits.add_setup(sheet, typed["setup_name"].strip(), typed["setup"])


@act("remove_setup", EditorForm.SETUPS, "Remove “{setup}”", offered=_several_setups)
def remove_setup(sheet: Sheet, typed: Typed) -> Sheet:
    """Drop this setup."""
    return edits.remove_setup(sheet, typed["setup"])


@act("warm", EditorForm.WARM, "Set", takes=("temperature",), offered=lambda standing: standing.is_warmed)
def warm(sheet: Sheet, typed: Typed) -> Sheet:
    """How warm the parts of this setup are; an empty field says the 25 °C that they are marked for."""
    text = typed["temperature"].strip()
    return edits.warm(sheet, typed["setup"], read_temperature(text) if text else None)


@act("superposition", EditorForm.SETUPS, "Each source alone")
def superposition(sheet: Sheet, typed: Typed) -> Sheet:
    """Setups for all sources together and for each alone."""
    return each_source_alone(sheet, typed["setup"])


@act("hold", EditorForm.SETUPS, "Hold against each other", takes=("rule", "other"), offered=_several_setups)
def hold(sheet: Sheet, typed: Typed) -> Sheet:
    """This setup and another are held against each other, with a verdict."""
    if typed["rule"] not in set(Rule):
        raise EditError("Choose what the setups are held against each other for.")
    return held_against(sheet, Rule(typed["rule"]), (typed["setup"], typed["other"]))


@act("line", EditorForm.LINE, "Draw it", takes=("line",))
def line(sheet: Sheet, typed: Typed) -> Sheet:
    """Draw this setup's circuit from its line."""
    return edits.redrawn(sheet, typed["setup"], one_line.read(typed["line"], sheet.title))


@act("nodes", EditorForm.NODES, "Draw it", takes=("nodes",))
def nodes(sheet: Sheet, typed: Typed) -> Sheet:
    """Draw this setup's circuit from its node list."""
    return edits.redrawn(sheet, typed["setup"], node_list.read(typed["nodes"], sheet.title))


def new_part(sheet: Sheet, text: str) -> Part:
    """A part as it was typed; a resistor without a tolerance has the one that most others have."""
    part = _read_part(sheet, text)
    tolerance = part.tolerance
    if tolerance is None and part.kind.has_bands and part.nominal is not None:
        tolerance = parts_line.usual_tolerance(sheet)
    return replace(part, name=part.name or free_name(sheet, part.kind), tolerance=tolerance)


def _put(sheet: Sheet, typed: Typed, put: Callable[[Sheet, Part], Sheet]) -> Sheet:
    """A new part as it was typed, `put` where it goes; a potentiometer too."""
    text = typed["what"]
    if potentiometer.WORD in text.lower().split("=")[-1].split():
        return potentiometers.put_in(sheet, typed["setup"], parts_line.read(text, sheet), put)
    return put(sheet, new_part(sheet, text))


def _half(sheet: Sheet, name: str, which: int) -> str:
    """A part's name; of a potentiometer that of its upper half, or of its lower."""
    return sheet.potentiometers[name][which] if name in sheet.potentiometers else name


def _read_part(sheet: Sheet, text: str) -> Part:
    """A part as it was typed. Raises `EditError` where the name of one that is there stands in place of a value."""
    _refuse_name(sheet, text.rpartition("=")[2])
    return read_part(text)


def _refuse_name(sheet: Sheet, value: str) -> None:
    """Raise `EditError` for a value that is the name of a part, which would be read as a letter code: R2 as 0.2 Ω."""
    name = next((name for name in sheet.parts if name.casefold() == value.strip().casefold()), None)
    if name is not None:
        raise EditError(f"{name} is a part of this circuit, and no value. Write a value, for example 4k7.", (name,))


def _chosen(sheet: Sheet, typed: Typed) -> Part:
    name = _half(sheet, typed["part"], 1)
    if name not in sheet.parts:
        raise EditError("Choose a part in the drawing or in the list.")
    return sheet.parts[name]
