"""The fault trial in small: every kind on benches that no model made; ``python -m benchmarks.faults`` is the whole."""

from collections import Counter
from unittest import TestCase

import numpy as np

from recensor.core.faults import FaultKind, explain
from recensor.core.judgement import assess
from tests.injected_faults import INJECTED, Case, NoRoomForFaultError, draw_case
from tests.samples import samples

# Kinds that others of them hide: by what was read they cannot be told at many benches.
OFTEN_HIDDEN = {FaultKind.WRONG_RANGE, FaultKind.OVER_RANGE_AS_NUMBER}


def case(kind: FaultKind | None, number: int) -> Case:
    """A case by its number, half with all parts read, one of five with two setups."""
    draw = np.random.default_rng([20, number, list(INJECTED).index(kind) if kind else 99])
    return draw_case(kind, draw, parts_read=bool(number % 2), several=number % 5 == 4)


class Trial(TestCase):
    def test_of_every_kind_the_cause_is_found(self) -> None:
        """Some of each: where something is said it is right nine times of ten, and nearly always among the first."""
        right, among, said = Counter[str](), Counter[str](), Counter[str]()
        for kind in INJECTED:
            if kind in OFTEN_HIDDEN:
                continue
            for number in range(samples(1, 5)):
                try:
                    made = case(kind, number)
                except NoRoomForFaultError:
                    continue  # such a bench has no room for it
                causes = explain(assess(made.run)).told
                if not causes:
                    continue
                said[kind] += 1
                hits = [
                    k
                    for k, cause in enumerate(causes)
                    if any(
                        told is kind and target in made.targets
                        for told, target in (*((cause.kind, t) for t in cause.targets), *cause.same)
                    )
                ]
                right[kind] += hits[:1] == [0]
                among[kind] += bool(hits)
        whole = said.total()
        self.assertGreater(whole, samples(20, 100))
        self.assertGreaterEqual(right.total(), 0.88 * whole, {k: (right[k], said[k]) for k in said})
        self.assertGreaterEqual(among.total(), 0.95 * whole, {k: (among[k], said[k]) for k in said})

    def test_clean_benches_are_left_alone(self) -> None:
        """A meter's real disturbance may be named, or an odd reading; nothing else is."""
        disturbances = {FaultKind.AMMETER_RESISTANCE, FaultKind.VOLTMETER_LOADING, FaultKind.UNEXPLAINED}
        named = [
            (number, cause.name)
            for number in range(samples(20, 80))
            for cause in explain(assess(case(None, number).run)).told
            if cause.kind not in disturbances
        ]
        self.assertLessEqual(len(named), 1, named)
