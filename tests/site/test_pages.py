"""Beginning a run, sign-in, demo, headers and shipped fonts."""

import re
import uuid
from pathlib import Path

from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.template.loader import get_template
from django.test import TestCase
from fontTools.ttLib import TTFont

from recensor.core.errors import Refused
from recensor.core.record import SignedAs
from recensor.jobs.models import Job
from recensor.kits.models import Kit
from recensor.people.models import User
from recensor.runs import services
from recensor.runs.models import RunRow
from recensor.site import demo
from tests.served import HTMX, BenchTestCase

GOOD = {"title": "Mine", "line": "9V: 1k + 2k2 + 3,3k; 5"}


class BeginARun(BenchTestCase):
    def begin(self, line: str, **more: object):
        return self.client.post("/runs/new/", {"line": line, **more}, follow=True)

    def test_a_line_is_a_run_whatever_its_shape(self) -> None:
        for line, nodes in [("9V: 470", "A"), ("9V: 1k + 2k2 + 3,3k; 5", "A B C"), ("9V: 1k | 2k2; 5%", "A"),
                            ("12V: 1k + (2k2 | 3k3); 5 %", "A B")]:  # fmt: skip
            page = self.begin(line)
            self.assertContains(page, "R1 by itself")
            drawn = set(re.findall(r'node-name"[^>]*>(\w)', page.content.decode()))
            self.assertEqual(drawn, set(nodes.split()) | {"g"})
            run = RunRow.objects.first()
            self.assertEqual(run.title, line)
            tolerances = {
                p.tolerance.text if p.tolerance else None for p in run.sheets.get().sheet.as_sheet().parts.values()
            }
            self.assertEqual(len(tolerances - {None}), int(";" in line))
        self.assertContains(self.client.get("/runs/new/"), "?line=9V%3A%20470")  # to be begun with again

    def test_what_is_wrong_is_marked_in_the_line_and_what_was_typed_stays(self) -> None:
        before = RunRow.objects.count()
        for change, field, message in [
            ({"line": ""}, "line", "Write the circuit in one line"),
            ({"line": "9V 1k"}, "line", "before a colon"),
            ({"line": "9: 1k"}, "line", "needs its unit"),
            ({"line": "9V: 1k + bananas"}, "line", "not understood"),
            ({"line": "9V: blue grey"}, "line", "3 to 6 bands"),
            ({"line": "9V: (1k"}, "line", "not closed"),
            ({"line": "9V: " + "1k + " * 5000 + "1k"}, "line", "at most"),
            ({"line": "61V: 1k"}, "line", "more than 60 V DC"),
            ({"title": "x" * 10_000}, "title", "at most 120"),
            ({"limit": "300"}, "limit", "between 0 % and 100 %"),
            ({"judged_by": "mood"}, "judged_by", "mood"),
            ({"kit": "x"}, "kit", "valid choice"),
        ]:
            with self.subTest(field=field, message=message):
                page = self.client.post("/runs/new/", {**GOOD, **change})
                self.assertEqual(page.status_code, 422)
                self.assertIn(message, " ".join(page.context["form"].errors[field]))
                if "line" not in change:
                    self.assertContains(page, 'value="9V: 1k + 2k2 + 3,3k; 5"', status_code=422)
        marked = self.client.post("/runs/new/", {"line": "9V: 1k + bananas"})
        self.assertContains(marked, "<mark>bananas</mark>", status_code=422)
        self.assertEqual(RunRow.objects.count(), before)

    def test_doubtful_bands_keep_both_values_until_the_part_is_measured(self) -> None:
        page = self.begin("9V: blue grey brown + red/orange violet red gold; 5")
        run = page.context["run"]
        self.assertEqual(self.parts(run)["R2"].maybe, ("2.7k 5%", "3.7k 5%"))
        for part, text, nominal in [("R1", "677", None), ("R2", "3.66", "3.7k")]:
            unit = {"unit": "kΩ", "unit_is_default": "on"} if part == "R2" else {}
            data = {"measurement": f"of.r.{part}", "text": text, **unit, "key": str(uuid.uuid4())}
            self.client.post(f"{run.get_absolute_url()}record/", data, headers=HTMX)
            known = self.parts(run)["R2"].nominal
            self.assertEqual(known.text if known else None, nominal)
        page = self.client.get(run.get_absolute_url())
        self.assertContains(page, "3.66 kΩ")
        self.assertNotContains(page, "data-question")

    @staticmethod
    def parts(run: RunRow) -> dict:
        return run.sheets.last().sheet.as_sheet().parts

    def test_read_off_a_screen_any_voltage_goes_and_no_power_is_switched(self) -> None:
        page = self.begin("90V: 1k + 2k2", simulated="on")
        self.assertContains(page, "Simulated")
        voltage = self.client.get(f"{page.context['run'].get_absolute_url()}?read=A+B&quantity=voltage")
        self.assertNotContains(voltage, "Circuit connected and on")

    def test_out_of_a_file(self) -> None:
        for name, content in [("divider.cir", "* divider\nV1 a 0 9\nR1 a b 1k\nR2 b 0 2.2k\n.end\n"),
                              ("run.json", self.client.get(f"{self.address}document/").content.decode())]:  # fmt: skip
            page = self.begin("", file=SimpleUploadedFile(name, content.encode()))
            self.assertContains(page, "R1 by itself")
        for content in (b"", b"\xff\xfe", b"{", b"* nothing\n.end\n"):
            page = self.client.post("/runs/new/", {"file": SimpleUploadedFile("x", content)})
            self.assertContains(page, "field-error", status_code=422)

    def test_above_thirty_volts_the_bench_carries_a_standing_warning(self) -> None:
        for source, warned in [("30", False), ("31", True), ("57", True)]:
            page = self.begin(f"{source}V: 1k + 2k2")
            self.assertEqual("more than 30 V DC" in page.content.decode(), warned, source)

    def test_a_part_over_its_rating_is_said_before_power_on(self) -> None:
        for source, hot in [("9", False), ("24", True)]:
            page = self.begin(f"{source}V: 1k | 2k2 | 3k3; 5")
            self.assertEqual("R1 takes up to 606.3 mW, more than the usual 250.0 mW" in page.content.decode(), hot)

    def test_the_circuit_is_drawn_while_the_line_is_typed(self) -> None:
        self.assertContains(self.client.post("/runs/new/preview/", GOOD), "<svg")
        several = {"line": "9V: R1=1k + 2,2k; 5, R1 | R2, R2 open"}
        self.assertContains(self.client.post("/runs/new/preview/", several), "R1 | R2, R2 out.")
        wrong = {"line": "9V: 1k + 2k2, R1 | R9"}
        self.assertContains(self.client.post("/runs/new/preview/", wrong), "R9 is not among the parts")
        for line in ("", "9V: 1k + ", "9V: 1k + x", "\x00", "🙂" * 3000):
            self.assertNotContains(self.client.post("/runs/new/preview/", {"line": line}), "<svg")


