"""Kits and the sorting table: parse, call one service or query, render."""

import uuid
from collections.abc import Callable
from functools import wraps

from django.contrib.auth.decorators import login_required
from django.core.exceptions import PermissionDenied
from django.db.models import Sum
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST
from django_htmx.http import retarget

from recensor.library import sorting_table
from recensor.library.forms.kits import BinForm, CountForm, KitForm, PartForm, SortingForm
from recensor.library.models import Bin, Kit, Sorting
from recensor.library.services import RefusedError
from recensor.library.services import kits as services

UNPROCESSABLE, CONFLICT = 422, 409


def for_keeper(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """Sign-in, and a kit of one's own, named by `kit_id`."""

    @wraps(view)
    @login_required
    def checked(request: HttpRequest, kit_id: int, **arguments: object) -> HttpResponse:
        kit = get_object_or_404(Kit, pk=kit_id)
        if not request.user.has_perm("library.keep_kit", kit):
            raise PermissionDenied
        return view(request, kit, **arguments)

    return checked


def for_sorter(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """Sign-in, and a sorting into a kit of one's own, without its bins."""

    @wraps(view)
    @login_required
    def checked(request: HttpRequest, sorting_id: int) -> HttpResponse:
        table = get_object_or_404(Sorting.objects.select_related("kit").defer("bins"), pk=sorting_id)
        if not request.user.has_perm("library.keep_kit", table.kit):
            raise PermissionDenied
        return view(request, table)

    return checked


@login_required
@require_http_methods(["GET", "POST"])
def kits(request: HttpRequest) -> HttpResponse:
    """Everyone's kits, and a form for a new one."""
    form = KitForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        return redirect(services.make_kit(request.user, form.cleaned_data["name"]))
    rows = Kit.objects.select_related("owner").annotate(parts=Sum("bins__count"))
    status = UNPROCESSABLE if form.is_bound else 200
    return render(request, "library/kits.html", {"form": form, "kits": rows}, status=status)


@login_required
@require_GET
def kit(request: HttpRequest, kit_id: int) -> HttpResponse:
    """A kit's bins; its keeper may also fill and sort."""
    return _render_kit(request, get_object_or_404(Kit.objects.select_related("owner"), pk=kit_id))


@require_POST
@for_keeper
def fill_bin(request: HttpRequest, kit: Kit) -> HttpResponse:
    """Put parts into a bin, a new one if need be."""
    form = BinForm(request.POST)
    if not form.is_valid():
        return _render_kit(request, kit, bin_form=form, status=UNPROCESSABLE)
    typed = form.cleaned_data
    rating = typed["rating"].value if typed["rating"] else None
    services.fill_bin(kit, typed["value"].value, typed["tolerance"].value, typed["count"], rating)
    return redirect(kit)


@require_POST
@for_keeper
def set_count(request: HttpRequest, kit: Kit, bin_id: int) -> HttpResponse:
    """A bin was counted anew."""
    row = get_object_or_404(Bin, pk=bin_id, kit=kit)
    form = CountForm(request.POST)
    if not form.is_valid():
        message = f"{row}: {' '.join(form.errors['count'])}"
        return _render_kit(request, kit, message=message, status=UNPROCESSABLE)
    services.set_count(row, form.cleaned_data["count"])
    return redirect(kit)


@require_POST
@for_keeper
def start_sorting(request: HttpRequest, kit: Kit) -> HttpResponse:
    """Begin to sort a handful into this kit."""
    form = SortingForm(request.POST)
    if not form.is_valid():
        return _render_kit(request, kit, sorting_form=form, status=UNPROCESSABLE)
    typed = form.cleaned_data
    try:
        table = services.start_sorting(kit, form.series, typed["tolerance"], typed["accuracy"])
    except RefusedError as error:
        return _render_kit(request, kit, sorting_form=form, message=str(error), status=UNPROCESSABLE)
    return redirect(table)


@require_GET
@for_sorter
def sorting(request: HttpRequest, table: Sorting) -> HttpResponse:
    """The sorting table."""
    return _render_table(request, table)


@require_POST
@for_sorter
def sort_part(request: HttpRequest, table: Sorting) -> HttpResponse:
    """One part was measured: say where it goes, and bring its bin up to date."""
    form = PartForm(request.POST)
    if not form.is_valid():
        return _render_table(request, table, form=form, status=UNPROCESSABLE)
    try:
        part = services.sort_part(table.pk, request.user, form.cleaned_data["quantity"], form.cleaned_data["key"])
    except RefusedError as error:
        return _render_table(request, table, form=form, message=str(error), status=CONFLICT)
    if not request.htmx:
        return redirect(table)
    tally = sorting_table.tally_of(table.pk)
    verdict = sorting_table.verdict(part, tally)
    row = sorting_table.bin_row(tally, verdict.which) if verdict.which in tally.in_use else None
    if row and row.count + row.out == 1:  # a bin that is not on the page yet
        return _render_table(request, table, verdict=verdict)
    context = {"table": table, "entry_key": uuid.uuid4(), "unit": part.unit, "verdict": verdict, "row": row}
    return render(request, "library/_sorted.html", {**context, "strays": tally.strays})


@require_POST
@for_sorter
def take_back(request: HttpRequest, table: Sorting) -> HttpResponse:
    """The last entry was a slip."""
    try:
        services.take_back_last(table, request.user)
    except RefusedError as error:
        return _render_table(request, table, message=str(error), status=UNPROCESSABLE)
    return _render_table(request, table) if request.htmx else redirect(table)


@require_POST
@for_sorter
def put_away(request: HttpRequest, table: Sorting) -> HttpResponse:
    """The sorted parts go into the kit."""
    try:
        services.put_away(table)
    except RefusedError as error:
        return _render_table(request, table, message=str(error), status=CONFLICT)
    return redirect(table.kit)


def _render_kit(
    request: HttpRequest,
    kit: Kit,
    *,
    bin_form: BinForm | None = None,
    sorting_form: SortingForm | None = None,
    message: str = "",
    status: int = 200,
) -> HttpResponse:
    context = {
        "kit": kit,
        "bins": kit.bins.all(),
        "sortings": kit.sortings.defer("bins").all(),
        "keeps": request.user.has_perm("library.keep_kit", kit),
        "bin_form": bin_form or BinForm(),
        "sorting_form": sorting_form or SortingForm(),
        "message": message,
    }
    return render(request, "library/kit.html", context, status=status)


def _render_table(
    request: HttpRequest,
    table: Sorting,
    *,
    verdict: sorting_table.Verdict | None = None,
    form: PartForm | None = None,
    message: str = "",
    status: int = 200,
) -> HttpResponse:
    """The whole table; for htmx its live part, wherever the request meant to put the answer."""
    tally = sorting_table.tally_of(table.pk)
    context = {
        "table": table,
        "verdict": verdict,
        "form": form,
        "message": message,
        "entry_key": uuid.uuid4(),
        "unit": request.POST.get("unit", ""),
        "strays": tally.strays,
        "rows": [sorting_table.bin_row(tally, which) for which in tally.in_use],
        "recent": sorting_table.recent(table.pk, tally.bins),
    }
    if not request.htmx:
        return render(request, "library/sorting.html", context, status=status)
    return retarget(render(request, "library/_table.html", context, status=status), "#sorting")
