"""After a form, the page it leads to: in the same answer where htmx asks, which saves a slow connection a
round trip; else by a redirect, as without scripts."""

from typing import cast

from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect
from django.urls import resolve


def go(request: HttpRequest, address: str) -> HttpResponse:
    """The page at an address of ours, after what was posted has been kept."""
    htmx = getattr(request, "htmx", None)
    if not htmx or htmx.history_restore_request:
        return redirect(address)
    path, _, query = address.partition("?")
    found = resolve(path)
    request.method, request.path, request.path_info = "GET", path, path
    request.GET, request.POST = QueryDict(query), QueryDict()
    request.META["QUERY_STRING"] = query
    request.resolver_match = found
    response = cast(HttpResponse, found.func(request, *found.args, **found.kwargs))
    response["HX-Push-Url"] = address
    return response
