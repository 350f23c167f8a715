"""A running run changes: corrections carry over, changes leave what was read where it was read."""

import json
import re
import uuid
from contextlib import suppress
from dataclasses import replace
from itertools import product
from unittest import TestCase

from recensor.core import record
from recensor.core.circuit import Across, PartAlone, Sheet, asking_everything, one_line, slug
from recensor.core.editing import edits
from recensor.core.errors import Refused
from recensor.core.examples.experiments import EXPERIMENTS
from recensor.core.judgement import assess
from recensor.core.quantity import RESISTANCE, VOLTAGE, parse
from recensor.formats.documents import run_document
from recensor.runs import queries, services
from recensor.runs.models import ActRow, OwnValue, ReadingRow, RunRow, RunSheet
from recensor.runs.services.circuit_changes import CHANGES
from tests.pressing import press
from tests.served import HTMX, BenchTestCase, address_of

READ = ["0.998k", "2.01k", "2.97k", "5.98k", "6.02", "1.004", "2.022"]


class StateTestCase(BenchTestCase):
    def setUp(self) -> None:
        super().setUp()
        for point, text in enumerate(READ):
            self.enter(point, text)

    def core(self) -> record.Run:
        return queries.load(queries.any_run().get(pk=self.run_row.pk)).core

    def act(self, name: str, /, **data: object):
        return self.client.post(f"{self.address}change/", {"act": name, "setup": "main", **data}, follow=True)

    def correct(self, part: str, **fields: str):
        stated = {"name": part, "value": "2k", "tolerance": "5%", "rating": ""}
        return self.act("correct", part=part, **{**stated, **fields})


class Corrections(StateTestCase):
    def test_a_wrong_nominal_does_not_mean_starting_over(self) -> None:
        self.correct("R2", value="2k2")
        core = self.core()
        self.assertEqual([r.value.text for r in core.readings], READ)
        self.assertEqual(core.sheet.parts["R2"].nominal.text, "2k2")
        self.assertEqual(assess(core).parts["R2"].verdict.value, "out of tolerance")
        page = self.client.get(f"{self.address}change/")
        self.assertContains(page, "correction: R2 corrected")
        self.act("take_back", number=ActRow.objects.get().pk)
        self.assertEqual(self.core().sheet.parts["R2"].nominal.text, "2k")
        self.assertContains(self.act("take_back", number=ActRow.objects.order_by("id")[0].pk), "taken back already",
                            status_code=422)  # fmt: skip

    def test_another_name_carries_over_to_all_that_was_read(self) -> None:
        self.correct("R2", name="Load")
        self.enter(9, "1.007", "mA")
        core = self.core()
        self.assertEqual([str(getattr(r.target, "part", "")) for r in core.readings][:3], ["R1", "Load", "R3"])
        self.assertIsNotNone(assess(core).parts["Load"].measured)
        self.assertContains(self.client.get(f"{self.address}?pane=readings"), ">Load</a>")
        document = run_document.read(self.client.get(f"{self.address}document/").content)
        self.assertEqual(document.readings[1].target.part, "Load")
        self.act("take_back", number=ActRow.objects.latest("id").pk)
        self.assertIsNotNone(assess(self.core()).parts["R2"].measured)

    def test_a_name_that_was_anothers_is_not_given_again(self) -> None:
        self.correct("R2", name="Load")
        self.assertContains(self.correct("R1", name="R2", value="1k"), "called R2 before", status_code=422)
        self.assertEqual(self.correct("Load", name="R2").status_code, 200)  # its own it may have back
        self.assertIn("R2", self.core().sheet.parts)

    def test_what_a_later_change_stands_on_is_not_taken_back_from_under_it(self) -> None:
        self.act("change", part="R1", what_happens="exchange", what="4k7")
        first = ActRow.objects.latest("id")
        self.act("change", part="R3", what_happens="exchange", what="4k7")
        before = self.core().sheet
        self.assertEqual(self.act("take_back", number=first.pk).status_code, 422)
        self.assertEqual(self.core().sheet, before)

    def test_no_correction_makes_a_circuit_one_for_paper_only(self) -> None:
        answer = self.correct("V1", value="1k")  # volts, since it is a source
        self.assertContains(answer, "for paper only", status_code=422)
        self.assertEqual(self.core().sheet.parts["V1"].nominal.text, "6")

    def test_whatever_is_wrong_is_said_at_its_place_with_what_was_typed(self) -> None:
        for fields, message in [
            ({"value": "2x"}, "no unit"),
            ({"name": "1"}, "no name"),
            ({"name": "R1"}, "named R1"),
            ({"tolerance": "300"}, "between 0 %"),
            ({"value": ""}, "Nothing is written here"),
        ]:
            with self.subTest(fields):
                page = self.correct("R2", **fields)
                self.assertContains(page, message, status_code=422)
                (typed,) = fields.values()
                shown = re.search(
                    rf'<input[^>]*name="{next(iter(fields))}"[^>]*id="correct-R2-[^>]*>', page.content.decode()
                )[0]
                self.assertIn(f'value="{typed}"' if typed else "placeholder", shown)
                self.assertEqual("value=" in shown, bool(typed))
        for name, data, message in [
            ("change", {"part": "R2", "what_happens": "exchange", "what": ""}, "Write by what"),
            ("change", {"part": "R9", "what_happens": "exchange", "what": "1k"}, "Choose the part"),
            ("change", {"part": "V1", "what_happens": "set", "what": "90V"}, "for paper only"),
            ("change", {"part": "R1", "what_happens": "set", "what": "9V"}, "a voltage in V"),
            ("change", {"part": "R1", "what_happens": "melt", "what": "9V"}, "melt"),
            ("add_setup", {"name": ""}, "Give the setup a name"),
            ("rename", {"title": " "}, "1 to 120"),
            ("take_back", {"number": "x"}, "nothing to take back"),
            ("nonsense", {}, "Choose"),
        ]:
            with self.subTest(act=name, data=data):
                self.assertContains(self.act(name, **data), message, status_code=422)
        self.assertEqual(RunSheet.objects.filter(run=self.run_row).count(), 1)


