"""Kits, the sorting table, and runs that draw their parts from a kit."""

import uuid
from decimal import Decimal

from django.contrib.auth import get_user_model
from django.db import connection
from django.http import HttpResponse
from django.test import TestCase
from django.test.utils import CaptureQueriesContext

from recensor.core.circuit import one_line
from recensor.core.quantity import parse
from recensor.experiments.services import make_experiment
from recensor.kits import services, sorting_table
from recensor.kits.models import Bin, Kit, SortedPart, Sorting
from recensor.runs.models import DrawnPart
from recensor.site import demo
from tests.served import HTMX, BenchTestCase

NEW_RUN = {"title": "Drawn", "line": "9V: 1k + 1k + 2k2; 10"}


class KitTestCase(BenchTestCase):
    """A kit of the signed-in person with three bins."""

    def setUp(self) -> None:
        super().setUp()
        self.kit = services.make_kit(self.person, "Stock")
        for value, tolerance, count in (("1000", "5", 3), ("1000", "1", 1), ("2200", "5", 2)):
            services.fill_bin(self.kit, Decimal(value), Decimal(tolerance), count)

    def counts(self) -> dict[str, int]:
        return {str(row): row.count for row in Bin.objects.filter(kit=self.kit)}


class Kits(KitTestCase):
    def test_made_filled_and_counted(self) -> None:
        self.assertContains(self.client.post("/kits/", {"name": "Spares"}, follow=True), "No values yet")
        filled = {"value": "4k7", "tolerance": "5", "rating": "1/4 W", "count": "12"}
        address = self.kit.get_absolute_url()
        page = self.client.post(f"{address}fill/", filled, follow=True)
        self.assertContains(page, "4.7 kΩ ± 5 %")
        self.assertContains(page, "0.25 W")
        self.client.post(f"{address}fill/", {**filled, "rating": "", "count": "3"})
        row = Bin.objects.get(kit=self.kit, value=4700)
        self.assertEqual((row.count, row.rating), (15, Decimal("0.25")))
        self.client.post(f"{address}bins/{row.pk}/count/", {"count": "11"})
        self.assertEqual(self.counts()["4.7 kΩ ± 5 %"], 11)
        self.assertContains(self.client.get("/kits/"), '<td class="figures">17</td>', html=True)

    def test_bad_input_stands_at_its_field_and_changes_nothing(self) -> None:
        address, before = self.kit.get_absolute_url(), self.counts()
        good = {"value": "4k7", "tolerance": "5", "rating": "", "count": "12"}
        for change, field in [
            ({"value": "4.7V"}, "value"),
            ({"value": "-5"}, "value"),
            ({"tolerance": ""}, "tolerance"),
            ({"rating": "1/0"}, "rating"),
            ({"rating": "10000 W"}, "rating"),
            ({"rating": "0.00001"}, "rating"),
            ({"tolerance": "0.0001"}, "tolerance"),
            ({"count": "-1"}, "count"),
            ({"count": "9" * 30}, "count"),
            ({"value": ""}, "value"),
        ]:
            page = self.client.post(f"{address}fill/", {**good, **change})
            self.assertEqual((page.status_code, list(page.context["bin_form"].errors)), (422, [field]))
        row = self.kit.bins.first()
        self.assertContains(
            self.client.post(f"{address}bins/{row.pk}/count/", {"count": "many"}), "1 kΩ ± 1 %: Enter", status_code=422
        )
        self.assertEqual(self.client.post("/kits/", {"name": ""}).status_code, 422)
        self.assertEqual(self.counts(), before)

    def test_others_look_but_do_not_touch(self) -> None:
        table = services.start_sorting(self.kit, None, Decimal(5))
        self.client.force_login(self.other)
        address = self.kit.get_absolute_url()
        self.assertContains(self.client.get(address), "1 kΩ ± 5 %")
        self.assertNotContains(self.client.get(address), "Begin to sort")
        for path in (
            f"{address}fill/",
            f"{address}bins/{self.kit.bins.first().pk}/count/",
            f"{address}sort/",
            *(f"{table.get_absolute_url()}{act}/" for act in ("record", "take-back", "put-away")),
        ):
            self.assertEqual(self.client.post(path, {"count": 1}).status_code, 403)
        self.assertEqual(self.client.get(table.get_absolute_url()).status_code, 403)
        for path in ("/kits/99999/", "/sorting/99999/"):
            self.assertEqual(self.client.get(path).status_code, 404)

    def test_two_parts_make_a_value_out_of_what_is_left(self) -> None:
        page = self.client.get("/pairs/", {"wanted": "3.2k", "stock": f"kit-{self.kit.pk}"}, headers=HTMX)
        self.assertContains(page, "1 kΩ + 2.2 kΩ")
        self.assertContains(page, "3.200 kΩ")
        self.assertContains(self.client.get("/pairs/", {"wanted": "1234", "stock": "E24"}), "∥")
        for wanted, stock in (("x", "E24"), ("-5", "E24"), ("1k", "kit-99999"), ("1k", "E24; drop"), ("", "")):
            page = self.client.get("/pairs/", {"wanted": wanted, "stock": stock})
            self.assertContains(page, "field-error")
        self.kit.bins.update(count=0)
        page = self.client.get("/pairs/", {"wanted": "1k", "stock": f"kit-{self.kit.pk}"})
        self.assertContains(page, "Nothing is left in this kit")


