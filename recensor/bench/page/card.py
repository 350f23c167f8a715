"""What to read now: the card of one point, and what was read there before."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from django.utils import timezone

from recensor.bench.page.drawing import setup_of
from recensor.core import plan
from recensor.core.boards import compare, probes_at
from recensor.core.circuit import NOMINAL, Handout, Part, Sheet, Target, loops, slug
from recensor.core.editing import colour_words
from recensor.core.entries import bare_units, is_turned_up, setting_of, turned_at
from recensor.core.figures import stated, with_digits
from recensor.core.judgement import Assessment
from recensor.core.meters import USUAL_COUNTS, Profile, Setting, display, displayed_limits, usual_range
from recensor.core.plan import Bench, Card, Check, Disturbance, State, disturbance
from recensor.core.quantity import RESISTANCE, as_ratio
from recensor.core.record import Reading
from recensor.core.standing import Standing
from recensor.drawing.resistor import BandedResistor, resistor_of
from recensor.ledger import SEALED, Rows, shown
from recensor.ledger.marks import Mark
from recensor.runs.queries import RunSnapshot, photos_of


@dataclass(frozen=True)
class PastReading:
    """One reading of a point as its history lists it."""

    reading: int
    text: str
    when: str
    by: str
    standing: str
    mark: Mark | None = None
    struck: str = ""
    photos: tuple[int, ...] = ()


@dataclass(frozen=True)
class NextReading:
    """The reading to take now.

    `found` is the key of the reading that stands here, `stands` what it is; `still` how far an adjustable source is
    from its setting, and `advice` what a look here asks for. `disturbs` says what the meter does to the circuit here,
    and `instead` what to read where that is too much; `checks` are looked at before power comes on.
    """

    target: Target
    address: str
    name: str
    card: Card
    expected: str
    disturbs: str
    instead: str
    checks: tuple[Check, ...]
    red_hole: str
    black_hole: str
    unit: str
    units: tuple[str, ...]
    mark: Mark
    before: str
    after: str
    resistor: BandedResistor | None
    found: int | None
    stands: str
    still: str
    advice: str
    setup: str
    meter: str
    handout: Handout | None
    others_are: str
    others: tuple[tuple[str, str], ...]

    @property
    def quantity(self) -> str:
        """What is read here."""
        return self.target.measurand.value

    @property
    def prefixes(self) -> tuple[str, ...]:
        """The prefixes that its unit is read with, as a phone has them as keys."""
        return tuple(unit.removesuffix(self.target.unit) for unit in self.units if unit != self.target.unit)


def next_reading(
    loaded: RunSnapshot, assessment: Assessment, target: Target, ways: Sequence[int], bench: Bench, stands: State
) -> NextReading:
    """How to read what is chosen on a bench that stands so, and what was read there before."""
    run, points = loaded.core, loaded.points
    rows = Rows(run, points, assessment)
    row, calculated = rows.row_of(target), assessment.expected(target)
    expected = calculated.value if calculated else None
    part = run.sheet.parts[target.part] if target.is_part_alone else None
    if part is not None and part.maybe:
        expected = float(colour_words.candidates(part)[0][0])
    by_nominal = not target.in_circuit or run.sheet.judge.against is NOMINAL
    text = row.nominal if by_nominal else row.measured
    told = plan.card(target, bench, stands)
    profile = bench.profile(target.measurand)
    unit, units = bare_units(
        target,
        told.dial,
        expected,
        run.readings,
        sealed=loaded.is_sealed,
        advised=told.setting.unit if profile.ranges and told.setting.shows else None,
    )
    disturbed = None if loaded.is_sealed else disturbance(run.sheet, target, assessment, profile)
    holes = _holes(bench, target)
    here = ways.index(rows.index[target.key])
    found = loaded.standing_at(target)
    shows = "" if text == SEALED else _display(told.setting, profile, disturbed) or text
    return NextReading(
        target=target,
        address=slug(target),
        name=told.title,
        card=told,
        expected=("" if bench.simulated else _limits(part)) or shows,
        disturbs=disturbed.text if disturbed else "",
        instead=disturbed.instead(run.sheet) if disturbed else "",
        checks=(),
        red_hole=holes.get("red", ""),
        black_hole=holes.get("black", ""),
        unit=unit,
        units=units,
        mark=row.mark,
        resistor=resistor_of(part),
        before=slug(points[ways[here - 1]]) if here > 0 else "",
        after=slug(points[ways[here + 1]]) if here + 1 < len(ways) else "",
        found=found,
        stands=shown(run.readings[loaded.reading_ids.index(found)]) if found else "",
        still=_still(loaded, target),
        advice=_advice(loaded, target, expected, profile),
        setup=setup_of(run.sheet, target).name,
        meter=next((r.meter for r in reversed(run.readings) if r.meter), ""),
        handout=run.sheet.handout.get(target.key),
        others_are="Opened beside" if target.is_through else "Or of one alone:",
        others=tuple(_others(run.sheet, target)),
    )


def _holes(bench: Bench, target: Target) -> dict[str, str]:
    """The holes for the probes, where the setup's board has its nodes: of a link that is pulled its own two."""
    built = bench.boards.get(target.setup or "")
    if built is None:
        return {}
    if target.is_through:
        gap = bench.opening(target)
        link = built.placements.get(gap.name)
        ends = {f"{gap.name}.{end}": hole.shown for end, hole in zip("ab", link.holes, strict=True)} if link else {}
        at_node = next((hole for end, hole in ends.items() if end != gap.freed), "")
        found = {gap.freed: ends.get(gap.freed, ""), gap.node: at_node}
        return {"red": found[gap.red], "black": found[gap.black]}
    comparison = compare(bench.sheet, bench.sheet.setups[target.setup], built) if target.setup else None
    return {colour: hole.shown for colour, hole in probes_at(target, built, comparison).items()} if comparison else {}


