"""Who may open which page."""

from collections.abc import Callable
from functools import wraps
from ipaddress import ip_address
from typing import cast

from django.conf import settings
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse

from frostline.accounts.models import User


def lead_required(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """Refuse a view to everyone but leads."""

    @wraps(view)
    def guarded(request: HttpRequest, *arguments: object, **named: object) -> HttpResponse:
        if not request.user.is_lead:
            raise PermissionDenied(
                "This page is for leads of the workshop. Ask one to do it, or to give you the role."
            )
        return view(request, *arguments, **named)

    return guarded


def demo_entry_allowed(request: HttpRequest) -> bool:
    """Whether anyone may enter as a demo technician: demo mode, and the browser on this very machine."""
    if not settings.DEMO or request.META.get("frostline.forwarded"):
        return False
    try:
        return ip_address(request.META.get("REMOTE_ADDR", "")).is_loopback
    except ValueError:
        return False


def signed_in(request: HttpRequest) -> User:
    """Who is signed in; views behind the sign-in are asked by nobody else."""
    return cast(User, request.user)