class Changes(StateTestCase):
    def test_what_was_read_stays_with_the_circuit_it_was_read_on(self) -> None:
        for data, state, part in [
            ({"part": "R2", "what_happens": "exchange", "what": "4k7"}, "R2 exchanged", "R2'"),
            ({"part": "R3", "what_happens": "parallel", "what": "10k"}, "R4 beside R3", "R4"),
            ({"part": "V1", "what_happens": "set", "what": "9V"}, "V1 at 9V", "V1"),
            ({"part": "R1", "what_happens": "out", "what": ""}, "R1 out", "R2"),
            ({"part": "R1", "what_happens": "short", "what": ""}, "R1 shorted", "R2"),
        ]:
            with self.subTest(state):
                before = assess(self.core())
                self.act("change", **data)
                core = self.core()
                self.assertIn(part, core.sheet.setups[state].connections)
                self.assertEqual([r.value.text for r in core.readings], READ)
                after = assess(core)
                for target, found in before.targets.items():
                    self.assertEqual(after.targets[target].judged.verdict, found.judged.verdict)
                self.assertTrue(any(t.setup == state for t in core.sheet.asked))
                self.assertFalse(any(t.setup == "main" for t in core.sheet.asked))
                self.assertEqual(
                    run_document.read(run_document.write(core)).sheet.setups.keys(), core.sheet.setups.keys()
                )
                self.act("take_back", number=ActRow.objects.latest("id").pk)
                self.assertEqual(list(self.core().sheet.setups), ["main"])

    def test_a_part_that_is_taken_out_leaves_its_place_open_and_no_wire_in_it(self) -> None:
        for happens, ohms in (("out", None), ("short", 4000.0)):
            page = self.client.get(f"{self.address}change/")
            changed = press(self.client, page, "Change it", part="R2", what_happens=happens)
            self.assertEqual(changed.status_code, 302)
            sheet = self.core().sheet
            total = Across(RESISTANCE, ("A", "gnd"), list(sheet.setups)[-1])
            expected = assess(self.core()).expected(total)
            self.assertEqual(expected and expected.value and round(expected.value), ohms and (998 + 2970))
            self.act("take_back", number=ActRow.objects.latest("id").pk)

    def test_the_name_of_a_part_is_no_value(self) -> None:
        for happens in ("exchange", "parallel", "series", "set"):
            for name in ("R2", "r2", " R2 "):
                with self.subTest(happens=happens, name=name):
                    page = self.act("change", part="R1", what_happens=happens, what=name)
                    self.assertContains(page, "R2 is a part of this circuit, and no value", status_code=422)
        self.act("change", part="R1", what_happens="parallel", what="R5")  # a letter code: half an ohm
        self.assertEqual(float(self.core().sheet.parts["R4"].nominal), 0.5)

    def test_pressed_twice_it_is_done_once_and_a_correction_keeps_what_is_set_in_a_state(self) -> None:
        key = uuid.uuid4()
        for _ in range(2):
            self.act("change", part="V1", what_happens="set", what="9V", key=key)
        self.assertEqual(list(self.core().sheet.setups), ["main", "V1 at 9V"])
        self.correct("V1", value="6", tolerance="", adjustable="on")
        changed = self.core().sheet
        self.assertTrue(changed.parts["V1"].adjustable)
        self.assertEqual(changed.setups["V1 at 9V"].values["V1"].text, "9V")

    def test_a_source_set_anew_in_the_middle_asks_one_question(self) -> None:
        asked = self.enter(4, "9.02", "V")
        self.assertContains(asked, "other points were read at that")
        reading = ReadingRow.objects.latest("id")
        answer = json.dumps(["set anew", "", ""])
        page = self.client.post(f"{self.address}readings/{reading.pk}/answer/", {"answer": answer}, headers=HTMX)
        self.assertEqual(page.status_code, 200)
        core = self.core()
        self.assertEqual(list(core.sheet.setups), ["main", "V1 at 9.02 V"])
        self.assertEqual(core.readings[-1].target.setup or core.readings[-2].target.setup, "V1 at 9.02 V")
        self.assertEqual(assess(core).parts["V1"].measured, 6.02)
        last = queries.load(queries.any_run().get(pk=self.run_row.pk)).last[self.person.username]
        self.client.post(f"{self.address}undo/", {"last": last}, headers=HTMX)
        self.assertFalse(any(t.setup == "V1 at 9.02 V" for t in self.core().sheet.asked))

    def test_the_same_again_put_away_and_found(self) -> None:
        key = uuid.uuid4()
        for _ in range(2):  # pressed twice it is one run
            again = {"with_parts": "on", "key": key}
            copy = self.client.post(f"{self.address}same-again/", again, follow=True).context["run"]
        self.assertEqual(RunRow.objects.count(), 2)
        self.assertEqual([r.text for r in ReadingRow.objects.filter(run=copy)], READ[:3])
        away = press(self.client, self.client.get(f"{self.address}change/"), "Put it away")
        self.assertRedirects(away, "/")
        self.assertNotContains(self.client.get("/"), f'href="{self.address}"')
        self.assertContains(self.client.get("/?show=put+away&q=cha"), f'href="{self.address}"')
        self.assertContains(self.client.get("/?q=nothing+such"), "No run")
        self.assertContains(self.client.get("/"), "Resistance from A to gnd")  # what comes next in the copy
        press(self.client, self.client.get(f"{self.address}change/"), "Take it back onto the list")
        self.assertEqual(RunRow.objects.filter(put_away=None).count(), 2)

    def test_nobody_else_changes_it(self) -> None:
        self.client.force_login(self.other)
        for address in ("change/", "same-again/", "put-away/"):
            self.assertEqual(self.client.post(self.address + address, {"act": "rename", "title": "x"}).status_code, 404)


