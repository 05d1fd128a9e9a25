"""What a meter shows between two points of a circuit, with the band a healthy unit's reading lies in.

Ohms: the effective resistance wᵀA⁻¹w with the plug out. Volts: the open-circuit volts v divided between the
meter's own impedance Zm and what the points show, v·Zm/(Zm + Z). The band adds every part's tolerance at
its worst: ∂v/∂Z_k = i_k·y_k and ∂v/∂E_k = y_k, where y_k is what one volt in branch k's place gives between
the points, and ∂R/∂R_k = j_k² with j_k the branch's share of one ampere sent through the probes (Tellegen's
theorem).
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from frostcore.circuit.element import Analysis, Circuit, CircuitError, Impedance
from frostcore.circuit.rhythm import rhythm
from frostcore.circuit.settle import Settled
from frostcore.circuit.waves import energy, shape
from frostcore.quantity import Dimension, format_duration, format_ohms, format_value
from frostcore.sheet.model import Sheet
from frostcore.sheet.wiring import split_pin, split_terminal


class MeterRange(StrEnum):
    """A meter's position."""

    OHM = "ohm"
    VAC = "vac"
    VDC = "vdc"
    VAC_LOZ = "vac_loz"

    @property
    def label(self) -> str:
        """The position in words."""
        return {"ohm": "ohms", "vac": "AC volts", "vdc": "DC volts", "vac_loz": "AC volts, low impedance"}[
            self
        ]

    @property
    def dimension(self) -> Dimension:
        """What it measures."""
        return Dimension.RESISTANCE if self is MeterRange.OHM else Dimension.VOLTAGE

    @property
    def live(self) -> bool:
        """Whether it is read with the plug in: volts are, ohms never."""
        return self is not MeterRange.OHM

    @property
    def analysis(self) -> Analysis:
        """Which circuit it looks at."""
        return Analysis.AC if self in {MeterRange.VAC, MeterRange.VAC_LOZ} else Analysis.DC


METER_OHMS = {MeterRange.VAC: 10e6, MeterRange.VDC: 10e6, MeterRange.VAC_LOZ: 3e3}
OPEN_OHMS = 40e6
"""A meter's highest range; above it shows OL."""

METER_SHARE = 0.01
METER_FLOOR = {MeterRange.OHM: 0.3, MeterRange.VAC: 0.3, MeterRange.VDC: 0.05, MeterRange.VAC_LOZ: 0.5}
"""Leads, contact and the last digits."""

CHOPPED_SHARE = 0.1
"""How far the mean of chopped waves may be off, by the parts and by the gate's moment."""

PHANTOM_VOLTS = 3.0
FALLS_SHARE = 0.6
"""More volts than those, of which less than this share is left on the low-impedance range, have next to
nothing behind them: a phantom where nothing conducts there, else a leak through an output that is off."""

CONDUCTS_OHMS = 100e3
"""Below this between the points something conducts: a load is there."""

PHANTOM_WIDE = 3.0
"""Stray capacitance is known to about this factor each way."""

FIRM_SHARE = 0.1
"""A resistance of which electronics at rest make up more than this share can't be judged."""

DEAD_SHORT_OHMS = 25.0
"""Below this even electronics are shorted: at 12 V it is twice what a strong fan takes turning."""

NOT_FIRM = (
    "Electronics at rest lie between the points, and what they show in ohms is the meter's doing as much as"
    " theirs: it can't be judged by ohms, only a dead short can. Judge them live, by their volts."
)

OHM_TEST = Impedance(1e3, dc_volts=1.0)
"""An ohmmeter as the deck shows it: one volt behind a kilohm."""


@dataclass(frozen=True)
class Points:
    """Where the leads are: as said, and the two nodes."""

    red: str
    black: str
    red_node: str
    black_node: str


EITHER_WAY = (
    "At its temperature the {contact} may stand open or closed, so this proves nothing. Say how cold it is"
    " there, or chill it below the temperature it closes at, and measure again."
)


NEVER_SETTLES = (
    "The unit never settles here: {what} comes and goes, a round every {seconds}. Watch the meter and listen"
    " for the click; no single figure means anything."
)

