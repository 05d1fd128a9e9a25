"""Answers that take seconds, worked out beside the pages that ask for them, once in each of the server's
processes."""

import logging
import threading
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

from frostcore.errors import FrostError

PATIENCE = 0.2
"""So many seconds a page waits for what is being worked out."""

Key = TypeVar("Key", bound=Hashable)
Value = TypeVar("Value")

_log = logging.getLogger("frostline.background")


class WorkedOut(Generic[Key, Value]):
    """What ``work`` makes of a key, kept for the last ``most`` of them.

    ``beside`` says whether it is worked out in a thread of its own or while one waits (in tests). ``sorry``
    is the sentence for what can't be worked out and gives no reason of its own; FrostErrors are told as they
    are, after ``before``.
    """

    def __init__(
        self,
        work: Callable[[Key], Value],
        beside: threading.Event,
        *,
        before: str,
        sorry: str,
        most: int = 64,
    ) -> None:
        self._work, self._beside = work, beside
        self._before, self._sorry, self._most = before, sorry, most
        self._ready: dict[Key, Value] = {}
        self._failed: dict[Key, str] = {}
        self._working: dict[Key, threading.Thread] = {}
        self._lock = threading.Lock()

    def get(self, key: Key, *, wait: bool = False) -> Value | None:
        """The answer; None while it is being worked out. FrostError where it can't be."""
        if key not in self._ready and key not in self._failed:
            if not self._beside.is_set():
                self._make(key)
            else:
                with self._lock:
                    if key not in self._working:
                        thread = threading.Thread(
                            target=self._make, args=(key,), name="worked out", daemon=True
                        )
                        self._working[key] = thread
                        thread.start()
                    working = self._working[key]
                working.join(None if wait else PATIENCE)
        if key in self._failed:
            raise FrostError(self._failed[key])
        return self._ready.get(key)

    def _make(self, key: Key) -> None:
        """An answer, or why there is none: whatever is asked, who waits for it is told."""
        for kept in (self._ready, self._failed):
            if len(kept) > self._most:
                kept.clear()
        try:
            self._ready[key] = self._work(key)
        except FrostError as error:
            self._failed[key] = f"{self._before}: {error}" if self._before else str(error)
        except Exception:  # noqa: BLE001 -- who waits is told, whatever was asked; the log has it all
            _log.exception("It could not be worked out.")
            self._failed[key] = self._sorry
        finally:
            with self._lock:
                self._working.pop(key, None)
