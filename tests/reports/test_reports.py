"""Reports: what stands in them, what a sealed run keeps back, what is written, and every form to take away."""

import io
import json
import re
import subprocess
import sys
import tempfile
import zipfile
from dataclasses import replace
from datetime import date
from pathlib import Path
from unittest.mock import patch

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from PIL import Image
from pypdf import PdfReader

from recensor.core import lengths
from recensor.core.circuit import asking_everything, one_line
from recensor.core.editing import accepted
from recensor.core.examples import circuits
from recensor.core.judgement import assess
from recensor.core.plan import in_order, title
from recensor.drawing.conventions import Conventions
from recensor.experiments.queries import sheet_of
from recensor.experiments.services import make_experiment
from recensor.formats.documents import run_document
from recensor.formats.documents.checksum import checksum, printed
from recensor.meters.services import keep_meter
from recensor.reports import prose
from recensor.reports.content import ONE_PAGE, loaded_from, report
from recensor.reports.files import FORMS, ReportRequest, of
from recensor.reports.prose import rendered
from recensor.reports.queries import chosen_sections
from recensor.runs import queries, services
from recensor.runs.models import Photo, RunRow, RunText
from recensor.site import demo
from tests.formats.test_run_document import FULL, judged
from tests.served import HTMX, BenchTestCase

DEMO = Path(demo.__file__).parent


