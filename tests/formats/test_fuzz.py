"""Documents damaged at random: each is an error that names a place, or is judged, and never anything else."""

import copy
import json
from pathlib import Path
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from recensor.core.judgement import assess
from recensor.formats import assessment, run_document
from recensor.formats.place import DocumentError

TREES = [json.loads(file.read_text()) for file in sorted((Path(__file__).parent / "documents").glob("*.run.json"))]
ODD = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(-3, 10**20),
    st.sampled_from(
        [
            "",
            "0",
            "-1k",
            "OL",
            "1e12",
            "1e-12",
            "gnd",
            "top",
            "R1",
            "V1",
            "resistor",
            "voltage",
            "5%",
            "\ud800",
            "x" * 99,
        ]
    ),
    st.text(max_size=8),
    st.lists(st.sampled_from(["top", "gnd", "mid"]), max_size=3),
    st.dictionaries(st.sampled_from(["R1", "V1", "kind", "main"]), st.sampled_from(["1k", "resistor"]), max_size=2),
)


def places(tree: object, path: tuple = ()) -> list[tuple]:
    """The path of every value in the tree."""
    members = tree.items() if isinstance(tree, dict) else enumerate(tree) if isinstance(tree, list) else ()
    return [path, *(place for key, value in members for place in places(value, (*path, key)))]


class Damaged(TestCase):
    @settings(max_examples=400)
    @given(st.sampled_from(TREES), st.data())
    def test_one_or_two_values_replaced_or_taken_out(self, whole: dict, data: st.DataObject) -> None:
        tree = copy.deepcopy(whole)
        for _ in range(data.draw(st.integers(1, 2))):
            *path, last = data.draw(st.sampled_from(places(tree)[1:] or [("format",)]))
            spot = tree
            for key in path:
                spot = spot[key]
            if data.draw(st.booleans()):
                spot[last] = data.draw(ODD)
            else:
                del spot[last]
        try:
            run = run_document.from_tree(tree)
        except DocumentError as error:
            self.assertRegex(str(error), r"(?s)^.+: .+")
            return
        json.dumps(assessment.to_tree(assess(run)), allow_nan=False)
        self.assertEqual(run_document.from_tree(run_document.to_tree(run)), run)
