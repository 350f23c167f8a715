"""Addresses of archives."""

from django.urls import path

from recensor.archive import views

app_name = "archive"
urlpatterns = [
    path("archives/", views.archives, name="archives"),
    path("archives/reports/", views.ask_reports, name="ask_reports"),
    path("archives/account/", views.ask_account, name="ask_account"),
    path("archives/send/", views.begin_sending, name="begin_sending"),
    path("archives/<int:job_id>/piece/", views.take_piece, name="take_piece"),
    path("archives/<int:job_id>/bring/", views.bring, name="bring"),
    path("archives/<int:job_id>/", views.job, name="job"),
    path("archives/<int:job_id>/cancel/", views.cancel, name="cancel"),
    path("archives/<int:job_id>/drop/", views.drop, name="drop"),
    path("archives/<int:job_id>/file/", views.file, name="file"),
]
