"""A potentiometer in the editor: one part of three leads, whatever it is below."""

from recensor.core.circuit import one_line
from recensor.experiments import services as experiments
from recensor.experiments.queries import sheet_of
from tests.experiments.case import ExperimentTestCase

STATED = {"tolerance": "", "rating": ""}


class OnePart(ExperimentTestCase):
    def sheet(self):
        self.experiment.refresh_from_db()
        return sheet_of(self.experiment)

    def line(self) -> str | None:
        return one_line.write(self.sheet(), self.sheet().setup())

    def setUp(self) -> None:
        super().setUp()
        self.experiment = experiments.make_experiment(self.person, one_line.read("9V: 1k + pot 10k at 3k + 470"))
        self.page = self.experiment.get_absolute_url()

    def test_it_is_one_row_however_it_is_chosen(self) -> None:
        for chosen in ("P1", "P1a", "P1b"):
            page = self.client.get(self.page, {"part": chosen}).context["editor"]
            rows = [(row.name, row.value, row.note, row.ends) for row in page.rows if row.is_chosen]
            self.assertEqual(rows, [("P1", "10k", "at 3k", "B → C → D")])
            self.assertEqual((page.chosen.name, page.chosen.here, page.standing.has_two_leads), ("P1", "3k", False))
        self.assertEqual(len(page.rows), 4)
        page = self.client.get(self.page, {"part": "P1"})
        self.assertNotContains(page, "A wire in its place")
        self.assertContains(page, ">P1</text>", 2)

    def test_what_is_changed_is_changed_of_both_halves(self) -> None:
        self.act("here", part="P1", here="4k")
        self.assertEqual(self.line(), "9V: 1k + pot 10k at 4k + 470")
        self.act("change", part="P1", name="P7", value="20k", **STATED | {"tolerance": "10"})
        self.assertEqual(self.line(), "9V: 1k + P7=pot 20k at 4k + 470")
        self.assertEqual({part.tolerance.text for part in self.sheet().parts.values() if part.tolerance}, {"10 %"})
        for name, typed, said in [
            ("change", {"name": "P7", "value": "3k", **STATED}, "lies between"),
            ("change", {"name": "R1", "value": "20k", **STATED}, "named R1 already"),
            ("here", {"here": "30k"}, "lies between"),
            ("here", {"here": ""}, "below its slider"),
        ]:
            self.assertContains(self.act(name, part="P7", **typed), said, status_code=422)
        self.assertEqual(self.line(), "9V: 1k + P7=pot 20k at 4k + 470")

    def test_parts_go_around_it_and_another_comes_in_as_one(self) -> None:
        self.act("after", part="P1", what="100")
        self.act("before", part="P1", what="220")
        self.act("parallel", part="P1", what="33k")
        self.assertEqual(self.line(), "9V: 1k + R4=220 + (R5=33k | pot 10k at 3k) + R3=100 + R2=470")
        self.act("after", part="R2", what="pot 5k at 1k")
        self.act("bridge", what="P9=pot 1k at 200", first="A", second="gnd")
        self.assertEqual(set(self.sheet().potentiometers), {"P1", "P2", "P9"})
        self.assertContains(self.act("after", part="R1", what="pot 5k at 9k"), "lies between", status_code=422)
        self.assertContains(self.act("after", part="R1", what="pot 5k"), "pot", status_code=422)
        for name in ("P2", "P9"):
            self.act("remove", part=name)
        self.assertEqual(set(self.sheet().potentiometers), {"P1"})
