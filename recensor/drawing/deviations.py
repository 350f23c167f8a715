"""How far each reading is from what it should be, in %, against the limit, for ``drawing/deviations.svg``.

Lengths are in SVG units. What lies beyond the sheet is drawn at its edge, with an arrow.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from recensor.core.figures import signed_percent

WIDTH, ROW, _LEFT, _RIGHT, _TOP, _BOTTOM = 720.0, 22.0, 190.0, 110.0, 14.0, 26.0

# The sheet shows at least this many limits to each side, and no more.
_LEAST, _MOST = 1.5, 4.0


@dataclass(frozen=True)
class Deviation:
    """One reading: its name, its error and expanded uncertainty in %, and the word of its verdict with its sign."""

    name: str
    percent: float
    expanded: float
    word: str
    sign: str
    kind: str


@dataclass(frozen=True)
class Bar:
    """One reading as it is drawn; `beyond` is −1 or 1 where it lies off the sheet."""

    y: float
    x: float
    low: float
    high: float
    beyond: int
    name: str
    percent: str
    sign: str
    kind: str
    words: str


@dataclass(frozen=True)
class Deviations:
    """The chart: its bars from the top, where zero and the limits are, and what stands at the scale."""

    bars: tuple[Bar, ...]
    height: float
    zero: float
    limits: tuple[float, float]
    scale: tuple[tuple[float, str], ...]
    description: str

    width, left, top, row = WIDTH, _LEFT, _TOP, ROW
    right = WIDTH - _RIGHT

    @property
    def foot(self) -> float:
        """Where the scale stands."""
        return self.height - _BOTTOM


def deviations(found: Sequence[Deviation], limit: float) -> Deviations:
    """Place the readings, one row each, against a limit in %."""
    farthest = max((abs(deviation.percent) + deviation.expanded for deviation in found), default=0.0)
    reach = limit * min(max(_LEAST, farthest / limit * 1.05), _MOST) if limit else max(farthest * 1.05, 1.0)
    zero = (_LEFT + WIDTH - _RIGHT) / 2.0
    half = (WIDTH - _RIGHT - _LEFT) / 2.0

    def across(percent: float) -> float:
        return round(zero + half * max(-1.0, min(1.0, percent / reach)), 1)

    bars = tuple(
        Bar(
            y=_TOP + ROW * (k + 0.5),
            x=across(deviation.percent),
            low=across(deviation.percent - deviation.expanded),
            high=across(deviation.percent + deviation.expanded),
            beyond=0 if abs(deviation.percent) <= reach else 1 if deviation.percent > 0 else -1,
            name=deviation.name,
            percent=signed_percent(deviation.percent),
            sign=deviation.sign,
            kind=deviation.kind,
            words=f"{deviation.name}: {signed_percent(deviation.percent)} ± {deviation.expanded:.2g} %, "
            f"{deviation.word}",
        )
        for k, deviation in enumerate(found)
    )
    scale = tuple((across(mark), f"{mark:+g} %".replace("-", "−")) for mark in (-limit, limit)) if limit else ()
    outside = sum(bar.kind == "outside" for bar in bars)
    description = f"Percent error of {len(bars)} readings against a limit of {limit:g} %: {outside} outside"
    height = _TOP + ROW * len(bars) + _BOTTOM
    return Deviations(bars, height, zero, (across(-limit), across(limit)), ((zero, "0"), *scale), description)
