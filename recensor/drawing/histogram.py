"""A bin's histogram against its tolerance limits: a view model for ``drawing/histogram.svg``. SVG units."""

from collections.abc import Sequence
from dataclasses import dataclass

COLUMN, HEIGHT = 14, 44


@dataclass(frozen=True)
class Histogram:
    """Two paths, the columns inside and outside the limits; the limits' places; the mean's; and words for it."""

    width: int
    height: int
    inside: str
    outside: str
    limits: tuple[int, int]
    mean: float | None
    description: str


def histogram(columns: Sequence[int], mean: float | None) -> Histogram:
    """Draw counts by column, the first and last of them outside the limits.

    `mean` is the mean deviation as a share of the tolerance, −1 to 1.
    """
    most = max(columns, default=0) or 1
    paths = {True: "", False: ""}
    last = len(columns) - 1
    for k, count in enumerate(columns):
        if count:
            rise = max(2.0, HEIGHT * count / most)
            paths[0 < k < last] += f"M{k * COLUMN + 1} {HEIGHT}v{-rise:.1f}h{COLUMN - 2}v{rise:.1f}z"
    low, high = COLUMN, last * COLUMN
    return Histogram(
        width=len(columns) * COLUMN,
        height=HEIGHT + 6,
        inside=paths[True],
        outside=paths[False],
        limits=(low, high),
        mean=None if mean is None else round(low + (mean + 1.0) / 2.0 * (high - low), 1),
        description=f"{sum(columns[1:-1])} between the tolerance limits, {columns[0]} below, {columns[-1]} above",
    )
