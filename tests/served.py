"""What the web tests share: people, runs and short ways to act."""

import uuid

from django.conf import settings
from django.contrib.auth import get_user_model
from django.http import HttpResponse
from django.test import Client, TestCase
from django.utils.module_loading import import_string
from django_q.models import OrmQ

from recensor.core.circuit import Target, slug
from recensor.core.examples.shapes import Shape, shaped
from recensor.core.plan import stage_of
from recensor.runs import queries, services
from recensor.runs.models import RunRow
from tests.written import part

HTMX = {"HX-Request": "true"}


def chain_run(owner: object, title: str = "Chain") -> RunRow:
    """A run of three resistors in series: points 0-2 parts, 3 total, 4 source, 5-8 voltages, 9 current."""
    resistors = [part(f"R{k}", value, "5%") for k, value in enumerate(["1k", "2k", "3k"], 1)]
    return services.start_run(owner, shaped(Shape.CHAIN, title, part("V1", "6"), resistors))


def address_of(run: RunRow, point: int | Target | str) -> str:
    """The address of a measurement: of the point with this number, of a target, or what is one already."""
    if isinstance(point, int):
        point = queries.load(queries.any_run().get(pk=run.pk)).points[point]
    return point if isinstance(point, str) else slug(point)


def switch_for(run: RunRow, person: object, address: str) -> None:
    """Switch power as the card of a measurement says."""
    run = queries.any_run().get(pk=run.pk)
    loaded = queries.load(run)
    target = loaded.target_at(address)
    if target is not None and not run.simulated and loaded.core.sheet.setups:
        services.switch(run, person, target, None, on=stage_of(target, loaded.core.sheet).power == "ON")


def work_off() -> None:
    """Do what stands in the queue, and what that puts into it, as a worker would."""
    while (waiting := OrmQ.objects.order_by("pk").first()) is not None:
        task = waiting.task
        import_string(task["func"])(*task["args"])
        waiting.delete()


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

    def at(self, point: int | Target | str) -> str:
        """The bench page at a measurement."""
        return f"{self.address}?measurement={address_of(self.run_row, point)}"

    def enter(
        self,
        point: int | Target | str,
        text: str,
        unit: str = "",
        key: object = None,
        *,
        switches: bool = True,
        **more: str,
    ) -> HttpResponse:
        """Type a reading and press Enter, after switching power where the card says so."""
        address = address_of(self.run_row, point)
        if switches:
            switch_for(self.run_row, self.person, address)
        data = {"measurement": address, "text": text, "unit": unit, "key": key or uuid.uuid4(), **more}
        return self.client.post(f"{self.address}record/", data, headers=HTMX)
