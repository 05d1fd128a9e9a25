"""What a fault does to a plant: which of its loads stand or never stop, by the settled circuit; what its
board believes; and what has no circuit (a charge, a seal, dirt).

Many faults do the same to temperatures: what they do is their thermal class (:class:`Broken`), and a log
parts classes, not faults.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from frostcore.curves.verdict import Role
from frostcore.faults.known import Fault
from frostcore.faults.running import LEAST_WATTS, ON, RUNS, STALLS, Running, running
from frostcore.sheet.electrical import SensorInput
from frostcore.sheet.model import Sheet
from frostcore.thermal.of_sheet import felt
from frostcore.thermal.plant import Thermal


@dataclass(frozen=True)
class Broken:
    """What is otherwise than sound: loads that stand, loads that never stop, what the sensors of places are
    off by (K), and changes by name (:data:`CHANGES`)."""

    stands: frozenset[str] = frozenset()
    runs_on: frozenset[str] = frozenset()
    off: tuple[tuple[str, float], ...] = ()
    changes: tuple[str, ...] = ()


SOUND = Broken()


def _compressor(**by: float) -> Callable[[Thermal], Thermal]:
    def change(plant: Thermal) -> Thermal:
        if plant.compressor is None:
            return plant
        figures = plant.compressor.map
        figures = replace(
            figures,
            strength=figures.strength * by.get("strength", 1.0),
            takes=figures.takes * by.get("takes", 1.0),
        )
        return replace(plant, compressor=replace(plant.compressor, map=figures))

    return change


def _seal(plant: Thermal) -> Thermal:
    rooms = tuple(
        replace(room, seal=room.seal * 9, leak_vapour=room.leak_vapour * 6) for room in plant.compartments[:1]
    )
    return replace(plant, compartments=(*rooms, *plant.compartments[1:]))


def _dirty(share: float) -> Callable[[Thermal], Thermal]:
    def change(plant: Thermal) -> Thermal:
        modules = tuple(replace(each, sink_sheds=each.sink_sheds * share) for each in plant.modules)
        if plant.condenser is None:
            return replace(plant, modules=modules)
        own = plant.condenser
        return replace(plant, condenser=replace(own, runs=own.runs * share, stands=own.stands * share))

    return change


def _early(plant: Thermal) -> Thermal:
    return (
        plant.compressor and replace(plant, compressor=replace(plant.compressor, trips=40.0, resets=31.0))
    ) or plant


def _limps(plant: Thermal) -> Thermal:
    return (
        plant.compressor and replace(plant, compressor=replace(plant.compressor, limps=(150.0, 270.0)))
    ) or plant


def _misplaced(plant: Thermal) -> Thermal:
    return replace(plant, bulbs=tuple(replace(each, share=0.15, lag=900.0) for each in plant.bulbs))


def _no_end(plant: Thermal) -> Thermal:
    return replace(plant, defrost=replace(plant.defrost, ends=1e3, most=1e6))


def _never_due(plant: Thermal) -> Thermal:
    return replace(plant, defrost=replace(plant.defrost, kind="none"))


def _stuck(position: str) -> Callable[[Thermal], Thermal]:
    def change(plant: Thermal) -> Thermal:
        names = [face.damper for face in plant.evaporators if face.damper]
        return replace(plant, stuck=tuple((name, position) for name in names))

    return change


def _iced(plant: Thermal) -> Thermal:
    return replace(
        plant,
        evaporators=tuple(replace(face, frost_block=0.25 * face.frost_block) for face in plant.evaporators),
    )


CHANGES: dict[str, Callable[[Thermal], Thermal]] = {
    "charge_lost": _compressor(strength=0.03, takes=0.55),
    "charge_short": _compressor(strength=0.5, takes=0.75),
    "weak": _compressor(strength=0.55),
    "seal": _seal,
    "dirty": _dirty(0.5),
    "boxed_in": _dirty(0.6),
    "trips_early": _early,
    "limps": _limps,
    "bulb_misplaced": _misplaced,
    "defrost_endless": _no_end,
    "defrost_never": _never_due,
    "damper_open": _stuck("open"),
    "damper_closed": _stuck("closed"),
    "iced": _iced,
}
"""What no circuit tells, by name. The figures are an engineer's: a half charge, worn valves, a seal with a
gap along one side, a condenser felted over."""

OF_FAULT: dict[str, tuple[str, ...]] = {
    "sealed_system:charge_lost": ("charge_lost",),
    "sealed_system:capillary_blocked": ("charge_lost",),
    "sealed_system:charge_short": ("charge_short",),
    "compressor:weak": ("weak",),
    "compressor:stiff": ("limps",),
    "overload:trips_early": ("trips_early",),
    "door_seal:leaks": ("seal",),
    "unit:condenser_dirty": ("dirty",),
    "unit:boxed_in": ("boxed_in",),
    "unit:iced_coil": ("iced",),
    "unit:airway_blocked": ("damper_closed",),
    "damper:stuck": ("damper_open",),
    "damper:open": ("damper_closed",),
    "damper:duct_iced": ("damper_closed",),
    "thermostat:misplaced": ("bulb_misplaced",),
    "bimetal:welded": ("defrost_endless",),
    "defrost_timer:stuck_defrost": ("defrost_endless",),
    "defrost_timer:stuck_cool": ("defrost_never",),
    "defrost_timer:motor_open": ("defrost_never",),
}
"""Faults whose doing lies in time or outside the circuit."""


def broken_by(sheet: Sheet, plant: Thermal, faults: Sequence[Fault]) -> tuple[Broken, ...]:
    """The thermal class of each of some faults, as far as the sheet's plant knows the parts."""
    pairs = [
        (sheet.wiring.near(channel.pin), sheet.wiring.near(channel.return_pin)) for channel in _inputs(sheet)
    ]
    electric = [fault for fault in faults if fault.acts and not _changes(fault)]
    found = running(sheet, electric, pairs) if electric else None
    row = {fault.id: number for number, fault in enumerate(electric, 1)}
    return tuple(
        _by_circuit(
            sheet, plant, found, row[fault.id], locked=fault.component if fault.mode == LOCKED else ""
        )
        if found and fault.id in row
        else Broken(changes=_changes(fault))
        for fault in faults
    )


