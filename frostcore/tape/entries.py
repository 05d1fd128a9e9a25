"""What can stand on a call's tape.

Each entry's body is one of these frozen values. A body goes to and from a plain document with
:mod:`frostcore.document`, told apart by ``kind``.
"""

import re
from dataclasses import dataclass
from datetime import date, datetime
from enum import StrEnum
from typing import Any, Literal

from frostcore import document
from frostcore.curves.verdict import DEFAULT_DOUBT_KELVIN, DEFAULT_METER
from frostcore.quantity import Quantity
from frostcore.sheet.plan import Plan
from frostcore.tape.benched import BoardBack, BoardOut, BoardRead
from frostcore.tape.learned import (
    CodeLearned,
    CurveLearned,
    PartLearned,
    PinsLearned,
    StatedLearned,
    ValueLearned,
)
from frostcore.tape.ran import RunLogged
from frostcore.tape.rechecked import RecheckAsked, RecheckTold
from frostcore.verdict import Verdict

_DIGEST = re.compile(r"[0-9a-f]{64}")


class Power(StrEnum):
    """Whether the plug is in."""

    UNPLUGGED = "unplugged"
    LIVE = "live"
    UNKNOWN = "unknown"


SUPPLY_HISTORY: tuple[tuple[str, str], ...] = (
    ("surge", "a surge or thunderstorm"),
    ("moved", "the unit was moved"),
    ("loose_plug", "a loose or worn plug"),
    ("adaptor", "an adaptor or extension lead"),
    ("polarity", "reversed polarity at the socket"),
)
"""What to ask about the supply: (id, words).

A worn plug or reversed polarity kills a second board.
"""


@dataclass(frozen=True)
class CallTaken:
    """The call as it came in: the complaint in their words, age, what was replaced before, the supply's
    history.

    Whose unit it is stands apart from the tape, where it can be corrected and erased.
    """

    kind: Literal["call_taken"]
    complaint: str
    age_years: float | None = None
    replaced_before: str = ""
    replacement_helped: Literal["", "yes", "for_a_while", "no"] = ""
    supply_history: tuple[str, ...] = ()


@dataclass(frozen=True)
class PlateRead:
    """The rating plate as read on this unit; what differs from the sheet is worth a look."""

    kind: Literal["plate_read"]
    model: str
    serial: str = ""
    mains_volts: float | None = None
    mains_hertz: float | None = None
    refrigerant: str = ""
    charge_grams: float | None = None
    defrost_heater_watts: float | None = None


@dataclass(frozen=True)
class PowerSet:
    """The plug was pulled, or put in."""

    kind: Literal["power_set"]
    state: Literal["unplugged", "live"]


@dataclass(frozen=True)
class Observed:
    """One first-look observation: which look, which answer."""

    kind: Literal["observed"]
    look: str
    answer: str
    note: str = ""


@dataclass(frozen=True)
class TemperatureTaken:
    """A compartment's temperature by thermometer, not by the display."""

    kind: Literal["temperature_taken"]
    place: str
    temperature: Quantity


@dataclass(frozen=True)
class CodeSeen:
    """What the display showed, as typed, and the sheet's code it was taken for (empty when none).

    ``frames`` holds the segments as tapped on the pad, ``taps`` the rhythm as tapped along, ``lamps`` the
    indicator lamps lit.
    """

    kind: Literal["code_seen"]
    shown: str
    code: str = ""
    frames: str = ""
    taps: str = ""
    lamps: tuple[str, ...] = ()


