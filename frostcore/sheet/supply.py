"""A board's supply as a chain of stages: its parts from the plug's pins to the last rail, and what makes
which volts of which.

The parts lie between the board's nodes as in any circuit; stages are the order a repairer reads them in.
What no linear part does (a rectifier on its capacitor, a switcher, a regulator, a capacitive dropper) is said
beside them, by the parts it is made of.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property
from typing import Literal


class BoardPartKind(StrEnum):
    """What a part of a board is."""

    FUSE = "fuse"
    SUPPRESSOR = "suppressor"
    FILM_CAPACITOR = "film_capacitor"
    ELECTROLYTIC = "electrolytic"
    CHOKE = "choke"
    LIMITER = "limiter"
    DIODE = "diode"
    ZENER = "zener"
    RESISTOR = "resistor"
    WINDING = "winding"
    SWITCH = "switch"
    REGULATOR = "regulator"
    FEEDBACK = "feedback"
    COIL = "coil"
    LOAD = "load"


NEEDS: dict[BoardPartKind, tuple[str, ...]] = {
    BoardPartKind.FUSE: ("ohms", "amperes"),
    BoardPartKind.FILM_CAPACITOR: ("farads",),
    BoardPartKind.ELECTROLYTIC: ("farads", "esr_ohms"),
    BoardPartKind.CHOKE: ("ohms",),
    BoardPartKind.LIMITER: ("ohms",),
    BoardPartKind.DIODE: ("drop_volts",),
    BoardPartKind.ZENER: ("drop_volts", "volts"),
    BoardPartKind.RESISTOR: ("ohms",),
    BoardPartKind.WINDING: ("ohms",),
    BoardPartKind.SWITCH: ("drop_volts",),
    BoardPartKind.REGULATOR: ("drop_volts",),
    BoardPartKind.COIL: ("ohms",),
    BoardPartKind.LOAD: ("ohms",),
}
"""What must be known of each kind."""


@dataclass(frozen=True)
class BoardPart:
    """A part of the board between its nodes ``a`` and ``b``; a diode's ``a`` is its anode, a switch's its
    drain or collector, a regulator's its input (``b`` its output, ``c`` its ground).

    ``name`` is as printed beside it. ``drop_volts`` is what the diode test shows of a junction. Parts of one
    ``block`` are one part to fit: a bridge, a choke's two windings, a transformer. ``dies_with`` names those
    that mostly fail together with it.
    """

    id: str
    kind: BoardPartKind
    a: str
    b: str
    stage: str
    name: str = ""
    c: str = ""
    ohms: float | None = None
    farads: float | None = None
    esr_ohms: float | None = None
    volts: float | None = None
    amperes: float | None = None
    drop_volts: float | None = None
    tolerance: float = 0.05
    block: str = ""
    dies_with: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        for needed in NEEDS.get(self.kind, ()):
            value = getattr(self, needed)
            if value is None or value <= 0:
                message = f"{self.kind} {self.id} needs its {needed.replace('_', ' ')}, above nothing"
                raise ValueError(message)
        if self.a == self.b:
            message = f"{self.kind} {self.id} has both ends at {self.a}"
            raise ValueError(message)

    @property
    def title(self) -> str:
        """What it is called: its name, with what it is."""
        return self.name or f"{self.kind.replace('_', ' ')} {self.id}"


@dataclass(frozen=True)
class Stage:
    """A stage of the chain, in words, and on which side of the isolation it is."""

    id: str
    name: str
    side: Literal["primary", "secondary"]


@dataclass(frozen=True)
class Rectifier:
    """Diodes that charge a capacitor: from ``ac_a`` and ``ac_b`` to ``plus`` and ``minus``; ``series`` are
    the parts whose ohms charge it. It is fed by the mains, or by a mains transformer's ``winding``."""

    id: str
    ac_a: str
    ac_b: str
    plus: str
    minus: str
    diodes: tuple[str, ...]
    bulk: str
    series: tuple[str, ...] = ()
    winding: str = ""


