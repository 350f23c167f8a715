"""Causes on benches as people leave them, in small: ``python -m benchmarks.rough_benches`` is the whole."""

import json
from collections import Counter
from unittest import TestCase

import numpy as np

from recensor.core.faults import Explanation, explain
from recensor.core.judgement import assess
from recensor.formats.documents import run_document
from tests.rough_benches import KINDS, NONLINEAR, NoRoomError, drawn_case, is_named
from tests.samples import samples

# Named on a clean bench these are no accusation: the meter does disturb it.
DISTURBANCES = {"ammeter resistance", "voltmeter loading", "unexplained"}


def explained(tree: dict[str, object]) -> Explanation:
    """What would explain a document."""
    return explain(assess(run_document.read(json.dumps(tree).encode())))


class RoughBenches(TestCase):
    def test_the_cause_is_named_first_tidy_rough_or_nonlinear(self) -> None:
        """Of what is outside nine in ten; with other names for the nodes, and leads the other way round, the same."""
        trials = [(kind, False) for kind in KINDS] + [(kind, True) for kind in NONLINEAR]
        right, missed = 0, Counter[str]()
        for number in range(samples(1, 12)):
            for k, (kind, nonlinear) in enumerate(trials):
                rough = not nonlinear and bool((number + k) % 2)
                draw = np.random.default_rng([5, number, sum(map(ord, kind)), rough, nonlinear])
                try:
                    case = drawn_case(draw, (kind,), rough=rough, nonlinear=nonlinear)
                except NoRoomError:
                    continue
                found = explained(case.document)
                if not found.is_outside:
                    continue
                if found.told and is_named(found.told[0], *case.faults[0]):
                    right += 1
                else:
                    missed[f"{kind}{' rough' * rough}{' nonlinear' * nonlinear}"] += 1
                names = [(cause.kind, cause.targets) for cause in found.told[:1]]
                again = explained(case.renamed).told[:1]
                self.assertEqual([(cause.kind, cause.targets) for cause in again], names, kind)
        self.assertGreaterEqual(right, samples(18, 150))
        self.assertLessEqual(missed.total(), 0.1 * (right + missed.total()), missed)

    def test_clean_benches_are_accused_of_nothing(self) -> None:
        for rough in (False, True):
            accused = Counter[str]()
            for number in range(samples(8, 100)):
                case = drawn_case(np.random.default_rng([6, number, rough]), (), rough=rough, nonlinear=number % 4 == 3)
                accused.update(str(c.kind) for c in explained(case.document).told[:1] if c.kind not in DISTURBANCES)
            self.assertLessEqual(accused.total(), samples(0, 3), accused)

    def test_two_at_once_are_both_among_the_first_three(self) -> None:
        both = told = 0
        for number in range(samples(4, 40)):
            draw = np.random.default_rng([7, number])
            kinds = (
                str(draw.choice(["value off", "part open", "source value"])),
                str(draw.choice(["sign", "prefix slip"])),
            )
            case = drawn_case(draw, kinds)
            causes = explained(case.document).told[:3]
            told += 1
            both += all(any(is_named(cause, *fault) for cause in causes) for fault in case.faults)
        self.assertGreaterEqual(both, 0.7 * told)
