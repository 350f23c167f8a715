"""New run, sign-in, demo, headers and shipped fonts."""

import re
from pathlib import Path

from django.conf import settings
from django.contrib.auth import get_user_model
from django.template.loader import get_template
from django.test import TestCase
from fontTools.ttLib import TTFont

from recensor.bench.models import Run
from recensor.core.errors import Refused
from recensor.core.examples.shapes import Shape
from recensor.kits.models import Kit
from recensor.people.models import User
from recensor.site import demo
from tests.served import BenchTestCase

GOOD = {
    "title": "Mine",
    "source": "9",
    "shape": Shape.CHAIN.value,
    "r1": "1k",
    "r2": "2k2",
    "r3": "3,3k",
    "tolerance": "5",
    "judged_by": "percent",
    "limit": "5 %",
    "against": "measured",
    "group_first": "2",
    "group_last": "3",
}


class NewRun(BenchTestCase):
    def test_every_shape_starts_and_shows_its_circuit(self) -> None:
        for shape, nodes in [(Shape.CHAIN, "A B C"), (Shape.BANK, "A"), (Shape.CHAIN_WITH_GROUP, "A B")]:
            page = self.client.post("/runs/new/", {**GOOD, "shape": shape.value}, follow=True)
            self.assertContains(page, "R1 by itself")
            self.assertEqual(
                set(re.findall(r'node-name"[^>]*>(\w)', page.content.decode())), set(nodes.split()) | {"g"}
            )
            sheet = Run.objects.first().sheets.last().sheet.as_sheet()
            self.assertEqual(
                [p.tolerance.text if p.tolerance else None for p in sheet.parts.values()], [None] + ["5 %"] * 3
            )

    def test_what_is_wrong_is_said_at_its_field_and_what_was_typed_stays(self) -> None:
        before = Run.objects.count()
        for change, field, message in [
            ({"title": ""}, "title", "required"),
            ({"title": "x" * 10_000}, "title", "at most 120"),
            ({"source": "nine"}, "source", "not understood"),
            ({"source": "9A"}, "source", "current in A"),
            ({"source": "0"}, "source", "not above zero"),
            ({"source": "-9"}, "source", "not above zero"),
            ({"source": "9M"}, "source", "Write 9000000V or 9mV"),
            ({"source": "58", "source_tolerance": "5"}, "source", "more than 60 V DC"),
            ({"r2": "OL"}, "r2", "not above zero"),
            ({"r2": ""}, "r2", "R2 is empty"),
            ({"r3": ""}, "r3", "takes 3 to 8"),
            ({"r2": "9" * 10_000}, "r2", "10000 characters"),
            ({"r2": "9" * 30_000}, "r2", "at most 40"),
            ({"tolerance": "lots"}, "tolerance", "not understood"),
            ({"limit": ""}, "limit", "required"),
            ({"limit": "300"}, "limit", "between 0 % and 100 %"),
            ({"shape": "knot"}, "shape", "knot"),
            ({"shape": Shape.CHAIN_WITH_GROUP.value, "group_first": "3"}, "group_last", "to a later one"),
            ({"shape": Shape.CHAIN_WITH_GROUP.value, "group_first": "1"}, "group_last", "this is a parallel bank"),
            ({"judged_by": "mood"}, "judged_by", "mood"),
        ]:
            with self.subTest(field=field, message=message):
                page = self.client.post("/runs/new/", {**GOOD, **change})
                self.assertEqual(page.status_code, 422)
                self.assertIn(message, " ".join(page.context["form"].errors[field]))
                if field != "shape":
                    self.assertContains(page, 'value="2k2"' if field != "r2" else 'value="1k"', status_code=422)
        self.assertEqual(Run.objects.count(), before)

    def test_above_thirty_volts_the_bench_carries_a_standing_warning(self) -> None:
        for source, warned in [("30", False), ("31", True), ("57", True)]:
            page = self.client.post("/runs/new/", {**GOOD, "source": source}, follow=True)
            self.assertEqual("more than 30 V DC" in page.content.decode(), warned, source)

    def test_a_part_over_its_rating_is_said_before_power_on(self) -> None:
        for source, hot in [("9", False), ("24", True)]:
            page = self.client.post("/runs/new/", {**GOOD, "shape": Shape.BANK.value, "source": source}, follow=True)
            self.assertEqual("R1 takes up to 606.3 mW, more than the usual 250.0 mW" in page.content.decode(), hot)

    def test_preview_draws_as_soon_as_it_can(self) -> None:
        self.assertContains(self.client.post("/runs/new/preview/", {**GOOD, "title": ""}), "<svg")
        self.assertNotContains(self.client.post("/runs/new/preview/", {"r1": "x"}), "<svg")


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
    def test_three_runs_and_a_reset_that_touches_nobody_else(self) -> None:
        demo.load()
        mine = get_user_model().objects.create_user("owner", password="a-long-word")
        self.client.force_login(mine)
        self.client.post("/runs/new/", GOOD)
        demo.reset()
        self.assertEqual((Run.objects.filter(owner=mine).count(), Run.objects.exclude(owner=mine).count()), (1, 3))
        self.client.force_login(get_user_model().objects.get(username=demo.OWNER))
        page = self.client.get("/")
        for state in ("the books balance", "6 of 12 read", "Loop V1 · R1 · R2 is out"):
            self.assertContains(page, state)
        for run in Run.objects.filter(owner__username=demo.OWNER):
            self.assertEqual(self.client.get(run.get_absolute_url()).status_code, 200)

    def test_a_persons_account_is_never_the_demos_whatever_it_is_called(self) -> None:
        person = User.objects.create_user("instructor", password="a-long-word")
        self.client.force_login(person)
        self.client.post("/runs/new/", GOOD)
        for act in (demo.load, demo.reset):
            with self.assertRaisesMessage(Refused, "instructor is a person here"):
                act()
        demo.remove()
        self.assertEqual((Run.objects.count(), list(User.objects.all())), (1, [person]))
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
        run = Run.objects.first()
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