@dataclass(frozen=True)
class MainsTransformer:
    """A mains transformer: its windings (parts), and the secondary's volts unloaded for one on the
    primary."""

    id: str
    primary: str
    secondary: str
    ratio: float


@dataclass(frozen=True)
class Switcher:
    """A switcher from a bus (``plus``, ``minus``) to ``output`` against ``ground``, by its parts.

    It ``starts`` at so many volts of its own supply, at ``starting_amperes`` through the start resistor, and
    gives up below ``stops``; ``runs_at`` is what its auxiliary winding gives it. It regulates the rail.
    """

    id: str
    plus: str
    minus: str
    output: str
    ground: str
    volts: float
    limit_amperes: float
    switch: str
    primary: str
    secondary: str
    rectifier: str
    own_supply: str
    start_resistor: str
    own_capacitor: str
    own_diode: str
    own_winding: str
    sense: str = ""
    clamp: str = ""
    feedback: str = ""
    efficiency: float = 0.78
    standby_watts: float = 0.3
    starts: float = 16.0
    stops: float = 9.0
    runs_at: float = 13.0
    holds_at: float = 20.0
    starting_amperes: float = 60e-6
    running_amperes: float = 3e-3


@dataclass(frozen=True)
class Buck:
    """A step-down drive from one rail to what it feeds: switch, free-wheeling diode, choke, capacitor; mean
    volts out, and its limit."""

    id: str
    plus: str
    output: str
    ground: str
    volts: float
    limit_amperes: float
    switch: str
    choke: str
    capacitor: str
    efficiency: float = 0.9


@dataclass(frozen=True)
class Regulator:
    """A regulator (a part of that kind): volts out, the least it needs above them, and its limit."""

    part: str
    volts: float
    dropout: float
    limit_amperes: float


@dataclass(frozen=True)
class Dropper:
    """A capacitor in series with the mains that makes a rail's current: ``capacitor``, the rectifier it
    feeds, and the Zener diode that holds the rail."""

    id: str
    capacitor: str
    rectifier: str
    zener: str
    half_wave: bool = False


@dataclass(frozen=True)
class BoardSupply:
    """A board's supply: its parts in stages, and what makes which volts. ``line`` and ``neutral`` are its
    nodes at the plug's pins. ``source`` says whether these are that board's values or usual ones of such a
    supply. Where it is not ``isolated`` every pin of it is mains."""

    id: str
    board: str
    name: str
    line: str
    neutral: str
    parts: tuple[BoardPart, ...]
    stages: tuple[Stage, ...]
    rectifiers: tuple[Rectifier, ...] = ()
    transformers: tuple[MainsTransformer, ...] = ()
    switchers: tuple[Switcher, ...] = ()
    bucks: tuple[Buck, ...] = ()
    regulators: tuple[Regulator, ...] = ()
    droppers: tuple[Dropper, ...] = ()
    isolated: bool = True
    source: Literal["sheet", "archetype"] = "sheet"

    def __post_init__(self) -> None:
        problem = next(_problems(self), "")
        if problem:
            raise ValueError(problem)

    @cached_property
    def _by_id(self) -> dict[str, BoardPart]:
        return {part.id: part for part in self.parts}

    def part(self, identifier: str) -> BoardPart:
        """The part of that id; KeyError where there is none."""
        return self._by_id[identifier]

    def find(self, identifier: str) -> BoardPart | None:
        """The part of that id, or None."""
        return self._by_id.get(identifier)

    @cached_property
    def units(self) -> dict[str, tuple[BoardPart, ...]]:
        """What is fitted as one, by its name: parts, and the blocks of several."""
        found: dict[str, tuple[BoardPart, ...]] = {}
        for part in self.parts:
            name = part.block or part.id
            found[name] = (*found.get(name, ()), part)
        return found

    @property
    def nodes(self) -> frozenset[str]:
        """Every node of it."""
        return frozenset(node for part in self.parts for node in (part.a, part.b, part.c) if node)