def _changes(fault: Fault) -> tuple[str, ...]:
    return OF_FAULT.get(f"{fault.component}:{fault.mode}", ()) or OF_FAULT.get(fault.id, ())


LOCKED = "seized"
"""A motor held fast; a shaded-pole one takes hardly more than turning, and no circuit tells."""


def _by_circuit(sheet: Sheet, plant: Thermal, found: Running, row: int, *, locked: str) -> Broken:
    known, stands, runs_on = plant.parts, {locked} & plant.motors, set()
    for load in found.loads:
        name = load.partition(".")[0]
        if name not in known:
            continue
        sound, now = (np.array([found.of(mode, load)[place] for mode in found.modes]) for place in (0, row))
        most = float(sound.max(initial=0.0))
        if most < LEAST_WATTS:
            continue
        asked = sound >= ON * most
        share = now[asked] / sound[asked]
        if ((share < RUNS) | ((share > STALLS) & (name in plant.motors))).all():
            stands.add(name)
        elif ((sound < OFF * most) & (now > ON * most)).any():
            runs_on.add(name)
    dampers = {face.damper for face in plant.evaporators if face.damper}
    stuck = ("damper_closed",) if stands & dampers else ()
    return Broken(
        frozenset(stands - dampers),
        frozenset(runs_on - dampers),
        _off(sheet, found.volts[0, [0, row]]),
        stuck,
    )


OFF = 0.05
"""With less than this share of its watts a load is off."""

FEW_KELVIN = 1.0


def _inputs(sheet: Sheet) -> list[SensorInput]:
    return [channel for board in sheet.boards for channel in board.sensor_inputs]


def _off(sheet: Sheet, volts: npt.NDArray[np.float64]) -> tuple[tuple[str, float], ...]:
    """What the board is off by (volts: sound and faulty × inputs), of sensors it still takes for sensors and
    cools by."""
    found = list[tuple[str, float]]()
    for number, channel in enumerate(_inputs(sheet)):
        sensor = sheet.sensor(channel.sensor)
        if sensor.role not in {Role.CABINET, Role.MODULE}:
            continue
        share = np.clip(volts[:, number] / channel.reference_volts, 1e-6, 1 - 1e-6)
        curve = sheet.curve(sensor)
        sound, now = (channel.pullup_ohms * share / (1 - share)).tolist()
        low, high = curve.ohms([curve.domain[1], curve.domain[0]]).tolist()
        if not low < now < high:
            continue
        by = float(curve.celsius(now)) - float(curve.celsius(sound))
        if abs(by) >= FEW_KELVIN:
            found += [(place, round(by, 1)) for place in felt(sheet, sheet.component(sensor.component))]
    return tuple(found)


def broken(plant: Thermal, by: Broken) -> Thermal:
    """A plant with what is broken about it."""
    for name in by.changes:
        plant = CHANGES[name](plant)
    off = dict(by.off)
    places = {f"bulb:{bulb.evaporator}": bulb.place for bulb in plant.bulbs}
    places |= {f"sensor:{room.place}": room.place for room in plant.compartments}
    loops = tuple(replace(loop, error=off.get(places.get(loop.senses, ""), 0.0)) for loop in plant.loops)
    return replace(plant, loops=loops, never_runs=plant.never_runs | by.stands, never_stops=by.runs_on)
