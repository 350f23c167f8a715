"""A circuit at several settings as a table: a column for each setting, and whether what is read goes with it."""

from collections.abc import Iterator
from dataclasses import dataclass

from recensor.core.circuit import Sheet, Target
from recensor.core.figures import as_read, with_digits
from recensor.core.judgement import Assessment, AtSettings, Outcome, SettingRow, at_settings
from recensor.core.plan import title
from recensor.ledger.marks import Mark


@dataclass(frozen=True)
class SettingsTable:
    """The table. Each column is what was set, and what the source gave there as it was read.

    Each row is what is read, a cell for each column with whether it is the odd one, and its mark.
    """

    sources: str
    columns: tuple[tuple[str, str], ...]
    rows: tuple[tuple[str, tuple[tuple[str, bool], ...], Mark], ...]
    note: str


def settings_tables(sheet: Sheet, assessment: Assessment) -> Iterator[SettingsTable]:
    """A table for each circuit that is read at several settings."""
    against = assessment.against
    for found in at_settings(against.run, against.measurements):
        columns = []
        for setting in found.settings:
            set_to = (as_read(value, sheet.parts[name].kind.unit) for name, value in setting.sources.items())
            columns.append((" and ".join(set_to), f"gave {_read(setting.source, assessment)}" if setting.gave else ""))
        rows = tuple((title(row.targets[0], sheet), _cells(row, assessment), _mark(row, found)) for row in found.rows)
        yield SettingsTable(" and ".join(found.settings[0].sources), tuple(columns), rows, _note(found))


def _cells(row: SettingRow, assessment: Assessment) -> tuple[tuple[str, bool], ...]:
    return tuple((_read(target, assessment), k == row.odd) for k, target in enumerate(row.targets))


def _read(target: Target, assessment: Assessment) -> str:
    """What was read, with the sign that it has in the direction of the other columns."""
    read = assessment.of(target)
    if read is None or read.measurement.mean is None:
        return "○"
    turned = target.reversed_against(read.measurement.target)
    return with_digits(
        -read.measurement.mean if turned else read.measurement.mean, read.measurement.resolution, target.unit
    )


def _mark(row: SettingRow, found: AtSettings) -> Mark:
    if row.holds is True:
        return Mark(Outcome.AGREES, "in proportion")
    if row.holds is False:
        odd = "" if row.odd is None else f": {found.settings[row.odd].setup}"
        return Mark(Outcome.OUTSIDE, f"not in proportion{odd}")
    return Mark(Outcome.NEUTRAL, "")


def _note(found: AtSettings) -> str:
    """What is to be known of the table; empty where nothing is."""
    if not found.grows_alike:
        return "Nothing is expected to be in proportion here: a part bends, or not every source is turned alike."
    if any(setting.gave is None for setting in found.settings):
        return "Read the source at each setting too: what is read is held against what it gave."
    return ""
