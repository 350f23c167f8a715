"""A judged run as a ledger: accounts, checks, what does not fit, what to mind before power comes on."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property

from recensor.core import plan, safety
from recensor.core.circuit import Sheet, Target, slug
from recensor.core.figures import rounded
from recensor.core.judgement import AccountVerdict, Assessment, Outcome, SetupsCompared, Verdict
from recensor.core.quantity import VOLTAGE, WATT
from recensor.core.record import Run
from recensor.ledger.at_settings import SettingsTable, settings_tables
from recensor.ledger.cautions import unbounded_caution
from recensor.ledger.marks import UNREAD, Mark
from recensor.ledger.ohms_law import OhmsRow, ohms_rows
from recensor.ledger.rows import LedgerSection, Rows, account_in_setup, shown
from recensor.ledger.same_values import SameRow, same_rows
from recensor.ledger.setups_compared import SideBySide, side_by_side
from recensor.ledger.source_lines import SourceLines, source_lines

_CAUTIONS = {
    safety.Caution.NONE: "",
    safety.Caution.WARNING: f"This circuit reaches more than {safety.WARNING_ABOVE:.0f} V DC. "
    "Connect it with the supply off, and keep off bare leads while it is on.",
    safety.Caution.PAPER_ONLY: f"This circuit reaches more than {safety.PAPER_ONLY_ABOVE:.0f} V DC: for paper only.",
}

_AT_ONCE = {
    safety.Caution.WARNING: f"it is more than {safety.WARNING_ABOVE:.0f} V DC: connect with the supply off, and keep "
    "off bare leads while it is on.",
    safety.Caution.PAPER_ONLY: f"it is more than {safety.PAPER_ONLY_ABOVE:.0f} V DC: switch off and leave it; that is "
    "outside this program.",
}


@dataclass(frozen=True)
class OtherCircuit:
    """A circuit of a run that is not the one that is there now, with what stands in it."""

    setup: str
    sections: tuple[LedgerSection, ...]

    @property
    def words(self) -> str:
        """How much of it was read, and what is outside."""
        rows = {row.address: row for section in self.sections for row in section.rows}.values()
        read, outside = sum(bool(row.read) for row in rows), sum(row.mark.outcome is Outcome.OUTSIDE for row in rows)
        return f"{read} of {len(rows)} read{f', {outside} outside' if outside else ''}"


class Ledger:
    """The books of a judged run with these points; what a page does not show is never worked out.

    The rows of the setup that is there now, where one is named, stand before those of the others.
    """

    def __init__(self, run: Run, points: Sequence[Target], assessment: Assessment, present: str = "") -> None:
        self.run, self.points, self.assessment = run, points, assessment
        self.rows = Rows(run, points, assessment, present)

    @cached_property
    def sections(self) -> tuple[LedgerSection, ...]:
        """Parts and sources, each loop and node, and what stands in none."""
        return tuple(section for section in self.rows.sections() if section.rows or section.note)

    @property
    def here(self) -> tuple[LedgerSection, ...]:
        """What stands in the circuit that is there now, and the parts by themselves."""
        return tuple(section for section in self.sections if section.setup in ("", self.rows.present))

    @property
    def elsewhere(self) -> tuple[OtherCircuit, ...]:
        """What stands in each other circuit."""
        found: dict[str, list[LedgerSection]] = {}
        for section in self.sections:
            if section.setup not in ("", self.rows.present):
                found.setdefault(section.setup, []).append(section)
        return tuple(OtherCircuit(setup, tuple(sections)) for setup, sections in found.items())

    @property
    def _wanted(self) -> Sequence[Target]:
        return wanted(self.run, self.points, self.assessment)

    @property
    def waived(self) -> tuple[str, ...]:
        """What was asked for and left out on purpose, by its name."""
        sheet = self.run.sheet
        return tuple(plan.title_in_setup(target, sheet) for target in sheet.not_measured(self.assessment.targets))

    @property
    def read(self) -> int:
        """How many of the measurements that are asked for were read."""
        return sum(map(self.assessment.is_read, self._wanted))

    @property
    def asked(self) -> int:
        """How many measurements are asked for."""
        return len(self._wanted)

    @cached_property
    def checks(self) -> tuple[tuple[str, Mark], ...]:
        """What follows from the circuit's shape, and whether it holds."""
        return tuple((check.reason, _check_mark(check.holds, check.rule)) for check in self.assessment.sanity)

    @cached_property
    def books(self) -> Mark:
        """How the run stands, in one mark."""
        return books(self.run, self.points, self.assessment)

    @cached_property
    def misfits(self) -> tuple[tuple[str, str], ...]:
        """What does not agree, behind the address of what to read again; empty where there is none."""
        return tuple(_misfits(self.run, self.points, self.assessment))

    @property
    def disagrees(self) -> bool:
        """Whether all that is undecided is why a measurement reads otherwise than before."""
        is_open = any(one.is_open for one in self.assessment.disagreements)
        return is_open and self.books.outcome is Outcome.UNDECIDED and not self.undecided

    @cached_property
    def undecided(self) -> tuple[tuple[str, str], ...]:
        """What cannot be decided yet, behind the address of what to read again."""
        return tuple(_undecided(self.run, self.points, self.assessment))

    @cached_property
    def worth_a_look(self) -> tuple[str, ...]:
        """Loops and nodes that are more off than the meter explains, or not decided."""
        return tuple(_worth_a_look(self.run, self.assessment))

    @property
    def warnings(self) -> tuple[str, ...]:
        """What is wrong with a setup."""
        return tuple(w.text for w in self.assessment.warnings if w.at.startswith("setups."))

    @cached_property
    def notes(self) -> tuple[str, ...]:
        """What it was judged with."""
        return tuple(_notes(self.run, self.assessment))

    @cached_property
    def _dissipations(self) -> list[safety.Dissipation]:
        alive = _alive(self.run.sheet)
        return [
            part for part in safety.dissipations(self.run.sheet, self.assessment.of_unmarked) if part.setup in alive
        ]

    @property
    def _hides_power(self) -> bool:
        """A power would give a voltage of a sealed run away; whether it is too much is said all the same."""
        return self.run.sheet.sealed and any(target.key not in self.assessment.targets for target in self.points)

    @cached_property
    def cautions(self) -> tuple[str, ...]:
        """What to mind at the bench; nothing where there is none to be hurt at."""
        if self.run.simulated:
            return ()
        read = self.assessment.of_unmarked
        of_circuit = _cautions(self.run.sheet, self._dissipations, read, is_sealed=self._hides_power)
        return (*_read_high(self.run), *of_circuit)

    @cached_property
    def powers(self) -> tuple[tuple[str, Mark], ...]:
        """What each part takes at worst."""
        return tuple(_powers(self.run.sheet, self._dissipations, is_sealed=self._hides_power))

    @cached_property
    def comparison(self) -> SideBySide | None:
        """Setups beside each other, as read."""
        return side_by_side(self.run.sheet, self.points, self.assessment)

    @cached_property
    def same(self) -> tuple[SameRow, ...]:
        """What was read at several points and is to be one value."""
        return tuple(same_rows(self.run.sheet, self.assessment))

    @cached_property
    def at_settings(self) -> tuple[SettingsTable, ...]:
        """Circuits that are read at several settings of their sources, in columns."""
        return tuple(settings_tables(self.run.sheet, self.assessment))

    @cached_property
    def held(self) -> tuple[tuple[str, Mark], ...]:
        """Setups that were compared as the experiment asks."""
        return tuple(
            (_held_text(held, is_sealed=self._hides_power), Mark(held.outcome, held.verdict))
            for held in self.assessment.comparisons
        )

    @cached_property
    def ohms_law(self) -> tuple[OhmsRow, ...]:
        """Volts over amps of each part that both were read of."""
        return tuple(ohms_rows(self.run.sheet, self.assessment))

    @cached_property
    def sources(self) -> SourceLines:
        """What the sources say of themselves."""
        return source_lines(self.run, self.assessment)


