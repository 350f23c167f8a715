"""The demo: a workshop that services a rooftop weather station. Run documents beside this file, made up for it."""

from pathlib import Path

from django.conf import settings
from django.db import connection, transaction
from django.db.models import ProtectedError, QuerySet

from recensor.core.errors import Refused
from recensor.experiments.models import SheetRow
from recensor.formats.documents import run_document
from recensor.jobs.models import Job
from recensor.people.models import DemoAccount, User
from recensor.runs import services
from recensor.runs.models import RunRow
from recensor.site.demo import experiments, kit, mess, meters, three_resistors

OWNER, KEEPER, AUTHOR = settings.DEMO_ACCOUNTS[0], settings.DEMO_ACCOUNTS[2], settings.DEMO_ACCOUNTS[3]


def sign_in_lines() -> list[str]:
    """How to sign in, for the terminal."""
    names = sorted(account.username for account in _accounts())
    if not names:
        return ["Sign in with your account."]
    return [f"Sign in as {', '.join(names)} with the password {settings.DEMO_PASSWORD}."]


@transaction.atomic
def load() -> None:
    """Make the demo's accounts where they are missing, its kit, its experiments and its runs.

    Raises `Refused` where a person bears the name of one.
    """
    accounts = User.objects
    for name in settings.DEMO_ACCOUNTS:
        account, made = accounts.get_or_create(username=name)
        if made:
            DemoAccount.objects.create(user=account)
        elif not DemoAccount.objects.filter(user=account).exists():
            raise Refused(
                f"The demo cannot be loaded: one of its accounts is called {name}, and {name} is a person here."
            )
        if made or not account.is_active:  # or it was left, closed, when the demo was taken away
            account.set_password(settings.DEMO_PASSWORD)
            account.is_active = True
            account.save()
    kit.load(accounts.get(username=KEEPER))
    meters.load(accounts.get(username=KEEPER), accounts.get(username=OWNER))
    experiments.load(accounts.get(username=AUTHOR))
    owner = accounts.get(username=OWNER)
    mess.load(owner)
    three_resistors.load(owner)
    for file in sorted(Path(__file__).parent.glob("*.run.json"), reverse=True):
        planned = run_document.read(file.read_bytes())
        run = services.start_run(owner, planned.sheet)
        for number, reading in enumerate(planned.readings):
            row = services.record_reading(run, owner, reading, services.numbered_key(run, number))
            if reading.struck:
                services.strike_reading(row, owner, reading.struck.reason)
        for seen in planned.seen:
            services.see(run, owner, seen.setup, seen.part, seen.light)


@transaction.atomic
def reset() -> None:
    """Take away what the demo's accounts have made and load the demo anew. Nobody else's rows are touched."""
    _clear()
    load()


@transaction.atomic
def remove() -> None:
    """Take the demo away with its accounts; of what other people's work stands on, the account stays, closed."""
    _clear()
    for account in _accounts():
        try:
            with transaction.atomic():
                account.delete()
        except ProtectedError:
            account.is_active = False
            account.set_unusable_password()
            account.save()


def _accounts() -> QuerySet[User]:
    return User.objects.exclude(demo=None).filter(is_active=True)


def _clear() -> None:
    theirs = _accounts()
    Job.objects.filter(person__in=theirs).delete()
    runs = RunRow.objects.filter(owner__in=theirs)
    # The one place where append-only rows go: the demo is no record. What points to an earlier row of its own table
    # goes before that one.
    numbers = list(runs.values_list("pk", flat=True)) or [0]
    theirs_too = "run_id IN %s ORDER BY id DESC"
    through = (("actline", "act"), ("photo", "reading"), ("signature", "revision"), ("keptassessment", "revision"))
    tables = ("reading", "runsheet", "act", "ownvalue", "benchmove", "sighting", "runtext", "revision")
    clauses = [
        *((table, f"{by}_id IN (SELECT id FROM bench_{by} WHERE run_id IN %s)") for table, by in through),  # noqa: S608
        *((table, theirs_too) for table in tables),
    ]
    with connection.cursor() as cursor:
        for table, clause in clauses:
            cursor.execute(f"DELETE FROM bench_{table} WHERE {clause}", [numbers])  # noqa: S608 (our own words)
    runs.delete()
    meters.remove(theirs)
    experiments.remove(theirs)
    SheetRow.objects.filter(author__in=theirs, run_sheets=None, versions=None).delete()
    kit.remove(theirs)