def _display(chosen: Setting, profile: Profile, disturbed: Disturbance | None) -> str:
    """What a meter that is known shows here, with what it does to the circuit itself."""
    if not profile.ranges or chosen.shows is None:
        return ""
    if disturbed is None:
        return chosen.shows.text
    return display(disturbed.within, chosen.measurand, chosen.taken, profile.over_range[0]).text


def _others(sheet: Sheet, target: Target) -> Iterator[tuple[str, str]]:
    """The same read elsewhere, since it is to be equal there: beside each part of a branch, of each of a bank."""
    if not target.in_circuit or target.measurand is RESISTANCE:
        return
    setup = sheet.setups[target.setup]
    if target.is_through:
        branch = next(
            (b for b in loops.branches(setup.connections) if target.part in [p.part for p in b.passages]), None
        )
        parts = [passage.part for passage in branch.passages] if branch else []
    else:
        parts = setup.across(*target.nodes)
    for name in parts if len(parts) > 1 else ():
        if name != target.at:
            yield name, slug(replace(target, at=name))


# How a reading stands, beside others of its measurement.
_STANDS = {
    Standing.LATER: "read again, stands",
    Standing.EARLIER: "before",
    Standing.CONFIRMS: "confirms",
    Standing.BESIDE: "beside, another meter's",
    Standing.LOOK: "look",
}


def history(loaded: RunSnapshot, assessment: Assessment, target: Target) -> Iterator[PastReading]:
    """Everything that was ever read at a point, in the order of the run."""
    run = loaded.core
    mine = [k for k, reading in enumerate(run.readings) if reading.target.key == target.key]
    if not mine:
        return
    photos = photos_of([loaded.reading_ids[k] for k in mine])
    judged = {found.index: found for found in assessment.readings} if len(mine) > 1 else {}
    standings = assessment.against.measurements.standings
    for k in mine:
        reading, reading_assessment = run.readings[k], judged.get(k)
        yield PastReading(
            reading=loaded.reading_ids[k],
            text=shown(reading),
            when=timezone.localtime(reading.time).strftime("%H:%M") if reading.time else "",
            by=reading.by or "",
            standing="" if reading.struck else _STANDS.get(standings[k], ""),
            mark=Mark(
                reading_assessment.judged.outcome,
                reading_assessment.judged.verdict.value,
                reading_assessment.judged.reason,
            )
            if reading_assessment and standings[k].was_read and standings[k] is not Standing.COUNTED
            else None,
            struck=reading.struck.reason if reading.struck else "",
            photos=photos.get(loaded.reading_ids[k], ()),
        )


def _look_at(loaded: RunSnapshot, target: Target) -> Reading | None:
    """The look that was just taken at a target; None where something else was read last."""
    last = loaded.last_reading
    reading = None if last is None else loaded.core.readings[last]
    is_look = reading is not None and reading.target.key == target.key and reading.counted is False
    return reading if is_look else None


def _still(loaded: RunSnapshot, target: Target) -> str:
    """How far an adjustable source is still to be turned, after the last look at it."""
    run, last = loaded.core, _look_at(loaded, target)
    if last is None or not is_turned_up(last, run):
        return ""
    part = turned_at(target, run.sheet)
    if part is None:
        return ""
    digit = float(last.value.resolution or 1)
    left = setting_of(part, target, run.sheet) - abs(float(last.value))
    return f"{with_digits(abs(left), digit, target.unit)} {'still to go' if left > 0 else 'too far'}"


def _advice(loaded: RunSnapshot, target: Target, expected: float | None, profile: Profile) -> str:
    """What a look asks for: the range in which there is something to be seen."""
    last = _look_at(loaded, target)
    if last is None or _still(loaded, target) or loaded.reading_ids[loaded.last_reading or 0] in loaded.questions:
        return ""
    if last.value.text.strip() == "1":
        return "A lone 1 is how many meters show that it is too much: take a larger range. It is not counted."
    if loaded.is_sealed or not expected:
        finer = last.value.value is not None
        return f"{shown(last)} is kept as a look. Take a {'smaller' if finer else 'larger'} range."
    full = usual_range(target.measurand, abs(expected), profile)
    return f"{shown(last)} is kept as a look. Take the {stated(Decimal(f'{full:.6g}'), target.unit)} range."


def _limits(part: Part | None) -> str:
    """What a usual meter may show of a part by itself; empty where value or tolerance is not stated."""
    if part is None or not part.kind.has_bands or part.nominal is None or part.tolerance is None:
        return ""
    nominal, allowed = float(part.nominal), float(part.nominal) * as_ratio(part.tolerance)
    return " to ".join(displayed_limits(nominal - allowed, nominal + allowed, USUAL_COUNTS))
