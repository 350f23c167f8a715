"""A sweep as it was read: its points, the line through them, and what that says of the part it is the line of."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from recensor.core.circuit import MEASURED, NOMINAL, Sheet, Sweep, Target
from recensor.core.figures import rounded
from recensor.core.judgement import (
    AccountVerdict,
    Assessment,
    Calculated,
    Judged,
    Measurement,
    Outcome,
    Own,
    Read,
    Verdict,
    ammeter_ohms,
    calculate,
    judged,
    resistance_of_table,
)
from recensor.core.quantity import OHM, RESISTANCE, VOLT
from recensor.core.sentences import say, several
from recensor.core.sweeps.fit import Fit, fit_curve, fit_line
from recensor.core.uncertainty import COVERAGE_FACTOR, NO_SPREAD, Array, Spread, student_factor

# The scatter about a line is more than the meter explains beyond so many times its variance.
_MORE_THAN_THE_METER = 4.0

# What a meter's description says that its ammeter puts in holds within this share (common practice, no source).
_STATED_WITHIN = 0.1

# No curve, and no stray point, is spoken of where the points lie this close to the line, as a share of the largest.
_CLOSE = 0.005

# A curve is clearly better where it leaves no more than this share of the squares, of four points and of more.
_CLEARLY_OF_FOUR, _CLEARLY = 0.01, 0.1

# A point does not fit where it lies so many times as far from the line of the others as any of these.
_STRAY = 5.0


@dataclass(frozen=True)
class SweepPoint:
    """One row: volts and amperes with what is uncertain about them, and the ohms that they make; None at no current."""

    step: int
    volts: float
    amps: float
    volts_spread: Spread
    amps_spread: Spread
    own_volts: float
    own_amps: float

    @property
    def resistance(self) -> float | None:
        """Volts over amperes, in ohms."""
        return self.volts / self.amps if self.amps else None


@dataclass(frozen=True)
class FittedLine:
    """A sweep's points and what they come to.

    `part` is the part of which it is the line, None where it is that of several. `left_out` says of rows why they are
    no point. `resistance` in ohms is the slope of `best`, the fit that counts, with its `spread`. `stray` is the row
    that does not fit the others'. `straight` is None where it cannot be said. `is_source`: volts fall while a load
    takes more from a source, whose line it is then: volts at no current, and what is inside.
    """

    sweep: Sweep
    part: str | None
    points: tuple[SweepPoint, ...]
    left_out: tuple[tuple[int, str], ...]
    with_intercept: Fit | None
    through_origin: Fit | None
    best: Fit | None
    spread: Spread | None
    judged: Judged | None
    straight: bool | None
    stray: int | None
    reason: str
    is_source: bool = False

    @property
    def resistance(self) -> float | None:
        """The resistance that the line says, in ohms; of a source that which is inside it."""
        if self.best is None:
            return None
        return -self.best.slope if self.is_source else self.best.slope

    @property
    def verdict(self) -> str:
        """The slope's verdict; of a curve none is given, and without a line readings are needed."""
        if self.judged:
            return self.judged.verdict.value
        is_held_to_nothing = self.straight is False or self.is_source
        return Verdict.NOT_JUDGED.value if is_held_to_nothing else AccountVerdict.NEEDS_READINGS.value

    @property
    def outcome(self) -> Outcome:
        """What the verdict comes to."""
        if self.judged:
            return self.judged.outcome
        return Outcome.NEUTRAL if self.straight is False or self.is_source else Outcome.UNREAD

    @property
    def mean_resistance(self) -> float | None:
        """The mean of every row's volts over amperes, in ohms."""
        found = [point.resistance for point in self.points if point.resistance is not None]
        return sum(found) / len(found) if found else None


def row_count(sweep: Sweep, assessment: Assessment) -> int:
    """How many rows a sweep has: as planned, else as far as it was read."""
    read = [target.step for target in assessment.targets if target.step is not None and _is_of(target, sweep)]
    return max(len(sweep.settings), *(step + 1 for step in read), 0)


def _is_of(target: Target, sweep: Sweep) -> bool:
    if not target.in_circuit:
        return False
    return replace(target, step=None).key in (sweep.volts.key, sweep.amps.key)


