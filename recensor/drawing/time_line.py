"""How one quantity went over time, for ``drawing/time_line.svg``: readings with their uncertainty, and a setting.

Lengths are in SVG units.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from recensor.core.figures import rounded

WIDTH, HEIGHT = 560.0, 150.0
_LEFT, _RIGHT, _TOP, _BOTTOM = 70.0, 20.0, 16.0, 34.0


@dataclass(frozen=True)
class Moment:
    """One reading: seconds since the first, value and expanded uncertainty in the SI unit, and its words."""

    seconds: float
    value: float
    expanded: float
    words: str
    is_alone: bool = False


@dataclass(frozen=True)
class TimeMark:
    """One reading as it is drawn; an open ring for a reading before connecting."""

    x: float
    y: float
    high: float
    low: float
    words: str
    is_alone: bool


@dataclass(frozen=True)
class TimeLine:
    """Marks in order, the line through them, two values at the side, the span of time, and the setting's height."""

    marks: tuple[TimeMark, ...]
    path: str
    sides: tuple[tuple[float, str], ...]
    minutes: str
    setting: float | None
    description: str

    width, height, left, bottom = WIDTH, HEIGHT, _LEFT, HEIGHT - _BOTTOM
    right = WIDTH - _RIGHT


def time_line(moments: Sequence[Moment], unit: str, setting: float | None, name: str) -> TimeLine:
    """Place readings of one quantity over their times; `setting` is drawn where it lies among them."""
    low = min(moment.value - moment.expanded for moment in moments)
    high = max(moment.value + moment.expanded for moment in moments)
    room = 0.1 * (high - low) or 0.05 * abs(high) or 1.0
    low, high = low - room, high + room
    span = max(moment.seconds for moment in moments)

    def across(k: int) -> float:
        share = moments[k].seconds / span if span else k / max(len(moments) - 1, 1)  # without times in order
        return round(_LEFT + (WIDTH - _LEFT - _RIGHT) * share, 1)

    def up(value: float) -> float:
        return round(_TOP + (HEIGHT - _TOP - _BOTTOM) * (high - value) / (high - low), 1)

    marks = tuple(
        TimeMark(
            across(k),
            up(moment.value),
            up(moment.value + moment.expanded),
            up(moment.value - moment.expanded),
            moment.words,
            moment.is_alone,
        )
        for k, moment in enumerate(moments)
    )
    largest, smallest = max(m.value for m in moments), min(m.value for m in moments)
    digits = max((m.expanded for m in moments), default=0.0)
    sides = tuple((up(value), rounded(value, digits or None, unit)) for value in dict.fromkeys((largest, smallest)))
    return TimeLine(
        marks=marks,
        path=" ".join(f"{'M' if k == 0 else 'L'}{mark.x} {mark.y}" for k, mark in enumerate(marks)),
        sides=sides if len(sides) < 2 or abs(sides[0][0] - sides[1][0]) > 14 else sides[:1],
        minutes=_minutes(span),
        setting=up(setting) if setting is not None and low < setting < high else None,
        description=f"{name} over time: " + ", ".join(moment.words for moment in moments),
    )


def _minutes(seconds: float) -> str:
    if seconds < 1:
        return ""
    if seconds < 90:
        return f"{seconds:.0f} s"
    return f"{seconds / 60:.0f} min" if seconds < 5400 else f"{seconds / 3600:.1f} h"