@dataclass(frozen=True)
class ReadingTaken:
    """A reading between two points, or of a sensor, with the setup it was taken in.

    ``meter`` is the meter's range. ``sensor`` is the sensor it is about, where that is not plain from the
    points; ``function`` is what was being traced (each empty when nothing). ``mode`` and ``pulled`` are the
    setup as told with the reading; an empty mode is the one the unit was in, ``pulled`` None says nothing of
    plugs. ``temperature`` is the thermometer's at the sensor, good to ``doubt_kelvin``; ``accuracy`` is the
    meter's, a fraction. ``kept`` names the questions answered with «as typed».
    """

    kind: Literal["reading"]
    meter: Literal["ohm", "vac", "vdc", "vac_loz"]
    value: Quantity
    red: str = ""
    black: str = ""
    sensor: str = ""
    function: str = ""
    mode: str = ""
    pulled: tuple[str, ...] | None = None
    temperature: Quantity | None = None
    doubt_kelvin: float = DEFAULT_DOUBT_KELVIN
    accuracy: float = DEFAULT_METER
    kept: tuple[str, ...] = ()


@dataclass(frozen=True)
class WattsTaken:
    """What a plug meter shows in a mode."""

    kind: Literal["watts_taken"]
    mode: str
    watts: Quantity


@dataclass(frozen=True)
class AmpsTaken:
    """The amperes at the plug in a mode."""

    kind: Literal["amps_taken"]
    mode: str
    amperes: Quantity


@dataclass(frozen=True)
class HertzTaken:
    """The hertz of a fan's tachometer, where it should turn."""

    kind: Literal["hertz_taken"]
    component: str
    hertz: Quantity


@dataclass(frozen=True)
class Complained:
    """What the customer notices: one complaint's id."""

    kind: Literal["complained"]
    complaint: str


@dataclass(frozen=True)
class Felt:
    """Something heard, felt, smelt or seen at a part, nothing measured."""

    kind: Literal["felt"]
    component: str
    what: str


@dataclass(frozen=True)
class Barred:
    """A test that can't be made on this call: the act in the vocabulary of evidence, as text, its words, and
    why."""

    kind: Literal["barred"]
    act: str
    name: str
    why: str = ""


@dataclass(frozen=True)
class MainsTaken:
    """What a meter shows at the outlet."""

    kind: Literal["mains_taken"]
    volts: Quantity


@dataclass(frozen=True)
class Tried:
    """A harness moved, or a place warmed or chilled, with the meter on two points, and whether the figure
    changed."""

    kind: Literal["tried"]
    how: Literal["move", "warm", "chill"]
    red: str
    black: str
    meter: Literal["ohm", "vac", "vdc", "vac_loz"]
    changes: Literal["yes", "no"]
    mode: str = ""
    pulled: tuple[str, ...] | None = None


@dataclass(frozen=True)
class Bridged:
    """A load fed past its board for a moment, and whether it ran."""

    kind: Literal["bridged"]
    component: str
    runs: Literal["yes", "no"]


@dataclass(frozen=True)
class ModeSet:
    """The unit was put in a mode, or taken out of it again."""

    kind: Literal["mode_set"]
    mode: str
    state: Literal["entered", "left"] = "entered"


@dataclass(frozen=True)
class PlugMoved:
    """A connector was pulled, or put back."""

    kind: Literal["plug_moved"]
    connector: str
    state: Literal["pulled", "plugged"]


@dataclass(frozen=True)
class StepDone:
    """One step of a way in was done, or undone on the way out.

    ``counted`` fasteners came out or went back.
    """

    kind: Literal["step_done"]
    place: str
    step: int
    state: Literal["opened", "closed"]
    counted: int | None = None


@dataclass(frozen=True)
class PartFitted:
    """A part that was replaced on this call, and whether that helped, where it is known already."""

    kind: Literal["part_fitted"]
    component: str
    note: str = ""
    helped: Literal["", "yes", "for_a_while", "no"] = ""


@dataclass(frozen=True)
class PartTried:
    """A part put in on trial and taken out again, and whether that helped meanwhile."""

    kind: Literal["part_tried"]
    component: str
    helped: Literal["yes", "for_a_while", "no"]
    note: str = ""


MENDED: tuple[tuple[str, str], ...] = (
    ("joint", "joint or wire mended"),
    ("board_mended", "board mended"),
    ("cleaned", "cleaned or thawed"),
    ("adjusted", "adjusted"),
    ("put_right", "put right"),
)
"""Ways to mend without a part fitted: (id, words)."""