SLOW_SECONDS = 10.0
"""Rhythms from here on are told in whole seconds."""


@dataclass(frozen=True)
class Way:
    """What a reading is with a contact standing otherwise: which contact, how it then stands, the reading."""

    contact: str
    stands: str
    reading: "Reading"

    @property
    def words(self) -> str:
        """How it then stands, in words."""
        return f"{self.contact} {self.stands}"


@dataclass(frozen=True)
class Reading:
    """A reading foretold.

    ``value`` is None where the meter shows OL; ``low`` and ``high`` bound it, ``high`` None where it has
    no bound. ``phantom`` tells a voltage that a low impedance pulls down and that no load is at, ``leak`` one
    that a small load does not pull down by itself; ``stated`` where the maker's paper, not the circuit, gives
    the band.
    """

    meter: MeterRange
    value: float | None
    low: float | None
    high: float | None
    phantom: bool = False
    stated: str = ""
    leak: bool = False
    firm: bool = True
    ways: tuple["Way", ...] = ()
    """What it may as well show, where a contact may stand either way."""

    span: tuple[float, float] | None = None
    """The least and the most it shows in turn, where the unit never settles."""

    every_seconds: float | None = None
    """How long one round of that takes."""

    never: str = ""
    """What it is that never settles."""

    average: float | None = None
    """Where an output chops the wave: what a meter shows that answers to the average; ``value`` is what one
    shows that answers to the r.m.s."""

    @property
    def why(self) -> str:
        """Why no one band can be given, empty where one is."""
        if self.ways:
            return EITHER_WAY.format(contact=self.ways[0].contact)
        if self.span:
            return NEVER_SETTLES.format(what=self.never, seconds=self._rhythm)
        return "" if self.firm else NOT_FIRM

    @property
    def settles_nothing(self) -> bool:
        """Whether no single band can be given."""
        return not self.firm or bool(self.ways) or self.span is not None

    @property
    def _rhythm(self) -> str:
        """How long a round takes, in words."""
        seconds = self.every_seconds or 0.0
        return format_duration(seconds) if seconds >= SLOW_SECONDS else f"{max(seconds, 0.1):.1f} s"

    @property
    def unit(self) -> str:
        """The value's unit."""
        return "Ω" if self.meter is MeterRange.OHM else "V"

    @property
    def text(self) -> str:
        """The reading as a meter's screen says it, or that none can be foretold."""
        return " or ".join([self.shown, *(way.reading.shown for way in self.ways)])

    @property
    def shown(self) -> str:
        """The same without what it may be as well."""
        if self.span:
            low, high = self.span
            return f"{show(self.meter, low)} to {show(self.meter, high)} in turn"
        return show(self.meter, self.value) if self.firm else "no firm ohms"

    @property
    def figure(self) -> str:
        """The same for a drawing, where a dash says that no reading can be foretold."""
        return self.text if self.firm else "–"

    @property
    def words(self) -> str:
        """The reading with its band, what it means where it is a phantom, and what it may be as well."""
        return " or ".join([self._alone, *(f"{way.reading.text} ({way.words})" for way in self.ways)])

    @property
    def _alone(self) -> str:
        if self.value is None:
            return f"OL, above {format_ohms(OPEN_OHMS)}"
        if not self.firm:
            return "anything but a dead short: electronics at rest have no firm ohms"
        if self.span:
            return f"{self.shown}, a round every {self._rhythm}: {self.never} never settles"
        if self.phantom:
            return (
                f"about {self.shown}, a phantom voltage: high impedance only, near 0 V on the low-impedance"
                " range"
            )
        if self.average is not None:
            other = show(self.meter, self.average)
            return f"{self.shown} on a true-r.m.s. meter, {other} on any other ({self.band}): parts of waves"
        if self.leak:
            return f"{self.shown} ({self.band}), a leak through an output that is off: its load is too small"
        return f"{self.shown} ({self.band})" + (f", {self.stated}" if self.stated else "")

    @property
    def band(self) -> str:
        """The band in words, empty where there is none to speak of."""
        if self.value is None or self.phantom or not self.firm or self.span:
            return ""
        return f"{show(self.meter, self.low)} to {show(self.meter, self.high)}"