class SignIn(TestCase):
    def test_names_are_told_apart_by_case_and_guessing_is_slowed_down(self) -> None:
        people = get_user_model().objects
        people.create_user("bench", password="a-long-word")
        people.create_user("Bench", password="another-word")

        def sign_in(name: str, password: str):
            return self.client.post("/sign-in/", {"username": name, "password": password})

        self.assertContains(sign_in("bench", "another-word"), "do not belong together")
        self.assertRedirects(sign_in("Bench", "another-word"), "/")
        self.client.post("/sign-out/")
        for _ in range(settings.AXES_FAILURE_LIMIT):
            locked = sign_in("bench", "wrong")
        self.assertContains(locked, "Too many wrong passwords", status_code=429)
        self.assertEqual(sign_in("bench", "a-long-word").status_code, 429)
        self.assertRedirects(sign_in("Bench", "another-word"), "/")

    def test_pages_allow_nothing_from_elsewhere_and_no_inline_script(self) -> None:
        page = self.client.get("/sign-in/")
        policy = page["Content-Security-Policy"]
        self.assertIn("default-src 'self'", policy)
        self.assertNotIn("unsafe", policy)
        self.assertContains(self.client.get("/no/such/page/"), "There is nothing here", status_code=404)
        for template in Path(settings.ROOT, "recensor").rglob("templates/**/*.*"):
            text = template.read_text()
            self.assertNotRegex(text, r"""\bstyle=|\bon\w+=["']|https?://(?!www\.w3\.org)""", template.name)
            get_template(str(template).split("/templates/")[1])


