"""Signing in."""

from django.conf import settings
from django.contrib.auth import views

from recensor.people.forms import SignInForm
from recensor.people.models import User


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
