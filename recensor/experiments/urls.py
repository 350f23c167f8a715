"""Addresses of experiments."""

from django.urls import path

from recensor.experiments.views import documents, editor, library, settings_page

app_name = "experiments"
urlpatterns = [
    path("experiments/", library.experiments_list, name="experiments"),
    path("experiments/new/", library.new_experiment, name="new_experiment"),
    path("experiments/<int:experiment_id>/", editor.experiment, name="experiment"),
    path("experiments/<int:experiment_id>/sheet/", settings_page.sheet, name="sheet"),
    path("experiments/<int:experiment_id>/asked/", settings_page.asked, name="asked"),
    path("experiments/<int:experiment_id>/duplicate/", library.duplicate, name="duplicate"),
    path("experiments/<int:experiment_id>/worked/", documents.work_out, name="worked"),
    path("experiments/<int:experiment_id>/what-if/", documents.try_out, name="what_if"),
    path("experiments/<int:experiment_id>/document/", documents.document, name="document"),
    path("experiments/<int:experiment_id>/netlist/", documents.netlist, name="netlist"),
]
