"""What follows from a sheet alone, worked out once and kept for as long as the sheet is asked for."""

from collections import OrderedDict
from collections.abc import Callable
from threading import Lock
from typing import Generic, TypeVar

from frostcore.sheet.model import Sheet

Value = TypeVar("Value")


class KeptBySheet(Generic[Value]):
    """Values of ``make`` by what a sheet says, the latest used ``most`` of them.

    Sheets that differ only in names read on the unit share a value: it knows none of those names.
    """

    def __init__(self, make: Callable[[Sheet], Value], most: int) -> None:
        self._make, self._most = make, most
        self._values: OrderedDict[str, Value] = OrderedDict()
        self._lock = Lock()

    def of(self, sheet: Sheet) -> Value:
        """The value of a sheet."""
        key = sheet.content_key
        found = self._values.get(key)
        if found is None:
            found = self._make(sheet)
        with self._lock:
            self._values[key] = found
            self._values.move_to_end(key)
            while len(self._values) > self._most:
                self._values.popitem(last=False)
        return found
