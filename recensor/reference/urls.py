"""Addresses of the reference pages."""

from django.urls import path

from recensor.reference import views

app_name = "reference"
urlpatterns = [
    path("bands/", views.bands, name="bands"),
    path("bands/printed/", views.printed, name="printed"),
    path("bands/value/", views.value, name="value"),
    path("pairs/", views.pairs, name="pairs"),
]
