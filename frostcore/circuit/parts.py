"""Each kind of component as branches of the circuit.

One function a kind; the table at the end says which. Sources of the figures: ``V²/P`` for loads with a
rating; running motors as R + jωL from watts, volts and power factor; a motor at standstill by its
winding's resistance with the inductance of a locked rotor (``LOCKED_TIMES`` the running current).
"""

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from frostcore.circuit.element import (
    Analysis,
    Branch,
    BranchKind,
    CircuitError,
    Control,
    Impedance,
    Sense,
    States,
    coil,
    motor,
)
from frostcore.sheet.model import Component, ComponentKind, Mode, Sheet

CONTACT_OHMS = 0.05
WIRE_OHMS_PER_METRE = 0.035
JOINT_OHMS = 0.01
ROOM_CELSIUS = 20.0
POWER_FACTOR = {ComponentKind.FAN_AC: 0.6, ComponentKind.COMPRESSOR: 0.75, ComponentKind.AUGER_MOTOR: 0.65}
LOCKED_TIMES = {ComponentKind.FAN_AC: 1.6, ComponentKind.COMPRESSOR: 5.0, ComponentKind.AUGER_MOTOR: 3.0}
STARTING_AMPERES = 0.5
"""Below this in its start winding a compressor does not turn."""

HOT_PTC_OHMS = 15e3
DC_FAN_STARTS, DC_FAN_STOPS = 0.6, 0.5
"""A brushless fan starts at this share of its volts, and stops below the other."""

DC_FAN_IDLE_OHMS = 33e3
TACH_OHMS = 10e3
"""A turning fan's open-collector output, open half of the time, drawn as the resistance that gives its
pull-up's mean."""

SPEED_INPUT_OHMS = 47e3
INVERTER_VOLTS = 38.0
"""Phase volts an inverter gives its compressor at middle speed."""


@dataclass(frozen=True)
class Scene:
    """What the parts need to know: the sheet, the mode it is in, and which terminals are wired."""

    sheet: Sheet
    mode: Mode
    wired: frozenset[str]

    @property
    def omega(self) -> float:
        """Angular frequency of the mains."""
        return 2 * math.pi * self.sheet.plate.mains_hertz

    @property
    def volts(self) -> float:
        """Mains volts by the rating plate."""
        return self.sheet.plate.mains_volts

    def node(self, component: Component, terminal: str) -> str:
        """The node a terminal lies on."""
        return (component.terminals or {}).get(terminal, f"{component.id}.{terminal}")

    def has(self, component: Component, terminal: str) -> bool:
        """Whether anything is connected to a terminal."""
        return terminal in (component.terminals or {}) or f"{component.id}.{terminal}" in self.wired

    def celsius(self, component: Component) -> float:
        """The temperature of the place a component sits in."""
        given, place = self.mode.celsius or {}, component.place
        while place and place not in given:
            place = self.sheet.place(place).inside
        return given.get(place, ROOM_CELSIUS)

    def position(self, component: Component, rest: str) -> str:
        """How a contact or knob stands in this mode."""
        return (self.mode.positions or {}).get(component.id, component.rest or rest)


def need(component: Component, name: str) -> float:
    """A rated value the kind can't do without; CircuitError naming it."""
    value = getattr(component.nominal, name)
    if value is None:
        message = (
            f"The sheet gives no {name} for {component.name.lower()} ({component.id}), a"
            f" {component.kind.replace('_', ' ')}; write it under nominal."
        )
        raise CircuitError(message)
    return value


def tolerance(component: Component) -> float:
    """The component's tolerance, else the usual tenth."""
    return 0.1 if component.nominal.tolerance is None else component.nominal.tolerance


