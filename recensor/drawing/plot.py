"""Volts over amperes as points with a line or a curve through them, for ``drawing/plot.svg``.

Lengths are in SVG units. Nothing is told by colour alone: the last point is filled, a stray one is named.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from html import escape
from textwrap import shorten

from recensor.core.figures import prefixed_unit, rounded

WIDTH = 560.0
_LEFT, _RIGHT, _TOP, _UP, _BELOW, _RESIDUALS = 70.0, 18.0, 34.0, 250.0, 46.0, 64.0
# How wide a letter of a line's name is at most, and how many of them stand in the plot.
_LETTER, _LONGEST_NAME = 9.0, 36
_PREFIXES = {"µ": 1e-6, "m": 1e-3, "k": 1e3, "M": 1e6}


@dataclass(frozen=True)
class Plotted:
    """One point: where it lies across and up, with expanded uncertainties, how far above the line, and its row.

    What `is_end` is not drawn: it only makes room.
    """

    across: float
    up: float
    across_error: float
    up_error: float
    row: int
    words: str
    above: float | None = None
    is_stray: bool = False
    is_end: bool = False


@dataclass(frozen=True)
class PlotMark:
    """One point as it is drawn."""

    x: float
    y: float
    high: float
    low: float
    near: float
    far: float
    row: int
    words: str
    is_stray: bool


@dataclass(frozen=True)
class PlottedLine:
    """Points, with a straight `line` as a function of what lies across, or a `curve` through them.

    `name` tells it from others in the same plot.
    """

    points: Sequence[Plotted]
    line: Callable[[float], float] | None = None
    curve: Sequence[tuple[float, float]] = ()
    name: str = ""


# What the points of one line and the next are drawn as, around their place: none is told by its colour.
_SHAPES = (
    "M-4 0A4 4 0 1 0 4 0A4 4 0 1 0 -4 0Z",
    "M-4 -4H4V4H-4Z",
    "M0 -5L5 4H-5Z",
    "M0 -5.5L5.5 0L0 5.5L-5.5 0Z",
    "M0 5L5 -4H-5Z",
)

# So many lines have room in one plot.
MOST_LINES = len(_SHAPES)


@dataclass(frozen=True)
class PlotLine:
    """One line as it is drawn: its points, the straight line or the curve through them, its name."""

    marks: tuple[PlotMark, ...]
    line: str
    curve: str
    name: str
    shape: str

    def markup(self) -> str:
        """It as markup, which is many times as fast as a template for each point; words are made harmless."""
        last = self.marks[-1] if self.marks else None
        through = f'<path class="plot-curve" d="{self.curve}"/>' if self.curve else ""
        through += f'<path class="plot-line" d="{self.line}"/>' if self.line else ""
        marks = "".join(
            f'<g class="{"plot-stray" if m.is_stray else "plot-last" if m is last else ""}">'
            f"<title>{escape(m.words)}</title>"
            f'<path class="plot-bar" d="M{m.x} {m.high}V{m.low}M{m.near} {m.y}H{m.far}"/>'
            f'<path class="plot-mark" d="{self.shape}" transform="translate({m.x} {m.y})"/>'
            f"{_query(m) if m.is_stray else ''}</g>"
            for m in self.marks
        )
        return f"{through}{marks}{self._named()}"

    def _named(self) -> str:
        """The name beside the farthest point."""
        if not self.name or not self.marks:
            return ""
        at = max(self.marks, key=lambda mark: mark.x)
        name = shorten(self.name, _LONGEST_NAME, placeholder=" …")
        is_near_edge = at.x + _LETTER * len(name) > WIDTH - _RIGHT
        way, anchor = (-9, "end") if is_near_edge else (9, "start")
        place = f'x="{at.x}" y="{at.y}" dx="{way}" dy="-7" text-anchor="{anchor}"'
        return f'<text class="plot-unit" {place}>{escape(name)}</text>'


@dataclass(frozen=True)
class Plot:
    """Both axes with their units, the lines, and how far points lie above the only one."""

    lines: tuple[PlotLine, ...]
    across: tuple[tuple[float, str], ...]
    up: tuple[tuple[float, str], ...]
    across_unit: str
    up_unit: str
    residuals: tuple[PlotMark, ...]
    residual_scale: str
    description: str

    width, left, top = WIDTH, _LEFT, _TOP
    right, bottom = WIDTH - _RIGHT, _TOP + _UP
    residual_top = _TOP + _UP + _BELOW + 6.0
    residual_bottom = residual_top + _RESIDUALS
    zero = residual_top + _RESIDUALS / 2.0

    @property
    def drawn_lines(self) -> str:
        """The lines as markup."""
        return "".join(line.markup() for line in self.lines)

    @property
    def drawn_residuals(self) -> str:
        """How far the points lie above the line, as markup."""
        return "".join(
            f'<g class="{"plot-stray" if m.is_stray else ""}"><path class="plot-bar" d="M{m.x} {m.high}V{m.low}"/>'
            f'<circle class="plot-mark" cx="{m.x}" cy="{m.y}" r="3.5"/></g>'
            for m in self.residuals
        )

    @property
    def height(self) -> float:
        """How high it is, with what lies below."""
        return self.residual_bottom + 22.0 if self.residuals else self.bottom + _BELOW


def plot(lines: Sequence[PlottedLine], units: tuple[str, str], names: tuple[str, str]) -> Plot:
    """Place lines; `units` and `names` are those of what lies across, and of what goes up.

    Of a line by itself it is drawn too how far its points lie above it.
    """
    points = [point for line in lines for point in line.points]
    across = _Axis([p.across for p in points], units[0], _LEFT, WIDTH - _RIGHT)
    up = _Axis([p.up for p in points], units[1], _TOP + _UP, _TOP)
    drawn = tuple(_drawn(line, shape, across, up) for line, shape in zip(lines, _SHAPES, strict=False))
    left = [p for p in points if p.above is not None] if len(lines) == 1 else []
    residuals, scale = _residuals(left, across, units[1])
    described = "; ".join(
        f"{line.name or f'{names[1]} over {names[0]}'}, {len(line.points)} points: "
        + "; ".join(p.words for p in line.points)
        for line in lines
    )
    return Plot(drawn, across.ticks, up.ticks, f"{names[0]} / {across.unit}", f"{names[1]} / {up.unit}",
                residuals, scale, described)  # fmt: skip


def _drawn(plotted: PlottedLine, shape: str, across: "_Axis", up: "_Axis") -> PlotLine:
    """A line placed on both axes."""
    marks = tuple(
        PlotMark(
            across.at(p.across),
            up.at(p.up),
            up.at(p.up + p.up_error),
            up.at(p.up - p.up_error),
            across.at(p.across - p.across_error),
            across.at(p.across + p.across_error),
            p.row,
            p.words,
            p.is_stray,
        )
        for p in plotted.points
        if not p.is_end
    )
    way = ""
    if plotted.line is not None:
        (x1, y1), (x2, y2) = across.clipped(plotted.line, up)
        way = f"M{across.at(x1)} {up.at(y1)}L{across.at(x2)} {up.at(y2)}"
    through = " ".join(f"{'L' if k else 'M'}{across.at(x)} {up.at(y)}" for k, (x, y) in enumerate(plotted.curve))
    return PlotLine(marks, way, through, plotted.name, shape)


def _query(mark: PlotMark) -> str:
    """What stands beside a stray point."""
    return f'<text class="plot-unit" x="{mark.x}" y="{mark.y}" dx="9" dy="-7">row {mark.row}?</text>'


def _residuals(left: Sequence[Plotted], across: "_Axis", unit: str) -> tuple[tuple[PlotMark, ...], str]:
    """How far points lie above the line, drawn below it on a scale of its own."""
    if not left:
        return (), ""
    usual = [abs(p.above or 0.0) + p.up_error for p in left if not p.is_stray] or [abs(p.above or 0.0) for p in left]
    reach = _round_up(max(usual) or max((p.up_error for p in left), default=0.0) or 1e-12)
    zero, half = Plot.zero, _RESIDUALS / 2.0

    def at(value: float) -> float:
        return round(zero - half * max(-1.0, min(1.0, value / reach)), 1)

    marks = tuple(
        PlotMark(
            across.at(p.across),
            at(p.above or 0.0),
            at((p.above or 0.0) + p.up_error),
            at((p.above or 0.0) - p.up_error),
            0.0,
            0.0,
            p.row,
            p.words,
            p.is_stray,
        )
        for p in left
    )
    return marks, rounded(reach, reach, unit)


class _Axis:
    """From the smallest to the largest value, zero among them, in round steps; a place is from `low` to `high`."""

    def __init__(self, values: Sequence[float], unit: str, low: float, high: float) -> None:
        smallest, largest = min([0.0, *values]), max([0.0, *values])
        if smallest == largest:
            largest = 1.0
        step = _round_up((largest - smallest) / 5.0)
        self.first, self.last = math.floor(smallest / step + 1e-9) * step, math.ceil(largest / step - 1e-9) * step
        self.low, self.high = low, high
        self.unit = prefixed_unit(max(abs(self.first), abs(self.last)), unit)
        self._factor = _PREFIXES.get(self.unit[:1], 1.0) if self.unit != unit else 1.0
        count = round((self.last - self.first) / step)
        self.ticks = tuple(
            (self.at(value), f"{value / self._factor:.4g}".replace("-", "−"))
            for value in (self.first + k * step for k in range(count + 1))
        )

    def at(self, value: float) -> float:
        """Where a value lies, within the sheet."""
        share = (value - self.first) / (self.last - self.first)
        return round(self.low + (self.high - self.low) * max(-0.03, min(1.03, share)), 1)

    def clipped(self, line: Callable[[float], float], up: "_Axis") -> tuple[tuple[float, float], tuple[float, float]]:
        """The two ends of a straight line within both axes."""
        ends = []
        for x in (self.first, self.last):
            y = line(x)
            if not up.first <= y <= up.last and (
                slope := (line(self.last) - line(self.first)) / (self.last - self.first)
            ):
                edge = up.last if y > up.last else up.first
                x, y = x + (edge - y) / slope, edge
            ends.append((x, y))
        return ends[0], ends[1]


def _round_up(value: float) -> float:
    """The next of 1, 2, 2.5, 5 and 10 times a power of ten."""
    power = 10.0 ** math.floor(math.log10(value))
    return next(factor for factor in (1.0, 2.0, 2.5, 5.0, 10.0) if factor * power >= value * (1 - 1e-9)) * power
