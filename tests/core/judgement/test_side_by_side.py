"""The same at several points, and a circuit at several settings: what is one value, and what grows with its source."""

import random
from dataclasses import replace
from unittest import TestCase

from recensor.core.circuit import (
    Across,
    Sheet,
    Target,
    Through,
    Wish,
    asking_everything,
    node_list,
    one_line,
    voltage_of,
)
from recensor.core.editing import Preset, circuits, edits, presets
from recensor.core.judgement import AtSettings, SameValue, Shared, at_settings, gather, same_values
from recensor.core.meters import EXACT, SHIPPED
from recensor.core.quantity import VOLTAGE, parse
from recensor.core.record import Reading, Run
from recensor.core.solving import operate
from tests.samples import samples


def sheet_of(line: str) -> Sheet:
    return asking_everything(one_line.read(line))


def same(sheet: Sheet, *read: tuple[Target, str, str | None]) -> list[SameValue]:
    readings = [Reading(target, parse(text, target.unit), meter=meter) for target, text, meter in read]
    run = Run(sheet, tuple(readings))
    return list(same_values(run, gather(run)))


def at(sheet: Sheet, *changes: str) -> Sheet:
    """The sheet with further circuits, each at other settings, as in ``V1=3V and V2=2V``."""
    for text in changes:

        def edit(changed: Sheet, name: str, settings: str = text) -> Sheet:
            for setting in settings.split(" and "):
                source, value = setting.split("=")
                changed = edits.set_value(changed, name, source, parse(value, "V"))
            return changed

        sheet, _ = circuits.with_changes(sheet, "main", text, edit, frozenset({Wish.TOTAL}))
    return sheet


class SeveralPoints(TestCase):
    def test_one_current_at_three_points_has_a_mean_and_names_the_odd_one(self) -> None:
        sheet = sheet_of("9V: 1k + 2k2 + 3k3")
        read = [(Through(name, "main"), text, None) for name, text in (("R1", "1.384m"), ("R2", "1.386m"))]
        (row,) = same(sheet, *read, (Through("R3", "main"), "1.385m", None))
        self.assertEqual((row.shared, row.names, row.holds, row.odd), (Shared.CURRENT, ("R1", "R2", "R3"), True, None))
        self.assertAlmostEqual(row.mean, 1.385e-3)
        self.assertAlmostEqual(row.apart.value, 0.002e-3)
        (row,) = same(sheet, *read, (Through("R3", "main"), "0.985m", None))
        self.assertEqual((row.holds, row.odd, row.points[2].name), (False, 2, "R3"))
        self.assertAlmostEqual(row.mean, 1.385e-3)  # of those that go together

    def test_of_two_that_differ_nobody_knows_which_is_odd(self) -> None:
        sheet = sheet_of("9V: 1k + 2k2")
        (row,) = same(sheet, (Through("R1", "main"), "2.81m", None), (Through("R2", "main"), "1.81m", None))
        self.assertEqual((row.holds, row.odd), (False, None))

    def test_one_current_at_four_places_of_one_part(self) -> None:
        sheet = sheet_of("9V: 1k + 2k2 + 3k3")
        places = [Through("R2", "main", beside) for beside in ("R1", "R3")]
        (row,) = same(sheet, *((place, "1.385m", None) for place in places))
        self.assertEqual([point.words for point in row.points], ["R2, beside R1", "R2, beside R3"])

    def test_one_voltage_at_each_of_three_parts_side_by_side(self) -> None:
        sheet = sheet_of("9V: 1k | 2k2 | 3k3")
        across = [voltage_of(sheet.setup(), sheet, name) for name in ("R1", "R2", "R3")]
        turned = replace(across[2], nodes=across[2].nodes[::-1])
        (row,) = same(sheet, (across[0], "9.01", None), (across[1], "9.00", None), (turned, "-9.01", None))
        self.assertEqual((row.shared, row.names, row.holds), (Shared.VOLTAGE, ("R1", "R2", "R3"), True))
        self.assertAlmostEqual(row.mean, 9.0067, places=3)

    def test_one_point_by_two_meters(self) -> None:
        sheet = sheet_of("9V: 1k + 2k2")
        point = Across(VOLTAGE, ("A", "B"), "main")
        for second, holds in (("2.82", True), ("2.31", False)):
            readings = tuple(Reading(point, parse(t, "V"), meter=m) for t, m in (("2.81", "own"), (second, "bench")))
            run = Run(sheet, readings, meters=dict.fromkeys(("own", "bench"), SHIPPED["3½-digit manual"]))
            found = [row for row in same_values(run, gather(run)) if row.shared is Shared.METERS]
            self.assertEqual([(len(row.points), row.holds) for row in found], [(2, holds)])


