"""Plans for a case: a condenser fan off its dead output, a thermostat bridged by a timer, a dead board's
place taken by a mechanical thermostat. Both schools each time; where it can't be done, why not.

Where a load is fed and comes back is read off its trace; what is put in is rated by what flows there.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from functools import cached_property

from frostcore.circuit.element import Analysis, CircuitError
from frostcore.circuit.figures import FUSE_AMPERES, LOCKED_TIMES
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.trace import Trace
from frostcore.diagnosis.state import place_of
from frostcore.remedy.plans.running import K, Running, on_mains, part_of
from frostcore.remedy.plans.solved import before_of, is_wet
from frostcore.sentence import in_sentence
from frostcore.sheet.electrical import Board
from frostcore.sheet.model import Component, Nominal, Sheet
from frostcore.sheet.plan import FORMAT, Act, Add, Cut, Park, Plan, RunWire
from frostcore.sheet.rewired import free_end, reached
from frostcore.sheet.wiring import split_pin

CONTACTS = ((6.0, 20.0), (10.0, 40.0), (16.0, 80.0))
"""Contacts sold for this: amperes, and those while a motor starts."""

BLOCK_AMPERES = 16.0
FAN_FUSE_AMPERES = 1.0
STRAIGHT = 2
"""Points of a line with nothing between its ends."""

SUPPLY_HEADROOM = 1.5
STEPS = (5.0, 10.0, 20.0, 40.0, 60.0)
"""Watts of small supplies."""

BULBS = {"freezer": (-24.0, -14.0), "fridge": (-18.0, 4.0), "wine": (4.0, 11.0)}
"""Where a mechanical thermostat opens and closes, at its bulb, for what the coil cools: by a frozen coil; by
a coil that thaws each time; by air."""


@dataclass(frozen=True)
class Proposals:
    """Plans, and what can't be done with the reason."""

    plans: tuple[Plan, ...]
    impossible: tuple[str, ...]


@dataclass(frozen=True)
class Fed:
    """Where a load is fed and comes back: the board's pins and the terminals their wires lead to."""

    part: Component
    feed: str
    back: str
    path: Trace


class NotPossible(Exception):  # noqa: N818 - an answer, not an error
    """Why a plan can't be made."""


def proposals(sheet: Sheet, parts: Iterable[str], until: str) -> Proposals:
    """The plans for a case in which these parts may be at fault; ``until`` is the day (2026-12-24) a stop-gap
    is undone by."""
    plans: list[Plan] = []
    impossible: list[str] = []
    unit = Unit(sheet)
    for name in dict.fromkeys(parts):
        part = unit.parts.get(name)
        makers = MAKERS.get(part.kind, ()) if part else ()
        for maker in makers:
            try:
                plans += maker(unit, part, until) if part else ()
            except NotPossible as reason:
                impossible.append(str(reason))
    return Proposals(tuple(dict.fromkeys(plans)), tuple(dict.fromkeys(impossible)))