def _held_text(held: SetupsCompared, *, is_sealed: bool) -> str:
    """Setups held against each other, in words; what a change should be is kept back while the run is sealed."""
    what = f"{held.comparison.rule.value[:1].upper()}{held.comparison.rule.value[1:]}"
    if is_sealed and held.difference is not None:
        return f"{what}: read; said once every point is."
    return (
        f"{what}: {held.reason[:1].lower()}{held.reason[1:]}" if held.difference is None else f"{what}. {held.reason}"
    )


def _alive(sheet: Sheet) -> set[str | None]:
    """The setups that are powered, and still to be read in: others have no powers to mind."""
    powered: set[str | None] = {name for name, setup in sheet.setups.items() if setup.driving(sheet.parts)}
    return powered & {target.setup for target in sheet.asked} if sheet.several else powered


def wanted(run: Run, points: Sequence[Target], assessment: Assessment) -> Sequence[Target]:
    """What is asked for, without what was left out and is not read; all points where nothing is asked for."""
    gone = set(run.sheet.not_measured(assessment.targets))
    return [target for target in run.sheet.asked if target not in gone] or points


def books(run: Run, points: Sequence[Target], assessment: Assessment) -> Mark:
    """The state of the run's books in one mark."""
    asked = wanted(run, points, assessment)
    unread = sum(not assessment.is_read(target) for target in asked)
    outcomes = [target.judged.outcome for target in assessment.targets.values()]
    outcomes += [account.verdict.outcome for account in assessment.laws if account.verdict is AccountVerdict.UNDECIDED]
    out = [account for account in assessment.laws if account.verdict is AccountVerdict.OUT]
    outcomes += [held.outcome for held in assessment.comparisons if held.difference is not None]
    outside = outcomes.count(Outcome.OUTSIDE)
    if out:
        names = ", ".join(account_in_setup(account, run.sheet) for account in out)
        if len(out) > 1 or out[0].residual is None:
            return Mark(Outcome.OUTSIDE, "out", f"{names} are out")
        by = rounded(abs(out[0].residual), out[0].expanded or None, out[0].law.unit)
        return Mark(Outcome.OUTSIDE, "out", f"{names} is out by {by}")
    if outside:
        return Mark(Outcome.OUTSIDE, Verdict.OUTSIDE.value, f"{outside} of {len(assessment.targets)} outside")
    if unread:
        return Mark(Outcome.UNREAD, Verdict.UNREAD.value, f"{len(asked) - unread} of {len(asked)} read")
    if disagreeing := [one for one in assessment.disagreements if one.is_open]:
        text = f"{plan.title(disagreeing[0].target, run.sheet)}: {disagreeing[0].text}"
        return Mark(Outcome.UNDECIDED, Verdict.UNDECIDED.value, text)
    if Outcome.UNDECIDED in outcomes:
        return Mark(Outcome.UNDECIDED, Verdict.UNDECIDED.value, "not decided yet")
    text = "everything agrees" if not assessment.laws else "everything balances"
    if any(account.verdict is AccountVerdict.CLOSE for account in assessment.laws):
        text = "everything balances, but not by the meter alone"
    return Mark(Outcome.AGREES, AccountVerdict.BALANCES.value, text)


