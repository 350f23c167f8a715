"""The list of runs of somebody who has very many, against that of somebody who has few:
``.venv/bin/python -m benchmarks.lists``.
"""

from functools import partial

from benchmarks import sites
from benchmarks.core import best

FEW, MANY, ASKED = 20, 20_000, 15


def main() -> None:
    """Make the runs, take turns, print the ratio."""
    with sites.database():
        from django.conf import settings
        from django.contrib.auth import get_user_model
        from django.test import Client
        from django.utils import timezone

        from recensor.core.circuit import one_line
        from recensor.runs import services
        from recensor.runs.models import RunRow, RunSheet

        settings.ALLOWED_HOSTS.append("testserver")
        lists = {}
        for name, count in (("few", FEW), ("many", MANY)):
            person = get_user_model().objects.create_user(name)
            sheet = services.start_run(person, one_line.read("9V: 1k + (2k | 3k); 5%")).sheets.get().sheet
            RunRow.objects.bulk_create([RunRow(owner=person, title="One of many") for _ in range(count - 1)], 2000)
            RunSheet.objects.bulk_create(
                [
                    RunSheet(run=run, sheet=sheet, kind=RunSheet.Kind.START, author=person, time=timezone.now())
                    for run in RunRow.objects.filter(owner=person, sheets=None)
                ],
                2000,
            )
            client = Client()
            client.force_login(person)
            lists[name] = partial(client.get, "/")
        few, many = (best(ask, ASKED) for ask in lists.values())
        print(f"list of {FEW} runs: {few * 1e3:.1f} ms; of {MANY}: {many * 1e3:.1f} ms, {many / few:.2f} times")


if __name__ == "__main__":
    main()
