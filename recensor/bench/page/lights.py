"""What was seen of lamps and light diodes, before any meter."""

from dataclasses import dataclass

from recensor.core.record import Light, Run


@dataclass(frozen=True)
class Lit:
    """A part that lights, in a setup, and how it was seen last; empty where nobody said."""

    setup: str
    part: str
    seen: str

    choices = tuple(light.value for light in Light)


def lit(run: Run, setup: str | None) -> list[Lit]:
    """What lights in a setup; of all setups where none is named."""
    seen = {(one.setup, one.part): one.light.value for one in run.seen}
    return [
        Lit(name, part, seen.get((name, part), ""))
        for name, here in run.sheet.setups.items()
        if setup in (None, name) and here.driving(run.sheet.parts)
        for part in here.connections
        if run.sheet.parts[part].kind.lights
    ]