def assess_lines(assessment: Assessment) -> list[FittedLine]:
    """The line of every sweep of a judged run."""
    sheet = assessment.against.run.sheet
    return [_line(sweep, sheet, assessment) for sweep in sheet.sweeps.values()]


def _line(sweep: Sweep, sheet: Sheet, assessment: Assessment) -> FittedLine:
    part = sweep.part(sheet.setups[sweep.setup], sheet.parts)
    points: list[SweepPoint] = []
    left_out: list[tuple[int, str]] = []
    for step in range(row_count(sweep, assessment)):
        found = _point(sweep, step, assessment)
        if isinstance(found, SweepPoint):
            points.append(found)
        elif found:
            left_out.append((step, found))
    turned, told = _turned(points)
    used = [point for point in points if point.step not in turned]
    left_out += [(step, told) for step in turned]
    x, y = np.array([p.amps for p in used]), np.array([p.volts for p in used])
    free, origin = _fits(used)
    straight, stray, text = _shape(x, y, free)
    counted = [point for k, point in enumerate(used) if k != stray]
    if stray is not None:
        text = say("sweeps.row_does_not_fit", row=used[stray].step + 1)
    best = _best(counted) if stray is not None else _better(free, origin)
    if straight is False:
        best = None
    line = FittedLine(sweep, part, tuple(points), tuple(sorted(left_out)), free, origin, best, None, None, straight,
                None if stray is None else used[stray].step, "")  # fmt: skip
    if best is None:
        return replace(line, reason=text or _no_line(points, left_out))
    spread = _spread(best, counted)
    if free is not None and free.slope < 0 and _is_of_source(sweep, sheet):
        spread = _spread(free, used)
        far = max(free.intercept_error or 0.0, free.intercept_own or 0.0)
        volts, ohms = rounded(free.intercept, far, VOLT), rounded(-free.slope, spread.standard, OHM)
        inside = say("sweeps.inside_source", volts=volts, ohms=ohms)
        return replace(line, best=free, stray=None, spread=spread, is_source=True, reason=several(text, inside))
    held = _judged(line, spread, sheet, assessment)
    words = [
        text,
        _few(len(used), free),
        *(say("sweeps.row_is_left_out", row=step + 1, why=why) for step, why in line.left_out),
        _taken_off(line, assessment),
        _which(best),
        held.reason,
    ]
    return replace(line, spread=spread, judged=held, reason=several(*words))


def _is_of_source(sweep: Sweep, sheet: Sheet) -> bool:
    """Whether a table has a source's own volts and the current that it delivers."""
    leads = sheet.setups[sweep.setup].connections.get(sweep.amps.part)
    return sheet.parts[sweep.amps.part].kind.is_source and leads is not None and set(leads) == set(sweep.volts.nodes)


def _fits(points: Sequence[SweepPoint]) -> tuple[Fit | None, Fit | None]:
    """The line through points, and through the origin too."""
    x, y = np.array([p.amps for p in points]), np.array([p.volts for p in points])
    u_x, u_y = np.array([p.own_amps for p in points]), np.array([p.own_volts for p in points])
    free = fit_line(x, y, u_x, u_y, origin=False) if len(points) > 1 else None
    return free, fit_line(x, y, u_x, u_y, origin=True) if np.any(x != 0) else None


def _best(points: Sequence[SweepPoint]) -> Fit | None:
    """The line that counts through points."""
    return _better(*_fits(points))


def _point(sweep: Sweep, step: int, assessment: Assessment) -> SweepPoint | str | None:
    """A row as a point; why it is none; None while it lacks a reading."""
    volts, amps = assessment.of(sweep.volts_at(step)), assessment.of(sweep.amps_at(step))
    if volts is None or amps is None:
        return None
    v, i = volts.measurement, amps.measurement
    if v.mean is None or i.mean is None:
        return say("sweeps.over_range")
    sign = -1.0 if sweep.volts_at(step).reversed_against(v.target) else 1.0
    inside = _ammeter(sweep, step, i.mean, assessment)
    across, spread = sign * v.mean, v.spread.times(sign)
    if inside:
        off = inside * i.mean
        known_to = Spread({say("sweeps.ammeter_ohms"): _STATED_WITHIN * off})
        across, spread = across - off, spread - i.spread.times(inside) - known_to
    return SweepPoint(step, across, i.mean, spread, i.spread, _own(v), _own(i))