class Unit:
    """What a plan is made from: a sheet, its traces, what flows."""

    def __init__(self, sheet: Sheet) -> None:
        self.sheet, self.circuits = sheet, circuits_of(sheet)
        self.parts = {part.id: part for part in sheet.components}

    @cached_property
    def running(self) -> Running:
        """The unit's states."""
        return before_of(self.sheet).running

    def of(self, kind: K) -> list[Component]:
        """The parts of a kind."""
        return [part for part in self.sheet.components if part.kind is kind]

    def fed(self, part: Component) -> Fed | None:
        """Where a load that runs is fed and comes back at a board; None where it is at none."""
        if part.id not in self.running.parts_running:
            return None
        state = next(one for one in self.running.states for load in one.running if part_of(load) == part.id)
        load = next(load for load in sorted(state.running) if part_of(load) == part.id)
        try:
            path = self.circuits.trace(load, state.mode.id)
        except CircuitError:
            return None
        before, after = path.points[: path.load_at + 1], path.points[path.load_at + 1 :]
        feed = next((point.label for point in reversed(before) if self._on_board(point.label)), "")
        back = next((point.label for point in after if self._on_board(point.label)), "")
        return Fed(part, feed, back, path) if feed and back else None

    def _on_board(self, label: str) -> bool:
        found = self.sheet.pin(label)
        return found is not None and not found[0].inline

    def passes(self, fed: Fed, kind: K) -> bool:
        """Whether a load's loop goes through a part of a kind."""
        return any(
            point.onward is not None and self._kind(point.onward.part) is kind for point in fed.path.points
        )

    def _kind(self, part: str) -> K | None:
        return self.parts[part].kind if part in self.parts else None

    def last_stretch(self, pin: str) -> tuple[str, str]:
        """The last stretch of the line that leaves a pin: its two points."""
        run = next(run for run in self.sheet.harness if run.points[0] == pin)
        return run.points[-2], run.points[-1]

    def amperes(self, part: Component) -> tuple[float, float]:
        """What a load takes from the mains, running and starting."""
        rated = part.nominal.volts or self.sheet.plate.mains_volts
        for state in self.running.states:
            for load in state.running:
                if part_of(load) == part.id:
                    runs = abs(state.settled.amperes(load, Analysis.AC))
                    return runs, runs * LOCKED_TIMES.get(part.kind, 1.0)
        return (part.nominal.watts or 0.0) / rated, 0.0

    @cached_property
    def mains_pins(self) -> dict[str, str]:
        """The board's pins where the plug's l and n arrive; nothing for what arrives elsewhere."""
        plug = self.of(K.PLUG)[0]
        found = {run.points[-1]: run.points[0] for run in self.sheet.harness if len(run.points) == STRAIGHT}
        pins = {end: found.get(f"{plug.id}.{end}", "") for end in ("l", "n")}
        return {end: pin for end, pin in pins.items() if self._on_board(pin)}

    @cached_property
    def compressor(self) -> Component:
        """The compressor; NotPossible for one that no contact can run."""
        found = self.of(K.COMPRESSOR)
        if self.of(K.MODULE):
            message = (
                "A mechanical thermostat can’t run thermoelectric modules: they are fed direct current by"
                " their boards. It could only switch the supply’s mains, and then both zones run by one bulb."
            )
            raise NotPossible(message)
        if not found:
            message = "There is no compressor on this sheet that a thermostat could switch."
            raise NotPossible(message)
        if self.of(K.INVERTER):
            message = (
                "The compressor can’t be run by a mechanical thermostat: it has three phases and turns only"
                " by its inverter, which needs the board’s command."
            )
            raise NotPossible(message)
        return found[0]

    @property
    def fuse_amperes(self) -> float:
        """The amperes of the unit's own fuse."""
        given = [part.nominal.amperes or FUSE_AMPERES for part in self.of(K.FUSE)]
        return min(given, default=FUSE_AMPERES)

    def contact(self, runs: float, starts: float) -> Nominal:
        """The smallest contact sold that carries this."""
        amperes, start = next(
            ((rated, most) for rated, most in CONTACTS if rated >= runs and most >= starts), CONTACTS[-1]
        )
        return Nominal(amperes=amperes, start_amperes=start)


# A condenser fan off its output.


def fan_plans(unit: Unit, part: Component, until: str) -> Iterator[Plan]:
    """The condenser fan on the compressor's feed, and on the always-live wire behind a fuse of its own."""
    fans = [fan for fan in unit.of(K.FAN_AC) if part.kind is K.BOARD or fan is part]
    for fan in fans:
        fed = unit.fed(fan)
        compressors = unit.of(K.COMPRESSOR)
        if fed is None or not compressors or fan.place != compressors[0].place:
            continue
        if (
            part.kind is K.BOARD
            and (found := unit.sheet.pin(fed.feed))
            and found[0].board not in {"", part.id}
        ):
            continue
        start, end = unit.last_stretch(fed.feed)
        cut = Cut("cut", (start, end), end)
        feed = f"{compressors[0].id}.run"
        if compressors[0].nominal.start_ohms is not None:
            yield Plan(
                FORMAT,
                f"{fan.name} on the compressor’s feed",
                (cut, RunWire("run", (feed, end), ("black",), metres=0.5)),
                keeps=(fan.id, compressors[0].id),
                school="fan with the compressor",
            )
        live = unit.mains_pins.get("l", "")
        if not live:
            continue
        place = place_of(unit.sheet, live)
        block = Component(
            "live_terminal", K.TERMINAL, "Terminal block", place, nominal=Nominal(amperes=BLOCK_AMPERES)
        )
        rated = Nominal(amperes=min(FAN_FUSE_AMPERES, unit.fuse_amperes))
        fuse = Component("fan_fuse", K.FUSE, "Fan fuse", place, nominal=rated)
        yield Plan(
            FORMAT,
            f"{fan.name} on the always-live wire",
            (
                cut,
                Cut("cut", (live, f"{unit.of(K.PLUG)[0].id}.l"), live),
                Add("add", block),
                Add("add", fuse),
                RunWire("run", (free_end(live), "live_terminal.1"), ("brown",), metres=0.1),
                RunWire("run", (live, "live_terminal.2"), ("brown",), metres=0.2),
                RunWire("run", ("live_terminal.3", "fan_fuse.1"), ("brown",), metres=0.2),
                RunWire("run", ("fan_fuse.2", end), ("brown",), metres=2.0),
            ),
            keeps=(fan.id, compressors[0].id),
            school="fan always on",
        )


