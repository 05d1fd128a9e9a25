"""The unit sheet as typed values: what a sheet document holds, entry by entry.

A sheet is a plain JSON document (the published schema is derived from these classes). Identifiers are
short snake_case words, unique in their list. Resistances in ohms, temperatures in degrees Celsius, times
in minutes or seconds as the name says, prices in the workshop's currency.
"""

import re
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property
from typing import Literal

from frostcore.curves.model import BetaCurve, Curve, SteinhartHartCurve, TableCurve
from frostcore.curves.verdict import DEFAULT_TOLERANCE, Limits, Role
from frostcore.document import digest, write
from frostcore.sheet.electrical import Board, Connector, Pin, Run
from frostcore.sheet.heat import ThermalStated
from frostcore.sheet.origin import USUAL, Mark, Source, source_at
from frostcore.sheet.supply import BoardSupply
from frostcore.sheet.wiring import Wiring, wire_up

_IDENTIFIER = re.compile(r"[a-z][a-z0-9_]*")
_SHEET_IDENTIFIER = re.compile(r"[a-z0-9]+(-[a-z0-9]+)*")
RESERVED_SHEET_IDS = frozenset({"publish", "drafts"})
LONGEST_SHEET_ID = 60
"""A sheet's identifier is its address; longer ones don't fit one."""


def _identifier(value: str) -> None:
    if not _IDENTIFIER.fullmatch(value):
        message = f"“{value}” is no identifier; use small letters, digits and underscores, a letter first"
        raise ValueError(message)


def squeezed(text: str) -> str:
    """A model as printed, in any script, without the spaces, dashes and cases that plates and papers vary
    in."""
    return re.sub(r"[\W_]", "", text.upper())


BURNING = ("R600A", "R290", "R1270")
"""The hydrocarbons: isobutane, propane, propylene."""


def burns(refrigerant: str) -> bool:
    """Whether a refrigerant, as a plate or paper spells it, burns: “R600a”, “R 290”, “R-600a (isobutane)”."""
    return squeezed(refrigerant).startswith(BURNING)


class ComponentKind(StrEnum):
    """What a component is in the trade's words; faults, failure rates and pictures follow from it."""

    AUGER_MOTOR = "auger_motor"
    BIMETAL = "bimetal"
    BOARD = "board"
    COMPRESSOR = "compressor"
    CYCLE_TIMER = "cycle_timer"
    DAMPER = "damper"
    DEFROST_TIMER = "defrost_timer"
    DISPLAY = "display"
    DOOR_SEAL = "door_seal"
    DOOR_SWITCH = "door_switch"
    FAN_AC = "fan_ac"
    FAN_DC = "fan_dc"
    FLAP_MOTOR = "flap_motor"
    FUSE = "fuse"
    HARNESS = "harness"
    HEATER = "heater"
    INVERTER = "inverter"
    LAMP = "lamp"
    MODULE = "module"
    OVERLOAD = "overload"
    PLUG = "plug"
    POTENTIOMETER = "potentiometer"
    POWER_SUPPLY = "power_supply"
    RELAY = "relay"
    RESISTOR = "resistor"
    RUN_CAPACITOR = "run_capacitor"
    SEALED_SYSTEM = "sealed_system"
    START_DEVICE = "start_device"
    SWITCH = "switch"
    TERMINAL = "terminal"
    THERMAL_FUSE = "thermal_fuse"
    THERMISTOR = "thermistor"
    THERMOSTAT = "thermostat"
    VALVE = "valve"


class Supply(StrEnum):
    """Whether a part can be had."""

    IN_STOCK = "in_stock"
    TO_ORDER = "to_order"
    NO_LONGER_MADE = "no_longer_made"


@dataclass(frozen=True)
class RatingPlate:
    """What is printed on the unit's rating plate.

    ``models`` are the spellings found on plates and papers.
    """

    maker: str
    model: str
    appliance: str
    mains_volts: float
    mains_hertz: float
    refrigerant: str = ""
    charge_grams: float | None = None
    defrost_heater_watts: float | None = None
    input_watts: float | None = None
    models: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if not 90 <= self.mains_volts <= 260 or self.mains_hertz not in {50, 60}:
            message = (
                f"mains of {self.mains_volts:g} V {self.mains_hertz:g} Hz; household units take 90 to 260 V"
                " at 50 or 60 Hz"
            )
            raise ValueError(message)

    @property
    def flammable(self) -> bool:
        """Whether the refrigerant burns."""
        return burns(self.refrigerant)


