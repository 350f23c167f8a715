"""Kits and the sorting table: parse, call one service or query, render."""

import uuid

from django.contrib.auth.decorators import login_required
from django.core.paginator import Paginator
from django.db.models import Sum
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST
from django_htmx.http import retarget

from recensor.core.errors import Refused
from recensor.kits import services, sorting_table
from recensor.kits.forms import BinForm, CountForm, KitForm, PartForm, SortingForm
from recensor.kits.models import Bin, Kit, SortedPart, Sorting
from recensor.people.requests import SignedIn
from recensor.web.access import object_view
from recensor.web.fields import whole_number
from recensor.web.refusals import UNPROCESSABLE, first_error, run_or_refuse

KEEP = "kits.keep_kit"
KITS_ON_A_PAGE = 50

for_keeper = object_view(Kit.objects.all, "kit", look=KEEP, change=KEEP)
for_sorter = object_view(
    lambda: Sorting.objects.select_related("kit").defer("bins"),
    "sorting",
    look=KEEP,
    change=KEEP,
    owner=lambda table: table.kit,
)


@login_required
@require_http_methods(["GET", "POST"])
def kits(request: SignedIn) -> HttpResponse:
    """Everyone's kits, and a form for a new one."""
    form = KitForm(request.POST or None)
    if not form.is_valid():
        return _render_kits(request, form, UNPROCESSABLE if form.is_bound else 200)

    def refused(error: Refused, status: int) -> HttpResponse:
        form.add_error("name", error.message)
        return _render_kits(request, form, status)

    return run_or_refuse(lambda: services.make_kit(request.user, form.cleaned_data["name"]), redirect, refused)


def _render_kits(request: SignedIn, form: KitForm, status: int) -> HttpResponse:
    rows = Kit.objects.select_related("owner").annotate(parts=Sum("bins__count")).order_by("name", "pk")
    page = Paginator(rows, KITS_ON_A_PAGE).get_page(request.GET.get("page"))
    return render(request, "kits/kits.html", {"form": form, "page": page}, status=status)


@login_required
@require_GET
def kit(request: SignedIn, kit_id: int) -> HttpResponse:
    """A kit's bins; its keeper may also fill and sort."""
    return _render_kit(request, get_object_or_404(Kit.objects.select_related("owner"), pk=kit_id))


@require_POST
@for_keeper
def fill_bin(request: SignedIn, kit: Kit) -> HttpResponse:
    """Put parts into a bin, a new one if need be."""
    form = BinForm(request.POST)
    if not form.is_valid():
        return _render_kit(request, kit, bin_form=form, status=UNPROCESSABLE)
    services.fill_bin(kit, *form.parts)
    return redirect(kit)


@require_POST
@for_keeper
def set_count(request: SignedIn, kit: Kit, bin_id: int) -> HttpResponse:
    """A bin was counted anew."""
    row = get_object_or_404(Bin, pk=bin_id, kit=kit)
    form = CountForm(request.POST)
    if not form.is_valid():
        return _render_kit(request, kit, message=f"{row}: {first_error(form)}", status=UNPROCESSABLE)
    services.set_count(row, form.cleaned_data["count"])
    return redirect(kit)


@require_POST
@for_keeper
def start_sorting(request: SignedIn, kit: Kit) -> HttpResponse:
    """Begin to sort a handful into this kit."""
    form = SortingForm(request.POST)
    if not form.is_valid():
        return _render_kit(request, kit, sorting_form=form, status=UNPROCESSABLE)
    typed = form.cleaned_data
    return run_or_refuse(
        lambda: services.start_sorting(kit, form.series, typed["tolerance"], typed["accuracy"]),
        redirect,
        lambda error, status: _render_kit(request, kit, sorting_form=form, message=error.message, status=status),
    )


@require_GET
@for_sorter
def sorting(request: SignedIn, table: Sorting) -> HttpResponse:
    """The sorting table."""
    return _render_table(request, table)


@require_POST
@for_sorter
def sort_part(request: SignedIn, table: Sorting) -> HttpResponse:
    """One part was measured: say where it goes, and bring its bin up to date."""
    form = PartForm(request.POST)
    if not form.is_valid():
        return _render_table(request, table, form=form, status=UNPROCESSABLE)
    return run_or_refuse(
        lambda: services.sort_part(table.pk, request.user, form.cleaned_data["quantity"], form.cleaned_data["key"]),
        lambda part: _sorted(request, table, part),
        lambda error, status: _render_table(request, table, form=form, message=error.message, status=status),
    )


@require_POST
@for_sorter
def take_back(request: SignedIn, table: Sorting) -> HttpResponse:
    """The last entry was a slip."""
    return run_or_refuse(
        lambda: services.take_back_last(table, request.user, whole_number(request.POST.get("entry"))),
        lambda _: _render_table(request, table) if request.htmx else redirect(table),
        lambda error, status: _refused(request, table, error, status),
    )


@require_POST
@for_sorter
def put_away(request: SignedIn, table: Sorting) -> HttpResponse:
    """The sorted parts go into the kit."""
    return run_or_refuse(
        lambda: services.put_away(table),
        lambda _: redirect(table.kit),
        lambda error, status: _refused(request, table, error, status),
    )


def _refused(request: SignedIn, table: Sorting, error: Refused, status: int) -> HttpResponse:
    return _render_table(request, table, message=error.message, status=status)


def _sorted(request: SignedIn, table: Sorting, part: SortedPart) -> HttpResponse:
    """Where the part goes, with its bin brought up to date; the whole table where a bin is new on it."""
    if not request.htmx:
        return redirect(table)
    tally = sorting_table.tally_of(table.pk)
    placing = sorting_table.placing(part, tally.bins)
    row = sorting_table.bin_row(tally, placing.which) if placing.which in tally.in_use else None
    if row and row.count + row.out == 1:
        return _render_table(request, table, placing=placing)
    context = {"table": table, "entry_key": uuid.uuid4(), "unit": part.unit, "placing": placing, "row": row}
    last = sorting_table.last_standing(table.pk)
    return render(request, "kits/_sorted.html", {**context, "strays": tally.strays, "last": last})


def _render_kit(
    request: SignedIn,
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
        "keeps": request.user.has_perm(KEEP, kit),
        "bin_form": bin_form or BinForm(),
        "sorting_form": sorting_form or SortingForm(),
        "message": message,
    }
    return render(request, "kits/kit.html", context, status=status)


def _render_table(
    request: SignedIn,
    table: Sorting,
    *,
    placing: sorting_table.Placing | None = None,
    form: PartForm | None = None,
    message: str = "",
    status: int = 200,
) -> HttpResponse:
    """The whole table; for htmx its live part, wherever the request meant to put the answer."""
    tally = sorting_table.tally_of(table.pk)
    context = {
        "table": table,
        "placing": placing,
        "form": form,
        "message": message,
        "entry_key": uuid.uuid4(),
        "unit": request.POST.get("unit", ""),
        "strays": tally.strays,
        "last": sorting_table.last_standing(table.pk),
        "rows": [sorting_table.bin_row(tally, which) for which in tally.in_use],
        "recent": sorting_table.recent(table.pk, tally.bins),
    }
    if not request.htmx:
        return render(request, "kits/sorting.html", context, status=status)
    return retarget(render(request, "kits/_table.html", context, status=status), "#sorting")
