"""What can happen to a part of a running run's circuit from now on: the editor's acts, in a new setup each."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from recensor.core.circuit import Part, Rule, Sheet
from recensor.core.editing import EditError, edits, held_against, setup_changes
from recensor.core.entries import ChangeKind, TypedChange
from recensor.experiments.acts import ACTS, new_part

# A changed sheet and the name of its new state, out of a sheet.
Edit = Callable[[Sheet], tuple[Sheet, str]]


@dataclass(frozen=True)
class CircuitChange:
    """Something that happens to a part from now on: its words behind the part's name, and what it does to a sheet.

    It is the editor's `act` in a new setup; what is `typed` goes to that field of it. By the `rule` the new state is
    held against the old one.
    """

    words: str
    act: str
    state: str
    typed: str = "what"
    rule: Rule | None = None

    def of(self, sheet: Sheet, base: str, part: str, what: str) -> tuple[Sheet, str]:
        """The sheet with its new state, and that state's name. The act's errors pass through."""
        changed, name = setup_changes.new_state(
            sheet,
            base,
            self.named(sheet, part, what),
            lambda changed, name: self.made(changed, name, part, what),
        )
        return (held_against(changed, self.rule, (base, name)) if self.rule else changed), name

    def made(self, sheet: Sheet, setup: str, part: str, what: str) -> Sheet:
        """The sheet with the change made in a setup."""
        return ACTS[self.act].carry_out(sheet, {"part": part, self.typed: what, "setup": setup})

    def named(self, sheet: Sheet, part: str, what: str) -> str:
        """What the new state is called."""
        return self.state.format(part=part, what=what)


class _Addition(CircuitChange):
    """The state is named by the part that comes in, not by all that was typed of it."""

    def named(self, sheet: Sheet, part: str, what: str) -> str:
        """What the new state is called."""
        return super().named(sheet, part, new_part(sheet, what).name)


class _Exchange(CircuitChange):
    """The new part bears the name of the one whose place it takes, with a mark, unless it is given another."""

    def made(self, sheet: Sheet, setup: str, part: str, what: str) -> Sheet:
        """The sheet with the part exchanged."""
        return super().made(sheet, setup, part, what if "=" in what else f"{_marked(sheet, part)}={what}")


class _PutIn(CircuitChange):
    """A part goes back where it was, or a load where one is missing: another value is another part."""

    def made(self, sheet: Sheet, setup: str, part: str, what: str) -> Sheet:
        """The sheet with the part in its place. Raises `EditError` where that is not known."""
        here = sheet.setups[setup]
        leads = setup_changes.place_of(sheet, here, part)
        if leads is None:
            beside = next(iter(here.connections))
            raise EditError(f"Where {part} goes is not known: say what it lies beside, {part}=470 | {beside}.", (part,))
        changed = edits.put_in(sheet, setup, self._part(sheet, part, what), leads)
        if not changed.setups[setup].driving(changed.parts):  # a load is looked at under power
            for source in here.sources_off:
                changed = edits.turn_source(changed, setup, source, off=False)
        return changed

    def named(self, sheet: Sheet, part: str, what: str) -> str:
        """The state is named by the part, and by its value where that was said."""
        return super().named(sheet, part, what).replace("  ", " ")

    @staticmethod
    def _part(sheet: Sheet, part: str, what: str) -> Part:
        known = sheet.parts.get(part)
        if known is None:
            return replace(new_part(sheet, what), name=part)
        said = new_part(sheet, what) if what else known
        is_it = said.nominal is None or (known.nominal is not None and float(said.nominal) == float(known.nominal))
        return known if is_it else replace(said, name=_marked(sheet, part))


def _marked(sheet: Sheet, part: str) -> str:
    """The name of a part that takes another's place."""
    while part in sheet.parts:
        part = f"{part}'"
    return part


CHANGES = {
    "exchange": _Exchange("exchanged for", "instead", "{part} exchanged", rule=Rule.EXCHANGE),
    "parallel": _Addition("gets beside it, in parallel,", "parallel", "{what} beside {part}", rule=Rule.BRANCH_ADDED),
    "series": _Addition("gets behind it, in series,", "after", "{what} after {part}"),
    "out": CircuitChange("is taken out, its place left open,", "leave_open", "{part} out"),
    "short": CircuitChange("is taken out, a wire in its place,", "short", "{part} shorted"),
    "set": CircuitChange("is set to", "here", "{part} at {what}", "here"),
    "open": CircuitChange("is opened, a switch,", "open", "{part} open"),
    "close": CircuitChange("is closed, a switch,", "close", "{part} closed"),
    "off": CircuitChange("is off, a source,", "off", "{part} off"),
    "on": CircuitChange("is on again, a source,", "on", "{part} on"),
    "in": _PutIn("is put back, or a load connected,", "put_in", "{part} {what} in"),
}


def changed_so(name: str, setup: str, part: str, what: str) -> Edit:
    """One of the changes, of a part in a setup."""

    def edit(sheet: Sheet) -> tuple[Sheet, str]:
        if part not in sheet.parts and name != ChangeKind.IN:
            raise EditError("Choose the part that is changed.")
        return CHANGES[name].of(sheet, sheet.setup(setup).name, part, what)

    return edit


def typed_so(change: TypedChange, setup: str) -> Edit:
    """What a change that was typed at the bench makes of a setup."""
    return changed_so(change.kind.value, setup, change.part, change.what)


def setup_added(name: str, like: str) -> Edit:
    """Another setup, at first like one that is there."""
    return lambda sheet: (edits.add_setup(sheet, name, sheet.setup(like).name), name)


def together(changes: Sequence[TypedChange]) -> tuple[str, Callable[[Sheet, str], Sheet]]:
    """What several changes make of one setup, one after the other, and what the new state is called."""

    def edit(sheet: Sheet, setup: str) -> Sheet:
        for change in changes:
            if change.kind is ChangeKind.IN and change.part in sheet.setups[setup].connections:
                continue  # it is back already
            sheet = CHANGES[change.kind.value].made(sheet, setup, change.part, change.what)
        return sheet

    return " and ".join(change.short for change in changes), edit