class OwnCalculations(StateTestCase):
    def keep(self, text: str, formula: str = "", point: int = 9, unit: str = "mA"):
        page = self.client.get(self.at(point)).content.decode()
        address = re.search(r'name="measurement" value="([^"]+)"', page)[1]
        data = {"measurement": address, "text": text, "formula": formula, "unit": unit, "key": uuid.uuid4()}
        return self.client.post(f"{self.address}own/", data, headers=HTMX)

    def test_a_value_worked_out_is_judged_and_never_mixed_with_readings(self) -> None:
        self.assertNotContains(self.client.get(self.at(9)), "Own calculation")
        self.client.post(
            f"{self.address}own/shown/", {"measurement": address_of(self.run_row, 9), "shown": "yes"}, headers=HTMX
        )
        for text, formula, said in [
            ("1.006", "6.02/(998+2010+2970)", "1.01 mA"),
            ("1.00", "6.02/5.978k", "A digit was dropped rather than rounded: 1.01 mA"),
            ("1.007", "6.02/5.978k", "the arithmetic is right"),
            ("1.007", "", "= agrees"),
            ("2.0", "", "≠"),
        ]:
            with self.subTest(text=text, formula=formula):
                page = self.keep(text, formula)
                self.assertEqual(page.status_code, 200)
                if said not in ("= agrees", "1.01 mA"):
                    self.assertContains(page, said)
                self.assertContains(page, f"own: {text} mA")
        self.assertEqual((OwnValue.objects.count(), ReadingRow.objects.count()), (5, len(READ)))
        for text, formula, message in [
            ("", "", "Nothing is written"),
            ("x", "", "not understood"),
            ("1", "6/0", "zero"),
            ("1", "6V*2V", "no unit"),
            ("", "6/2k", "the formula gives about 3"),
        ]:
            self.assertContains(self.keep(text, formula), message, status_code=422)

    def test_in_a_sealed_run_it_comes_before_the_reading_and_says_nothing_yet(self) -> None:
        RunRow.objects.filter(pk=self.run_row.pk).update(sealed=True, own_calculations=True)
        page = self.keep("3.3")
        self.assertContains(page, "own: 3.3 mA")
        self.assertNotContains(page, "outside")
        self.assertContains(self.keep("1.0", point=5, unit="V"), "before it is read", status_code=422)
        self.enter(9, "1.007", "mA")
        self.assertContains(self.client.get(self.at(9)), "≠")


