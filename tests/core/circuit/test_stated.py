"""What is stated of a part stands once, on its kind, and is the same wherever it is read, written or asked for."""

import random
import unittest
from dataclasses import replace

from recensor.core.circuit import KINDS, PERCENT, Kind, Part, Setup, Sheet, check_part, node_list
from recensor.core.quantity import QuantityError, parse_percent, positive
from recensor.core.record import Run
from recensor.formats.documents import run_document
from recensor.web.part_fields import part_fields

# Texts that fit together: a filament is warmer than cold.
TYPED = {"nominal": "6", "tolerance": "5 %", "rating": "0.25", "internal": "2", "compliance": "12", "limit": "0.5",
         "current": "50m", "cold": "12", "b": "3950 K"}  # fmt: skip


def stated_part(kind: Kind, names: set[str]) -> Part:
    """A part of a kind that says its value and, of the rest, what is named."""
    part = Part(f"{kind.letter}1", kind, None if kind.is_wire else positive(TYPED["nominal"], kind.unit))
    others = {stated.name: TYPED[stated.name] for stated in kind.states[1:] if stated.name in names}
    return part.saying(others)


class Stated(unittest.TestCase):
    def cases(self):
        chance = random.Random(4)
        for kind in KINDS.values():
            names = {stated.name for stated in kind.states[1:]}
            yield kind, names
            for _ in range(5):
                yield kind, {name for name in names if chance.random() < 0.5}

    def test_it_goes_through_documents_and_node_lists_unchanged(self) -> None:
        for kind, names in self.cases():
            part = stated_part(kind, names)
            check_part(part)
            setup = Setup("main", "gnd", {part.name: ("A", "gnd"), "V9": ("A", "gnd")})
            source = Part("V9", KINDS["voltage source"], positive("9", "V"))
            sheet = Sheet("One", {part.name: part, "V9": source}, {"main": setup})
            with self.subTest(kind.word, names=sorted(names)):
                self.assertEqual(run_document.read(run_document.write(Run(sheet))).sheet.parts[part.name], part)
                again = node_list.read(node_list.write(sheet, setup)).parts[part.name]
                for stated in kind.states:
                    self.assertEqual(again.stated(stated.name) and float(again.stated(stated.name)),
                                     part.stated(stated.name) and float(part.stated(stated.name)))  # fmt: skip

    def test_a_form_shows_each_and_takes_it_back(self) -> None:
        for kind, names in self.cases():
            part = stated_part(kind, names)
            shown = {field.name: field.text for field in part_fields(part)}
            with self.subTest(kind.word, names=sorted(names)):
                self.assertEqual(len(shown), 1 if kind.is_wire else 1 + len(kind.states))
                bare = replace(part, **{stated.name: None for stated in kind.states[1:]})
                self.assertEqual(bare.saying({name: shown[name] for name in names}), part)
                self.assertEqual(part.saying(dict.fromkeys(names, "")), bare)

    def test_what_is_no_quantity_is_refused_and_another_kinds_is_not_taken(self) -> None:
        for kind in KINDS.values():
            for stated in kind.states[1:]:
                with self.assertRaises(QuantityError, msg=(kind.word, stated.name)):
                    stated_part(kind, set()).saying({stated.name: "-1"})
        resistor = stated_part(KINDS["resistor"], set())
        self.assertEqual(resistor.saying({"cold": "12", "limit": "1"}), resistor)
        self.assertEqual(resistor.saying({"tolerance": "5"}).tolerance.text, parse_percent("5 %").text)

    def test_no_two_are_called_the_same(self) -> None:
        for kind in KINDS.values():
            for attribute in ("name", "key", "words"):
                of_kind = [getattr(stated, attribute) for stated in kind.states]
                self.assertEqual(len(of_kind), len(set(of_kind)), (kind.word, attribute))
            self.assertNotEqual(kind.unit, PERCENT)
