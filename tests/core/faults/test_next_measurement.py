"""The reading that settles it: mutual information against sampling, and a choice that a person would make."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from recensor.core.circuit import PartAlone
from recensor.core.faults.context import fault_context
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.evidence import refined
from recensor.core.faults.model.observations import observe
from recensor.core.faults.model.prediction import FaultModel
from recensor.core.faults.next_measurement import are_told_apart, information
from recensor.core.faults.ranking import rank
from recensor.core.judgement import assess
from recensor.core.quantity import CURRENT
from tests.core.faults.benches import drawn, explained, read, rewritten, voltages

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
    def test_what_was_wrong_while_reading_is_wrong_when_it_is_read_again(self) -> None:
        """A gain, a blown fuse and a supply that was turned down are still there at the next reading."""
        honest = read(drawn())
        currents = [k for k, one in enumerate(honest.readings) if one.target.measurand is CURRENT]
        turned_down = voltages(honest)[3:]
        for kind, concerned, factor in (
            (FaultKind.METER_GAIN, currents, 0.9),
            (FaultKind.METER_FUSE_OPEN, currents, 0.0),
            (FaultKind.SOURCE_DRIFT, [*turned_down, *currents], 0.8),
        ):
            run = honest
            for k in concerned:
                run = rewritten(run, k, f"{factor * float(honest.readings[k].value):.5f}")
            context = fault_context(assess(run))
            assert context is not None
            leader = next(e.leader for e in rank(context).entries if e.leader.candidates[0].kind is kind)
            again = run.readings[concerned[-1]]
            model = FaultModel(
                observe(run, context.observed.measurements, points=context.observed.points, asked=[again])
            )
            batch = model.batch(1)
            for change in leader.candidates[0].changes:
                change.write(batch, 0, 0)
            shown = refined(model, batch).predicted.shown[0]
            before = list(model.observed.indexes).index(concerned[-1])
            self.assertAlmostEqual(shown[-1], shown[before], msg=kind)
            self.assertAlmostEqual(
                shown[-1], float(again.value), delta=0.02 * abs(float(honest.readings[concerned[-1]].value))
            )

    def test_a_rival_is_named_only_where_the_reading_tells_it_from_the_first(self) -> None:
        run = read(drawn("9V: 1k + 1k + 1k; 5%"), {"R2": 1e9})
        kept = tuple(one for one in run.readings if not isinstance(one.target, PartAlone))[:2]
        found = explained(replace(run, readings=kept))
        assert found.next is not None
        assert found.rival is not None
        self.assertTrue(are_told_apart(found.causes[0].predicts, found.rival.predicts))
        self.assertFalse(are_told_apart((1.0, 0.1), (1.2, 0.1)))
        self.assertTrue(are_told_apart(None, (1.2, 0.1)))

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