# A thermostat bridged by a timer.


def timer_plans(unit: Unit, part: Component, until: str) -> Iterator[Plan]:
    """A thermostat that no longer closes, bridged by a cycle timer until the new one is there."""
    neutral = _neutral_near(unit, part.place)
    runs, starts = unit.amperes(unit.compressor)
    rated = unit.contact(runs, starts)
    clock = replace(rated, ohms=50_000.0, volts=unit.sheet.plate.mains_volts, on_minutes=20, off_minutes=25)
    timer = Component("run_timer", K.CYCLE_TIMER, "Cycle timer", part.place, nominal=clock)
    yield Plan(
        FORMAT,
        f"{part.name} bridged by a timer",
        (
            Add("add", timer),
            RunWire("run", (f"{part.id}.1", "run_timer.1"), ("brown",), metres=0.3),
            RunWire("run", ("run_timer.2", f"{part.id}.2"), ("orange",), metres=0.3),
            RunWire("run", (f"{part.id}.1", "run_timer.l"), ("brown",), metres=0.3),
            RunWire("run", (neutral, "run_timer.n"), ("blue",), metres=0.3),
        ),
        keeps=_kept(unit),
        school="timer across the thermostat",
        stop_gap_until=until,
    )


def _neutral_near(unit: Unit, place: str) -> str:
    """A point of the neutral in a place."""
    wiring = unit.sheet.wiring
    met = reached(unit.sheet, "n")
    points = sorted(point for run in unit.sheet.harness for point in run.points if wiring.near(point) in met)
    found = next((p for p in points if not split_pin(p) and place_of(unit.sheet, p) == place), "")
    if not found:
        message = "No neutral is at hand beside the thermostat for a timer’s clock."
        raise NotPossible(message)
    return found


def _kept(unit: Unit) -> tuple[str, ...]:
    """What runs and does the cooling, in the sheet's order: compressor, fans, lamps, heaters."""
    kinds = {K.COMPRESSOR, K.FAN_AC, K.FAN_DC, K.LAMP, K.HEATER}
    return tuple(
        part.id
        for part in unit.sheet.components
        if part.kind in kinds and part.id in unit.running.parts_running
    )


# A board's place taken by a mechanical thermostat.


def conversions(unit: Unit, part: Component, until: str) -> Iterator[Plan]:
    """A dead board replaced: each school of the fan with each of defrosting."""
    board = next((item for item in unit.sheet.boards if item.component == part.id), None)
    conversion = Conversion(unit, board)
    for always in (False, True) if conversion.inner_fans else (False,):
        for timed in (False, True) if conversion.timed_possible else (False,):
            yield conversion.plan(always=always, timed=timed)


