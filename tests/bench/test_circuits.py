"""Parts in hand and circuits of them, over HTTP: what is typed is told before it is made, made once, and taken back."""

import uuid
from decimal import Decimal
from pathlib import Path

from recensor.core.circuit import PartAlone, TableMeters, Wish, asking_everything, one_line, slug
from recensor.core.quantity import RESISTANCE
from recensor.formats.documents import run_document
from recensor.kits import services as kits
from recensor.runs import queries, services
from recensor.runs.models import RunRow
from tests.served import HTMX, BenchTestCase


def run_target(run: RunRow):
    return queries.load(queries.any_run().get(pk=run.pk)).core.sheet.asked[1]


class Circuits(BenchTestCase):
    def sheet(self):
        return queries.load(queries.any_run().get(pk=self.run_row.pk)).core.sheet

    def build(self, text: str, *, key: uuid.UUID | None = None, **fields: object):
        data = {"circuits": text, "setup": "main", "key": key or uuid.uuid4(), **fields}
        return self.client.post(f"{self.address}circuits/", data, headers=HTMX)

    def test_circuits_are_told_before_they_are_made_and_made_once(self) -> None:
        told = self.client.get(f"{self.address}circuits/proposed/", {"circuits": "R1 | R2, R3 open"}, headers=HTMX)
        self.assertContains(told, "<svg", 2)
        self.assertContains(told, "Take R3 out")
        self.assertEqual(list(self.sheet().setups), ["main"])
        key = uuid.uuid4()
        made = self.build("R1 | R2, R1 + R3", key=key, wish=["total", "V/I"])
        self.assertContains(made, "Resistance from A to gnd")
        self.build("R1 | R2, R1 + R3", key=key, wish=["total", "V/I"])
        sheet = self.sheet()
        self.assertEqual(list(sheet.setups), ["main", "R1 | R2", "R1 + R3"])
        asked = [target.words for target in sheet.asked if target.setup == "R1 | R2"]
        self.assertEqual(asked, ["resistance from A to gnd", "voltage from A to gnd", "current through V1"])
        # The next is asked the same, unless somebody says otherwise.
        pane = self.client.get(self.address, {"pane": "parts"}, headers=HTMX)
        ticked = [
            choice.data["value"] for choice in pane.context["bench"].in_hand.form["wish"] if choice.data["selected"]
        ]
        self.assertEqual(ticked, [Wish.TOTAL.value, Wish.RATIO.value])
        self.client.post(f"{self.address}undo/", {"last": pane.context["bench"].undoes}, headers=HTMX)
        self.assertEqual(list(self.sheet().setups), ["main"])

    def test_what_cannot_be_is_said_at_the_field_which_keeps_it_and_nothing_is_made(self) -> None:
        for text, said in [
            ("R1 + R9", "R9 is not among the parts"),
            ("R1, R1 | wire", "R1 | wire: "),
            ("", "Write circuits"),
            ("R1," * 40, "At most 30"),
            ("R1 + R2, load RL 470", "Where RL goes is not known"),
            ("x" * 30_000, "fewer words"),
        ]:
            answered = self.build(text)
            self.assertContains(answered, said, status_code=422)
            self.assertContains(answered, text[:30].split(",")[0], status_code=422)
            told = self.client.get(f"{self.address}circuits/proposed/", {"circuits": text[:2000]}, headers=HTMX)
            self.assertEqual(told.status_code, 200)
        self.assertEqual((list(self.sheet().setups), len(self.sheet().parts)), (["main"], 4))

    def test_thirty_circuits_at_once_are_one_act_that_is_named_as_far_as_there_is_room(self) -> None:
        signs = [f"{one} {sign} {other}" for one in "123" for other in "123" if one != other for sign in "+|"]
        lines = [f"R{line[0]} {line[2]} R{line[4]}" for line in signs]
        lines += [f"{line} + R{({1, 2, 3} - {int(line[1]), int(line[6])}).pop()}" for line in lines]
        self.assertEqual(self.build(", ".join(lines)).status_code, 200)
        self.assertGreater(len(self.sheet().setups), 12)
        self.assertContains(self.client.get(f"{self.address}change/"), "…")

    def test_the_same_at_three_settings_stands_in_columns_and_one_current_at_several_points_in_a_row(self) -> None:
        self.build("V1=2V, V1=4V")
        first, second, third = "main", "V1-20-at-20-2V", "V1-20-at-20-4V"
        for setup, source, drop in ((first, "6.00", "1.000"), (second, "2.00", "0.333"), (third, "4.00", "0.767")):
            for point, text in (("v.A.gnd", source), ("v.A.B", drop)):
                self.enter(f"{point}@{setup}", text, "V")
        for part, text in (("R1", "1.000"), ("R2", "1.001"), ("V1", "0.999")):
            self.enter(f"i.{part}@main", text, "mA")
        pane = self.client.get(self.address, {"pane": "checks"}, headers=HTMX)
        self.assertContains(pane, "not in proportion: V1 at 4V")
        self.assertContains(pane, "One current through V1, R1, R2, in main")
        self.assertContains(pane, "the same</span>")
        self.assertContains(self.client.get(f"{self.address}report/"), "not in proportion: V1 at 4V")

    def test_parts_come_into_hand_are_measured_and_stay(self) -> None:
        more = f"{self.address}parts/"
        added = self.client.post(more, {"parts": "R7 470, 100", "key": uuid.uuid4()}, headers=HTMX)
        self.assertContains(added, "In hand too: R7")
        self.assertIn(PartAlone("R7", RESISTANCE), self.sheet().asked)
        self.assertContains(self.enter("of.r.R7", "468", "Ω"), "R7")
        for text, said in [("R7 1k", "among the parts already"), ("", "Write"), ("quux", "not among the parts")]:
            self.assertContains(self.client.post(more, {"parts": text}, headers=HTMX), said, status_code=422)
        # One press grows the circuit by what is in hand; a part that is taken out is in hand again.
        pane = self.client.get(self.address, {"pane": "parts"}, headers=HTMX).context["bench"].in_hand
        self.assertEqual(pane.grown[1], ("R7 as a branch", "R1 + R2 + R3 | R7"))
        self.build("", grown="R1 + R2 + R3 | R7")
        self.build("R2 open", setup="R1 + R2 + R3 | R7")
        self.assertIn("R2", self.sheet().parts)
        self.build("R2 back")  # where it is: the circuit is asked for again
        pane = self.client.get(self.address, {"pane": "parts"}, headers=HTMX).context["bench"].in_hand
        self.assertEqual([circuit.number for circuit in pane.circuits], [1, 2, 3])
        # A total says what its shape alone demands of it.
        for number, ohms in enumerate(("998", "2010", "2970")):
            self.enter(number, ohms, "Ω")
        self.enter("r.A.gnd@main", "2.5", "kΩ")
        pane = self.client.get(self.address, {"pane": "parts"}, headers=HTMX).context["bench"].in_hand
        self.assertIn(False, [holds for _, holds in pane.circuits[0].rules])

    def test_what_is_on_a_part_is_its_value_and_a_kit_counts_what_is_taken(self) -> None:
        more = f"{self.address}parts/"
        typed = "R7 brown black red, 4K7J, R9 red/orange violet red gold"
        self.assertContains(
            self.client.post(more, {"parts": typed}, headers=HTMX), "R7 1k ± 20%; R4 4.7k ± 5%; R9 2.7k/3.7k"
        )
        self.enter("of.r.R9", "2.71", "kΩ")
        self.assertEqual(self.sheet().parts["R9"].nominal.text, "2.7k")
        self.build("R7 | yellow violet brown")
        self.assertEqual(self.sheet().parts["R5"].tolerance.text, "20%")
        self.build("R2=red red red silver")
        self.assertEqual([part.nominal.text for part in self.sheet().parts.values()].count("2.2k"), 1)
        kit = kits.make_kit(self.person, "Stock")
        row = kits.fill_bin(kit, Decimal(680), Decimal(1), 1)
        drawn = self.client.post(more, {"parts": "680", "kit": kit.pk, "key": uuid.uuid4()}, headers=HTMX)
        self.assertContains(drawn, "Out of Stock")
        self.assertContains(drawn, "± 1 %")
        for text in ("680", "150"):
            again = self.client.post(more, {"parts": text, "kit": kit.pk, "key": uuid.uuid4()}, headers=HTMX)
            self.assertContains(again, "is left in this kit", status_code=422)
        row.refresh_from_db()
        self.assertEqual(row.count, 0)

    def test_parts_that_look_alike_are_tagged_or_one_group(self) -> None:
        self.client.post(f"{self.address}parts/", {"parts": "R7 1k 5%, R8 1k 5%"}, headers=HTMX)
        pane = self.client.get(self.address, {"pane": "parts"}, headers=HTMX)
        self.assertContains(pane, "are marked alike")
        address = f"{self.address}parts/group/"
        grouped = self.client.post(address, {"part": ["R7", "R8"], "together": "on"}, headers=HTMX)
        self.assertContains(grouped, "R7 and R8 are one group")
        self.assertEqual(self.sheet().groups, (("R7", "R8"),))
        self.enter("of.r.R7", "990", "Ω")
        self.enter("of.r.R8", "1010", "Ω")
        pane = self.client.get(self.address, {"pane": "parts"}, headers=HTMX)
        self.assertContains(pane, "any of them is 1.000 kΩ ± ")
        self.assertContains(self.client.post(address, {"part": ["R7", "R2"], "together": "on"}, headers=HTMX),
                            "Only parts that are marked alike", status_code=422)  # fmt: skip
        self.client.post(address, {"part": ["R7", "R8"]}, headers=HTMX)
        self.assertEqual(self.sheet().groups, ())

    def test_a_potentiometer_is_one_part_in_hand(self) -> None:
        run = services.start_run(self.person, asking_everything(one_line.read("9V: 1k + pot 10k at 3k")))
        pane = self.client.get(run.get_absolute_url(), {"pane": "parts"}, headers=HTMX).context["bench"].in_hand
        self.assertEqual([(part.name, part.value) for part in pane.parts], [("V1", "9V"), ("R1", "1k"), ("P1", "10k")])
        page = self.client.get(run.get_absolute_url(), {"measurement": "of.r.P1b"}, headers=HTMX)
        for said in ("Lower part of P1 by itself", "slider of P1", "other end of P1"):
            self.assertContains(page, said)

    def test_what_a_handout_says_beside_a_measurement_stands_on_its_card(self) -> None:
        document = Path(__file__).parents[1] / "formats" / "documents" / "pair-line.run.json"
        run = services.start_run(self.person, run_document.read(document.read_bytes()).sheet)
        page = self.client.get(run.get_absolute_url(), {"measurement": slug(run_target(run))}, headers=HTMX)
        self.assertContains(page, "<b>4 b</b> of the handout.")
        self.assertContains(page, "It wants a photo of this.")
        self.assertContains(self.client.get(run.get_absolute_url(), {"pane": "readings"}, headers=HTMX), "4 b: Total")

    def test_circuits_typed_where_one_types_what_is_read_open_the_pane_with_them(self) -> None:
        page = self.client.get(self.address, {"read": "R1 | R3"}, headers=HTMX)
        self.assertEqual(page.context["bench"].in_hand.form["circuits"].value(), "R1 | R3")
        for place in ("R2", "A, B", "B gnd"):
            self.assertIsNone(self.client.get(self.address, {"read": place}, headers=HTMX).context["bench"].in_hand)
        changed = self.client.get(self.address, {"read": "R9 1k | R2"}, headers=HTMX)
        self.assertContains(changed, "comes in, in parallel with R2")

    def test_volts_and_amps_read_again_at_another_level_become_rows_by_one_press(self) -> None:
        for volts, amps in (("1.000", "1.001"), ("0.500", "0.501")):
            self.enter("v.A.B@main", volts, "V")
            self.enter("i.R1@main", amps, "mA")
        asked = self.client.get(self.at("v.A.B@main"), headers=HTMX)
        self.assertContains(asked, "other levels: rows of a V–I table")
        reading = asked.context["bench"].disagreements[0].reading
        address = f"{self.address}readings/{reading}/levels/"
        made = self.client.post(address, {"key": uuid.uuid4()}, headers=HTMX)
        self.assertContains(made, "Volts in row 3")
        run = queries.load(queries.any_run().get(pk=self.run_row.pk)).core
        rows = [(r.target.step, r.value.text) for r in run.readings if r.struck is None]
        self.assertEqual(sorted(rows), [(0, "1.000"), (0, "1.001"), (1, "0.500"), (1, "0.501")])
        self.assertEqual(list(run.sheet.sweeps), ["line of R1"])
        again = self.client.post(address, {"key": uuid.uuid4()}, headers=HTMX)
        self.assertContains(again, "one level only", status_code=422)
        self.client.post(f"{self.address}undo/", {"last": made.context["bench"].undoes}, headers=HTMX)
        run = queries.load(queries.any_run().get(pk=self.run_row.pk)).core
        self.assertEqual({r.target.step for r in run.readings if r.struck is None}, {None})
        self.assertEqual(len([r for r in run.readings if r.struck is None]), 4)

    def test_where_the_voltmeter_lies_is_asked_once_and_stays_with_the_table(self) -> None:
        begun = {"of": "R2", "setup": "main", "meters": "around ammeter", "key": uuid.uuid4()}
        begun = self.client.post(f"{self.address}tables/", begun, headers=HTMX)
        self.assertIs(begun.context["bench"].table_form.initial["meters"], TableMeters.AROUND_AMMETER)
        core = queries.load(queries.any_run().get(pk=self.run_row.pk)).core
        self.assertTrue(core.sheet.sweeps["line of R2"].around_ammeter)
        again = run_document.from_tree(run_document.to_tree(core))
        self.assertTrue(again.sheet.sweeps["line of R2"].around_ammeter)
        tree = run_document.to_tree(core)
        tree["sweeps"]["line of R2"]["one_meter"] = True
        with self.assertRaisesRegex(run_document.DocumentError, "there is one meter"):
            run_document.from_tree(tree)

    def test_with_one_meter_all_volts_come_first_and_two_tables_stand_in_one_plot(self) -> None:
        def begin(of: str, meters: TableMeters):
            data = {"of": of, "setup": "main", "meters": meters.value, "key": uuid.uuid4()}
            return self.client.post(f"{self.address}tables/", data, headers=HTMX)

        def typed(text: str, unit: str) -> str:
            chosen = self.answered.context["bench"].card.target
            self.answered = self.enter(slug(chosen), text, unit)
            return self.answered.context["bench"].card.name

        self.answered = begin("R1", TableMeters.ONE)
        titles = [typed(text, "V") for text in ("1.00", "2.00", "3.00")]
        self.assertEqual(titles, ["Volts in row 2", "Volts in row 3", "Volts in row 4"])
        self.assertContains(self.answered, "They set their row")
        self.assertEqual(typed("", "V"), "Amps in row 1")
        titles = [typed(text, "mA") for text in ("1.00", "2.01", "2.99")]
        self.assertEqual(titles[:2], ["Amps in row 2", "Amps in row 3"])
        self.assertNotIn("row", titles[2])
        # One row more is read as a row.
        self.assertEqual(self.enter("v.A.B@main!3", "4.00", "V").context["bench"].card.name, "Amps in row 4")
        self.assertEqual(self.enter("i.R1@main!3", "4.00", "mA").status_code, 200)
        self.answered = begin("R2", TableMeters.APART)
        for text, unit in (("2.00", "V"), ("1.00", "mA"), ("4.00", "V"), ("2.00", "mA")):
            typed(text, unit)
        for page in (self.client.get(self.address, {"pane": "lines"}), self.client.get(f"{self.address}lines/")):
            self.assertContains(page, ">line of R1</text>")
            self.assertContains(page, ">line of R2</text>")
        self.assertContains(self.client.get(f"{self.address}report/"), ">line of R2</text>")
        core = queries.load(queries.any_run().get(pk=self.run_row.pk)).core
        again = run_document.from_tree(run_document.to_tree(core)).sheet.sweeps
        self.assertEqual([sweep.meters for sweep in again.values()], [TableMeters.ONE, TableMeters.APART])
