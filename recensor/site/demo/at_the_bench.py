"""One person at one run of the demo, who types readings and answers what is asked."""

import uuid

from recensor.core.circuit import Target
from recensor.core.entries import Answer, AnswerKind
from recensor.core.plan import stage_of
from recensor.core.quantity import parse_beside_chooser
from recensor.core.record import Reading
from recensor.people.models import User
from recensor.runs import queries, services
from recensor.runs.models import ReadingRow, RunRow
from recensor.runs.services import Entry
from recensor.web.transactions import atomic_with_retry


class AtTheBench:
    """One person at one run."""

    def __init__(self, run: RunRow, owner: User) -> None:
        self.run = run
        self.owner = owner

    def type(self, target: Target, text: str, unit: str) -> int:
        """Type a reading and press Enter; its key in the table."""

        @atomic_with_retry
        def typed() -> int:
            loaded = queries.load_locked(self.run).with_point(target)
            quantity = parse_beside_chooser(text, target.unit, unit)
            entry = Entry(Reading(target, quantity), uuid.uuid4(), loaded.standing_at(target))
            return services.enter(self.run, loaded, self.owner, entry).row.pk

        return typed()

    def read(self, target: Target, text: str, unit: str) -> int:
        """Type a reading with power as it has to be for it; its key in the table."""
        sheet = queries.load(self.run).core.sheet
        services.switch(self.run, self.owner, target, None, on=stage_of(target, sheet).power == "ON")
        return self.type(target, text, unit)

    def answer(self, means: AnswerKind, text: str = "", target: Target | None = None) -> None:
        """Answer the question about what was typed last."""
        asked = ReadingRow.objects.filter(run=self.run).exclude(question="").latest("id")
        services.answer_question(self.run, self.owner, asked.pk, Answer(means, text, target))

    def correct(self, reading: int, name: str) -> None:
        """Put a reading right."""
        services.correct_reading(self.run, self.owner, reading, name)
