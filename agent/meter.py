"""A logger on the network, asked query by query.

What it does in the field: after a time-out the next answer would be the previous question's, so the
connection is closed and opened anew; one that nobody listens at opens without a word and fails at the first
write; one the far end has closed looks like a time-out; an open input is 9.9E37.
"""

import contextlib
import math
from types import TracebackType
from typing import Self

import pyvisa

OPEN = 1e30
"""A figure beyond that is how such instruments say that they have none."""


class MeterError(OSError):
    """The logger did not answer, or answered what is no figure."""


class Meter:
    """One logger; one thread asks it."""

    def __init__(self, resource: str, timeout: float = 2.0) -> None:
        self._address, self._timeout = resource, timeout
        self._manager = pyvisa.ResourceManager("@py")
        self._open: pyvisa.resources.MessageBasedResource | None = None
        self.name = ""

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()
        self._manager.close()

    def close(self) -> None:
        """Let go of the connection; the next question opens another."""
        if self._open is not None:
            with contextlib.suppress(pyvisa.Error, OSError):
                self._open.close()
            self._open = None

    def figure(self, query: str) -> float | None:
        """What a query is answered; None where the logger says that nothing is there. MeterError where it
        does not answer."""
        told = self._ask(query)
        try:
            value = float(told)
        except ValueError:
            self.close()
            raise MeterError(f"“{query}” was answered “{told[:40]}”, which is no figure") from None
        return value if math.isfinite(value) and abs(value) < OPEN else None

    def _ask(self, query: str) -> str:
        try:
            return self._resource().query(query).strip()
        except (pyvisa.Error, OSError) as error:
            # What is answered late would be taken for the answer to the next question.
            self.close()
            raise MeterError(f"“{query}” was not answered ({_why(error)})") from None

    def _resource(self) -> "pyvisa.resources.MessageBasedResource":
        if self._open is None:
            opened = self._manager.open_resource(
                self._address, read_termination="\n", write_termination="\n", timeout=self._timeout * 1000
            )
            if not isinstance(opened, pyvisa.resources.MessageBasedResource):
                opened.close()
                raise MeterError(f"{self._address} is nothing that can be asked")
            self._open = opened
            self.name = opened.query("*IDN?").strip()
        return self._open


def _why(error: BaseException) -> str:
    return " ".join(str(error).split())[:120] or type(error).__name__
