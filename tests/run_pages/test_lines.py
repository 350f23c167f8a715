"""Lines, lights and setups held against each other, over HTTP: read, undone, changed, and sent twice."""

import json
import uuid

from django.db import connection
from django.test.utils import CaptureQueriesContext

from recensor.core.circuit import asking_everything, one_line
from recensor.core.editing import evenly, sweep
from recensor.core.examples import experiments
from recensor.core.quantity import VOLT
from recensor.core.sweeps import assess_lines
from recensor.formats.documents import run_document
from recensor.runs import queries, services
from recensor.runs.models import ReadingRow, Sighting
from tests.served import HTMX, BenchTestCase


class LinesTestCase(BenchTestCase):
    def begin(self, sheet) -> None:
        self.run_row = services.start_run(self.person, sheet)
        self.address = self.run_row.get_absolute_url()

    def loaded(self) -> queries.RunSnapshot:
        return queries.load(queries.any_run().get(pk=self.run_row.pk), self.person)

    def read(self, place, text: str, **more: str):
        """Type a reading at a place, power as the card says."""
        return self.enter(place, text, **more)


class FreeRows(LinesTestCase):
    def test_a_line_without_settings_is_read_row_after_row_and_judged_like_any(self) -> None:
        self.begin(asking_everything(one_line.read("9V: 1k; 5%")))
        for change in ({"first_setting": "", "last_setting": ""}, {"first_setting": "2V", "last_setting": ""}):
            data = {"act": "read_more", "more": "sweep", "setup": "main", "part": "R1", "rows": "5", **change}
            answer = self.client.post(f"{self.address}change/", data)
            self.assertEqual(answer.status_code, 302 if not change["first_setting"] else 422)
        (free,) = self.loaded().core.sheet.sweeps.values()
        self.assertEqual((free.settings, [t for t in self.loaded().core.sheet.asked if t.step is not None]), ((), []))
        for step, volts in enumerate(("1.002", "2.51", "4.04", "8.33")):
            lines = self.client.get(f"{self.address}lines/")
            self.assertContains(lines, "One row more")
            page = self.client.get(self.at(free.volts_at(step)))
            self.assertContains(page, f"in row {step + 1}")
            page = self.read(free.volts_at(step), volts)
            self.assertContains(page, f"Amps in row {step + 1}")  # which nobody has asked for
            self.read(free.amps_at(step), f"{float(volts) / 0.998:.3f}m")
        (line,) = assess_lines(self.loaded().judged())
        self.assertEqual((len(line.points), line.straight), (4, True))
        self.assertAlmostEqual(line.resistance, 998, delta=2)
        kept = run_document.read(self.client.get(f"{self.address}document/").content)
        self.assertEqual([r.target.step for r in kept.readings], [0, 0, 1, 1, 2, 2, 3, 3])


class Tables(LinesTestCase):
    def begin_table(self, of: str, **fields: object):
        data = {"of": of, "setup": "main", "key": uuid.uuid4(), **fields}
        return self.client.post(f"{self.address}tables/", data, headers=HTMX)

    def test_a_pair_is_read_row_after_row_by_itself_and_a_row_is_taken_out_with_one_press(self) -> None:
        self.begin(asking_everything(one_line.read("9V: 1k + (2k2 | 3k3); 5%")))
        key = uuid.uuid4()
        self.assertContains(self.begin_table("B gnd", key=key), "Volts in row 1")
        self.begin_table("gnd b", key=key)  # pressed twice, and however the leads are turned
        (table,) = self.loaded().core.sheet.sweeps.values()
        self.assertEqual((table.volts.nodes, table.amps.part), (("B", "gnd"), "R1"))
        for step, volts in enumerate(("1.00", "2.00", "3.00", "4.00")):
            page = self.read(table.volts_at(step), volts)
            self.assertContains(page, f"<h2>Amps in row {step + 1}</h2>", html=True)
            page = self.read(table.amps_at(step), "2.9m" if step == 2 else f"{float(volts) / 1.32:.3f}m")
            self.assertContains(page, f"<h2>Volts in row {step + 2}</h2>", html=True)
            # Held against what its own volts drive, whatever the source is turned to.
            self.assertContains(page, "2.273 mA, outside" if step == 2 else "within 5 %")
        row = {"table": table.name, "row": "3"}
        self.assertContains(self.client.post(f"{self.address}tables/row-out/", row, headers=HTMX), "taken out")
        (line,) = assess_lines(self.loaded().judged())
        self.assertEqual((len(line.points), line.verdict, line.judged.nominal.value), (3, "agrees", 1320.0))
        self.assertContains(self.begin_table("B, gnd"), "Volts in row 5")  # gone on with
        for wrong in (row, {"table": "none", "row": "1"}, {"table": table.name, "row": "x"}):
            self.assertEqual(self.client.post(f"{self.address}tables/row-out/", wrong, headers=HTMX).status_code, 422)

    def test_amps_first_is_gone_on_with_amps_first(self) -> None:
        self.begin(asking_everything(one_line.read("9V: 1k + 2k2; 5%")))
        self.begin_table("R2")
        (table,) = self.loaded().core.sheet.sweeps.values()
        self.assertContains(self.read(table.amps_at(0), "1.00m"), "<h2>Volts in row 1</h2>", html=True)
        self.assertContains(self.read(table.volts_at(0), "2.20"), "<h2>Amps in row 2</h2>", html=True)

    def test_the_whole_of_a_sagging_battery_says_what_is_inside(self) -> None:
        self.begin(asking_everything(one_line.read("9V: 1k; 5%")))
        self.begin_table("")
        (table,) = self.loaded().core.sheet.sweeps.values()
        for step, (volts, amps) in enumerate((("8.95", "20m"), ("8.91", "40m"), ("8.79", "100m"))):
            self.read(table.volts_at(step), volts)
            self.read(table.amps_at(step), amps)
        (line,) = assess_lines(self.loaded().judged())
        self.assertEqual((line.is_source, line.verdict), (True, "not judged"))
        self.assertAlmostEqual(line.resistance, 2.0)
        self.assertAlmostEqual(line.best.intercept, 8.99)
        self.assertNotIn("outside", {r.judged.verdict.value for r in self.loaded().judged().readings})

    def test_what_no_table_can_be_of_is_said_at_the_field(self) -> None:
        self.begin(asking_everything(one_line.read("9V: 1k | 2k2; 5%")))
        for typed, said in [("R9", "no part and no two nodes"), ("A", "no part and no two"), ("V1", "Choose the part")]:
            answer = self.begin_table(typed)
            self.assertContains(answer, said, status_code=422)
            self.assertContains(answer, f'value="{typed}"', status_code=422)
        self.assertEqual(self.loaded().core.sheet.sweeps, {})


