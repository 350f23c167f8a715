"""Benches that go wrong in every way: invented, for tests and the fault trial."""

from tests.mishaps.cases import Case, draw_case, draw_pair
from tests.mishaps.kinds import MISHAPS, NoSuchMishapError

__all__ = ["MISHAPS", "Case", "NoSuchMishapError", "draw_case", "draw_pair"]
