"""Benches that go wrong in every way: invented, for tests and the fault trial."""

from tests.injected_faults.cases import Case, draw_case, draw_pair
from tests.injected_faults.kinds import INJECTED, NoRoomForFaultError

__all__ = ["INJECTED", "Case", "NoRoomForFaultError", "draw_case", "draw_pair"]
