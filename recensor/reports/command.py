"""``recensor report FILE --to NAME``: a run document as a report or a table, without a server or a database."""

import os
from pathlib import Path

import django

from recensor.core.record import Run
from recensor.drawing.conventions import Conventions


def write(run: Run, to: Path, *, letter: bool = False) -> None:
    """Write a run to a file, in the form that its ending names. Raises `Refused` for another ending."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "recensor.site.settings")
    os.environ.setdefault("SECRET_KEY", "no site, nothing is signed")
    django.setup()
    from recensor.reports import files
    from recensor.reports.content import loaded_from

    to.write_bytes(files.of(to.suffix, files.ReportRequest(loaded_from(run), Conventions(letter=letter))))
