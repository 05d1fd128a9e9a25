"""The laws no linear circuit has: what one board's sources give, by what the circuit asks of them.

A rectifier gives what its stepped half cycle leaves on its capacitor; a switcher its rail's volts while it
starts, is helped by its auxiliary winding and is not asked too much; a regulator and a step-down what is
before them less what they need, or their limit; a series capacitor the current its mains let through.
"""

import math

import numpy as np

from frostcore.bench.circuit import SOURCE_OHMS, damage
from frostcore.bench.faults import Condition
from frostcore.bench.probes import BenchProbe
from frostcore.bench.ranges import BenchRange
from frostcore.circuit.damage import Change, Damage
from frostcore.circuit.element import Analysis, Circuit, Impedance
from frostcore.circuit.figures import WALL_OHMS
from frostcore.sheet.supply import (
    BoardPart,
    BoardPartKind,
    BoardSupply,
    Buck,
    MainsTransformer,
    Rectifier,
    Regulator,
    Switcher,
)
from frostcore.supply.bus import Bus, Charging, Load, bare
from frostcore.supply.foretold import DIODE_VOLTS, STOPS_SHARE
from frostcore.supply.rhythm import crest, dips, pause, slope
from frostcore.supply.start import Own, hiccup

K = BoardPartKind

LEAK_OHMS = 300e3
"""What is left between a rectifier's inputs with nothing on its bus."""

PATIENT = 3
"""Rounds until a switcher's limit counts: what comes after it has found its own by then."""

FED_SHARE = 0.3
"""A rectifier whose own input shows less than this share of what feeds it is cut off from it."""

STEPPED_FARADS = 0.5e-6
"""Below that a bus is the rectified mains as it is."""

SHORT_WATTS = 400.0
"""More than that nothing on a board of this size takes for longer than a fuse lasts."""

RAIL_RISES = 0.012
"""Seconds until the auxiliary winding takes over from the capacitor."""

LOST_FEEDBACK = 1.35
"""Without feedback a rail rises until the controller's own limit ends it, and tries again."""

SAWTOOTH = 2 * math.sqrt(3)
"""A sawtooth's peak to peak by its r.m.s."""

IN_HICCUP = 1.3
"""A rail falls slower than it rose: its mean in hiccup is this times what the duty gives."""


