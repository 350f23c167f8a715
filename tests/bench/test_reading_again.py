"""Reading again at the bench: the newest stands, why it differs is said in one press, and not everything is read."""

import json
import uuid
from dataclasses import replace

from recensor.core.circuit import Across
from recensor.core.judgement import Verdict, assess
from recensor.core.quantity import VOLTAGE
from recensor.formats.documents import run_document
from recensor.runs import queries, services
from recensor.runs.models import ReadingRow
from tests.served import HTMX, BenchTestCase

R1, R2 = 5, 6
DROP = Across(VOLTAGE, ("A", "B"), "main")


class Again(BenchTestCase):
    def loaded(self) -> queries.RunSnapshot:
        return queries.load(queries.any_run().get(pk=self.run_row.pk))

    def read_twice(self, text: str = "1.40") -> ReadingRow:
        for point, typed in ((R1, "1.004"), (R2, "2.001"), (R1, text)):
            self.said = self.enter(point, typed, "V").content.decode()
        return ReadingRow.objects.order_by("-id")[0]

    def press(self, name: str, reading: ReadingRow, **typed: str):
        return self.client.post(f"{self.address}readings/{reading.pk}/{name}/", typed, headers=HTMX)

    def test_the_newest_stands_and_why_is_asked_until_it_is_said(self) -> None:
        reading = self.read_twice()
        loaded = self.loaded()
        self.assertAlmostEqual(loaded.judged().of(DROP).judged.value, 1.4)
        self.assertIs(loaded.judged().of(DROP).judged.verdict, Verdict.OUTSIDE)
        self.assertRegex(self.said, r"1\.40 V now, 1\.004 V at \d\d:\d\d: they do not agree")
        noted = self.press("why", reading, why="contact")
        self.assertNotContains(noted, "they do not agree")
        (found,) = self.loaded().judged().disagreements
        self.assertEqual((found.is_open, found.answer.reason), (False, "contact"))
        refused = self.press("why", reading, why="knob")
        self.assertContains(refused, "Nothing contradicts this reading any more", status_code=422)
        undone = self.client.post(f"{self.address}undo/", {"last": self.loaded().last["bench-1"]}, headers=HTMX)
        self.assertContains(undone, "Taken back")
        self.assertTrue(self.loaded().judged().disagreements[0].is_open)

    def test_rewired_in_between_what_was_read_before_belongs_to_a_circuit_of_its_own(self) -> None:
        reading = self.read_twice()
        self.press("why", reading, why="rewired")
        loaded = self.loaded()
        self.assertEqual(list(loaded.core.sheet.setups), ["main", "main before"])
        standing = [(r.value.text, r.target.setup) for r in loaded.core.readings if r.struck is None]
        self.assertEqual(sorted(standing), [("1.004", "main before"), ("1.40", "main"), ("2.001", "main")])
        self.assertEqual(loaded.judged().disagreements, [])
        self.assertFalse([t for t in loaded.core.sheet.asked if t.setup == "main before"])
        self.client.post(f"{self.address}undo/", {"last": loaded.last["bench-1"]}, headers=HTMX)
        back = self.loaded()
        self.assertEqual({target.setup for target in back.core.sheet.asked}, {None, "main"})
        self.assertEqual([r.value.text for r in back.core.readings if r.struck is None], ["1.004", "2.001", "1.40"])

    def test_a_word_that_is_no_reason_is_refused(self) -> None:
        refused = self.press("why", self.read_twice(), why="magic")
        self.assertContains(refused, "Choose why they do not agree", status_code=422)

    def test_the_one_before_is_brought_back_by_one_press(self) -> None:
        reading = self.read_twice()
        self.assertIn('value="look"', self.said)
        self.press("correct", reading, correction="look")
        self.assertAlmostEqual(self.loaded().judged().of(DROP).judged.value, 1.004)

    def test_what_only_confirms_is_made_a_trial_by_one_press(self) -> None:
        for text in ("1.004", "1.0"):
            self.enter(R1, text, "V")
        self.press("correct", ReadingRow.objects.latest("id"), correction="trial")
        measured = self.loaded().judged().of(DROP).measurement
        self.assertEqual((measured.indexes, round(measured.mean, 6)), ((0, 1), 1.002))

    def test_another_meter_and_a_coarser_number_change_nothing_and_stay_so(self) -> None:
        self.enter(R1, "1.004", "V")
        self.assertContains(self.enter(R1, "1.0", "V"), "confirms what stands")
        self.assertContains(self.enter(R1, "1.09", "V", meter="Second"), "kept beside, by another meter")
        measured = self.loaded().judged().of(DROP).measurement
        self.assertEqual((measured.mean, measured.indexes, measured.earlier), (1.004, (0,), (1, 2)))


