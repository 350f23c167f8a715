"""Instruments and profiles on their pages: shared, copied, changed as new versions, refused at their fields."""

import json

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test.utils import CaptureQueriesContext

from recensor.core.meters import SHIPPED
from recensor.formats.documents.profile import read_profile
from recensor.formats.documents.reader import DocumentPlace
from recensor.meters.models import Meter, ProfileRow
from recensor.runs.models import ReadingRow, RunRow
from recensor.runs.queries import any_run, load
from tests.served import BenchTestCase

MANUAL, AUTOMATIC = "3½-digit manual", "6000-count automatic"


class MeterTestCase(BenchTestCase):
    def keep(self, **typed: str):
        return self.client.post("/meters/", {"name": "DMM 4", "profile": f"shipped {MANUAL}", **typed})

    def copied(self) -> ProfileRow:
        self.client.post("/meters/shipped/0/copy/")
        return ProfileRow.objects.latest("id")

    def typed(self, row: ProfileRow) -> dict[str, str]:
        """What the profile's page holds in its fields."""
        form = self.client.get(row.get_absolute_url()).context["form"]
        fields = [form, *form.jacks, *(one for rows in form.functions.values() for one in rows)]
        return {bound.html_name: str(bound.value() or "") for one in fields for bound in one}


class Instruments(MeterTestCase):
    def test_added_changed_and_nobody_elses(self) -> None:
        self.assertRedirects(self.keep(number="M-017", calibrated="2026-01-31"), "/meters/")
        meter = Meter.objects.get(name="DMM 4")
        self.assertContains(self.client.get("/meters/"), "M-017")
        self.assertContains(self.keep(), "You have a meter DMM 4 already", status_code=422)
        self.assertContains(self.keep(name="", number="M-018"), 'value="M-018"', status_code=422)
        page = f"/meters/{meter.pk}/"
        self.assertContains(self.client.get(page), 'value="2026-01-31"')
        self.client.post(page, {"name": "DMM 5", "profile": "", "number": "", "calibrated": ""})
        meter.refresh_from_db()
        self.assertEqual((meter.name, meter.profile, meter.calibrated), ("DMM 5", None, None))
        self.client.force_login(self.other)
        self.assertEqual(self.client.get(page).status_code, 404)
        self.assertNotContains(self.client.get("/meters/"), "DMM 5")

    def test_two_meters_of_a_shipped_kind_share_one_row_that_is_not_in_the_library(self) -> None:
        self.keep()
        self.keep(name="DMM 5")
        self.assertEqual(ProfileRow.objects.count(), 1)
        self.assertEqual(list(self.client.get("/meters/").context["profiles"]), [])


