"""Signing in, and the school a person follows."""

from django.conf import settings
from django.contrib.auth import views
from django.contrib.auth.forms import PasswordChangeForm
from django.contrib.auth.mixins import LoginRequiredMixin
from django.db import transaction
from django.http import HttpResponse
from django.urls import reverse_lazy
from django.views.generic import UpdateView

from recensor.people.forms import PreferencesForm, SignInForm
from recensor.people.models import DemoAccount, User
from recensor.people.requests import SignedIn


class SignInView(views.LoginView):
    """The sign-in page; while the demo's accounts exist it says how to use them."""

    template_name = "people/sign_in.html"
    authentication_form = SignInForm
    redirect_authenticated_user = True

    def get_context_data(self, **kwargs: object) -> dict[str, object]:
        """Add the demo's accounts."""
        demo = DemoAccount.objects.filter(user__is_active=True).order_by("pk").values_list("user__username", flat=True)
        return super().get_context_data(**kwargs, demo_accounts=list(demo), demo_password=settings.DEMO_PASSWORD)


class PasswordView(views.PasswordChangeView):
    """One's own password. Whoever gives a demo's account another makes it theirs: no reset touches it any more."""

    template_name = "people/password.html"
    success_url = reverse_lazy(settings.LOGIN_REDIRECT_URL)

    def form_valid(self, form: PasswordChangeForm) -> HttpResponse:
        """Change it, and take the demo's mark off."""
        with transaction.atomic():
            DemoAccount.objects.filter(user=form.user).delete()
            return super().form_valid(form)


class PreferencesView(LoginRequiredMixin, UpdateView):
    """How circuits are drawn and calculations written."""

    request: SignedIn
    template_name = "people/preferences.html"
    form_class = PreferencesForm
    success_url = reverse_lazy("people:preferences")

    def get_object(self, queryset: object = None) -> User:
        """One's own account."""
        return self.request.user
