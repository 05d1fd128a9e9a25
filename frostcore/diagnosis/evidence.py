"""What is known of a call: one vocabulary for the tape, the door and the planner's acts."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, Literal, get_args

from frostcore.circuit.build import Warmth
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import MeterRange, points
from frostcore.circuit.pulses import fan_at
from frostcore.diagnosis.causal import HISTORY
from frostcore.diagnosis.hypotheses import hypotheses_of
from frostcore.diagnosis.probes import Probe
from frostcore.diagnosis.readings import probe_of
from frostcore.display.seen import match_seen
from frostcore.errors import FrostError
from frostcore.faults.table import Setup
from frostcore.quantity import Ambiguous, Dimension, Quantity, parse
from frostcore.sheet.model import ComponentKind, Sheet
from frostcore.tape.looks import LOOKS
from frostcore.tape.looks import look as look_named
from frostcore.tape.noticed import complaints_of, feelings_of
from frostcore.tape.standing import ROOM
from frostcore.thermal.behaviour import CODES, is_found

How = Literal["move", "warm", "chill"]
Helped = Literal["yes", "no", "for_a_while", ""]


@dataclass(frozen=True)
class Read:
    """A reading between two points in a setup."""

    probe: Probe
    value: Quantity


@dataclass(frozen=True)
class Looked:
    """A first look and its answer."""

    look: str
    answer: str


@dataclass(frozen=True)
class Said:
    """What the repairer was called for, by the complaint's id."""

    complaint: str


@dataclass(frozen=True)
class Measured:
    """A compartment's temperature by thermometer, in °C."""

    place: str
    celsius: float


@dataclass(frozen=True)
class Shown:
    """What the display showed: a code of the sheet, none (empty), or one the sheet has not (None)."""

    code: str | None


@dataclass(frozen=True)
class AtPlug:
    """Watts at the plug in a mode."""

    mode: str
    watts: float


@dataclass(frozen=True)
class Turned:
    """Hertz of a fan's tachometer, read where it turns."""

    fan: str
    hertz: float


@dataclass(frozen=True)
class Drawn:
    """Amperes at the plug in a mode."""

    mode: str
    amperes: float


@dataclass(frozen=True)
class Sensed:
    """Something heard, felt or smelt at a part."""

    component: str
    what: str


@dataclass(frozen=True)
class Mains:
    """The mains measured here, in volts."""

    volts: float


@dataclass(frozen=True)
class Changed:
    """Whether a reading or a load changed when the harness was moved, or a place warmed or chilled."""

    how: How
    probe: Probe
    changes: bool


@dataclass(frozen=True)
class Bypassed:
    """A load fed past its board, and whether it ran."""

    component: str
    runs: bool


@dataclass(frozen=True)
class Ran:
    """What a run over time found: pairs of kind and place with what was found of it (``holds:freezer``,
    ``warm``)."""

    found: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class Past:
    """Something that happened to the unit before."""

    of: str


@dataclass(frozen=True)
class Experience:
    """How often each kind of part was the cause on a workshop's own closed calls with units of this kind."""

    counts: tuple[tuple[str, int], ...]


@dataclass(frozen=True)
class Fitted:
    """A part fitted, or a repair unit mended or put right, and whether it helped; empty where that is not
    known yet. ``before`` this call, where the readings of this call are all of the unit with it in; or on
    trial, and out again."""

    component: str
    helped: Helped = ""
    before: bool = False


@dataclass(frozen=True)
class Stands:
    """How the unit stands for the next test: a place opened, a mode entered, the plug in or out, a connector
    pulled or put back."""

    what: Literal["open", "enter", "power", "plug"]
    of: str
    on: bool = True


@dataclass(frozen=True)
class Cannot:
    """A test that can't be made here, and why; it is the planner's to go round it."""

    of: "Read | Looked | Said | Measured | AtPlug | Turned | Changed | Sensed"
    why: str


Evidence = (
    Read
    | Looked
    | Said
    | Measured
    | Shown
    | AtPlug
    | Turned
    | Drawn
    | Sensed
    | Ran
    | Mains
    | Changed
    | Bypassed
    | Past
    | Experience
    | Fitted
    | Stands
    | Cannot
)