@dataclass(frozen=True)
class Step:
    """One act of the way in: what to do, how many fasteners of which sort come out, which plugs are
    pulled."""

    do: str
    fasteners: int = 0
    fastener: str = ""
    plugs: tuple[str, ...] = ()
    caution: str = ""


@dataclass(frozen=True)
class Place:
    """Somewhere in the unit.

    ``inside`` is the place to be opened first; ``steps`` open this one.
    ``compartment`` says what a place that is cooled is for; water stands in a ``wet`` one.
    """

    id: str
    name: str
    compartment: Literal["", "fridge", "freezer", "wine"] = ""
    inside: str = ""
    steps: tuple[Step, ...] = ()
    open_minutes: float = 0.0
    close_minutes: float = 0.0
    wet: bool = False

    def __post_init__(self) -> None:
        _identifier(self.id)


@dataclass(frozen=True)
class Nominal:
    """Rated values of a component, each where it applies; ``tolerance`` is a fraction of the main one.

    Of a contact, ``amperes`` are those it carries and ``start_amperes`` those it stands while a motor starts.
    A cycle timer is on and off by turns, for ``on_minutes`` and ``off_minutes``.
    """

    ohms: float | None = None
    watts: float | None = None
    volts: float | None = None
    hertz: float | None = None
    farads: float | None = None
    rpm: float | None = None
    pulses_per_revolution: float | None = None
    opens_celsius: float | None = None
    resets_celsius: float | None = None
    amperes: float | None = None
    start_amperes: float | None = None
    on_minutes: float | None = None
    off_minutes: float | None = None
    power_factor: float | None = None
    start_ohms: float | None = None
    tolerance: float | None = None


@dataclass(frozen=True)
class WeakPoint:
    """A known weakness: which fault mode, how many times likelier than usual, and why."""

    fault: str
    times: float
    why: str


@dataclass(frozen=True)
class Component:
    """One part of the unit.

    A terminal lies on a node of its own (``bimetal.1``) unless ``terminals`` puts it on another.
    ``rest`` is how a contact stands with doors shut and nothing moved. A part ``serves`` compartments; where
    the sheet does not say which, the one it sits in. ``printed`` is the maker's own word for it,
    ``part_number`` what it is ordered by. A thermostat's bulb may lie elsewhere, at ``bulb_place``.
    """

    id: str
    kind: ComponentKind
    name: str
    place: str
    terminals: dict[str, str] | None = None
    nominal: Nominal = Nominal()
    price: float | None = None
    supply: Supply = Supply.TO_ORDER
    lead_days: int | None = None
    fit_minutes: float | None = None
    weak_points: tuple[WeakPoint, ...] = ()
    change_with: tuple[str, ...] = ()
    programmed: bool = False
    rest: Literal["", "open", "closed"] = ""
    serves: tuple[str, ...] = ()
    printed: str = ""
    part_number: str = ""
    bulb_place: str = ""

    def __post_init__(self) -> None:
        _identifier(self.id)
        if self.price is not None and self.price < 0:
            message = f"a price of {self.price:g} is below nothing"
            raise ValueError(message)

    def node(self, terminal: str) -> str:
        """The node a terminal lies on."""
        return (self.terminals or {}).get(terminal, f"{self.id}.{terminal}")


@dataclass(frozen=True)
class Mode:
    """A state the unit can be put in: how to enter and leave, whether it is live, which signals are on.

    ``celsius`` gives the temperature of places in this state (20 where it says nothing), ``positions`` the
    contacts and knobs that stand otherwise than at rest: a door switch ``closed``, a timer at ``defrost``,
    a potentiometer at ``0.3`` of its turn.
    """

    id: str
    name: str
    live: bool = True
    enter: tuple[str, ...] = ()
    leave: tuple[str, ...] = ()
    timeout_minutes: float | None = None
    signals: tuple[str, ...] = ()
    lists_codes: bool = False
    celsius: dict[str, float] | None = None
    positions: dict[str, str] | None = None

    def __post_init__(self) -> None:
        _identifier(self.id)