def _branch(  # noqa: PLR0913 -- a branch has that many properties
    scene: Scene,
    component: Component,
    ends: tuple[str, str],
    kind: BranchKind,
    states: States,
    start: str,
    *,
    sub: str = "",
    control: Control | None = None,
    traced: bool | None = None,
) -> Branch:
    """A branch of a component; loads and resistors are traced unless told otherwise."""
    return Branch(
        f"{component.id}.{sub}" if sub else component.id,
        scene.node(component, ends[0]),
        scene.node(component, ends[1]),
        kind,
        component.id,
        f"{component.name}, {sub}" if sub else component.name,
        states,
        start,
        control,
        traced=kind in {BranchKind.LOAD, BranchKind.RESISTOR} if traced is None else traced,
    )


def _contact(ohms: float = CONTACT_OHMS) -> States:
    return {"closed": Impedance(ohms, tolerance=0.5), "open": None}


def heater(scene: Scene, component: Component) -> Iterator[Branch]:
    """A plain resistance."""
    yield _branch(
        scene,
        component,
        ("1", "2"),
        BranchKind.LOAD,
        {"": Impedance(need(component, "ohms"), tolerance=tolerance(component))},
        "",
    )


def fuse(scene: Scene, component: Component) -> Iterator[Branch]:
    """Closed until it blows."""
    yield _branch(scene, component, ("1", "2"), BranchKind.CONTACT, _contact(), "closed")


def bimetal(scene: Scene, component: Component) -> Iterator[Branch]:
    """Closed when colder than its reset temperature, open above its opening one, between the two still
    closed from the cold."""
    start = "open" if scene.celsius(component) >= need(component, "opens_celsius") else "closed"
    yield _branch(scene, component, ("1", "2"), BranchKind.CONTACT, _contact(), start)


def thermostat(scene: Scene, component: Component) -> Iterator[Branch]:
    """Closed (cooling) unless colder than its cut-out."""
    start = scene.position(component, "") or (
        "open" if scene.celsius(component) <= need(component, "opens_celsius") else "closed"
    )
    yield _branch(scene, component, ("1", "2"), BranchKind.CONTACT, _contact(), start)


def door_switch(scene: Scene, component: Component) -> Iterator[Branch]:
    """A contact that stands as the mode's door does."""
    start = scene.position(component, "open")
    yield _branch(scene, component, ("1", "2"), BranchKind.CONTACT, _contact(), start, traced=True)


def thermistor(scene: Scene, component: Component) -> Iterator[Branch]:
    """The sensor's curve at the temperature of its place; three kelvin of doubt ride in its tolerance."""
    sensor = next((item for item in scene.sheet.sensors if item.component == component.id), None)
    if sensor is None:
        return
    curve, celsius = scene.sheet.curve(sensor), scene.celsius(component)
    low, high = curve.domain
    ohms, around = curve.ohms([min(max(value, low), high) for value in (celsius, celsius - 3.0)]).tolist()
    doubt = sensor.working_tolerance + abs(around / ohms - 1)
    yield _branch(scene, component, ("1", "2"), BranchKind.LOAD, {"": Impedance(ohms, tolerance=doubt)}, "")


def fan_ac(scene: Scene, component: Component) -> Iterator[Branch]:
    """A shaded-pole fan or a geared motor on mains: standstill and running."""
    rated = component.nominal.volts or scene.volts
    factor = component.nominal.power_factor or POWER_FACTOR[component.kind]
    running = motor(need(component, "watts"), rated, factor, scene.omega, tolerance(component))
    locked = abs(complex(running.ohms, scene.omega * running.henries)) / LOCKED_TIMES[component.kind]
    ohms = need(component, "ohms")
    states: States = {
        "standstill": Impedance(
            ohms, math.sqrt(max(locked**2 - ohms**2, 0.0)) / scene.omega, tolerance=tolerance(component)
        ),
        "running": running,
    }
    sense = Sense(
        Analysis.AC, 0.6 * rated, 0.4 * rated, scene.node(component, "1"), scene.node(component, "2")
    )
    yield _branch(
        scene,
        component,
        ("1", "2"),
        BranchKind.LOAD,
        states,
        "standstill",
        control=Control("running", "standstill", senses=(sense,)),
    )


