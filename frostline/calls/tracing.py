"""What the trace shows, assembled from the core's answers.

No rules of the job here.
"""

import uuid
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.http import QueryDict
from django.urls import reverse_lazy
from django.utils.http import urlencode

from frostcore import cautions
from frostcore.circuit.element import CircuitError
from frostcore.circuit.kept import UnitCircuits, circuits_of
from frostcore.circuit.layout import TracePicture, lay_out_trace
from frostcore.circuit.meter import MeterRange, Reading, points
from frostcore.circuit.netlist import netlist
from frostcore.circuit.power import AtPlug, at_plug
from frostcore.circuit.trace import FunctionName, Segment, Trace, best_pair
from frostcore.curves.verdict import SensorVerdict
from frostcore.diagnosis.step import percent
from frostcore.diagnosis.suspicion import Fringe
from frostcore.errors import FrostError
from frostcore.faults.known import broken
from frostcore.faults.table import Setup
from frostcore.sheet.electrical import Connector
from frostcore.sheet.model import ComponentKind, Mode, Sensor, Sheet
from frostcore.sheet.points import plug_full, plug_name, point_name, printed_pin
from frostcore.tape.entries import ReadingTaken
from frostcore.tape.reading import (
    Fall,
    FaultReading,
    JudgedReading,
    by_circuit,
    contact_warmth,
    expected_in,
    fault_readings,
    plugs_to_pull,
    segment_of,
    setup_of,
    setups_at,
    with_fault_column,
)
from frostcore.tape.standing import Slip, Standing
from frostcore.verdict import Verdict
from frostline.calls import forms
from frostline.calls.judging import chances_of, frost_on, step_of
from frostline.calls.learning import LearnAtLeads, at_leads
from frostline.calls.probe_forms import BridgedForm, HertzForm, ReadingForm, TriedForm, focused

MOST_FAULTS, MOST_FITS = 14, 5
_PLUG_CHECK = reverse_lazy("desk:check", args=["plug"])


@dataclass(frozen=True)
class SetupRow:
    """One line of the table of expected readings."""

    words: str
    reading: Reading
    here: bool
    address: str
    setup: Setup


@dataclass(frozen=True)
class PortShown:
    """A point of the picture with what stands by it: where its tap leads, the reading expected, the
    verdict on the reading taken."""

    href: str
    called: str
    expected: str
    verdict: Verdict | None
    lead: str

    @property
    def said(self) -> str:
        """What is said of the point beside its name."""
        expected = f", should read {self.expected}" if self.expected else ""
        return expected + (f", {self.lead} lead here" if self.lead else "")


class Queries:
    """Addresses that keep this page's choices and change some."""

    def __init__(self, query: QueryDict) -> None:
        self._query = query

    def having(self, **changes: str) -> str:
        """The query with some choices changed; an empty one drops its choice."""
        query = self._query.copy()
        for name, value in changes.items():
            query.pop(name, None)
            if value:
                query[name] = value
        return f"?{query.urlencode()}"

    def again(self, fall: Fall, mode: str) -> str:
        """An output read in a mode that was left, to be read again in this one."""
        reading = fall.reading
        return self.having(
            function=reading.function, red=reading.red, black=reading.black, meter=reading.meter, mode=mode
        )

    @property
    def as_plugs_stand(self) -> str:
        """The same page with the plugs as the tape has them."""
        return self.having(pulled="")

    @property
    def with_faults(self) -> str:
        """The same page with every fault's reading."""
        return self.having(faults="1")

    @property
    def with_working(self) -> str:
        """The whole unit with everything that runs in the mode lit."""
        return self.having(whole="1", working="1")

    @property
    def with_whole(self) -> str:
        """The whole unit's picture."""
        return self.having(whole="1")

    @property
    def without_whole(self) -> str:
        """Only the path's picture."""
        return self.having(whole="", working="")


@dataclass(frozen=True)
class TraceChoice:
    """What the page is asked to show, and the addresses that change some of it.

    ``lead`` is the one the next tap places; ``pulled`` are the connectors that are out for the reading, which
    the tape then says too; ``problem`` says why the leads asked for could not be placed.
    """

    queries: "Queries"
    sheet: Sheet
    mode: Mode
    path: Trace
    meter: MeterRange
    red: str
    black: str
    lead: str
    whole: bool
    working: bool
    pulled: tuple[str, ...]
    problem: str = ""

    @property
    def function(self) -> FunctionName:
        """What is traced."""
        return self.path.function

    @property
    def low_impedance(self) -> str:
        """The same leads on the low-impedance range."""
        return self.queries.having(meter=MeterRange.VAC_LOZ.value)