_LAWS = ("rectifiers", "transformers", "switchers", "bucks", "regulators", "droppers")
_PARTS = frozenset(
    {
        "diodes", "bulk", "series", "winding", "primary", "secondary", "switch", "rectifier",
        "start_resistor",
        "own_capacitor", "own_diode", "own_winding", "sense", "clamp", "feedback", "choke", "capacitor",
        "part", "zener",
    }
)  # fmt: skip
_NODES = frozenset({"ac_a", "ac_b", "plus", "minus", "output", "ground", "own_supply"})


def _problems(supply: BoardSupply) -> Iterator[str]:
    """What in a supply leads nowhere, in words."""
    ids = [part.id for part in supply.parts]
    stages = [stage.id for stage in supply.stages]
    for name in dict.fromkeys(each for each in ids if ids.count(each) > 1):
        yield f"supply {supply.id} has the part {name} twice"
    for part in supply.parts:
        if part.stage not in stages:
            told = f"part {part.id} is of a stage “{part.stage}” the supply has not"
            yield f"{told}; it has {', '.join(stages)}"
        for other in set(part.dies_with) - set(ids):
            yield f"part {part.id} dies with {other}, which the supply has not"
    for where in {supply.line, supply.neutral} - supply.nodes:
        yield f"no part of supply {supply.id} is at the node {where}"
    for family in _LAWS:
        for law in getattr(supply, family):
            yield from _law_problems(supply, family, law)
    yield from _kind_problems(supply)


_KINDS: tuple[tuple[str, str, frozenset[BoardPartKind]], ...] = (
    ("regulators", "part", frozenset({BoardPartKind.REGULATOR})),
    ("rectifiers", "bulk", frozenset({BoardPartKind.ELECTROLYTIC})),
    ("rectifiers", "diodes", frozenset({BoardPartKind.DIODE})),
    ("switchers", "own_capacitor", frozenset({BoardPartKind.ELECTROLYTIC})),
    ("switchers", "start_resistor", frozenset({BoardPartKind.RESISTOR})),
    ("droppers", "capacitor", frozenset({BoardPartKind.FILM_CAPACITOR})),
    ("droppers", "zener", frozenset({BoardPartKind.ZENER})),
)
"""What a part that makes volts has to be."""


def _kind_problems(supply: BoardSupply) -> Iterator[str]:
    """Parts that are another kind than what they are said to make takes."""
    for family, name, kinds in _KINDS:
        for law in getattr(supply, family):
            value = getattr(law, name)
            for each in value if isinstance(value, tuple) else (value,):
                part = supply.find(each)
                if part and part.kind not in kinds:
                    yield f"{family}: {name} {each} is {part.kind}, not {' or '.join(kinds)}"
    secondaries = {each.secondary for each in supply.transformers}
    for rectifier in supply.rectifiers:
        if rectifier.winding and rectifier.winding not in secondaries:
            yield f"rectifiers: {rectifier.id} hangs on {rectifier.winding}, no transformer’s secondary"
        if not rectifier.diodes:
            yield f"rectifiers: {rectifier.id} has no diodes"
    for part in supply.parts:
        if part.kind is BoardPartKind.REGULATOR and not part.c:
            yield f"regulator {part.id} needs its ground, c"


def _law_problems(supply: BoardSupply, family: str, law: object) -> Iterator[str]:
    """What of a law names no part or node of its supply."""
    parts, rectifiers = {part.id for part in supply.parts}, {each.id for each in supply.rectifiers}
    for name, value in vars(law).items():
        if name in _NODES and value not in supply.nodes:
            yield f"{family}: {name} is at {value}, where the supply has no part"
        if name in _PARTS:
            known = rectifiers if family == "droppers" and name == "rectifier" else parts
            named = value if isinstance(value, tuple) else (value,)
            for each in named:
                if each and each not in known:
                    yield f"{family}: {name} names {each}, which the supply has not"
