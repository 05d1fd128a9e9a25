"""Values kept in the process, the latest used of them."""

from collections import OrderedDict
from collections.abc import Hashable
from threading import Lock
from typing import Generic, TypeVar

Value = TypeVar("Value")


class Kept(Generic[Value]):
    """The latest used values by key; safe between threads."""

    def __init__(self, most: int) -> None:
        self._most, self._values, self._lock = most, OrderedDict[Hashable, Value](), Lock()

    def clear(self) -> None:
        """Keep nothing."""
        with self._lock:
            self._values.clear()

    def get(self, key: Hashable) -> Value | None:
        """The value, or None when it isn't kept."""
        with self._lock:
            if key not in self._values:
                return None
            self._values.move_to_end(key)
            return self._values[key]

    def keep(self, key: Hashable, value: Value) -> Value:
        """The value, kept from now on."""
        with self._lock:
            self._values[key] = value
            while len(self._values) > self._most:
                self._values.popitem(last=False)
        return value