@dataclass(frozen=True)
class LeadsShown:
    """What the leads should read, and the form for what they do.

    ``contradicts`` is the power state this reading needs and the tape does not say; ``sensor`` the one
    whose own pins the leads are on; ``to_pull`` and ``to_plug`` the connectors that stand otherwise than the
    reading asked for needs them.
    """

    expected: Reading
    form: forms.SlipForm
    sensor: Sensor | None
    contradicts: str
    caution: str
    tried: forms.SlipForm
    hertz: forms.SlipForm | None
    bridged: forms.SlipForm | None
    bypass: str
    pull_first: tuple[str, ...] = ()
    to_pull: tuple[str, ...] = ()
    to_plug: tuple[str, ...] = ()
    printed: bool = True
    """Whether what is printed at the points is known."""

    usual: str = ""
    """What is said beside a figure that is only usual for its kind."""


@dataclass(frozen=True)
class TakenShown:
    """The newest reading between the leads: judged by the circuit, by its curve where it is a sensor's,
    and the faults that would read like it, each with how likely it is by all that is known."""

    judged: JudgedReading
    as_sensor: SensorVerdict | None
    fits: list[tuple[FaultReading, str]]


@dataclass(frozen=True)
class PathDrawn:
    """The picture, what stands by each point of it, and the broken segment where readings tell one."""

    picture: TracePicture
    ports: dict[str, PortShown]
    segment: Segment | None
    frost: tuple[Fringe, ...] = ()
    """Where suspicion lies on it."""

    apart: str = ""
    """How much of it lies at no place of the unit."""


@dataclass(frozen=True)
class SetupsShown:
    """What the leads read in every setup, healthy and with the chosen fault; and here with every fault."""

    rows: list[tuple[SetupRow, str]]
    fault_name: str
    faults: list[tuple[FaultReading, str]]
    more_faults: int


@dataclass(frozen=True)
class PlugShown:
    """A connector on the path, and the slip a tap on it would make."""

    connector: Connector
    called: str
    pulled: bool
    label: str
    slip_id: uuid.UUID


@dataclass(frozen=True)
class Around:
    """The mode's clock, its watts and amperes at the plug, and the plugs on the path."""

    until: datetime | None
    at_plug: AtPlug | None
    plug_check: str
    plugs: list[PlugShown]
    mode_id: uuid.UUID


@dataclass(frozen=True)
class TracePage:
    """All that the trace shows."""

    choice: TraceChoice
    functions: list[tuple[str, list[FunctionName]]]
    falls: list[tuple[Fall, str]]
    leads: LeadsShown
    taken: TakenShown | None
    drawn: PathDrawn
    setups: SetupsShown
    around: Around
    learn: LearnAtLeads | None


def trace_context(standing: Standing, query: QueryDict, posted: forms.SlipForm | None) -> dict[str, Any]:
    """The trace, or why the sheet has none."""
    circuits = circuits_of(standing.sheet)
    if not circuits.functions:
        return {"trace": None, "problem": circuits.problem}
    return {"trace": trace_page(standing, query, posted)}


def trace_page(standing: Standing, query: QueryDict, posted: forms.SlipForm | None) -> TracePage:
    """The trace of a unit that has a circuit."""
    choice, rows = _choice(standing, query)
    queries = choice.queries
    return TracePage(
        choice,
        _grouped(standing, circuits_of(standing.sheet)),
        [(fall, queries.again(fall, standing.mode)) for fall in standing.falls_due],
        _leads_shown(standing, choice, rows, posted),
        _taken_shown(standing, choice),
        _drawn(standing, choice, query),
        _setups(standing, choice, rows, query),
        _around(standing, choice),
        at_leads(standing, choice.function.component, _where(choice), posted),
    )


def path_drawn(standing: Standing, query: QueryDict) -> tuple[TraceChoice, PathDrawn] | None:
    """The picture of a reading's path with its leads and the suspicion on it; None where it has none."""
    if not circuits_of(standing.sheet).functions or not query.get("function"):
        return None
    choice, _ = _choice(standing, query)
    return choice, _drawn(standing, choice, query)


