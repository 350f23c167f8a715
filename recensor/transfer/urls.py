"""Addresses of what goes out whole and comes in."""

from django.urls import path

from recensor.transfer.views import exports, import_document, import_readings

app_name = "transfer"
urlpatterns = [
    path("runs/import/", import_document.import_document, name="import_document"),
    path("runs/<int:run_id>/readings-in/", import_readings.import_readings, name="import_readings"),
    path("archives/", exports.exports, name="exports"),
    path("archives/reports/", exports.ask_reports, name="ask_reports"),
    path("archives/account/", exports.ask_account, name="ask_account"),
    path("archives/send/", exports.begin_sending, name="begin_sending"),
    path("archives/<int:job_id>/piece/", exports.take_piece, name="take_piece"),
    path("archives/<int:job_id>/import/", exports.start_import, name="start_import"),
    path("archives/<int:job_id>/", exports.job, name="job"),
    path("archives/<int:job_id>/cancel/", exports.cancel, name="cancel"),
    path("archives/<int:job_id>/drop/", exports.drop, name="drop"),
    path("archives/<int:job_id>/file/", exports.file, name="file"),
]
