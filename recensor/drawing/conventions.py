"""The school a person follows where practitioners differ; the numbers are the same."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Conventions:
    """How circuits are drawn and calculations written.

    `zigzag`: resistors as zigzags, else as boxes. `source_letter`: V or E. `product_over_sum`: two parallel
    resistors by that formula, else by reciprocals. `signed_sum`: the voltage law as a sum that is zero, else as
    rises that equal drops. `amps_upward`: lines are drawn as amperes over volts, with the slope 1/R. `letter`: printed
    on Letter paper, else on A4.
    """

    zigzag: bool = False
    source_letter: str = "V"
    product_over_sum: bool = False
    signed_sum: bool = False
    amps_upward: bool = False
    letter: bool = False
