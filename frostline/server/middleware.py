"""Around every request: who asks, through which proxy, under which id, and what no cache may keep."""

import json
import logging
import re
import time
import uuid
from collections.abc import Callable
from ipaddress import ip_address

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from frostline.server.logs import REQUEST_ID

FORWARDED = (
    "HTTP_FORWARDED",
    "HTTP_VIA",
    "HTTP_X_FORWARDED_FOR",
    "HTTP_X_FORWARDED_HOST",
    "HTTP_X_FORWARDED_PROTO",
    "HTTP_X_REAL_IP",
)
"""Headers only a proxy sends. From anybody else they are a lie, or a proxy nobody named."""

PERMISSIONS = (
    "accelerometer=(), camera=(self), geolocation=(), gyroscope=(), magnetometer=(), microphone=(),"
    " payment=(), usb=()"
)
ASKED_ID = re.compile(r"[A-Za-z0-9-]{8,64}")

log = logging.getLogger("frostline.requests")

Next = Callable[[HttpRequest], HttpResponse]


def proxies(get_response: Next) -> Next:
    """Take a proxy's word for who asks, and over what, where it is one of those the settings name; else for
    nothing."""

    def answer(request: HttpRequest) -> HttpResponse:
        meta = request.META
        meta["frostline.forwarded"] = any(name in meta for name in FORWARDED)
        if _trusted(meta.get("REMOTE_ADDR", "")):
            meta["REMOTE_ADDR"] = _client(meta.get("HTTP_X_FORWARDED_FOR", ""), meta["REMOTE_ADDR"])
        else:
            for name in (*FORWARDED, "HTTP_X_REQUEST_ID"):
                meta.pop(name, None)
        return get_response(request)

    return answer


def _trusted(address: str) -> bool:
    try:
        found = ip_address(address)
    except ValueError:
        return False
    return any(found in network for network in settings.PROXIES)


def _client(forwarded: str, proxy: str) -> str:
    """The last address in the chain that is no proxy of ours: what stands before it anybody may have
    written."""
    for part in reversed(forwarded.split(",")):
        address = part.strip()
        try:
            ip_address(address)
        except ValueError:
            return proxy
        if not _trusted(address):
            return address
    return proxy


def client_address(request: HttpRequest) -> str:
    """Who asks, as :func:`proxies` has settled it."""
    return str(request.META.get("REMOTE_ADDR", ""))


OFTEN = "/newest/"
"""What a page asks every moment has no line of its own."""


def requests(get_response: Next) -> Next:
    """Each request has an id, in its answer and in every line of the log, and a line of its own.

    The line has the address's path and not its query: that may hold what a customer said.
    """

    def answer(request: HttpRequest) -> HttpResponse:
        asked = request.META.get("HTTP_X_REQUEST_ID", "")
        identifier = asked if ASKED_ID.fullmatch(asked) else uuid.uuid4().hex
        mark, start = REQUEST_ID.set(identifier), time.monotonic()
        try:
            response = get_response(request)
            response["X-Request-ID"] = identifier
            user = getattr(request, "user", None)
            told = {
                "method": request.method,
                "path": request.path,
                "status": response.status_code,
                "ms": round((time.monotonic() - start) * 1000, 1),
                "client": client_address(request),
                "user": user.pk if user is not None and user.is_authenticated else None,
            }
            log.log(
                logging.DEBUG if request.path.endswith(OFTEN) else logging.INFO,
                "%s %s %s",
                request.method,
                json.dumps(request.path),
                response.status_code,
                extra={"told": told},
            )
            return response
        finally:
            REQUEST_ID.reset(mark)

    return answer


def headers(get_response: Next) -> Next:
    """What the browser may use, and that nothing of what somebody signed in sees is kept on the way."""

    def answer(request: HttpRequest) -> HttpResponse:
        response = get_response(request)
        response.headers.setdefault("Permissions-Policy", PERMISSIONS)
        response.headers.setdefault("Cache-Control", "no-store")
        return response

    return answer