def valve(scene: Scene, component: Component) -> Iterator[Branch]:
    """A coil: on mains with its inductance, on a rail its resistance alone."""
    rated, ohms, within = (
        component.nominal.volts or scene.volts,
        need(component, "ohms"),
        tolerance(component),
    )
    watts = component.nominal.watts
    impedance = (
        coil(ohms, watts, rated, scene.omega, within)
        if rated > 60 and watts
        else Impedance(ohms, tolerance=within)
    )
    yield _branch(scene, component, ("1", "2"), BranchKind.LOAD, {"": impedance}, "")


def fan_dc(scene: Scene, component: Component) -> Iterator[Branch]:
    """A brushless fan: its electronics at rest, V²/P turning.

    A tachometer and a speed command where they are wired.
    """
    volts, watts = need(component, "volts"), need(component, "watts")
    plus, minus = scene.node(component, "plus"), scene.node(component, "minus")
    senses = [Sense(Analysis.DC, DC_FAN_STARTS * volts, DC_FAN_STOPS * volts, plus, minus)]
    if scene.has(component, "speed"):
        senses.append(Sense(Analysis.DC, 1.0, 0.8, scene.node(component, "speed"), minus))
        yield _branch(
            scene,
            component,
            ("speed", "minus"),
            BranchKind.RESISTOR,
            {"": Impedance(SPEED_INPUT_OHMS, tolerance=0.3)},
            "",
            sub="speed",
        )
    turning = Control("turning", "at rest", senses=tuple(senses))
    states: States = {
        "at rest": Impedance(DC_FAN_IDLE_OHMS, tolerance=0.6),
        "turning": Impedance(volts**2 / watts, tolerance=0.2),
        "seized": Impedance(volts**2 / watts / 2.2, tolerance=0.3),
    }
    yield _branch(scene, component, ("plus", "minus"), BranchKind.LOAD, states, "at rest", control=turning)
    if scene.has(component, "tach"):
        pulses: States = {"still": None, "pulses": Impedance(TACH_OHMS, tolerance=0.2)}
        yield _branch(
            scene,
            component,
            ("tach", "minus"),
            BranchKind.RESISTOR,
            pulses,
            "still",
            sub="tach",
            control=Control("pulses", "still", senses=tuple(senses)),
        )


def compressor(scene: Scene, component: Component) -> Iterator[Branch]:
    """Single-phase run and start windings to a common, or three phases to a star point."""
    if scene.has(component, "u"):
        half = need(component, "ohms") / 2
        for phase in ("u", "v", "w"):
            yield _branch(
                scene,
                component,
                (phase, "star"),
                BranchKind.LOAD,
                {"": Impedance(half, 35.0 / scene.omega, tolerance=tolerance(component))},
                "",
                sub=phase,
            )
        return
    rated, within = component.nominal.volts or scene.volts, tolerance(component)
    running = motor(
        need(component, "watts"),
        rated,
        component.nominal.power_factor or POWER_FACTOR[component.kind],
        scene.omega,
        within,
    )
    locked = abs(complex(running.ohms, scene.omega * running.henries)) / LOCKED_TIMES[component.kind]
    ohms, start_ohms = need(component, "ohms"), need(component, "start_ohms")
    still = Impedance(ohms, math.sqrt(max(locked**2 - ohms**2, 0.0)) / scene.omega, tolerance=within)
    run, common = scene.node(component, "run"), scene.node(component, "common")
    senses = (
        Sense(Analysis.AC, 0.6 * rated, 0.45 * rated, run, common),
        Sense(Analysis.AC, STARTING_AMPERES, 0.0, branch=f"{component.id}.start"),
    )
    control = Control("running", "standstill", senses=senses, restarts=True)
    yield _branch(
        scene,
        component,
        ("run", "common"),
        BranchKind.LOAD,
        {"standstill": still, "running": running},
        "standstill",
        sub="run",
        control=control,
    )
    yield _branch(
        scene,
        component,
        ("start", "common"),
        BranchKind.LOAD,
        {"": Impedance(start_ohms, tolerance=within)},
        "",
        sub="start",
    )


