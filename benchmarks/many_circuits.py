"""Many circuits and long tables against one and a short one: ``.venv/bin/python -m benchmarks.many_circuits``.

The processor time of the server's workers for one recording, for the page, and for one circuit more.
"""

import uuid

from benchmarks import sites
from benchmarks.recording import Page
from recensor.core.circuit import USUAL_WISHES, asking_everything, one_line, slug

CIRCUITS, ROWS, SHORT = 50, 200, 10
_LINE = "9V: 1k + 2k2 + 3k3 + 4k7 + 5k6; 5%"


def main() -> None:
    """Prepare the runs, ask for each page in turn, print the ratios."""
    with sites.database():
        from django.contrib.auth import get_user_model

        from recensor.core.quantity import parse
        from recensor.core.record import Reading
        from recensor.runs import queries, services
        from recensor.runs.models import RunRow
        from recensor.runs.services.build_circuits import add_circuits
        from recensor.runs.services.line_tables import begin_table

        person = get_user_model().objects.create_user("bench", password="bench-bench")
        sheet = asking_everything(one_line.read(_LINE))
        names = [name for name in sheet.parts if name != "V1"]
        lines = [f"{a} {sign} {b} {other} {c}" for a in names for b in names for c in names
                 for sign in "+|" for other in "+|" if a < b < c or a > b > c][: CIRCUITS - 1]  # fmt: skip

        def run_of(circuits: list[str]) -> RunRow:
            run = services.start_run(person, sheet)
            for k in range(0, len(circuits), 25):
                add_circuits(run, person, "main", ", ".join(circuits[k : k + 25]), USUAL_WISHES, uuid.uuid4())
            return run

        def table_of(rows: int) -> RunRow:
            run = services.start_run(person, sheet)
            begin_table(run, person, "main", "R2", uuid.uuid4())
            (table,) = queries.load(run).core.sheet.sweeps.values()
            for step in range(rows):
                for target, text in ((table.volts_at(step), "1.0"), (table.amps_at(step), "0.45m")):
                    reading = Reading(target, parse(text, target.unit))
                    services.record_reading(
                        run, person, reading, services.numbered_key(run, 2 * step + target.is_across)
                    )
            return run

        headers = sites.signed_in(person)
        with sites.served() as servers:
            server = servers[sites.OURS]

            def cost(action: object) -> float:
                before = sites.cpu_seconds(server)
                sites.mean(action)
                return (sites.cpu_seconds(server) - before) / sites.REQUESTS

            def recording(run: RunRow) -> float:
                services.switch(run, person, sheet.asked[0], None, on=False)
                return cost(
                    Page(
                        sites.asker(sites.OURS, "POST", f"/runs/{run.pk}/record/", headers), slug(sheet.asked[0])
                    ).record
                )

            one, many, short, long = run_of([]), run_of(lines), table_of(SHORT), table_of(ROWS)
            shown = {run.pk: cost(sites.asker(sites.OURS, "GET", f"/runs/{run.pk}/", headers))
                     for run in (one, many, short, long)}  # fmt: skip
            recorded = {run.pk: recording(run) for run in (one, many, short, long)}
            fresh = run_of([])
            ask = sites.asker(sites.OURS, "POST", f"/runs/{fresh.pk}/circuits/", headers)
            opened = cost(lambda: ask({}, circuits="R1 | R2", setup="main", wish="total", key=uuid.uuid4()))
        print(f"{CIRCUITS} circuits: the page {shown[many.pk] / shown[one.pk]:.2f} times that of one, "
              f"a recording {recorded[many.pk] / recorded[one.pk]:.2f} times")  # fmt: skip
        print(f"{ROWS} rows: the page {shown[long.pk] / shown[short.pk]:.2f} times that of {SHORT}, "
              f"a recording {recorded[long.pk] / recorded[short.pk]:.2f} times")  # fmt: skip
        print(f"a circuit that is asked for again: {opened / recorded[one.pk]:.2f} times a recording")


if __name__ == "__main__":
    main()
