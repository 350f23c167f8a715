"""Straight lines through the points of a sweep: R as the slope, and whether a straight line describes them at all."""

from recensor.core.sweeps.fit import Fit, fit_curve, fit_line
from recensor.core.sweeps.lines import FittedLine, SweepPoint, assess_lines, residuals, row_count

__all__ = ["Fit", "FittedLine", "SweepPoint", "assess_lines", "fit_curve", "fit_line", "residuals", "row_count"]
