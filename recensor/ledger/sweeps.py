"""The lines of a run: each sweep's table, its plot, and what the line comes to."""

from collections.abc import Callable, Container, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import chain

import numpy as np

from recensor.core.circuit import MOST_STEPS, Across, Sheet, Sweep, TableMeters, Target, Through, slug
from recensor.core.figures import as_read, rounded, signed_percent
from recensor.core.judgement import Assessment
from recensor.core.quantity import AMPERE, OHM, SIEMENS, VOLT
from recensor.core.record import Run
from recensor.core.sweeps import Fit, FittedLine, SweepPoint, assess_lines, residuals, row_count
from recensor.core.uncertainty import COVERAGE_FACTOR, expanded
from recensor.drawing.conventions import Conventions
from recensor.drawing.plot import MOST_LINES, Plot, Plotted, PlottedLine, plot
from recensor.ledger import mean_text
from recensor.ledger.marks import Mark

# So many places has a curve that is drawn.
_CURVE = 40


@dataclass(frozen=True)
class LineRow:
    """One row: its number, what the source is set to, volts, amps and their quotient, and where each is read."""

    number: int
    setting: str
    volts: str
    amps: str
    ohms: str
    volts_address: str
    amps_address: str
    said: str
    is_next: bool


@dataclass(frozen=True)
class LineResult:
    """One thing that a line comes to: its name, its value, its uncertainty in words."""

    name: str
    value: str
    beside: str = ""


@dataclass(frozen=True)
class LineView:
    """A sweep as a page shows it; at `more_address` a free one gets its next row.

    With one meter the amps of the rows that have only volts begin at `column_address`, or the other way round.
    """

    name: str
    setup: str
    part: str
    source: str
    rows: tuple[LineRow, ...]
    plot: Plot | None
    results: tuple[LineResult, ...]
    mark: Mark
    reason: str
    is_here: bool
    more_address: str = ""
    column_address: str = ""


def line_views(
    assessment: Assessment, target: Target | None, conventions: Conventions, *, is_sealed: bool
) -> list[LineView]:
    """Every sweep of a run; the one whose row is read next is marked."""
    sheet = assessment.against.run.sheet
    return [
        _view(line, sheet, assessment, target if target and target.in_circuit else None, conventions,
              is_sealed=is_sealed)
        for line in assess_lines(assessment)
    ]  # fmt: skip


def _view(
    line: FittedLine,
    sheet: Sheet,
    assessment: Assessment,
    target: Across | Through | None,
    conventions: Conventions,
    *,
    is_sealed: bool,
) -> LineView:
    sweep = line.sweep
    is_here = bool(target and sheet.sweep_of(target) is sweep)
    step = target.step if target and is_here else None
    return LineView(
        sweep.name,
        sweep.setup if sheet.several else "",
        line.part or "",
        sweep.source,
        tuple(_rows(line, sheet, assessment, step)),
        _plot([_plotted_line(line, conventions)], conventions) if line.points else None,
        tuple(_results(line, conventions, is_sealed=is_sealed)),
        Mark(line.outcome, line.verdict),
        line.reason if not is_sealed else "",
        is_here,
        _one_more(line, assessment),
        slug(column) if is_here and target and (column := other_column(target, assessment.against.run)) else "",
    )


def _one_more(line: FittedLine, assessment: Assessment) -> str:
    """Where the first row that a free sweep has not got yet is read; empty where the rows are planned."""
    count = row_count(line.sweep, assessment)
    return slug(line.sweep.volts_at(count)) if not line.sweep.settings and count < MOST_STEPS else ""


def next_in_table(target: Target, run: Run) -> Target | None:
    """What is read next in a free sweep after one of its readings: the other of the row, else the next row's.

    Each row begins as this one did, with volts or with amps; with one meter the next row of the same column comes
    first. None where it is in no free sweep, or that is full.
    """
    sweep = run.sheet.sweep_of(target) if run.sheet.is_free(target) else None
    if sweep is None or target.step is None or not sweep.asks(target):
        return None
    _, other = _columns(target, sweep)
    rows: Iterator[Target] = map(other, range(target.step, MOST_STEPS))
    read = _read_in(run)
    if sweep.meters is TableMeters.ONE:
        rows = chain(_in_its_column(target, sweep, read), (other(target.step),))
    return next((row for row in rows if row.key not in read), None)