class EvidenceError(FrostError):
    """An entry of evidence that can't be understood: which, what was understood, what to write."""


def evidence_of(sheet: Sheet, entries: Any) -> tuple[Evidence, ...]:
    """Evidence from its plain documents; EvidenceError naming the entry."""
    if not isinstance(entries, list):
        message = 'the evidence is a list of entries, such as [{"act": "look", "look": "frost", …}]'
        raise EvidenceError(message)
    found = []
    for number, entry in enumerate(entries):
        try:
            found.append(_Entry(sheet, entry).evidence())
        except FrostError as error:
            message = f"entry {number}: {error}"
            raise EvidenceError(message) from None
    return tuple(found)


class _Entry:
    """One entry's document, read field by field."""

    def __init__(self, sheet: Sheet, entry: Any) -> None:
        if not isinstance(entry, dict) or not all(isinstance(name, str) for name in entry):
            message = f'“{str(entry)[:60]}” is no entry; write an object such as {{"act": "look", …}}'
            raise EvidenceError(message)
        self._sheet, self._entry = sheet, entry

    def evidence(self) -> Evidence:
        """What it says."""
        act = self._text("act")
        if act not in _ACTS:
            message = f"“{act[:40]}” is no act; known are {', '.join(_ACTS)}."
            raise EvidenceError(message)
        return _ACTS[act](self)

    def _text(self, name: str, *, empty: bool = False) -> str:
        value = self._entry.get(name, "" if empty else None)
        if isinstance(value, int | float) and not isinstance(value, bool):
            value = str(value)
        if not isinstance(value, str) or (not value and not empty):
            message = f"it needs “{name}” as text"
            raise EvidenceError(message)
        return value

    def _one_of(self, name: str, known: Any) -> str:
        value = self._text(name)
        if value not in known:
            message = f"“{value[:40]}” is no {name} here; known are {', '.join(known)}."
            raise EvidenceError(message)
        return value

    def _truth(self, name: str) -> bool:
        value = self._entry.get(name)
        if not isinstance(value, bool):
            message = f"“{name}” is true or false"
            raise EvidenceError(message)
        return value

    def _number(self, name: str, dimension: Dimension) -> float:
        quantity = self._quantity(name, dimension)
        if quantity.value is None:
            message = f"“{name}” is a number, not {quantity.text}"
            raise EvidenceError(message)
        return quantity.value

    def _quantity(self, name: str, dimension: Dimension, bare: str = "") -> Quantity:
        given = parse(self._text(name), dimension, bare_unit=bare)
        if isinstance(given, Ambiguous):
            ways = " or ".join(choice.canonical for choice in given.choices)
            message = f"“{self._text(name)}” can mean {ways}; write one of these"
            raise EvidenceError(message)
        return given

    def _mode(self, *, live: bool | None = None) -> str:
        known = [mode.id for mode in self._sheet.modes if live is None or mode.live is live]
        return self._one_of("mode", known)

    def _setup(self) -> Setup:
        meter = MeterRange(self._one_of("range", [each.value for each in MeterRange]))
        known = [connector.id for connector in self._sheet.connectors]
        pulled = self._entry.get("pulled", [])
        if not isinstance(pulled, list) or any(name not in known for name in pulled):
            message = f"“pulled” is a list of connectors; known are {', '.join(known)}."
            raise EvidenceError(message)
        mode = self._mode() if self._entry.get("mode") else self._sheet.resting_mode
        return Setup(mode, meter, tuple(sorted(set(pulled))))

    def _probe(self) -> Probe:
        return probe_of(self._sheet, self._setup(), self._text("red"), self._text("black"))

    def read(self) -> "Read | Turned":
        if self._entry.get("range") == "hz":
            return self._hertz()
        probe = self._probe()
        return Read(probe, self._quantity("value", probe.setup.meter.dimension))

    def _hertz(self) -> Turned:
        mode = self._mode(live=True)
        settled = circuits_of(self._sheet).scene(mode)
        where = points(self._sheet, settled.circuit, self._text("red"), self._text("black"), MeterRange.VDC)
        fan = fan_at(self._sheet, settled, where)
        if fan is None:
            message = (
                f"Nothing pulses between {where.red} and {where.black}: hertz are read at a tachometer wire."
            )
            raise EvidenceError(message)
        return Turned(fan.id, self._number("value", Dimension.FREQUENCY))

    def sensor(self) -> Read:
        sensor = self._sheet.sensor(self._one_of("sensor", [item.id for item in self._sheet.sensors]))
        celsius = self._number("celsius", Dimension.TEMPERATURE)
        value = self._quantity("value", Dimension.RESISTANCE)
        return sensor_read(self._sheet, sensor.id, celsius, value)

    def look(self) -> Looked:
        from_sheet = [item.id for item in LOOKS]
        found = look_named(self._one_of("look", from_sheet))
        return Looked(found.id, self._one_of("answer", [answer.id for answer in found.answers]))

    def ask(self) -> Said:
        return Said(self._one_of("answer", list(complaints_of(self._sheet))))

    def temperature(self) -> Measured:
        places = [place.id for place in self._sheet.compartments] + [ROOM]
        return Measured(self._one_of("place", places), self._number("celsius", Dimension.TEMPERATURE))

    def code(self) -> Shown:
        shown = self._text("shown", empty=True)
        return Shown(code_shown(self._sheet, shown))

    def plug(self) -> "AtPlug | Drawn":
        if "amperes" in self._entry:
            return Drawn(self._mode(live=True), self._number("amperes", Dimension.CURRENT))
        return AtPlug(self._mode(live=True), self._number("watts", Dimension.POWER))

    def mains(self) -> Mains:
        volts = self._number("volts", Dimension.VOLTAGE)
        if not MAINS_LEAST <= volts <= MAINS_MOST:
            message = f"{volts:g} V are no mains; write what the meter shows at the outlet, such as 224"
            raise EvidenceError(message)
        return Mains(volts)

    def changed(self) -> Changed:
        how: How = "move"
        for known in get_args(How):
            how = known if known == self._text("act") else how
        return Changed(how, self._probe(), self._truth("changes"))

    def bridge(self) -> Bypassed:
        return Bypassed(self._component(), self._truth("runs"))

    def _component(self) -> str:
        return self._one_of("component", [item.id for item in self._sheet.components])

    def feel(self) -> Sensed:
        component = self._component()
        known = feelings_of(self._sheet.component(component))
        return Sensed(component, self._one_of("what", list(known)))

    def run(self) -> Ran:
        shows = self._entry.get("shows")
        if not isinstance(shows, dict) or not shows:
            raise EvidenceError('it needs “shows”: such as {"cuts_out": "never", "holds:freezer": "cold"}')
        for key, code in shows.items():
            if not isinstance(code, str) or not is_found(str(key), code):
                known = "; ".join(f"{kind}: {', '.join(codes)}" for kind, codes in CODES.items())
                message = f"“{key}”: “{code}” is nothing a run finds; known are {known}"
                raise EvidenceError(message)
        return Ran(tuple(sorted(shows.items())))

    def history(self) -> Past:
        return Past(self._one_of("of", list(HISTORY)))

    def experience(self) -> Experience:
        counts = self._entry.get("counts")
        if not isinstance(counts, dict) or not all(
            kind in set(ComponentKind) and isinstance(count, int) and 0 <= count <= MOST_CALLS
            for kind, count in counts.items()
        ):
            message = '“counts” are calls by kind of part, such as {"fan_dc": 6, "heater": 2}'
            raise EvidenceError(message)
        return Experience(tuple(sorted(counts.items())))

    def fit(self) -> Fitted:
        told, helped = self._text("helped", empty=True), None
        for known in get_args(Helped):
            helped = known if known == told else helped
        if helped is None:
            message = f"“{told[:40]}” is no answer to whether it helped; write yes, no or for_a_while"
            raise EvidenceError(message)
        known = [item.id for item in self._sheet.components]
        if self._entry.get("component") not in known:
            known += [unit for unit in hypotheses_of(self._sheet).units if ":" in unit]
        return Fitted(self._one_of("component", known), helped, before=bool(self._entry.get("before", False)))

    def open(self) -> Stands:
        return Stands("open", self._one_of("place", [place.id for place in self._sheet.places]))

    def enter(self) -> Stands:
        return Stands("enter", self._mode())

    def power(self) -> Stands:
        return Stands("power", "", on=self._one_of("state", ["live", "unplugged"]) == "live")

    def pull(self) -> Stands:
        known = [connector.id for connector in self._sheet.connectors]
        return Stands("plug", self._one_of("connector", known), on=self._truth("pulled"))

    def cannot(self) -> Cannot:
        inner = self._entry.get("of")
        if not isinstance(inner, dict):
            message = "“of” is the act that can't be made"
            raise EvidenceError(message)
        act = str(inner.get("act"))
        if act not in _BLANK:
            message = f"“{act[:40]}” can't be left out; write one of {', '.join(_BLANK)}."
            raise EvidenceError(message)
        if act == "look":
            known = [item.id for item in LOOKS]
            of: Any = Looked(_Entry(self._sheet, inner)._one_of("look", known), "")  # noqa: SLF001 -- its own kind
        else:
            of = _Entry(self._sheet, _BLANK[act] | inner).evidence()
        return Cannot(of, self._text("why", empty=True))