def _check_mark(holds: bool, rule: str) -> Mark:
    return Mark(Outcome.AGREES, "holds", rule) if holds else Mark(Outcome.OUTSIDE, "fails", rule)


def _cautions(
    sheet: Sheet,
    powers: Sequence[safety.Dissipation],
    read: safety.Read,
    *,
    is_sealed: bool,
) -> Iterable[str]:
    """What to know before power comes on."""
    if text := _CAUTIONS[safety.caution(sheet, read)]:
        yield text
    if names := safety.unbounded(sheet):
        yield unbounded_caution(names)
    for taken in powers:
        if taken.is_over and taken.power is not None:
            up_to = "" if is_sealed else f"up to {rounded(taken.power, None, WATT)}, "
            yield (
                f"{taken.part} takes {up_to}more than {_rating(taken, sheet)}: lower the supply or take a larger part."
            )


def _read_high(run: Run) -> Iterable[str]:
    """What to do at once where a voltage was read, even as a look, that a bench should not have."""
    volts = [
        (abs(float(reading.value)), reading)
        for reading in run.readings
        if reading.target.measurand is VOLTAGE and reading.struck is None and reading.value.value is not None
    ]
    highest, reading = max(volts, key=lambda pair: pair[0], default=(0.0, None))
    caution = safety.of_volts(highest)
    if reading is not None and caution is not safety.Caution.NONE:
        yield f"{shown(reading)} was read. If that is so, {_AT_ONCE[caution]}"


