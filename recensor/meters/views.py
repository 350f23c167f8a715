"""Meters and profiles: parse, call one service or query, render."""

import json
import re

from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from recensor.core import meters as core
from recensor.core.errors import Refused
from recensor.formats.documents.profile import profile_tree
from recensor.meters import queries, services
from recensor.meters.forms import LARGEST_PROFILE, MeterForm, ProfileFileForm, ProfileForm, chosen_profile
from recensor.meters.models import Meter, ProfileRow
from recensor.people.requests import SignedIn
from recensor.web.access import object_view
from recensor.web.downloads import download
from recensor.web.refusals import UNPROCESSABLE, first_error, run_or_refuse

for_keeper = object_view(Meter.objects.all, "meter", look="meters.keep_meter", change="meters.keep_meter", hides=True)
of_profile = object_view(
    lambda: ProfileRow.objects.select_related("author"), "profile", change="meters.change_profile"
)  # everybody looks


@login_required
@require_http_methods(["GET", "POST"])
def meters(request: SignedIn) -> HttpResponse:
    """The person's instruments and everybody's profiles, and a form for another instrument."""
    form = MeterForm(request.POST or None)
    if request.method == "POST":
        return _kept(request, None, form)
    return _render(request, form)


@require_http_methods(["GET", "POST"])
@for_keeper
def meter(request: SignedIn, meter: Meter) -> HttpResponse:
    """What is known of one instrument."""
    if request.method == "POST":
        return _kept(request, meter, MeterForm(request.POST))
    return _render(request, MeterForm(initial=_said(meter)), meter)


def _kept(request: SignedIn, meter: Meter | None, form: MeterForm) -> HttpResponse:
    if not form.is_valid():
        return _render(request, form, meter, UNPROCESSABLE)
    typed = form.cleaned_data

    def refused(error: Refused, status: int) -> HttpResponse:
        form.add_error("name" if error.place == "name" else None, error.message)
        return _render(request, form, meter, status)

    def keep() -> Meter:
        chosen = chosen_profile(request.user, typed["profile"])
        row = services.shipped(request.user, chosen.name) if isinstance(chosen, core.Profile) else chosen
        return services.keep_meter(request.user, meter, typed["name"], typed["number"], typed["calibrated"], row)

    return run_or_refuse(keep, lambda _: redirect("meters:meters"), refused)


def _said(meter: Meter) -> dict[str, object]:
    row = meter.profile
    chosen = "" if row is None else f"shipped {row.tree}" if isinstance(row.tree, str) else str(row.pk)
    return {"name": meter.name, "number": meter.number, "calibrated": meter.calibrated, "profile": chosen}


def _render(request: SignedIn, form: MeterForm, meter: Meter | None = None, status: int = 200) -> HttpResponse:
    context = {
        "form": form,
        "meter": meter,
        "meters": queries.meters_of(request.user),
        "shipped": list(enumerate(queries.SHIPPED)),
        "profiles": queries.library(),
    }
    return render(request, "meters/meters.html", context, status=status)


@login_required
@require_http_methods(["GET", "POST"])
def new_profile(request: SignedIn) -> HttpResponse:
    """A profile written from nothing."""
    if request.method != "POST":
        return _render_profile(request, ProfileForm(), None)
    if "file" in request.FILES:
        return _brought(request)
    return _kept_profile(request, None)


def _brought(request: SignedIn) -> HttpResponse:
    """A profile out of a file, written into the fields: to be looked at, and kept."""
    form = ProfileFileForm(request.POST, request.FILES)
    if form.is_valid():
        return _render_profile(request, ProfileForm(initial=form.cleaned_data["file"]), None)
    return _render_profile(request, ProfileForm(), None, message=first_error(form), status=UNPROCESSABLE)


@require_http_methods(["GET", "POST"])
@of_profile
def profile(request: SignedIn, profile: ProfileRow) -> HttpResponse:
    """A profile; whoever wrote it may change it."""
    if request.method == "POST":
        return _kept_profile(request, profile)
    return _render_profile(request, ProfileForm(initial=queries.profile_of(profile.pk)), profile)


def _kept_profile(request: SignedIn, before: ProfileRow | None) -> HttpResponse:
    form = ProfileForm(request.POST)
    if not form.is_valid() or form.profile is None:
        return _render_profile(request, form, before, status=UNPROCESSABLE)
    found = form.profile

    def refused(error: Refused, status: int) -> HttpResponse:
        form.add_error(None, error.message)
        return _render_profile(request, form, before, status=status)

    return run_or_refuse(lambda: services.keep_profile(request.user, found, before), redirect, refused)


@login_required
@require_GET
def shipped(request: SignedIn, place: int) -> HttpResponse:
    """A profile that ships: to look at and to copy."""
    return _render_profile(request, ProfileForm(initial=_shipped(place)), None, place=place)


@require_POST
@login_required
def copy_profile(request: SignedIn, profile_id: int) -> HttpResponse:
    """A profile of one's own, at first like this one."""
    row = get_object_or_404(ProfileRow, pk=profile_id)
    return _copied(request, queries.profile_of(row.pk))


@require_POST
@login_required
def copy_shipped(request: SignedIn, place: int) -> HttpResponse:
    """A profile of one's own, at first like one that ships."""
    return _copied(request, _shipped(place))


def _copied(request: SignedIn, profile: core.Profile) -> HttpResponse:
    return run_or_refuse(
        lambda: services.copy(request.user, profile, f"{profile.name[:70]}, own"),
        redirect,
        lambda error, status: render(
            request, "refusal.html", {"title": "The profile was not copied", "text": error.message}, status=status
        ),
    )


@require_GET
@of_profile
def export_profile(request: SignedIn, profile: ProfileRow) -> HttpResponse:
    """A profile as it stands in a run document."""
    return _exported(profile.name, profile.tree)


@login_required
@require_GET
def export_shipped(request: SignedIn, place: int) -> HttpResponse:
    """A profile that ships, written out as it stands in a run document."""
    found = _shipped(place)
    return _exported(found.name, profile_tree(core.written_out(found)))


def _exported(name: str, tree: object) -> HttpResponse:
    file = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or "meter"
    text = json.dumps(tree, ensure_ascii=False, indent=2) + "\n"
    return download(text, f"{file}.meter.json", "application/json; charset=utf-8")


def _shipped(place: int) -> core.Profile:
    if place >= len(queries.SHIPPED):
        raise Http404
    return queries.SHIPPED[place]


def _render_profile(
    request: SignedIn,
    form: ProfileForm,
    row: ProfileRow | None,
    *,
    place: int | None = None,
    message: str = "",
    status: int = 200,
) -> HttpResponse:
    newer = ProfileRow.objects.filter(replaces=row).first() if row else None
    may_change = place is None and newer is None and (row is None or row.author_id == request.user.pk)
    context = {
        "form": form,
        "profile": row,
        "place": place,
        "name": "" if place is None else queries.SHIPPED[place].name,
        "newer": newer,
        "changes": may_change,
        "message": message,
        "largest": LARGEST_PROFILE,
    }
    return render(request, "meters/profile.html", context, status=status)