_BLANK: dict[str, dict[str, Any]] = {
    "read": {"value": "0"},
    "sensor": {"celsius": "0", "value": "0"},
    "move": {"changes": False},
    "warm": {"changes": False},
    "chill": {"changes": False},
    "look": {"answer": ""},
    "ask": {"answer": "other"},
    "feel": {"what": "turns"},
    "temperature": {"celsius": "0"},
    "plug": {"watts": "0"},
}
"""What stands for the outcome of an act that can't be made."""

MAINS_LEAST, MAINS_MOST = 70.0, 290.0
MOST_CALLS = 1_000_000

_ACTS: dict[str, Callable[[_Entry], Evidence]] = {
    "read": _Entry.read,
    "sensor": _Entry.sensor,
    "look": _Entry.look,
    "ask": _Entry.ask,
    "temperature": _Entry.temperature,
    "code": _Entry.code,
    "plug": _Entry.plug,
    "mains": _Entry.mains,
    "move": _Entry.changed,
    "warm": _Entry.changed,
    "chill": _Entry.changed,
    "bridge": _Entry.bridge,
    "feel": _Entry.feel,
    "run": _Entry.run,
    "history": _Entry.history,
    "experience": _Entry.experience,
    "fit": _Entry.fit,
    "open": _Entry.open,
    "enter": _Entry.enter,
    "power": _Entry.power,
    "pull": _Entry.pull,
    "cannot": _Entry.cannot,
}


