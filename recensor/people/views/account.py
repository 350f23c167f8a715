"""One's own account: signing in, the password, where one is signed in, the school one follows."""

from django.conf import settings
from django.contrib.auth import views
from django.contrib.auth.decorators import login_required
from django.contrib.auth.forms import PasswordChangeForm, SetPasswordForm
from django.contrib.auth.mixins import LoginRequiredMixin
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse_lazy
from django.utils import timezone
from django.views.decorators.http import require_http_methods
from django.views.generic import UpdateView

from recensor.people import services, sessions
from recensor.people.forms import ChangePasswordForm, NewPasswordForm, PreferencesForm, SignInForm
from recensor.people.models import DemoAccount, User
from recensor.people.requests import SignedIn
from recensor.web import security_log


class SignInView(views.LoginView):
    """The sign-in page; while the demo's accounts exist it says how to use them."""

    template_name = "people/sign_in.html"
    authentication_form = SignInForm
    redirect_authenticated_user = True

    def get_context_data(self, **kwargs: object) -> dict[str, object]:
        """Add the demo's accounts."""
        demo = DemoAccount.objects.filter(user__is_active=True).order_by("pk").values_list("user__username", flat=True)
        return super().get_context_data(**kwargs, demo_accounts=list(demo), demo_password=settings.DEMO_PASSWORD)


class SignOutView(views.LogoutView):
    """Signing out; the browser drops what it kept of these pages."""

    def post(self, request: HttpRequest, *args: object, **kwargs: object) -> HttpResponse:
        """End this sign-in."""
        response = super().post(request, *args, **kwargs)
        response["Clear-Site-Data"] = '"cache"'
        return response


class PasswordView(views.PasswordChangeView):
    """One's own password. Whoever gives a demo's account another makes it theirs: no reset touches it any more."""

    template_name = "people/password.html"
    form_class = ChangePasswordForm
    success_url = reverse_lazy(settings.LOGIN_REDIRECT_URL)

    def get_form_kwargs(self) -> dict[str, object]:
        """The form asks as signing in does, so that guessing is slowed down here too."""
        return {**super().get_form_kwargs(), "request": self.request}

    @transaction.atomic
    def form_valid(self, form: PasswordChangeForm) -> HttpResponse:
        """Change it, take the demo's mark off, and end one's other sign-ins."""
        response = super().form_valid(form)
        _made_theirs(form.user, keep=self.request.session.session_key)
        security_log.note("password changed", self.request)
        return response


class SetPasswordView(views.PasswordResetConfirmView):
    """A password by a link that a supervisor has made."""

    template_name = "people/set_password.html"
    form_class = NewPasswordForm
    success_url = reverse_lazy(settings.LOGIN_REDIRECT_URL)
    post_reset_login = True
    post_reset_login_backend = "django.contrib.auth.backends.ModelBackend"

    def get_user(self, uidb64: str) -> User | None:
        """Whose link it is; a closed account's opens nothing."""
        person = super().get_user(uidb64)
        return person if person is not None and person.is_active else None

    @transaction.atomic
    def form_valid(self, form: SetPasswordForm) -> HttpResponse:
        """Set it, and sign in here and nowhere else."""
        _made_theirs(form.user)
        response = super().form_valid(form)
        security_log.note("password set by a link", self.request, account=form.user.username)
        return response


def _made_theirs(person: User, keep: str | None = None) -> None:
    DemoAccount.objects.filter(user=person).delete()
    services.end_sessions(person, but=keep)


@login_required
@require_http_methods(["GET", "POST"])
def sign_ins(request: SignedIn) -> HttpResponse:
    """Where one is signed in; each can be ended, or all but this one."""
    here = request.session.session_key
    mine = request.user.sessions.filter(expire_date__gt=timezone.now())
    if request.method == "POST":
        name = request.POST.get("end")
        keys = [row.pk for row in mine if row.pk != here and name in (None, sessions.name_of(row.pk))]
        ended = mine.filter(pk__in=keys).delete()[0]
        security_log.note("sign-ins ended", request, count=ended)
        return redirect("people:sign_ins")
    rows = [sessions.described(row) | {"here": row.pk == here} for row in mine]
    context = {
        "sign_ins": sorted(rows, key=lambda row: not row["here"]),
        "idle_hours": settings.SESSION_COOKIE_AGE // 3600,
        "longest_days": settings.SESSION_LONGEST.days,
    }
    return render(request, "people/sign_ins.html", context)


class PreferencesView(LoginRequiredMixin, UpdateView):
    """How circuits are drawn and calculations written."""

    request: SignedIn
    template_name = "people/preferences.html"
    form_class = PreferencesForm
    success_url = reverse_lazy("people:preferences")

    def get_object(self, queryset: object = None) -> User:
        """One's own account."""
        return self.request.user
