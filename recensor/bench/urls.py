"""Addresses of the bench page."""

from django.urls import path

from recensor.bench.views import build, likely_cause, line_tables, photos, readings

app_name = "bench"
urlpatterns = [
    path("runs/<int:run_id>/", readings.bench, name="run"),
    path("runs/<int:run_id>/circuit/", readings.change_circuit_so, name="change_circuit"),
    path("runs/<int:run_id>/circuits/", build.build, name="build"),
    path("runs/<int:run_id>/circuits/proposed/", build.proposed, name="proposed"),
    path("runs/<int:run_id>/parts/", build.more_parts, name="more_parts"),
    path("runs/<int:run_id>/parts/group/", build.group, name="group"),
    path("runs/<int:run_id>/tables/", line_tables.begin, name="begin_table"),
    path("runs/<int:run_id>/readings/<int:reading_id>/levels/", line_tables.levels, name="levels"),
    path("runs/<int:run_id>/tables/row-out/", line_tables.take_out, name="take_row_out"),
    path("runs/<int:run_id>/record/", readings.record, name="record"),
    path("runs/<int:run_id>/undo/", readings.undo, name="undo"),
    path("runs/<int:run_id>/readings/<int:reading_id>/correct/", readings.correct, name="correct"),
    path("runs/<int:run_id>/readings/<int:reading_id>/why/", readings.explain, name="explain"),
    path("runs/<int:run_id>/readings/<int:reading_id>/on-purpose/", readings.on_purpose, name="on_purpose"),
    path("runs/<int:run_id>/readings/<int:reading_id>/as-read/", readings.take_as_read, name="take_as_read"),
    path("runs/<int:run_id>/readings/<int:reading_id>/answer/", readings.answer_question, name="answer"),
    path("runs/<int:run_id>/readings/<int:reading_id>/photo/", photos.attach, name="attach"),
    path("runs/<int:run_id>/photos/<int:photo_id>/", photos.photo, name="photo"),
    path("runs/<int:run_id>/repeat/", readings.repeat, name="repeat"),
    path("runs/<int:run_id>/leave-out/", readings.leave_out, name="leave_out"),
    path("runs/<int:run_id>/power/", readings.switch, name="switch"),
    path("runs/<int:run_id>/put-back/", readings.put_back, name="put_back"),
    path("runs/<int:run_id>/seen/", readings.see, name="see"),
    path("runs/<int:run_id>/own/", readings.own_value, name="own_value"),
    path("runs/<int:run_id>/own/shown/", readings.shows_own, name="shows_own"),
    path("runs/<int:run_id>/readings/shown/", readings.shows_readings, name="shows_readings"),
    path("runs/<int:run_id>/causes/correct/", likely_cause.correct, name="correct_cause"),
    path("runs/<int:run_id>/causes/likely/", likely_cause.likely, name="likely_cause"),
]