def show(meter: MeterRange, value: float | None) -> str:
    """A value as a meter's screen says it."""
    if value is None:
        return "OL"
    if meter is MeterRange.OHM:
        return format_ohms(value)
    digits = 2 if meter is MeterRange.VDC else 1
    if abs(value) < 0.5 * 10**-digits:
        return "0 V"
    if abs(value) < 1:
        return f"{value:.{digits}f} V".replace("-", "−")
    return format_value(round(value, digits), Dimension.VOLTAGE)


def points(sheet: Sheet, circuit: Circuit, red: str, black: str, meter: MeterRange) -> Points:
    """The nodes behind two points.

    A pin of a pulled connector is touched at its wire for ohms, at its board for volts, unless the point
        says which: ``CN3.5/wire``, ``CN3.5/board``. Raises CircuitError naming a point that is not there.
    """
    return Points(red, black, *(node_of(sheet, circuit, point, meter) for point in (red, black)))


def node_of(sheet: Sheet, circuit: Circuit, point: str, meter: MeterRange) -> str:
    """The node of one point."""
    name, _, side = point.strip().partition("/")
    if side not in {"", "wire", "board"}:
        message = f"“{point}” names no side of a pin; write {name}/wire or {name}/board, or the pin alone."
        raise CircuitError(message)
    found = sheet.pin(name)
    node = sheet.wiring.near(name)
    if found:
        pulled = found[0].id in circuit.pulled
        if side == "wire" or (not side and pulled and meter is MeterRange.OHM):
            node = sheet.wiring.far(name)
    elif side:
        message = f"“{name}” is no pin of the {sheet.title}, so it has no {side} side."
        raise CircuitError(message)
    if node not in circuit.node_index:
        message = f"There is no point “{point}” on the {sheet.title}. {_near(sheet, circuit, name)}"
        raise CircuitError(message)
    return node


def _near(sheet: Sheet, circuit: Circuit, name: str) -> str:
    pin, terminal = split_pin(name), split_terminal(name)
    owner = (pin or terminal or (name, ""))[0]
    options = [pin for pin, (connector, _) in sheet.wiring.pins.items() if connector.id == owner] or [
        node for node in circuit.nodes if node.startswith(f"{owner}.")
    ]
    if not options:
        options = [connector.id for connector in sheet.connectors]
        return (
            f"Write a pin such as {options[0]}.1, a terminal such as plug.l, or a node; connectors are"
            f" {', '.join(options)}."
            if options
            else "Write a node of the sheet."
        )
    return f"It has {', '.join(options)}."


def as_stated(
    sheet: Sheet, reading: Reading, mode: str, red: str, black: str, pulled: tuple[str, ...] = ()
) -> Reading:
    """The reading with the band the maker states for it, where the sheet has one: it beats the computed
    band.

    Either way round of the leads.
    """
    for given in sheet.stated_readings:
        same = (
            given.meter == reading.meter
            and (not given.mode or given.mode == mode)
            and set(given.pulled) == set(pulled)
        )
        if same and {given.red, given.black} == {red, black}:
            value = (
                reading.value
                if reading.value is not None and given.low <= reading.value <= given.high
                else (given.low + given.high) / 2
            )
            return replace(
                reading,
                value=value,
                low=given.low,
                high=given.high,
                phantom=False,
                firm=True,
                ways=(),
                stated=given.note or "as the maker states",
            )
    return reading


def expect(settled: Settled, where: Points, meter: MeterRange) -> Reading:
    """The reading between two points of a settled circuit, with its band, and with what it may be as well
    where a contact may stand either way."""
    own, ways = _alone(settled, where, meter), list[Way]()
    beat = rhythm(settled)
    if beat:
        phases = [_alone(phase.settled, where, meter) for phase in beat.phases]
        return _in_turn(own, phases, beat.every_seconds, " and ".join(settled.unsettled))
    for branches, other in settled.others:
        reading = _alone(other, where, meter)
        if not _covers(own, reading) and all(reading.text != way.reading.text for way in ways):
            names = " and the ".join(settled.circuit.branch(name).name.lower() for name in branches)
            ways.append(Way(names, settled.circuit.branch(branches[0]).may, reading))
    return replace(own, ways=tuple(ways)) if ways else own