def _ammeter(sweep: Sweep, step: int, amperes: float, assessment: Assessment) -> float | None:
    """The ohms of the ammeter that stand in the volts of a row; none where the voltmeter lies across the part alone."""
    if not sweep.around_ammeter:
        return 0.0
    return ammeter_ohms(assessment.against.measurements, sweep.amps_at(step), amperes)


def _taken_off(line: FittedLine, assessment: Assessment) -> str:
    """That the ammeter's share is taken off the volts, or why not; empty where they have none in them."""
    if not line.sweep.around_ammeter:
        return ""
    ohms = [_ammeter(line.sweep, point.step, point.amps, assessment) for point in line.points]
    known = [one for one in ohms if one is not None]
    if len(known) < len(ohms):
        return say("sweeps.ammeter_not_described")
    return say("sweeps.ammeter_taken_off", ohms=rounded(max(known), None, OHM)) if any(known) else ""


def _own(measurement: Measurement) -> float:
    """The standard uncertainty of what is a reading's own, without what all readings share."""
    return abs(measurement.spread.shares.get(Own(measurement.target.key), 0.0))


def _turned(points: Sequence[SweepPoint]) -> tuple[list[int], str]:
    """The rows whose volts and amperes have not the sign of each other that most have: leads that were turned."""
    signed = [point for point in points if point.volts and point.amps]
    against = [point.step for point in signed if point.volts * point.amps < 0]
    if not against or 2 * len(against) >= len(signed):
        return [], ""
    return against, say("sweeps.volts_against_current_meters")


def _shape(x: Array, y: Array, free: Fit | None) -> tuple[bool | None, int | None, str]:
    """Whether a straight line describes the points, the place of one that does not fit, and what is to be said."""
    n = len(x)
    if free is None or n < 3:
        return None, None, ""
    largest = float(np.abs(y).max())
    is_close = float(np.abs(free.residuals).max()) <= _CLOSE * largest
    if is_close or (free.chi_squared is not None and free.chi_squared <= _MORE_THAN_THE_METER * (n - 2)):
        return True, None, ""
    if n < 4:
        return None, None, say("sweeps.points_do_not_lie")
    curved = float((free.weights * fit_curve(x, y, free.weights) ** 2).sum())
    stray, others, others_largest = _without_farthest(x, y, free)
    if others < curved and stray is not None and _is_stray(stray, x, y, free, others_largest, largest):
        return True, stray, ""
    if curved <= (_CLEARLY_OF_FOUR if n == 4 else _CLEARLY) * free.sum_of_squares:
        return False, None, say("sweeps.straight_line_does_not", from_to=_from_to(x, y))
    return None, None, say("sweeps.points_scatter_about_line")


def _from_to(x: Array, y: Array) -> str:
    """From which to which resistance a curve goes."""
    ohms = [float(b / a) for a, b in zip(x, y, strict=True) if a]
    return say("sweeps.volts_over_amperes_go", min=rounded(min(ohms), None, OHM), max=rounded(max(ohms), None, OHM))


def _without_farthest(x: Array, y: Array, free: Fit) -> tuple[int | None, float, float]:
    """The point without which the others lie best on a line: place, squares left, largest residual."""
    best: tuple[int | None, float, float] = (None, float("inf"), 0.0)
    for k in range(len(x)):
        kept = np.arange(len(x)) != k
        other = fit_line(x[kept], y[kept], origin=False)
        if other is None:
            continue
        left = float((free.weights[kept] * other.residuals**2).sum())
        if left < best[1]:
            best = k, left, float(np.abs(other.residuals).max())
    return best


def _is_stray(stray: int, x: Array, y: Array, free: Fit, others: float, largest: float) -> bool:
    """Whether one point lies far from the line of all others, and these close to it."""
    kept = np.arange(len(x)) != stray
    other = fit_line(x[kept], y[kept], origin=False)
    if other is None:
        return False
    off = abs(y[stray] - other.intercept - other.slope * x[stray])
    own = float(free.weights[stray]) ** -0.5
    return bool(off > _STRAY * max(others, own) and off > _CLOSE * largest)