class Profiles(MeterTestCase):
    def test_every_shipped_one_is_shown_copied_and_exported(self) -> None:
        shipped = [profile for profile in SHIPPED.values() if profile.ranges]
        for place, profile in enumerate(shipped):
            self.assertContains(self.client.get(f"/meters/shipped/{place}/"), profile.name)
            tree = json.loads(self.client.get(f"/meters/shipped/{place}/export/").content)
            self.assertEqual(read_profile(DocumentPlace("m", tree)).ranges, profile.ranges)
            self.client.post(f"/meters/shipped/{place}/copy/")
            row = ProfileRow.objects.latest("id")
            self.assertEqual(read_profile(DocumentPlace("m", row.tree)).ranges, profile.ranges)
            self.assertEqual(self.client.post(row.get_absolute_url(), self.typed(row)).status_code, 302, profile.name)
        self.assertEqual(self.client.get(f"/meters/shipped/{len(shipped)}/").status_code, 404)

    def test_a_change_is_a_new_version_and_what_was_read_keeps_the_old_one(self) -> None:
        row = self.copied()
        self.keep(profile=str(row.pk))
        self.client.post(f"{self.address}change/", {"act": "meter", "meter": "DMM 4"})
        self.enter(0, "0.998k")
        changed = {**self.typed(row), "resistance-1-accuracy": "3 % + 5", "resistance-6-full": "", "name": "ours"}
        self.assertEqual(self.client.post(row.get_absolute_url(), changed).status_code, 302)
        newer = ProfileRow.objects.get(replaces=row)
        self.assertEqual(Meter.objects.get(name="DMM 4").profile, newer)
        self.enter(1, "2.01k")
        self.assertEqual([r.profile for r in ReadingRow.objects.order_by("id")], [row, newer])
        core = load(any_run().get(pk=self.run_row.pk)).core
        percents = [core.profile_of(reading).ranges["resistance"][1].accuracy.percent for reading in core.readings]
        self.assertEqual(percents, [1.0, 3.0])
        self.assertContains(self.client.get(row.get_absolute_url()), "It was changed since")
        self.assertContains(self.client.post(row.get_absolute_url(), changed), "changed meanwhile", status_code=422)

    def test_nonsense_is_refused_at_its_field_and_what_was_typed_stays(self) -> None:
        row = self.copied()
        good = self.typed(row)
        for field, text, said in [
            ("voltage-0-full", "lots", "not understood"), ("voltage-0-step", "3 V", "smaller than the full scale"),
            ("voltage-1-accuracy", "good", "is no accuracy"), ("voltage-2-step", "", "Write it too"),
            ("current-3-jack", "mA", "more than the 200 mA fuse"), ("current-0-jack", "A9", "There is no jack A9"),
            ("voltage-0-input_resistance", "10", "would load every circuit"), ("over_range", ",", "Say what it shows"),
            ("current-2-burden", "100", "usual is a fraction of a volt"), ("name", "", "required"),
            ("resistance-1-full", "20k", "two ranges of this full scale"), ("jack-1-fuse", "-1", "above zero"),
        ]:  # fmt: skip
            with self.subTest(field=field, text=text):
                page = self.client.post(row.get_absolute_url(), {**good, field: text})
                self.assertContains(page, said.replace("'", "&#x27;"), status_code=422)
                if text:
                    self.assertContains(page, f'value="{text}"', status_code=422)
        empty = {"name": "none", "over_range": "OL"}
        self.assertContains(self.client.post("/meters/profiles/new/", empty), "one range at least", status_code=422)
        self.assertEqual(ProfileRow.objects.filter(replaces__isnull=False).count(), 0)

    def test_what_was_exported_is_read_into_the_fields_again(self) -> None:
        content = self.client.get("/meters/shipped/1/export/").content
        page = self.client.post("/meters/profiles/new/", {"file": SimpleUploadedFile("ours.meter.json", content)})
        self.assertContains(page, 'value="ours"')
        self.assertContains(page, 'value="4 MΩ"')
        self.assertEqual(ProfileRow.objects.count(), 0)
        for content, said in [
            (b"{", "not JSON"), (b'"4000-count automatic"', "4 MΩ"), (b"[1]", "in braces"),
            (b'{"functions": {"voltage": [{"full": "4V"}]}}', "profile.functions.voltage[0].step"),
            (b"x" * 100_001, "larger than 100 kB"),
        ]:  # fmt: skip
            page = self.client.post("/meters/profiles/new/", {"file": SimpleUploadedFile("x.json", content)})
            self.assertContains(page, said, status_code=200 if said == "4 MΩ" else 422)

    def test_others_look_copy_and_export_and_do_not_change(self) -> None:
        row = self.copied()
        typed = self.typed(row)
        self.client.force_login(self.other)
        self.assertContains(self.client.get(row.get_absolute_url()), "disabled")
        self.assertEqual(self.client.post(row.get_absolute_url(), typed).status_code, 403)
        self.assertEqual(self.client.get(f"{row.get_absolute_url()}export/").status_code, 200)
        self.assertEqual(self.client.post(f"{row.get_absolute_url()}copy/").status_code, 302)
        self.assertEqual(ProfileRow.objects.latest("id").author, self.other)


class OneDoor(MeterTestCase):
    """Accuracy, display, range and loading all come from the profile of the meter that is named."""

    def setUp(self) -> None:
        super().setUp()
        self.keep(profile=f"shipped {AUTOMATIC}", number="M-017")
        self.client.post(f"{self.address}change/", {"act": "meter", "meter": "DMM 4"})

    def test_the_card_the_verdict_and_the_document(self) -> None:
        self.assertContains(self.client.get(self.address), "an ordinary handheld is assumed", count=0)
        page = self.client.get(self.at(9))
        self.assertContains(page, "expected <b>0.992 mA</b>")  # 6 V over 6 kΩ, and 50 Ω of the meter
        self.assertContains(page, "The ammeter&#x27;s 50 Ω makes it 0.83 % lower here")
        self.enter(6, "1.000")
        document = json.loads(self.client.get(f"{self.address}document/").content)
        self.assertEqual(document["meters"]["DMM 4"]["instrument"]["number"], "M-017")
        self.assertEqual(
            read_profile(DocumentPlace("m", document["meters"]["DMM 4"])).ranges, SHIPPED[AUTOMATIC].ranges
        )
        self.assertContains(self.enter(7, "2.00001"), "This meter shows steps of")

    def test_a_known_meter_costs_no_query_for_each_reading(self) -> None:
        def queries() -> int:
            with CaptureQueriesContext(connection) as captured:
                self.client.get(self.address)
            return len(captured)

        self.enter(5, "6.00")
        few = queries()
        for _ in range(9):
            self.enter(5, "6.00")
        self.assertEqual(queries(), few)

    def test_another_meter_for_one_reading_has_a_profile_of_its_own(self) -> None:
        self.keep(name="DMM 9", profile=f"shipped {MANUAL}")
        self.enter(0, "0.998k")
        self.enter(1, "2.01k", meter="DMM 9")
        core = load(any_run().get(pk=self.run_row.pk)).core
        self.assertEqual([core.profile_of(reading).name for reading in core.readings], [AUTOMATIC, MANUAL])
        self.assertEqual(RunRow.objects.get(pk=self.run_row.pk).meter.name, "DMM 4")
