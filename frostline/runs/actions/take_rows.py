"""Take rows that an agent posts: each once, whatever is sent twice."""

import hashlib
import hmac
import math
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.utils import timezone

from frostline.runs.models import LiveBatch, LiveRun

MOST_ROWS, MOST_OF_RUN = 2000, 700_000
"""In one post, and of one run: a week of rows every second."""

LATEST = 4e9
"""Unix seconds beyond which no row lies."""


class RefusedError(Exception):
    """Rows that are not taken, with the status that says why."""

    def __init__(self, status: int, problem: str) -> None:
        super().__init__(problem)
        self.status = status


@dataclass(frozen=True)
class Sent:
    """A post, read: whose rows, by its clock when, the first's number, the rows."""

    agent: str
    sent: float
    first: int
    rows: list[list[float | None]]


def hash_of(token: str) -> str:
    """What is kept of a token."""
    return hashlib.sha256(token.encode()).hexdigest()


def check_token(run: LiveRun, token: str) -> None:
    """RefusedError unless the token is the run's, and the run goes on."""
    if not hmac.compare_digest(hash_of(token), run.token_hash):
        raise RefusedError(401, "The token is not this run’s; its page makes another.")
    if run.ended_at is not None:
        raise RefusedError(410, "The run has ended.")
    if run.expires_at < timezone.now():
        raise RefusedError(410, "The run’s time is over; its page makes another token.")


def read_sent(data: Any, places: int) -> Sent:
    """A post as it came. RefusedError for what is none."""
    if not isinstance(data, dict):
        raise RefusedError(422, "A post is an object with agent, sent, first and rows.")
    agent, sent, first, rows = (data.get(name) for name in ("agent", "sent", "first", "rows"))
    if not isinstance(agent, str) or not 8 <= len(agent) <= 40 or not agent.isalnum():
        raise RefusedError(422, "agent: 8 to 40 letters and digits.")
    if (
        not _is_number(sent)
        or isinstance(first, bool)
        or not isinstance(first, int)
        or not 0 <= first < 2**31
    ):
        raise RefusedError(422, "sent: Unix seconds; first: the number of the first row.")
    if not isinstance(rows, list) or not 0 < len(rows) <= MOST_ROWS:
        raise RefusedError(422, f"rows: 1 to {MOST_ROWS} of them.")
    for number, row in enumerate(rows, first):
        if not isinstance(row, list) or len(row) != places + 1:
            raise RefusedError(422, f"Row {number}: a moment and {places} values, as the run has columns.")
        if not _is_number(row[0]) or not 0 <= row[0] <= LATEST:
            raise RefusedError(422, f"Row {number}: its moment is in Unix seconds.")
        if not all(value is None or _is_number(value) for value in row[1:]):
            raise RefusedError(422, f"Row {number}: values are numbers, or null where there is no reading.")
    return Sent(agent, float(sent or 0.0), first, rows)


def _is_number(value: Any) -> bool:
    return not isinstance(value, bool) and isinstance(value, int | float) and math.isfinite(value)


def take_rows(run: LiveRun, post: Sent) -> int:
    """Keep what is new of a post; the number of the row that is wanted next."""
    with transaction.atomic():
        last = run.batches.filter(agent=post.agent).order_by("-first").first()
        wanted = last.first + last.count if last else 0
        rows = post.rows[max(0, wanted - post.first) :]
        if not rows:
            return wanted
        if sum(run.batches.values_list("count", flat=True)) + len(rows) > MOST_OF_RUN:
            raise RefusedError(410, f"A run holds {MOST_OF_RUN:,} rows; end this one and begin another.")
        now = timezone.now()
        first = max(wanted, post.first)
        batch = LiveBatch(
            run=run, agent=post.agent, first=first, count=len(rows), rows=rows,
            behind=now.timestamp() - post.sent, at=now,
        )  # fmt: skip
        batch.save()
    return first + len(rows)
