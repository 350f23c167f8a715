"""Addresses of sign-in and accounts."""

from django.urls import path

from recensor.people.views import account, people

app_name = "people"
urlpatterns = [
    path("sign-in/", account.SignInView.as_view(), name="sign_in"),
    path("sign-out/", account.SignOutView.as_view(), name="sign_out"),
    path("preferences/", account.PreferencesView.as_view(), name="preferences"),
    path("password/", account.PasswordView.as_view(), name="password"),
    path("set-password/<uidb64>/<token>/", account.SetPasswordView.as_view(), name="set_password"),
    path("sign-ins/", account.sign_ins, name="sign_ins"),
    path("people/", people.people, name="people"),
    path("people/<int:person_id>/", people.person, name="person"),
]
