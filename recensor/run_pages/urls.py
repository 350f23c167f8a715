"""Addresses of the pages of runs beside the bench."""

from django.urls import path

from recensor.run_pages.views import change, documents, runs

app_name = "run_pages"
urlpatterns = [
    path("", runs.runs, name="runs"),
    path("runs/new/", runs.new_run, name="new_run"),
    path("experiments/<int:experiment_id>/start/", runs.start, name="start"),
    path("runs/on-a-board/", runs.begin_on_board, name="begin_on_board"),
    path("runs/new/preview/", runs.preview, name="preview"),
    path("runs/<int:run_id>/lines/", documents.lines, name="lines"),
    path("runs/<int:run_id>/change/", change.change, name="change"),
    path("runs/<int:run_id>/same-again/", change.same_again, name="same_again"),
    path("runs/<int:run_id>/put-away/", change.put_away, name="put_away"),
    path("runs/<int:run_id>/return/", runs.return_parts, name="return_parts"),
    path("runs/<int:run_id>/plan/", documents.plan, name="plan"),
    path("runs/<int:run_id>/causes/", documents.causes, name="causes"),
    path("runs/<int:run_id>/worked/", documents.work_out, name="worked"),
    path("runs/<int:run_id>/document/", documents.document, name="document"),
]