class Rows(LinesTestCase):
    rows = (("1.004", "10.17m"), ("3.012", "30.54m"), ("5.008", "50.73m"), ("7.02", "71.1m"), ("9.01", "91.4m"))

    def setUp(self) -> None:
        super().setUp()
        self.begin(experiments.line_of_a_resistor().sheet)
        (self.sweep,) = self.loaded().core.sheet.sweeps.values()

    def test_row_after_row_the_plot_grows_and_the_line_is_judged(self) -> None:
        self.enter(0, "98.6")
        for step, (volts, amps) in enumerate(self.rows):
            page = self.read(self.sweep.volts_at(step), volts)
            self.assertContains(page, f"Amps in row {step + 1}, V1 at {2 * step + 1} V")
            page = self.read(self.sweep.amps_at(step), amps)
            self.assertContains(page, 'class="plot-mark"')
        self.assertContains(page, "everything balances")
        self.assertContains(page, "Through the origin its slope is")
        self.assertEqual([row.step for row in ReadingRow.objects.order_by("id")], [None, *(k // 2 for k in range(10))])
        whole = self.client.get(f"{self.address}lines/")
        self.assertContains(whole, "by ohmmeter")
        self.assertContains(whole, "slope with intercept")
        document = run_document.read(self.client.get(f"{self.address}document/").content)
        (line,) = assess_lines(self.loaded().judged())
        self.assertEqual((line.verdict, line.straight, len(document.sheet.sweeps)), ("agrees", True, 1))
        self.assertEqual(document.readings[3].target.step, 1)

    def test_the_school_that_draws_amps_upward(self) -> None:
        for step, (volts, amps) in enumerate(self.rows):
            self.read(self.sweep.volts_at(step), volts)
            self.read(self.sweep.amps_at(step), amps)
        self.assertContains(self.client.get(f"{self.address}lines/"), "V / V</text>")
        self.person.line_axes = "amps"
        self.person.save()
        page = self.client.get(f"{self.address}lines/")
        self.assertContains(page, "so 98.674 Ω")

    def test_turning_up_to_a_row_is_a_look_and_says_how_far_still(self) -> None:
        page = self.read(self.sweep.volts_at(1), "2.4")
        self.assertContains(page, "0.6 V still to go")
        page = self.read(self.sweep.volts_at(1), "3.01")
        self.assertContains(page, "Amps in row 2")
        self.assertEqual([r.counted for r in self.loaded().core.readings], [False, None])

    def test_one_row_off_is_asked_about(self) -> None:
        """The current of the row after, typed here: a question with that row as an answer; undo takes it all back."""
        self.read(self.sweep.volts_at(1), "3.01")
        page = self.read(self.sweep.amps_at(1), "50.8m")
        self.assertContains(page, "data-question")
        self.assertContains(page, "it is amps in row 3")
        before = self.loaded()
        undone = self.client.post(f"{self.address}undo/", {"last": before.last["bench-1"]}, headers=HTMX)
        self.assertEqual(undone.status_code, 200)
        self.assertIsNone(self.loaded().judged().of(self.sweep.amps_at(1)))

    def test_fifty_rows_ask_the_database_no_more_than_five(self) -> None:
        counts = []
        for rows in (5, 50):
            sheet = asking_everything(one_line.read("9V: 100 5%"))
            self.begin(sweep(sheet, "main", "R1", evenly(1, 9, rows, VOLT)))
            (swept,) = self.loaded().core.sheet.sweeps.values()
            for step in (0, rows - 1):
                self.read(swept.volts_at(step), "1.004" if step == 0 else "9.01")
                self.read(swept.amps_at(step), "10.17m" if step == 0 else "91.4m")
            with CaptureQueriesContext(connection) as found:
                self.assertContains(self.client.get(f"{self.address}lines/"), f'<th scope="row">{rows}</th>')
            counts.append(len(found))
        self.assertEqual(*counts)


class Lights(LinesTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.begin(asking_everything(one_line.read("5V: 330 5% + led 1.9V 10mA")))

    def see(self, light: str, part: str = "LED1", key: uuid.UUID | None = None):
        data = {"part": part, "setup": "main", "light": light, "key": key or uuid.uuid4()}
        return self.client.post(f"{self.address}seen/", data, headers=HTMX)

    def test_the_last_counts_the_same_again_takes_back_and_a_resend_is_one(self) -> None:
        key = uuid.uuid4()
        for _ in range(2):
            self.assertContains(self.see("dark", key=key), 'aria-pressed="true">dark')
        self.assertEqual(Sighting.objects.count(), 1)
        self.see("bright")
        self.assertEqual([s.light.value for s in self.loaded().core.seen], ["bright"])
        self.see("bright")
        self.assertEqual(self.loaded().core.seen, ())

    def test_what_does_not_light_is_refused(self) -> None:
        for light, part in (("dark", "R1"), ("dark", "X"), ("glowing", "LED1")):
            self.assertContains(self.see(light, part), "field-error", status_code=422)
        self.assertFalse(Sighting.objects.exists())

    def test_a_dark_diode_is_a_cause_and_stands_in_the_document(self) -> None:
        self.see("dark")
        document = json.loads(self.client.get(f"{self.address}document/").content)
        self.assertEqual(document["seen"], [{"setup": "main", "part": "LED1", "as": "dark"}])
        self.assertContains(self.client.get(f"{self.address}?pane=checks"), "LED1 was seen dark")


class Changed(LinesTestCase):
    def post(self, **data: str):
        return self.client.post(f"{self.address}change/", {"key": uuid.uuid4(), **data})

    def test_a_line_is_read_in_a_running_run(self) -> None:
        refused = self.post(act="read_more", more="sweep", setup="main", part="R1", first_setting="1", last_setting="",
                            rows="5")  # fmt: skip
        self.assertContains(refused, "field-error", status_code=422)
        self.assertContains(refused, 'value="1"', status_code=422)
        self.enter(0, "0.998k")
        self.post(
            act="read_more", more="sweep", setup="main", part="R1", first_setting="1V", last_setting="5V", rows="3"
        )
        (sweep,) = self.loaded().core.sheet.sweeps.values()
        self.assertEqual([s.text for s in sweep.settings], ["1V", "3V", "5V"])
        self.read(sweep.volts_at(0), "0.166")
        # Fewer rows would leave a reading without its own; and what was read of the part is still there.
        self.read(sweep.volts_at(2), "0.83")
        fewer = self.post(act="read_more", more="sweep", setup="main", part="R1", first_setting="1V", last_setting="3V",
                          rows="2")  # fmt: skip
        self.assertContains(fewer, "would have no place", status_code=422)
        self.assertEqual(len(self.loaded().core.readings), 3)

    def test_an_exchange_is_held_against_what_was_before(self) -> None:
        self.post(act="change", setup="main", part="R1", what_happens="exchange", what="4k7")
        (held,) = self.loaded().judged().comparisons
        self.assertEqual((held.comparison.rule, held.verdict), ("exchange", "needs readings"))
        self.assertContains(self.client.get(f"{self.address}?pane=checks"), "Held against each other")

    def test_parts_are_corrected_each_by_its_own_fields(self) -> None:
        self.begin(asking_everything(one_line.read("9V: 100 + lamp 6V 50mA + switch")))
        self.post(act="correct", part="L1", name="L1", value="6V", current="60mA", cold="11")
        lamp = self.loaded().core.sheet.parts["L1"]
        self.assertEqual((lamp.current.text, lamp.cold.text), ("60mA", "11"))
        refused = self.post(act="correct", part="L1", name="L1", value="6V", current="60mA", cold="500")
        self.assertContains(refused, "a filament resists less cold than lit", status_code=422)
        self.post(act="correct", part="S1", name="S9", value="")
        self.assertIn("S9", self.loaded().core.sheet.parts)
        self.post(act="change", setup="main", part="S9", what_happens="open", what="")
        *_, last = self.loaded().core.sheet.setups.values()
        self.assertEqual(last.open, {"S9"})