def start_device(scene: Scene, component: Component) -> Iterator[Branch]:
    """A PTC: cold a few tens of ohms, hot after the start."""
    a, b = scene.node(component, "1"), scene.node(component, "2")
    control = Control("hot", "cold", senses=(Sense(Analysis.AC, 25.0, 25.0, a, b),), restarts=True)
    states: States = {
        "cold": Impedance(need(component, "ohms"), tolerance=tolerance(component)),
        "hot": Impedance(HOT_PTC_OHMS, tolerance=0.4),
    }
    yield _branch(scene, component, ("1", "2"), BranchKind.LOAD, states, "cold", control=control)


def overload(scene: Scene, component: Component) -> Iterator[Branch]:
    """Closed until the current through it trips it.

    A start is over before it is warm, so it watches the settled current.
    """
    states = _contact(component.nominal.ohms or CONTACT_OHMS)
    trips = Sense(Analysis.AC, need(component, "amperes"), 0.0, branch=component.id)
    yield _branch(
        scene,
        component,
        ("1", "2"),
        BranchKind.CONTACT,
        states,
        "closed",
        control=Control("closed", "open", senses=(trips,), latched=True),
    )


def run_capacitor(scene: Scene, component: Component) -> Iterator[Branch]:
    """A capacitor with a little series resistance."""
    yield _branch(
        scene,
        component,
        ("1", "2"),
        BranchKind.LOAD,
        {"": Impedance(0.5, farads=need(component, "farads"), tolerance=tolerance(component))},
        "",
    )


def damper(scene: Scene, component: Component) -> Iterator[Branch]:
    """A small motor, and the micro-switch that tells its end position where one is wired."""
    yield _branch(
        scene,
        component,
        ("a", "b"),
        BranchKind.LOAD,
        {"": Impedance(need(component, "ohms"), tolerance=tolerance(component))},
        "",
    )
    if scene.has(component, "switch"):
        start = "closed" if scene.position(component, "closed") == "open" else "open"
        yield _branch(
            scene,
            component,
            ("switch", "switch_return"),
            BranchKind.CONTACT,
            _contact(),
            start,
            sub="micro-switch",
            traced=True,
        )


def lamp(scene: Scene, component: Component) -> Iterator[Branch]:
    """A filament on mains (a tenth of its hot resistance when cold), diodes on a rail (which tell an
    ohmmeter little)."""
    volts, watts = need(component, "volts"), need(component, "watts")
    a, b = ("1", "2") if volts > 60 else ("plus", "minus")
    lit = volts**2 / watts
    dark = component.nominal.ohms or (lit / 10 if volts > 60 else 22e3)
    sense = Sense(
        Analysis.AC if volts > 60 else Analysis.DC,
        0.6 * volts,
        0.4 * volts,
        scene.node(component, a),
        scene.node(component, b),
    )
    states: States = {"dark": Impedance(dark, tolerance=0.4), "lit": Impedance(lit, tolerance=0.1)}
    yield _branch(
        scene,
        component,
        (a, b),
        BranchKind.LOAD,
        states,
        "dark",
        control=Control("lit", "dark", senses=(sense,)),
    )


