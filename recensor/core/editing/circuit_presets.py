"""Circuits that are often built out of the same parts, as they are typed in lines."""

from collections.abc import Iterable, Iterator, Sequence
from enum import StrEnum
from itertools import combinations

from recensor.core.circuit import NotSeriesParallelError, Setup, Sheet, parts_line, tree_of_source


class Preset(StrEnum):
    """What is built out of parts in hand, one circuit after the other."""

    ALONE = "each alone"
    SERIES = "all in series"
    PARALLEL = "all in parallel"
    PAIRS = "each pair"
    STEP_IN_SERIES = "built up in series"
    STEP_AS_BRANCH = "built up in branches"
    SOURCES = "each source alone"
    THEVENIN = "load off, then source off too"
    SETTINGS = "at three settings"


class Joined(StrEnum):
    """How one more part joins a circuit."""

    IN_SERIES = "in series"
    AS_BRANCH = "as a branch"


def presets(sheet: Sheet, setup: Setup, most: int) -> Iterator[tuple[Preset, str]]:
    """What makes sense with the parts in hand and the setup on the board, each as its lines; none of more than `most`.

    Examples
    --------
    >>> from recensor.core.circuit import one_line
    >>> sheet = one_line.read("9V: 1k + 2k2 + 3k3")
    >>> dict(presets(sheet, sheet.setup(), 9))[Preset.STEP_AS_BRANCH]
    'R1, R1 | R2, R1 | R2 | R3'
    """
    parts = _ohmic(sheet, sheet.parts)
    lines = {
        Preset.ALONE: parts,
        Preset.SERIES: [" + ".join(parts)],
        Preset.PARALLEL: [" | ".join(parts)],
        Preset.PAIRS: [f"{a} {sign} {b}" for a, b in combinations(parts, 2) for sign in "+|"],
        Preset.STEP_IN_SERIES: _steps(parts, " + "),
        Preset.STEP_AS_BRANCH: _steps(parts, " | "),
    }
    if len(parts) > 1:
        yield from ((preset, ", ".join(texts)) for preset, texts in lines.items() if 0 < len(texts) <= most)
    sources = setup.driving(sheet.parts)
    if len(sources) > 1:
        off = [" and ".join(f"{other} off" for other in sources if other != name) for name in sources]
        yield Preset.SOURCES, ", ".join(off)
    if len(sources) == 1 and (line := _settings(sheet, setup, sources[0])):
        yield Preset.SETTINGS, line
    loads = _ohmic(sheet, setup.connections)
    if len(loads) > 1 and sources:
        load = loads[-1]
        dead = " and ".join([f"{load} open", *(f"{name} off" for name in sources)])
        yield Preset.THEVENIN, f"{load} open, {dead}"


def grown(sheet: Sheet, setup: Setup) -> Iterator[tuple[Joined, str, str]]:
    """The circuit on the board with the next part in hand: how it joins, which it is, and the line of it.

    Nothing where everything is on the board, or where the circuit is no line of its parts.
    """
    waiting = [name for name in _ohmic(sheet, sheet.parts) if name not in setup.connections]
    try:
        _, whole = tree_of_source(setup, sheet.parts)
    except NotSeriesParallelError:
        return
    if waiting:
        line, new = parts_line.write(whole, sheet.potentiometers), waiting[0]
        yield Joined.IN_SERIES, new, f"{f'({line})' if ' | ' in line else line} + {new}"
        yield Joined.AS_BRANCH, new, f"{line} | {new}"


def _ohmic(sheet: Sheet, names: Iterable[str]) -> list[str]:
    """Those of some parts that have a resistance, but for the halves of potentiometers."""
    halves = {half for pair in sheet.potentiometers.values() for half in pair}
    return [name for name in names if sheet.parts[name].kind.ohmic and name not in halves]


def _settings(sheet: Sheet, setup: Setup, source: str) -> str:
    """A third and two thirds of what a source with a knob is set to; empty where it has none."""
    part = sheet.parts[source]
    stated = setup.stated(part)
    if not part.has_knob or stated is None or not float(stated):
        return ""
    return ", ".join(f"{source}={float(stated) * share:.3g}{part.kind.unit}" for share in (1 / 3, 2 / 3))


def _steps(parts: Sequence[str], sign: str) -> list[str]:
    return [sign.join(parts[: k + 1]) for k in range(len(parts))]
