"""A list of parts into a kit: out of a table, line by line, all of them or none."""

import uuid
from collections.abc import Sequence

from django.http import HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_http_methods

from recensor.core.figures import stated
from recensor.core.quantity import OHM
from recensor.formats.tables.columns import Column, cells
from recensor.formats.tables.grid import Grid
from recensor.kits import services
from recensor.kits.forms import BinForm
from recensor.kits.models import Kit
from recensor.kits.services import Parts
from recensor.kits.views import for_keeper
from recensor.people.requests import SignedIn
from recensor.web.refusals import first_error
from recensor.web.table_in import Looked, ShownLine, Words, table_in

COLUMNS = (
    Column("value", "value in ohms, as 4k7", ("resistance", "ohms", "nominal")),
    Column("tolerance", "tolerance in %", ("tol", "tol.")),
    Column("rating", "rating in watts", ("power", "watts")),
    Column("count", "how many", ("quantity", "pieces", "number", "qty", "amount")),
)

# Where a list says nothing else, parts are of the usual tolerance, and each line is one part.
_USUAL = {"tolerance": "5 %", "count": "1"}


@require_http_methods(["GET", "HEAD", "POST"])
@for_keeper
def parts_in(request: SignedIn, kit: Kit) -> HttpResponse:
    """Ask for a list, show what goes into which bin, and put it all in."""
    words = Words(
        f"Parts into {kit.name}",
        kit.get_absolute_url(),
        "Back to the kit",
        "line of parts",
        "lines of parts",
        "A column of values is enough; without others each line is one part of 5 %.",
    )

    def keep(parts: Sequence[Parts], key: uuid.UUID) -> HttpResponse:
        services.fill_bins(kit, parts, key)
        return redirect(kit)

    return table_in(request, words, COLUMNS, _looked, keep)


def _looked(grid: Grid, matching: Sequence[str]) -> Looked[Parts]:
    lines, partses = [], []
    for row, number in enumerate(grid.numbers):
        text = " · ".join(cell for cell in grid.rows[row] if cell)[:120]
        form = BinForm({**_USUAL, **cells(grid, matching, row)})
        if not form.is_valid():
            lines.append(ShownLine(number, text, why=first_error(form)))
            continue
        parts = form.parts
        partses.append(parts)
        value = f"{stated(parts.value, OHM)} ± {parts.tolerance.normalize():f} %"
        lines.append(ShownLine(number, text, f"{parts.pieces} of {value}"))
    return Looked(lines, partses)
