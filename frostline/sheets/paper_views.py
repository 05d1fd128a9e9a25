"""Pages of the paper a draft is typed from, and tables read from them: parse, call an action, render."""

import json
import uuid
from typing import Any

from django.contrib import messages
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from frostcore.errors import FrostError
from frostcore.paper.draft import SECTIONS
from frostcore.paper.merge import merged
from frostcore.paper.paste import recognise
from frostcore.paper.rows import Section
from frostline.accounts.access import signed_in
from frostline.sheets.actions.edit_draft import built
from frostline.sheets.actions.keep_pages import add_pages, pictures_of, turn_page
from frostline.sheets.actions.read_pages import Corners, begin_reading, ensure, start
from frostline.sheets.draft_views import section_or_404
from frostline.sheets.models import Draft, Page, Picture, Reading
from frostline.sheets.reader import languages
from frostline.sheets.readings import looked_over
from frostline.sheets.workbench import READ_FROM, pasted_context
from frostline.ui.pictures import upload_of
from frostline.ui.stored import served

AROUND = 50.0
"""Points beyond a picture's edge at which a mark may be let go."""


@require_safe
def picture(request: HttpRequest, digest: str) -> FileResponse:
    """A kept picture; its address is its content, so it is asked for once."""
    return served(digest, get_object_or_404(Picture, pk=digest).media_type)


@require_POST
def add(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Keep pictures of the paper's pages with a draft."""
    draft = get_object_or_404(Draft, pk=pk)
    back = _back(request, draft)
    files = request.FILES.getlist("pages")
    if not draft.at_work or not files:
        messages.error(request, f"{draft} is {draft.state}." if files else "No picture was chosen.")
        return redirect(back)
    try:
        pictures = [each for file in files for each in pictures_of(str(file.name), upload_of(file))]
        add_pages(draft, pictures, signed_in(request))
    except FrostError as error:
        messages.error(request, str(error))
        return redirect(back)
    start()
    return redirect(back)


@require_POST
def turn(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Turn a page by a quarter."""
    page = _page_at_work(pk)
    turn_page(page, 1 if request.POST.get("way") == "right" else 3, signed_in(request))
    start()
    return redirect(_back(request, page.draft, page))


@require_POST
def remove(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Take a page away from a draft."""
    page = _page_at_work(pk)
    page.delete()
    return redirect(_back(request, page.draft))


@require_http_methods(["GET", "HEAD", "POST"])
def table(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Which table of a page is to be read: one that was found, or one whose corners are dragged."""
    page = _page_at_work(pk)
    wanted = section_or_404(request.POST.get("section") or request.GET.get("section") or "plugs")
    if request.method == "POST":
        corners = _corners(request.POST.get("corners", ""), page.picture)
        if corners:
            one = begin_reading(page, wanted.id, corners, signed_in(request))
            return redirect("sheets:reading", one.pk)
        messages.error(request, "Drag the four marks to the table’s corners, then read it.")
    ensure(page)
    context = {
        "page": page,
        "draft": page.draft,
        "section": wanted,
        "sections": [section_or_404(name) for name in READ_FROM],
        "tables": [_shown(number, each, wanted) for number, each in enumerate(page.found, 1)],
        "languages": languages(),
        "inset": _inset(page.picture),
    }
    return render(request, "sheets/page_tables.html", context)


def _shown(number: int, found: dict[str, Any], wanted: Section) -> dict[str, Any]:
    """A table found, as it is offered: what it is by its heads, or what it is asked for as."""
    points = " ".join(f"{x},{y}" for x, y in found["corners"])
    left, top = (min(corner[axis] for corner in found["corners"]) for axis in (0, 1))
    return found | {
        "number": number,
        "points": points,
        "left": left,
        "top": top,
        "json": json.dumps(found["corners"]),
        "section": section_or_404(found["section"] or wanted.id),
        "known": bool(found["section"]),
    }


def _inset(picture: Picture) -> list[list[float]]:
    """Where the marks stand before they are dragged: a tenth in from the page's corners."""
    x, y = picture.width * 0.1, picture.height * 0.1
    return [[x, y], [picture.width - x, y], [picture.width - x, picture.height - y], [x, picture.height - y]]


def _corners(text: str, picture: Picture) -> Corners | None:
    """Four corners on a picture; None for anything else."""
    try:
        data = json.loads(text)
        corners = [(float(x), float(y)) for x, y in data]
    except (ValueError, TypeError, OverflowError, RecursionError):
        return None
    most = (picture.width + AROUND, picture.height + AROUND)
    inside = all(-AROUND <= at <= end for corner in corners for at, end in zip(corner, most, strict=True))
    return corners if len(corners) == 4 and inside else None


@require_http_methods(["GET", "HEAD", "POST"])
def reading(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """A table as read: each cell under its picture; doubtful ones are looked at before rows count."""
    one = get_object_or_404(Reading.objects.select_related("page__draft", "flat"), pk=pk)
    context: dict[str, Any] = {"reading": one, "page": one.page, "draft": one.page.draft}
    ensure(one)
    if one.state != "read":
        return render(request, "sheets/reading.html", context)
    here, draft = section_or_404(one.section), one.page.draft
    shown = looked_over(one, request.POST if request.method == "POST" else None)
    context |= {"table": shown, "section": here}
    if request.method == "POST" and not shown.left:
        found = recognise(here.id, shown.text)
        _, lost = merged(here.id, built(draft).document, draft.tables.get(here.id, []), found.rows)
        context |= pasted_context(draft, here, shown.text, found, lost)
    refused = request.method == "POST" and bool(shown.left)
    return render(request, "sheets/reading.html", context, status=422 if refused else 200)


def _page_at_work(pk: uuid.UUID) -> Page:
    page = get_object_or_404(Page.objects.select_related("draft", "picture"), pk=pk)
    if not page.draft.at_work:
        raise Http404
    return page


def _back(request: HttpRequest, draft: Draft, page: Page | None = None) -> str:
    """The draft's section one came from."""
    known = {item.id for item in SECTIONS}
    here = request.POST.get("section", "")
    address = reverse("sheets:draft", args=[draft.pk])
    shown = f"&page={page.position}" if page else ""
    return f"{address}?section={here if here in known else 'plate'}{shown}"