def other_column(target: Target, run: Run) -> Target | None:
    """With one meter, where the other column of a table begins: its first row that only this one has."""
    sweep = run.sheet.sweep_of(target)
    if sweep is None or sweep.meters is not TableMeters.ONE or target.step is None or not sweep.asks(target):
        return None
    this, other = _columns(target, sweep)
    read = _read_in(run)
    rows = (other(step) for step in range(MOST_STEPS) if this(step).key in read)
    return next((row for row in rows if row.key not in read), None)


_Column = Callable[[int], Target]


def _columns(target: Target, sweep: Sweep) -> tuple[_Column, _Column]:
    """The column that a target is in, and the other."""
    is_amps = target.is_through
    return (sweep.amps_at, sweep.volts_at) if is_amps else (sweep.volts_at, sweep.amps_at)


def _in_its_column(target: Target, sweep: Sweep, read: Container[Target]) -> Iterator[Target]:
    """The rows that come behind one in its column: as many as the other has, or any where it has none."""
    this, other = _columns(target, sweep)
    rows = [step for step in range(MOST_STEPS) if other(step).key in read]
    return map(this, rows or range((target.step or 0) + 1, MOST_STEPS))


def _read_in(run: Run) -> set[Target]:
    """What was read in a run and counts, by its keys."""
    return {r.target.key for r in run.readings if r.struck is None and r.counted is not False}


def _rows(line: FittedLine, sheet: Sheet, assessment: Assessment, here: int | None) -> Iterator[LineRow]:
    sweep = line.sweep
    said = dict(line.left_out)
    if line.stray is not None:
        said[line.stray] = "does not fit: read it again"
    points = {point.step: point for point in line.points}
    unit = sheet.parts[sweep.source].kind.unit
    for step in range(max(row_count(sweep, assessment), 0 if here is None else here + 1)):
        volts, amps = sweep.volts_at(step), sweep.amps_at(step)
        point = points.get(step)
        yield LineRow(
            step + 1,
            as_read(sweep.settings[step], unit) if step < len(sweep.settings) else "",
            _read(volts, assessment),
            _read(amps, assessment),
            rounded(point.resistance, _spread(point), OHM) if point and point.resistance is not None else "",
            slug(volts),
            slug(amps),
            said.get(step, ""),
            step == here,
        )


def _read(target: Across | Through, assessment: Assessment) -> str:
    target_assessment = assessment.of(target)
    if target_assessment is None:
        return ""
    measurement = target_assessment.measurement
    if measurement.mean is None:
        return "over-range"
    if target.reversed_against(measurement.target):
        measurement = replace(measurement, mean=-measurement.mean)
    return mean_text(measurement, target.unit)


def _spread(point: SweepPoint) -> float:
    """How far volts over amperes of one row may be off by its own digits."""
    if not point.amps:
        return 0.0
    ohms = point.volts / point.amps
    return COVERAGE_FACTOR * float(np.hypot(point.own_volts, ohms * point.own_amps)) / abs(point.amps)


def _results(line: FittedLine, conventions: Conventions, *, is_sealed: bool) -> Iterator[LineResult]:
    """What the line comes to, in the person's school."""
    if line.mean_resistance is not None:
        count = sum(point.resistance is not None for point in line.points)
        yield LineResult("mean of V / I", rounded(line.mean_resistance, None, OHM), f"of {count} rows")
    for name, fit in (("slope through the origin", line.through_origin), ("slope with intercept", line.with_intercept)):
        if fit is not None and len(line.points) > 1:
            yield LineResult(name, *_slope(fit, conventions))
    if line.resistance is not None and line.spread is not None:
        far = expanded(line.spread.standard) or 0.0
        yield LineResult(
            "resistance", rounded(line.resistance, far, OHM), f"U = {rounded(far, far, OHM)} (k = 2), gains once"
        )
    if line.judged is None or is_sealed:
        return
    for name, calculated, basis in (
        ("from its bands" if line.part else "from nominal", line.judged.nominal, "nominal"),
        ("by ohmmeter" if line.part else "from measured", line.judged.measured, "measured"),
    ):
        error = next((e for key, e in line.judged.percent_error.items() if key == basis), None)
        if calculated.value is not None:
            off = f"the line is {signed_percent(error)} from it" if error is not None else ""
            yield LineResult(name, rounded(calculated.value, expanded(calculated.standard), OHM), off)


