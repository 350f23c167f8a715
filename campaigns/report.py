"""What a campaign found."""

import time
from collections.abc import Iterator
from dataclasses import dataclass, field


@dataclass
class Report:
    """One line of figures, and whatever was wrong, each in a line."""

    name: str
    figures: str = ""
    wrong: list[str] = field(default_factory=list)

    def __str__(self) -> str:
        return "\n".join(
            [*(f"  {line}" for line in self.wrong[:40]), f"{self.name}: {self.figures}; {len(self.wrong)} wrong"]
        )


def until(seconds: float) -> Iterator[int]:
    """Count up until the time is over."""
    end, number = time.monotonic() + seconds, 0
    while time.monotonic() < end:
        yield number
        number += 1


def share(times: list[float], percent: float) -> float:
    """The time, in milliseconds, that so many per cent did not exceed."""
    ordered = sorted(times) or [0.0]
    return ordered[min(int(len(ordered) * percent / 100), len(ordered) - 1)] * 1e3