class AnyExperiment(TestCase):
    """Whatever happens to a part of any ready-made experiment, the run can be written down and read again."""

    def readable(self, sheet: Sheet) -> Sheet:
        return run_document.sheet_from_tree(run_document.sheet_to_tree(sheet))

    def test_every_change_of_every_part(self) -> None:
        done = 0
        for name, example in EXPERIMENTS.items():
            sheet = example().sheet
            for part, kind, what in product(sheet.parts, CHANGES, ("1k", "5V", "R9=2k")):
                with self.subTest(name, part=part, kind=kind, what=what), suppress(Refused):
                    setup = next(n for n, one in sheet.setups.items() if part in one.connections)
                    changed, state = CHANGES[kind].of(sheet, setup, part, what)
                    self.assertIn(state, self.readable(changed).setups)
                    done += 1
        self.assertGreater(done, 300)

    def test_every_part_by_another_name(self) -> None:
        for name, example in EXPERIMENTS.items():
            sheet = example().sheet
            for part in sheet.parts:
                with self.subTest(name, part=part):
                    renamed = edits.replaced(sheet, part, replace(sheet.parts[part], name="Q1"))
                    again = self.readable(renamed)
                    rows = [target for target in sheet.asked if target.step is not None]
                    self.assertEqual(len(again.sweeps), len(sheet.sweeps))
                    self.assertEqual(len([target for target in again.asked if target.step is not None]), len(rows))


class TypedAtTheBench(StateTestCase):
    def change(self, text: str, key: object = None, setup: str = "main"):
        data = {"change": text, "setup": setup, "key": key or uuid.uuid4()}
        return self.client.post(f"{self.address}circuit/", data, headers=HTMX)

    def undo(self, page):
        return self.client.post(f"{self.address}undo/", {"last": page.context["bench"].undoes}, headers=HTMX)

    def test_it_is_proposed_first_and_what_cannot_be_is_said_there(self) -> None:
        page = self.client.get(self.address, {"read": "R2=500", "setup": "main"})
        self.assertContains(page, "R2 is exchanged for 500.")
        self.assertContains(page, "Change the circuit</button>")
        for text, said in [
            ("R9=500", "no part R9"),
            ("R2=R1", "R1 is a part of this circuit, and no value"),
            ("V1=90V", "paper only"),
            ("R2=2x", "no unit or prefix"),
            ("R1 | R2", "both in the circuit"),
        ]:
            with self.subTest(text):
                page = self.client.get(self.address, {"read": text, "setup": "main"})
                if page.status_code == 200:  # only the run itself is for no paper
                    page = self.change(text)
                self.assertContains(page, said, status_code=422)
        self.assertEqual(list(self.core().sheet.setups), ["main"])

    def test_the_bench_goes_on_in_the_new_circuit_and_one_key_takes_it_back(self) -> None:
        key = uuid.uuid4()
        for _ in range(2):  # pressed twice it is one change
            page = self.change("R2=500", key)
        bench = page.context["bench"]
        self.assertEqual((bench.card.name, bench.present), ("R2' by itself", "R2 exchanged"))
        self.assertEqual(list(self.core().sheet.setups), ["main", "R2 exchanged"])
        self.assertEqual([r.value.text for r in self.core().readings], READ)
        self.change("R9 1k | R1", setup="R2 exchanged")
        core = self.core()
        self.assertIn("R9 beside R1", core.sheet.setups)
        self.assertEqual(core.sheet.parts["R9"].tolerance.text, "5%")
        again = self.undo(page)  # another page has changed the circuit since
        self.assertEqual(again.status_code, 409)
        page = self.undo(self.client.get(self.address))
        self.assertNotIn("R9 beside R1", self.core().sheet.setups)
        page = self.undo(page)
        self.assertEqual(page.context["bench"].undoes, f"r{ReadingRow.objects.latest('id').pk}")

    def test_what_was_read_into_the_circuit_before_is_moved_to_the_one_of_now(self) -> None:
        self.change("R2=500")
        was = Across(VOLTAGE, ("B", "gnd"), "main")  # nothing that either circuit asks for
        self.enter(was, "3.9", "V")
        row = ReadingRow.objects.latest("id")
        page = self.client.get(self.address, {"measurement": address_of(self.run_row, was), "correct": row.pk})
        there = f"belongs {slug(replace(was, setup='R2 exchanged'))}"
        self.assertIn(there, [name for name, *_ in page.context["bench"].corrections])
        self.client.post(f"{self.address}readings/{row.pk}/correct/", {"correction": there}, headers=HTMX)
        (stands,) = [r for r in self.core().readings if r.value.text == "3.9" and r.struck is None]
        self.assertEqual(stands.target, replace(was, setup="R2 exchanged"))

    def test_after_a_reading_it_is_the_reading_that_undo_takes_back(self) -> None:
        self.change("R2=500")
        self.enter(PartAlone("R2'", RESISTANCE), "498", "Ω")
        self.undo(self.client.get(self.address))
        self.assertIsNotNone(self.core().readings[-1].struck)
        self.assertIn("R2 exchanged", self.core().sheet.setups)