def _better(free: Fit | None, origin: Fit | None) -> Fit | None:
    """The line through the origin where nothing speaks against it."""
    if free is None or origin is None or free.intercept_error is None:
        return origin or free
    by_scatter = free.intercept_error * student_factor(len(free.residuals) - 1)
    is_none = abs(free.intercept) <= COVERAGE_FACTOR * max(by_scatter, free.intercept_own or 0.0)
    return origin if is_none else free


def _spread(best: Fit, used: Sequence[SweepPoint]) -> Spread:
    """What is uncertain about the slope: each point's own, or the scatter where that is more, and both gains once."""
    total = NO_SPREAD
    own = 0.0
    for point, share in zip(used, best.by_y.tolist(), strict=True):
        total = total + point.volts_spread.times(share) - point.amps_spread.times(share * best.slope)
        own += share**2 * (point.own_volts**2 + (best.slope * point.own_amps) ** 2)
    free = 2 if best.intercept_error is not None else 1
    scatter = (best.slope_error or 0.0) * student_factor(len(used) - free + 1) if best.slope_error else 0.0
    missing = max(0.0, scatter**2 - own) ** 0.5
    return total + Spread({say("sweeps.scatter_about_line"): missing})


def _judged(line: FittedLine, spread: Spread, sheet: Sheet, assessment: Assessment) -> Judged:
    """The slope against what it should be: the part's bands and its ohmmeter reading, else volts over amperes."""
    calculations = {basis: _should(line, basis, sheet, assessment) for basis in (NOMINAL, MEASURED)}
    return judged(Read(line.resistance, spread, RESISTANCE), calculations[NOMINAL], calculations[MEASURED], sheet.judge)


def _should(line: FittedLine, basis: str, sheet: Sheet, assessment: Assessment) -> Calculated:
    measurements = assessment.against.measurements
    table = resistance_of_table(
        sheet, line.sweep, measurements, lambda across: calculate(sheet, (across,), measurements)
    )
    known = table[basis == MEASURED]
    if line.part or known.value is not None:
        return known
    for point in line.points:
        volts, amps = assessment.of(line.sweep.volts_at(point.step)), assessment.of(line.sweep.amps_at(point.step))
        if volts is None or amps is None:
            continue
        v, i = (
            target_assessment.judged.nominal if basis == NOMINAL else target_assessment.judged.measured
            for target_assessment in (volts, amps)
        )
        if v.value is not None and i.value and not i.zero:
            return Calculated(abs(v.value / i.value))
    return Calculated()


def _no_line(points: Sequence[SweepPoint], left_out: Sequence[tuple[int, str]]) -> str:
    """Why there is no line."""
    why = [say("sweeps.row_is_left_out", row=step + 1, why=text) for step, text in left_out]
    if not points:
        return several(say("sweeps.still_read_volts_and"), *why)
    if not any(point.volts for point in points):
        return several(say("sweeps.all_volts_and_amperes"), *why)
    return several(say("sweeps.no_current_flows_in"), *why)


def _few(count: int, free: Fit | None) -> str:
    """What so few points do not say."""
    if count == 1:
        return say("sweeps.one_point_no_line")
    if free is None:
        return say("sweeps.all_rows_at_one")
    return say("sweeps.two_points_always_lie") if count == 2 else ""


def _which(best: Fit) -> str:
    """Which line counts, and its slope."""
    slope = rounded(best.slope, best.slope_error, OHM)
    if best.intercept_error is None:
        return say("sweeps.through_origin_slope", slope=slope)
    at_no_current = rounded(best.intercept, best.intercept_error, VOLT)
    return say("sweeps.slope_at_no_current", slope=slope, at_no_current=at_no_current)


def residuals(line: FittedLine) -> Iterator[tuple[SweepPoint, float]]:
    """How far each point lies above the line that counts, in volts."""
    if line.best:
        for point in line.points:
            yield point, point.volts - line.best.intercept - line.best.slope * point.amps
