"""Addresses of the bench."""

from django.urls import path

from recensor.bench import views

app_name = "bench"
urlpatterns = [
    path("", views.runs, name="runs"),
    path("runs/new/", views.new_run, name="new_run"),
    path("experiments/<int:experiment_id>/start/", views.start, name="start"),
    path("runs/on-a-board/", views.begin_on_board, name="begin_on_board"),
    path("runs/new/preview/", views.preview, name="preview"),
    path("runs/<int:run_id>/", views.bench, name="run"),
    path("runs/<int:run_id>/record/", views.record, name="record"),
    path("runs/<int:run_id>/undo/", views.undo, name="undo"),
    path("runs/<int:run_id>/readings/<int:reading_id>/strike/", views.strike, name="strike"),
    path("runs/<int:run_id>/readings/<int:reading_id>/move/", views.move, name="move"),
    path("runs/<int:run_id>/return/", views.return_parts, name="return_parts"),
    path("runs/<int:run_id>/board/", views.board, name="board"),
    path("runs/<int:run_id>/worked/", views.work_out, name="worked"),
    path("runs/<int:run_id>/document/", views.document, name="document"),
]