@dataclass(frozen=True)
class ServiceSetting:
    """A numbered setting of a board, as its paper prints it: the values it takes, how it stands from new, how
    it is entered step by step, and what shows that the board took it."""

    number: str
    name: str
    component: str
    values: tuple[str, ...] = ()
    usual: str = ""
    enter: tuple[str, ...] = ()
    shown_by: str = ""

    @property
    def title(self) -> str:
        """Its number and its name."""
        return f"{self.number} {self.name}"


@dataclass(frozen=True)
class TableDocument:
    """A curve as the maker's table: rows of [celsius, ohms]."""

    kind: Literal["table"]
    rows: tuple[tuple[float, float], ...]

    def curve(self) -> Curve:
        """The curve of this table; raises CurveError where the rows give none."""
        return TableCurve(self.rows)


@dataclass(frozen=True)
class BetaDocument:
    """A curve as R0 at a temperature, and Beta in kelvin."""

    kind: Literal["beta"]
    reference_ohms: float
    beta_kelvin: float
    reference_celsius: float = 25.0
    from_celsius: float = -40.0
    to_celsius: float = 100.0

    def curve(self) -> Curve:
        """The Beta curve; raises CurveError for values that give none."""
        return BetaCurve(
            self.reference_ohms,
            self.beta_kelvin,
            self.reference_celsius,
            (self.from_celsius, self.to_celsius),
        )


@dataclass(frozen=True)
class SteinhartHartDocument:
    """A curve as Steinhart-Hart coefficients A, B, C (1/T in 1/K, R in ohms)."""

    kind: Literal["steinhart_hart"]
    a: float
    b: float
    c: float
    from_celsius: float = -40.0
    to_celsius: float = 100.0

    def curve(self) -> Curve:
        """The Steinhart-Hart curve; raises CurveError for coefficients that give none."""
        return SteinhartHartCurve(self.a, self.b, self.c, (self.from_celsius, self.to_celsius))


CurveDocument = TableDocument | BetaDocument | SteinhartHartDocument


@dataclass(frozen=True)
class Sensor:
    """A thermistor's part in the unit: its component, curve, role, and where it is measured from the
    board."""

    id: str
    component: str
    role: Role
    curve: str
    tolerance: float | None = None
    pins: tuple[str, ...] = ()
    set_point_celsius: float | None = None

    def __post_init__(self) -> None:
        _identifier(self.id)
        if self.tolerance is not None and not 0 < self.tolerance < 1:
            message = f"a tolerance of {self.tolerance:g}; write a fraction such as 0.05 for 5 %"
            raise ValueError(message)

    @property
    def working_tolerance(self) -> float:
        """The sheet's own tolerance where it has one, else the usual tenth."""
        return DEFAULT_TOLERANCE if self.tolerance is None else self.tolerance

    @property
    def default_limits(self) -> Limits:
        """The sensor's tolerance with the usual thermometer and meter."""
        return Limits(tolerance=self.working_tolerance)


class TestState(StrEnum):
    """What a detection rule looks for in a signal."""

    __test__ = False

    OPEN = "open"
    SHORT = "short"
    ABOVE = "above"
    BELOW = "below"
    NOT_ABOVE = "not_above"
    NO_PULSES = "no_pulses"
    NO_ANSWER = "no_answer"
    STAYS_CLOSED = "stays_closed"
    STAYS_OPEN = "stays_open"


class SignalKind(StrEnum):
    """What a board's detection can look at."""

    SENSOR = "sensor"
    TACH = "tach"
    SWITCH = "switch"
    RAIL = "rail"
    LINK = "link"
    LOAD = "load"


@dataclass(frozen=True)
class Signal:
    """A signal the board looks at: of which kind, and the id of the sensor, rail or component it is of."""

    kind: SignalKind
    id: str


@dataclass(frozen=True)
class SignalTest:
    """One test of the board's detection: a signal, the state looked for, the threshold with its unit, how
    long it must last, and the mode it is done in."""

    signal: Signal
    state: TestState
    threshold: float | None = None
    unit: Literal["celsius", "volts", "rpm", "amperes", "watts", "count", ""] = ""
    seconds: float | None = None
    during: str = ""


@dataclass(frozen=True)
class Condition:
    """What the board detected: tests joined by ``any`` or ``all``."""

    tests: tuple[SignalTest, ...]
    join: Literal["any", "all"] = "any"

    def __post_init__(self) -> None:
        if not self.tests:
            message = "a condition needs at least one test"
            raise ValueError(message)


