"""What every template knows."""

from django.conf import settings
from django.http import HttpRequest

THEMES = ("system", "light", "dark")


def interface(request: HttpRequest) -> dict[str, object]:
    """The base template (whole page, or only the part htmx swaps), the colour scheme and the currency."""
    htmx = getattr(request, "htmx", None)
    partial = bool(htmx) and not htmx.history_restore_request
    theme = request.COOKIES.get("theme", "system")
    return {
        "base_template": "ui/fragment.html" if partial else "ui/base.html",
        "theme": theme if theme in THEMES else "system",
        "themes": THEMES,
        "demo_mode": settings.DEMO,
        "currency": settings.CURRENCY,
    }
