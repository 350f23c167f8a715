"""What is read at a target: its stage, and its title in the trade's words."""

from enum import StrEnum

from recensor.core.circuit import Across, Sheet, Target, Through
from recensor.core.figures import as_read
from recensor.core.quantity import RESISTANCE, VOLTAGE
from recensor.core.sentences import say


class Stage(StrEnum):
    """The stages of the work, in order."""

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
    """The stage at which a target is read."""
    if target.is_part_alone:
        return Stage.SOURCE if sheet.parts[target.part].kind.is_source else Stage.PARTS
    if target.is_leads:
        return Stage.PARTS
    if target.measurand is RESISTANCE:
        return Stage.BUILD
    if target.step is not None:
        return Stage.LINE
    return Stage.VOLTS if target.measurand is VOLTAGE else Stage.AMPS


def title_in_setup(target: Target, sheet: Sheet) -> str:
    """What is read at a target, and in which setup where there are several."""
    return f"{title(target, sheet)}, in {target.setup}" if sheet.several and target.setup else title(target, sheet)


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
        return say("plan.meters_own_leads")
    if target.is_part_alone:
        before = stage_of(target, sheet) is Stage.SOURCE
        by_itself = say("plan.before_connecting" if before else "plan.itself", part=called(target.part, sheet))
        return by_itself if by_itself.startswith(target.part) else f"{by_itself[:1].upper()}{by_itself[1:]}"
    if target.step is not None:
        return _title_in_row(target, target.step, sheet)
    if target.is_through:
        kind = "plan.current_through_at" if target.at else "plan.current_through"
        return say(kind, part=called(target.part, sheet), at=called(target.at or "", sheet))
    if target.measurand is RESISTANCE:
        return say("plan.resistance_from", red=target.red, black=target.black)
    if target.at:
        first = sheet.setups[target.setup].connections[target.at][0]
        kind = "plan.voltage_by_itself" if first == target.red else "plan.voltage_by_itself_turned"
        return say(kind, part=called(target.at, sheet))
    return _voltage_title(target, sheet)


def _title_in_row(target: Across | Through, step: int, sheet: Sheet) -> str:
    """The title of a reading in a row of a sweep, with what its source is set to there."""
    kind = "plan.amps_in_row" if target.is_through else "plan.volts_in_row"
    sweep = sheet.sweep_of(target)
    if sweep is None or step >= len(sweep.settings):
        return say(kind, row=step + 1)
    setting = as_read(sweep.settings[step], sheet.parts[sweep.source].kind.unit)
    return say(f"{kind}_at", row=step + 1, source=sweep.source, setting=setting)


def called(part: str, sheet: Sheet) -> str:
    """What a part is called: by its name, half of a potentiometer as a part of the whole."""
    half = sheet.half_of(part)
    if half is None:
        return part
    name, is_lower = half
    return say("plan.lower_half" if is_lower else "plan.upper_half", name=name)


def in_a_sentence(title: str) -> str:
    """A title within a sentence: its first word small, unless that is a name."""
    return f"{title[:1].lower()}{title[1:]}" if title[1:2].islower() else title


def _voltage_title(target: Across, sheet: Sheet) -> str:
    """Name the parts that lie across the two nodes, a loaded source as such."""
    across = sheet.setups[target.setup].across(*target.nodes)
    sources = [name for name in across if sheet.parts[name].kind.is_source]
    parts = [name for name in across if name not in sources]
    if sources and not parts:
        return say("plan.under_load", sources=sources[0])
    if not across:
        return say("plan.voltage_from", red=target.red, black=target.black)
    kind = "plan.voltage_across_under_load" if sources else "plan.voltage_across"
    named = " ∥ ".join(called(name, sheet) for name in parts)
    return say(kind, parts=named, source=sources[0] if sources else "")
