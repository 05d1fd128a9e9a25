"""A plant's control: what runs by its loops, its defrost, its overload, its doors; and what changes that.

It answers in three ways: the mode it asks for, the guards at which something switches, and the next moment
something is due by the clock.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from frostcore.thermal.plant import Thermal

HOUR, MINUTE, DAY = 3600.0, 60.0, 86400.0


@dataclass(frozen=True)
class Act:
    """Something done from outside at a moment (s): a loop's levels shifted (K), a defrost forced, the plug
    pulled or put back, a door opened or closed."""

    at: float
    what: Literal["shift", "defrost", "unplug", "plug", "open", "close"]
    of: str = ""
    by: float = 0.0


@dataclass(frozen=True)
class Event:
    """Something that happened: when (s), what, to what."""

    at: float
    what: str
    of: str = ""


@dataclass(frozen=True)
class Guard:
    """A level something must not pass: ``sign`` · (node − level) stays above nothing until it happens."""

    node: str
    level: float
    sign: float
    what: str
    of: str = ""


class Control:
    """The control of one plant on its way through time."""

    def __init__(self, plant: Thermal, acts: tuple[Act, ...] = (), *, warm: bool = True) -> None:
        self.plant = plant
        self.levels = [(loop.cut_in, loop.cut_out) for loop in plant.loops]
        self.asks = [warm] * len(plant.loops)
        self.plugged = True
        self.tripped = False
        self.stands_until = 0.0
        self.limps_at = np.inf
        self.defrosting: Literal["", "heats", "drips"] = ""
        self.left = plant.defrost.hours * HOUR
        self.ends_at = np.inf
        self.fused = False
        self.doors: frozenset[str] = frozenset()
        self.events: list[Event] = []
        self._acts = sorted(acts, key=lambda act: act.at)
        self._next = 0
        self._since = 0.0
        self._was_running = False

    # What runs.

    @property
    def asked(self) -> bool:
        """Whether any loop asks for the compressor."""
        kinds = ("compressor", "valve")
        return any(
            asks
            for loop, asks in zip(self.plant.loops, self.asks, strict=True)
            if loop.drives.startswith(kinds)
        )

    @property
    def runs(self) -> bool:
        """Whether the compressor does."""
        compressor = self.plant.compressor
        if compressor is None or not self.plugged or compressor.component in self.plant.never_runs:
            return False
        if self.defrosting or self.tripped:
            return False
        if compressor.component in self.plant.never_stops:
            return True
        return self.asked and not self._stands

    @property
    def _stands(self) -> bool:
        return self._since < self.stands_until

    @property
    def cools(self) -> frozenset[str]:
        """The evaporators the compressor cools now."""
        if not self.runs:
            return frozenset()
        for loop, asks in zip(self.plant.loops, self.asks, strict=True):
            if loop.drives.startswith("valve:") and asks:
                return frozenset({loop.drives.removeprefix("valve:")})
        return frozenset({self.plant.evaporators[-1].id})

    @property
    def fans(self) -> frozenset[str]:
        """The fans that turn."""
        if not self.plugged:
            return frozenset()
        found, cools = set(), self.cools
        for face in self.plant.evaporators:
            if face.fan and (face.fan_runs == "always" or face.id in cools):
                found.add(face.fan)
        if self.plant.condenser and self.plant.condenser.fan and cools:
            found.add(self.plant.condenser.fan)
        found |= {module.fan for module in self.plant.modules if module.fan}
        found |= self.plant.fans & self.plant.never_stops
        return frozenset(found - self.plant.never_runs)

    @property
    def closed(self) -> frozenset[str]:
        """The dampers that are closed."""
        stuck, found = dict(self.plant.stuck), set()
        for loop, asks in zip(self.plant.loops, self.asks, strict=True):
            kind, _, name = loop.drives.partition(":")
            if kind == "damper" and stuck.get(name, "" if asks else "closed") == "closed":
                found.add(name)
        return frozenset(found)

    @property
    def heats(self) -> frozenset[str]:
        """The evaporators whose heater is on."""
        if not self.plugged or self.fused:
            return frozenset()
        return frozenset(
            face.id
            for face in self.plant.evaporators
            if face.heater
            and face.heater not in self.plant.never_runs
            and (self.defrosting == "heats" or face.heater in self.plant.never_stops)
        )

    @property
    def modules(self) -> frozenset[str]:
        """The modules that are driven."""
        found = set()
        for loop, asks in zip(self.plant.loops, self.asks, strict=True):
            kind, _, name = loop.drives.partition(":")
            if kind == "module" and (asks or name in self.plant.never_stops):
                found.add(name)
        return frozenset(found - self.plant.never_runs) if self.plugged else frozenset()

    @property
    def key(self) -> tuple[object, ...]:
        """All that its mode and its guards come from."""
        return (
            tuple(self.asks), tuple(self.levels), self.plugged, self.tripped, self.runs, self.defrosting,
            self.fused, self.doors,
        )  # fmt: skip

    # What may happen.

    def guards(self) -> list[Guard]:
        """The levels at which it switches something."""
        found = []
        for number, (loop, asks) in enumerate(zip(self.plant.loops, self.asks, strict=True)):
            cut_in, cut_out = self.levels[number]
            level, sign = (cut_out, 1.0) if asks else (cut_in, -1.0)
            found.append(Guard(loop.senses, level - loop.error, sign, "loop", str(number)))
        compressor = self.plant.compressor
        if compressor:
            if self.tripped:
                found.append(Guard("shell", compressor.resets, 1.0, "reset"))
            elif self.runs:
                found.append(Guard("shell", compressor.trips, -1.0, "trip"))
        if self.defrosting == "heats":
            ends = self.plant.defrost.ends
            heated = [face.id for face in self.plant.evaporators if face.heater]
            found += [Guard(f"coil:{name}", ends, -1.0, "thawed", name) for name in heated]
        found += [
            Guard(f"metal:{name}", self.plant.defrost.fuse, -1.0, "fused", name)
            for name in sorted(self.heats)
        ]
        return found

    def due(self) -> float:
        """The next moment something happens by the clock."""
        moments = [self.ends_at, self.limps_at]
        if self._next < len(self._acts):
            moments.append(self._acts[self._next].at)
        if self.asked and self._stands:
            moments.append(self.stands_until)
        counts = self.plant.defrost.kind == "timer" or self.runs
        if self.plant.defrost.kind != "none" and not self.defrosting and counts and self.plugged:
            moments.append(self._since + self.left)
        return min(moments)

    # What happens.

    def move(self, now: float) -> None:
        """Let the time pass until now."""
        kind = self.plant.defrost.kind
        if not self.defrosting and self.plugged and (kind == "timer" or self._was_running):
            self.left -= now - self._since
        self._since = now

    def note(self, what: str, of: str = "") -> None:
        """Keep what happened."""
        self.events.append(Event(self._since, what, of))

    def settle(self) -> None:
        """Note whether the compressor began or stopped, and what that sets."""
        runs, compressor = self.runs, self.plant.compressor
        if compressor and runs != self._was_running:
            self._was_running = runs
            self.note("starts" if runs else "stops")
            if runs:
                self.limps_at = self._since + compressor.limps[0] if compressor.limps else np.inf
            else:
                self.limps_at = np.inf
                self.stands_until = max(self.stands_until, self._since + compressor.stands)

    def happens(self, what: str, of: str) -> None:
        """A guard was passed."""
        if what == "loop":
            self.asks[int(of)] = not self.asks[int(of)]
        elif what == "trip":
            self.tripped = True
            self.note("trips")
        elif what == "reset":
            self.tripped = False
        elif what == "thawed":
            self._drip("temperature")
        elif what == "fused":
            self.fused = True
            self.note("fuse opens", of)

    def clock(self) -> None:
        """Something was due by the clock."""
        now = self._since
        while self._next < len(self._acts) and self._acts[self._next].at <= now:
            self._act(self._acts[self._next])
            self._next += 1
        compressor = self.plant.compressor
        if now >= self.limps_at and compressor and compressor.limps:
            self.limps_at = np.inf
            self.stands_until = now + compressor.limps[1]
        if now >= self.ends_at:
            if self.defrosting == "heats":
                self._drip("time")
            elif self.defrosting == "drips":
                self.defrosting, self.ends_at, self.left = "", np.inf, self.plant.defrost.hours * HOUR
                self.note("cools again")
        if self.plant.defrost.kind != "none" and not self.defrosting and self.left <= 1e-6:
            self._defrost()

    def _defrost(self) -> None:
        self.defrosting = "heats"
        self.ends_at = self._since + self.plant.defrost.most * MINUTE
        self.note("defrost")

    def _drip(self, by: str) -> None:
        self.defrosting = "drips"
        self.ends_at = self._since + self.plant.defrost.drips * MINUTE
        self.note("defrost ends", by)

    def _act(self, act: Act) -> None:
        if act.what == "shift":
            self.levels = [
                (low + act.by, high + act.by) if act.of in {"", str(number)} else (low, high)
                for number, (low, high) in enumerate(self.levels)
            ]
        elif act.what == "defrost":
            if not self.defrosting:
                self._defrost()
        elif act.what in {"unplug", "plug"}:
            self.plugged = act.what == "plug"
        elif act.what == "open":
            self.doors |= {act.of}
            self.note("door opens", act.of)
        else:
            self.doors -= {act.of}
        if act.what not in {"open", "close"}:
            self.note(act.what, act.of)


def openings(plant: Thermal, days: float, seed: int = 0) -> tuple[Act, ...]:
    """Doors opened as in a household: so many times a day between seven and eleven, some seconds each."""
    chance, acts = np.random.default_rng(seed), list[Act]()
    for room in plant.compartments:
        for day in range(int(np.ceil(days))):
            moments = np.sort(chance.uniform(7 * HOUR, 23 * HOUR, room.openings)) + day * DAY
            apart = np.diff(moments, prepend=0.0) > MINUTE
            spans = chance.uniform(8, 30, room.openings)
            for moment, seconds in zip(moments[apart], spans[apart], strict=True):
                acts += [
                    Act(float(moment), "open", room.place),
                    Act(float(moment + seconds), "close", room.place),
                ]
    return tuple(act for act in acts if act.at < days * DAY)
