"""Look for tables on pages and read them, in a process of its own: :func:`start` says that there is work,
:func:`work` does all there is."""

import fcntl
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict

import numpy as np
from django.conf import settings
from django.utils import timezone
from PIL import Image

from frostcore.paper.picture.cells import Cut, cut
from frostcore.paper.picture.grid import Found, tables_on
from frostcore.paper.picture.weigh import TableRead, section_of, weighed
from frostline.accounts.models import User
from frostline.sheets.actions.keep_pages import keep_picture
from frostline.sheets.models import Page, Reading
from frostline.sheets.reader import NoReaderError, glimpses, grey_of
from frostline.ui.pictures import of
from frostline.ui.stored import path_of

Corners = list[tuple[float, float]]

TO_BEGIN = 3.0
"""Seconds a process takes to begin on a slow machine; meanwhile no second one is begun."""

MOST_TRIES = 2
"""How often a page or a table is begun: what ended two processes on the way would end a third."""


def begin_reading(page: Page, section: str, corners: Corners, by: User) -> Reading:
    """A table to be read from a page, within four corners from the upper left, clockwise."""
    reading = Reading(page=page, section=section, corners=corners, at=timezone.now(), by=by)
    reading.save(force_insert=True)
    start()
    return reading


def start() -> None:
    """Have a process of its own do what is waiting, unless one is at it already or on its way."""
    with _alone() as mine:
        pass
    if mine and _due():
        spawn([sys.executable, str(settings.BASE_DIR / "manage.py"), "read_pages"])


def ensure(one: Page | Reading) -> None:
    """Whoever waits for one sees to it that somebody is at it: a process may have ended on the way."""
    if not one.ended:
        start()


def _due() -> bool:
    """Whether none was begun just now; noted for whoever asks next."""
    begun = settings.DATA_DIR / "reading-begun"
    try:
        before = time.time() - begun.stat().st_mtime
    except FileNotFoundError:
        before = float("inf")
    if 0 <= before < TO_BEGIN:
        return False
    begun.touch()
    return True


def spawn(command: list[str]) -> None:
    """Begin a program that goes on by itself; what it complains of stands with the server's own."""
    subprocess.Popen(
        command,
        stdin=subprocess.DEVNULL,
        stdout=subprocess.DEVNULL,
        start_new_session=True,
    )


def work() -> int:
    """Do all that is waiting, one process at a time; how much there was.

    Whoever finds another at it leaves: that one looks once more after it has let go.
    """
    done = 0
    while True:
        with _alone() as mine:
            if not mine:
                return done
            done += _all()
        if not (_waiting(Reading) or _waiting(Page)):
            return done


@contextmanager
def _alone() -> Iterator[bool]:
    """Whether no other process reads pages now; for as long as this lasts none begins."""
    with (settings.DATA_DIR / "reading").open("a") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            yield False
        else:
            yield True


def _waiting(model: type[Reading] | type[Page]) -> bool:
    return model.objects.filter(state="waiting").exists()


def _all() -> int:
    """Everything that waits, tables that were asked for before pages that are looked over."""
    done = 0
    _take_up()
    while True:
        page = Page.objects.filter(state="waiting").order_by("-draft__changed_at", "position").first()
        reading = Reading.objects.filter(state="waiting").order_by("at").first()
        if reading is not None:
            read_table(reading)
        elif page is not None:
            find_tables(page)
        else:
            return done
        done += 1


def _take_up() -> None:
    """What a process that ended on the way had begun, once more; not for ever."""
    for begun in (Reading.objects.filter(state="at work"), Page.objects.filter(state="at work")):
        begun.filter(tries__lt=MOST_TRIES).update(state="waiting")
    Reading.objects.filter(state="at work").update(
        state="refused", why="The table could not be read here. Type it; the picture stays beside."
    )
    Page.objects.filter(state="at work").update(state="looked")


def _begin(one: Page | Reading) -> None:
    one.state, one.tries = "at work", one.tries + 1
    one.save(update_fields=["state", "tries"])


def find_tables(page: Page) -> None:
    """Note where tables stand on a page."""
    _begin(page)
    grey = _grey(page)
    page.found = [
        {
            "corners": [[round(x, 1), round(y, 1)] for x, y in each.corners],
            "rows": each.rows,
            "columns": each.columns,
            "section": _section(grey, each),
        }
        for each in tables_on(grey)
    ]
    page.state = "looked"
    page.save(update_fields=["state", "found"])


def _section(grey: np.ndarray, found: Found) -> str:
    """Which of a draft's sections a table is, by its first row; empty where that can't be told."""
    try:
        seen = glimpses(cut(grey, found.corners), rows=1)
    except (ValueError, NoReaderError):
        return ""
    return section_of([each[0].text for each in seen.values()])


def read_table(reading: Reading) -> None:
    """Read one table; what can't be read says why."""
    _begin(reading)
    try:
        table = cut(_grey(reading.page), [(float(x), float(y)) for x, y in reading.corners])
        found = weighed(reading.section, glimpses(table))
    except (ValueError, NoReaderError) as error:
        reading.state, reading.why = "refused", _sentence(str(error))
    else:
        _keep(reading, table, found)
    reading.save()


def _sentence(text: str) -> str:
    text = text[:290]
    return text[:1].upper() + text[1:] + ("" if text.endswith(".") else ".")


def _keep(reading: Reading, table: Cut, found: TableRead) -> None:
    flat = of(Image.fromarray(table.picture))
    boxes = {(box.row, box.column): box for box in table.boxes}
    share = flat.width / table.picture.shape[1]
    reading.cells = [
        asdict(cell) | {"box": [round(side * share) for side in boxes[cell.row, cell.column].sides]}
        for cell in found.cells
    ]
    reading.unwitnessed = [list(each) for each in found.unwitnessed]
    reading.flat = keep_picture(flat, reading.by)
    reading.state = "read"


def _grey(page: Page) -> np.ndarray:
    with Image.open(path_of(page.picture_id), formats=("JPEG",)) as opened:
        return grey_of(opened)
