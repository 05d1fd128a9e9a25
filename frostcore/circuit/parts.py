"""Each kind of component as branches of the circuit.

One function a kind; the table at the end says which. Sources of the figures: ``V²/P`` for loads with a
rating; running motors as R + jωL from watts, volts and power factor; a motor at standstill by its
winding's resistance with the inductance of a locked rotor (``LOCKED_TIMES`` the running current).
"""

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace

from frostcore.circuit.element import (
    Analysis,
    Branch,
    BranchKind,
    CircuitError,
    Control,
    Impedance,
    Sense,
    States,
    Trip,
    coil,
    motor,
)
from frostcore.circuit.figures import (
    CAPACITOR_SERIES_OHMS,
    COLD_FILAMENT_SHARE,
    COMMANDS,
    CONDUCTOR_TOLERANCE,
    CONTACT_OHMS,
    DISPLAY_VOLTS,
    DISPLAY_WATTS,
    EXTRA_LOW_VOLTS,
    FUSE_AMPERES,
    FUSE_SECONDS,
    FUSE_TIMES,
    GROUND_OHMS,
    HICCUP_SECONDS,
    IDLE_WATTS,
    INVERTER_PHASE_OHMS,
    INVERTER_PHASE_TOLERANCE,
    INVERTER_VOLTS,
    JOINT_OHMS,
    LOCKED_TIMES,
    NEAR_DOUBT_KELVIN,
    OUTPUT_TAKES,
    OVERLOAD_RESETS_SECONDS,
    OVERLOAD_WARMS_SECONDS,
    PHASE_OHMS_REACTIVE,
    PLUG_LEAD_OHMS,
    POWER_FACTOR,
    POWER_FACTOR_DOUBT,
    RAIL_LIMIT_AMPERES,
    RANKS,
    RECTIFIER_FACTOR,
    ROOM_CELSIUS,
    SEIZED_TIMES,
    SENSOR_DOUBT_KELVIN,
    START_TAKES,
    STARTING_SHARE,
    SUPPLY_LIMIT_TIMES,
    SUPPLY_SOURCE_OHMS,
    SUPPLY_TOLERANCE,
    TOLERANCES,
    USUAL_TOLERANCE,
    swing,
    usual,
)
from frostcore.curves.verdict import DEFAULT_DOUBT_KELVIN
from frostcore.parts.thermostat import THERMOMETER_KELVIN, USUAL_DIFFERENTIAL, ContactKind, stands
from frostcore.sheet.electrical import EARTH
from frostcore.sheet.model import Component, ComponentKind, Mode, Sheet


@dataclass(frozen=True)
class Scene:
    """What the parts need to know: the sheet, the mode it is in, and which terminals are wired."""

    sheet: Sheet
    mode: Mode
    wired: frozenset[str]
    measured: Mapping[str, float] = field(default_factory=dict)
    """Places' temperatures by thermometer."""

    live: bool = True

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
        return component.node(terminal)

    def has(self, component: Component, terminal: str) -> bool:
        """Whether anything is connected to a terminal."""
        return terminal in (component.terminals or {}) or f"{component.id}.{terminal}" in self.wired

    def celsius(self, component: Component) -> float:
        """The temperature of the place a component sits in."""
        given = {**(self.mode.celsius or {}), **self.measured}
        return given.get(self._nearest(component.bulb_place or component.place, given), ROOM_CELSIUS)

    def _nearest(self, place: str, given: Mapping[str, float]) -> str:
        """The place itself, or the nearest around it, whose temperature is given; empty where none is."""
        while place and place not in given:
            place = self.sheet.place(place).inside
        return place

    def between(self, component: Component) -> tuple[float, float]:
        """The temperatures a component may have, lowest and highest, in °C.

        What is measured decides before what the mode says. A place inside one that was measured is as warm
        as that with the plug out; with the plug in it may be as cold as the mode says, too.
        """
        around = self._nearest(component.place, self.measured)
        if not around:
            usual = self.celsius(component)
            return usual - SENSOR_DOUBT_KELVIN, usual + SENSOR_DOUBT_KELVIN
        celsius = self.measured[around]
        if around == component.place:
            return celsius - THERMOMETER_KELVIN, celsius + THERMOMETER_KELVIN
        low = high = celsius
        if self.live:
            usual = (self.mode.celsius or {}).get(component.place, celsius)
            low, high = min(usual, celsius), max(usual, celsius)
        return low - NEAR_DOUBT_KELVIN, high + NEAR_DOUBT_KELVIN

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
    """The component's tolerance, else the usual one."""
    given = component.nominal.tolerance
    return USUAL_TOLERANCE if given is None else given


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
    may: str = "",
    metered: bool = True,
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
        may=may,
        metered=metered,
    )


