"""Many reports and whole accounts in a real browser: asked for, watched, taken away, sent in pieces over a bad line."""

import io
import tempfile
import zipfile
from pathlib import Path

from django.contrib.auth import get_user_model
from django_q.models import OrmQ
from playwright.sync_api import Route, expect

from recensor.jobs import queue
from recensor.jobs.models import Job
from recensor.runs.models import RunRow
from recensor.transfer import services
from recensor.transfer.account.packing import pack
from tests.browser.pages import BrowserTestCase
from tests.served import chain_run


class Archives(BrowserTestCase):
    def work(self, steps: int) -> None:
        for task in OrmQ.objects.order_by("pk")[:steps]:
            queue.step(task.args()[0])
            task.delete()

    def test_reports_are_asked_for_watched_and_taken(self) -> None:
        for name in ("Vane", "Coil"):
            chain_run(self.person, name)
        page = self.open()
        self.sign_in(page, "/archives/")
        page.get_by_label("all 2").check()
        page.locator("select[name=ending]").select_option("Run document")
        page.get_by_role("button", name="Write the reports").click()
        expect(page.locator("#jobs")).to_contain_text("next in turn")
        self.work(1)
        expect(page.locator("#jobs")).to_contain_text("1 of 2")  # by itself
        self.work(1)
        with page.expect_download() as taken:
            page.get_by_role("link", name="Take it").click()
        with zipfile.ZipFile(taken.value.path()) as archive:
            self.assertEqual(archive.namelist(), ["001-coil.json", "002-vane.json"])
        page.get_by_role("button", name="take away").click()
        expect(page.get_by_role("link", name="Take it")).to_have_count(0)

    def test_an_account_is_sent_in_pieces_over_a_bad_line_looked_at_and_brought_in(self) -> None:
        other = get_user_model().objects.create_user("bench-2")
        for k in range(3):
            chain_run(other, f"Chain {k}")
        out = io.BytesIO()
        pack(other, out)
        file = Path(self.enterContext(tempfile.TemporaryDirectory())) / "theirs.zip"
        file.write_bytes(out.getvalue())
        page, refused = self.open(), []

        def bad_line(route: Route) -> None:
            if len(refused) < 2:
                refused.append(route.request.url)
                return route.abort()
            return route.continue_()

        self.sign_in(page, "/archives/")
        page.route("**/piece/", bad_line)
        page.locator("form[data-send]").evaluate("(form) => { form.dataset.piece = 900 }")
        page.locator("#archive-file").set_input_files(file)
        page.get_by_role("button", name="Look at it").click()
        expect(page.locator("main")).to_contain_text("Packed on")
        self.assertEqual(len(refused), 2)
        self.assertGreater(Job.objects.get().files.count(), 2)
        page.get_by_role("button", name="Bring it all in").click()
        expect(page.locator("#jobs")).to_contain_text("next in turn")
        self.work(1)
        expect(page.locator("#jobs")).to_contain_text("done")
        self.assertEqual(RunRow.objects.filter(owner=self.person).count(), 3)

    def test_a_file_that_is_too_large_says_so_and_can_be_chosen_anew(self) -> None:
        page = self.open()
        self.sign_in(page, "/archives/")
        services.MOST_SENT, most = 10, services.MOST_SENT
        self.addCleanup(setattr, services, "MOST_SENT", most)
        page.locator("#archive-file").set_input_files(
            {"name": "a.zip", "mimeType": "application/zip", "buffer": b"x" * 11}
        )
        page.get_by_role("button", name="Look at it").click()
        expect(page.locator("[data-refused]")).to_contain_text("at most")
        expect(page.get_by_role("button", name="Look at it")).to_be_enabled()