class NotMeasured(BenchTestCase):
    def leave(self, what: str, name: str = "what"):
        return self.client.post(f"{self.address}leave-out/", {name: what}, headers=HTMX)

    def test_a_run_is_finished_with_what_was_read(self) -> None:
        for point, text in ((R1, "1.004"), (R2, "2.001")):
            self.enter(point, text, "V")
        self.assertContains(self.client.get(self.address), "Finish: 8 not measured, leave them")
        ended = self.leave("all")
        self.assertContains(ended, "8 not measured, everything else is.")
        self.assertContains(ended, "2 of 2 read")
        self.assertContains(self.client.get(f"{self.address}plan/"), "Not measured in this run:")
        self.assertContains(self.client.get(f"{self.address}report/"), "Not measured: R1 by itself")
        document = json.loads(self.client.get(f"{self.address}document/").content)
        self.assertEqual(sum("waived" in target for target in document["asked"]), 8)
        # Reading one after all ends it; so does taking all up again.
        self.assertContains(self.enter(0, "1.001", "kΩ"), "3 of 3 read")
        self.assertContains(self.leave("nothing"), "3 of 10 read")
        self.assertContains(self.leave("nothing"), "Nothing is left out", status_code=422)

    def test_one_is_left_out_and_what_is_no_measurement_is_refused(self) -> None:
        self.assertContains(self.leave("of.r.R1"), "0 of 9 read")
        self.assertContains(self.leave("of.r.R1"), "not among what is still to be read", status_code=422)
        self.assertContains(self.leave("of.r.R2", "step"), "0 of 7 read")  # all three parts by now
        for what in ("", "nonsense", "of.r.R9"):
            for name in ("what", "step"):
                self.assertContains(self.leave(what, name), "Choose what is left out", status_code=422)

    def test_it_unseals_nothing(self) -> None:
        self.run_row.sealed = True
        self.run_row.save(update_fields=["sealed"])
        self.enter(R1, "1.004", "V")
        self.leave("all")
        self.assertTrue(queries.load(queries.any_run().get(pk=self.run_row.pk)).is_sealed)


class Rounds(BenchTestCase):
    TEXTS = ("0.998k", "2.01k", "2.97k", "5.98k", "6.02", "1.004", "2.022", "2.99", "6.01", "1.007m")

    def core(self):
        return queries.load(queries.any_run().get(pk=self.run_row.pk)).core

    def read_all(self) -> list[str]:
        """Read everything once, each where the page goes on to; the names of what was read."""
        read = []
        for _ in self.TEXTS:
            card = self.client.get(self.address).context["bench"].card
            read.append(card.name)
            points = queries.load(queries.any_run().get(pk=self.run_row.pk)).points
            self.enter(card.target, self.TEXTS[points.index(card.target)])
        return read

    def test_everything_once_and_then_everything_again(self) -> None:
        more = {"act": "rounds", "rounds": "2", "key": ""}
        self.client.post(f"{self.address}change/", more)
        page = self.client.get(self.address)
        self.assertContains(page, "Round 1 of 2.")
        first = self.read_all()
        page = self.client.get(self.address)
        self.assertContains(page, "Round 2 of 2.")
        self.assertContains(page, "0 of 10 read")
        self.client.post(f"{self.address}undo/", {"last": page.context["bench"].undoes}, headers=HTMX)
        self.assertContains(self.client.get(self.address), "Round 1 of 2.")  # undone, the round is open again
        card = self.client.get(self.address).context["bench"].card
        self.enter(card.target, self.TEXTS[-1])
        self.assertEqual(self.read_all(), first)
        self.assertIsNone(self.client.get(self.address).context["bench"].card)
        core = self.core()
        self.assertEqual([reading.round for reading in core.readings if reading.struck is None], [1] * 10 + [2] * 10)
        self.assertEqual({t.measurement.count for t in assess(core).targets.values()}, {2})
        document = run_document.read(self.client.get(f"{self.address}document/").content)
        self.assertEqual([reading.round for reading in document.readings], [reading.round for reading in core.readings])


class Predicted(BenchTestCase):
    def setUp(self) -> None:
        super().setUp()
        sheet = queries.load(queries.any_run().get(pk=self.run_row.pk)).core.sheet
        asked = frozenset(target.key for target in sheet.asked)
        self.run_row = services.start_run(self.person, replace(sheet, predicted=asked))
        self.address = self.run_row.get_absolute_url()

    def expect(self, text: str, unit: str):
        bench = self.client.get(self.address).context["bench"]
        data = {"measurement": bench.address, "text": text, "unit": unit, "key": uuid.uuid4()}
        return self.client.post(f"{self.address}own/", data, headers=HTMX)

    def test_what_is_expected_is_the_first_field_and_nothing_is_there_to_copy(self) -> None:
        page = self.client.get(self.address)
        self.assertContains(page, "What do you expect?")
        self.assertEqual(page.context["bench"].card.expected, "")
        page = self.expect("nonsense", "kΩ")
        self.assertContains(page, "not understood", status_code=422)
        self.assertContains(page, 'value="nonsense"', status_code=422)
        page = self.expect("1.05", "kΩ")
        self.assertContains(page, 'You expect <b class="figures">1.05 kΩ</b>')
        self.assertNotEqual(page.context["bench"].card.expected, "")
        page = self.enter(0, "1.001", "kΩ")
        self.assertEqual(page.context["bench"].card.name, "R2 by itself")
        self.assertContains(page, "What do you expect?")
        self.enter(1, "2.002", "kΩ")  # nobody is held up by it
        claims = queries.load(queries.any_run().get(pk=self.run_row.pk), self.person).core.claims
        self.assertEqual([claim.value.text for claim in claims], ["1.05"])
        document = json.loads(self.client.get(f"{self.address}document/").content)
        self.assertTrue(all(target["predict"] for target in document["asked"]))

    def test_after_a_change_it_is_asked_for_in_the_new_circuit_too(self) -> None:
        data = {"change": "R2 short", "setup": "main", "key": uuid.uuid4()}
        self.client.post(f"{self.address}circuit/", data, headers=HTMX)
        sheet = queries.load(queries.any_run().get(pk=self.run_row.pk)).core.sheet
        self.assertTrue({t.key for t in sheet.asked if t.in_circuit} <= sheet.predicted)
