"""What the web tests share: people, runs and short ways to act."""

import uuid

from django.conf import settings
from django.contrib.auth import get_user_model
from django.http import HttpResponse
from django.test import Client, TestCase

from recensor.bench import queries, services
from recensor.bench.models import Run
from recensor.bench.rows import target_of_token
from recensor.core.examples.shapes import Shape, shaped
from recensor.core.plan import stage_of
from tests.written import part

HTMX = {"HX-Request": "true"}


def chain_run(owner: object, title: str = "Chain") -> Run:
    """A run of three resistors in series: points 0-2 parts, 3 total, 4 source, 5-8 voltages, 9 current."""
    resistors = [part(f"R{k}", value, "5%") for k, value in enumerate(["1k", "2k", "3k"], 1)]
    return services.start_run(owner, shaped(Shape.CHAIN, title, part("V1", "6"), resistors))


def switch_for(run: Run, person: object, point: object, place: str = "") -> None:
    """Switch power as the card of a point says."""
    run = queries.any_run().get(pk=run.pk)
    loaded = queries.load(run)
    target = target_of_token(place, loaded.core.sheet) if place else None
    if target is None and str(point).isdecimal() and int(point) < len(loaded.points):
        target = loaded.points[int(point)]
    if target is not None and not run.simulated and loaded.core.sheet.setups:
        services.switch(run, person, target, None, on=stage_of(target, loaded.core.sheet).power == "ON")


class BenchTestCase(TestCase):
    """Two people; the first is signed in and has a run."""

    @classmethod
    def setUpTestData(cls) -> None:
        people = get_user_model().objects
        cls.person, cls.other = (people.create_user(name, password="a-long-word") for name in ("bench-1", "bench-2"))
        cls.run_row = chain_run(cls.person)
        signed_in = Client()
        signed_in.force_login(cls.person)
        cls.session = signed_in.cookies[settings.SESSION_COOKIE_NAME].value

    def setUp(self) -> None:
        self.client.cookies[settings.SESSION_COOKIE_NAME] = self.session
        self.address = self.run_row.get_absolute_url()

    def enter(
        self, point: object, text: str, unit: str = "", key: object = None, *, switches: bool = True, **more: str
    ) -> HttpResponse:
        """Type a reading and press Enter, after switching power where the card says so."""
        if switches:
            switch_for(self.run_row, self.person, point, more.get("place", ""))
        data = {"point": point, "text": text, "unit": unit, "key": key or uuid.uuid4(), **more}
        return self.client.post(f"{self.address}record/", data, headers=HTMX)
