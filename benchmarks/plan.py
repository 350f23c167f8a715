"""The plan: of forty readings, from the command line, and its pages against the barest page of someone signed in.

``.venv/bin/python -m benchmarks.plan``
"""

import subprocess
import sys
import tempfile
from dataclasses import replace
from pathlib import Path

from benchmarks import sites
from benchmarks.core import best
from recensor.core.circuit import asking_everything, one_line, slug
from recensor.core.judgement import assess
from recensor.core.meters import SHIPPED
from recensor.core.plan import plan, shortest
from recensor.core.record import Run
from recensor.formats.documents import run_document

LINE = "9V: 1k + (2k2 | 3k3) + 470 + (1k5 | 680 | 820) + 120 + (4k7 | 5k6) + 270 + 390; 5%"
READINGS = 40


def forty() -> Run:
    """A run of forty readings with a meter whose ranges are set by hand."""
    sheet = asking_everything(one_line.read(LINE))
    return Run(replace(sheet, asked=sheet.asked[:READINGS]), meters={"m": SHIPPED["3½-digit manual"]})


def planned(run: Run) -> None:
    """Plan once, with nothing kept from before."""
    shortest.cache_clear()
    plan(run)


def main() -> None:
    """Print the figures."""
    run = forty()
    found = plan(run)
    took, judged = best(lambda: planned(run), 20), best(lambda: assess(run), 20)
    print(
        f"plan of {len(run.sheet.asked)} readings, {found.moves} moves ({found.moves_as_asked} as asked): "
        f"{took * 1e3:.0f} ms, of which assess {judged * 1e3:.1f} ms"
    )
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "forty.run.json"
        file.write_text(run_document.write(run), encoding="utf-8")
        command = [str(Path(sys.executable).with_name("recensor")), "plan", str(file)]
        print(f"recensor plan: {best(lambda: subprocess.run(command, capture_output=True, check=True), 5):.2f} s")
    with sites.database():
        from django.contrib.auth import get_user_model

        from recensor.runs import services

        person = get_user_model().objects.create_user("bench", password="bench-bench")
        row, headers = services.start_run(person, run.sheet), sites.signed_in(person)
        whole = {name: value for name, value in headers.items() if name != "HX-Request"}
        with sites.served():
            barest = sites.asker(sites.SIGNED_IN, "GET", "/bare/page/", whole)
            pages = {
                "the plan page": sites.asker(sites.OURS, "GET", f"/runs/{row.pk}/plan/", whole),
                "the bench page": sites.asker(sites.OURS, "GET", f"/runs/{row.pk}/", whole),
                "the card for htmx": sites.asker(
                    sites.OURS, "GET", f"/runs/{row.pk}/?measurement={slug(run.sheet.asked[20])}", headers
                ),
            }
            barest()
            least = min(sites.mean(barest) for _ in range(3))
            for name, page in pages.items():
                page()
                took = min(sites.mean(page) for _ in range(3))
                print(f"{name}: {took * 1e3:.1f} ms, {took / least:.1f} times the barest page ({least * 1e3:.1f} ms)")


if __name__ == "__main__":
    main()
