"""Signing in, and the school a person follows."""

from django.conf import settings
from django.contrib.auth import views
from django.contrib.auth.mixins import LoginRequiredMixin
from django.urls import reverse_lazy
from django.views.generic import UpdateView

from recensor.people.forms import PreferencesForm, SignInForm
from recensor.people.models import User
from recensor.people.requests import SignedIn


class SignInView(views.LoginView):
    """The sign-in page; while the demo's accounts exist it says how to use them."""

    template_name = "people/sign_in.html"
    authentication_form = SignInForm
    redirect_authenticated_user = True

    def get_context_data(self, **kwargs: object) -> dict[str, object]:
        """Add the demo's accounts."""
        demo = (
            User.objects.filter(username__in=settings.DEMO_ACCOUNTS).order_by("pk").values_list("username", flat=True)
        )
        return super().get_context_data(**kwargs, demo_accounts=list(demo), demo_password=settings.DEMO_PASSWORD)


class PreferencesView(LoginRequiredMixin, UpdateView):
    """How circuits are drawn and calculations written."""

    request: SignedIn
    template_name = "people/preferences.html"
    form_class = PreferencesForm
    success_url = reverse_lazy("people:preferences")

    def get_object(self, queryset: object = None) -> User:
        """One's own account."""
        return self.request.user
