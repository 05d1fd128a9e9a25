"""The degrees in which temperatures are shown and, where no unit is typed, understood.

SI inside; this is the people's edge, and it differs by workshop and by person. It holds for whatever runs
within :func:`in_degrees`, in this thread alone; elsewhere it is °C.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Literal

Degrees = Literal["°C", "°F"]

_SHOWN: ContextVar[Degrees] = ContextVar("degrees", default="°C")


def degrees() -> Degrees:
    """The degrees that hold here."""
    return _SHOWN.get()


@contextmanager
def in_degrees(unit: Degrees) -> Iterator[None]:
    """Show and understand temperatures in these degrees."""
    mark = _SHOWN.set(unit)
    try:
        yield
    finally:
        _SHOWN.reset(mark)