class SeveralSettings(TestCase):
    def read(self, sheet: Sheet, slip: Target | None = None) -> AtSettings:
        """The circuit as it is exactly, but for one reading that is a tenth too high."""
        readings = []
        for target in sheet.asked:
            if target.is_across and target.measurand is VOLTAGE:
                nodes = operate(sheet, sheet.setups[target.setup]).solution
                value = float(nodes.voltage(target.red, target.black))
                written = f"{value * (1.1 if target == slip else 1.0):.4f}"
                readings.append(Reading(target, parse(written, "V")))
        run = Run(sheet, tuple(replace(one, meter="m") for one in readings), meters={"m": EXACT})
        (found,) = at_settings(run, gather(run))
        return found

    def test_any_linear_circuit_is_in_proportion_at_any_settings_and_one_slip_is_found(self) -> None:
        draw = random.Random(305)
        for _ in range(samples(20, 300)):
            ohms = [draw.randint(1000, 9999) for _ in range(draw.randint(2, 5))]
            sheet = sheet_of("9V: " + f" {draw.choice('+|')} ".join(map(str, ohms)))
            sheet = at(sheet, f"V1={draw.randint(1, 4)}V", f"V1={draw.randint(5, 8)}V")
            found = self.read(sheet)
            self.assertTrue(found.grows_alike)
            rows = [row for row in found.rows if None not in row.read and "V1" not in row.targets[0].parts_read(sheet)]
            self.assertEqual({row.holds for row in rows}, {True} if rows else set())
            self.assertEqual([setting.gave is not None for setting in found.settings], [True] * 3)
            if rows:
                slip = rows[-1].targets[1]
                held = [(row.holds, row.odd) for row in self.read(sheet, slip).rows if slip in row.targets]
                self.assertEqual(held, [(False, 1)])

    def test_what_is_asked_at_another_setting_is_what_was_asked_before(self) -> None:
        sheet = sheet_of("9V supply: 1k + 2k2")
        setting = dict(presets(sheet, sheet.setup(), 9))[Preset.SETTINGS]
        self.assertEqual(setting, "V1=3V, V1=6V")
        changed = at(sheet, *setting.split(", "))
        here = [t.in_setup("main", changed) for t in changed.asked if t.setup == "V1=3V"]
        self.assertEqual(set(here), {t for t in sheet.asked if t.setup == "main" and t.in_circuit and t.unit != "Ω"})
        self.assertNotIn(Preset.SETTINGS, dict(presets(sheet_of("9V battery: 1k + 2k2"), sheet.setup(), 9)))

    def test_a_lamp_is_in_no_proportion_and_nobody_asks_for_it(self) -> None:
        sheet = at(sheet_of("9V: lamp 6V 50mA + 100"), "V1=3V")
        run = Run(sheet)
        (found,) = at_settings(run, gather(run))
        self.assertEqual((found.grows_alike, {row.holds for row in found.rows}), (False, {None}))

    def test_two_sources_grow_alike_only_where_both_are_turned_alike(self) -> None:
        sheet = asking_everything(node_list.read("V1 A gnd 9V\nR1 A B 1k\nR2 B gnd 2k2\nV2 C gnd 4V\nR3 B C 3k3"))
        for change, alike in (("V1=4.5V", False), ("V1=4.5V and V2=2V", True)):
            run = Run(at(sheet, change), [])
            (found,) = at_settings(run, gather(run))
            self.assertEqual(found.grows_alike, alike)