def _in_turn(own: Reading, phases: Sequence[Reading], every: float, never: str) -> Reading:
    """A reading that changes with the phases of a rhythm; as it is where none moves it."""
    shown = [reading.value for reading in phases if reading.value is not None]
    low, high = min(shown), max(shown)
    if high - low <= METER_FLOOR[own.meter] + METER_SHARE * abs(high):
        return replace(own, value=high, low=phases[0].low, high=phases[0].high)
    return Reading(own.meter, own.value, low, high, span=(low, high), every_seconds=every, never=never)


def _covers(own: Reading, other: Reading) -> bool:
    """Whether another reading lies in this one's band."""
    if own.value is None or other.value is None:
        return own.value is other.value
    low, high = (limit if limit is not None else own.value for limit in (own.low, own.high))
    return low <= other.value <= high and own.firm == other.firm


def _alone(settled: Settled, where: Points, meter: MeterRange) -> Reading:
    """The reading in the states the circuit is settled in."""
    if meter.live and settled.wave:
        return _chopped(settled, where, meter)
    return _steady(settled, where, meter)


def _chopped(settled: Settled, where: Points, meter: MeterRange) -> Reading:
    """The reading where an output chops the waves: as it conducts for a part of each, as it blocks for the
    rest."""
    found, wave, blocked = _steady(settled, where, meter), settled.wave, settled.blocked
    if not wave or not blocked:
        return found
    on, off = (_volts(each, where, meter) for each in (settled, blocked))
    if abs(on - off) <= METER_FLOOR[meter]:
        return found
    made = shape(on, off, wave)
    if meter.analysis is Analysis.DC:
        swing = CHOPPED_SHARE * abs(made.mean)
        value, low, high = ((each or 0.0) + made.mean for each in (found.value, found.low, found.high))
        return replace(found, value=value, low=low - swing, high=high + swing)
    other = _steady(blocked, where, meter)
    # Of r² = p·on² + (1 − p)·off² each part's own doubt: dr = (p·on·d(on) + (1 − p)·off·d(off))/r.
    passed = energy(wave)
    parts = ((passed, found), (1 - passed, other))
    doubts = [share * (each.value or 0.0) * _half_width(each) for share, each in parts]
    swing = sum(doubts) / max(made.rms, METER_FLOOR[meter])
    least, most = sorted((made.rms, made.average))
    low, high = max(0.0, least - swing), most + swing
    return Reading(meter, made.rms, low, high, average=made.average)


def _half_width(reading: Reading) -> float:
    """How far a reading's band goes above it."""
    return (reading.high or 0.0) - (reading.value or 0.0)


def _volts(settled: Settled, where: Points, meter: MeterRange) -> complex:
    """The phasor of the mains between two points with this meter there."""
    solved = settled.solved[Analysis.AC]
    a, b = settled.circuit.topology.rows_of([where.red_node, where.black_node])
    y = solved.injections(np.array([[a, b]]))[:, 0]
    shunt = METER_OHMS[meter]
    return complex((solved.x[a] - solved.x[b]) * shunt / (shunt + y[a] - y[b]))