class SortingTable(KitTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client.post(
            f"{self.kit.get_absolute_url()}sort/", {"into": "12", "tolerance": "5", "accuracy": "0.5 % + 2"}
        )
        self.table = Sorting.objects.get()
        self.address = self.table.get_absolute_url()

    def sort(self, text: str, unit: str = "Ω", key: object = None, **more: str) -> HttpResponse:
        data = {"text": text, "unit": unit, "key": key or uuid.uuid4(), **more}
        return self.client.post(f"{self.address}record/", data, headers=HTMX)

    def test_each_part_is_told_its_bin(self) -> None:
        self.assertContains(self.sort("1.013", "kΩ"), '<b class="figures">1 kΩ</b>', html=True)
        self.assertContains(self.sort("992"), '<b class="count">2</b>', html=True)
        self.assertContains(self.sort("1070"), "Out of tolerance: +7.00 % from 1 kΩ.")
        self.assertContains(self.sort("0.01"), "A stray: no bin is near")
        self.assertContains(self.sort("1.049", "kΩ"), "the meter cannot tell")
        page = self.client.get(self.address)
        for text in ("≠ 1 out", "≈? 1 at the edge", 'Strays: <b class="figures" id="strays">1</b>', "+1.80 %"):
            self.assertContains(page, text)

    def test_a_bin_is_told_shifted_only_when_scatter_and_meter_do_not_explain_it(self) -> None:
        for text in ("1000", "1004", "996"):
            self.assertNotContains(self.sort(text), "Shifted by")
        for text in ("2291", "2290", "2289"):
            page = self.sort(text)
        self.assertContains(page, "Shifted by +4.09 %")

    def test_bad_readings_get_a_message_and_stay(self) -> None:
        for text, said in [
            ("", "Nothing is written"),
            ("abc", "not understood"),
            ("0", "Zero: the probes touch"),
            ("-5", "Below zero"),
            ("OL", "take a higher range"),
            ("5V", "voltage"),
            ("1,000", "1.000"),
            ("9" * 9999, "characters"),
            ("\x00", ""),
        ]:
            page = self.sort(text)
            self.assertContains(page, "field-error", status_code=422)
            self.assertContains(page, said, status_code=422)
        self.assertContains(self.sort("-5"), 'value="-5"', status_code=422)
        self.assertEqual(self.client.post(f"{self.address}record/", {}, headers=HTMX).status_code, 422)
        self.assertEqual(SortedPart.objects.count(), 0)
        self.assertEqual(self.sort("1,000", answer="1000").status_code, 200)

    def test_sent_twice_is_one_part_and_the_last_one_can_be_taken_back(self) -> None:
        key = uuid.uuid4()
        for _ in range(3):
            self.assertEqual(self.sort("470", key=key).status_code, 200)
        self.assertContains(self.sort("480", key=key), "already recorded as 470", status_code=409)
        self.sort("471")
        first, second = SortedPart.objects.values_list("pk", flat=True)

        def take_back(part: int) -> HttpResponse:
            return self.client.post(f"{self.address}take-back/", {"entry": part}, headers=HTMX)

        self.assertContains(take_back(first), "471 Ω was sorted since", status_code=409)
        for _ in range(2):  # again, since its answer was lost
            self.assertContains(take_back(second), '<b class="count">1</b>', html=True)
        page = take_back(first)
        self.assertContains(page, "entry-struck", count=2)
        self.assertContains(page, "Nothing sorted yet")
        self.assertContains(page, 'name="entry" value=""')
        self.assertContains(take_back(0), "no part left", status_code=422)
        self.assertEqual(SortedPart.objects.count(), 4)
        with self.assertRaises(TypeError):
            SortedPart.objects.all().delete()

    def test_nobody_keeps_kits_without_end(self) -> None:
        page = [self.client.post("/kits/", {"name": f"K{number}"}) for number in range(services.MOST_KITS)][-1]
        self.assertContains(page, f"You keep {services.MOST_KITS} kits already", status_code=422)
        self.assertContains(self.client.get("/kits/?page=2"), "2 of 2")

    def test_put_away_once_into_the_bins_without_strays_and_rejects(self) -> None:
        for text in ("1000", "1013", "1070", "0.01", "471"):
            self.sort(text)
        self.client.post(f"{self.address}put-away/")
        self.assertEqual(self.counts(), {"470 Ω ± 5 %": 1, "1 kΩ ± 1 %": 1, "1 kΩ ± 5 %": 5, "2.2 kΩ ± 5 %": 2})
        self.assertEqual(self.client.post(f"{self.address}put-away/").status_code, 409)
        self.assertContains(self.sort("1000"), "1000 Ω is not recorded", status_code=409)
        self.assertEqual(self.counts()["1 kΩ ± 5 %"], 5)

    def test_own_values_take_the_wider_of_two_bins_and_wrong_settings_are_refused(self) -> None:
        table = services.start_sorting(self.kit, None, Decimal(5))
        self.assertEqual(table.bins, [["1000", "5"], ["2200", "5"]])
        good = {"into": "12", "tolerance": "5", "accuracy": ""}
        for change, field in [
            ({"into": "13"}, "into"),
            ({"tolerance": "0"}, "tolerance"),
            ({"accuracy": "fine"}, "accuracy"),
        ]:
            page = self.client.post(f"{self.kit.get_absolute_url()}sort/", {**good, **change})
            self.assertEqual((page.status_code, list(page.context["sorting_form"].errors)), (422, [field]))
        empty = services.make_kit(self.person, "Empty")
        page = self.client.post(f"{empty.get_absolute_url()}sort/", {**good, "into": "own"})
        self.assertContains(page, "no values yet", status_code=422)

    def test_an_entry_costs_the_same_however_many_there_are_and_the_tally_can_be_lost(self) -> None:
        def queries() -> int:
            with CaptureQueriesContext(connection) as captured:
                self.assertEqual(self.sort("1001").status_code, 200)
            return len(captured)

        self.sort("1000")
        queries()
        few = queries()
        for k in range(40):
            services.sort_part(self.table.pk, self.person, parse(str(980 + k), "Ω"), uuid.uuid4())
        self.assertEqual(queries(), few)
        kept = sorting_table.tally_of(self.table.pk)
        sorting_table.cache.clear()
        fresh = sorting_table.tally_of(self.table.pk)
        which = fresh.in_use[0]
        self.assertEqual(kept.summary(which).columns, fresh.summary(which).columns)
        self.assertAlmostEqual(kept.summary(which).mean, fresh.summary(which).mean)


class DrawnFromAKit(KitTestCase):
    def start(self, **change: object) -> HttpResponse:
        return self.client.post("/runs/new/", {**NEW_RUN, "kit": self.kit.pk, **change}, follow=True)

    def test_parts_leave_their_bins_and_come_back(self) -> None:
        page = self.start()
        self.assertContains(page, "Out of Stock")
        self.assertEqual(self.counts(), {"1 kΩ ± 1 %": 0, "1 kΩ ± 5 %": 2, "2.2 kΩ ± 5 %": 1})
        run = page.context["run"]
        planned = run.sheets.last().sheet.as_sheet()
        self.assertEqual([planned.parts[f"R{k}"].tolerance.text for k in (1, 2, 3)], ["1 %", "5 %", "5 %"])
        for _ in range(2):  # the second time nothing is out any more
            self.assertNotContains(self.client.post(f"{run.get_absolute_url()}return/", follow=True), "Out of Stock")
        self.assertEqual(self.counts(), {"1 kΩ ± 1 %": 1, "1 kΩ ± 5 %": 3, "2.2 kΩ ± 5 %": 2})

    def test_what_the_kit_lacks_is_said_with_what_it_has(self) -> None:
        page = self.start(line="9V: 1k + 1k + 1k8")
        self.assertContains(page, "No 1.8 kΩ is left in this kit; it has 1 kΩ and 2.2 kΩ.", status_code=422)
        page = self.start(line="9V: 1k + 1k + 2k2 + 2k2 + 2k2")
        self.assertContains(page, "No 2.2 kΩ is left in this kit; it has 1 kΩ.", status_code=422)
        self.assertEqual((self.counts()["2.2 kΩ ± 5 %"], DrawnPart.objects.count()), (2, 0))

    def test_a_run_of_an_experiment_draws_its_parts_too(self) -> None:
        experiment = make_experiment(self.person, one_line.read("9V: 1k + (2k2 | ?); 10%"))
        start = f"{experiment.get_absolute_url()}start/"
        run = self.client.post(start, {"kit": self.kit.pk, "meter": "DMM-4"}, follow=True).context["run"]
        planned = run.sheets.last().sheet.as_sheet()
        self.assertEqual([planned.parts[name].tolerance.text for name in ("R1", "R2")], ["1 %", "5 %"])
        self.assertEqual((run.meter.name, run.version, self.counts()["2.2 kΩ ± 5 %"]), ("DMM-4", 1, 1))
        self.assertContains(self.client.get(f"{experiment.get_absolute_url()}sheet/"), "Stock</option>")
        self.kit.bins.filter(value=2200).update(count=0)
        refused = self.client.post(start, {"kit": self.kit.pk})
        self.assertContains(refused, "No 2.2 kΩ is left in this kit; it has 1 kΩ.", status_code=422)
        self.assertContains(self.client.post(start, {"kit": "x"}), "valid choice", status_code=422)
        self.assertEqual(experiment.runs.count(), 1)

    def test_unmarked_parts_and_ratings_without_a_kit(self) -> None:
        page = self.start(kit="", line="9V: 1k + ? + 2k2", rating="½ W")
        planned = page.context["run"].sheets.last().sheet.as_sheet()
        self.assertIsNone(planned.parts["R2"].nominal)
        self.assertEqual(float(planned.parts["R1"].rating), 0.5)
        self.assertContains(page, "unmarked")
        self.assertContains(self.start(kit="", rating="lots"), "not understood", status_code=422)


class DemoKit(TestCase):
    def test_loaded_once_and_put_back_but_for_what_others_have_drawn(self) -> None:
        demo.load()
        demo.reset()
        kit = Kit.objects.get(name=demo.kit.NAME)
        self.client.force_login(get_user_model().objects.create_user("visitor"))
        self.assertContains(self.client.get(kit.get_absolute_url()), "4.7 kΩ ± 5 %")
        self.client.post("/runs/new/", {**NEW_RUN, "kit": kit.pk})
        demo.reset()
        self.assertEqual(Kit.objects.get(name=demo.kit.NAME).pk, kit.pk)