def _choice(standing: Standing, query: QueryDict) -> tuple[TraceChoice, list[SetupRow]]:
    """What is asked for, with what it reads in every setup; leads the path has not are put back on it."""
    mode, path = _chosen(standing, circuits_of(standing.sheet), query)
    meter, (red, black), problem = _meter(query, path, mode), _leads(path, query), ""
    pulled = _pulled(standing, query)
    setup = Setup(mode.id, meter, pulled, contact_warmth(standing.now))
    try:
        rows = _rows(standing, query, path, red, black, setup)
    except CircuitError as error:
        problem, red, black = str(error), *best_pair(path)
        rows = _rows(standing, query, path, red, black, setup)
    lead, whole, working = query.get("lead", "red"), bool(query.get("whole")), bool(query.get("working"))
    choice = TraceChoice(
        Queries(query), standing.sheet, mode, path, meter, red, black, lead, whole, working, pulled, problem
    )
    return choice, rows


def _where(choice: TraceChoice) -> dict[str, str]:
    """Where the leads are, as forms carry it."""
    return {
        "red": choice.red,
        "black": choice.black,
        "meter": choice.meter.value,
        "mode": choice.mode.id,
        "pulled": " ".join(choice.pulled),
    }


def _leads_shown(
    standing: Standing, choice: TraceChoice, rows: list[SetupRow], posted: forms.SlipForm | None
) -> LeadsShown:
    where = _where(choice)
    form = _meter_form(standing, posted, **where, function=choice.function.id)
    tried = posted if posted is not None and posted.kind == "tried" else None
    return LeadsShown(
        next(row.reading for row in rows if row.here),
        form,
        _sensor_at(standing.sheet, choice.red, choice.black),
        standing.needs_power(choice.meter) or "",
        cautions.LIVE if choice.mode.live else "",
        tried or TriedForm(initial=where, sheet=standing.sheet),
        _hertz_form(standing, choice, posted),
        _bridged_form(standing, choice, posted),
        cautions.BYPASS,
        plugs_to_pull(
            standing.sheet,
            choice.function.id,
            next(row.setup for row in rows if row.here),
            choice.red,
            choice.black,
        ),
        tuple(name for name in choice.pulled if name not in standing.pulled),
        tuple(name for name in standing.pulled if name not in choice.pulled),
        all(_is_printed(standing.sheet, point) for point in (choice.red, choice.black)),
        standing.sheet.usual(choice.function.component),
    )


def _is_printed(sheet: Sheet, point: str) -> bool:
    return sheet.pin(point) is None or bool(printed_pin(sheet, point))


def _taken_shown(standing: Standing, choice: TraceChoice) -> TakenShown | None:
    slip = next((slip for slip in reversed(standing.readings) if _at(slip, choice.red, choice.black)), None)
    judged = _taken(slip)
    if slip is None or judged is None:
        return None
    chances = chances_of(standing)
    likeliest = sorted(
        (item for item in _told(slip) if item.fits), key=lambda item: -chances.get(item.fault.id, 0.0)
    )
    fits = [(item, percent(chances.get(item.fault.id, 0.0))) for item in likeliest[:MOST_FITS]]
    return TakenShown(judged, standing.judged_reading(slip).by_curve, fits)


def _drawn(standing: Standing, choice: TraceChoice, query: QueryDict) -> PathDrawn:
    lit = choice.whole and choice.working and choice.mode.live
    circuits = circuits_of(standing.sheet)
    running = circuits.working(choice.mode.id, choice.pulled) if lit else frozenset()
    picture = lay_out_trace(standing.sheet, choice.path, whole=choice.whole, working=running)
    readings = [reading for _, reading in standing.meter_readings]
    ports = _ports(standing, choice.path, picture, query, choice.red, choice.black)
    return PathDrawn(
        picture, ports, segment_of(standing.sheet, choice.path, readings), *frost_on(standing, picture)
    )


def _setups(standing: Standing, choice: TraceChoice, rows: list[SetupRow], query: QueryDict) -> SetupsShown:
    setup = next(row.setup for row in rows if row.here)
    shown = fault_readings(standing.sheet, setup, choice.red, choice.black) if query.get("faults") else ()
    name, texts = _fault_column(standing, query, rows, choice.red, choice.black)
    return SetupsShown(
        list(zip(rows, texts, strict=True)),
        name,
        [(item, choice.queries.having(fault=item.fault.id)) for item in shown[:MOST_FAULTS]],
        max(0, len(shown) - MOST_FAULTS),
    )


def _hertz_form(
    standing: Standing, choice: TraceChoice, posted: forms.SlipForm | None
) -> forms.SlipForm | None:
    """Where a tachometer is traced."""
    component = choice.function.component
    nominal = standing.sheet.component(component).nominal
    if not choice.function.id.endswith(".tach") or not nominal.rpm or not nominal.pulses_per_revolution:
        return None
    if posted is not None and posted.kind == "hertz_taken":
        return posted
    return HertzForm(initial={"component": component}, sheet=standing.sheet)


