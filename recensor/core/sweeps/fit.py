"""Straight-line fits of y over x, with uncertainties in both coordinates where they are known.

Each point is weighed by its effective variance, u(y)² + slope²·u(x)² (J. Orear, American Journal of Physics 50, 1982;
from memory), which is that of the orthogonal distance where both are small. Where no uncertainty is known all points
count alike: ordinary least squares.
"""

from dataclasses import dataclass

import numpy as np

from recensor.core.uncertainty import Array

_MOST_ROUNDS = 50


@dataclass(frozen=True)
class Fit:
    """A straight line y = intercept + slope · x, in the units of its points.

    `slope_error` and `intercept_error` are standard errors by the points' own scatter about the line, None where too
    few points leave nothing to scatter; the intercept is 0 and without an error where the line was held to the origin.
    `intercept_own` is the intercept's standard uncertainty by what is known of each point, None where that is nothing.
    `weights` are what each point counted with, `by_y` what the slope changes with each point's y. `chi_squared` is the
    sum of squared residuals over the effective variances, None where no uncertainty is known.
    """

    slope: float
    intercept: float
    slope_error: float | None
    intercept_error: float | None
    intercept_own: float | None
    r_squared: float | None
    residuals: Array
    weights: Array
    by_y: Array
    chi_squared: float | None

    @property
    def sum_of_squares(self) -> float:
        """The weighted sum of squared residuals."""
        return float((self.weights * self.residuals**2).sum())


def fit_line(x: Array, y: Array, u_x: Array | None = None, u_y: Array | None = None, *, origin: bool) -> Fit | None:
    """The line through points, or with `origin` through the origin too; None where the points give no slope.

    `u_x` and `u_y` are standard uncertainties of the coordinates, each point's own; None where not known.

    Examples
    --------
    >>> found = fit_line(np.array([1.0, 2.0, 3.0]), np.array([2.0, 4.1, 5.9]), origin=False)
    >>> round(found.slope, 3), round(found.intercept, 3), round(found.slope_error, 4)
    (1.95, 0.1, 0.0866)
    """
    free = 1 if origin else 2
    if len(x) < free:
        return None
    known = u_x is not None and u_y is not None and bool((u_x**2 + u_y**2 > 0).all())
    weights = np.ones(len(x))
    slope = intercept = 0.0
    for _ in range(_MOST_ROUNDS if known else 1):
        found = _solved(x, y, weights, origin)
        if found is None:
            return None
        before, (slope, intercept) = slope, found
        if not known or u_x is None or u_y is None:
            break
        variances = u_y**2 + slope**2 * u_x**2
        if not (variances > 0).all():
            break
        weights = 1.0 / variances
        if abs(slope - before) <= 1e-14 * abs(slope):
            break
    residuals = y - intercept - slope * x
    total = float(weights.sum())
    centre = 0.0 if origin else float((weights * x).sum()) / total
    spread = float((weights * (x - centre) ** 2).sum())
    by_y = weights * (x - centre) / spread
    left, room = float((weights * residuals**2).sum()), len(x) - free
    scatter = left / room if room > 0 else None
    middle = 0.0 if origin else float((weights * y).sum()) / total
    whole = float((weights * (y - middle) ** 2).sum())
    return Fit(
        slope,
        intercept,
        None if scatter is None else (scatter / spread) ** 0.5,
        None if scatter is None or origin else (scatter * (1.0 / total + centre**2 / spread)) ** 0.5,
        (1.0 / total + centre**2 / spread) ** 0.5 if known and not origin else None,
        1.0 - left / whole if whole > 0 else None,
        residuals,
        weights,
        by_y,
        left if known else None,
    )


def _solved(x: Array, y: Array, weights: Array, origin: bool) -> tuple[float, float] | None:
    """Slope and intercept by weighted least squares, about the points' centre."""
    total = float(weights.sum())
    x_mean, y_mean = (0.0, 0.0) if origin else (float((weights * x).sum()) / total, float((weights * y).sum()) / total)
    spread = float((weights * (x - x_mean) ** 2).sum())
    if spread <= 1e-24 * max(1e-300, float((weights * x**2).sum())):
        return None
    slope = float((weights * (x - x_mean) * (y - y_mean)).sum()) / spread
    return slope, y_mean - slope * x_mean


def fit_curve(x: Array, y: Array, weights: Array) -> Array:
    """The residuals of y about a parabola over x, weighed; the simplest curve that a line can be held against."""
    scale = float(np.abs(x).max()) or 1.0
    powers = np.vander(x / scale, 3) * np.sqrt(weights)[:, None]
    found, *_ = np.linalg.lstsq(powers, y * np.sqrt(weights), rcond=None)
    return np.asarray(y - np.vander(x / scale, 3) @ found, np.float64)
