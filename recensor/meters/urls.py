"""Addresses of meters and profiles."""

from django.urls import path

from recensor.meters import views

app_name = "meters"
urlpatterns = [
    path("meters/", views.meters, name="meters"),
    path("meters/<int:meter_id>/", views.meter, name="meter"),
    path("meters/profiles/new/", views.new_profile, name="new_profile"),
    path("meters/profiles/<int:profile_id>/", views.profile, name="profile"),
    path("meters/profiles/<int:profile_id>/copy/", views.copy_profile, name="copy_profile"),
    path("meters/profiles/<int:profile_id>/export/", views.export_profile, name="export_profile"),
    path("meters/shipped/<int:place>/", views.shipped, name="shipped"),
    path("meters/shipped/<int:place>/copy/", views.copy_shipped, name="copy_shipped"),
    path("meters/shipped/<int:place>/export/", views.export_shipped, name="export_shipped"),
]
