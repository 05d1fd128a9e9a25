"""The board's own rules on the signals it would see: which codes each hypothesis raises."""

from collections.abc import Mapping

import numpy as np

from frostcore.diagnosis.functions import Functions
from frostcore.diagnosis.hypotheses import Floats
from frostcore.faults.running import RUNS, STALLS
from frostcore.sheet.model import Code, ComponentKind, SignalKind, SignalTest, TestState


class Rules:
    """A sheet's rules, on what its functions and the unit's states come to."""

    def __init__(self, functions: Functions, states: Mapping[str, Floats]) -> None:
        self._of, self._states, self._sheet = functions, states, functions.sheet

    def holds(self, code: Code) -> Floats:
        """How surely a code's condition holds under each hypothesis (H)."""
        share = np.where(self._of.known.comes_and_goes, 0.5, 1.0)
        chances = [self._test(test) * share for test in code.condition.tests]
        if code.condition.join == "all":
            return np.asarray(np.prod(chances, axis=0))
        return np.asarray(1 - np.prod([1 - chance for chance in chances], axis=0))

    def _state(self, name: str) -> Floats:
        return self._states.get(name, self._of.none)

    def _test(self, test: SignalTest) -> Floats:
        match test.signal.kind:
            case SignalKind.SENSOR:
                return self._sensor(test)
            case SignalKind.TACH:
                return self._tach(test.signal.id)
            case SignalKind.RAIL:
                return self._rail(test)
            case SignalKind.LINK:
                return self._link(test.signal.id)
            case SignalKind.LOAD:
                return self._load(test)
        stuck = "welded" if test.state is TestState.STAYS_CLOSED else "stuck_open"
        return self._of.having(test.signal.id, {stuck})

    def _sensor(self, test: SignalTest) -> Floats:
        name = test.signal.id
        sensor, off = self._sheet.sensor(name), self._of.kelvin.get(name, self._of.none)
        opened, shorted = self._of.cause(f"open {name}"), self._of.cause(f"short {name}")
        if test.state in {TestState.OPEN, TestState.SHORT}:
            return opened if test.state is TestState.OPEN else shorted
        if test.state is TestState.NOT_ABOVE:
            cold = (off < COLD_KELVIN) * 1.0
            return np.asarray(1 - (1 - 0.95 * self._state("no defrost")) * (1 - 0.8 * cold))
        limit = test.threshold or 0.0
        usual = limit if sensor.set_point_celsius is None else sensor.set_point_celsius
        known = (opened == 0) & (shorted == 0)
        above = test.state is TestState.ABOVE
        wrong = known & (off > limit - usual if above else off < limit - usual)
        return np.asarray(np.maximum(REACHES * self._any(name, "warm" if above else "cold"), 0.9 * wrong))

    def _any(self, sensor: str, what: str) -> Floats:
        """That some compartment a sensor looks at is warm or cold."""
        zones = self._of.serves(self._sheet.component(self._sheet.sensor(sensor).component))
        return np.asarray(1 - np.prod([1 - self._state(f"{what} {zone}") for zone in zones], axis=0))

    def _tach(self, fan: str) -> Floats:
        share = self._of.share(fan)
        still = self._of.none if share is None else ((share < RUNS) | (share > STALLS)) * 1.0
        own = self._of.having(fan, {"seized", "tachometer_lost"})
        iced = 0.8 * self._state("ice in the fan") * bool(self._of.serves(self._sheet.component(fan)))
        return np.asarray(np.maximum.reduce([still, own, iced, self._of.signal_lost(f"{fan}.tach") * 1.0]))

    def _rail(self, test: SignalTest) -> Floats:
        """Low in some mode, and not so low that nothing is left to say so."""
        volts = self._of.rail_volts(test.signal.id).min(axis=0, initial=np.inf)
        limit = test.threshold or 0.0
        low = (volts < limit) & (volts > 0.3 * limit)
        return np.asarray(np.maximum(low * 1.0, 0.5 * self._state("rail pulses")))

    def _link(self, name: str) -> Floats:
        part = self._sheet.component(name)
        if part.kind is ComponentKind.INVERTER:
            compressors = [
                item.id for item in self._sheet.components if item.kind is ComponentKind.COMPRESSOR
            ]
            loads = [
                load for load in self._of.running.loads if load.partition(".")[0] in {name, *compressors}
            ]
            shares = [share for load in loads if (share := self._of.share(load)) is not None]
            lost = [((share < RUNS) | (share > STALLS)) * 1.0 for share in shares]
            return np.asarray(np.maximum.reduce([self._of.none, *lost]))
        share = self._of.share(name)
        dark = self._of.none if share is None else DUMB * (share < RUNS)
        own, on_way = self._of.none, self._way(name)
        for place, item in enumerate(self._of.known.all):
            if item.fault and item.component == name and item.fault.acts:
                own[place] = DUMB
            elif item.fault and on_way & set(item.fault.where.replace("–", " ").split()):
                own[place] = 0.9 if item.fault.mode.endswith("open") else 0.4
        return np.asarray(np.maximum.reduce([self._of.signal_lost(f"{name}.data") * 1.0, dark, own]))

    def _load(self, test: SignalTest) -> Floats:
        """More (or less) than so many amperes, by its watts at its rated volts."""
        share, rated = self._of.share(test.signal.id), self._sheet.component(test.signal.id).nominal
        if share is None or not rated.watts or not rated.volts:
            return self._of.none
        limit = test.threshold or 1e-9
        ratio = share * rated.watts / rated.volts / limit
        above = np.clip(
            (ratio - 0.85) / 0.3, 0, 1
        )  # the board's shunt and the part are good to some per cent
        return np.asarray(above if test.state is TestState.ABOVE else 1 - above)

    def _way(self, name: str) -> set[str]:
        """The pins on the way to a board that is linked by a bus; none to anything else."""
        board = next((item for item in self._sheet.boards if item.component == name), None)
        if board is None:
            return set()
        nodes = {board.inlet, board.ground} | {rail.node for rail in board.rails}
        mine = {
            f"{connector.id}.{pin.number}"
            for connector in self._sheet.connectors
            for pin in connector.pins
            if pin.node in nodes or "bus" in pin.node
        }
        runs = [run for run in self._sheet.harness if mine & set(run.points)]
        joints = mine | {point for run in runs for point in run.points if "." not in point}
        ways = [run for run in self._sheet.harness if joints & set(run.points)]
        return {point for run in ways for point in run.points if "." in point}


COLD_KELVIN = -10.0
"""A sensor that reads so much too cold is never seen to rise in a defrost."""

REACHES = 0.75
"""A compartment that is too warm is warm enough for its code, this often."""

DUMB = 0.6
"""Something that has failed by itself no longer answers, this often."""