def _slope(fit: Fit, conventions: Conventions) -> tuple[str, str]:
    """The slope and what is beside it: as volts over amperes, or the other way round."""
    error = fit.slope_error
    texts = [f"R² = {fit.r_squared:.5f}"] if fit.r_squared is not None else []
    if fit.intercept_error is not None:
        texts.append(f"{rounded(fit.intercept, fit.intercept_error, VOLT)} at no current")
    if conventions.amps_upward and fit.slope:
        turned, own = 1.0 / fit.slope, error / fit.slope**2 if error else None
        value = f"{rounded(turned, own, SIEMENS)}{f' ± {rounded(own, own, SIEMENS)}' if own else ''}"
        return f"{value}, so {rounded(fit.slope, error, OHM)}", ", ".join(texts)
    return f"{rounded(fit.slope, error, OHM)}{f' ± {rounded(error, error, OHM)}' if error else ''}", ", ".join(texts)


def together(assessment: Assessment, conventions: Conventions) -> Plot | None:
    """The tables that have rows, in one plot; None where there are not two."""
    lines = [line for line in assess_lines(assessment) if line.points][:MOST_LINES]
    if len(lines) < 2:
        return None
    several = len({line.sweep.setup for line in lines}) > 1
    named = [(line, f"{line.sweep.name}, {line.sweep.setup}" if several else line.sweep.name) for line in lines]
    return _plot([_plotted_line(line, conventions, name) for line, name in named], conventions)


def _plot(lines: Sequence[PlottedLine], conventions: Conventions) -> Plot:
    """Lines in one plot, in the person's school."""
    if conventions.amps_upward:
        return plot(lines, (VOLT, AMPERE), ("V", "I"))
    return plot(lines, (AMPERE, VOLT), ("I", "V"))


def _plotted_line(line: FittedLine, conventions: Conventions, name: str = "") -> PlottedLine:
    """The points with their line, or where that does not describe them with a curve."""
    above = {point.step: off for point, off in residuals(line)}
    points = [_plotted(point, line, above.get(point.step), conventions) for point in line.points]
    best = line.best
    drawn = None
    if best is not None and best.slope:
        slope, intercept = best.slope, best.intercept

        def drawn(x: float) -> float:
            return (x - intercept) / slope if conventions.amps_upward else intercept + slope * x

    return PlottedLine(points, drawn, _curve(line, conventions) if line.straight is False else (), name)


def _plotted(point: SweepPoint, line: FittedLine, above: float | None, conventions: Conventions) -> Plotted:
    volts, amps = COVERAGE_FACTOR * point.volts_spread.standard, COVERAGE_FACTOR * point.amps_spread.standard
    read = rounded(point.volts, volts or None, VOLT), rounded(point.amps, amps or None, AMPERE)
    words = f"row {point.step + 1}: {', '.join(read)}"
    slope = line.best.slope if line.best else 0.0
    own = COVERAGE_FACTOR * float(np.hypot(point.own_volts, slope * point.own_amps))
    is_stray = point.step == line.stray or point.step in dict(line.left_out)
    if conventions.amps_upward:
        off = -above / slope if above is not None and slope else None
        return Plotted(
            point.volts, point.amps, volts, own / abs(slope) if slope else amps, point.step + 1, words, off, is_stray
        )
    return Plotted(point.amps, point.volts, amps, own if line.best else volts, point.step + 1, words, above, is_stray)


def _curve(line: FittedLine, conventions: Conventions) -> list[tuple[float, float]]:
    """A smooth curve through the points: the parabola that describes them better than a line."""
    x = np.array([point.amps for point in line.points])
    y = np.array([point.volts for point in line.points])
    places = np.linspace(x.min(), x.max(), _CURVE)
    found = np.polyval(np.polyfit(x, y, 2), places)
    pairs = list(zip(places.tolist(), found.tolist(), strict=True))
    return [(v, i) for i, v in pairs] if conventions.amps_upward else pairs