class Demo(TestCase):
    def test_its_runs_and_a_reset_that_touches_nobody_else(self) -> None:
        demo.load()
        mine = get_user_model().objects.create_user("owner", password="a-long-word")
        self.client.force_login(mine)
        self.client.post("/runs/new/", GOOD)
        theirs = RunRow.objects.get(title="Dew heater bank")
        self.client.force_login(theirs.owner)
        for power in ("OFF", "ON"):
            self.client.post(f"{theirs.get_absolute_url()}power/", {"power": power})
        self.assertTrue(theirs.moves.exists())
        self.client.post("/meters/shipped/0/copy/")
        services.write_text(theirs, theirs.owner, "notes", "dry", None)
        seen = self.client.get(f"{theirs.get_absolute_url()}report/").context["seen"]
        services.sign(theirs, theirs.owner, SignedAs.PERFORMER, seen)
        self.client.post("/archives/account/")
        self.client.force_login(mine)
        self.client.post("/archives/account/")
        demo.reset()
        self.assertEqual([job.person for job in Job.objects.all()], [mine])
        self.assertEqual(
            (RunRow.objects.filter(owner=mine).count(), RunRow.objects.exclude(owner=mine).count()), (1, 11)
        )
        self.client.force_login(get_user_model().objects.get(username=demo.OWNER))
        page = self.client.get("/")
        for state in ("everything balances", "6 of 12 read", "Loop V1 · R1 · R2 is out", "Regulator feed"):
            self.assertContains(page, state)
        out = ["Dew heater coil, its line", "Night battery under load", "Rain gauge divider under load",
               "Temperature bridge, one arm", "Wind vane drops, a busy morning"]  # fmt: skip
        done = ["Station light, turned round and right", "Wind vane ladder"]
        to_read = ["Dew heater bank", "Mast lamp, cold and lit", demo.mess.TITLE, demo.three_resistors.TITLE]
        for stands, titles in [("done", done), ("out or outside", out), ("to read", to_read), ("moods", None)]:
            listed = self.client.get("/", {"stands": stands}).context["runs"]
            if titles is None:
                self.assertEqual(len(listed), 11)
            else:
                self.assertEqual(sorted(one.run.title for one in listed), sorted(titles))
        for run in RunRow.objects.filter(owner__username=demo.OWNER):
            self.assertEqual(self.client.get(run.get_absolute_url()).status_code, 200)
        resistors = RunRow.objects.get(title=demo.three_resistors.TITLE)
        self.assertContains(self.client.get(resistors.get_absolute_url()), "30 of 31 read")
        mess = RunRow.objects.get(title=demo.mess.TITLE)
        page = self.client.get(f"{mess.get_absolute_url()}change/")
        for happened in (
            "another unit was meant",
            "the leads were turned",
            "read again",
            "was set anew",
            "R2 exchanged",
        ):
            self.assertContains(page, happened)

    def test_a_persons_account_is_never_the_demos_whatever_it_is_called(self) -> None:
        person = User.objects.create_user("instructor", password="a-long-word")
        self.client.force_login(person)
        self.client.post("/runs/new/", GOOD)
        for act in (demo.load, demo.reset):
            with self.assertRaisesMessage(Refused, "instructor is a person here"):
                act()
        demo.remove()
        self.assertEqual((RunRow.objects.count(), list(User.objects.all())), (1, [person]))
        self.client.logout()
        self.assertNotContains(self.client.get("/sign-in/"), "Demo")

    def test_taken_away_but_for_what_is_somebodys_own(self) -> None:
        demo.load()
        self.assertContains(self.client.get("/sign-in/"), "<b>instructor</b>")
        # One of its accounts gets a password of its own, and takes parts out of the kit of another.
        taken, keeper = User.objects.get(username="bench-2"), User.objects.get(username=demo.KEEPER)
        self.client.force_login(taken)
        new = "long-enough-9"
        change = {"old_password": settings.DEMO_PASSWORD, "new_password1": new, "new_password2": new}
        self.assertRedirects(self.client.post("/password/", change), "/")
        self.client.post("/runs/new/", {**GOOD, "kit": keeper.kits.get().pk})
        demo.remove()
        self.assertEqual(taken.runs.get().drawn_parts.count(), 3)
        keeper.refresh_from_db()
        self.assertEqual((keeper.is_active, keeper.has_usable_password()), (False, False))
        self.assertEqual(set(User.objects.all()), {taken, keeper})
        self.client.logout()
        self.assertNotContains(self.client.get("/sign-in/"), "Demo")

    def test_nobody_stands_above_the_rules(self) -> None:
        demo.load()
        run = RunRow.objects.first()
        self.client.force_login(User.objects.create_superuser("keeper", password="a-long-word"))
        self.assertEqual(self.client.get(run.get_absolute_url()).status_code, 404)
        self.assertEqual(self.client.post(f"{run.get_absolute_url()}record/", {"text": "1"}).status_code, 404)
        kit = Kit.objects.get(name=demo.kit.NAME)
        self.assertEqual(self.client.post(f"{kit.get_absolute_url()}fill/", {"value": "1k"}).status_code, 403)


class Fonts(TestCase):
    def test_every_character_that_is_shown_is_in_a_shipped_font(self) -> None:
        root = Path(settings.ROOT) / "recensor"
        covered = set()
        for file in root.glob("site/static/vendor/*/*.woff2"):
            covered |= set(TTFont(file).getBestCmap())
        self.assertGreater(len(covered), 1000)
        for file in [
            *root.rglob("*.py"),
            *root.rglob("*.html"),
            *root.rglob("*.svg"),
            *root.glob("site/static/js/*.js"),
        ]:
            beyond = {c for c in file.read_text() if ord(c) > 126 and ord(c) not in covered} - set(
                "\u202f\u2009\u00a0\u2126"
            )
            self.assertEqual(beyond, set(), file.name)
