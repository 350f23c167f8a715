"""A part that was read while it was still in the circuit: the other paths read in parallel with it."""

from collections.abc import Iterator
from functools import cached_property

from recensor.core.circuit import Part, Sheet
from recensor.core.sentences import say
from recensor.core.solving import NetworkError, dead, resistance_between


class InCircuit:
    """What an ohmmeter would show across each part in each setup, from nominal values; worked out when first asked."""

    def __init__(self, sheet: Sheet) -> None:
        self._sheet = sheet

    def readings(self, part: Part) -> Iterator[tuple[float, str]]:
        """What it would show across a part in each setup, in ohms, and how.

        Once with every source taken out, once with the sources left in place, switched off. A setup
        with a part of unknown value says nothing.
        """
        for how, seen in self._all:
            if part.name in seen:
                yield seen[part.name], how

    @cached_property
    def _all(self) -> list[tuple[str, dict[str, float]]]:
        sheet = self._sheet
        found: list[tuple[str, dict[str, float]]] = []
        nominal = {name: float(part.nominal) for name, part in sheet.parts.items() if part.nominal}
        for setup in sheet.setups.values():
            passive = [name for name in setup.connections if not sheet.parts[name].kind.is_source]
            if not nominal.keys() >= setup.connections.keys() or not all(sheet.parts[n].kind.ohmic for n in passive):
                continue
            for left_in, how in (
                (False, say("judgement.in_circuit")),
                (True, say("judgement.in_circuit_supply_connected")),
            ):
                try:
                    elements = dead(setup, sheet.parts, nominal, left_in=left_in)
                    seen = resistance_between(elements, [setup.connections[name] for name in passive])
                except NetworkError:
                    continue
                found.append((how, {name: one[0] for name, one in zip(passive, seen, strict=True) if one}))
        return found
