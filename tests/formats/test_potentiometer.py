"""A potentiometer in a run document: one part there, two rheostats in the sheet, and the same when written again."""

import copy
from typing import Any
from unittest import TestCase

from recensor.core.faults import explain
from recensor.core.judgement import assess
from recensor.formats.documents import assessment, run_document
from recensor.formats.documents.reader import DocumentError

# A divider of 10 kΩ at 10 V; by hand: set to 2.5k its slider gives 2.5 V without a load, and with 2.5k beside it
# 1.25k / (7.5k + 1.25k) · 10 V = 1.4286 V.
TREE: dict[str, Any] = {
    "format": "recensor.run",
    "version": 1,
    "title": "Sensor offset",
    "parts": {
        "P1": {"kind": "potentiometer", "nominal": "10k", "tolerance": "10%"},
        "R1": {"kind": "resistor", "nominal": "2k5", "tolerance": "1%"},
        "V1": {"kind": "voltage source", "nominal": "10"},
    },
    "setups": {
        "free": {
            "reference": "gnd",
            "connections": {"V1": ["top", "gnd"], "P1": ["top", "slider", "gnd"]},
            "values": {"P1": "2k5"},
        },
        "loaded": {
            "reference": "gnd",
            "connections": {"V1": ["top", "gnd"], "P1": ["top", "slider", "gnd"], "R1": ["slider", "gnd"]},
            "values": {"P1": "2k5"},
        },
    },
    "readings": [
        {"of": "P1", "setup": "free", "value": "2.500k"},
        {"across": ["slider", "gnd"], "quantity": "voltage", "setup": "free", "value": "2.501"},
        {"across": ["slider", "gnd"], "quantity": "voltage", "setup": "loaded", "value": "1.428"},
    ],
    "compare": [{"setups": ["free", "loaded"], "rule": "loaded"}],
}


def changed(path: str, value: object) -> dict[str, Any]:
    """The document with another member at a path."""
    tree = copy.deepcopy(TREE)
    *keys, last = path.split("/")
    spot: Any = tree
    for key in keys:
        spot = spot[key]
    spot[last] = value
    return tree


class Potentiometer(TestCase):
    def test_its_slider_gives_what_is_calculated_by_hand_and_it_is_one_part_again(self) -> None:
        run = run_document.from_tree(TREE)
        assessed = assess(run)
        told = assessment.to_tree(assessed, explain(assessed))
        free, loaded = told["readings"][1], told["readings"][2]
        self.assertAlmostEqual(free["calculated"]["nominal"], 2.5)
        self.assertAlmostEqual(loaded["calculated"]["nominal"], 10 / 7)
        self.assertEqual([one["verdict"] for one in told["readings"][1:]], ["agrees", "agrees"])
        self.assertEqual(set(told["parts"]), {"P1", "R1", "V1"})
        again = run_document.to_tree(run)
        self.assertEqual(again["parts"]["P1"], TREE["parts"]["P1"])
        self.assertEqual(again["setups"]["loaded"]["connections"]["P1"], ["top", "slider", "gnd"])
        self.assertEqual(again["setups"]["free"]["values"], {"P1": "2k5"})
        self.assertEqual(run_document.from_tree(again), run)

    def test_what_is_wrong_with_it_is_said_at_its_place(self) -> None:
        for path, value, place, words in [
            ("setups/free/values/P1", "12k", "setups.free.values.P1", "between nothing and the whole 10k"),
            ("setups/free/values/P1", "0", "setups.free.values.P1", "between nothing and the whole"),
            ("setups/free/connections/P1", ["top", "gnd"], "setups.free.connections.P1", "three nodes"),
            ("parts/P1a", {"kind": "resistor", "nominal": "1k"}, "parts.P1", "there is a part P1a"),
            ("parts/P1/rating", "0.25", "parts.P1.rating", "unknown key"),
        ]:
            with self.subTest(place), self.assertRaises(DocumentError) as caught:
                run_document.from_tree(changed(path, value))
            self.assertTrue(str(caught.exception).startswith(place), caught.exception)
            self.assertIn(words, str(caught.exception))
