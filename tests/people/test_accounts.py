"""Signing in, being kept out, passwords, sign-ins one can end, and accounts that a supervisor makes."""

import json
import re
from contextlib import contextmanager
from datetime import timedelta
from pathlib import Path

from axes.models import AccessAttempt
from django.conf import settings
from django.contrib.auth.hashers import make_password
from django.contrib.auth.password_validation import validate_password
from django.core import mail
from django.core.exceptions import ValidationError
from django.core.management import call_command
from django.http import HttpResponse
from django.test import Client, TestCase, override_settings
from django.utils import timezone

from recensor.people.models import Session, User
from recensor.site import demo, logs

WORD = "four-grey-herons"


@contextmanager
def events():
    """What the log of security gets meanwhile, as it stands in the file."""
    file, seen = Path(settings.LOGS, logs.SECURITY), []
    before = file.read_text().count("\n") if file.exists() else 0
    yield seen
    lines = file.read_text().splitlines() if file.exists() else []
    seen.extend(json.loads(line) for line in lines[before:])


class SignIn(TestCase):
    def setUp(self) -> None:
        self.person = User.objects.create_user("bench-7", password=WORD)

    def sign_in(self, name: str, password: str, address: str = "10.0.0.1", client: Client | None = None, **more: str):
        form = {"username": name, "password": password}
        return (client or self.client).post("/sign-in/", form, REMOTE_ADDR=address, **more)

    @override_settings(PASSWORD_HASHERS=settings.REAL_HASHERS)
    def test_passwords_are_argon2id_and_older_hashes_are_made_anew(self) -> None:
        self.person.password = make_password(WORD, hasher="pbkdf2_sha256")
        self.person.save()
        self.assertRedirects(self.sign_in("bench-7", WORD), "/")
        self.person.refresh_from_db()
        self.assertTrue(self.person.password.startswith("argon2$argon2id$v=19$m=19456,t=2,p=1$"))

    def test_a_name_is_locked_out_from_one_address_and_a_spray_from_one_for_every_name(self) -> None:
        for _ in range(settings.AXES_FAILURE_LIMIT):
            locked = self.sign_in("bench-7", "wrong")
        self.assertContains(locked, "this name from elsewhere", status_code=429)
        self.assertTrue(0 < int(locked["Retry-After"]) <= 15 * 60)
        self.assertEqual(self.sign_in("bench-7", WORD).status_code, 429)
        self.assertRedirects(self.sign_in("bench-7", WORD, "10.0.0.2"), "/")
        with override_settings(FAILURES_OF_AN_ADDRESS=20):
            sprayed = [
                self.sign_in(f"bench-{number}", WORD + "x", "10.0.0.3", Client()).status_code for number in range(21)
            ]
            self.assertEqual((set(sprayed[:19]), sprayed[20]), ({200}, 429))
            refused = self.sign_in("bench-7", WORD, "10.0.0.3", Client())
            self.assertContains(refused, "from this address", status_code=429)
            self.assertRedirects(self.sign_in("bench-7", WORD, "10.0.0.2", Client()), "/")

    def test_wrong_passwords_before_the_right_one_are_forgotten(self) -> None:
        for _ in range(3):
            for _ in range(settings.AXES_FAILURE_LIMIT - 1):
                self.sign_in("bench-7", "wrong")
            self.assertRedirects(self.sign_in("bench-7", WORD, client=Client()), "/")

    def test_a_clock_that_was_wrong_locks_nobody_out(self) -> None:
        for _ in range(settings.AXES_FAILURE_LIMIT):
            self.sign_in("bench-7", "wrong")
        AccessAttempt.objects.update(attempt_time=timezone.now() + timedelta(days=3))
        self.assertRedirects(self.sign_in("bench-7", WORD), "/")
        call_command("clear")
        self.assertFalse(AccessAttempt.objects.exists())

    def test_the_client_behind_a_stated_proxy_is_told_apart_and_nobody_else_is_believed(self) -> None:
        with override_settings(PROXIES=["192.0.2.0/24"]):
            for _ in range(settings.AXES_FAILURE_LIMIT):
                self.proxied("bench-7", "wrong", "10.9.9.9, 10.0.0.5, 192.0.2.7")
            self.assertEqual(AccessAttempt.objects.get().ip_address, "10.0.0.5")
            self.assertEqual(self.proxied("bench-7", WORD, "10.0.0.5").status_code, 429)
            self.assertRedirects(self.proxied("bench-7", WORD, "10.0.0.6"), "/")
        self.sign_in("bench-7", "wrong", "203.0.113.9", Client(), HTTP_X_FORWARDED_FOR="10.0.0.8")
        self.assertTrue(AccessAttempt.objects.filter(ip_address="203.0.113.9").exists())

    def proxied(self, name: str, password: str, forwarded: str) -> HttpResponse:
        return self.sign_in(name, password, "192.0.2.1", Client(), HTTP_X_FORWARDED_FOR=forwarded)

    def test_a_proxy_on_another_host_says_https_and_is_not_sent_in_circles(self) -> None:
        with override_settings(PROXIES=["192.0.2.1"], SECURE_SSL_REDIRECT=True):
            for address, status in [("192.0.2.1", 200), ("192.0.2.9", 301)]:
                page = Client().get("/sign-in/", REMOTE_ADDR=address, HTTP_X_FORWARDED_PROTO="https")
                self.assertEqual(page.status_code, status, address)

    def test_what_is_guessed_first_is_no_password(self) -> None:
        for password in [
            "technician1", "aaaaaaaaaaaa", "wind-vane", "my-wind-vane-9", "Recensor2026!", "bench-board-12", "short",
            "bench-7-bench-7", "ababababababab", "1234567890", "password1234",
        ]:  # fmt: skip
            with self.subTest(password), self.assertRaises(ValidationError):
                validate_password(password, self.person)
        for password in [
            WORD,
            "correct resistor staple",
            "ohm sweet ohm at home",
            "Ж" * 3 + "кафедра-7",
            "x9" * 3 + "qwzv",
        ]:
            validate_password(password, self.person)

    def test_the_password_page_slows_guessing_down_and_ends_other_sign_ins(self) -> None:
        elsewhere = Client()
        for client in (self.client, elsewhere):
            self.sign_in("bench-7", WORD, client=client)
        form = {"old_password": WORD, "new_password1": "five-grey-herons", "new_password2": "five-grey-herons"}
        with events() as seen:
            self.assertRedirects(self.client.post("/password/", form, REMOTE_ADDR="10.0.0.1"), "/")
        self.assertEqual([event["event"] for event in seen], ["password changed"])
        self.assertEqual(Session.objects.count(), 1)
        self.assertEqual((self.client.get("/").status_code, elsewhere.get("/").status_code), (200, 302))
        guess = {**form, "old_password": "seven-grey-herons"}
        wrong = [
            self.client.post("/password/", guess, REMOTE_ADDR="10.0.0.1").status_code
            for _ in range(settings.AXES_FAILURE_LIMIT + 1)
        ]
        self.assertEqual((wrong[0], wrong[-1]), (200, 429))
        self.assertNotIn("herons", str(AccessAttempt.objects.values()))

    def test_every_event_is_a_line_with_who_and_from_where_and_no_password(self) -> None:
        with events() as seen:
            self.sign_in("bench-7", "wrong")
            self.sign_in(WORD, "typed into the wrong field")
            self.sign_in("bench-7", WORD)
            self.client.get("/runs/999999/")
            self.client.get("/people/")
            self.client.post("/sign-out/")
            self.client.get("/", headers={"host": "elsewhere.example"})
            Client(enforce_csrf_checks=True).post("/sign-in/", {"username": "bench-7"})
        told = [(event["event"], event.get("account") or event.get("person")) for event in seen]
        self.assertEqual(
            told,
            [
                ("sign-in failed", "bench-7"),
                ("sign-in failed", None),
                ("signed in", "bench-7"),
                ("access refused", "bench-7"),
                ("signed out", "bench-7"),
                ("bad host", None),
                ("missing token", None),
            ],
        )
        self.assertEqual({event["address"] for event in seen[:3]}, {"10.0.0.1"})
        self.assertNotIn(WORD, json.dumps(seen))


