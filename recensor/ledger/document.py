"""A judged run as a ledger: accounts, checks, what does not fit, what to mind before power comes on."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from recensor.core import plan, safety
from recensor.core.circuit import Sheet, Target, slug
from recensor.core.figures import rounded
from recensor.core.judgement import AccountVerdict, Assessment, Outcome, SetupsCompared, Verdict
from recensor.core.quantity import VOLTAGE, WATT
from recensor.core.record import Run
from recensor.ledger.cautions import unbounded_caution
from recensor.ledger.marks import UNREAD, Mark
from recensor.ledger.ohms_law import OhmsRow, ohms_rows
from recensor.ledger.rows import LedgerSection, Rows, account_in_setup, shown
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
class Ledger:
    """Everything that the books of a run say. `misfits` come with the address of what to read again, if anything."""

    sections: tuple[LedgerSection, ...]
    read: int
    asked: int
    checks: tuple[tuple[str, Mark], ...]
    books: Mark
    misfits: tuple[tuple[str, str], ...]
    worth_a_look: tuple[str, ...]
    warnings: tuple[str, ...]
    notes: tuple[str, ...]
    cautions: tuple[str, ...]
    powers: tuple[tuple[str, Mark], ...]
    comparison: SideBySide | None
    held: tuple[tuple[str, Mark], ...]
    ohms_law: tuple[OhmsRow, ...]
    sources: SourceLines


def ledger(run: Run, points: Sequence[Target], assessment: Assessment) -> Ledger:
    """The books of a judged run with these points."""
    rows = Rows(run, points, assessment)
    powers = [
        taken
        for taken in safety.dissipations(run.sheet, values_read(run.sheet, assessment))
        if _is_alive(taken.setup, run.sheet)
    ]
    # A power would give a voltage away; whether it is too much must be said all the same.
    is_sealed = run.sheet.sealed and any(target.key not in assessment.targets for target in points)
    return Ledger(
        sections=tuple(section for section in rows.sections() if section.rows or section.note),
        read=sum(target.key in assessment.targets for target in run.sheet.asked or points),
        asked=len(run.sheet.asked or points),
        checks=tuple((check.reason, _check_mark(check.holds, check.rule)) for check in assessment.sanity),
        books=books(run, points, assessment),
        misfits=tuple(_misfits(run, points, assessment)),
        worth_a_look=tuple(_worth_a_look(run, assessment)),
        warnings=tuple(warning.text for warning in assessment.warnings if warning.at.startswith("setups.")),
        notes=tuple(_notes(run, assessment)),
        cautions=()
        if run.simulated
        else (
            *_read_high(run),
            *_cautions(run.sheet, powers, values_read(run.sheet, assessment), is_sealed=is_sealed),
        ),
        powers=tuple(_powers(run.sheet, powers, is_sealed=is_sealed)),
        comparison=side_by_side(run.sheet, points, assessment),
        held=tuple(
            (_held_text(held, is_sealed=is_sealed), Mark(held.outcome, held.verdict)) for held in assessment.comparisons
        ),
        ohms_law=tuple(ohms_rows(run.sheet, assessment)),
        sources=source_lines(run, assessment),
    )


def _held_text(held: SetupsCompared, *, is_sealed: bool) -> str:
    """Setups held against each other, in words; what a change should be is kept back while the run is sealed."""
    what = f"{held.comparison.rule.value[:1].upper()}{held.comparison.rule.value[1:]}"
    if is_sealed and held.difference is not None:
        return f"{what}: read; said once every point is."
    return (
        f"{what}: {held.reason[:1].lower()}{held.reason[1:]}" if held.difference is None else f"{what}. {held.reason}"
    )


def _is_alive(setup: str, sheet: Sheet) -> bool:
    """Whether a setup is powered, and still to be read in: others have no powers to mind."""
    if not sheet.setups[setup].driving(sheet.parts):
        return False
    return not sheet.several or any(target.setup == setup for target in sheet.asked)


def values_read(sheet: Sheet, assessment: Assessment) -> dict[str, float]:
    """What unmarked parts were read to be, in SI units: all that is known of them."""
    return {
        name: part.measured
        for name, part in assessment.parts.items()
        if sheet.parts[name].nominal is None and part.measured is not None
    }


def books(run: Run, points: Sequence[Target], assessment: Assessment) -> Mark:
    """The state of the run's books in one mark."""
    wanted = run.sheet.asked or tuple(points)
    unread = sum(target.key not in assessment.targets for target in wanted)
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
        return Mark(Outcome.UNREAD, Verdict.UNREAD.value, f"{len(wanted) - unread} of {len(wanted)} read")
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