class Board:
    """One draw's board under one fault: what its laws give, round by round."""

    def __init__(self, supply: BoardSupply, conditions: dict[str, Condition], circuit: Circuit) -> None:
        self.supply, self.conditions, self.circuit = supply, conditions, circuit
        self.mains, self.hertz = circuit.mains_volts, circuit.hertz
        leaks = {f"{each.id}.ac": Impedance(LEAK_OHMS, farads=1.0) for each in supply.rectifiers}
        self.gives: dict[str, Impedance | None] = dict(leaks)
        self.bus: dict[str, Bus | None] = {}
        self.trying: dict[str, float] = {}
        """Switchers in hiccup, and the share of their time they run."""
        self.over: set[str] = set()
        self.loads: dict[str, float] = {}
        """The ohms each source last found."""
        self.ripple: dict[str, float] = {}
        """Each rectifier's, as the AC range has it."""
        self.round = 0
        self.base = damage(supply, conditions)
        self._nodes, self._first = circuit.topology, len(circuit.nodes)
        self.ac = self.dc = np.zeros(1)

    # What is read of the solved circuit.

    def volts(self, a: str, b: str, analysis: Analysis = Analysis.DC) -> float:
        x = self.dc if analysis is Analysis.DC else self.ac
        one, other = self._nodes.rows_of([a, b])
        found = x[one] - x[other]
        return float(abs(found)) if analysis is Analysis.AC else float(found.real)

    def given(self, branch: str) -> float:
        """What a source gives out, in A."""
        return -float(self.dc[self._first + self.circuit.branch_index[branch]].real)

    def load(self, out: str) -> tuple[float, float]:
        """The amperes a source gives, and the ohms it finds; those it last found while it gives nothing."""
        now = self.gives.get(out)
        given = max(0.0, self.given(out)) if now and now.dc_volts else 0.0
        if now and given > LEAST_AMPERES:
            self.loads[out] = now.dc_volts / given
        return given, self.loads.get(out, NO_LOAD)

    def _is(self, part: str, *kinds: str) -> bool:
        found = self.conditions.get(part)
        return found is not None and found.kind in kinds

    def _ohms(self, part: BoardPart) -> float:
        found = self.conditions.get(part.id)
        return (part.ohms or 0.0) * (found.factor if found and found.kind == "scaled" else 1.0)

    def _capacitor(self, part: BoardPart) -> tuple[float, float]:
        """Its farads and ESR as they are."""
        found, esr = self.conditions.get(part.id), part.esr_ohms or 0.05
        if found and found.kind == "open":
            return 0.0, esr
        worn = found if found and found.kind == "worn" else None
        return (part.farads or 0.0) * (worn.factor if worn else 1.0), esr * (worn.esr if worn else 1.0)

    def damaged(self, relay: tuple[str, str] | None) -> Damage:
        """The fault and what the laws give, as changes of the circuit; the relay pulled in by a wire where it
        is."""
        changes = dict(self.base.changes)
        for name, impedance in self.gives.items():
            if name not in changes:
                changes[name] = Change({"": impedance})
        bridges = ((*relay, Impedance(0.1)),) if relay else ()
        return Damage(changes, bridges)

    # Laws.

    def asks(self) -> dict[str, tuple[Charging, Load]]:
        """The rectifiers' cases to be stepped."""
        found = {}
        limited = {each.rectifier for each in self.supply.droppers}
        for each in self.supply.rectifiers:
            if each.id in limited:
                continue
            if case := self._charging(each):
                found[each.id] = case
        return found

    def _transformer(self, each: Rectifier) -> MainsTransformer:
        return next(item for item in self.supply.transformers if item.secondary == each.winding)

    def _missing(self, each: Rectifier) -> int:
        """The diodes that rectify no more: of one shorted the other half wave goes past the rail."""
        return sum(self._is(name, "open", "short") for name in each.diodes)

    def _feed(self, each: Rectifier) -> float:
        """The volts that feed a rectifier, unloaded."""
        if not each.winding:
            return self.mains
        transformer = self._transformer(each)
        primary = self.supply.part(transformer.primary)
        broken = self._is(transformer.primary, "open") or self._is(each.winding, "open")
        return 0.0 if broken else transformer.ratio * self.volts(primary.a, primary.b, Analysis.AC)

    def _charging(self, each: Rectifier) -> tuple[Charging, Load] | None:
        feed = self._feed(each)
        seen = feed if each.winding else self.volts(each.ac_a, each.ac_b, Analysis.AC)
        bulk, shorted = self.supply.part(each.bulk), self._is(each.bulk, "short")
        opened = self._missing(each)
        if feed < 1 or seen < FED_SHARE * feed or shorted or opened > 2:
            self.bus[each.id] = None
            return None
        farads, esr = self._capacitor(bulk)
        if farads < STEPPED_FARADS:
            self.bus[each.id] = bare(feed, 2 * DIODE_VOLTS)
            return None
        ohms = sum(self._ohms(self.supply.part(name)) for name in each.series)
        if each.winding:
            transformer = self._transformer(each)
            ohms += transformer.ratio**2 * self._ohms(self.supply.part(transformer.primary))
        else:
            ohms += WALL_OHMS
        peak = math.sqrt(2) * feed
        charging = Charging(
            _rounded(peak), self.hertz, 2 * DIODE_VOLTS,
            _rounded(ohms + 0.1), _rounded(farads), _rounded(esr),
            halves=opened > 0,
        )  # fmt: skip
        watts = self.rectifier_watts(each)
        if watts is not None:
            return charging, Load(watts=_rounded(min(watts, SHORT_WATTS)), stops=STOPS_SHARE * peak)
        taken = self.given(f"{each.id}.dc") if self.gives.get(f"{each.id}.dc") else 0.0
        return charging, Load(amperes=_rounded(min(max(taken, 1e-4), 3.0)))

    def rectifier_watts(self, each: Rectifier) -> float | None:
        """What switchers and what else hangs on their bus (start and clamp resistors) take; None where there
        is none of them and it gives amperes."""
        mine = [item for item in self.supply.switchers if (item.plus, item.minus) == (each.plus, each.minus)]
        if not mine:
            return None
        now = self.gives.get(f"{each.id}.dc")
        beside = now.dc_volts * max(0.0, self.given(f"{each.id}.dc")) if now else 0.0
        return beside + sum(self._switcher_watts(switcher) for switcher in mine)

    def _switcher_watts(self, each: Switcher) -> float:
        out = f"{each.id}.out"
        impedance = self.gives.get(out)
        if impedance is None:
            return 0.2
        given = max(0.0, self.given(out))
        share = self.trying.get(each.id, 1.0)
        taken = (impedance.dc_volts + DIODE_VOLTS) * min(given, each.limit_amperes) / each.efficiency
        return share * taken + each.standby_watts

    def take(self, found: dict[str, Bus]) -> float:
        """Take what the buses are and work the other laws out; returns by what share anything changed."""
        before = dict(self.gives)
        self.round += 1
        self.bus |= found
        for each in self.supply.rectifiers:
            self._rectifier(each)
        for switcher in self.supply.switchers:
            self._switcher(switcher)
        for buck in self.supply.bucks:
            self._buck(buck)
        for regulator in self.supply.regulators:
            self._regulator(regulator)
        return max((_apart(before.get(name), now) for name, now in self.gives.items()), default=0.0)

    def _rectifier(self, each: Rectifier) -> None:
        dropper = next((item for item in self.supply.droppers if item.rectifier == each.id), None)
        if dropper:
            self._dropper(each, dropper.capacitor, dropper.zener, half=dropper.half_wave)
            return
        bus, feed = self.bus.get(each.id), self._feed(each)
        if each.winding:
            part = self.supply.part(each.winding)
            self.gives[part.id] = Impedance(part.ohms or 1.0, ac_volts=feed)
        if bus is None:
            self._cut(each)
            return
        self.gives[f"{each.id}.dc"] = Impedance(SOURCE_OHMS, dc_volts=bus.mean)
        watts = self.rectifier_watts(each)
        if watts is None:
            watts = max(bus.mean * max(self.given(f"{each.id}.dc"), 0.0), 0.0)
        self.gives[f"{each.id}.ac"] = Impedance(feed**2 / max(watts, 0.02), farads=1.0)
        self.ripple[each.id] = min(bus.ripple, bus.mean)

    def _dropper(self, each: Rectifier, capacitor: str, zener: str, *, half: bool) -> None:
        """A rail that a capacitor in series with the mains feeds: its Zener diode's volts while it has
        current to spare, else what the load leaves.

        The capacitor must be charged either way: with a diode open it is charged once and then gives nothing;
        past one that is shorted it is charged without the rail, as of half waves.
        """
        part, holds = self.supply.part(capacitor), self.supply.part(zener)
        farads, _ = self._capacitor(part)
        bulk = self.supply.part(each.bulk)
        if any(self._is(name, "open") for name in (*each.series, *each.diodes, capacitor)):
            self._cut(each)
            return
        half = half or any(self._is(name, "short") for name in each.diodes)
        now = self.gives.get(f"{each.id}.dc")
        given, load = self.load(f"{each.id}.dc")
        gives, most = slope(farads, self.hertz, half=half), crest(self.mains, 2 * DIODE_VOLTS, half=half)
        free = gives * load * most / (1 + gives * load)
        volts = free if self._is(zener, "open") else min(free, holds.volts or 24.0)
        volts = 0.0 if self._is(zener, "short") or self._is(bulk.id, "short") else min(volts, MOST_OPEN)
        whole, esr = self._capacitor(bulk)
        amperes, rounds = max(0.0, gives * (most - volts)), 1 if half else 2
        if not volts or volts < (holds.volts or 0.0) or self._is(zener, "open"):
            swing = min(given, amperes) / (rounds * self.hertz * max(whole, LEAST_RAIL))
            self.ripple[each.id] = min(volts, esr * amperes + swing / SAWTOOTH)
        else:
            waits = pause(volts + 2 * DIODE_VOLTS, self.mains, self.hertz, half=half)
            seconds, left = (waits, 1 / (rounds * self.hertz)), (max(whole, 1e-9), esr)
            lost, self.ripple[each.id] = dips(volts, (given, amperes), seconds, left)
            volts -= lost
        volts = _damped(now, volts)
        self.gives[f"{each.id}.dc"] = Impedance(SOURCE_OHMS, dc_volts=volts)
        through = 2 * math.pi * self.hertz * farads * self.mains
        self.gives[f"{each.id}.ac"] = Impedance((volts + 2 * DIODE_VOLTS) / max(through, 1e-6), farads=1.0)

    def _cut(self, each: Rectifier) -> None:
        """Nothing feeds a rectifier: its input is what leaks there."""
        self.gives |= {f"{each.id}.dc": None, f"{each.id}.ac": Impedance(LEAK_OHMS, farads=1.0)}
        self.ripple[each.id] = 0.0

    def _bus_of(self, each: Switcher) -> Bus | None:
        for rectifier in self.supply.rectifiers:
            if (rectifier.plus, rectifier.minus) == (each.plus, each.minus):
                return self.bus.get(rectifier.id)
        return None

    def _switcher(self, each: Switcher) -> None:
        out, own = f"{each.id}.out", f"{each.id}.own"
        volts, standing = self._runs(each)
        share = self.trying.get(each.id, 1.0)
        given, load = self.load(out)
        if volts and given > self._limit(each) and each.id not in self.over and self.round > PATIENT:
            self.over.add(each.id)
            volts, standing = self._runs(each)
            share = self.trying.get(each.id, 1.0)
        if volts and each.id in self.over:
            volts = min(volts, self._limit(each) * load)
        if share < 1.0:
            volts *= min(1.0, IN_HICCUP * share)
        self.gives[out] = Impedance(SOURCE_OHMS, dc_volts=volts) if volts else None
        self.gives[own] = Impedance(200.0, dc_volts=standing)

    def _limit(self, each: Switcher) -> float:
        sense = self.conditions.get(each.sense)
        if sense and sense.kind == "scaled":
            return each.limit_amperes / sense.factor
        return each.limit_amperes

    def _runs(self, each: Switcher) -> tuple[float, float]:
        """The rail's volts while it runs, and its own supply's on the mean; whether it is trying is noted."""
        self.trying.pop(each.id, None)
        bus = self._bus_of(each)
        capacitor = self.supply.part(each.own_capacitor)
        farads, esr = self._capacitor(capacitor)
        start = self.supply.part(each.start_resistor)
        if bus is None or self._is(start.id, "open") or self._is(capacitor.id, "short"):
            return 0.0, 0.0
        if self._is(each.own_diode, "short"):  # the winding drains what the start resistor brings
            return 0.0, 0.0
        own = Own(each.starts, each.stops, max(farads, 1e-7), esr, self._ohms(start), each.starting_amperes,
                  each.running_amperes)  # fmt: skip
        if not own.charges(bus.mean):
            return 0.0, own.start_ohms and min(each.starts, each.starting_amperes * own.start_ohms)
        if self._is(each.switch, "dead"):
            return 0.0, each.holds_at
        tries = hiccup(own, bus.mean)
        mean = (each.starts + each.stops) / 2
        low = bus.valley < STOPS_SHARE * math.sqrt(2) * self.mains
        helped = not (
            any(self._is(name, "open") for name in (each.own_diode, each.own_winding))
            or not own.lasts(RAIL_RISES)
        )
        moves = not (
            any(
                self._is(name, "open")
                for name in (each.switch, each.primary, each.secondary, each.rectifier, each.sense)
            )
            or self._is(each.rectifier, "short")
            or self._is(each.clamp, "short")
            or self._is(each.switch, "short")
        )
        share = tries.duty if tries else 0.5
        if not moves:
            self.trying[each.id] = share
            return 0.0, mean
        if self._is(each.feedback, "dead"):
            self.trying[each.id] = 1.0 / IN_HICCUP
            return each.volts * LOST_FEEDBACK, each.holds_at - 2.0
        if not helped or low or each.id in self.over:
            self.trying[each.id] = share
            return each.volts, mean
        return each.volts, each.runs_at

    def _buck(self, each: Buck) -> None:
        out = f"{each.id}.out"
        feeding = self.volts(each.plus, each.ground)
        off = self._is(each.switch, "dead", "open", "short") or self._is(each.choke, "open") or feeding < 3.0
        volts = 0.0 if off else min(each.volts, feeding)
        self._limited(out, volts, each.limit_amperes)

    def _limited(self, out: str, volts: float, limit: float) -> None:
        """A source that gives so many volts, or its limit into what it finds."""
        given, load = self.load(out)
        if volts and given > limit:
            self.over.add(out)
        if volts and out in self.over:
            volts = min(volts, limit * load)
        self.gives[out] = Impedance(SOURCE_OHMS, dc_volts=volts) if volts > 0 else None

    def _regulator(self, each: Regulator) -> None:
        part = self.supply.part(each.part)
        fed = self.volts(part.a, part.c)
        for rectifier in self.supply.rectifiers:
            bus = self.bus.get(rectifier.id)
            if rectifier.plus == part.a and bus:
                fed = max(fed - bus.mean + bus.valley, self._held(each, part, bus) + each.dropout)
        off = self._is(part.id, "dead", "short", "open")
        volts = 0.0 if off else max(0.0, min(each.volts, fed - each.dropout))
        self._limited(f"{part.id}.out", volts, each.limit_amperes)

    def _held(self, each: Regulator, part: BoardPart, bus: Bus) -> float:
        """The mean a regulator's own capacitor holds over valleys too low for it: charged at each crest, it
        loses what is taken meanwhile."""
        crest_volts = bus.valley + bus.peak_to_peak - each.dropout
        wanted = min(each.volts, crest_volts)
        if wanted <= 0 or bus.peak_to_peak <= 0:
            return 0.0
        electrolytics = (item for item in self.supply.parts if item.kind is K.ELECTROLYTIC)
        held = [item for item in electrolytics if {item.a, item.b} == {part.b, part.c}]
        farads = sum(self._capacitor(item)[0] for item in held if not self._is(item.id, "short"))
        low = math.asin(min(1.0, wanted / crest_volts)) / math.pi / self.hertz
        given = max(0.0, self.given(f"{part.id}.out"))
        return max(0.0, wanted - given * low / (2 * max(farads, LEAST_RAIL)))

    def shown(self, probe: BenchProbe) -> tuple[float, bool]:
        """What a meter shows, and whether that swings."""
        for each in self.supply.rectifiers:
            if probe.range is BenchRange.VAC and (probe.red, probe.black) == (each.plus, each.minus):
                return self.ripple.get(each.id, 0.0), False
        if probe.range is BenchRange.VAC and (pulsed := self._pulsed(probe)) is not None:
            return pulsed, False
        analysis = Analysis.AC if probe.range is BenchRange.VAC else Analysis.DC
        value = self.volts(probe.red, probe.black, analysis)
        if abs(value) < NOTHING:
            value = 0.0
        return value, bool(self.trying) and probe.range is BenchRange.VDC and self._behind(probe)

    def _pulsed(self, probe: BenchProbe) -> float | None:
        """The volts across what charges a bus: it carries pulses, more amperes than its watts tell."""
        for each in self.supply.rectifiers:
            bus = None if each.winding else self.bus.get(each.id)
            for name in each.series if bus else ():
                part = self.supply.part(name)
                if bus and {probe.red, probe.black} == {part.a, part.b}:
                    return bus.amperes_rms * self._ohms(part)
        return None

    def _behind(self, probe: BenchProbe) -> bool:
        buses = {each.plus for each in self.supply.rectifiers if not each.winding}
        return probe.red not in buses


LEAST_RAIL = 1e-6
"""What is left in farads on a rail without its capacitor."""

MOST_OPEN = 60.0
"""A rail nothing holds any more rises until its capacitor ends it."""

NOTHING, LEAST_AMPERES, NO_LOAD = 0.02, 1e-6, 1e6


def _damped(now: Impedance | None, volts: float) -> float:
    return volts if now is None else 0.5 * (now.dc_volts + volts)


def _apart(one: Impedance | None, other: Impedance | None) -> float:
    if one is None or other is None:
        return 0.0 if one is other else 1.0
    was, now = (each.dc_volts or abs(each.ac_volts) or each.ohms for each in (one, other))
    return abs(was - now) / max(abs(was), abs(now), 1e-3)


def _rounded(value: float) -> float:
    """To three figures, so that like cases are stepped once."""
    return float(f"{value:.3g}")
