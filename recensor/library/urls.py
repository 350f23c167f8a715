"""Addresses of the library."""

from django.urls import path

from recensor.library.views import bands, experiments, kits

app_name = "library"
urlpatterns = [
    path("experiments/", experiments.experiments_list, name="experiments"),
    path("experiments/new/", experiments.new_experiment, name="new_experiment"),
    path("experiments/<int:experiment_id>/", experiments.experiment, name="experiment"),
    path("experiments/<int:experiment_id>/sheet/", experiments.sheet, name="sheet"),
    path("experiments/<int:experiment_id>/worked/", experiments.work_out, name="worked"),
    path("experiments/<int:experiment_id>/what-if/", experiments.try_out, name="what_if"),
    path("experiments/<int:experiment_id>/asked/", experiments.asked, name="asked"),
    path("experiments/<int:experiment_id>/duplicate/", experiments.duplicate, name="duplicate"),
    path("experiments/<int:experiment_id>/document/", experiments.document, name="document"),
    path("experiments/<int:experiment_id>/netlist/", experiments.netlist, name="netlist"),
    path("bands/", bands.bands, name="bands"),
    path("bands/printed/", bands.printed, name="printed"),
    path("bands/value/", bands.value, name="value"),
    path("pairs/", bands.pairs, name="pairs"),
    path("kits/", kits.kits, name="kits"),
    path("kits/<int:kit_id>/", kits.kit, name="kit"),
    path("kits/<int:kit_id>/fill/", kits.fill_bin, name="fill_bin"),
    path("kits/<int:kit_id>/bins/<int:bin_id>/count/", kits.set_count, name="set_count"),
    path("kits/<int:kit_id>/sort/", kits.start_sorting, name="start_sorting"),
    path("sorting/<int:sorting_id>/", kits.sorting, name="sorting"),
    path("sorting/<int:sorting_id>/record/", kits.sort_part, name="sort_part"),
    path("sorting/<int:sorting_id>/take-back/", kits.take_back, name="take_back"),
    path("sorting/<int:sorting_id>/put-away/", kits.put_away, name="put_away"),
]