class Conversion:
    """What a unit needs to run without its board; NotPossible with the reason."""

    def __init__(self, unit: Unit, board: Board | None) -> None:
        self.unit, self.sheet = unit, unit.sheet
        self.compressor = unit.compressor
        if board is None or board.feed is None:
            name = in_sentence(self.sheet.part_name(board.component)) if board else "board"
            message = f"The {name} has no mains of its own: there is nothing a thermostat could take over."
            raise NotPossible(message)
        if unit.of(K.THERMOSTAT):
            message = (
                "The compressor is switched by a mechanical thermostat already; the"
                f" {in_sentence(self.sheet.part_name(board.component))} only serves its own zones."
            )
            raise NotPossible(message)
        if unit.of(K.VALVE) and len(self.sheet.compartments) > 1 and self._switches_coils():
            message = (
                "A valve sends the cold to one coil or the other by the board’s command: with one thermostat"
                " only one compartment would be cooled, and nobody knows how the valve stands at rest."
            )
            raise NotPossible(message)
        self.board = board
        fed = unit.fed(self.compressor)
        if fed is None:
            message = "The sheet does not say where the compressor is fed at its board."
            raise NotPossible(message)
        self.fed = fed
        self.live, self.neutral = self._mains()
        self.place = self.sheet.component(board.component).place

    def _switches_coils(self) -> bool:
        """Whether valves send the refrigerant: they run while the compressor does."""
        valves = {part.id for part in self.unit.of(K.VALVE)}
        compressor = self.compressor.id
        return any(
            valves & {part_of(load) for load in state.running}
            and any(part_of(load) == compressor for load in state.running)
            for state in self.unit.running.states
        )

    def _mains(self) -> tuple[str, str]:
        """The board's pins where the mains arrive."""
        try:
            return self.unit.mains_pins["l"], self.unit.mains_pins["n"]
        except KeyError:
            message = "The mains do not arrive at this board: its place can’t be taken by a thermostat alone."
            raise NotPossible(message) from None

    @cached_property
    def loads(self) -> tuple[Fed, ...]:
        """Fans, lamps and heaters with where they are fed."""
        kinds = {K.FAN_AC, K.FAN_DC, K.LAMP, K.HEATER}
        found = (self.unit.fed(part) for part in self.sheet.components if part.kind in kinds)
        return tuple(each for each in found if each)

    @cached_property
    def inner_fans(self) -> tuple[Fed, ...]:
        """The fans that carry the cold; NotPossible where one needs a speed command."""
        return tuple(each for each in self.fans if each.part.place != self.compressor.place)

    @cached_property
    def fans(self) -> tuple[Fed, ...]:
        """Every fan."""
        fans = tuple(each for each in self.loads if each.part.kind in {K.FAN_AC, K.FAN_DC})
        for each in fans:
            if any(point == f"{each.part.id}.speed" for run in self.sheet.harness for point in run.points):
                message = (
                    f"The {in_sentence(each.part.name)} turns by a speed command that only the board gives:"
                    " it would stand still without."
                )
                raise NotPossible(message)
        return fans

    @cached_property
    def lamps(self) -> tuple[Fed, ...]:
        """The lamps that a door switch of their own lights."""
        return tuple(
            each for each in self.loads if each.part.kind is K.LAMP and self.unit.passes(each, K.DOOR_SWITCH)
        )

    @cached_property
    def heater(self) -> Fed | None:
        """The coil's heater, where a bimetal ends it."""
        for each in self.loads:
            wet = is_wet(self.sheet, self.sheet.place(each.part.place))
            if each.part.kind is K.HEATER and wet and self.unit.passes(each, K.BIMETAL):
                return each
        return None

    @property
    def timed_possible(self) -> bool:
        """Whether a timer may defrost."""
        return self.heater is not None

    def plan(self, *, always: bool, timed: bool) -> Plan:
        """The plan of one school."""
        return _Converting(self, always=always, timed=timed).plan()


