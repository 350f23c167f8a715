"""Every address by every method by everybody: nobody sees or changes what is somebody else's."""

import io
import random
import time
from collections import Counter
from collections.abc import Iterator

from PIL import Image

from campaigns import addresses
from campaigns.report import Report
from campaigns.site import Person, Site

METHODS = ("GET", "HEAD", "POST", "PUT", "PATCH", "DELETE", "OPTIONS")
SECRET = "Heron under glass"  # stands in what is private, and in nothing else
TAKEN = {
    "measurement": "of.r.R1",
    "text": "1.02", "unit": "kΩ", "key": "6f9619ff-8b86-d011-b42d-0000000000ff", "reason": "taken",
    "count": 0, "value": "1k", "tolerance": "5", "entry": 1, "title": "taken",
}  # fmt: skip
ACTS = ("", "undo", "redo", "add", "link", "close", "make supervisor", "adopt", "put")


def run(site: Site, seconds: float, seed: int) -> Report:
    """Ask, and look whether the owner's books are as they were."""
    draw, report = random.Random(seed), Report("access")
    site.people("owner-of-it", "somebody", "closed")
    site.people("keeper-of-accounts", is_supervisor=True)
    owner = Person(site, "owner-of-it")
    values = _something_of(owner)
    people = {name: Person(site, name) for name in ("somebody", "keeper-of-accounts", "closed")}
    people["nobody"] = Person(site)
    _close("closed")
    before, statuses, ways = _books(values), Counter[int](), 0
    work = [(name, method, route) for name in people for method in METHODS for route in addresses.routes()]
    draw.shuffle(work)
    end = time.monotonic() + seconds
    for name, method, route in work:
        if time.monotonic() > end:
            break
        if route in ("/sign-out/", "/password/") or (name == "keeper-of-accounts" and route.startswith("/people/")):
            continue
        path = addresses.filled(route, values)
        ways += 1
        for fields in _sent(method, values, draw):
            as_htmx = {"HX-Request": "true"} if statuses.total() % 2 else {}
            answer = people[name].ask(method, path, data=fields, headers=as_htmx)
            statuses[answer.status_code] += 1
            what = f"{name} {method} {path} {fields}: {answer.status_code}"
            if answer.status_code >= 500:
                report.wrong.append(what)
            if SECRET in answer.text:
                report.wrong.append(f"{what} shows what is private")
            is_open = route.startswith(("/sign-in/", "/set-password/"))
            if name in ("nobody", "closed") and answer.status_code == 200 and method != "OPTIONS" and not is_open:
                report.wrong.append(f"{what} without a sign-in")
    if _books(values) != before:
        report.wrong.append("the owner's books are not what they were")
    told = ", ".join(f"{count} × {status}" for status, count in sorted(statuses.items()))
    told_all = f"{len(addresses.routes())} addresses × {len(METHODS)} methods × {len(people)} persons"
    report.figures = f"{ways} of {len(work)} ways ({told_all}), {statuses.total()} requests ({told})"
    return report


def _something_of(owner: Person) -> dict[str, object]:
    """A run with a reading and its photo, an experiment, a kit, a sorting, a meter: and their numbers."""
    from recensor.jobs.models import Job, JobFile
    from recensor.kits.models import Bin, Kit, Sorting
    from recensor.meters.models import Meter, ProfileRow
    from recensor.people.models import User
    from recensor.runs import services
    from recensor.runs.models import Photo, ReadingRow, RunRow

    kit = int(owner.post("/kits/", {"name": "Owner's kit"}).headers["Location"].strip("/").split("/")[-1])
    for value in ("1k", "2k", "3k"):
        owner.post(f"/kits/{kit}/fill/", {"value": value, "tolerance": "5", "count": "9"})
    owner.post(f"/kits/{kit}/sort/", {"into": "12", "tolerance": "5", "accuracy": ""})
    run = owner.begin_run()
    owner.record(run, "1.01", "6f9619ff-8b86-d011-b42d-00c04fc964ff")
    RunRow.objects.filter(pk=run).update(title=SECRET)
    reading = ReadingRow.objects.get(run=run)
    picture = io.BytesIO()
    Image.new("RGB", (8, 8)).save(picture, "PNG")
    services.attach(reading.run, reading.author, reading.pk, picture, picture.tell())
    owner.post("/meters/shipped/0/copy/")
    profile = ProfileRow.objects.latest("pk").pk
    owner.post("/meters/", {"name": "Owner's meter", "number": SECRET, "profile": str(profile)})
    job = Job.objects.create(person=reading.author, kind=Job.Kind.REPORTS, state=Job.State.DONE, title=SECRET)
    JobFile.objects.create(job=job, number=0, name=SECRET, content=SECRET.encode())
    return {
        "run_id": run,
        "reading_id": reading.pk,
        "photo_id": Photo.objects.get(reading=reading).pk,
        "meter_id": Meter.objects.get(number=SECRET).pk,
        "profile_id": profile,
        "place": 0,
        "experiment_id": RunRow.objects.get(pk=run).experiment_id,
        "kit_id": kit,
        "bin_id": Bin.objects.filter(kit=Kit.objects.get(pk=kit))[0].pk,
        "sorting_id": Sorting.objects.get(kit=kit).pk,
        "person_id": User.objects.get(username=owner.name).pk,
        "uidb64": "MQ",
        "token": "set-password",
        "kind": "notes",
        "ending": "csv",
        "number": 1,
        "job_id": job.pk,
    }


def _sent(method: str, values: dict[str, object], draw: random.Random) -> Iterator[dict[str, object]]:
    """What is sent along: nothing, and what would do something were it allowed."""
    yield {}
    if method == "POST":
        yield TAKEN | {"act": draw.choice(ACTS), "reading": values["reading_id"]}


def _close(name: str) -> None:
    from recensor.people.models import User

    User.objects.filter(username=name).update(is_active=False)


def _books(values: dict[str, object]) -> list[object]:
    """Everything that is the owner's."""
    from recensor.experiments.models import Experiment, Version
    from recensor.jobs.models import Job
    from recensor.kits.models import Bin, SortedPart, Sorting
    from recensor.meters.models import Meter, ProfileRow
    from recensor.people.models import User
    from recensor.runs.models import ActRow, BenchMove, Photo, ReadingRow, Revision, RunRow, RunSheet, RunText

    of = {"run": values["run_id"]}
    return [
        list(rows.order_by("pk").values())
        for rows in (
            RunRow.objects.filter(pk=values["run_id"]),
            *(model.objects.filter(**of) for model in (ReadingRow, ActRow, RunSheet, BenchMove, RunText, Revision)),
            Photo.objects.filter(reading=values["reading_id"]),
            Meter.objects.filter(pk=values["meter_id"]),
            ProfileRow.objects.filter(author=values["person_id"]),
            Experiment.objects.filter(pk=values["experiment_id"]),
            Version.objects.filter(experiment=values["experiment_id"]),
            Bin.objects.filter(kit=values["kit_id"]),
            Sorting.objects.filter(pk=values["sorting_id"]),
            SortedPart.objects.filter(sorting=values["sorting_id"]),
            User.objects.filter(pk=values["person_id"]),
            Job.objects.filter(person=values["person_id"]),
        )
    ]
