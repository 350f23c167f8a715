"""Lamps, diodes and lines as ratios in one run: ``.venv/bin/python -m benchmarks.nonlinear``."""

import numpy as np
from django.template.loader import render_to_string

from benchmarks.core import best, ladder
from recensor.core.circuit import LED
from recensor.core.judgement import assess
from recensor.core.solving import Element, Network, Rated, solve
from recensor.core.sweeps import assess_lines
from recensor.drawing.plot import Plotted, plot
from tests.core.sweeps.test_sweeps import read


def with_diodes(elements: list[Element], *places: int) -> list[Element]:
    """The same circuit with light diodes in some of its places."""
    return [e._replace(kind=LED, value=1.9, rated=Rated(0.01)) if k in places else e for k, e in enumerate(elements)]


def rows(count: int) -> list[tuple[str, str]]:
    """So many rows of one resistor."""
    return [(f"{v:.3f}", f"{v / 1.018:.3f}m") for v in np.linspace(1, 9, count)]


def main() -> None:
    """Print the ratios."""
    straight = ladder(8)
    nonlinear = with_diodes(straight, 4, 6)
    plain, two = best(lambda: solve(straight, "g"), 300), best(lambda: solve(nonlinear, "g"), 300)
    print(
        f"operating point of 8 parts: {plain * 1e6:.0f} µs; with two diodes {two * 1e6:.0f} µs: {two / plain:.1f} times"
    )

    twelve = ladder(12)
    one = with_diodes(twelve, 6)
    factors = np.random.default_rng(1).uniform(0.95, 1.05, (10_000, 12))
    networks = [(Network(e, "g"), np.array([p.value for p in e]) * factors) for e in (twelve, one)]
    plain, whole = (best(lambda n=n, v=v: n.solve(v), 1) for n, v in networks)
    print(f"10 000 value sets: {plain * 1e3:.0f} ms; with one diode {whole * 1e3:.0f} ms: {whole / plain:.1f} times")

    few, many = read(rows(5)), read(rows(50))
    five, fifty = (best(lambda run=run: assess_lines(assess(run)), 10) for run in (few, many))
    print(f"a line judged: 5 rows {five * 1e3:.1f} ms, 50 rows {fifty * 1e3:.1f} ms: {fifty / five:.1f} times")

    points = [Plotted(k * 1e-3, k * 1.018, 1e-5, 1e-2, k, f"row {k}", 1e-3) for k in range(50)]
    drawn = best(lambda: plot(points, ("A", "V"), ("I", "V"), line=lambda x: 1018 * x), 20)
    found = plot(points, ("A", "V"), ("I", "V"), line=lambda x: 1018 * x)
    written = best(lambda: render_to_string("drawing/plot.svg", {"plot": found}), 20)
    print(f"a plot of 50 points: {drawn * 1e3:.1f} ms placed, {written * 1e3:.1f} ms written")


if __name__ == "__main__":
    import django
    from django.conf import settings

    settings.configure(
        TEMPLATES=[{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}],
        INSTALLED_APPS=["recensor.drawing"],
    )
    django.setup()
    main()
