"""What is calculated of an experiment: worked out, tried with other values, and kept back while it is sealed."""

import re

from django.http import HttpResponse

from recensor.experiments import services as experiments
from recensor.runs.models import RunRow
from tests.experiments.case import ExperimentTestCase
from tests.served import HTMX


class WorkedOut(ExperimentTestCase):
    def test_every_way_for_every_kind_of_circuit(self) -> None:
        address = f"{self.page}worked/"
        page = self.client.get(address)
        for text in (
            "R2 and R3 in parallel",
            "Back out of R23",
            "3.879",
            "The current divider gives the same.",
            "<mfrac>",
        ):
            self.assertContains(page, text)
        self.assertContains(self.client.get(address, {"method": "nodes"}), "Node B: what leaves it adds up to zero")
        page = self.client.get(address, {"method": "meshes"})
        self.assertContains(page, "Mesh I2")
        currents = page.context["worked"].steps[-1]
        self.assertEqual(currents.title, "Each resistor's current, from the meshes that pass it")
        self.assertEqual([("3.879" in line, "1.552" in line) for line in currents.formulas],
                         [(True, False), (False, False), (False, True)])  # fmt: skip
        both = "V1 A gnd 9V internal 1\nI1 gnd B 1mA\nR1 A B 1k\nR2 B gnd 2k\nR3 A C 1k\nR4 C B 1k"
        self.act("nodes", nodes=both)
        for method in ("nodes", "meshes", "reduction", "x"):
            page = self.client.get(address, {"method": method})
            self.assertContains(page, "Solved together")
            self.assertNotContains(page, ">reduction</a>")
        for source in ("V1 A gnd 9V internal 2", "I1 A gnd 5mA internal 10k"):
            self.act("nodes", nodes=f"{source}\nR1 A B 1k\nR2 B gnd ?")
            self.assertContains(self.client.get(address), "R2 has no value yet")
            self.act("change", part="R2", name="R2", value="2k", tolerance="", rating="")
            self.assertContains(self.client.get(address), "divider gives the same")

    def test_written_as_the_person_prefers(self) -> None:
        self.person.parallel_formula, self.person.source_letter, self.person.voltage_law = "product", "E", "signed"
        self.person.save()
        page = self.client.get(f"{self.page}worked/").content.decode()
        self.assertIn('<mi mathvariant="normal">E</mi><mtext>1</mtext>', page)
        self.assertIn("<mn>0</mn>", page)
        self.assertNotIn("<mfrac><mrow><mn>1</mn></mrow>", page)

    def test_of_a_run_from_measured_values_and_not_before_a_sealed_one_is_read(self) -> None:
        run = self.client.post(f"{self.page}start/", follow=True).context["run"]
        self.address = run.get_absolute_url()
        self.enter(0, "1.05k")
        self.assertContains(self.client.get(f"{self.address}worked/"), "1.050")
        self.assertNotContains(self.client.get(f"{self.address}worked/", {"basis": "nominal"}), "1.050")
        RunRow.objects.filter(pk=run.pk).update(sealed=True)
        self.assertContains(self.client.get(f"{self.address}worked/"), "This run is sealed")
        self.client.force_login(self.other)
        self.assertEqual(self.client.get(f"{self.address}worked/").status_code, 404)


class WhatIf(ExperimentTestCase):
    def test_values_and_sliders_move_every_quantity(self) -> None:
        address = f"{self.page}what-if/"
        self.assertContains(self.client.get(address), "seen by V1")
        page = self.client.get(address, {"setup": "main", "value-0": "18V"}, headers=HTMX)
        self.assertContains(page, "+100.00 %")
        self.assertNotContains(page, "<html")
        slid = self.client.get(address, {"slide-1": "100"}, headers=HTMX).context["page"]
        self.assertEqual(slid.quantities[0].then, "2.370 kΩ")
        for typed, said in [
            ({"value-1": "4x7"}, "R1: “4x7” is not understood"),
            ({"value-1": "-5"}, "not above zero"),
            ({"slide-1": "9" * 50, "slide-2": "x", "value-99": "1"}, "2.320 kΩ"),
        ]:
            self.assertContains(self.client.get(address, typed), said)
        self.act("change", part="R1", name="R1", value="?", tolerance="", rating="")
        self.assertContains(self.client.get(address), "R1 is unmarked")


class Sealed(ExperimentTestCase):
    def test_the_seal_holds_on_every_page_but_the_owners(self) -> None:
        experiments.set_up(self.experiment, {"sealed": True})
        pages = ("worked/", "what-if/", "?show=voltages", "?show=currents", "?show=powers")

        def values(page: HttpResponse) -> set[str]:
            return set(re.findall(r"[\d.]+ m?[VAW]\b", re.sub("<[^>]*>", "", page.content.decode())))

        stated = values(self.client.get(self.page))
        shown = {page: values(self.client.get(f"{self.page}{page}")) for page in pages}
        self.client.force_login(self.other)
        for page, owners in shown.items():
            self.assertFalse(owners <= stated, page)
            self.assertLessEqual(values(self.client.get(f"{self.page}{page}")), stated, page)
        # Nor does the board of a run of it, until every point has been read.
        run = self.client.post(f"{self.page}start/", follow=True).context["run"]
        board = f"{run.get_absolute_url()}board/"
        self.client.post(board, {"act": "as_planned", "setup": "main"})
        self.client.post(board, {"act": "take_out", "setup": "main", "name": "R1"})
        for query in ({"side": "path"}, {"side": "built"}, {"red": "a3", "black": "a7"}):
            page = self.client.get(board, query)
            self.assertLessEqual(values(page), stated, query)
        self.assertContains(page, "This run is sealed")
        self.assertContains(page, "R1 is not on the board.")
        RunRow.objects.filter(pk=run.pk).update(sealed=False)
        self.assertContains(self.client.get(board, {"side": "path"}), "Node A, ")