@dataclass(frozen=True)
class Implicated:
    """A component that can cause the condition, and how."""

    component: str
    why: str


@dataclass(frozen=True)
class Shown:
    """How a code appears: ``digits`` with its text, ``frames`` of texts that alternate, or ``blinks``
    (counts per group; s and l for short and long)."""

    kind: Literal["digits", "frames", "blinks"]
    text: str = ""
    frames: tuple[str, ...] = ()
    groups: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        name = {"digits": "text", "frames": "frames", "blinks": "groups"}[self.kind]
        if not getattr(self, name):
            message = f"a code shown as {self.kind} needs its {name}"
            raise ValueError(message)
        if any(set(group) - {"s", "l"} for group in self.groups):
            message = "blink groups are written with s for short and l for long, such as ssl"
            raise ValueError(message)


@dataclass(frozen=True)
class Code:
    """A fault code: how it is shown, the condition that raises it, and what can cause that condition."""

    id: str
    shown: Shown
    meaning: str
    condition: Condition
    implicates: tuple[Implicated, ...]
    buttons_dead: bool = False
    clears: str = ""


@dataclass(frozen=True)
class Display:
    """What the unit shows codes on: digits and lamps, or a single lamp that blinks."""

    digits: int = 0
    lamps: tuple[str, ...] = ()
    note: str = ""


@dataclass(frozen=True)
class StatedReading:
    """A reading the maker's sheet states; it beats the computed one.

    Points are pins (CN3.1) or nodes.
    """

    red: str
    black: str
    meter: Literal["ohm", "vac", "vdc", "vac_loz", "hz"]
    low: float
    high: float
    mode: str = ""
    pulled: tuple[str, ...] = ()
    note: str = ""


_NO_MARK = Mark()
_NAMES_ONLY = {"marks", "sources", "language", "author", "licence", "papers", "about", "revision_note"}
"""Entries of a sheet from which nothing is computed."""