FED = frozenset(
    {
        ComponentKind.FAN_AC,
        ComponentKind.FAN_DC,
        ComponentKind.HEATER,
        ComponentKind.LAMP,
        ComponentKind.VALVE,
        ComponentKind.COMPRESSOR,
    }
)
"""Loads that can be fed past their board."""


def _bridged_form(
    standing: Standing, choice: TraceChoice, posted: forms.SlipForm | None
) -> forms.SlipForm | None:
    """Where a load is traced that can be fed past its board."""
    component = choice.function.component
    if standing.sheet.component(component).kind not in FED or choice.function.id != component:
        return None
    if posted is not None and posted.kind == "bridged":
        return posted
    return BridgedForm(initial={"component": component}, sheet=standing.sheet)


def _around(standing: Standing, choice: TraceChoice) -> Around:
    mode, sheet = choice.mode, standing.sheet
    return Around(
        standing.mode_ends,
        at_plug(circuits_of(sheet).scene(mode.id)) if mode.live else None,
        f"{_PLUG_CHECK}?{urlencode({'sheet': sheet.id, 'mode': mode.id})}",
        _plugs(standing, choice.path),
        uuid.uuid4(),
    )


def _function(standing: Standing, circuits: UnitCircuits, query: QueryDict) -> FunctionName:
    """The function asked for, else what the next step is about, else the first."""
    known = {item.id: item for item in circuits.functions}
    step = step_of(standing)
    last = next(
        (reading.function for _, reading in reversed(standing.meter_readings) if reading.function in known),
        "",
    )
    return next(
        (known[name] for name in (query.get("function", ""), step.trace, last) if name in known),
        circuits.functions[0],
    )


def _chosen(standing: Standing, circuits: UnitCircuits, query: QueryDict) -> tuple[Mode, Trace]:
    """The mode asked for, else the one the unit is in, else the first live one.

    And the function's path in it.
    """
    mode = next(
        (item for item in standing.sheet.modes if item.id == query.get("mode")), None
    ) or standing.sheet.mode(standing.mode or circuits.live_modes[0].id)
    return mode, circuits.trace(
        _function(standing, circuits, query).id,
        mode.id,
        live=mode.live,
        pulled=_pulled(standing, query),
        celsius=contact_warmth(standing.now),
    )


def _pulled(standing: Standing, query: QueryDict) -> tuple[str, ...]:
    """The connectors that are out: as asked for, else as they stand."""
    if "pulled" not in query:
        return standing.pulled
    known = {connector.id for connector in standing.sheet.connectors}
    return tuple(sorted(set(str(query["pulled"]).split()) & known))


def _grouped(standing: Standing, circuits: UnitCircuits) -> list[tuple[str, list[FunctionName]]]:
    """Functions to choose from: those of implicated parts first."""
    implicated = [cause.component for code in standing.known_codes for cause in code.implicates]
    suspects = [item for item in circuits.functions if item.component in implicated]
    rest = [item for item in circuits.functions if item.component not in implicated]
    return [
        (name, found)
        for name, found in (
            ("Implicated by the code", suspects),
            ("All functions" if not suspects else "The others", rest),
        )
        if found
    ]


def _leads(path: Trace, query: QueryDict) -> tuple[str, str]:
    """Where the leads are: as tapped, else the first plug of the path from the board."""
    red, black = best_pair(path)
    return query.get("red") or red, query.get("black") or black


def _meter(query: QueryDict, path: Trace, mode: Mode) -> MeterRange:
    asked = query.get("meter", "")
    if asked in set(MeterRange):
        return MeterRange(asked)
    return path.meter if mode.live else MeterRange.OHM


def _rows(
    standing: Standing, query: QueryDict, path: Trace, red: str, black: str, here: Setup
) -> list[SetupRow]:
    """What is read between the leads in every setup worth it; the one the page is in has ``here``."""
    queries = Queries(query)
    return [
        SetupRow(
            words,
            expected_in(standing.sheet, setup, red, black),
            setup == here,
            (queries.having(mode=setup.mode, meter=setup.meter.value) if setup.pulled == here.pulled else ""),
            setup,
        )
        for words, setup in setups_at(standing.sheet, path, red, black, here)
    ]


def _fault_column(
    standing: Standing, query: QueryDict, rows: list[SetupRow], red: str, black: str
) -> tuple[str, tuple[str, ...]]:
    """The chosen fault in words and its reading in every setup of the table.

    Empty where none is chosen.
    """
    empty = ("", ("",) * len(rows))
    if not query.get("fault"):
        return empty
    try:
        return with_fault_column(standing.sheet, [row.setup for row in rows], red, black, str(query["fault"]))
    except CircuitError:
        return empty