class SignIns(TestCase):
    def setUp(self) -> None:
        self.person = User.objects.create_user("bench-7", password=WORD)
        self.phone = Client(HTTP_USER_AGENT="Mozilla/5.0 (Linux; Android 14) Chrome/140 Safari/537")
        for client in (self.client, self.phone):
            client.post("/sign-in/", {"username": "bench-7", "password": WORD})

    def test_are_listed_and_ended_one_by_one_or_all_but_this_one(self) -> None:
        page = self.client.get("/sign-ins/")
        self.assertContains(page, "Chrome on Android")
        name = next(row["name"] for row in page.context["sign_ins"] if not row["here"])
        for client in (self.client, self.phone):
            self.assertNotContains(page, client.session.session_key)
        other = User.objects.create_user("bench-8")
        self.other = Client()
        self.other.force_login(other)
        self.other.post("/sign-ins/", {"end": name})
        self.assertEqual(self.phone.get("/").status_code, 200)
        self.client.post("/sign-ins/", {"end": name})
        self.assertEqual((self.phone.get("/").status_code, self.client.get("/").status_code), (302, 200))
        self.phone.post("/sign-in/", {"username": "bench-7", "password": WORD})
        self.client.post("/sign-ins/")
        self.assertEqual((self.phone.get("/").status_code, self.client.get("/").status_code), (302, 200))

    def test_end_when_not_used_and_in_any_case_after_a_week(self) -> None:
        row = Session.objects.get(pk=self.client.session.session_key)
        # Used now and then it lasts; each use is noted no oftener than every few minutes.
        expires = timezone.now() + timedelta(hours=1)
        Session.objects.filter(pk=row.pk).update(expire_date=expires)
        self.assertEqual(self.client.get("/").status_code, 200)
        row.refresh_from_db()
        self.assertGreater(row.expire_date, timezone.now() + timedelta(hours=7, minutes=59))
        with self.assertNumQueries(2):  # the session and its person are read; nothing is written
            self.client.get("/no-such-page/")
        Session.objects.filter(pk=row.pk).update(begun=timezone.now() - settings.SESSION_LONGEST)
        self.assertEqual(self.client.get("/").status_code, 302)
        Session.objects.filter(pk=self.phone.session.session_key).update(expire_date=timezone.now())
        self.assertEqual(self.phone.get("/").status_code, 302)
        call_command("clear")
        self.assertFalse(Session.objects.filter(account=self.person).exists())