@dataclass(frozen=True)
class Sheet:
    """One unit, or one archetype of units: the whole document.

    ``id`` names the sheet through all its revisions, whatever becomes of maker's and model's spelling.
    ``source`` says where its values come from; ``sources`` where some come from elsewhere, by their place
    (``components.heater.nominal.ohms``). ``marks`` are what is printed at plugs and pins, and wire colours
    there, where those are other than identifiers and harness say. ``about`` says in words what one sees of
    such a unit, ``papers`` where its own papers are found.
    """

    format: Literal["frostline-sheet-2"]
    id: str
    plate: RatingPlate
    archetype: str
    places: tuple[Place, ...]
    components: tuple[Component, ...]
    curves: dict[str, CurveDocument]
    sensors: tuple[Sensor, ...]
    display: Display = Display()
    codes: tuple[Code, ...] = ()
    connectors: tuple[Connector, ...] = ()
    boards: tuple[Board, ...] = ()
    harness: tuple[Run, ...] = ()
    modes: tuple[Mode, ...] = ()
    settings: tuple[ServiceSetting, ...] = ()
    supplies: tuple[BoardSupply, ...] = ()
    stated_readings: tuple[StatedReading, ...] = ()
    thermal: ThermalStated | None = None
    papers: str = ""
    about: str = ""
    revision_note: str = ""
    source: Source = Source.PRINTED
    sources: dict[str, Source] | None = None
    marks: dict[str, Mark] | None = None
    language: str = ""
    author: str = ""
    licence: str = ""

    def __post_init__(self) -> None:
        taken = self.id in RESERVED_SHEET_IDS
        if taken or not _SHEET_IDENTIFIER.fullmatch(self.id) or len(self.id) > LONGEST_SHEET_ID:
            message = (
                f"“{self.id[:80]}” is no identifier of a sheet; use small letters and digits with dashes"
                f" between, such as tarnbeck-tb-34, {LONGEST_SHEET_ID} at most"
            )
            raise ValueError(message)

    def setting_named(self, text: str) -> ServiceSetting | None:
        """The setting of a number, a name, or both as they are written together; None for any other."""
        asked = " ".join(text.split()).casefold()
        named = ((each, {each.number, each.name, each.title}) for each in self.settings)
        return next((each for each, names in named if asked in {name.casefold() for name in names}), None)

    @property
    def generic(self) -> bool:
        """Whether it describes a kind of unit and no unit."""
        return self.source_of("plate") is Source.ARCHETYPE

    def source_of(self, place: str) -> Source:
        """Where the value at a place of the sheet comes from."""
        return source_at(self.sources or {}, self.source, place)

    def usual(self, component: str = "") -> str:
        """What is said beside a figure foretold by values of the kind: empty where they are this unit's, or
        where those of the component it hangs on are."""
        if self.source is not Source.ARCHETYPE:
            return ""
        values = f"components.{component}.nominal"
        learned = [place for place in self.sources or {} if place.startswith(values)] if component else []
        return "" if learned else USUAL

    def mark(self, point: str) -> Mark:
        """What is printed at a plug or a pin beside what its identifier says."""
        return (self.marks or {}).get(point, _NO_MARK)

    @cached_property
    def content_key(self) -> str:
        """The digest of what is computed from: two sheets that differ only in what is printed at their pins,
        or in who wrote them, have the same."""
        return digest({name: value for name, value in write(self).items() if name not in _NAMES_ONLY})

    @property
    def title(self) -> str:
        """Maker and model, as people say it."""
        return f"{self.plate.maker} {self.plate.model}"

    @cached_property
    def _components(self) -> dict[str, Component]:
        return {item.id: item for item in self.components}

    @cached_property
    def _sensors(self) -> dict[str, Sensor]:
        return {item.id: item for item in self.sensors}

    @cached_property
    def _places(self) -> dict[str, Place]:
        return {item.id: item for item in self.places}

    @cached_property
    def _codes(self) -> dict[str, Code]:
        return {item.id: item for item in self.codes}

    @cached_property
    def _connectors(self) -> dict[str, Connector]:
        return {item.id: item for item in self.connectors}

    @cached_property
    def _modes(self) -> dict[str, Mode]:
        return {item.id: item for item in self.modes}

    def component(self, identifier: str) -> Component:
        """The component of that id; KeyError when the sheet has none."""
        return self._components[identifier]

    def part_name(self, identifier: str) -> str:
        """A component's name, or its id where the sheet has none of that id."""
        found = self._components.get(identifier)
        return found.name if found else identifier

    def sensor(self, identifier: str) -> Sensor:
        """The sensor of that id; KeyError when the sheet has none."""
        return self._sensors[identifier]

    def place(self, identifier: str) -> Place:
        """The place of that id; KeyError when the sheet has none."""
        return self._places[identifier]

    def code(self, identifier: str) -> Code:
        """The code of that id; KeyError when the sheet has none."""
        return self._codes[identifier]

    def connector(self, identifier: str) -> Connector:
        """The connector of that id; KeyError when the sheet has none."""
        return self._connectors[identifier]

    def mode(self, identifier: str) -> Mode:
        """The mode of that id; KeyError when the sheet has none."""
        return self._modes[identifier]

    @property
    def resting_mode(self) -> str:
        """The state ohms are measured in: the first with the plug out, else the first at all."""
        return next((mode.id for mode in self.modes if not mode.live), self.modes[0].id)

    @property
    def compartments(self) -> tuple[Place, ...]:
        """The cooled places, where a thermometer is hung."""
        return tuple(place for place in self.places if place.compartment)

    def sensor_name(self, sensor: Sensor) -> str:
        """The sensor's name: its component's."""
        return self.component(sensor.component).name

    @cached_property
    def _built_curves(self) -> dict[str, Curve]:
        return {}

    def curve(self, sensor: Sensor) -> Curve:
        """The sensor's curve."""
        if sensor.curve not in self._built_curves:
            self._built_curves[sensor.curve] = self.curves[sensor.curve].curve()
        return self._built_curves[sensor.curve]

    @cached_property
    def wiring(self) -> Wiring:
        """The harness lines resolved to stretches, and every connector's pins with their colours."""
        return wire_up(
            self.connectors,
            self.harness,
            {component.id: component.terminals or {} for component in self.components},
            {point: mark.colour for point, mark in (self.marks or {}).items() if mark.colour},
        )

    def pin(self, point: str) -> tuple[Connector, Pin] | None:
        """Connector and pin of a point such as ``CN3.5``, or None when the sheet has no such pin."""
        return self.wiring.pins.get(point)