class _Converting:
    """One conversion as it is put together."""

    def __init__(self, made: Conversion, *, always: bool, timed: bool) -> None:
        self.made, self.unit = made, made.unit
        self.always, self.timed = always, timed
        self.joined: list[Fed] = [made.fed]
        self.adds: list[Act] = []
        self.runs: list[Act] = []

    def plan(self) -> Plan:
        """The whole of it: parked plugs, what is put in, wires."""
        made = self.made
        self._line()
        for each in made.lamps:
            self._lamp(each)
        for each in made.fans:
            self._fan(each)
        if self.timed and made.heater:
            self._join("defrost_timer_2.defrost", made.heater)
        parked = dict.fromkeys(
            split_pin(point)[0]  # type: ignore[index]  # they are pins
            for each in self.joined
            for point in (made.live, made.neutral, each.feed, each.back)
        )
        words = ["fan always on" if self.always else "fan with the compressor"] if made.inner_fans else []
        words.append("defrost by timer" if self.timed else "defrost by resting")
        name = in_sentence(made.sheet.part_name(made.board.component))
        return Plan(
            FORMAT,
            f"Mechanical thermostat in place of the {name}",
            (*(Park("park", name) for name in parked), *self.adds, *self.runs),
            keeps=tuple(each.part.id for each in self.joined),
            school=", ".join(words),
        )

    def _line(self) -> None:
        """Fuse, thermostat, timer, and the compressor behind them."""
        made, unit = self.made, self.unit
        sizes = [unit.amperes(each.part) for each in (made.fed, *self._mains_fans())]
        rated = unit.contact(sum(runs for runs, _ in sizes), sum(starts for _, starts in sizes))
        kind = next(
            (each for each in BULBS if any(p.compartment == each for p in made.sheet.compartments)), ""
        )
        opens, closes = BULBS[kind or "fridge"]
        self._add("line_fuse", K.FUSE, "Line fuse", Nominal(amperes=unit.fuse_amperes))
        stat = replace(rated, opens_celsius=opens, resets_celsius=closes)
        self._add("mech_stat", K.THERMOSTAT, "Mechanical thermostat", stat, bulb=self._bulb())
        self._run(free_end(made.live), "line_fuse.1", "brown")
        if self.timed:
            clock = replace(rated, ohms=9000.0, volts=made.sheet.plate.mains_volts)
            self._add("defrost_timer_2", K.DEFROST_TIMER, "Defrost timer", clock)
            self._run("line_fuse.2", "defrost_timer_2.common", "brown")
            self._run("defrost_timer_2.motor", free_end(made.neutral), "blue")
            self._run("defrost_timer_2.cool", "mech_stat.1", "brown")
        else:
            self._run("line_fuse.2", "mech_stat.1", "brown")
        self._run("mech_stat.2", free_end(made.fed.feed), "black")
        self._run(free_end(made.neutral), free_end(made.fed.back), "blue")

    def _bulb(self) -> str:
        """Where the bulb lies: at the coil, where the coldest sensor sits, else where it cools."""
        modes = [mode.celsius or {} for mode in self.made.sheet.modes if mode.live]
        places = {place.id for place in self.made.sheet.places}
        cold = [(celsius, place) for mode in modes for place, celsius in mode.items() if place in places]
        return min(cold)[1] if cold else self.made.sheet.compartments[0].id

    def _mains_fans(self) -> list[Fed]:
        return [each for each in self.made.fans if on_mains(self.made.sheet, each.part)]

    def _lamp(self, each: Fed) -> None:
        if on_mains(self.made.sheet, each.part):
            self._join("line_fuse.2", each)
        elif self._supply():
            self._join("low_supply.plus", each, "low_supply.minus")

    def _fan(self, each: Fed) -> None:
        inner = each in self.made.inner_fans
        always = self.always and inner
        if on_mains(self.made.sheet, each.part):
            self._join("line_fuse.2" if always else "mech_stat.2", each)
        elif self._supply():
            self._join("low_supply.plus" if always else self._relay(), each, "low_supply.minus")

    def _relay(self) -> str:
        """The contact that gives low volts while the compressor runs."""
        if not any(isinstance(act, Add) and act.component.id == "fan_relay" for act in self.adds):
            rated = Nominal(ohms=12_000.0, volts=self.made.sheet.plate.mains_volts, amperes=6.0)
            self._add("fan_relay", K.RELAY, "Fan relay", rated)
            self._run("mech_stat.2", "fan_relay.coil_1", "black")
            self._run(free_end(self.made.neutral), "fan_relay.coil_2", "blue")
            self._run("low_supply.plus", "fan_relay.1", "red")
        return "fan_relay.2"

    def _supply(self) -> bool:
        """The low-voltage supply, put in once, for everything that runs on low volts."""
        if any(isinstance(act, Add) and act.component.id == "low_supply" for act in self.adds):
            return True
        low = [
            each.part
            for each in (*self.made.lamps, *self.made.fans)
            if not on_mains(self.made.sheet, each.part)
        ]
        volts = {part.nominal.volts for part in low}
        if len(volts) != 1:
            message = (
                f"The fans and lamps are made for different volts ({volts}): one supply can’t feed them."
            )
            raise NotPossible(message)
        watts = SUPPLY_HEADROOM * sum(part.nominal.watts or 0.0 for part in low)
        given = next((each for each in STEPS if each >= watts), STEPS[-1])
        self._add("low_supply", K.POWER_SUPPLY, "Small supply", Nominal(volts=volts.pop(), watts=given))
        self._run("line_fuse.2", "low_supply.l", "brown")
        self._run(free_end(self.made.neutral), "low_supply.n", "blue")
        return True

    def _join(self, feed: str, each: Fed, back: str = "") -> None:
        """A load's two wires to what feeds it and back."""
        colour = "red" if back else "brown"
        self._run(feed, free_end(each.feed), colour)
        back_colour = "black" if back else "blue"
        self._run(back or free_end(self.made.neutral), free_end(each.back), back_colour)
        self.joined.append(each)

    def _add(self, name: str, kind: K, words: str, rated: Nominal, bulb: str = "") -> None:
        part = Component(name, kind, words, self.made.place, nominal=rated, bulb_place=bulb)
        self.adds.append(Add("add", part))

    def _run(self, start: str, end: str, colour: str) -> None:
        run = RunWire("run", (start, end), (colour,), metres=0.3)
        if run not in self.runs and start != end:
            self.runs.append(run)


MAKERS = {
    K.BOARD: (fan_plans, conversions),
    K.FAN_AC: (fan_plans,),
    K.THERMOSTAT: (timer_plans,),
}
"""What is proposed for a part at fault, by its kind."""
