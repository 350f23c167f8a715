"""The bench page: one builder of everything that its templates show."""

from dataclasses import dataclass
from typing import Any

from recensor.bench import drawn_readings
from recensor.bench.forms import ReadingForm, new_key
from recensor.bench.ledger import Row, Rows, ledger
from recensor.bench.models import Run
from recensor.bench.next_reading import next_point, next_reading, stations
from recensor.bench.queries import LoadedRun
from recensor.core.judgement import Assessment, assess
from recensor.experiments.queries import content_of
from recensor.people.requests import SignedIn


@dataclass(frozen=True)
class BenchState:
    """Where a person stands at the bench: the point that is next, what was just recorded, what was refused."""

    chosen: int | None = None
    recorded: int | None = None
    correcting: int | None = None
    form: ReadingForm | None = None
    message: str = ""


def shown_beside(request: SignedIn) -> str:
    """What the drawing shows beside the parts, kept from one page part to the next."""
    asked = request.GET.get("show") or request.POST.get("show")
    return asked if asked in drawn_readings.SHOWN else drawn_readings.NOTHING


def held_by(request: SignedIn) -> frozenset[str]:
    """The sections of the ledger that the page has already, which need not be sent again."""
    return frozenset(request.headers.get("X-Held-Sections", "").split()) if request.htmx else frozenset()


@dataclass(frozen=True)
class BenchPage:
    """A judged run at the point that is read next."""

    run: Run
    loaded: LoadedRun
    assessment: Assessment
    chosen: int | None
    state: BenchState

    @classmethod
    def of(cls, run: Run, loaded: LoadedRun, state: BenchState) -> "BenchPage":
        """Judge the run, and find what is next where nothing was chosen."""
        assessment, chosen = assess(loaded.core), state.chosen
        if chosen is None or chosen >= len(loaded.points):
            chosen = next_point(loaded.points, assessment, -1 if state.recorded is None else state.recorded)
        return cls(run, loaded, assessment, chosen, state)

    @property
    def address(self) -> str:
        """The address of the page at this point."""
        return f"{self.run.get_absolute_url()}{'' if self.chosen is None else f'?point={self.chosen}'}"

    def context(self, request: SignedIn) -> dict[str, Any]:
        """What the templates show."""
        core, points = self.loaded.core, self.loaded.points
        return {
            "run": self.run,
            "ledger": ledger(core, points, self.assessment),
            "stations": list(stations(core, points, self.assessment, self.chosen)),
            "next": None if self.chosen is None else next_reading(core, points, self.assessment, self.chosen),
            "recorded": self._recorded(),
            "drawing": self._drawing(request),
            "shown_choices": drawn_readings.SHOWN,
            "shown": shown_beside(request),
            "form": self.state.form,
            "message": self.state.message,
            "entry_key": new_key(),
            "reading_ids": self.loaded.reading_ids,
            "held": held_by(request),
            "undoes": self.loaded.last_of(request.user.username),
            "correcting": self.state.correcting,
        }

    def _recorded(self) -> Row | None:
        if self.state.recorded is None:
            return None
        return Rows(self.loaded.core, self.loaded.points, self.assessment).row(self.state.recorded)

    def _drawing(self, request: SignedIn) -> str:
        target = None if self.chosen is None else self.loaded.points[self.chosen]
        shown, conventions = shown_beside(request), request.user.conventions
        if shown == drawn_readings.NOTHING:
            return drawn_readings.of_content(content_of(self.run.sheet_id), target, conventions)
        return drawn_readings.with_readings(self.loaded.core.sheet, self.assessment, target, conventions, shown)
