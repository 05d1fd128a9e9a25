"""What every template knows."""

from django.conf import settings
from django.http import HttpRequest

THEMES = ("system", "light", "dark")
CHOICES = {"theme": THEMES, "shortcuts": ("on", "off")}
"""What somebody may choose of how pages are shown, by its cookie; the first where nothing is chosen."""


def interface(request: HttpRequest) -> dict[str, object]:
    """The base template (whole page, or only the part htmx swaps), the colour scheme and the currency."""
    htmx = getattr(request, "htmx", None)
    partial = bool(htmx) and not htmx.history_restore_request
    chosen = {
        name: value if (value := request.COOKIES.get(name)) in values else values[0]
        for name, values in CHOICES.items()
    }
    return {
        "base_template": "ui/fragment.html" if partial else "ui/base.html",
        **chosen,
        "themes": THEMES,
        "demo_mode": settings.DEMO,
        "currency": settings.CURRENCY,
    }