def code_shown(sheet: Sheet, shown: str) -> str | None:
    """The sheet's code that shows just so; empty for none shown, None for one the sheet has not."""
    if not shown:
        return ""
    exact = {match.code.id for match in match_seen([sheet], shown).matches if match.exact}
    return exact.pop() if len(exact) == 1 else None


def sensor_read(sheet: Sheet, sensor: str, celsius: float, value: Quantity) -> Read:
    """A sensor's reading at a known temperature: at its pins with their plug pulled, else at its own ends."""
    found = sheet.sensor(sensor)
    place = sheet.component(found.component).place
    pins = found.pins or (f"{found.component}.1", f"{found.component}.2")
    pulled = tuple(sorted({pin[0].id for name in pins if (pin := sheet.pin(name))}))
    setup = Setup(sheet.resting_mode, MeterRange.OHM, pulled, ((place, celsius),))
    return Read(probe_of(sheet, setup, pins[0], pins[-1]), value)


def warmed(sheet: Sheet, celsius: Warmth, probe: Probe) -> Probe:
    """The probe with the temperatures that were measured, where they change what a sound unit shows there."""
    if not celsius:
        return probe
    circuits, setup = circuits_of(sheet), probe.setup
    near = {place for _, around in circuits.contact_places for place in around}
    near |= {sheet.component(sensor.component).place for sensor in sheet.sensors}
    kept = tuple((place, value) for place, value in celsius if place in near)
    with_them = circuits.reading(setup.mode, setup.meter, *probe.pair, setup.pulled, kept)
    without = circuits.reading(setup.mode, setup.meter, *probe.pair, setup.pulled)
    if not kept or with_them.words == without.words:
        return probe
    return replace(probe, setup=replace(setup, celsius=kept))
