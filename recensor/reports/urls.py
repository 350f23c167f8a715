"""Addresses of reports."""

from django.urls import path

from recensor.reports import views

app_name = "reports"
urlpatterns = [
    path("experiments/<int:experiment_id>/blank/", views.blank, name="blank"),
    path("runs/<int:run_id>/report/", views.report, name="report"),
    path("runs/<int:run_id>/report/sections/", views.sections, name="sections"),
    path("runs/<int:run_id>/report/<slug:kind>/written/", views.written, name="written"),
    path("runs/<int:run_id>/report/sign/", views.sign, name="sign"),
    path("runs/<int:run_id>/report/revise/", views.revise, name="revise"),
    path("runs/<int:run_id>/report/revisions/<int:number>/", views.revision, name="revision"),
    path("runs/<int:run_id>/report/causes/", views.causes, name="causes"),
    path("runs/<int:run_id>/report/<slug:ending>/", views.file, name="file"),
]
