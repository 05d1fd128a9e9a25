"""What follows from a sheet alone, worked out once and kept for as long as the sheet is asked for."""

from collections import OrderedDict
from collections.abc import Callable
from threading import Lock
from typing import Generic, TypeVar

from frostcore.sheet.model import Sheet

Value = TypeVar("Value")


class KeptBySheet(Generic[Value]):
    """Values of ``make`` by sheet, the latest used ``most`` of them.

    A sheet's identity names it: it is kept beside its value, so that the identity is its own meanwhile.
    """

    def __init__(self, make: Callable[[Sheet], Value], most: int) -> None:
        self._make, self._most = make, most
        self._values: OrderedDict[int, tuple[Sheet, Value]] = OrderedDict()
        self._lock = Lock()

    def of(self, sheet: Sheet) -> Value:
        """The value of a sheet."""
        key = id(sheet)
        found = self._values.get(key)
        if found is None or found[0] is not sheet:
            found = (sheet, self._make(sheet))
        with self._lock:
            self._values[key] = found
            self._values.move_to_end(key)
            while len(self._values) > self._most:
                self._values.popitem(last=False)
        return found[1]
