"""Documents damaged at random: each is an error that names a place, or is judged, and never anything else."""

import copy
import json
from pathlib import Path
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from recensor.core.faults import explain
from recensor.core.judgement import assess
from recensor.formats.documents import assessment, run_document
from recensor.formats.documents.reader import DocumentError
from tests.samples import samples

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


ANY_JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False) | st.text(max_size=12) | ODD,
    lambda inner: (
        st.lists(inner, max_size=4)
        | st.dictionaries(st.sampled_from([*TREES[0], "of", "value"]) | st.text(max_size=6), inner, max_size=4)
    ),
    max_leaves=20,
)


class Anything(TestCase):
    @settings(max_examples=samples(50, 300))
    @given(ANY_JSON)
    def test_any_json_is_a_document_or_an_error_of_ours(self, tree: object) -> None:
        with self.assertRaises(DocumentError):
            run_document.read(json.dumps(tree))

    @given(st.binary(max_size=60))
    def test_any_bytes_are_an_error_of_ours(self, content: bytes) -> None:
        with self.assertRaises(DocumentError):
            run_document.read(content)

    def test_numbers_of_thousands_of_digits_nesting_and_size(self) -> None:
        whole = json.dumps(TREES[0])
        for text, said in [
            (whole.replace('"version": 1', f'"version": {"1" * 5000}'), "thousands of digits"),
            ("[" * 100_000 + "]" * 100_000, "nested too deeply"),
            (" " * 64_000_001, "longer than 64 million"),
            (json.dumps({**TREES[0], "readings": [{}] * 250_001}), "readings: has 250001 members"),
            (json.dumps({**TREES[0], "parts": {f"R{k}": {} for k in range(1501)}}), "parts: has 1501 members"),
        ]:
            with self.assertRaisesRegex(DocumentError, said):
                run_document.read(text)
        wires = {f"R{k}": ["a", "gnd"] for k in range(1500)}
        parts = {name: {"kind": "resistor", "nominal": "1k"} for name in wires}
        setups = {f"s{k}": {"reference": "gnd", "connections": wires} for k in range(11)}
        with self.assertRaisesRegex(DocumentError, "setups: connect 16500 parts"):
            run_document.from_tree({**TREES[0], "parts": parts, "setups": setups, "readings": []})


class Damaged(TestCase):
    @settings(max_examples=samples(50, 400))
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
        assessed = assess(run)
        explained = explain(assessed)
        written = "\n".join(assessment.lines(assessed, explained))
        written.encode()  # what is printed can be printed
        tree = assessment.to_tree(assessed, explained)
        self.assertEqual(json.loads(written), json.loads(json.dumps(tree, allow_nan=False)))
        self.assertEqual(run_document.from_tree(run_document.to_tree(run)), run)
