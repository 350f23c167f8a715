"""Reports, lines and documents brought in: pages against the barest one, PDF against a bare one, memory, imports.

``.venv/bin/python -m benchmarks.reports``
"""

import resource
import uuid
from dataclasses import replace

import numpy as np
from weasyprint import HTML

from benchmarks import sites
from benchmarks.core import best
from benchmarks.plan import forty
from recensor.core.simulation import SimulatedBench, SimulatedMeter, draw_values
from tests.core.sweeps.test_sweeps import read

MANY, PDFS = 1_000, 20


def main() -> None:
    """Print the figures."""
    with sites.database():
        from django.contrib.auth import get_user_model
        from django.db import transaction

        from recensor.drawing.conventions import Conventions
        from recensor.reports.content import loaded_from, report
        from recensor.reports.printing import as_pdf
        from recensor.runs import services
        from recensor.runs.models import ReadingRow

        draw = np.random.default_rng(1)
        planned = forty()
        profile = next(iter(planned.meters.values()))
        run = SimulatedBench(planned.sheet, draw_values(planned.sheet, draw), SimulatedMeter(profile, draw)).run()
        run = replace(run, meters=planned.meters)
        person = get_user_model().objects.create_user("bench", password="bench-bench")
        row = services.import_run(person, run)
        swept = [services.import_run(person, read([(f"{v:.3f}", f"{v / 1.018:.3f}m") for v in np.linspace(1, 9, n)]))
                 for n in (5, 50)]  # fmt: skip
        headers = sites.signed_in(person)
        whole = {name: value for name, value in headers.items() if name != "HX-Request"}
        with sites.served():
            barest = sites.asker(sites.SIGNED_IN, "GET", "/bare/page/", whole)
            bare = best(barest, sites.REQUESTS)
            for name, address in (
                ("report of 40 readings", f"{row.get_absolute_url()}report/"),
                ("lines of 5 rows", f"{swept[0].get_absolute_url()}lines/"),
                ("lines of 50 rows", f"{swept[1].get_absolute_url()}lines/"),
            ):
                took = best(sites.asker(sites.OURS, "GET", address, whole), 10)
                print(f"{name}: {took * 1e3:.0f} ms, {took / bare:.1f} times the barest page ({bare * 1e3:.1f} ms)")
        loaded = loaded_from(run)
        written = report(loaded, Conventions())
        lines = "".join(f"<p>Line {k} of a page that is not about anything</p>" for k in range(150))
        paper = best(lambda: as_pdf(written, Conventions()), 3)
        plain = best(lambda: HTML(string=f"<html lang=en><title>Bare</title>{lines}").write_pdf(), 3)
        print(f"PDF of 40 readings: {paper:.2f} s, {paper / plain:.1f} times a bare one of its length ({plain:.2f} s)")
        for _ in range(PDFS):
            as_pdf(written, Conventions())
        print(f"memory after {PDFS} PDFs: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")
        many = replace(run, readings=(run.readings[0],) * MANY)

        def insert() -> None:
            made = [replace_key(one) for one in kept]
            with transaction.atomic():
                ReadingRow.objects.bulk_create(made)

        def replace_key(one: ReadingRow) -> ReadingRow:
            one.pk, one.key = None, uuid.uuid4()
            one._state.adding = True
            return one

        first = services.import_run(person, many)
        kept = list(first.readings.all())
        brought, inserted = best(lambda: services.import_run(person, many), 3), best(insert, 3)
        print(f"{MANY} readings brought in: {brought:.2f} s, {brought / inserted:.1f} times inserting their rows")
        readings = many.readings

        def take_in() -> None:
            services.import_readings(services.start_run(person, run.sheet), person, readings, uuid.uuid4())

        taken = best(take_in, 3)
        print(f"{MANY} readings out of a table: {taken:.2f} s, {taken / inserted:.1f} times inserting their rows")


if __name__ == "__main__":
    main()
