"""The board of a run: planned, built by one act at a time, held against the drawing, probed."""

from django.http import HttpResponse

from recensor.board_page import kept_board
from recensor.core.circuit import one_line
from recensor.core.examples import circuits, experiments
from recensor.experiments.models import Experiment
from recensor.experiments.queries import sheet_of
from recensor.experiments.services import make_experiment
from recensor.formats.documents import run_document
from recensor.meters.services import keep_meter, shipped
from recensor.runs import queries
from recensor.runs.models import BoardState, RunRow
from tests.served import HTMX, BenchTestCase


class BoardTestCase(BenchTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.address = f"{self.run_row.get_absolute_url()}board/"

    def act(self, act: str, **typed: str) -> HttpResponse:
        return self.client.post(self.address, {"act": act, "setup": "main", **typed}, headers=HTMX)

    def put(self, *texts: str) -> HttpResponse:
        for text in texts:
            page = self.act("put", what=text)
        return page

    def start(self, run: object) -> None:
        page = self.client.post(f"{make_experiment(self.person, run).get_absolute_url()}start/", follow=True)
        self.address = f"{page.context['run'].get_absolute_url()}board/"


class Building(BoardTestCase):
    def test_a_board_with_nothing_on_it_is_no_circuit_to_draw(self) -> None:
        self.assertContains(self.act("adopt"), "Nothing is on the board yet.", status_code=422)

    def test_a_plan_is_shown_first_with_a_link_for_every_current(self) -> None:
        page = self.client.get(self.address)
        for text in ("Build it in this order", "V1: +L1 to −L1", "link K1", "supply off", "band-brown"):
            self.assertContains(page, text)
        self.assertEqual(BoardState.objects.count(), 0)

    def test_built_as_planned_is_the_same_circuit_and_one_lead_off_is_said_with_its_readings(self) -> None:
        page = self.act("as_planned")
        self.assertContains(page, "same circuit")
        self.assertEqual(page.context["page"].changed, ())
        one = next(item for item in page.context["page"].items if item.name == "R2")
        first, second = one.text.removeprefix("R2: ").replace("−", "-").split(" to ")
        moved = f"R2 {first} {second[0]}{int(second[1:]) + 1}"
        page = self.put(moved)
        self.assertContains(page, "differs")
        self.assertContains(page, "nothing joins them. Move it to")
        self.assertContains(page, "built-lit")
        rows = {part: now for part, _, now in page.context["page"].changed}
        self.assertEqual(rows["R2"], "0 V, 0 A")
        self.assertContains(self.act("undo"), "same circuit")

    def test_built_by_hand_part_by_part(self) -> None:
        page = self.put("V1 +L1 -L1", "J +L3 e3", "R1 b3 b7", "R2 c7 c12", "R3 d12 d16")
        self.assertEqual(page.context["page"].missing, ())
        self.assertContains(page, "differs")
        self.assertContains(self.put("j e16 −L4"), "same circuit")
        self.assertContains(self.act("turn", name="R1"), "same circuit")
        self.assertContains(self.act("turn", name="V1"), "V1 is the wrong way round")
        self.act("undo")
        self.assertContains(self.act("take_out", name="R3"), "R3 is not on the board.")
        self.assertContains(self.put("K d16 d20"), "link K1: d16 to d20")
        self.assertContains(self.act("pull", name="K1"), "d16 to d20, pulled")

    def test_bad_input_is_said_at_once_and_stays(self) -> None:
        self.put("R1 b3 b7")
        for act, typed, said in [
            ("put", {"what": "R2 b7 b12"}, "a lead of R1 already"),
            ("put", {"what": "R2 b90 b12"}, "There is no hole “b90”"),
            ("put", {"what": "R2 c3 c4"}, "3 holes apart"),
            ("put", {"what": "R2 c3 c29"}, "12 holes at most"),
            ("put", {"what": "R9 c3 c8"}, "no part R9 in this setup"),
            ("put", {"what": "R2"}, "Write a part and its two holes"),
            ("put", {"what": ""}, "Write a part and its two holes"),
            ("put", {"what": "x" * 5000}, "Write a part and its two holes"),
            ("take_out", {"name": "R2"}, "no R2 on the board"),
            ("pull", {"name": "R1"}, "R1 is no link"),
            ("turn", {"name": "?"}, "no ? on the board"),
            ("clear", {"size": "huge"}, "half board or a full one"),
            ("explode", {}, "Choose what to do"),
        ]:
            page = self.act(act, **typed)
            self.assertContains(page, said, status_code=422)
            if typed.get("what"):
                self.assertContains(page, f'value="{typed["what"]}"', status_code=422)
        self.assertEqual(BoardState.objects.count(), 1)
        self.act("undo")
        self.assertContains(self.act("undo"), "nothing to undo", status_code=422)

    def test_the_run_document_carries_what_is_built(self) -> None:
        self.put("V1 +L1 -L1", "J +L3 e3", "R1 b3 b7")
        document = run_document.read(self.client.get(f"{self.run_row.get_absolute_url()}document/").content)
        self.assertEqual(sorted(document.boards["main"].placements), ["J1", "R1", "V1"])
        core = queries.with_boards(self.run_row, queries.load(RunRow.objects.following().get(pk=self.run_row.pk)).core)
        self.assertEqual(document.boards, core.boards)
        for query in ({"side": "moon"}, {"side": "path", "at": "x"}, {"at": "99999", "side": "path"}, {"setup": "x"}):
            self.assertEqual(self.client.get(self.address, query).status_code, 200)

    def test_boards_of_other_sizes_and_other_people(self) -> None:
        page = self.act("clear", size="full", split="on")
        self.assertContains(page, 'data-hole="j63"')
        self.assertContains(self.put("R1 b50 b55"), "R1: b50 to b55")
        self.client.force_login(self.other)
        self.assertEqual(self.client.get(self.address).status_code, 404)
        self.assertEqual(self.act("undo").status_code, 404)


class Probing(BoardTestCase):
    def test_the_display_and_its_reason(self) -> None:
        self.put("V1 +L1 -L1", "J +L3 e3", "R1 b3 b7", "R2 c7 c12", "R3 d12 d16", "J e16 -L4")
        for red, black, quantity, text, reason in [
            ("a3", "a7", "voltage", "1.000 V", "The voltage of R1"),
            ("a20", "a7", "voltage", "0 V", "Nothing is pushed into the row of a20"),
            ("a3", "a7", "resistance", "–", "ohms only on a dead circuit"),
        ]:
            page = self.client.get(self.address, {"red": red, "black": black, "quantity": quantity}, headers=HTMX)
            self.assertContains(page, f'<b class="figures">{text}</b>')
            self.assertContains(page, reason)
            self.assertContains(page, "probe-point-red")
        # What shows hangs on the meter: with one of 4½ digits, and off a screen.
        asked = {"red": "a3", "black": "a7", "quantity": "voltage"}
        profile = shipped(self.person, "4½-digit bench")
        keep_meter(self.person, None, "bench meter", "", None, profile)
        self.client.post(f"{self.run_row.get_absolute_url()}change/", {"act": "meter", "meter": "bench meter"})
        self.assertContains(self.client.get(self.address, asked, headers=HTMX), '<b class="figures">0.9999 V</b>')
        self.client.post(f"{self.run_row.get_absolute_url()}change/", {"act": "meter", "meter": ""})
        type(self.run_row).objects.filter(pk=self.run_row.pk).update(simulated=True)
        self.assertContains(self.client.get(self.address, asked, headers=HTMX), '<b class="figures">1.000 V</b>')
        page = self.client.get(self.address, {"red": "z9", "black": "a7"}, headers=HTMX)
        self.assertContains(page, "There is no hole “z9”", status_code=422)
        self.assertContains(page, 'value="z9"', status_code=422)


class PathsAndSetups(BoardTestCase):
    def test_the_way_of_the_current_is_walked_on_board_and_drawing(self) -> None:
        self.start(circuits.ladder(2))
        page = self.client.get(self.address, {"side": "path", "at": "1"})
        self.assertContains(page, "the current splits into")
        self.assertContains(page, 'aria-current="step"')
        self.assertContains(page, "built-lit")
        self.assertContains(page, "symbol-lit")

    def test_every_setup_has_a_board_of_its_own(self) -> None:
        made = experiments.series_against_parallel()
        self.start(made.sheet)
        self.act("as_planned", setup="series")
        page = self.client.get(self.address, {"setup": "parallel"})
        self.assertContains(page, "Build it in this order")
        self.assertContains(self.act("as_planned", setup="parallel"), "same circuit")
        self.assertEqual(set(BoardState.objects.values_list("setup", flat=True)), {"series", "parallel"})

    def test_a_circuit_too_large_for_a_board_says_so(self) -> None:
        self.start(one_line.read("9V: " + " + ".join(["1k"] * 60)))
        page = self.client.get(self.address)
        self.assertEqual(page.status_code, 200)
        self.assertTrue(page.context["page"].plan_refused or page.context["page"].items)

    def test_what_is_built_can_be_adopted_as_drawn(self) -> None:
        self.put("V1 +L1 -L1", "J +L3 e3", "R1 b3 b7", "R2 c7 c12", "J e12 -L4", "R3 d7 d12")
        response = self.client.post(self.address, {"act": "adopt", "setup": "main"})
        experiment = Experiment.objects.get()
        self.assertRedirects(response, experiment.get_absolute_url())
        setup = sheet_of(experiment).setups["main"]
        self.assertEqual(set(setup.connections["R2"]), set(setup.connections["R3"]))
        self.act("clear", size="half")
        self.assertContains(self.act("adopt"), "needs a setup", status_code=422)
        self.put("V1 +L1 -L1", "R1 a3 a7")
        self.assertContains(self.act("adopt"), "Nothing joins", status_code=422)

    def test_a_kept_board_is_read_back_as_it_was(self) -> None:
        self.act("as_planned")
        core = self.run_row.sheets.last().sheet.as_sheet()
        setup = core.setups["main"]
        self.assertEqual(
            kept_board.load(self.run_row, core, setup), kept_board.KeptBoard(kept_board.plan_for(core, setup))
        )

    def test_drawn_by_building_from_an_empty_board(self) -> None:
        page = self.client.post("/runs/on-a-board/", follow=True)
        self.assertContains(page, "Nothing is on the board yet")
        self.address = f"{page.context['run'].get_absolute_url()}board/"
        self.put("V1 +L1 -L1", "J +L3 e3", "Ra=470 5% b3 b7", "Rb=2k2 c7 c12", "J e12 -L4")
        page = self.client.get(self.address)
        self.assertContains(page, "Ra is on the board and not in this circuit.")
        self.assertContains(page, "band-yellow")
        self.act("adopt")
        experiment = Experiment.objects.order_by("id").last()
        sheet = sheet_of(experiment)
        self.assertEqual({name: part.nominal.text for name, part in sheet.parts.items()},
                         {"V1": "9V", "Ra": "470", "Rb": "2k2"})  # fmt: skip
        self.assertEqual(one_line.write(sheet, sheet.setups["main"]), "9V: Ra=470 5% + Rb=2k2")
        for text, said in [
            ("R1=2k b20 b25", "in this circuit already"),
            ("Rc=4x7 b20 b25", "not understood"),
            ("9=1k b20 b25", "no name"),
        ]:
            self.assertContains(self.act("put", what=text), said, status_code=422)