def _steady(settled: Settled, where: Points, meter: MeterRange) -> Reading:
    """The reading of whole waves."""
    circuit = settled.circuit
    if meter.live and not circuit.live:
        return Reading(meter, 0.0, 0.0, METER_FLOOR[meter])
    a, b = circuit.topology.rows_of([where.red_node, where.black_node])
    solved = settled.solved[meter.analysis]
    y = solved.injections(np.array([[a, b]]))[:, 0]
    seen = y[a] - y[b]
    tolerance = _tolerances(settled, meter.analysis)
    if meter is MeterRange.OHM:
        return _ohms(circuit, seen.real, y, tolerance)
    shunt = METER_OHMS[meter]
    share = shunt / (shunt + seen)
    volts = (solved.x[a] - solved.x[b]) * share
    # The meter draws from the points, so the branches' currents are those with the meter there.
    x = solved.x - y * (volts / shunt)
    answer = solved.answers(a, b) * share
    slope = np.concatenate(
        [answer * x[solved.nodes : solved.size] * tolerance.impedance, answer * tolerance.source]
    )
    size = abs(volts)
    swing = float(np.sum(np.abs((slope * np.conj(volts) / size).real) if size > 1e-9 else np.abs(slope)))
    floor = METER_FLOOR[meter]
    value = float(size) if meter.analysis is Analysis.AC else float(volts.real)
    error = METER_SHARE * abs(value) + floor
    falls = meter is MeterRange.VAC and bool(size > PHANTOM_VOLTS and falls_to(seen) < FALLS_SHARE)
    conducts = falls and _conducts(settled, int(a), int(b))
    if falls and not conducts:
        return Reading(
            meter,
            value,
            max(0.0, value / PHANTOM_WIDE - error),
            min(value * PHANTOM_WIDE, circuit.mains_volts) + error,
            phantom=True,
        )
    low = value - swing - error
    least = max(0.0, low) if meter.analysis is Analysis.AC else low
    return Reading(meter, value, least, value + swing + error, leak=conducts)


def falls_to(seen: complex) -> float:
    """What is left of a high-impedance reading on the low-impedance range, as a share, with the impedance
    seen between the points: |(Z + R_high)/(Z + R_low)|·R_low/R_high."""
    high, low = METER_OHMS[MeterRange.VAC], METER_OHMS[MeterRange.VAC_LOZ]
    return abs((seen + high) / (seen + low)) * low / high


def _conducts(settled: Settled, a: int, b: int) -> bool:
    """Whether direct current finds a way between two rows, other than insulation."""
    y = settled.solved[Analysis.DC].injections(np.array([[a, b]]))[:, 0]
    return bool((y[a] - y[b]).real < CONDUCTS_OHMS)


def _ohms(circuit: Circuit, ohms: float, y: np.ndarray, tolerance: "_Tolerances") -> Reading:
    if ohms > OPEN_OHMS:
        return Reading(MeterRange.OHM, None, OPEN_OHMS, None)
    currents = y[len(circuit.nodes) : len(circuit.nodes) + len(circuit.branches)]
    swing = float(np.sum(np.abs(currents) ** 2 * np.abs(tolerance.impedance)))
    error = METER_SHARE * ohms + METER_FLOOR[MeterRange.OHM]
    # Of one ampere between the points, what each branch takes is its share of the resistance.
    loose = float(np.sum(np.abs(currents) ** 2 * tolerance.loose))
    firm = bool(loose <= FIRM_SHARE * max(ohms, DEAD_SHORT_OHMS))
    low, high = max(0.0, ohms - swing - error), ohms + swing + error
    return Reading(MeterRange.OHM, max(ohms, 0.0), low, high, firm=firm)


def _tolerances(settled: Settled, analysis: Analysis) -> "_Tolerances":
    """Worked out once a settled circuit."""
    key = f"tolerances {analysis}"
    if key not in settled.kept:
        settled.kept[key] = _Tolerances(settled, analysis)
    found: _Tolerances = settled.kept[key]
    return found


class _Tolerances:
    """How far each branch's Z and E may be off, in ohms and volts, and the ohms of those that are not firm
    (m each)."""

    def __init__(self, settled: Settled, analysis: Analysis) -> None:
        self.impedance = np.zeros(len(settled.circuit.branches), complex)
        self.source = np.zeros(len(settled.circuit.branches), complex)
        self.loose = np.zeros(len(settled.circuit.branches))
        for place in range(len(settled.circuit.branches)):
            impedance = settled.impedance(place)
            z = None if impedance is None else impedance.at(analysis, settled.circuit.omega)
            if impedance is not None and z is not None:
                self.impedance[place] = z * impedance.tolerance
                self.loose[place] = 0.0 if impedance.firm else abs(z)
                self.source[place] = impedance.doubt(analysis)
