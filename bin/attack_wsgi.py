"""The application as it is served, with the processor time that each answer took told in a header: a wall
clock on a busy machine says nothing of a page."""

import time
from collections.abc import Callable, Iterable
from typing import Any

from attack_server import PROCESSOR

from frostline.wsgi import application as served


def application(environ: dict[str, Any], start_response: Callable[..., Any]) -> Iterable[bytes]:
    """Answer as the served application does, and tell what it took."""
    start = time.thread_time()

    def told(status: str, headers: list[tuple[str, str]], *more: Any) -> Any:
        return start_response(status, [*headers, (PROCESSOR, f"{time.thread_time() - start:.4f}")], *more)

    return served(environ, told)
