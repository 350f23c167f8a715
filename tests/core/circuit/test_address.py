"""The address of a measurement: one word that names it and no other."""

import re
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from recensor.core.circuit import LONGEST_SLUG, Across, PartAlone, Target, Through, TouchedLeads, read_slug, slug
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE
from tests.samples import samples

# Whatever a part, a node or a setup may be called; and what stands between names in a slug, oftener than by chance.
NAMES = st.text(min_size=1, max_size=60) | st.text(alphabet="A.@~!-/ 2é", min_size=1, max_size=8)
MAYBE = st.none() | NAMES
STEPS = st.none() | st.integers(0, 999)
TARGETS: st.SearchStrategy[Target] = st.one_of(
    st.just(TouchedLeads()),
    st.builds(PartAlone, NAMES, st.sampled_from([VOLTAGE, RESISTANCE, CURRENT]), MAYBE),
    st.builds(Across, st.sampled_from([VOLTAGE, RESISTANCE]), st.tuples(NAMES, NAMES), NAMES, MAYBE, STEPS),
    st.builds(Through, NAMES, NAMES, MAYBE, STEPS),
)


class Address(TestCase):
    @settings(max_examples=samples(15, 100))
    @given(TARGETS)
    def test_it_comes_back_as_what_it_named_whatever_the_names_are(self, target: Target) -> None:
        address = slug(target)
        self.assertEqual(read_slug(address), target)
        self.assertLessEqual(len(address), LONGEST_SLUG)
        self.assertRegex(address, re.compile(r"[A-Za-z0-9_.@~!-]+", re.ASCII))  # nothing that an address must escape

    @given(TARGETS, TARGETS)
    def test_two_never_share_one(self, one: Target, other: Target) -> None:
        self.assertEqual(slug(one) == slug(other), one == other)

    @given(st.text(max_size=40) | st.text(alphabet="viroflead.@~!-2AR", max_size=30))
    def test_whatever_else_stands_there_is_none_or_the_only_way_to_write_it(self, text: str) -> None:
        target = read_slug(text)
        if target is not None:
            self.assertEqual(slug(target), text)

    def test_what_is_read_can_be_seen_in_it(self) -> None:
        for target, address in (
            (PartAlone("R1", RESISTANCE), "of.r.R1"),
            (PartAlone("V1", VOLTAGE, "loaded"), "of.v.V1@loaded"),
            (TouchedLeads(), "leads"),
            (Across(VOLTAGE, ("A", "gnd"), "main"), "v.A.gnd@main"),
            (Across(RESISTANCE, ("A", "C"), "looking back", "R2"), "r.A.C@looking-20-back~R2"),
            (Through("R2", "main", "R1", 4), "i.R2@main~R1!4"),
        ):
            self.assertEqual(slug(target), address)
