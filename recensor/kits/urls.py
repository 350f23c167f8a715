"""Addresses of kits and the sorting table."""

from django.urls import path

from recensor.kits import parts_in, views

app_name = "kits"
urlpatterns = [
    path("kits/", views.kits, name="kits"),
    path("kits/<int:kit_id>/", views.kit, name="kit"),
    path("kits/<int:kit_id>/parts-in/", parts_in.parts_in, name="parts_in"),
    path("kits/<int:kit_id>/fill/", views.fill_bin, name="fill_bin"),
    path("kits/<int:kit_id>/bins/<int:bin_id>/count/", views.set_count, name="set_count"),
    path("kits/<int:kit_id>/sort/", views.start_sorting, name="start_sorting"),
    path("sorting/<int:sorting_id>/", views.sorting, name="sorting"),
    path("sorting/<int:sorting_id>/record/", views.sort_part, name="sort_part"),
    path("sorting/<int:sorting_id>/take-back/", views.take_back, name="take_back"),
    path("sorting/<int:sorting_id>/put-away/", views.put_away, name="put_away"),
]