def module(scene: Scene, component: Component) -> Iterator[Branch]:
    """A thermoelectric module: its resistance at rest.

    Pumping, its own thermal voltage makes it look larger (V²/P).
    """
    volts, within = need(component, "volts"), tolerance(component)
    sense = Sense(
        Analysis.DC, 0.3 * volts, 0.3 * volts, scene.node(component, "plus"), scene.node(component, "minus")
    )
    states: States = {
        "at rest": Impedance(need(component, "ohms"), tolerance=within),
        "pumping": Impedance(volts**2 / need(component, "watts"), tolerance=within),
    }
    yield _branch(
        scene,
        component,
        ("plus", "minus"),
        BranchKind.LOAD,
        states,
        "at rest",
        control=Control("pumping", "at rest", senses=(sense,)),
    )


def potentiometer(scene: Scene, component: Component) -> Iterator[Branch]:
    """A track in two halves that meet where the wiper stands, and the wiper's own contact."""
    turn, ohms = float(scene.position(component, "") or 0.5), need(component, "ohms")
    for sub, share in (("a", turn), ("b", 1 - turn)):
        yield _branch(
            scene,
            component,
            (sub, "track"),
            BranchKind.LOAD,
            {"": Impedance(max(ohms * share, 1.0), tolerance=tolerance(component))},
            "",
            sub=sub,
        )
    yield _branch(
        scene,
        component,
        ("track", "wiper"),
        BranchKind.CONTACT,
        {"": Impedance(5.0, tolerance=0.5)},
        "",
        sub="wiper",
    )


def defrost_timer(scene: Scene, component: Component) -> Iterator[Branch]:
    """A changeover contact and the clock motor that turns it."""
    stands = scene.position(component, "") or "cool"
    for way in ("cool", "defrost"):
        yield _branch(
            scene,
            component,
            ("common", way),
            BranchKind.CONTACT,
            _contact(),
            "closed" if stands == way else "open",
            sub=way,
        )
    yield _branch(
        scene,
        component,
        ("common", "motor"),
        BranchKind.LOAD,
        {"": Impedance(need(component, "ohms"), tolerance=tolerance(component))},
        "",
        sub="motor",
    )


def display(scene: Scene, component: Component) -> Iterator[Branch]:
    """A small load on its rail, with a data line that idles high."""
    if not scene.has(component, "plus"):
        return
    volts, watts = component.nominal.volts or 5.0, component.nominal.watts or 0.8
    yield _branch(
        scene,
        component,
        ("plus", "minus"),
        BranchKind.LOAD,
        {"": Impedance(volts**2 / watts, tolerance=0.3)},
        "",
    )
    if scene.has(component, "data"):
        yield _branch(
            scene,
            component,
            ("data", "minus"),
            BranchKind.RESISTOR,
            {"": Impedance(100e3, tolerance=0.3)},
            "",
            sub="data",
        )


def inverter(scene: Scene, component: Component) -> Iterator[Branch]:
    """Needs mains and a command; gives three phases.

    Drawn at mains frequency: only volts between phases mean anything.
        ``watts`` is what it draws while it drives the compressor.
    """
    live, neutral, command, back = (scene.node(component, name) for name in ("l", "n", "command", "return"))
    mains = Sense(Analysis.AC, 0.7 * scene.volts, 0.6 * scene.volts, live, neutral)
    both = (mains, Sense(Analysis.DC, 2.2, 1.8, command, back))
    on = Control("on", "off", senses=(mains,))
    drives = Control("on", "off", senses=both)
    idle: States = {
        "off": Impedance(470e3, tolerance=0.3),
        "on": Impedance(scene.volts**2 / 2.5, tolerance=0.3),
    }
    yield _branch(scene, component, ("l", "n"), BranchKind.LOAD, idle, "off", sub="supply", control=on)
    draw: States = {"off": None, "on": Impedance(scene.volts**2 / need(component, "watts"), tolerance=0.4)}
    # What feeds the phases is seen at the phases, and no lead reaches the bus.
    yield _branch(
        scene, component, ("l", "n"), BranchKind.LOAD, draw, "off", sub="drive", control=drives, traced=False
    )
    yield _branch(
        scene,
        component,
        ("command", "return"),
        BranchKind.LOAD,
        {"": Impedance(1500.0, tolerance=0.2)},
        "",
        sub="command",
    )
    yield _branch(
        scene,
        component,
        ("bus", "n"),
        BranchKind.RESISTOR,
        {"": Impedance(220e3, tolerance=0.3)},
        "",
        sub="bus",
        traced=False,
    )
    for turn, phase in enumerate(("u", "v", "w")):
        angle = -2 * math.pi * turn / 3
        given = INVERTER_VOLTS * complex(math.cos(angle), math.sin(angle))
        states: States = {
            "off": Impedance(1e6, tolerance=0.5),
            "on": Impedance(0.4, ac_volts=given, tolerance=0.5, source_tolerance=0.4),
        }
        yield _branch(
            scene, component, (phase, "bus"), BranchKind.SOURCE, states, "off", sub=phase, control=drives
        )


