"""What the trace and the way in show, assembled from the core's answers.

No rules of the job here.
"""

import uuid
from dataclasses import dataclass
from typing import Any

from django.http import QueryDict
from django.urls import reverse_lazy
from django.utils.http import urlencode

from frostcore import cautions
from frostcore.circuit.element import CircuitError
from frostcore.circuit.kept import UnitCircuits, circuits_of
from frostcore.circuit.layout import TracePicture, lay_out_trace
from frostcore.circuit.meter import MeterRange, Reading, plug_watts, points
from frostcore.circuit.netlist import netlist
from frostcore.circuit.trace import FunctionName, Trace, best_pair
from frostcore.diagnosis.guide import next_step
from frostcore.errors import FrostError
from frostcore.faults.known import broken
from frostcore.faults.table import Setup
from frostcore.remedy.wayin import closing, left_over, ways
from frostcore.sheet.model import Mode, Sensor, Sheet
from frostcore.tape.entries import ReadingTaken
from frostcore.tape.reading import (
    Fall,
    FaultReading,
    JudgedReading,
    by_circuit,
    fault_readings,
    segment_of,
    setup_of,
    setups_at,
    with_fault_column,
)
from frostcore.tape.standing import Slip, Standing
from frostcore.verdict import Verdict
from frostline.calls import forms
from frostline.calls.probe_forms import ReadingForm

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
    expected: str
    verdict: Verdict | None
    lead: str

    @property
    def said(self) -> str:
        """What is said of the point beside its name."""
        expected = f", should read {self.expected}" if self.expected else ""
        return expected + (f", {self.lead} lead here" if self.lead else "")


def trace_context(standing: Standing, query: QueryDict, posted: forms.SlipForm | None) -> dict[str, Any]:
    """The trace: function, mode, picture, leads, the table of what a meter reads there, the reading's
    form."""
    sheet, circuits = standing.sheet, circuits_of(standing.sheet)
    if not circuits.functions:
        return {"function": None, "picture": None, "functions": [], "problem": circuits.problem}
    mode, path = _chosen(standing, circuits, query)
    function, meter, (red, black), problem = path.function, _meter(query, path, mode), _leads(path, query), ""
    setup = Setup(mode.id, meter, standing.pulled)
    try:
        rows = _rows(standing, query, path, red, black, setup)
    except CircuitError as error:
        problem, red, black = str(error), *best_pair(path)
        rows = _rows(standing, query, path, red, black, setup)
    readings, queries = [reading for _, reading in standing.meter_readings], _Queries(query)
    slip = next((slip for slip in reversed(standing.readings) if _at(slip, red, black)), None)
    taken, told = _taken(slip), _told(slip)
    shown = fault_readings(sheet, setup, red, black) if query.get("faults") else ()
    whole, working = bool(query.get("whole")), bool(query.get("working"))
    lit = circuits.working(mode.id, standing.pulled) if whole and working and mode.live else frozenset()
    picture = lay_out_trace(sheet, path, whole=whole, working=lit)
    fault_name, fault_texts = _fault_column(standing, query, rows, red, black)
    return {
        "problem": problem,
        "falls": [(fall, queries.again(fall, standing.mode)) for fall in standing.falls_due],
        "low_impedance": queries.having(meter=MeterRange.VAC_LOZ.value),
        "plug_check": f"{_PLUG_CHECK}?{urlencode({'sheet': sheet.id, 'mode': mode.id})}",
        "functions": _grouped(standing, circuits),
        "function": function,
        "modes": sheet.modes,
        "mode": mode,
        "until": standing.mode_ends,
        "path": path,
        "whole": whole,
        "working": working,
        "fault_name": fault_name,
        "rows_with_fault": list(zip(rows, fault_texts, strict=True)),
        "picture": picture,
        "ports": _ports(standing, path, picture, query, red, black),
        "segment": segment_of(path, readings),
        "red": red,
        "black": black,
        "lead": query.get("lead", "red"),
        "meter": meter,
        "expected": next(row.reading for row in rows if row.here),
        "taken": taken,
        "as_sensor": standing.judged_reading(slip).by_curve if slip and taken else None,
        "sensor_here": _sensor_at(sheet, red, black),
        "fits": [item for item in told if item.fits][:MOST_FITS],
        "faults": [(item, queries.having(fault=item.fault.id)) for item in shown[:MOST_FAULTS]],
        "more_faults": max(0, len(shown) - MOST_FAULTS),
        "meter_form": _meter_form(
            standing, posted, red=red, black=black, meter=meter.value, mode=mode.id, function=function.id
        ),
        "plugs": _plugs(standing, path),
        "mode_id": uuid.uuid4(),
        "live_caution": cautions.LIVE if mode.live else "",
        "at_plug": plug_watts(circuits.scene(mode.id)) if mode.live else None,
        "contradicts": standing.needs_power(meter) or "",
        "queries": queries,
    }


