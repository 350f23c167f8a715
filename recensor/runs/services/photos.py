"""Photos of a display or a board, kept with the reading that they show."""

import hashlib
from typing import IO

from django.utils import timezone

from recensor.core.errors import Refused
from recensor.people.models import User
from recensor.runs import queries
from recensor.runs.models import Photo, ReadingRow, RunRow
from recensor.web.pictures import CONTENT_TYPE, remade
from recensor.web.transactions import atomic_with_retry

MOST_PHOTOS = 6


def attach(run: RunRow, author: User, reading_id: int, file: IO[bytes], size: int) -> None:
    """Keep a picture with a reading; the same one sent again is kept once. Raises `Refused`."""
    picture = remade(file, size)
    _attach(run, author, reading_id, picture)


@atomic_with_retry
def _attach(run: RunRow, author: User, reading_id: int, picture: bytes) -> None:
    queries.load_locked(run)
    reading = ReadingRow.objects.filter(run=run, pk=reading_id).first()
    if reading is None:
        raise Refused("There is no such reading in this run.")
    if reading.photos.count() >= MOST_PHOTOS:
        raise Refused(f"{MOST_PHOTOS} pictures are kept with one reading.")
    digest = hashlib.sha256(picture).hexdigest()
    row = Photo(
        reading=reading,
        sum=digest,
        content_type=CONTENT_TYPE,
        picture=picture,
        author=author,
        time=timezone.now(),
    )
    row.append_once(reading=reading, sum=digest)