class ReportTestCase(BenchTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.report = f"{self.address}report/"
        for k, text in enumerate(["1.002", "1.99", "3.01"]):
            self.enter(k, text, "kΩ")

    def now(self) -> RunRow:
        return queries.any_run().get(pk=self.run_row.pk)

    def taken(self, ending: str) -> bytes:
        page = self.client.get(f"{self.report}{ending}/")
        self.assertEqual(page.status_code, 200)
        return page.content

    def write(self, kind: str, text: str, found: object = ""):
        return self.client.post(f"{self.report}{kind}/written/", {"text": text, "found": found}, headers=HTMX)


class Prose(TestCase):
    def test_tables_keep_to_what_a_page_has_room_for_and_larger_ones_stay_text(self) -> None:
        def written(columns: int, rows: int) -> str:
            return f"{'|a' * columns}|\n{'|-' * columns}|\n" + "|\n" * rows

        for text, cells in {
            written(prose.MOST_COLUMNS, 3): 4 * prose.MOST_COLUMNS,
            written(prose.MOST_COLUMNS + 1, 3): 0,
            written(250, 240): 0,
            written(3, 590): 3 * 591,
            written(3, 610): 0,
            f"{written(3, 400)}\n" * 4: 3 * 401,
        }.items():
            made = rendered(text[: lengths.PROSE])
            self.assertEqual(made.count("<td>") + made.count("<th>"), cells)
            if not cells:
                self.assertIn("|a|a", made)


class Page(ReportTestCase):
    def test_it_says_what_was_read_with_whom_and_the_checksum_of_its_document(self) -> None:
        page = self.client.get(self.report)
        for said in (
            "bench-1",
            "3 of 10 read",
            "1.002 kΩ",
            "within tolerance",
            "brown black red gold",
            "An ordinary handheld",
        ):
            self.assertContains(page, said)
        document = json.loads(self.client.get(f"{self.address}document/").content)
        self.assertContains(page, printed(checksum(document)))
        self.client.force_login(self.other)
        for address in (self.report, f"{self.report}pdf/", f"{self.report}csv/"):
            self.assertEqual(self.client.get(address).status_code, 404)

    def test_an_instrument_that_nobody_described_has_its_number_and_date_in_report_and_document(self) -> None:
        row = keep_meter(self.person, None, "Old one", "A-17", date(2026, 1, 31), None)
        before = [verdict.judged for verdict in queries.load(self.now()).judged().readings]
        RunRow.objects.filter(pk=self.run_row.pk).update(meter=row)
        self.enter(3, "5.99", "kΩ")
        self.assertContains(self.client.get(self.report), "<b>Old one</b>, number A-17, calibrated 2026-01-31")
        kept = run_document.read(self.taken("json"))
        self.assertEqual(run_document.read(run_document.write(kept)), kept)
        self.assertEqual(kept.meters["Old one"].instrument.number, "A-17")
        self.assertEqual([one.judged for one in assess(kept).readings][:3], before)  # it says nothing of its accuracy
        self.assertIn("an ordinary handheld is assumed", str(assess(kept).warnings))

    def test_sections_are_remembered_for_the_experiment_and_one_page_is_one(self) -> None:
        self.client.post(f"{self.report}sections/", {"sections": ["parts", "conclusion", "no such"]})
        page = self.client.get(self.report)
        self.assertContains(page, "<h2>Parts</h2>", html=True)
        self.assertNotContains(page, "Worked calculation")
        self.client.post(f"{self.report}sections/", {"form": "one page"})
        self.assertEqual(chosen_sections(self.person, queries.any_run().get(pk=self.run_row.pk)), ONE_PAGE)
        self.assertEqual(len(PdfReader(io.BytesIO(self.taken("pdf"))).pages), 1)

    def test_a_sealed_run_tells_nothing_that_was_calculated(self) -> None:
        sheet = replace(queries.load(queries.any_run().get(pk=self.run_row.pk)).core.sheet, sealed=True)
        run = services.start_run(self.person, sheet)
        page = self.client.get(f"{run.get_absolute_url()}report/")
        self.assertContains(page, "This run is sealed")
        for told in ("Worked calculation", "How far each reading is off", "1.000 mA", "2.000 V", ">CSV<"):
            self.assertNotContains(page, told)
        for ending in ("csv", "xlsx", "ods", "zip"):
            refused = self.client.get(f"{run.get_absolute_url()}report/{ending}/")
            self.assertContains(refused, "tables open once every point has been read", status_code=422)


class DemoRuns(TestCase):
    def test_every_demo_run_has_one(self) -> None:
        demo.load()
        for run in RunRow.objects.filter(owner__username=demo.OWNER):
            self.client.force_login(run.owner)
            with self.subTest(run.title):
                self.assertContains(self.client.get(f"{run.get_absolute_url()}report/"), run.title)


class Written(ReportTestCase):
    def test_kept_as_it_is_written_shown_and_in_the_document(self) -> None:
        self.assertContains(self.write("conclusion", "The drops **add up**.\n<script>alert(1)</script>"), "Kept")
        page = self.client.get(self.report)
        self.assertContains(page, "<strong>add up</strong>")
        self.assertNotContains(page, "<script>alert")
        document = run_document.read(self.client.get(f"{self.address}document/").content)
        self.assertTrue(document.conclusion.startswith("The drops"))
        self.write("conclusion", document.conclusion, RunText.objects.get().pk)
        self.assertEqual(RunText.objects.count(), 1, "the same once more is kept once")

    def test_a_second_tab_writes_over_nothing_unseen(self) -> None:
        self.write("notes", "first tab")
        second = self.write("notes", "second tab, opened before")
        self.assertContains(second, "first tab", status_code=409)
        self.assertContains(second, f'value="{RunText.objects.get().pk}"', status_code=409)
        self.write("notes", "both together", RunText.objects.get().pk)
        self.assertEqual([one.text for one in RunText.objects.order_by("id")], ["first tab", "both together"])

    def test_too_long_and_unknown_are_refused(self) -> None:
        self.assertContains(self.write("notes", "x" * 20_001), "20001 characters", status_code=422)
        self.assertEqual(self.write("poem", "x").status_code, 404)
        self.assertEqual(RunText.objects.count(), 0)

    def test_sentences_left_as_suggested_are_counted(self) -> None:
        page = self.client.get(self.report)
        (sentence,) = re.findall(r'data-starter="([^"]+)"', page.content.decode())
        self.write("conclusion", f"{sentence} So it divides.")
        self.assertContains(self.client.get(self.report), "Left as suggested: 1 sentence")

    def test_markup_is_light_and_nothing_in_it_runs(self) -> None:
        self.assertEqual(rendered("*so*"), "<p><em>so</em></p>\n")
        for hostile in ("<img src=x onerror=y>", "![a](http://e/x.png)", "[a](javascript:b)", "<b onclick=c>d</b>"):
            html = rendered(hostile)
            self.assertNotRegex(html, r"<(img|a|b|script)\b", hostile)


class Forms(ReportTestCase):
    def test_pdf_has_its_text_its_fonts_and_its_structure(self) -> None:
        self.write("conclusion", "It divides as drawn.")
        pdf = PdfReader(io.BytesIO(self.taken("pdf")))
        text = "\n".join(page.extract_text() for page in pdf.pages)
        for said in ("Chain", "1.002 kΩ", "It divides as drawn.", "within tolerance", "Performer"):
            self.assertIn(said, text)
        names = {str(font["/BaseFont"]) for page in pdf.pages
                 for font in (f.get_object() for f in page["/Resources"].get("/Font", {}).values())}  # fmt: skip
        self.assertTrue(all("+" in name for name in names), f"embedded: {names}")
        self.assertTrue(any("Commissioner" in name for name in names) and any("JetBrains" in name for name in names))
        self.assertEqual([round(float(side)) for side in pdf.pages[0].mediabox[2:]], [595, 842])  # A4 at 72 to the inch
        self.person.paper = "letter"
        self.person.save()
        letter = PdfReader(io.BytesIO(self.taken("pdf")))
        self.assertEqual([round(float(side)) for side in letter.pages[0].mediabox[2:]], [612, 792])
        self.assertIn("/StructTreeRoot", pdf.trailer["/Root"])
        self.assertEqual(pdf.metadata.title, "Chain")

    def test_the_archive_has_all_of_it_and_drawings_stand_alone(self) -> None:
        archive = zipfile.ZipFile(io.BytesIO(self.taken("zip")))
        self.assertEqual(set(archive.namelist()), {
            "report.pdf", "report.html", "readings.csv", "report.xlsx", "report.ods", "report.json", "main.cir",
            "main-schematic.svg", "deviations.svg"})  # fmt: skip
        for name in ("main-schematic.svg", "deviations.svg"):
            svg = archive.read(name).decode()
            self.assertEqual(svg.count('xmlns="http://www.w3.org/2000/svg"'), 1)
            self.assertNotRegex(svg, r"var\(--|color-mix|currentcolor")
        html = archive.read("report.html").decode()
        self.assertNotRegex(html, r"(?:src|href)=|url\((?!data:)", "it needs no other file")
        self.assertEqual(run_document.read(archive.read("report.json")).sheet.title, "Chain")
        self.assertEqual(self.client.get(f"{self.report}docx/").status_code, 404)

    def test_every_form_of_a_run_with_all_there_is_and_with_a_part_of_unknown_value(self) -> None:
        wanted = ReportRequest(loaded_from(run_document.read(FULL.read_bytes())), Conventions())
        archive = zipfile.ZipFile(io.BytesIO(of(".zip", wanted)))
        made = {Path(name).suffix: archive.getinfo(name).file_size for name in archive.namelist()}
        for ending in FORMS:
            with self.subTest(ending):
                self.assertGreater(made.get(ending) or len(of(ending, wanted)), 100)
        why = next(name for name in archive.namelist() if name.endswith(".cir.txt"))
        self.assertIn(b"R2 has no value", archive.read(why))
        self.run_row = services.start_run(self.person, accepted(one_line.read("9V: 1k + ?; 5%")))
        self.report = f"{self.run_row.get_absolute_url()}report/"
        self.taken("zip")  # with every other in it


class OnPaper(ReportTestCase):
    def test_a_blank_sheet_has_a_numbered_line_for_each_reading_in_the_order_of_the_bench(self) -> None:
        experiment = make_experiment(self.other, asking_everything(circuits.bridge()), "Is it in balance?")
        sheet = sheet_of(experiment)
        page = self.client.get(f"/experiments/{experiment.pk}/blank/")
        text = "\n".join(one.extract_text() for one in PdfReader(io.BytesIO(page.content)).pages)
        self.assertIn("Is it in balance?", text)
        run = services.start_experiment(self.person, experiment)
        first = self.client.get(run.get_absolute_url()).context["bench"].card
        order = [title(sheet.asked[k], sheet) for k in in_order(sheet.asked, sheet)]
        self.assertEqual(order[0], title(first.target, sheet))
        places = [re.search(rf"{k}\s+{re.escape(words)}", text) for k, words in enumerate(order, 1)]
        self.assertTrue(all(places), [words for words, place in zip(order, places, strict=True) if not place])

    def test_photos_are_in_the_file_and_at_their_address_on_the_page(self) -> None:
        out = io.BytesIO()
        Image.new("RGB", (40, 30), "white").save(out, "PNG")
        reading = self.run_row.readings.earliest("id")
        self.client.post(f"{self.address}readings/{reading.pk}/photo/",
                         {"photo": SimpleUploadedFile("display.png", out.getvalue(), "image/png")})  # fmt: skip
        photo = Photo.objects.get()
        self.assertContains(self.client.get(self.report), f'src="{self.address}photos/{photo.pk}/"')
        self.assertIn(f"data:{photo.content_type};base64,", self.taken("html").decode())
        pdf = PdfReader(io.BytesIO(self.taken("pdf")))
        self.assertIn((40, 30), [image.image.size for page in pdf.pages for image in page.images])


class Once(ReportTestCase):
    def test_an_archive_judges_once_and_writes_its_report_once(self) -> None:
        judges, writes = (
            patch("recensor.runs.queries.assess", wraps=assess),
            patch("recensor.reports.files.report", wraps=report),
        )
        with judges as judging, writes as writing:
            self.taken("zip")
        self.assertEqual((judging.call_count, writing.call_count), (1, 1))

    def test_a_current_that_follows_from_ohms_law_stands_in_the_report_as_in_the_ledger(self) -> None:
        self.enter(5, "0.998", "V")
        derived = self.client.get(self.address).context["bench"].ledger.ohms_law[0].current
        self.assertTrue(derived.startswith("996 µA"), derived)  # 0.998 V / 1.002 kΩ
        self.assertContains(self.client.get(self.report), f"V / R {derived}")
        self.assertIn(f"V / R {derived}", self.taken("html").decode())

    def test_a_line_in_a_report_leads_to_its_rows_on_the_page_and_nowhere_in_a_file(self) -> None:
        run = services.import_run(self.person, run_document.read((DEMO / "7-heater-coil-line.run.json").read_bytes()))
        report = f"{run.get_absolute_url()}report/"
        self.assertContains(self.client.get(report), f'href="{run.get_absolute_url()}?measurement=')
        file = self.client.get(f"{report}html/").content.decode()
        self.assertNotIn("?measurement=", file)
        self.assertIn("does not fit: read it again", file)


class CommandLine(ReportTestCase):
    def test_the_same_without_a_server_and_what_is_wrong_in_words(self) -> None:
        file = DEMO / "7-heater-coil-line.run.json"
        with tempfile.TemporaryDirectory() as name:
            for ending, begins in ((".pdf", b"%PDF"), (".xlsx", b"PK"), (".csv", b"index,")):
                to = Path(name) / f"x{ending}"
                done = judged(file, "--to", to, command="report")
                self.assertEqual((done.returncode, done.stderr), (0, b""))
                self.assertTrue(to.read_bytes().startswith(begins))
            text = "".join(page.extract_text() for page in PdfReader(Path(name) / "x.pdf").pages)
            self.assertIn("Row 4 does not fit", text)
            for target in (f"{name}/x.doc", "/no/such/folder/x.pdf"):
                done = judged(file, "--to", target, command="report")
                self.assertEqual((done.returncode, done.stdout), (2, b""))
                self.assertNotIn(b"Traceback", done.stderr)

    def test_judging_loads_no_framework(self) -> None:
        """Half a second is what it may take; what makes reports takes several."""
        code = "import sys; from recensor.cli import main; main(['judge', sys.argv[1]]); " \
               "print(sorted({'django', 'weasyprint', 'openpyxl'} & set(sys.modules)), file=sys.stderr)"  # fmt: skip
        done = subprocess.run([sys.executable, "-c", code, str(DEMO / "7-heater-coil-line.run.json")],
                              capture_output=True, text=True, check=True)  # fmt: skip
        self.assertEqual(done.stderr.strip(), "[]")
