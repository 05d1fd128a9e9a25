"""Pages on a workshop of many calls: processor time of each, and its ratio to the bare SQLite query for the
same rows."""

import os
import re
import sqlite3
import statistics
import sys
import time
import uuid
from collections.abc import Callable
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
GOAL_MS, ROUNDS = 100.0, 9


def _milliseconds(act: Callable[[], Any]) -> float:
    spent = []
    for _ in range(ROUNDS):
        start = time.process_time()
        act()
        spent.append((time.process_time() - start) * 1e3)
    return statistics.median(spent)


def _prepare(calls: int) -> Path:
    """The database, made when it is not there yet; a minute for ten thousand calls."""
    folder = Path(os.environ.get("FROSTLINE_DATA", ROOT / "var" / f"scale-{calls}"))
    os.environ.update(
        FROSTLINE_DEMO="1", FROSTLINE_DATA=str(folder), DJANGO_SETTINGS_MODULE="frostline.settings"
    )
    import django  # noqa: PLC0415 - settings read the environment

    django.setup()
    from django.core.management import call_command  # noqa: PLC0415

    folder.mkdir(parents=True, exist_ok=True)
    call_command("migrate", verbosity=0)
    call_command("collectstatic", interactive=False, verbosity=0)
    from frostline.calls.models import Call  # noqa: PLC0415

    if Call.objects.count() < calls:
        print(f"Making {calls:,} calls in {folder} (once) …", flush=True)
        call_command("load_demo", verbosity=0)
        call_command("load_many", calls)
    return folder / "frostline.sqlite3"


TAPE_SQL = (
    "SELECT id, kind, version, body, at, recorded_at, by_id, supersedes_id FROM calls_slip"
    " WHERE call_id = ? ORDER BY position"
)
ROWS_SQL = (
    "SELECT * FROM calls_callindex i JOIN calls_call c ON c.id = i.call_id JOIN calls_customer u"
    " ON u.id = c.customer_id"
)


class Pages:
    """The demo technician's browser, in process, and the database itself beside it."""

    def __init__(self, database: Path) -> None:
        from django.conf import settings  # noqa: PLC0415
        from django.test import Client  # noqa: PLC0415

        from frostline.accounts.models import User  # noqa: PLC0415
        from frostline.calls.models import CallIndex  # noqa: PLC0415

        settings.ALLOWED_HOSTS.append("testserver")
        self.client = Client()
        self.client.force_login(User.objects.get(username="demo"))
        self.bare = sqlite3.connect(database)
        self.worst = 0.0
        self.index = CallIndex.objects

    def line(self, name: str, act: Callable[[], Any], sql: str, *values: Any) -> None:
        """One line: the page's median processor time, the query's, the ratio."""
        act()
        page = _milliseconds(act)
        query = _milliseconds(lambda: self.bare.execute(sql, values).fetchall())
        self.worst = max(self.worst, page)
        print(f"{name:34} {page:8.1f} ms {query:9.2f} ms {page / max(query, 1e-3):9.0f}", flush=True)

    def get(self, address: str) -> None:
        """A page that must answer."""
        answer = self.client.get(address)
        if answer.status_code != 200:
            message = f"{address}: {answer.status_code}"
            raise RuntimeError(message)

    def call_of(self, slips: int) -> str:
        """A call of about so many entries."""
        row = (
            self.index.filter(slips__gte=slips, slips__lt=slips * 1.3, is_open=True)
            .order_by("number")
            .first()
        )
        return str(row.call_id)

    def cold(self, call: str) -> float:
        """Processor time of a call's page with nothing of it kept in the process."""
        from frostline.calls import tapes  # noqa: PLC0415

        spent = []
        for _ in range(3):
            tapes.forget()
            start = time.process_time()
            self.get(f"/calls/{call}/look/")
            spent.append((time.process_time() - start) * 1e3)
        return statistics.median(spent)

    def posted(self, call: str) -> float:
        """Processor time of one entry put on a tape that was just looked at, as a page is."""
        spent = []
        for _ in range(ROUNDS):
            self.get(f"/calls/{call}/look/")
            start = time.process_time()
            self.post(call)
            spent.append((time.process_time() - start) * 1e3)
        self.worst = max(self.worst, statistics.median(spent))
        return statistics.median(spent)

    def post(self, call: str) -> None:
        """One note put on a tape."""
        data = {"kind": "noted", "slip_id": str(uuid.uuid4()), "text": "seen at scale"}
        answer = self.client.post(f"/calls/{call}/close/", data)
        if answer.status_code != 302:
            message = f"POST: {answer.status_code}"
            raise RuntimeError(message)


def scale(calls: int) -> int:
    """Print the pages' figures."""
    pages = Pages(_prepare(calls))
    count = pages.bare.execute(
        "SELECT (SELECT COUNT(*) FROM calls_call), COUNT(*) FROM calls_slip"
    ).fetchone()
    print(f"{count[0]:,} calls, {count[1]:,} entries\n")
    print(f"{'page':34} {'processor':>11} {'bare query':>12} {'ratio':>9}")
    newest = f"{ROWS_SQL} WHERE i.is_open ORDER BY i.number DESC LIMIT 12"
    pages.line("front page", lambda: pages.get("/"), newest)
    some = f"{ROWS_SQL} ORDER BY i.number DESC LIMIT 30"
    pages.line("a page of calls, the first", lambda: pages.get("/calls/"), some)
    deep = f"{some} OFFSET 45000"
    pages.line("a page of calls, far back", lambda: pages.get("/calls/?page=1501"), deep)
    match = "SELECT rowid FROM calls_words WHERE calls_words MATCH ? ORDER BY rank LIMIT 20"
    for typed in ("S-031234", "Holm", "defrost sensor", "E5"):
        words = " AND ".join(f'"{word}"*' for word in re.findall(r"\w+", typed))
        address = "/search/?q=" + typed.replace(" ", "+")
        pages.line(f"search “{typed}”", lambda address=address: pages.get(address), match, words)
    for slips in (20, 200, 2000):
        call = pages.call_of(slips)
        key = call.replace("-", "")
        for stage in ("look", "probe", "trace"):
            address = f"/calls/{call}/{stage}/"
            name = f"a call of {slips:,} entries, {stage}"
            pages.line(name, lambda address=address: pages.get(address), TAPE_SQL, key)
        print(f"{'   nothing of it kept in the process':34} {pages.cold(call):8.1f} ms")
        print(f"{f'POST to it, {slips:,} entries':34} {pages.posted(call):8.1f} ms")
    kept = pages.worst < GOAL_MS
    word = "held" if kept else "NOT held"
    print(f"\nslowest, warm: {pages.worst:.0f} ms (goal: under {GOAL_MS:.0f} ms: {word})")
    return 0


if __name__ == "__main__":
    sys.exit(scale(50_000))