class Sources(BenchTestCase):
    def test_a_battery_is_taken_as_what_it_is_in_one_press(self) -> None:
        for text, low in (("9V battery: 1k + 2k", "3.90"), ("9V pack: 1k + 2k", "11.20")):
            run = services.start_run(self.person, asking_everything(one_line.read(text)))
            address, target = run.get_absolute_url(), PartAlone("V1", VOLTAGE)
            loaded = queries.load(queries.any_run().get(pk=run.pk))
            row = services.record_reading(run, self.person, record.Reading(target, parse(low, "V")), uuid.uuid4())
            self.assertIn("label", assess(queries.load(run).core).parts["V1"].reason)
            page = self.client.post(f"{address}readings/{row.pk}/as-read/", headers=HTMX)
            core = queries.load(queries.any_run().get(pk=run.pk)).core
            self.assertEqual(core.sheet.parts["V1"].nominal.text, low)
            self.assertEqual(assess(core).parts["V1"].verdict.value, "as set")
            calculated = assess(core, (Across(VOLTAGE, ("B", "gnd"), "main"),)).expected(
                Across(VOLTAGE, ("B", "gnd"), "main")
            )
            self.assertAlmostEqual(calculated.value, float(low) * 2 / 3)
            self.assertContains(self.client.get(f"{address}change/"), f"V1, marked 9 V, is {low} V as it was read")
            self.client.post(f"{address}undo/", {"last": page.context["bench"].undoes}, headers=HTMX)
            self.assertEqual(queries.load(queries.any_run().get(pk=run.pk)).core.sheet, loaded.core.sheet)

    def test_under_load_it_is_so_in_that_circuit_only_whichever_way_its_leads_were(self) -> None:
        run = services.start_run(self.person, asking_everything(one_line.read("9V battery: 1k + 2k")))
        target = Across(VOLTAGE, ("gnd", "A"), "main")
        row = services.record_reading(run, self.person, record.Reading(target, parse("-4.1", "V")), uuid.uuid4())
        self.client.post(f"{run.get_absolute_url()}readings/{row.pk}/as-read/", headers=HTMX)
        core = queries.load(queries.any_run().get(pk=run.pk)).core
        self.assertEqual((core.sheet.parts["V1"].nominal.text, float(core.sheet.setup().values["V1"])), ("9V", 4.1))
        part = record.Reading(PartAlone("R1", RESISTANCE), parse("1k", "Ω"))
        row = services.record_reading(run, self.person, part, uuid.uuid4())
        page = self.client.post(f"{run.get_absolute_url()}readings/{row.pk}/as-read/", headers=HTMX)
        self.assertContains(page, "This reads no source", status_code=422)
