"""What every template knows."""

from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from frostcore.degrees import in_degrees

THEMES = ("system", "light", "dark")
CHOICES = {"theme": THEMES, "shortcuts": ("on", "off"), "degrees": ("C", "F")}
"""What somebody may choose of how pages are shown, by its cookie; the first where nothing is chosen, of the
degrees the workshop's."""


def chosen(request: HttpRequest, name: str) -> str:
    """What somebody has chosen."""
    values = CHOICES[name]
    first = settings.DEGREES if name == "degrees" else values[0]
    value = request.COOKIES.get(name)
    return value if value in values else first


def in_chosen_degrees(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[..., HttpResponse]:
    """Show and understand temperatures in the degrees that whoever asks has chosen, else the workshop's."""

    def answer(request: HttpRequest) -> HttpResponse:
        with in_degrees("°F" if chosen(request, "degrees") == "F" else "°C"):
            return get_response(request)

    return answer


def interface(request: HttpRequest) -> dict[str, object]:
    """The base template (whole page, or only the part htmx swaps), the colour scheme and the currency."""
    htmx = getattr(request, "htmx", None)
    partial = bool(htmx) and not htmx.history_restore_request
    return {
        "base_template": "ui/fragment.html" if partial else "ui/base.html",
        **{name: chosen(request, name) for name in CHOICES},
        "themes": THEMES,
        "demo_mode": settings.DEMO,
        "currency": settings.CURRENCY,
    }