def _factor(component: Component) -> tuple[float, float]:
    """The power factor of a rectifier's input, as the sheet gives it or as such inputs have it."""
    given = component.nominal.power_factor
    return RECTIFIER_FACTOR if given is None else (given, given)


def _running(scene: Scene, component: Component, rated: float) -> Impedance:
    """A motor that turns, by its watts, volts and power factor."""
    given, usual_factor = component.nominal.power_factor, POWER_FACTOR[component.kind]
    turning = motor(need(component, "watts"), rated, given or usual_factor, scene.omega, tolerance(component))
    doubt = (usual_factor - POWER_FACTOR_DOUBT, usual_factor + POWER_FACTOR_DOUBT)
    return replace(turning, power_factor=None if given else doubt)


def _contact(ohms: float = CONTACT_OHMS) -> States:
    return {"closed": Impedance(ohms, tolerance=CONDUCTOR_TOLERANCE), "open": None}


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
    """Closed until it blows, for good."""
    rated = component.nominal.amperes or FUSE_AMPERES
    sense = Sense(Analysis.AC, FUSE_TIMES * rated, 0.0, branch=component.id)
    blows = Trip((sense,), "open", f"{component.name} blows", RANKS["fuse"], seconds=FUSE_SECONDS)
    control = Control("closed", "open", trip=blows)
    yield _branch(scene, component, ("1", "2"), BranchKind.CONTACT, _contact(), "closed", control=control)


def thermal_fuse(scene: Scene, component: Component) -> Iterator[Branch]:
    """Closed until its place gets too hot, which nothing here does by itself."""
    yield _branch(scene, component, ("1", "2"), BranchKind.CONTACT, _contact(), "closed")


def bimetal(scene: Scene, component: Component) -> Iterator[Branch]:
    """Closed when colder than its reset temperature, open above its opening one; between the two, and near
    either, it may stand both ways."""
    opens, resets = need(component, "opens_celsius"), component.nominal.resets_celsius
    closes = opens - USUAL_DIFFERENTIAL if resets is None else resets
    expected = stands(ContactKind.BIMETAL, opens, closes, scene.between(component))
    start, may = ("closed", "open") if expected == "either" else (expected, "")
    yield _branch(scene, component, ("1", "2"), BranchKind.CONTACT, _contact(), start, may=may)


def thermostat(scene: Scene, component: Component) -> Iterator[Branch]:
    """Closed (cooling) unless colder than its cut-out."""
    start = scene.position(component, "") or (
        "open" if scene.celsius(component) <= need(component, "opens_celsius") else "closed"
    )
    yield _branch(scene, component, ("1", "2"), BranchKind.CONTACT, _contact(), start)


def door_switch(scene: Scene, component: Component) -> Iterator[Branch]:
    """A contact that stands as the mode's door does; a changeover's second, to terminal 3, the other way."""
    start = scene.position(component, "open")
    yield _branch(scene, component, ("1", "2"), BranchKind.CONTACT, _contact(), start, traced=True)
    if scene.has(component, "3"):
        other = "closed" if start == "open" else "open"
        yield _branch(scene, component, ("1", "3"), BranchKind.CONTACT, _contact(), other, sub="back")


