"""The demo: a workshop that services a rooftop weather station. Run documents beside this file, made up for it."""

from pathlib import Path

from django.conf import settings
from django.contrib.auth import get_user_model
from django.db import transaction

from recensor.bench import services
from recensor.bench.models import Act, ActLine, Reading, Run, RunSheet
from recensor.experiments.models import Sheet
from recensor.formats import run_document
from recensor.meters.models import Meter
from recensor.site.demo import experiments, kit

OWNER, KEEPER, AUTHOR = settings.DEMO_ACCOUNTS[0], settings.DEMO_ACCOUNTS[2], settings.DEMO_ACCOUNTS[3]


def sign_in_lines() -> list[str]:
    """How to sign in, for the terminal."""
    names = list(
        get_user_model().objects.filter(username__in=settings.DEMO_ACCOUNTS).values_list("username", flat=True)
    )
    if not names:
        return ["Sign in with your account."]
    return [f"Sign in as {', '.join(sorted(names))} with the password {settings.DEMO_PASSWORD}."]


@transaction.atomic
def load() -> None:
    """Make the demo's accounts where they are missing, its kit, its experiments and its runs."""
    accounts = get_user_model().objects
    for name in settings.DEMO_ACCOUNTS:
        if not accounts.filter(username=name).exists():
            accounts.create_user(name, password=settings.DEMO_PASSWORD)
    kit.load(accounts.get(username=KEEPER))
    experiments.load(accounts.get(username=AUTHOR))
    owner = accounts.get(username=OWNER)
    for file in sorted(Path(__file__).parent.glob("*.run.json"), reverse=True):
        planned = run_document.read(file.read_bytes())
        run = services.start_run(owner, planned.sheet)
        for number, reading in enumerate(planned.readings):
            row = services.record_reading(run, owner, reading, services.numbered_key(run, number))
            if reading.struck:
                services.strike_reading(row, owner, reading.struck.reason)


@transaction.atomic
def reset() -> None:
    """Take away what the demo's accounts have made and load the demo anew. Nobody else's rows are touched."""
    theirs = get_user_model().objects.filter(username__in=settings.DEMO_ACCOUNTS)
    runs = Run.objects.filter(owner__in=theirs)
    for rows in (
        ActLine.objects.filter(act__run__in=runs),
        Act.objects.filter(run__in=runs),
        Reading.objects.filter(run__in=runs),
        RunSheet.objects.filter(run__in=runs),
    ):
        rows._raw_delete(rows.db)  # the one place where append-only rows go: the demo is no record
    runs.delete()
    Meter.objects.filter(owner__in=theirs, runs=None, readings=None).delete()
    experiments.remove(theirs)
    Sheet.objects.filter(author__in=theirs, run_sheets=None, versions=None).delete()
    kit.remove(theirs)
    load()