def _rating(taken: safety.Dissipation, sheet: Sheet) -> str:
    whose = "its" if sheet.parts[taken.part].rating else "the usual"
    return f"{whose} {rounded(taken.rating, None, WATT)}"


def _powers(sheet: Sheet, powers: Sequence[safety.Dissipation], *, is_sealed: bool) -> Iterable[tuple[str, Mark]]:
    """What each resistor takes before power comes on, in words; in a sealed run only whether it may."""
    for taken in powers:
        where = f" in {taken.setup}" if sheet.several else ""
        if taken.power is None:
            yield f"{taken.part}{where}: not known before every part is read.", UNREAD
            continue
        share = f"{taken.power / taken.rating * 100.0:.2g} %"
        text = f"{taken.part}{where}"
        if not is_sealed:
            text += f": up to {rounded(taken.power, None, WATT)}, {share} of {_rating(taken, sheet)}"
        is_over = taken.is_over
        yield text, Mark(Outcome.OUTSIDE, "over rating") if is_over else Mark(Outcome.AGREES, "within rating")


def _misfits(run: Run, points: Sequence[Target], assessment: Assessment) -> Iterable[tuple[str, str]]:
    """What does not agree, in words; behind the address of what to read again, empty where there is none."""
    for account in assessment.laws:
        if account.verdict is AccountVerdict.OUT:
            yield "", f"{account_in_setup(account, run.sheet)}: {account.reason}"
    for target in points:
        assessed = assessment.of(target)
        if assessed and assessed.judged.outcome is Outcome.OUTSIDE:
            yield slug(target), f"{plan.title(target, run.sheet)}: {assessed.judged.reason}"


def _undecided(run: Run, points: Sequence[Target], assessment: Assessment) -> Iterable[tuple[str, str]]:
    """What was read and cannot be decided, in words, behind its address."""
    for target in points:
        assessed = assessment.of(target)
        if assessed and assessed.judged.outcome is Outcome.UNDECIDED:
            yield slug(target), f"{plan.title(target, run.sheet)}: {assessed.judged.reason}"


def _worth_a_look(run: Run, assessment: Assessment) -> Iterable[str]:
    """Accounts that are not out, and yet more off than the meter explains, or not decided."""
    for account in assessment.laws:
        if account.verdict in (AccountVerdict.CLOSE, AccountVerdict.UNDECIDED):
            yield f"{account_in_setup(account, run.sheet)}: {account.reason}"


def _notes(run: Run, assessment: Assessment) -> Iterable[str]:
    """What it was judged with: the sources as they were read, the meter, and readings that were not taken."""
    for (setup, name), given in assessment.calculations.given.items():
        where = f"{setup}: " if run.sheet.several else ""
        size = rounded(given.value, 2 * given.spread.standard, run.sheet.parts[name].kind.unit)
        yield f"{where}From measured with {name} at {size}, {given.how}."
    for warning in assessment.warnings:
        if warning.at == "meters":
            yield f"{warning.text[:1].upper()}{warning.text[1:]}."
        elif warning.at.startswith("readings["):
            yield f"{warning.text.removesuffix('.')}."
