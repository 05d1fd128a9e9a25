"""Rows sent to a run: with its token in a header, so often as it takes, and each only once there."""

import json
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from http.client import HTTPException
from typing import Any
from urllib.error import HTTPError, URLError
from urllib.request import HTTPRedirectHandler, Request, build_opener

from agent.spool import Spool

BATCH = 500
SOONEST, LATEST = 1.0, 60.0
"""Seconds until the next try after one that failed, doubled up to the second."""

STOPS = frozenset({401, 403, 404, 410})
"""Answers after which there is nothing more to send."""


class _Stays(HTTPRedirectHandler):
    """Goes nowhere else: the token is for the address that was written down."""

    def redirect_request(self, *arguments: Any) -> None:
        return None


_open = build_opener(_Stays).open


class StoppedError(Exception):
    """The run takes no more rows: it has ended, or the token is not its."""


@dataclass
class Post:
    """What sends a spool's rows."""

    feed: str
    token: str
    heads: tuple[str, ...]
    spool: Spool
    clock: Callable[[], float] = time.time
    monotonic: Callable[[], float] = time.monotonic
    wanted: int = 0
    wait: float = 0.0
    not_before: float = field(default=0.0)
    told: str = ""

    def send(self) -> bool:
        """Send what is not there yet; whether all of it is. StoppedError where the run takes no more."""
        while rows := self.spool.since(self.wanted, BATCH):
            if self.monotonic() < self.not_before:
                return False
            body = {
                "agent": self.spool.agent,
                "sent": self.clock(),
                "heads": self.heads,
                "first": rows[0].seq,
                "rows": [[row.at, *row.values] for row in rows],
            }
            try:
                answer = self._posted(body)
            except (URLError, HTTPException, OSError, ValueError) as error:
                self.wait = min(max(2 * self.wait, SOONEST), LATEST)
                self.not_before = self.monotonic() + self.wait
                self.told = f"not sent: {error}; tried again in {self.wait:.0f} s"
                return False
            self.wait, self.told = 0.0, ""
            self.wanted = int(answer["next"])
            self.spool.have(self.wanted)
        return True

    def _posted(self, body: dict[str, Any]) -> dict[str, Any]:
        request = Request(  # noqa: S310 -- the configuration has let http and https through
            self.feed,
            data=json.dumps(body).encode(),
            headers={"Authorization": f"Bearer {self.token}", "Content-Type": "application/json"},
        )
        try:
            with _open(request, timeout=20) as answer:
                found = json.load(answer)
        except HTTPError as error:
            with error:
                text = error.read(2000).decode("utf-8", "replace")
            if error.code in STOPS:
                raise StoppedError(_sentence(text) or f"the run answered {error.code}") from None
            raise OSError(_sentence(text) or f"answered {error.code}") from None
        if not isinstance(found, dict) or not isinstance(found.get("next"), int):
            raise OSError("the address answers, and not as a run does")
        return found


def _sentence(text: str) -> str:
    """What an answer says is wrong, where it says it."""
    try:
        found = json.loads(text)
    except json.JSONDecodeError:
        return ""
    return str(found.get("problem", ""))[:300] if isinstance(found, dict) else ""