def power_supply(scene: Scene, component: Component) -> Iterator[Branch]:
    """Mains in, a rail out."""
    live, neutral = scene.node(component, "l"), scene.node(component, "n")
    fed = Control(
        "on", "off", senses=(Sense(Analysis.AC, 0.6 * scene.volts, 0.5 * scene.volts, live, neutral),)
    )
    idle: States = {
        "off": Impedance(680e3, tolerance=0.3),
        "on": Impedance(scene.volts**2 / 2.0, tolerance=0.3),
    }
    yield _branch(scene, component, ("l", "n"), BranchKind.LOAD, idle, "off", sub="input", control=fed)
    volts = need(component, "volts")
    rail: States = {
        "off": Impedance(1000.0, tolerance=0.5),
        "on": Impedance(0.06, dc_volts=volts, tolerance=0.5, source_tolerance=0.04),
    }
    yield _branch(
        scene, component, ("plus", "minus"), BranchKind.SOURCE, rail, "off", sub="output", control=fed
    )


def plug(scene: Scene, component: Component) -> Iterator[Branch]:
    """Three pins and their lead, from the wall to the unit."""
    for pin in ("l", "n", "e"):
        node = "earth" if pin == "e" else scene.node(component, pin)
        yield Branch(
            f"{component.id}.{pin}",
            f"wall_{pin}",
            node,
            BranchKind.WIRE,
            component.id,
            f"{component.name}, {pin.upper()}",
            _contact(0.08),
            "closed",
        )


Maker = Callable[[Scene, Component], Iterator[Branch]]

PARTS: dict[ComponentKind, Maker] = {
    ComponentKind.AUGER_MOTOR: fan_ac,
    ComponentKind.BIMETAL: bimetal,
    ComponentKind.COMPRESSOR: compressor,
    ComponentKind.DAMPER: damper,
    ComponentKind.DEFROST_TIMER: defrost_timer,
    ComponentKind.DISPLAY: display,
    ComponentKind.DOOR_SWITCH: door_switch,
    ComponentKind.FAN_AC: fan_ac,
    ComponentKind.FAN_DC: fan_dc,
    ComponentKind.FLAP_MOTOR: damper,
    ComponentKind.FUSE: fuse,
    ComponentKind.HEATER: heater,
    ComponentKind.INVERTER: inverter,
    ComponentKind.LAMP: lamp,
    ComponentKind.MODULE: module,
    ComponentKind.OVERLOAD: overload,
    ComponentKind.PLUG: plug,
    ComponentKind.POTENTIOMETER: potentiometer,
    ComponentKind.POWER_SUPPLY: power_supply,
    ComponentKind.RUN_CAPACITOR: run_capacitor,
    ComponentKind.START_DEVICE: start_device,
    ComponentKind.THERMAL_FUSE: fuse,
    ComponentKind.THERMISTOR: thermistor,
    ComponentKind.THERMOSTAT: thermostat,
    ComponentKind.VALVE: valve,
}
"""The maker of each kind's branches; kinds that are not here (seals, the sealed system, the harness,
boards) have none of their own."""