@dataclass(frozen=True)
class Mended:
    """Something mended, cleaned or put right without a part fitted: the repair unit, its name, in which way,
    what was done (of a board, which of its parts; of what was adjusted, how far), and whether that helped,
    where it is known already."""

    kind: Literal["mended"]
    unit: str
    name: str
    done: str = ""
    helped: Literal["", "yes", "for_a_while", "no"] = ""
    how: Literal["", "joint", "board_mended", "cleaned", "adjusted", "put_right"] = ""


@dataclass(frozen=True)
class Programmed:
    """A board told what unit it is in, or a setting of it changed: which, to what, what it was before, and
    what shows that it took it."""

    kind: Literal["programmed"]
    component: str
    setting: str
    value: str
    was: str = ""
    shown_by: str = ""


@dataclass(frozen=True)
class Rewired:
    """The wiring changed by a plan, or put back as it was; ``agreed_by`` is who agreed to it."""

    kind: Literal["rewired"]
    state: Literal["done", "undone"]
    plan: Plan | None = None
    agreed_by: str = ""

    def __post_init__(self) -> None:
        if (self.state == "done") is (self.plan is None):
            message = "wiring is changed by a plan, and put back without one"
            raise ValueError(message)


@dataclass(frozen=True)
class Noted:
    """Anything else worth keeping."""

    kind: Literal["noted"]
    text: str


@dataclass(frozen=True)
class Checked:
    """A quick check filed into the call: which check, its result in a word or two, the verdict, all of it
    in words, and its address. ``act`` is a list of what it is in the vocabulary of evidence, as text; empty
    where it is of nothing on the sheet."""

    kind: Literal["checked"]
    check: str
    figure: str
    verdict: str = ""
    detail: str = ""
    address: str = ""
    act: str = ""

    def __post_init__(self) -> None:
        if self.verdict and self.verdict not in set(Verdict):
            message = f"“{self.verdict}” is no verdict"
            raise ValueError(message)


class Result(StrEnum):
    """How a call ended."""

    REPAIRED = "repaired"
    WORKED_AROUND = "worked_around"
    QUOTED = "quoted"
    NO_FAULT = "no_fault"
    STOPPED = "stopped"

    @property
    def label(self) -> str:
        """The result in words."""
        return {
            "repaired": "repaired",
            "worked_around": "worked around",
            "quoted": "quoted, awaiting answer",
            "no_fault": "no fault found",
            "stopped": "stopped, not repaired",
        }[self]


PROOFS: tuple[tuple[str, str], ...] = (
    ("cycled_off", "reached set-point and cycled off"),
    ("code_away", "the code stayed away"),
    ("defrost_ended", "defrost heated and ended"),
    ("off_draw", "power draw when off is normal"),
)
"""Proofs that can be claimed at the end: (id, words).

Cold alone is not proof.
"""


@dataclass(frozen=True)
class Outcome:
    """The end of a call: result, the component at fault (empty when none), what was done, what proves it,
    a recheck in days, what it costs the customer."""

    kind: Literal["outcome"]
    result: Result
    done: str
    cause: str = ""
    proofs: tuple[str, ...] = ()
    recheck_days: int | None = None
    price: float | None = None

    def __post_init__(self) -> None:
        if self.price is not None and not 0 <= self.price <= MOST_PRICE:
            message = f"a price of {self.price:g}; write what the customer pays, from 0 to {MOST_PRICE:,}"
            raise ValueError(message)


MOST_PRICE = 1_000_000


@dataclass(frozen=True)
class QuoteOption:
    """One thing that can be done, for the customer: in plain words, its price, when, what it risks."""

    title: str
    price: float
    when: str = ""
    risk: str = ""

    def __post_init__(self) -> None:
        if not 0 <= self.price <= MOST_PRICE:
            message = f"a price of {self.price:g}; write what the customer pays, from 0 to {MOST_PRICE:,}"
            raise ValueError(message)