def thermistor(scene: Scene, component: Component) -> Iterator[Branch]:
    """The sensor's curve at the temperature of its place; the doubt about that rides in its tolerance."""
    sensor = next((item for item in scene.sheet.sensors if item.component == component.id), None)
    if sensor is None:
        return
    curve, celsius = scene.sheet.curve(sensor), scene.celsius(component)
    doubt = DEFAULT_DOUBT_KELVIN if component.place in scene.measured else SENSOR_DOUBT_KELVIN
    low, high = curve.domain
    ohms, around = curve.ohms([min(max(value, low), high) for value in (celsius, celsius - doubt)]).tolist()
    within = sensor.working_tolerance + abs(around / ohms - 1)
    yield _branch(scene, component, ("1", "2"), BranchKind.LOAD, {"": Impedance(ohms, tolerance=within)}, "")


def fan_ac(scene: Scene, component: Component) -> Iterator[Branch]:
    """A shaded-pole fan or a geared motor on mains: standstill and running."""
    rated = component.nominal.volts or scene.volts
    running = _running(scene, component, rated)
    locked = abs(complex(running.ohms, scene.omega * running.henries)) / LOCKED_TIMES[component.kind]
    ohms = need(component, "ohms")
    states: States = {
        "standstill": Impedance(
            ohms, math.sqrt(max(locked**2 - ohms**2, 0.0)) / scene.omega, tolerance=tolerance(component)
        ),
        "running": running,
    }
    sense = Sense(
        Analysis.AC, *swing("motor on mains", rated), scene.node(component, "1"), scene.node(component, "2")
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
        if rated > EXTRA_LOW_VOLTS and watts
        else Impedance(ohms, tolerance=within)
    )
    yield _branch(scene, component, ("1", "2"), BranchKind.LOAD, {"": impedance}, "")


def fan_dc(scene: Scene, component: Component) -> Iterator[Branch]:
    """A brushless fan: its electronics at rest, V²/P turning.

    A tachometer and a speed command where they are wired.
    """
    volts, watts = need(component, "volts"), need(component, "watts")
    plus, minus = scene.node(component, "plus"), scene.node(component, "minus")
    senses = [Sense(Analysis.DC, *swing("fan on a rail", volts), plus, minus)]
    if scene.has(component, "speed"):
        senses.append(Sense(Analysis.DC, *COMMANDS["speed"], scene.node(component, "speed"), minus))
        yield _branch(
            scene,
            component,
            ("speed", "minus"),
            BranchKind.RESISTOR,
            {"": usual("speed input")},
            "",
            sub="speed",
        )
    turning = Control("turning", "at rest", senses=tuple(senses))
    states: States = {
        "at rest": usual("fan at rest"),
        "turning": Impedance(volts**2 / watts, tolerance=TOLERANCES["fan, turning"]),
        "seized": Impedance(volts**2 / watts / SEIZED_TIMES, tolerance=TOLERANCES["fan, seized"]),
    }
    yield _branch(scene, component, ("plus", "minus"), BranchKind.LOAD, states, "at rest", control=turning)
    if scene.has(component, "tach"):
        pulses: States = {"still": None, "pulses": usual("tachometer")}
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
                {"": Impedance(half, PHASE_OHMS_REACTIVE / scene.omega, tolerance=tolerance(component))},
                "",
                sub=phase,
                metered=False,
            )
        return
    rated, within = component.nominal.volts or scene.volts, tolerance(component)
    running = _running(scene, component, rated)
    across = abs(complex(running.ohms, scene.omega * running.henries))
    drawn, locked = rated / across, across / LOCKED_TIMES[component.kind]
    ohms, start_ohms = need(component, "ohms"), need(component, "start_ohms")
    still = Impedance(ohms, math.sqrt(max(locked**2 - ohms**2, 0.0)) / scene.omega, tolerance=within)
    run, common = scene.node(component, "run"), scene.node(component, "common")
    senses = (
        Sense(Analysis.AC, *swing("compressor", rated), run, common),
        Sense(Analysis.AC, STARTING_SHARE * drawn, 0.0, branch=f"{component.id}.start"),
    )
    takes = START_TAKES["compressor"]
    control = Control("running", "standstill", senses=senses, restarts=True, takes=takes)
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
    control = Control(
        "hot",
        "cold",
        senses=(Sense(Analysis.AC, *COMMANDS["start device"], a, b),),
        restarts=True,
        takes=START_TAKES["PTC"],
    )
    states: States = {
        "cold": Impedance(need(component, "ohms"), tolerance=tolerance(component)),
        "hot": usual("PTC, hot"),
    }
    yield _branch(scene, component, ("1", "2"), BranchKind.LOAD, states, "cold", control=control)


