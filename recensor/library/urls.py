"""Addresses of the library."""

from django.urls import path

from recensor.library import views

app_name = "library"
urlpatterns = [path("bands/", views.bands, name="bands")]
