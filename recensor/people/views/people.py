"""Everybody's accounts, for a supervisor: who there is, and who may come in."""

from collections.abc import Callable

from django.conf import settings
from django.contrib.auth.decorators import login_required, permission_required
from django.core.mail import send_mail
from django.core.paginator import Paginator
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.template.loader import render_to_string
from django.views.decorators.http import require_http_methods, require_POST

from recensor.core.errors import Refused
from recensor.people import services, throttle
from recensor.people.forms import InviteForm
from recensor.people.models import User
from recensor.people.requests import SignedIn
from recensor.web import security_log
from recensor.web.refusals import UNPROCESSABLE, run_or_refuse

PEOPLE_ON_A_PAGE = 50

keeps_people = permission_required("people.keep_people", raise_exception=True)


@login_required
@keeps_people
@require_http_methods(["GET", "POST"])
def people(request: SignedIn) -> HttpResponse:
    """Who there is, and a form for a new one."""
    form = InviteForm(request.POST or None)
    if not form.is_valid():
        return _render(request, form, status=UNPROCESSABLE if form.is_bound else 200)
    typed = form.cleaned_data

    def refused(error: Refused, status: int) -> HttpResponse:
        form.add_error("name", error.message)
        return _render(request, form, status=status)

    def made(person: User) -> HttpResponse:
        security_log.note("account made", request, account=person.username)
        return _linked(request, person)

    return run_or_refuse(lambda: services.invite(typed["name"], typed.get("mail", "")), made, refused)


@login_required
@keeps_people
@require_POST
def person(request: SignedIn, person_id: int) -> HttpResponse:
    """Something done with an account."""
    person = get_object_or_404(User, pk=person_id)
    act = request.POST.get("act", "")
    if act == "link":
        return _linked(request, person)
    return run_or_refuse(
        lambda: _done(request, person, act),
        lambda _: redirect("people:people"),
        lambda error, status: _render(request, InviteForm(), status=status, message=error.message),
    )


def _done(request: SignedIn, person: User, act: str) -> None:
    acts: dict[str, Callable[[], None]] = {
        "close": lambda: services.set_open(person, request.user, is_open=False),
        "open": lambda: services.set_open(person, request.user, is_open=True),
        "make supervisor": lambda: services.set_supervisor(person, request.user, is_supervisor=True),
        "make ordinary": lambda: services.set_supervisor(person, request.user, is_supervisor=False),
        "let in": lambda: throttle.let_in(person.username),
    }
    if act not in acts:
        raise Refused("Choose what to do.")
    acts[act]()
    security_log.note(f"account: {act}", request, account=person.username)


def _linked(request: SignedIn, person: User) -> HttpResponse:
    """Make a link and show it this once; by mail, too, where there is mail."""
    link = request.build_absolute_uri(services.link_for(person))
    security_log.note("link to set a password", request, account=person.username)
    mailed = bool(settings.MAIL and person.email)
    if mailed:
        text = render_to_string("people/link.txt", {"person": person, "link": link})
        send_mail("Your password for Recensor", text, None, [person.email], fail_silently=True)
    return _render(request, InviteForm(), link=link, linked=person, mailed=mailed)


def _render(request: SignedIn, form: InviteForm, *, status: int = 200, **more: object) -> HttpResponse:
    rows = User.objects.order_by("username").select_related("demo")
    context = {
        "page": Paginator(rows, PEOPLE_ON_A_PAGE).get_page(request.GET.get("page")),
        "locked": throttle.locked_names(),
        "form": form,
        "days": settings.PASSWORD_RESET_TIMEOUT // 86_400,
        **more,
    }
    return render(request, "people/people.html", context, status=status)