class People(TestCase):
    def setUp(self) -> None:
        self.keeper = User.objects.create_user("keeper", password=WORD, is_supervisor=True)
        self.client.force_login(self.keeper)

    def act(self, name: str, act: str) -> HttpResponse:
        return self.client.post(f"/people/{User.objects.get(username=name).pk}/", {"act": act})

    def link(self, page: HttpResponse) -> str:
        return re.search(r"http://testserver(/set-password/\S+/)\"", page.content.decode())[1]

    def open(self, link: str) -> tuple[Client, HttpResponse]:
        client = Client()
        return client, client.get(link, follow=True)

    def test_an_account_is_made_by_a_link_that_opens_once(self) -> None:
        with events() as seen:
            page = self.client.post("/people/", {"name": "bench-3"})
        made = [(event["event"], event["person"], event["account"]) for event in seen]
        self.assertEqual(made, [(what, "keeper", "bench-3") for what in ("account made", "link to set a password")])
        old, link = self.link(page), self.link(self.act("bench-3", "link"))
        self.assertContains(self.open(old)[1], "does not open anything")
        bench, form = self.open(link)
        self.assertContains(form, "You sign in as <b>bench-3</b>")
        address = form.redirect_chain[-1][0]
        weak = bench.post(address, {"new_password1": "technician1", "new_password2": "technician1"})
        self.assertContains(weak, "guessed first")
        done = bench.post(address, {"new_password1": WORD, "new_password2": WORD}, follow=True)
        self.assertContains(done, "bench-3")
        self.assertContains(self.open(link)[1], "does not open anything")
        self.assertContains(self.client.post("/people/", {"name": "bench-3"}), "of this name already", status_code=422)
        self.assertContains(self.client.post("/people/", {"name": "a b"}), "valid username", status_code=422)
        self.assertEqual(bench.get("/people/").status_code, 403)
        self.assertFalse(User.objects.get(username="bench-3").is_superuser)

    def test_rights_are_given_and_taken_accounts_closed_and_opened_and_each_is_noted(self) -> None:
        bench = Client()
        bench.force_login(User.objects.create_user("bench-3", password=WORD))
        with events() as seen:
            self.act("bench-3", "make supervisor")
            self.assertEqual(bench.get("/people/").status_code, 200)
            self.act("bench-3", "make ordinary")
            self.assertEqual(bench.get("/people/").status_code, 403)
            self.act("bench-3", "close")
            self.assertEqual(bench.get("/").status_code, 302)
            self.assertContains(self.open(self.link(self.act("bench-3", "link")))[1], "does not open anything")
            self.act("bench-3", "open")
            self.assertEqual(self.act("keeper", "close").status_code, 422)
            self.assertEqual(self.act("bench-3", "?").status_code, 422)
        told = [event["event"] for event in seen if event["event"].startswith("account")]
        self.assertEqual(told, [f"account: {act}" for act in ("make supervisor", "make ordinary", "close", "open")])
        self.assertTrue(User.objects.get(username="keeper").is_active)

    def test_whoever_is_locked_out_is_let_in_again(self) -> None:
        bench = Client()
        User.objects.create_user("bench-3", password=WORD)
        for _ in range(settings.AXES_FAILURE_LIMIT):
            bench.post("/sign-in/", {"username": "bench-3", "password": "wrong"})
        self.assertContains(self.client.get("/people/"), "locked out: wrong passwords")
        self.act("bench-3", "let in")
        self.assertRedirects(bench.post("/sign-in/", {"username": "bench-3", "password": WORD}), "/")

    def test_a_published_password_makes_no_accounts(self) -> None:
        demo.load()
        self.assertEqual(self.act("instructor", "make supervisor").status_code, 422)
        self.assertFalse(User.objects.exclude(demo=None).filter(is_supervisor=True).exists())

    @override_settings(MAIL=True)
    def test_where_there_is_mail_the_link_is_sent_too(self) -> None:
        page = self.client.post("/people/", {"name": "bench-3", "mail": "bench-3@school.example"})
        self.assertContains(page, "on its way to bench-3@school.example")
        self.assertIn(self.link(page), mail.outbox[0].body)
