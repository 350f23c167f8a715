"""What reads the library."""

from functools import lru_cache
from uuid import UUID

from recensor.core.record import Run
from recensor.library.models import Sheet


@lru_cache(maxsize=512)
def sheet_run(sheet_id: UUID) -> Run:
    """A sheet as a run without readings. Sheets never change, so each is read and parsed once."""
    return Sheet.objects.get(pk=sheet_id).as_run()
