"""Addresses of sign-in and account."""

from django.conf import settings
from django.contrib.auth import views
from django.urls import path, reverse_lazy

from recensor.people.views import PreferencesView, SignInView

app_name = "people"
urlpatterns = [
    path("sign-in/", SignInView.as_view(), name="sign_in"),
    path("sign-out/", views.LogoutView.as_view(), name="sign_out"),
    path("preferences/", PreferencesView.as_view(), name="preferences"),
    path(
        "password/",
        views.PasswordChangeView.as_view(
            template_name="people/password.html", success_url=reverse_lazy(settings.LOGIN_REDIRECT_URL)
        ),
        name="password",
    ),
]
