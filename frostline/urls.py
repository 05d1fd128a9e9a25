"""Every page by its address."""

from django.urls import include, path

from frostline.server.health import health
from frostline.ui import offline

urlpatterns = [
    path("", include("frostline.desk.urls")),
    path("bench/", include("frostline.bench.urls")),
    path("runs/", include("frostline.runs.urls")),
    path("calls/", include("frostline.calls.urls")),
    path("sheets/", include("frostline.sheets.urls")),
    path("people/", include("frostline.accounts.urls")),
    path("ui/", include("frostline.ui.urls")),
    path("worker.js", offline.worker, name="worker"),
    path("manifest.webmanifest", offline.manifest, name="manifest"),
    path("health/", health, name="health"),
]

handler400 = "frostline.ui.views.bad_request"
handler403 = "frostline.ui.views.forbidden"
handler404 = "frostline.ui.views.not_found"
handler500 = "frostline.ui.views.server_error"
