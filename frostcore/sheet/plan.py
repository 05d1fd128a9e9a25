"""A change to a unit's wiring as a document: cut here, park there, add this, join so.

Points are the sheet's own: a pin (``CN2.3``), a terminal (``condenser_fan.1``), a splice; the free end of a
wire that has left a point is called after it (``CN2.3/wire``). What a plan makes of a sheet is
:mod:`frostcore.sheet.rewired`'s business; whether it may be done, :mod:`frostcore.remedy.plans`'.
"""

import re
from dataclasses import dataclass
from datetime import date
from typing import Any, Final, Literal

from frostcore import document
from frostcore.errors import SheetError
from frostcore.sheet.bounds import problems_of_data
from frostcore.sheet.model import Component

FORMAT: Final = "frostline-plan-1"
MOST_ACTS = 60
_JOINTS = ("crimp", "terminal", "solder and sleeve", "plug")


@dataclass(frozen=True)
class Park:
    """A connector pulled for good: its plug hangs free, capped; every wire of it has a free end."""

    act: Literal["park"]
    connector: str
    insulate: str = "cap each pin"


@dataclass(frozen=True)
class Cut:
    """A stretch of wire taken off one of its two points; its free end is called after that point."""

    act: Literal["cut"]
    wire: tuple[str, str]
    at: str

    def __post_init__(self) -> None:
        if self.at not in self.wire:
            message = f"a wire from {self.wire[0]} to {self.wire[1]} is cut at one of these, not at {self.at}"
            raise ValueError(message)


@dataclass(frozen=True)
class Add:
    """A part put in."""

    act: Literal["add"]
    component: Component


@dataclass(frozen=True)
class RunWire:
    """A wire put in between two points or more, joined at each: its colour, length, cross-section, joint."""

    act: Literal["run"]
    points: tuple[str, ...]
    colours: tuple[str, ...] = ("black",)
    metres: float = 1.0
    mm2: float = 0.75
    joint: str = "crimp"

    def __post_init__(self) -> None:
        if len(self.points) < 2:
            message = "a wire needs two points or more"
            raise ValueError(message)
        if not 0 < self.metres <= 20 or not 0.05 <= self.mm2 <= 16:
            message = f"a wire of {self.metres:g} m and {self.mm2:g} mm²; write up to 20 m, 0.05 to 16 mm²"
            raise ValueError(message)
        if self.joint not in _JOINTS:
            message = f"a joint by “{self.joint[:40]}”; write {', '.join(_JOINTS)}"
            raise ValueError(message)


@dataclass(frozen=True)
class Label:
    """What is stuck where the change was made, beside what every label says."""

    act: Literal["label"]
    place: str
    text: str


Act = Park | Cut | Add | RunWire | Label


@dataclass(frozen=True)
class Plan:
    """A change to the wiring.

    ``school`` says which way of doing it this is, ``keeps`` names the parts that must still run, and
    ``stop_gap_until`` (a date) that it must be undone by then.
    """

    format: Literal["frostline-plan-1"]
    title: str
    acts: tuple[Act, ...]
    keeps: tuple[str, ...] = ()
    school: str = ""
    stop_gap_until: str = ""

    def __post_init__(self) -> None:
        if not self.title.strip() or len(self.title) > 200:
            message = "a plan has a title, of 200 letters at most"
            raise ValueError(message)
        if not self.acts or len(self.acts) > MOST_ACTS:
            message = f"a plan of {len(self.acts)} acts; there are 1 to {MOST_ACTS}"
            raise ValueError(message)
        if self.stop_gap_until:
            self.until()

    def until(self) -> date | None:
        """The day it must be undone by; None where it may stay."""
        if not self.stop_gap_until:
            return None
        if not re.fullmatch(r"\d{4}-\d\d-\d\d", self.stop_gap_until):
            message = f"stop_gap_until “{self.stop_gap_until[:40]}” is no day; write it as 2026-12-24"
            raise ValueError(message)
        try:
            return date.fromisoformat(self.stop_gap_until)
        except ValueError:
            message = f"{self.stop_gap_until} is no day of the calendar"
            raise ValueError(message) from None

    @property
    def added(self) -> tuple[Component, ...]:
        """The parts it puts in."""
        return tuple(act.component for act in self.acts if isinstance(act, Add))

    @property
    def parked(self) -> tuple[str, ...]:
        """The connectors it parks."""
        return tuple(act.connector for act in self.acts if isinstance(act, Park))

    @property
    def wires(self) -> tuple[RunWire, ...]:
        """The wires it puts in."""
        return tuple(act for act in self.acts if isinstance(act, RunWire))


def read_plan(data: Any) -> Plan:
    """A plan from parsed JSON; SheetError with every problem, each at its place."""
    if isinstance(data, dict) and data.get("format") != FORMAT:
        message = f"format: this is no {FORMAT}: a plan’s first entry is “format”: “{FORMAT}”"
        raise SheetError([message])
    if problems := problems_of_data(data):
        raise SheetError(problems)
    return document.read(Plan, data)


def write_plan(plan: Plan) -> dict[str, Any]:
    """The plain document of a plan."""
    written: dict[str, Any] = document.write(plan)
    return written