def _at(slip: Slip, red: str, black: str) -> bool:
    """Whether a reading was taken at these points."""
    body = slip.entry.body
    return isinstance(body, ReadingTaken) and (body.red, body.black) == (red, black)


def _taken(slip: Slip | None) -> JudgedReading | None:
    """A reading judged by the circuit, its sensor at the temperature measured; None where that can't be."""
    if slip is None or not isinstance(slip.entry.body, ReadingTaken):
        return None
    try:
        return by_circuit(slip.moment, slip.entry.body)
    except (FrostError, KeyError):
        return None


def _told(slip: Slip | None) -> tuple[FaultReading, ...]:
    """The faults that would read like this, where the reading is not as it should be."""
    taken = _taken(slip)
    if slip is None or taken is None or taken.verdict is Verdict.IN_BAND:
        return ()
    body = taken.reading
    setup = setup_of(body, slip.moment)
    return fault_readings(slip.moment.sheet, setup, body.red, body.black, body.value)


def _sensor_at(sheet: Sheet, red: str, black: str) -> Sensor | None:
    """The sensor whose own pins the leads are on."""
    return next((item for item in sheet.sensors if item.pins and set(item.pins) == {red, black}), None)


def _ports(
    standing: Standing, path: Trace, picture: TracePicture, query: QueryDict, red: str, black: str
) -> dict[str, PortShown]:
    """What stands by each point of the picture, and where a tap on it leads: one tap for red, the next
    for black."""
    queries, lead = Queries(query), query.get("lead", "red")
    by_node = {point.node: point.reading.figure for point in path.points}
    near = standing.sheet.wiring.near
    expected = {
        port.point: by_node[near(port.point)]
        for box in picture.boxes
        for port in box.ports
        if port.lit and near(port.point) in by_node
    }
    expected |= {point.label: point.reading.figure for point in path.points}
    verdicts = {}
    for identifier, reading in standing.meter_readings:
        found = standing.reading_verdict(identifier) if reading.mode == path.mode else None
        if found:
            verdicts[reading.red] = found.verdict
    points = {port.point for box in picture.boxes for port in box.ports} | {
        spot.point for inside in picture.insides for spot in inside.spots
    }
    return {
        point: PortShown(
            (
                queries.having(red=point, lead="black", black=query.get("black", ""))
                if lead == "red"
                else queries.having(black=point, lead="red", red=red)
            ),
            point_name(standing.sheet, point),
            expected.get(point, ""),
            verdicts.get(point),
            "red" if point == red else "black" if point == black else "",
        )
        for point in points
    }


def _meter_form(standing: Standing, posted: forms.SlipForm | None, **initial: str) -> forms.SlipForm:
    if posted is not None and posted.kind == "reading":
        return posted
    return focused(ReadingForm(initial=initial, sheet=standing.sheet), where="fine")


def _plugs(standing: Standing, path: Trace) -> list[PlugShown]:
    """The connectors on the path, and any that are pulled, each with what a tap would do."""
    on_path = [pin[0].id for pin in (standing.sheet.pin(point.label) for point in path.points) if pin]
    names = dict.fromkeys((*on_path, *standing.pulled))
    found = []
    for name in names:
        connector, pulled = standing.sheet.connector(name), name in standing.pulled
        act = "pulled, put it back" if pulled else "in, pull it"
        called = plug_name(standing.sheet, name).removeprefix("the ")
        called = called[:1].upper() + called[1:]
        label = f"{plug_full(standing.sheet, name)}: {act}"
        found.append(PlugShown(connector, called, pulled, label, uuid.uuid4()))
    return found


def deck_of(standing: Standing, query: QueryDict) -> tuple[str, str]:
    """(name, text) of the SPICE deck of what the page shows: the mode, the pulled plugs, the fault and
    the meter between the leads.

    Raises CircuitError for names the sheet has not.
    """
    sheet, circuits = standing.sheet, circuits_of(standing.sheet)
    mode, path = _chosen(standing, circuits, query)
    meter = _meter(query, path, mode)
    faults = [str(query["fault"])] if query.get("fault") else []
    settled = broken(sheet, mode.id, faults, live=meter.live, pulled=_pulled(standing, query))
    where = points(sheet, settled.circuit, *_leads(path, query), meter)
    return f"{mode.id}-{where.red}-{where.black}", netlist(
        sheet, settled, f"{sheet.title}, {mode.name}, {where.red} to {where.black}", where, meter
    )