def overload(scene: Scene, component: Component) -> Iterator[Branch]:
    """Closed until the current through it trips it.

    A start is over before it is warm, so it watches the settled current.
    """
    states = _contact(component.nominal.ohms or CONTACT_OHMS)
    trip = Trip(
        (Sense(Analysis.AC, need(component, "amperes"), 0.0, branch=component.id),),
        "open",
        f"{component.name} trips",
        rank=RANKS["overload"],
        warms=OVERLOAD_WARMS_SECONDS,
        resets=OVERLOAD_RESETS_SECONDS,
    )
    yield _branch(
        scene,
        component,
        ("1", "2"),
        BranchKind.CONTACT,
        states,
        "closed",
        control=Control("closed", "open", trip=trip),
    )


def run_capacitor(scene: Scene, component: Component) -> Iterator[Branch]:
    """A capacitor with a little series resistance."""
    yield _branch(
        scene,
        component,
        ("1", "2"),
        BranchKind.LOAD,
        {
            "": Impedance(
                CAPACITOR_SERIES_OHMS, farads=need(component, "farads"), tolerance=tolerance(component)
            )
        },
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
    """A filament on mains (much lower when cold), diodes on a rail (which tell an ohmmeter little)."""
    volts, watts = need(component, "volts"), need(component, "watts")
    filament = volts > EXTRA_LOW_VOLTS
    a, b = ("1", "2") if filament else ("plus", "minus")
    lit = volts**2 / watts
    dark = Impedance(
        component.nominal.ohms or lit * COLD_FILAMENT_SHARE, tolerance=TOLERANCES["filament, cold"]
    )
    if not filament and component.nominal.ohms is None:
        dark = usual("diodes, dark")
    sense = Sense(
        Analysis.AC if filament else Analysis.DC,
        *swing("lamp", volts),
        scene.node(component, a),
        scene.node(component, b),
    )
    states: States = {"dark": dark, "lit": Impedance(lit, tolerance=TOLERANCES["lamp, lit"])}
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
        Analysis.DC, *swing("module", volts), scene.node(component, "plus"), scene.node(component, "minus")
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
        {"": usual("potentiometer's wiper")},
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


def switch(scene: Scene, component: Component) -> Iterator[Branch]:
    """A contact that stands as somebody put it."""
    start = scene.position(component, "closed")
    yield _branch(scene, component, ("1", "2"), BranchKind.CONTACT, _contact(), start)


def terminal(scene: Scene, component: Component) -> Iterator[Branch]:
    """A terminal block: every clamp that has a wire is joined to the first."""
    clamps = [clamp for clamp in CLAMPS if scene.has(component, clamp)]
    for clamp in clamps[1:]:
        joined: States = {"": Impedance(JOINT_OHMS, tolerance=CONDUCTOR_TOLERANCE)}
        yield _branch(scene, component, (clamps[0], clamp), BranchKind.WIRE, joined, "", sub=clamp)


CLAMPS = ("1", "2", "3", "4", "5", "6")
"""Of a terminal block."""


def relay(scene: Scene, component: Component) -> Iterator[Branch]:
    """A coil, and a contact that closes while it has its volts."""
    rated, ohms = need(component, "volts"), need(component, "ohms")
    mains = rated > EXTRA_LOW_VOLTS
    a, b = scene.node(component, "coil_1"), scene.node(component, "coil_2")
    sense = Sense(Analysis.AC if mains else Analysis.DC, *swing("relay", rated), a, b)
    yield _branch(
        scene,
        component,
        ("coil_1", "coil_2"),
        BranchKind.LOAD,
        {"": Impedance(ohms, tolerance=tolerance(component))},
        "",
        sub="coil",
    )
    yield _branch(
        scene,
        component,
        ("1", "2"),
        BranchKind.CONTACT,
        _contact(),
        "open",
        control=Control("closed", "open", senses=(sense,), takes=OUTPUT_TAKES),
    )


def cycle_timer(scene: Scene, component: Component) -> Iterator[Branch]:
    """A contact by turns on and off, and the clock that turns it where that is fed by itself."""
    start = scene.position(component, "closed")
    yield _branch(scene, component, ("1", "2"), BranchKind.CONTACT, _contact(), start)
    if scene.has(component, "l"):
        clock = Impedance(need(component, "ohms"), tolerance=tolerance(component))
        yield _branch(
            scene, component, ("l", "n"), BranchKind.LOAD, {"": clock}, "", sub="clock", traced=False
        )


def display(scene: Scene, component: Component) -> Iterator[Branch]:
    """A small load on its rail, with a data line that idles high."""
    if not scene.has(component, "plus"):
        return
    volts, watts = component.nominal.volts or DISPLAY_VOLTS, component.nominal.watts or DISPLAY_WATTS
    yield _branch(
        scene,
        component,
        ("plus", "minus"),
        BranchKind.LOAD,
        {"": Impedance(volts**2 / watts, tolerance=TOLERANCES["display"], firm=False)},
        "",
    )
    if scene.has(component, "data"):
        yield _branch(
            scene,
            component,
            ("data", "minus"),
            BranchKind.RESISTOR,
            {"": usual("display's data line")},
            "",
            sub="data",
        )


def _idling(name: str, scene: Scene, component: Component) -> Impedance:
    """Electronics at mains that do nothing else."""
    return Impedance(
        scene.volts**2 / IDLE_WATTS[name],
        tolerance=TOLERANCES["idling electronics"],
        power_factor=_factor(component),
    )


def inverter(scene: Scene, component: Component) -> Iterator[Branch]:
    """Needs mains and a command; gives three phases.

    Drawn at mains frequency: only volts between phases mean anything.
        ``watts`` is what it draws while it drives the compressor.
    """
    live, neutral, command, back = (scene.node(component, name) for name in ("l", "n", "command", "return"))
    mains = Sense(Analysis.AC, *swing("inverter", scene.volts), live, neutral)
    both = (mains, Sense(Analysis.DC, *COMMANDS["inverter"], command, back))
    on = Control("on", "off", senses=(mains,))
    drives = Control("on", "off", senses=both)
    idle: States = {
        "off": usual("inverter's input, off"),
        "on": _idling("inverter", scene, component),
    }
    yield _branch(scene, component, ("l", "n"), BranchKind.LOAD, idle, "off", sub="supply", control=on)
    draw: States = {
        "off": None,
        "on": Impedance(
            scene.volts**2 / need(component, "watts"),
            tolerance=TOLERANCES["inverter, driving"],
            power_factor=_factor(component),
        ),
    }
    # What feeds the phases is seen at the phases, and no lead reaches the bus.
    yield _branch(
        scene, component, ("l", "n"), BranchKind.LOAD, draw, "off", sub="drive", control=drives, traced=False
    )
    yield _branch(
        scene,
        component,
        ("command", "return"),
        BranchKind.LOAD,
        {"": usual("inverter's command input")},
        "",
        sub="command",
    )
    yield _branch(
        scene,
        component,
        ("bus", "n"),
        BranchKind.RESISTOR,
        {"": usual("inverter's bus")},
        "",
        sub="bus",
        traced=False,
    )
    for turn, phase in enumerate(("u", "v", "w")):
        angle = -2 * math.pi * turn / 3
        given = INVERTER_VOLTS * complex(math.cos(angle), math.sin(angle))
        states: States = {
            "off": usual("inverter's phase, off"),
            "on": Impedance(
                INVERTER_PHASE_OHMS,
                ac_volts=given,
                tolerance=TOLERANCES["source"],
                source_tolerance=INVERTER_PHASE_TOLERANCE,
            ),
        }
        yield _branch(
            scene, component, (phase, "bus"), BranchKind.SOURCE, states, "off", sub=phase, control=drives
        )


def overload_trip(
    branch: str,
    words: str,
    amperes: float,
    seconds: tuple[float, float],
    *,
    rank: int,
    shuts_down: bool = False,
) -> Trip:
    """What trips a supply that gives out too much: up and down for these seconds in turn, or down for
    good."""
    up, down = seconds
    sense = Sense(Analysis.DC, amperes, 0.0, branch=branch, backwards=True)
    resets = None if shuts_down else down
    return Trip((sense,), "off", words, rank, seconds=up, resets=resets, over="limited")


def limited(trip: Trip) -> Impedance:
    """A supply that gives out all it can: a source of that current, out of its first node."""
    return Impedance(0.0, dc_amperes=-trip.senses[0].rises, tolerance=TOLERANCES["source"])


def power_supply(scene: Scene, component: Component) -> Iterator[Branch]:
    """Mains in, a rail out."""
    live, neutral = scene.node(component, "l"), scene.node(component, "n")
    fed = Control(
        "on", "off", senses=(Sense(Analysis.AC, *swing("power supply", scene.volts), live, neutral),)
    )
    idle: States = {
        "off": usual("power supply's input, off"),
        "on": _idling("power supply", scene, component),
    }
    yield _branch(scene, component, ("l", "n"), BranchKind.LOAD, idle, "off", sub="input", control=fed)
    volts = need(component, "volts")
    watts = component.nominal.watts
    usual_limit = SUPPLY_LIMIT_TIMES * watts / volts if watts else RAIL_LIMIT_AMPERES["mains"]
    rated = component.nominal.amperes or usual_limit
    name, words = f"{component.id}.output", f"{component.name} is overloaded"
    trip = overload_trip(name, words, rated, HICCUP_SECONDS["mains"], rank=RANKS["rail"])
    rail: States = {
        "off": usual("power supply's output, off"),
        "on": Impedance(
            SUPPLY_SOURCE_OHMS,
            dc_volts=volts,
            tolerance=TOLERANCES["source"],
            source_tolerance=SUPPLY_TOLERANCE,
        ),
        trip.over: limited(trip),
    }
    yield _branch(
        scene,
        component,
        ("plus", "minus"),
        BranchKind.SOURCE,
        rail,
        "off",
        sub="output",
        control=replace(fed, trip=trip),
    )
    if not any(board.inlet or board.ground == scene.node(component, "minus") for board in scene.sheet.boards):
        tie: States = {"": Impedance(GROUND_OHMS, tolerance=TOLERANCES["ground"])}
        minus = scene.node(component, "minus")
        name, words = f"{component.id}.tie", f"{component.name}, discharge to the chassis"
        yield Branch(name, minus, EARTH, BranchKind.RESISTOR, component.id, words, tie, "")


def plug(scene: Scene, component: Component) -> Iterator[Branch]:
    """Three pins and their lead, from the wall to the unit."""
    for pin in ("l", "n", "e"):
        node = EARTH if pin == "e" else scene.node(component, pin)
        yield Branch(
            f"{component.id}.{pin}",
            f"wall_{pin}",
            node,
            BranchKind.WIRE,
            component.id,
            f"{component.name}, {pin.upper()}",
            _contact(PLUG_LEAD_OHMS),
            "closed",
        )


Maker = Callable[[Scene, Component], Iterator[Branch]]

PARTS: dict[ComponentKind, Maker] = {
    ComponentKind.AUGER_MOTOR: fan_ac,
    ComponentKind.BIMETAL: bimetal,
    ComponentKind.COMPRESSOR: compressor,
    ComponentKind.CYCLE_TIMER: cycle_timer,
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
    ComponentKind.RELAY: relay,
    ComponentKind.RESISTOR: heater,
    ComponentKind.RUN_CAPACITOR: run_capacitor,
    ComponentKind.START_DEVICE: start_device,
    ComponentKind.SWITCH: switch,
    ComponentKind.TERMINAL: terminal,
    ComponentKind.THERMAL_FUSE: thermal_fuse,
    ComponentKind.THERMISTOR: thermistor,
    ComponentKind.THERMOSTAT: thermostat,
    ComponentKind.VALVE: valve,
}
"""The maker of each kind's branches; kinds that are not here (seals, the sealed system, the harness,
boards) have none of their own."""
