"""A whole account goes into a file and comes back exactly as it was; what somebody wrote into such a file does not."""

import hashlib
import io
import json
import random
import uuid
import zipfile
from collections.abc import Callable, Mapping
from dataclasses import replace
from datetime import timedelta
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from PIL import Image

from recensor.board_page import kept_board as board
from recensor.core.errors import Refused
from recensor.core.plan import Order
from recensor.core.quantity import parse
from recensor.core.record import SignedAs
from recensor.experiments.models import Experiment
from recensor.experiments.services import duplicate, edit
from recensor.formats.documents import run_document
from recensor.formats.documents.checksum import checksum
from recensor.kits.services import fill_bin, make_kit, sort_part, start_sorting
from recensor.meters.models import Meter
from recensor.people.models import User
from recensor.reports.models import SectionChoice
from recensor.reports.services import choose
from recensor.runs import queries, services
from recensor.runs.models import ActLine, ActRow, Photo, ReadingRow, RunRow, SignatureRow
from recensor.site import demo
from recensor.transfer.account import row_kinds
from recensor.transfer.account.about import ABOUT, DOCUMENTS, ROWS, read_about
from recensor.transfer.account.packing import lines, pack
from recensor.transfer.account.row_kinds import KINDS
from recensor.transfer.account.unpacking import import_account
from recensor.transfer.checks import faults_of
from tests.samples import samples
from tests.served import chain_run

Change = Callable[[dict[str, Any]], None]


