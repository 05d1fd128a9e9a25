"""Pages of papers: kept with a draft, turned, taken away, and kept with the revision that comes of it."""

import hashlib
from collections.abc import Iterable

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from frostcore.errors import FrostError
from frostline.accounts.models import User
from frostline.sheets import pdf_pages
from frostline.sheets.models import Draft, Page, Picture, Revision, RevisionPage
from frostline.ui.pictures import JPEG, Clean, clean, turned
from frostline.ui.stored import path_of, store

MOST_PAGES = 24


class PageError(FrostError):
    """A page that can't be kept, in words."""


def pictures_of(name: str, data: bytes) -> list[tuple[str, Clean]]:
    """The pages of a file, a picture or a PDF, each with its name; FrostError for any other."""
    if not data.startswith(pdf_pages.HEAD):
        return [(name[:120], clean(data, f"“{name}”"))]
    try:
        drawn = pdf_pages.pages(data)
    except pdf_pages.PdfError as error:
        raise PageError(f"“{name}”: {error}") from None
    return [
        (f"{name[:100]}, page {number}", clean(page, f"“{name}”")) for number, page in enumerate(drawn, 1)
    ]


def keep_picture(picture: Clean, by: User) -> Picture:
    """Keep a picture once; its bytes are on the disk before its row is."""
    digest = hashlib.sha256(picture.content).hexdigest()
    store(digest, picture.content)
    known = Picture.objects.filter(pk=digest).first()
    if known:
        return known
    kept = Picture(
        digest=digest,
        media_type=JPEG,
        size=len(picture.content),
        width=picture.width,
        height=picture.height,
        kept_at=timezone.now(),
        kept_by=by,
    )
    kept.save()
    return kept


@transaction.atomic
def add_pages(draft: Draft, pictures: Iterable[tuple[str, Clean]], by: User) -> list[Page]:
    """Keep pages with a draft, after those it has; PageError where that is more than a paper has."""
    last = draft.pages.aggregate(last=Max("position"))["last"] or 0
    given = list(pictures)
    if draft.pages.count() + len(given) > MOST_PAGES:
        raise PageError(f"A sheet has at most {MOST_PAGES} pages. Take one away first.")
    return [
        Page.objects.create(draft=draft, picture=keep_picture(picture, by), name=name, position=last + number)
        for number, (name, picture) in enumerate(given, 1)
    ]


def turn_page(page: Page, quarters: int, by: User) -> None:
    """Turn a page by quarters, clockwise; what was found on it is found anew."""
    picture = turned(path_of(page.picture_id).read_bytes(), quarters)
    with transaction.atomic():
        page.picture, page.state, page.found = keep_picture(picture, by), "waiting", []
        page.tries = 0
        page.readings.all().delete()
        page.save()


def copy_pages(revision: Revision, draft: Draft) -> None:
    """The pages of a revision, for a draft that begins with it."""
    for page in revision.pages.all():
        Page.objects.create(draft=draft, picture_id=page.picture_id, name=page.name, position=page.position)


def publish_pages(revision: Revision, pages: Iterable[tuple[str, Picture]]) -> None:
    """Keep pages with a new revision, in their order."""
    for number, (name, picture) in enumerate(pages, 1):
        RevisionPage(revision=revision, picture=picture, name=name, position=number).save()