@dataclass(frozen=True)
class Quoted:
    """What was offered to the customer, and what they said: ``chosen`` counts from 0."""

    kind: Literal["quoted"]
    state: Literal["open", "accepted", "refused"]
    options: tuple[QuoteOption, ...]
    chosen: int | None = None

    def __post_init__(self) -> None:
        if not self.options:
            message = "a quote offers something"
            raise ValueError(message)
        if (self.state == "accepted") is (self.chosen is None):
            message = "what is accepted is one of the options, what is open or refused none"
            raise ValueError(message)
        if self.chosen is not None and not 0 <= self.chosen < len(self.options):
            message = f"there is no option {self.chosen + 1} in this quote"
            raise ValueError(message)


@dataclass(frozen=True)
class Awaited:
    """A part that is ordered for this unit, and the day it is looked for."""

    kind: Literal["awaited"]
    component: str
    until: str
    note: str = ""

    def __post_init__(self) -> None:
        try:
            date.fromisoformat(self.until)
        except ValueError:
            message = f"“{self.until[:40]}” is no day; write it as 2026-12-24"
            raise ValueError(message) from None


@dataclass(frozen=True)
class Experienced:
    """What the workshop's own closed calls had taught of units of this kind on the day the call was opened:
    how often each kind of part was the cause."""

    kind: Literal["experienced"]
    counts: tuple[tuple[str, int], ...]


@dataclass(frozen=True)
class Withdrawn:
    """An earlier entry taken back, and why.

    The entry stays to be seen.
    """

    kind: Literal["withdrawn"]
    why: str


@dataclass(frozen=True)
class SheetTaken:
    """From here on the call is worked with another sheet: its id, revision and digest."""

    kind: Literal["sheet_taken"]
    sheet: str
    revision: int
    digest: str


@dataclass(frozen=True)
class Attached:
    """A file kept with the call: the digest of its bytes, what it is called, its media type and size; whether
    the customer sees it in the report; ``of`` is the entry it shows, by its id, empty for none."""

    kind: Literal["attached"]
    digest: str
    name: str
    media_type: str
    size: int
    caption: str = ""
    report: bool = False
    of: str = ""

    def __post_init__(self) -> None:
        if not _DIGEST.fullmatch(self.digest):
            message = f"“{self.digest[:70]}” is no SHA-256 in hexadecimal"
            raise ValueError(message)


@dataclass(frozen=True)
class Unreadable:
    """A stored body that this version can't read: its kind and version, why, and its text as stored."""

    kind: str
    version: int
    why: str
    text: str


Body = (
    CallTaken
    | PlateRead
    | PowerSet
    | Observed
    | TemperatureTaken
    | CodeSeen
    | ReadingTaken
    | WattsTaken
    | AmpsTaken
    | HertzTaken
    | MainsTaken
    | Complained
    | Felt
    | Barred
    | Tried
    | Bridged
    | ModeSet
    | PlugMoved
    | StepDone
    | PartFitted
    | PartTried
    | Mended
    | Programmed
    | Rewired
    | Noted
    | Checked
    | Awaited
    | Experienced
    | Quoted
    | Outcome
    | Withdrawn
    | SheetTaken
    | PinsLearned
    | ValueLearned
    | PartLearned
    | CodeLearned
    | CurveLearned
    | StatedLearned
    | Attached
    | BoardOut
    | BoardRead
    | BoardBack
    | RunLogged
    | RecheckAsked
    | RecheckTold
)


@dataclass(frozen=True)
class Entry:
    """One slip of the tape: its id, when it was made and by whom, the body, the id of the entry it corrects
    (or empty), and when it was recorded (None when that was at once)."""

    id: str
    at: datetime
    by: str
    body: Body | Unreadable
    supersedes: str = ""
    recorded: datetime | None = None


@dataclass(frozen=True)
class _Envelope:
    body: Body


def body_from_document(data: Any) -> Body:
    """A body from its plain document in the present version; raises SheetError naming what is wrong."""
    return document.read(_Envelope, {"body": data}).body


def body_to_document(body: Body) -> dict[str, Any]:
    """The plain document of a body."""
    written: dict[str, Any] = document.write(body)
    return written
