"""An experiment of the signed-in person, edited as its page does."""

from django.http import HttpResponse

from recensor.experiments.models import Experiment
from recensor.experiments.queries import sheet_of
from tests.served import HTMX, BenchTestCase


class ExperimentTestCase(BenchTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client.post("/experiments/new/", {"by": "line", "title": "Ladder", "line": "9V: 1k + (2k2 | 3k3); 5%"})
        self.experiment = Experiment.objects.get()
        self.page = self.experiment.get_absolute_url()

    def act(self, act: str, setup: str = "main", part: str = "", **typed: str) -> HttpResponse:
        return self.client.post(self.page, {"act": act, "setup": setup, "part": part, **typed}, headers=HTMX)

    def connections(self, setup: str = "main") -> dict[str, tuple[str, str]]:
        self.experiment.refresh_from_db()
        return dict(sheet_of(self.experiment).setups[setup].connections)
