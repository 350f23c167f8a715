"""The reading that settles it: mutual information against sampling, and a choice that a person would make."""

from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from recensor.core.circuit import PartAlone
from recensor.core.faults.settle import information
from tests.core.faults.benches import drawn, explained, read

SHARES = st.lists(st.floats(0.05, 1.0), min_size=2, max_size=4)


class Information(TestCase):
    @given(SHARES, st.data())
    @settings(max_examples=15, deadline=None)
    def test_it_is_what_sampling_finds(self, weights: list[float], data: st.DataObject) -> None:
        count = len(weights)
        shares = np.array(weights) / sum(weights)
        means = np.array(data.draw(st.lists(st.floats(-3.0, 3.0), min_size=count, max_size=count)))
        spreads = np.array(data.draw(st.lists(st.floats(0.3, 2.0), min_size=count, max_size=count)))
        draw = np.random.default_rng(1)
        which = draw.choice(count, 60_000, p=shares)
        shown = draw.normal(means[which], spreads[which])
        logs = -0.5 * ((shown[:, None] - means) / spreads) ** 2 - np.log(spreads)
        own = logs[np.arange(len(which)), which]
        sampled = float((own - np.logaddexp.reduce(logs + np.log(shares), axis=1)).mean())
        told = information(shares, means, spreads**2, np.zeros(count, bool))
        self.assertAlmostEqual(told, sampled, delta=0.02)

    def test_over_range_against_a_number_is_certainty(self) -> None:
        shares, over = np.array([0.25, 0.75]), np.array([True, False])
        told = information(shares, np.array([1e9, 3.0]), np.array([1.0, 1.0]), over)
        self.assertAlmostEqual(told, float(-(shares * np.log(shares)).sum()), places=6)


class TheNextReading(TestCase):
    def test_what_cannot_be_told_apart_is_told_by_the_part_itself(self) -> None:
        """With no part read, an open part and an open joint are one entry; two near parts are told by a reading."""
        sheet = drawn("9V: 1k + 1k + 1k; 5%")
        run = read(sheet, {"R2": 1e9})
        kept = tuple(r for r in run.readings if not isinstance(r.target, PartAlone))[:2]
        found = explained(type(run)(sheet, kept, meters=run.meters))
        self.assertTrue(found.causes)
        if found.next is None:
            self.fail("three parts in a chain can be told apart")
        self.assertGreater(len(found.next.predictions), len(found.causes) + 1)  # what comes to the same is told apart
        self.assertGreater(found.next.gain, 0.05)
