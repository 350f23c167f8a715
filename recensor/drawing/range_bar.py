"""How far a quantity may go, as a bar: a view model for ``drawing/range_bar.svg``. Lengths are in SVG units."""

from dataclasses import dataclass

WIDTH, MARGIN = 220, 10


@dataclass(frozen=True)
class RangeBar:
    """Places along the bar: the worst-case limits, twice the standard deviation, the present and the changed value."""

    worst: tuple[float, float] | None
    likely: tuple[float, float]
    now: float
    then: float
    description: str


def range_bar(
    now: float, then: float, worst: tuple[float, float] | None, deviation: float, description: str
) -> RangeBar:
    """Scale all places to the bar's width; equal values stand in its middle."""
    likely = (now - 2.0 * deviation, now + 2.0 * deviation)
    everything = [now, then, *likely, *(worst or ())]
    low, high = min(everything), max(everything)

    def place(value: float) -> float:
        share = 0.5 if high == low else (value - low) / (high - low)
        return round(MARGIN + share * (WIDTH - 2 * MARGIN), 1)

    return RangeBar(
        worst=(place(worst[0]), place(worst[1])) if worst else None,
        likely=(place(likely[0]), place(likely[1])),
        now=place(now),
        then=place(then),
        description=description,
    )