class _Queries:
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


def _function(standing: Standing, circuits: UnitCircuits, query: QueryDict) -> FunctionName:
    """The function asked for, else what the next step is about, else the first."""
    known = {item.id: item for item in circuits.functions}
    step = next_step(standing)
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
        _function(standing, circuits, query).id, mode.id, live=mode.live, pulled=standing.pulled
    )


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
    queries, circuits = _Queries(query), circuits_of(standing.sheet)
    return [
        SetupRow(
            words,
            circuits.reading(setup.mode, setup.meter, red, black, setup.pulled),
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
    queries, lead = _Queries(query), query.get("lead", "red")
    by_node = {point.node: point.reading.text for point in path.points}
    near = standing.sheet.wiring.near
    expected = {
        port.point: by_node[near(port.point)]
        for box in picture.boxes
        for port in box.ports
        if port.lit and near(port.point) in by_node
    }
    expected |= {point.label: point.reading.text for point in path.points}
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
            expected.get(point, ""),
            verdicts.get(point),
            "red" if point == red else "black" if point == black else "",
        )
        for point in points
    }


def _meter_form(standing: Standing, posted: forms.SlipForm | None, **initial: str) -> forms.SlipForm:
    if posted is not None and posted.kind == "reading":
        return posted
    return ReadingForm(initial=initial | {"pulled": " ".join(standing.pulled)}, sheet=standing.sheet)


def _plugs(standing: Standing, path: Trace) -> list[dict[str, Any]]:
    """The connectors on the path, and any that are pulled, each with what a tap would do."""
    on_path = [pin[0].id for pin in (standing.sheet.pin(point.label) for point in path.points) if pin]
    names = dict.fromkeys((*on_path, *standing.pulled))
    found = []
    for name in names:
        connector, pulled = standing.sheet.connector(name), name in standing.pulled
        act = "pulled, put it back" if pulled else "in, pull it"
        label = f"{connector.id} {connector.name}: {act}"
        found.append({"connector": connector, "pulled": pulled, "label": label, "slip_id": uuid.uuid4()})
    return found


def way_context(standing: Standing, query: QueryDict, posted: forms.SlipForm | None) -> dict[str, Any]:
    """Ways in with their steps ticked off, and the way out: the same in reverse."""
    sheet, bodies = standing.sheet, standing.bodies
    found = ways(sheet, bodies)
    chosen = next((way for way in found if way.place.id == query.get("place")), None) or next(
        (way for way in found if any(step.done for step in way.steps) and not way.open), None
    )
    chosen = chosen or (found[0] if found else None)
    return {
        "ways": found,
        "chosen_way": chosen,
        "steps": [{"item": step, "slip_id": uuid.uuid4()} for step in chosen.steps] if chosen else [],
        "inside_parts": [
            component for component in sheet.components if chosen and component.place == chosen.place.id
        ],
        **closing_context(standing),
        "fins": cautions.FINS,
        "papers": sheet.papers,
    }


def closing_context(standing: Standing) -> dict[str, Any]:
    """The way out, and what does not add up."""
    lines = closing(standing.sheet, standing.bodies)
    return {
        "closing": [{"line": line, "slip_id": uuid.uuid4()} for line in lines],
        "left_over": left_over(standing.sheet, standing.bodies),
    }


def deck_of(standing: Standing, query: QueryDict) -> tuple[str, str]:
    """(name, text) of the SPICE deck of what the page shows: the mode, the pulled plugs, the fault and
    the meter between the leads.

    Raises CircuitError for names the sheet has not.
    """
    sheet, circuits = standing.sheet, circuits_of(standing.sheet)
    mode, path = _chosen(standing, circuits, query)
    meter = _meter(query, path, mode)
    faults = [str(query["fault"])] if query.get("fault") else []
    settled = broken(sheet, mode.id, faults, live=meter.live, pulled=standing.pulled)
    where = points(sheet, settled.circuit, *_leads(path, query), meter)
    return f"{mode.id}-{where.red}-{where.black}", netlist(
        sheet, settled, f"{sheet.title}, {mode.name}, {where.red} to {where.black}", where, meter
    )
