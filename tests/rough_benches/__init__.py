"""Benches as people leave them: invented circuits, meters and mistakes that share nothing with the model of causes."""

from tests.rough_benches.faults import BOOK, CIRCUIT, KINDS, NONLINEAR, NoRoomError, RoughCase, drawn_case
from tests.rough_benches.named import is_named

__all__ = ["BOOK", "CIRCUIT", "KINDS", "NONLINEAR", "NoRoomError", "RoughCase", "drawn_case", "is_named"]
