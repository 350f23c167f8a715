"""The current that enters what lies between two nodes."""

import random
from unittest import TestCase

from recensor.core.circuit import asking_everything, entering, one_line
from recensor.core.solving import operate

SHAPES = ("{} + ({} | {}) + {} + {}", "({} + {}) | ({} + {} | {})", "{} + ({} | {} + ({} | {}))")


class WhatEnters(TestCase):
    def test_it_is_the_sum_of_what_the_parts_inside_carry(self) -> None:
        draw = random.Random(7)
        found_some = 0
        for _ in range(100):
            ohms = [f"{draw.randint(10, 9999)}" for _ in range(5)]
            shape = draw.choice(
                ["{} + ({} | {}) + {} + {}", "({} + {}) | ({} + {} | {})", "{} + ({} | {} + ({} | {}))"]
            )
            sheet = asking_everything(one_line.read(f"9V: {shape.format(*ohms)}"))
            setup = sheet.setup()
            first, second = draw.sample(setup.nodes, 2)
            found = entering(setup, sheet.parts, (first, second))
            if found is None:
                continue
            found_some += 1
            carried = operate(sheet, setup).parts
            amperes = -carried[found.part].amperes if found.is_reversed else carried[found.part].amperes
            # Outside and inside are two ways round: what enters at the first node is what leaves at the second.
            back = entering(setup, sheet.parts, (second, first))
            if back is not None:
                other = -carried[back.part].amperes if back.is_reversed else carried[back.part].amperes
                self.assertAlmostEqual(amperes, -other)
            volts = operate(sheet, setup).solution.voltage(first, second)
            if not setup.across(first, second):
                continue
            inside = [n for n in setup.across(first, second) if not sheet.parts[n].kind.is_source]
            if len(inside) == 1 and found.part in inside:
                self.assertAlmostEqual(amperes, float(volts / float(sheet.parts[inside[0]].nominal)))
        self.assertGreater(found_some, 50)

    def test_no_one_part_carries_it_where_several_do_on_both_sides(self) -> None:
        sheet = one_line.read("9V: (1k | 1k) + (1k | 1k)")
        self.assertIsNone(entering(sheet.setup(), sheet.parts, ("B", "gnd")))
