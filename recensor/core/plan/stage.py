"""What is read at a target: its station, and its title in the trade's words."""

from enum import StrEnum

from recensor.core.circuit import Across, Sheet, Target, Through
from recensor.core.figures import as_read
from recensor.core.quantity import RESISTANCE, VOLTAGE


class Stage(StrEnum):
    """The stations of the work, in order."""

    PARTS = "Parts"
    BUILD = "Build"
    SOURCE = "Source"
    VOLTS = "Volts"
    AMPS = "Amps"
    LINE = "Line"
    VERDICT = "Verdict"

    @property
    def power(self) -> str:
        """Whether the supply must be OFF or ON while reading here; nothing at the verdict."""
        return {"Parts": "OFF", "Build": "OFF", "Verdict": ""}.get(self.value, "ON")


def stage_of(target: Target, sheet: Sheet) -> Stage:
    """The station at which a target is read."""
    if target.is_part_alone:
        return Stage.SOURCE if sheet.parts[target.part].kind.is_source else Stage.PARTS
    if target.is_leads:
        return Stage.PARTS
    if target.measurand is RESISTANCE:
        return Stage.BUILD
    if target.step is not None:
        return Stage.LINE
    return Stage.VOLTS if target.measurand is VOLTAGE else Stage.AMPS


def title(target: Target, sheet: Sheet) -> str:
    """What is read at a target, as a heading says it.

    Examples
    --------
    >>> from recensor.core.circuit import one_line
    >>> sheet = one_line.read("9V: 1k + (2k2 | 3k3)")
    >>> title(Across(VOLTAGE, ("B", "gnd"), "main"), sheet), title(Through("R1", "main"), sheet)
    ('Voltage across R2 ∥ R3', 'Current through R1')
    """
    if target.is_leads:
        return "The meter's own leads"
    if target.is_part_alone:
        before = stage_of(target, sheet) is Stage.SOURCE
        return f"{target.part} before connecting" if before else f"{target.part} by itself"
    if target.step is not None:
        return f"{'Amps' if target.is_through else 'Volts'} in row {target.step + 1}{_setting(target, sheet)}"
    if target.is_through:
        return f"Current through {target.part}{_beside(target)}"
    if target.measurand is RESISTANCE:
        return f"Resistance from {target.red} to {target.black}"
    if target.at:
        first = sheet.setups[target.setup].connections[target.at][0]
        return f"Voltage of {target.at} by itself{'' if first == target.red else ', turned'}"
    return _voltage_title(target, sheet)


def _setting(target: Across | Through, sheet: Sheet) -> str:
    """What the source of a sweep is set to in a row."""
    sweep = sheet.sweep_of(target)
    if sweep is None or target.step is None or target.step >= len(sweep.settings):
        return ""
    return f", {sweep.source} at {as_read(sweep.settings[target.step], sheet.parts[sweep.source].kind.unit)}"


def in_a_sentence(title: str) -> str:
    """A title within a sentence: its first word small, unless that is a name."""
    return f"{title[:1].lower()}{title[1:]}" if title[1:2].islower() else title


def _beside(target: Through) -> str:
    return f", opened at {target.at}" if target.at else ""


def _voltage_title(target: Across, sheet: Sheet) -> str:
    """Name the parts that lie across the two nodes, a loaded source as such."""
    across = sheet.setups[target.setup].across(*target.nodes)
    sources = [name for name in across if sheet.parts[name].kind.is_source]
    parts = [name for name in across if name not in sources]
    if sources and not parts:
        return f"{sources[0]} under load"
    if not across:
        return f"Voltage from {target.red} to {target.black}"
    loaded = f", {sources[0]} under load" if sources else ""
    return f"Voltage across {' ∥ '.join(parts)}{loaded}"
