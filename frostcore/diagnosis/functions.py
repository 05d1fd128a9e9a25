"""What runs, and what the board sees, under each hypothesis: the causes that the settled circuit gives, and
those that faults without a circuit are.

Each is a chance per hypothesis (H), by the names of the causal table.
"""

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import numpy as np
import numpy.typing as npt

from frostcore.curves.verdict import Role
from frostcore.diagnosis.causal import FAILS_WITH_ITS_RAIL, MECHANICAL, PLAIN
from frostcore.diagnosis.hypotheses import Floats, hypotheses_of
from frostcore.faults.draws import acts_at
from frostcore.faults.running import LEAST_WATTS, ON, RUNS, STALLS, Running, running
from frostcore.sheet.model import Component, ComponentKind, Sheet

K = ComponentKind
FANS = frozenset({K.FAN_AC, K.FAN_DC})

BELIEVED_KELVIN = 3.0
"""A board so far wrong about a temperature keeps a compartment wrong."""

BOARD_CELSIUS, BEYOND = (-45.0, 65.0), 1.5
"""What a board takes for a temperature at all; so many times more or less ohms are a broken or a shorted
sensor."""

LOW_SHARE, GONE_SHARE = 0.87, 0.4
"""A rail between these shares of its volts is at its edge."""


class Functions:
    """One sheet's hypotheses with what runs under each.

    With a ``share``, faults that come in amounts are there by the amount at that share of their spread, and
    nothing is worked out for others.
    """

    def __init__(self, sheet: Sheet, share: float | None = None) -> None:
        self.sheet, self.known = sheet, hypotheses_of(sheet)
        circuits, self._row = self.known.circuit, self.known.row
        if share is not None:
            circuits = tuple(
                replace(fault, acts=acts_at(fault, share)) for fault in circuits if fault.spread is not None
            )
            rows = {fault.id: row for row, fault in enumerate(circuits, 1)}
            self._row = np.array([rows.get(item.id, 0) for item in self.known.all])
        self.zones = [place.id for place in sheet.compartments]
        self._inputs = [channel for board in sheet.boards for channel in board.sensor_inputs]
        self._rails = [(rail, board) for board in sheet.boards for rail in board.rails]
        self._wires = {name: pair for name in self._signals() if (pair := self._at_board(name))}
        pairs = [
            *((sheet.wiring.near(item.pin), sheet.wiring.near(item.return_pin)) for item in self._inputs),
            *((rail.node, board.ground) for rail, board in self._rails),
            *self._wires.values(),
        ]
        self.running: Running = running(sheet, circuits, pairs)
        self.causes: dict[str, Floats] = {}
        self.kelvin: dict[str, Floats] = {}
        """How far wrong the board is about each sensor's place."""
        if self.running.modes:
            self._of_circuit()
        self._of_faults()
        there = np.where(self.known.comes_and_goes, 0.5, 1.0)
        self.causes = {name: np.asarray(chance * there) for name, chance in self.causes.items()}

    @property
    def watts(self) -> dict[str, Floats]:
        """Watts at the plug by mode."""
        return {mode: self.running.plug[at][self._row] for at, mode in enumerate(self.running.modes)}

    @property
    def none(self) -> Floats:
        """No chance for any."""
        return np.zeros(len(self.known))

    def cause(self, name: str) -> Floats:
        """A cause by its name; no chance where nothing gives it."""
        return self.causes.get(name, self.none)

    def _add(self, name: str, chance: npt.NDArray[Any]) -> None:
        """One cause more, by itself."""
        self.causes[name] = 1 - (1 - self.cause(name)) * (1 - np.clip(chance * 1.0, 0, 1))

    def _signals(self) -> Iterator[str]:
        """Signal wires the board looks at: tachometers, data."""
        for part in self.sheet.components:
            if part.kind is K.FAN_DC:
                yield f"{part.id}.tach"
            if part.kind is K.DISPLAY:
                yield f"{part.id}.data"

    def _at_board(self, terminal: str) -> tuple[str, str] | None:
        """A signal's node at its board, and the board's ground."""
        for run in self.sheet.harness:
            if terminal not in {run.points[0], run.points[-1]}:
                continue
            start = run.points[-1] if run.points[0] == terminal else run.points[0]
            pin = self.sheet.pin(start)
            for board in self.sheet.boards if pin else ():
                alone = len(self.sheet.boards) == 1
                if alone or (pin and any(item.node == board.ground for item in pin[0].pins)):
                    return self.sheet.wiring.near(start), board.ground
        return None

    # What runs.

    def share_in(self, load: str, mode: str) -> Floats | None:
        """A load's watts as a share of the healthy ones in a mode; None where it is off there."""
        if load not in self.running.loads:
            return None
        watts = self.running.of(mode, load)
        if watts[0] < max(LEAST_WATTS, ON * self.full(load)):
            return None
        found: Floats = (watts / watts[0])[self._row]
        return found

    def full(self, load: str) -> float:
        """The most a sound unit gives it in any mode, in watts."""
        return max((float(self.running.of(mode, load)[0]) for mode in self.running.modes), default=0.0)

    def share(self, load: str) -> Floats | None:
        """Its share in the first mode in which it runs; None where it never does."""
        found = (self.share_in(load, mode) for mode in self.running.modes)
        return next((each for each in found if each is not None), None)

    def _of_circuit(self) -> None:
        by_kind = {
            K.DISPLAY: self._display,
            K.FAN_AC: self._fan,
            K.FAN_DC: self._fan,
            K.HEATER: self._heater,
            K.MODULE: self._module,
            K.LAMP: self._lamp,
            K.DAMPER: self._damper,
            K.FLAP_MOTOR: self._flap,
            K.VALVE: self._valve,
            K.COMPRESSOR: self._compressor,
        }
        for part in self.sheet.components:
            if part.kind in by_kind:
                by_kind[part.kind](part)
        self._supplies()
        self._sensors()

    def serves(self, part: Component) -> list[str]:
        """The compartments a part works for: its sheet's word, the one it sits in, or with one coil all."""
        if part.serves:
            return list(part.serves)
        zone = self._zone(part)
        if not zone:
            return []
        coils = {fan.place for fan in self.sheet.components if fan.kind in FANS and self._zone(fan)}
        return self.zones if part.kind in FANS and len(coils) == 1 else [zone]

    def _zone(self, part: Component) -> str:
        """The compartment a part sits in, empty outside."""
        place = part.place
        while place and place not in self.zones:
            place = self.sheet.place(place).inside
        return place

    def _display(self, part: Component) -> None:
        share = self.share(part.id)
        if share is not None:
            self._add("display dark", share < RUNS)

    def _fan(self, part: Component) -> None:
        share = self.share(part.id)
        if share is not None:
            still = np.asarray(((share < RUNS) | (share > STALLS)) * 1.0)
            self._stands(part, still)
            for module in self._cooled_by(part):
                for zone in self.serves(module):
                    self._add(f"no cold {zone}", PUMPS_BACK * still)

    def _cooled_by(self, fan: Component) -> list[Component]:
        """The thermoelectric modules that a fan outside the cabinet rids of their heat."""
        modules = [item for item in self.sheet.components if item.kind is K.MODULE]
        return [] if self.serves(fan) else [item for item in modules if item.place == fan.place]

    def _stands(self, part: Component, chance: Floats) -> None:
        zones = self.serves(part)
        for name in [f"air still {zone}" for zone in zones] or ["condenser air still"]:
            self._add(name, chance)

    def _heater(self, part: Component) -> None:
        """One that melts frost is on in a defrost only; another keeps a frame dry."""
        modes = self.running.modes
        defrosts = [mode for mode in modes if self.share_in(part.id, mode) is not None]
        share = self.share_in(part.id, defrosts[0]) if defrosts else None
        if share is None or modes[0] in defrosts:
            return
        self._add("no defrost", np.clip((0.85 - share) / 0.4, 0, 1))
        self._add("endless defrost", self._on_in(modes[0], part.id) > 0.3)

    def _on_in(self, mode: str, load: str) -> Floats:
        """Its watts in a mode as a share of its most."""
        found: Floats = (self.running.of(mode, load) / max(self.full(load), LEAST_WATTS))[self._row]
        return found

    def _module(self, part: Component) -> None:
        share = self.share(part.id)
        if share is not None:
            for zone in self.serves(part):
                self._add(f"no cold {zone}", np.clip((0.8 - share) / 0.5, 0, 1))

    def _lamp(self, part: Component) -> None:
        share = self.share(part.id)
        if share is not None:
            self._add("light fails", (share < RUNS) | (share > STALLS))
        on = self._on_in(self.running.modes[0], part.id)
        if self.full(part.id) > LEAST_WATTS and on[0] < 0.1:
            for zone in self.serves(part):
                self._add(f"lamp stays on {zone}", on > 0.5)

    def _damper(self, part: Component) -> None:
        """Without its motor it stays as it stood."""
        share = self.share(part.id)
        if share is not None:
            for zone in self.serves(part):
                self._add(f"shut off {zone}", 0.5 * (share < RUNS))
                self._add(f"stands open {zone}", 0.5 * (share < RUNS))

    def _flap(self, part: Component) -> None:
        share = self.share(part.id)
        if share is not None:
            self._add("dispenser drags", share > STALLS)
            self._add("dispenser fails", (share < RUNS) | (share > STALLS))

    def _valve(self, part: Component) -> None:
        """One that sends the refrigerant, where the unit cools with it on; another lets water in."""
        share, on = self.share(part.id), self._on_in(self.running.modes[0], part.id)
        if share is None:
            return
        if on[0] > 0.3:
            for zone in part.serves:
                self._add(f"no cold {zone}", 0.9 * (share < RUNS))
        else:
            self._add("water runs", on > 0.5)
            self._add("dispenser fails", share < RUNS)

    def _compressor(self, part: Component) -> None:
        loads = [name for name in self.running.loads if name.startswith(f"{part.id}.")]
        loads = [name for name in loads if not name.endswith(".start")]
        shares = [share for name in loads if (share := self.share(name)) is not None]
        if not shares:
            return
        least, most = np.minimum.reduce(shares), np.maximum.reduce(shares)
        locked = ((most > STALLS) & (least > RUNS)) | self._never_settles({K.OVERLOAD, K.COMPRESSOR})
        unfed = ((least < RUNS) | (most > STALLS)) & ~locked
        self._add("compressor locked", locked)
        self._add("compressor unfed", unfed)
        self._add("compressor still", unfed | locked)
        if "cut_out" in self.running.modes:
            self._add("never stops", self._on_in("cut_out", loads[0]) > RUNS)

    def _never_settles(self, kinds: set[ComponentKind]) -> npt.NDArray[np.bool_]:
        """Which hypotheses have a part of these kinds coming and going for ever."""
        names = tuple(part.name.lower() for part in self.sheet.components if part.kind in kinds)
        rows = [
            row
            for (_, row), found in self.running.unsettled.items()
            if names and any(name.lower().startswith(names) for name in found)
        ]
        return np.isin(self._row, rows) & (self._row > 0)

    def _supplies(self) -> None:
        """Rails that pulse or sag, and a house that has tripped."""
        rows = [row for _, row in self.running.unsettled]
        pulses = np.isin(self._row, rows) & (self._row > 0)
        self._add("rail pulses", pulses & ~self._never_settles({K.OVERLOAD, K.COMPRESSOR}))
        house = [
            row for (_, row), words in self.running.tripped.items() if any("house" in each for each in words)
        ]
        self._add("trips the house", np.isin(self._row, house))
        for rail, _ in self._rails:
            share = self.rail_share(rail.id)
            self._add("rail low", (share < LOW_SHARE) & (share > GONE_SHARE))
        plug = self.running.plug
        self._add("no power", np.all(plug < 0.15 * plug[:, :1], axis=0)[self._row])

    def rail_share(self, rail: str) -> Floats:
        """A rail's lowest volts in any mode, as a share of what it should have there."""
        volts = self.rail_volts(rail)
        with np.errstate(divide="ignore", invalid="ignore"):
            share = np.where(volts[:, :1] > 0, volts / volts[:, :1], 1.0)
        lowest: Floats = share.min(axis=0)
        return lowest

    def rail_volts(self, rail: str) -> Floats:
        """A rail's volts (modes × H)."""
        at = next(number for number, (item, _) in enumerate(self._rails) if item.id == rail)
        found: Floats = self.running.volts[:, :, len(self._inputs) + at][:, self._row]
        return found

    def signal_lost(self, name: str) -> npt.NDArray[np.bool_]:
        """Whether a signal no longer reaches its board: its volts stand elsewhere than they should."""
        if name not in self._wires:
            return np.zeros(len(self.known), bool)
        first = len(self._inputs) + len(self._rails) + list(self._wires).index(name)
        volts = self.running.volts[0, :, first]
        if abs(volts[0]) < LEAST_VOLTS:
            return np.zeros(len(self.known), bool)
        return np.asarray(np.abs((volts / volts[0])[self._row] - 1) > SIGNAL_SHARE)

    def turning(self, fan: Component) -> Floats:
        """The hertz a fan's tachometer gives at its board, as a share of a sound one's."""
        share = self.share(fan.id)
        lost = self.signal_lost(f"{fan.id}.tach") | (self.having(fan.id, {"seized", "tachometer_lost"}) > 0)
        still = np.zeros(len(self.known), bool) if share is None else (share < RUNS) | (share > STALLS)
        slow = 1 - SLOWED * self.having(fan.id, {"stiff"})
        found: Floats = np.where(lost | still, 0.0, slow)
        return found

    # What the board believes.

    def _sensors(self) -> None:
        for number, channel in enumerate(self._inputs):
            sensor = self.sheet.sensor(channel.sensor)
            share = self.running.volts[0, :, number] / channel.reference_volts
            share = np.clip(share, 1e-6, 1 - 1e-6)
            ohms = (channel.pullup_ohms * share / (1 - share))[self._row]
            curve = self.sheet.curve(sensor)
            low, high = (min(max(end, curve.domain[0]), curve.domain[1]) for end in BOARD_CELSIUS)
            ends = sorted(curve.ohms([low, high]).tolist())
            few, back = np.unique(np.clip(ohms, *ends), return_inverse=True)  # most faults leave it as it is
            believed = np.array([curve.celsius(float(value)) for value in few])[back]
            off = believed - believed[0]
            opened, shorted = ohms > BEYOND * ends[1], ohms < ends[0] / BEYOND
            self._add(f"open {sensor.id}", opened)
            self._add(f"short {sensor.id}", shorted)
            self.kelvin[sensor.id] = off
            if sensor.role not in {Role.CABINET, Role.MODULE}:
                continue
            lost = opened | shorted
            warm, cold = (off > BELIEVED_KELVIN) & ~lost, (off < -BELIEVED_KELVIN) & ~lost
            zones = self.serves(self.sheet.component(sensor.component))
            if any(self._controls(zone) == sensor.id for zone in zones):
                self._add("believed cold", cold)
            for zone in zones:
                # A board that knows its sensor is lost runs by the clock.
                self._add(f"believed warm {zone}", warm + LOST * lost)
                self._add(f"believed cold {zone}", cold + LOST * lost)

    def _controls(self, zone: str) -> str:
        """The sensor a compartment is controlled by: the one in it, else the first inside it that holds a
        setting."""
        holding = [item for item in self.sheet.sensors if item.set_point_celsius is not None]
        inside = [item for item in holding if zone in self.serves(self.sheet.component(item.component))]
        own = [item for item in inside if self.sheet.component(item.component).place == zone]
        return next((item.id for item in (*own, *inside)), "")

    # What faults without a circuit, and moving parts, say.

    def _of_faults(self) -> None:
        parts = {part.id: part for part in self.sheet.components}
        for place, item in enumerate(self.known.all):
            if item.fault is None:
                continue
            one = self.none
            one[place] = 1.0
            if item.fault.mode in PLAIN and not item.fault.acts:
                self._add(PLAIN[item.fault.mode], one)
            part = parts.get(item.component)
            if part and item.fault.mode == "misplaced":
                for zone in self.serves(part):
                    self._add(f"bulb misplaced {zone}", one)
                    self._add("control misplaced", one)
            for cause, chance in MECHANICAL.get((part.kind, item.fault.mode), ()) if part else ():
                self._mechanical(parts[item.component], cause, chance * one)
        self._tired()

    def _tired(self) -> None:
        """A rail whose capacitor has dried does now and then what the same rail dead does all the time."""
        for place, item in enumerate(self.known.all):
            dead = item.fault and self.known.place.get(item.id.replace("dry_capacitor", "dead_rail"))
            if not dead or dead == place:
                continue
            one = self.none
            one[place] = 1.0
            for name, chance in list(self.causes.items()):
                for begins, share in FAILS_WITH_ITS_RAIL.items():
                    if name.startswith(begins):
                        self._add(name, share * chance[dead] * one)

    def _mechanical(self, part: Component, cause: str, chance: Floats) -> None:
        zones = self.serves(part)
        if cause == "still":
            self._stands(part, chance)
        elif cause == "slow":
            for name in [f"fan slow {zone}" for zone in zones]:
                self._add(name, chance)
        elif cause in {"shut off", "stands open"}:
            for zone in zones:
                self._add(f"{cause} {zone}", chance)
        else:
            self._add(cause, chance)
            if cause == "compressor locked":
                self._add("compressor still", chance)

    def having(self, component: str, modes: set[str]) -> Floats:
        """Which hypotheses are faults of a component in one of these modes."""
        found = self.none
        for place, item in enumerate(self.known.all):
            if item.fault and item.component == component and item.fault.mode in modes:
                found[place] = 1.0
        return found


SLOWED = 0.3
"""So much slower a stiff fan turns."""

PUMPS_BACK = 0.85
"""A module whose hot side no fan cools no longer cools, this often."""

LEAST_VOLTS, SIGNAL_SHARE = 0.2, 0.3
"""A signal below the first can't be missed; one further off than the second share of itself is lost."""

LOST = 0.25
"""How likely a compartment goes wrong either way once its board has lost the sensor."""