def content_of(archive: bytes, change: Callable[[list[Any]], None], said: Mapping[str, str] | None = None) -> bytes:
    """The archive with its rows written otherwise, and its checksum put right."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(archive)) as was, zipfile.ZipFile(out, "w") as now:
        rows = [json.loads(line) for line in was.read(ROWS).splitlines()]
        change(rows)
        content = b"".join(json.dumps(row).encode() + b"\n" for row in rows)
        about = json.loads(was.read(ABOUT)) | {"checksum": hashlib.sha256(content).hexdigest()} | dict(said or {})
        now.writestr(ROWS, content)
        now.writestr(ABOUT, json.dumps(about))
    return out.getvalue()


def changed(archive: bytes, name: str, change: Change) -> bytes:
    """The same with the first row of a kind written otherwise."""
    return content_of(archive, lambda rows: change(next(row for kind, row in rows if kind == name)))


class AccountTestCase(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        demo.load()
        cls.person = User.objects.get(username="bench-1")
        cls.reviewer = User.objects.get(username="instructor")
        cls.fill(cls.person)

    @classmethod
    def fill(cls, person: User) -> None:
        """What the demo has not: a kit with a sorting, a photo, a text, sections chosen, a run signed twice."""
        kit = make_kit(person, "Drawer")
        fill_bin(kit, 1000, 5, 7)
        sort_part(start_sorting(kit, None, 5).pk, person, parse("1.002k", "Ω"), uuid.uuid4())
        of_others = Experiment.objects.exclude(owner=person)[0]
        services.start_experiment(person, of_others)
        edit(duplicate(of_others, person), person, lambda sheet: replace(sheet, title="Mine"))
        run = queries.any_run().filter(owner=person)[1]
        sheet = queries.load(run).core.sheet
        board.change(run, sheet, sheet.setup(), lambda kept: replace(kept, built=board.plan_for(sheet, sheet.setup())))
        picture = io.BytesIO()
        Image.new("RGB", (40, 30), "white").save(picture, "PNG")
        services.attach(run, person, run.readings.first().pk, SimpleUploadedFile("p.png", picture.getvalue()), 100)
        services.write_text(run, person, "conclusion", "It *fits*.", None)
        choose(person, run, [])
        run = queries.any_run().get(pk=run.pk)
        core = queries.unsigned(run, queries.load(run))
        seen = checksum(run_document.to_tree(core))
        services.sign(run, person, SignedAs.PERFORMER, seen)
        services.sign(run, cls.reviewer, SignedAs.REVIEWER, seen)

    def packed(self, person: User) -> bytes:
        out = io.BytesIO()
        pack(person, out)
        return out.getvalue()

    def bring(self, content: bytes, person: User) -> Any:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            return import_account(person, read_about(archive), archive)

    def rows(self, person: User, *left: str) -> list[tuple[str, dict[str, Any]]]:
        return [(name, row) for name, row in lines(person) if name not in left]


class RoundTrip(AccountTestCase):
    def test_every_row_comes_back_to_the_same_name_and_to_another_all_but_signatures(self) -> None:
        was, content = self.rows(self.person), self.packed(self.person)
        self.assertGreater(len({name for name, _ in was}), 18)
        User.objects.filter(pk=self.person.pk).update(username="before")
        again = User.objects.create_user("bench-1")
        made = self.bring(content, again)
        self.assertEqual(self.rows(again), was)
        self.assertEqual(list(faults_of(made, again)), [])
        self.assertEqual(SignatureRow.objects.filter(revision__run__owner=again).count(), 2)
        for there, here in zip(
            RunRow.objects.filter(owner=self.person), RunRow.objects.filter(owner=again), strict=True
        ):
            self.assertEqual(*(self.document(run.pk) for run in (there, here)))

        other = User.objects.create_user("else")
        self.bring(content, other)
        signed = ("bench.revision", "bench.keptassessment", "bench.signature")
        came, went = self.rows(other, *signed), [row for row in was if row[0] not in signed]
        closed = [row["closed"] for name, row in went if name == "bench.run" and row["closed"]]
        self.assertEqual(len(closed), 1)
        for name, row in went:
            if name == "bench.run":
                row["closed"] = None  # whoever else could have written that
        self.assertEqual(came, went)

    def document(self, pk: int) -> str:
        run = queries.any_run().get(pk=pk)
        text = run_document.write(queries.unsigned(run, queries.load(run)))
        return text.replace('"before"', '"bench-1"')

    def test_it_comes_beside_what_is_there_and_a_school_only_to_whoever_begins(self) -> None:
        User.objects.filter(pk=self.person.pk).update(resistor_symbol="zigzag", reading_order=Order.BY_BRANCH)
        self.person.refresh_from_db()
        content, before = self.packed(self.person), self.rows(self.person)
        self.bring(content, self.person)
        names = list(self.person.meters.values_list("name", flat=True))
        self.assertEqual(sum(name.endswith("from an archive") for name in names) * 2, len(names))
        self.assertEqual(RunRow.objects.filter(owner=self.person).count(), 2 * sum(n == "bench.run" for n, _ in before))
        with self.assertRaisesRegex(Refused, "rename one"):
            self.bring(content, self.person)
        fresh = User.objects.create_user("fresh")
        self.bring(content, fresh)
        self.assertEqual(User.objects.get(pk=fresh.pk).resistor_symbol, "zigzag")

    def test_an_archive_of_before_a_column_was_there_has_what_is_usual_in_it(self) -> None:
        def as_before(rows: list[Any]) -> None:
            for kind, row in rows:
                for column in {"bench.run": ("closed", "meter_in"), "bench.reading": ("note",)}.get(kind, ()):
                    del row[column]

        person = User.objects.create_user("later")
        self.bring(content_of(self.packed(self.person), as_before), person)
        self.assertEqual({(run.closed, run.meter_in) for run in RunRow.objects.filter(owner=person)}, {(None, False)})
        self.assertEqual({row.note for row in ReadingRow.objects.filter(run__owner=person)}, {""})

    def test_anybody_can_read_it_with_other_programs(self) -> None:
        with zipfile.ZipFile(io.BytesIO(self.packed(self.person))) as archive:
            documents = [name for name in archive.namelist() if name.startswith(DOCUMENTS)]
            self.assertEqual(len(documents), RunRow.objects.filter(owner=self.person).count())
            for name in documents:
                run_document.read(archive.read(name))

    def test_every_column_that_points_somewhere_points_at_a_kind_that_comes_before_it(self) -> None:
        before: set[type] = {User}
        for kind in KINDS:
            for column in kind.columns:
                if column.remote_field:
                    self.assertIn(column.related_model, before | {kind.model}, f"{kind.name}.{column.name}")
            before.add(kind.model)
        self.assertEqual(
            set(row_kinds.PREFERENCES),
            {f.name for f in User._meta.fields if f.model is User}
            - {f.name for f in User._meta.fields if f.name in ("id", "username", "is_supervisor")}
            - {"password", "last_login", "is_superuser", "first_name", "last_name", "email", "is_staff", "is_active",
               "date_joined"},
        )  # fmt: skip


class Forged(AccountTestCase):
    def refused(self, content: bytes, said: str) -> None:
        counts = [model.objects.count() for model in (RunRow, ReadingRow, Meter, Photo, ActRow, ActLine, SectionChoice)]
        person = User.objects.create_user(f"forger {hashlib.sha256(content).hexdigest()[:8]}")
        with self.assertRaisesRegex(Refused, said):
            self.bring(content, person)
        self.assertEqual(
            [model.objects.count() for model in (RunRow, ReadingRow, Meter, Photo, ActRow, ActLine, SectionChoice)],
            counts,
        )

    def test_whatever_is_not_as_it_was_made_is_refused_and_nothing_stays(self) -> None:
        content = self.packed(self.person)
        cases = (
            ("bench.reading", "value", "99", "is kept as 99"),
            ("bench.reading", "quantity", "speed", "speed"),
            ("bench.reading", "run_sheet", 5, "another run"),
            ("bench.reading", "meter", 999, "out of range"),
            ("bench.reading", "meter", -1, "no place"),
            ("bench.reading", "run", None, "is missing"),
            ("bench.reading", "of", "R99", "no place"),
            ("bench.reading", "text", "9" * 500, "at most"),
            ("bench.reading", "found", 10**6, "out of range"),
            ("experiments.sheet", "tree", {}, "format"),
            ("experiments.experiment", "limit", "blue", "blue"),
            ("experiments.experiment", "at", 77, "does not exist"),
            ("experiments.version", "before", 77, "not there"),
            ("bench.run", "judged_by", "luck", "luck"),
            ("bench.run", "created", "yesterday", "yesterday"),
            ("bench.photo", "picture", "", "cannot identify"),
            ("bench.photo", "sum", "0" * 64, "not the one"),
            ("bench.photo", "picture", "no base64", ""),
            ("bench.act", "kind", "wish", "not known here"),
            ("bench.boardstate", "placements", [1], ""),
            ("bench.runtext", "text", "x" * 20_001, "longer"),
            ("meters.profile", "tree", {"functions": 1}, "functions"),
            ("reports.choice", "sections", ["all"], "all"),
        )
        for name, column, value, said in cases[:: samples(2, 1)]:
            with self.subTest(name=name, column=column, value=str(value)[:20]):
                self.refused(changed(content, name, lambda row, c=column, v=value: row.update({c: v})), said)
        across = content_of(content, lambda rows: next(
            row for kind, row in rows if kind == "bench.reading" and row["red"]).update(at="R99"))  # fmt: skip
        self.refused(across, "no place for .* at R99")
        self.refused(changed(content, "bench.run", lambda row: row.update(owner_id=1)), "no column")
        self.refused(changed(content, "bench.run", lambda row: row.pop("title")), "title")
        self.refused(content_of(content, lambda rows: rows.append(["people.user", {}])), "people.user")
        self.refused(content_of(content, lambda rows: rows.append(rows[0])), "too late")
        self.refused(content_of(content, lambda rows: rows.append({})), "Line")

    def test_one_wrong_byte_anywhere_in_a_row_is_refused_or_harmless(self) -> None:
        content, draw = self.packed(self.person), random.Random(5)
        names = [kind.name for kind in KINDS if any(name == kind.name for name, _ in self.rows(self.person))]
        for number in range(samples(3, 60)):
            name = draw.choice(names)

            def spoil(row: dict[str, Any]) -> None:
                column = draw.choice([*row])
                row[column] = draw.choice([None, [], {}, "", "\u0000", -1, 1e400, True, "x" * 70_000, [[{}]]])

            with self.subTest(number=number, name=name):
                person = User.objects.create_user(f"spoilt-{number}")
                try:
                    made = self.bring(changed(content, name, spoil), person)
                except Refused as error:
                    self.assertTrue(error.message)
                else:
                    self.assertEqual(list(faults_of(made, person)), [])

    def test_a_signature_that_somebody_wrote_into_a_file_is_nobodys(self) -> None:
        forged = changed(self.packed(self.person), "bench.signature", lambda row: row.update(signer="technician"))
        person = User.objects.create_user("else")
        before = SignatureRow.objects.count()
        self.bring(forged, person)
        self.assertEqual(SignatureRow.objects.count(), before)
        as_if_ours = content_of(forged, lambda rows: None, {"by": "third"})
        self.bring(as_if_ours, User.objects.create_user("third"))
        self.assertEqual(SignatureRow.objects.count(), before)
        self.assertFalse(RunRow.objects.filter(owner=person).exclude(closed=None).exists())

    def test_no_archive_at_all(self) -> None:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as archive:
            archive.writestr("about.json", '{"format": "another"}')
        later = self.packed(self.person)
        with zipfile.ZipFile(io.BytesIO(later)) as archive:
            about = archive.read(ABOUT).replace(b'"format_version": 1', b'"format_version": 9')
        newer = io.BytesIO()
        with zipfile.ZipFile(newer, "w") as archive:
            archive.writestr(ABOUT, about)
        for content in (out.getvalue(), newer.getvalue()):
            with self.assertRaises(Refused), zipfile.ZipFile(io.BytesIO(content)) as archive:
                read_about(archive)

    def test_what_an_archive_says_of_itself_is_text_and_numbers_or_refused(self) -> None:
        content = self.packed(self.person)
        for said in (
            {"made": "0001-01-01T00:00:00+14:00"}, {"made": "9999-12-31T23:59:59-14:00"}, {"made": 5}, {"made": "soon"},
            {"by": "\ud800"}, {"by": ["else"]}, {"version": "\udfff"}, {"checksum": "\ud800"}, {"checksum": None},
            {"mark": None}, {"mark": "\ud800"}, {"counts": []}, {"counts": {"bench.run": -5}}, {"unknown": 1},
            {"counts": {"bench.run": float("inf")}}, {"counts": {"bench.run": 10**4000}}, {"preferences": ["paper"]},
            {"preferences": None},
        ):  # fmt: skip
            changed_about = content_of(content, lambda rows: None, said)
            with self.subTest(said=str(said)[:40]), zipfile.ZipFile(io.BytesIO(changed_about)) as archive:
                self.assertRaisesRegex(Refused, "^What it says of itself cannot be read", read_about, archive)
        deep = io.BytesIO()
        with zipfile.ZipFile(deep, "w") as archive:
            archive.writestr(ABOUT, "[" * 49_000)
            self.assertRaisesRegex(Refused, "^What it says of itself cannot be read", read_about, archive)
        without_zone = content_of(content, lambda rows: None, {"made": "2026-01-01T00:00:00"})
        with zipfile.ZipFile(io.BytesIO(without_zone)) as archive:
            self.assertEqual(read_about(archive).made.utcoffset(), timedelta(0))
        self.assertTrue(chain_run(self.person).pk)  # and the person goes on
