"""A unit's run over time, logged: as an entry."""

import re
from dataclasses import dataclass, field
from typing import Literal

from frostcore.quantity import Quantity
from frostcore.thermal.setting import Setting

_DIGEST = re.compile(r"[0-9a-f]{64}")


@dataclass(frozen=True)
class RunLogged:
    """A logger's file that counts: the digest of the file kept with the call, its name, what each of its
    columns (by head) is of (a compartment, ``coil:EVAPORATOR``, ``room``, ``plug``; ``-`` is left out), how
    warm the room was, what was set on its way, how full the unit was. What it shows is computed at each
    request; ``found`` is what was found of it when it was counted, as evidence: by kind and place
    (``holds:freezer`` ``warm``). A file counted again, with other columns or settings, takes the place of
    what it counted as before."""

    kind: Literal["run_logged"]
    digest: str
    name: str
    columns: dict[str, str]
    room: Quantity | None = None
    found: dict[str, str] = field(default_factory=dict)
    settings: tuple[Setting, ...] = ()
    full: Literal["", "empty", "half", "full"] = ""

    def __post_init__(self) -> None:
        if not _DIGEST.fullmatch(self.digest):
            message = f"“{self.digest[:70]}” is no SHA-256 in hexadecimal"
            raise ValueError(message)
