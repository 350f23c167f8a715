"""Addresses of the whole site."""

from django.urls import include, path

urlpatterns = [
    path("", include("recensor.bench.urls")),
    path("", include("recensor.board_page.urls")),
    path("", include("recensor.run_pages.urls")),
    path("", include("recensor.reports.urls")),
    path("", include("recensor.transfer.urls")),
    path("", include("recensor.experiments.urls")),
    path("", include("recensor.reference.urls")),
    path("", include("recensor.kits.urls")),
    path("", include("recensor.meters.urls")),
    path("", include("recensor.people.urls")),
]
handler400 = "recensor.site.views.bad_request"
handler403 = "recensor.site.views.forbidden"
handler404 = "recensor.site.views.not_found"
handler500 = "recensor.site.views.failed"
