"""Addresses of the bench."""

from django.urls import path

from recensor.bench.views import board, causes, documents, photos, readings, runs, states

app_name = "bench"
urlpatterns = [
    path("", runs.runs, name="runs"),
    path("runs/new/", runs.new_run, name="new_run"),
    path("experiments/<int:experiment_id>/start/", runs.start, name="start"),
    path("runs/on-a-board/", runs.begin_on_board, name="begin_on_board"),
    path("runs/new/preview/", runs.preview, name="preview"),
    path("runs/<int:run_id>/", readings.bench, name="run"),
    path("runs/<int:run_id>/record/", readings.record, name="record"),
    path("runs/<int:run_id>/undo/", readings.undo, name="undo"),
    path("runs/<int:run_id>/readings/<int:reading_id>/mend/", readings.mend, name="mend"),
    path("runs/<int:run_id>/readings/<int:reading_id>/answer/", readings.answer_question, name="answer"),
    path("runs/<int:run_id>/readings/<int:reading_id>/photo/", photos.attach, name="attach"),
    path("runs/<int:run_id>/photos/<int:photo_id>/", photos.photo, name="photo"),
    path("runs/<int:run_id>/repeat/", readings.repeat, name="repeat"),
    path("runs/<int:run_id>/power/", readings.switch, name="switch"),
    path("runs/<int:run_id>/put-back/", readings.put_back, name="put_back"),
    path("runs/<int:run_id>/seen/", readings.see, name="see"),
    path("runs/<int:run_id>/lines/", documents.lines, name="lines"),
    path("runs/<int:run_id>/own/", readings.own_value, name="own_value"),
    path("runs/<int:run_id>/own/shown/", readings.shows_own, name="shows_own"),
    path("runs/<int:run_id>/words/", readings.knows_words, name="knows_words"),
    path("runs/<int:run_id>/change/", states.change, name="change"),
    path("runs/<int:run_id>/same-again/", states.same_again, name="same_again"),
    path("runs/<int:run_id>/put-away/", states.put_away, name="put_away"),
    path("runs/<int:run_id>/return/", runs.return_parts, name="return_parts"),
    path("runs/<int:run_id>/board/", board.board, name="board"),
    path("runs/<int:run_id>/plan/", documents.plan, name="plan"),
    path("runs/<int:run_id>/causes/", causes.causes, name="causes"),
    path("runs/<int:run_id>/causes/mend/", causes.mend, name="mend_cause"),
    path("runs/<int:run_id>/worked/", documents.work_out, name="worked"),
    path("runs/<int:run_id>/document/", documents.document, name="document"),
]
