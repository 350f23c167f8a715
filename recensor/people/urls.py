"""Addresses of sign-in and account."""

from django.contrib.auth import views
from django.urls import path

from recensor.people.views import PasswordView, PreferencesView, SignInView

app_name = "people"
urlpatterns = [
    path("sign-in/", SignInView.as_view(), name="sign_in"),
    path("sign-out/", views.LogoutView.as_view(), name="sign_out"),
    path("preferences/", PreferencesView.as_view(), name="preferences"),
    path("password/", PasswordView.as_view(), name="password"),
]
