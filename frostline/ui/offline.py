"""What lets a browser keep pages for where there is no connection, and put the product on a home screen."""

import hashlib
import json

from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.models import AnonymousUser
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.templatetags.static import static
from django.urls import reverse
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_safe

FILES = (
    "ui/dist/frostline.css",
    "ui/icon.svg",
    "ui/js/find.js",
    "ui/js/focus.js",
    "ui/js/fork.js",
    "ui/js/frost.js",
    "ui/js/grid.js",
    "ui/js/offline.js",
    "ui/js/outbox.js",
    "ui/js/seen.js",
    "ui/js/typed.js",
    "ui/js/watch.js",
    "django_htmx/htmx-2.min.js",
)
"""What every page needs, by its name among the static files."""


@login_not_required
@require_safe
@cache_control(no_cache=True)
def worker(request: HttpRequest) -> HttpResponse:
    """The service worker: it keeps the files of every page, and the pages of calls as last seen."""
    files = [static(name) for name in FILES] + [reverse("ui:offline")]
    version = hashlib.sha256(json.dumps(files).encode()).hexdigest()[:12]
    script = render_to_string(
        "ui/worker.js", {"files": files, "version": version, "offline": reverse("ui:offline")}
    )
    return HttpResponse(script, content_type="text/javascript")


@login_not_required
@require_safe
def page(request: HttpRequest) -> HttpResponse:
    """Shown where a page was never seen on this device and can't be fetched; nobody's page in particular."""
    request.user = AnonymousUser()
    return render(request, "ui/offline.html")


@login_not_required
@require_safe
def manifest(request: HttpRequest) -> HttpResponse:
    """The product on a home screen."""
    icons = [{"src": static("ui/icon.svg"), "sizes": "any", "type": "image/svg+xml", "purpose": "any"}]
    for size in ("192", "512"):
        source = static(f"ui/icon-{size}.png")
        icons.append(
            {"src": source, "sizes": f"{size}x{size}", "type": "image/png", "purpose": "any maskable"}
        )
    found = {
        "name": "Frostline",
        "short_name": "Frostline",
        "start_url": "/",
        "display": "standalone",
        "background_color": "#edf3f5",
        "theme_color": "#0d2a38",
        "icons": icons,
    }
    return JsonResponse(found, content_type="application/manifest+json")
