"""Addresses of the board's page."""

from django.urls import path

from recensor.board_page import views

app_name = "board_page"
urlpatterns = [path("runs/<int:run_id>/board/", views.board, name="board")]
