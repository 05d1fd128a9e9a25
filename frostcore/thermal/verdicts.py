"""What a run shows and what it can't: never cuts out, short cycles, defrost, levels; each with its reason.

"Not seen" and "can't tell" are verdicts. A defrost is no cut-out, what happens in a gap is unknown, and a
temperature that holds says nothing of the compressor's cycles.
"""

import itertools
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import cached_property
from typing import Literal

import numpy as np
import numpy.typing as npt

from frostcore.quantity import format_celsius
from frostcore.sentence import joined
from frostcore.thermal.cycles import FEWEST, Levels, Spell, Turn, grid, levels_of, spells, turns
from frostcore.thermal.log import Log
from frostcore.thermal.plant import Loop, Thermal, targets
from frostcore.thermal.setting import AROUND, MOVES, Setting, in_order, is_known, plant_with

Floats = npt.NDArray[np.float64]
Stands = Literal["yes", "no", "running", "not_seen", "cannot_tell"]

NEVER_HOURS = 8.0
"""So long without a cut-out it should have had one."""

BELOW, BELOW_AIR = 1.0, 2.0
"""And it is so far (K) below its cut-out; by air alone further."""

AIR_TURNS = 10
"""So few rounds a day by air alone are a unit that never stops: its defrosts and its doors."""

USUAL_BELOW, USUAL_ABOVE = 8.0, 2.0
"""Where a control feels a plate, its compartment lies no further below and above what is usual (K)."""

AIR_HOURS, SOON = 12.0, 3.0
"""By air it takes so long; a unit that has not run at all within the second is not waited for."""

AIR_DEFROSTS = 6.0
"""So many rounds a day may be defrosts alone."""

SWING = 0.35
"""A control's turns are at least this share of what lies between its cut-in and its cut-out."""

BULB_SWING = 1.5
"""And of a compartment whose control feels its plate, K."""

SHORT_MINUTES, SHORT_REST, SHORT_SHARE, SHORT_COUNT, SHORT_STEP = 8.0, 10.0, 0.5, 6, 90.0
"""Runs shorter than the first after rests shorter than the second (min) are short cycles where they are such
a share of all runs and so many; seen where rows come at least so often (s)."""

BY_DEFROST = 420.0
"""A stop within so long (s) of a heater's spell is the defrost's."""

MOST_GAP = 120.0
"""A gap of more minutes ends a stretch of running."""

FORCED_HEATS, FORCED_WARMS = 1200.0, 2700.0
"""A defrost that is forced heats within the first by its watts, and warms the coil within the second, s."""

HEATER_MINUTES = 2.5
DUE_HOURS, BY_TIME = 0.5, 3.0
"""A defrost is overdue so many hours of running after its time; it ended by time from so many minutes
beyond its longest on."""

ABOUT = 1.5
"""A thermometer in a compartment and the board's sensor differ by so much (K) without a fault."""


@dataclass(frozen=True)
class Verdict:
    """One thing a run shows: its kind and of what, whether it stands, a sentence, what it would need to
    tell, and until when it must go on (hours from its start)."""

    kind: str
    of: str
    stands: Stands
    words: str
    needs: tuple[str, ...] = ()
    until: float | None = None
    found: str = ""
    """What was found of it, in a word other than yes and no."""

    @property
    def key(self) -> str:
        """Its kind and place: ``holds:freezer``."""
        return f"{self.kind}:{self.of}" if self.of else self.kind

    @property
    def good(self) -> bool:
        """Whether that is as it should be."""
        return self.stands == ("yes" if self.kind in GOOD_IF_SEEN else "no")

    @property
    def mark(self) -> Literal["good", "bad", "open"]:
        """As it should be, not so, or not told."""
        return "open" if self.stands not in {"yes", "no"} else "good" if self.good else "bad"

    @property
    def title(self) -> str:
        """What it is about."""
        return TITLES[self.kind]

    @property
    def sign(self) -> str:
        """The mark as a sign."""
        return {"good": "✓", "bad": "✗"}.get(self.mark) or STANDS_WORDS[self.stands][1]

    @property
    def stands_words(self) -> str:
        """How it stands, in a word."""
        return STANDS_WORDS[self.stands][0]


STANDS_WORDS: dict[Stands, tuple[str, str]] = {
    "yes": ("yes", ""),
    "no": ("no", ""),
    "running": ("still running", "…"),
    "not_seen": ("not seen yet", "…"),
    "cannot_tell": ("can’t tell", "?"),
}
"""How a verdict stands in a word, and its mark where it is neither good nor bad."""

TITLES = {
    "holds": "Comes to its setting",
    "cuts_out": "Cuts out",
    "short_cycles": "Short cycles",
    "defrosts": "Defrost heats",
    "defrost_endless": "Defrost without end",
    "thaws": "Plate thaws at each stop",
}

BAD_WORDS = {
    "holds": "a compartment does not keep its setting",
    "cuts_out": "it does not cut out",
    "short_cycles": "it starts and gives up",
    "defrosts": "its defrost does not heat",
    "defrost_endless": "its defrost does not end",
    "thaws": "it starts again with ice on its plate",
}

GOOD_IF_SEEN = frozenset({"holds", "cuts_out", "defrosts", "thaws"})
"""Kinds that should stand; the others should not."""


def against(found: Mapping[str, str]) -> list[str]:
    """What of what a run found is not as it should be, in words."""
    bad = []
    for key, code in found.items():
        kind = key.partition(":")[0]
        if kind in BAD_WORDS and (code == "yes") != (kind in GOOD_IF_SEEN):
            bad.append(BAD_WORDS[kind])
    return list(dict.fromkeys(bad))


class Judged:
    """A run of a plant, judged from its log, with what was set on the way: no cycle spans a setting, and how
    it keeps its level is told since the last that moved one."""

    def __init__(self, plant: Thermal, log: Log, settings: Iterable[Setting] = ()) -> None:
        self.plant, self.log = plant, log
        self.settings = in_order(settings)
        self.levels: Levels = levels_of(plant)
        self.watts = log.of("watts", "plug")

    @cached_property
    def moves(self) -> tuple[Setting, ...]:
        """The settings from which on it is to be looked at anew; those after the last row are not yet."""
        end = float(self.log.seconds[-1]) if len(self.log.seconds) else 0.0
        return tuple(each for each in self.settings if each.what in MOVES and each.at <= end)

    def piece(self, number: int) -> "Judged":
        """The run from one move to the next (0 is before the first), by the plant as it stood then."""
        borders = [-np.inf, *(each.at for each in self.moves), np.inf]
        start, end = borders[number], borders[number + 1]
        before = [each for each in self.settings if each.at <= start]
        plant = plant_with(self.plant, before)
        log = self.log.between(start, np.nextafter(end, -np.inf) if end < np.inf else end)
        within = [each for each in self.settings if start < each.at < end]
        found = Judged(plant, log, within)
        found.unknown = frozenset(
            room.place for room in plant.compartments if not is_known(plant, before, room.place)
        )
        return found

    unknown: frozenset[str] = frozenset()
    """Compartments of which nobody knows what they should be since a position was set."""

    @cached_property
    def last(self) -> "Judged":
        """What is told of now: since the last move, the whole where there was none."""
        return self.piece(len(self.moves)) if self.moves else self

    @cached_property
    def spells(self) -> tuple[Spell, ...]:
        """What it did by its watts; nothing without them."""
        if self.watts is None:
            return ()
        return spells(self.log.seconds, self.watts, self.levels, self.log.gaps)

    @cached_property
    def defrosts(self) -> tuple[Spell, ...]:
        """The heater's spells."""
        return tuple(each for each in self.spells if each.state == "heats" and each.minutes >= HEATER_MINUTES)

    @cached_property
    def stops(self) -> tuple[float, ...]:
        """Cut-outs (s): it ran, and then stood, and no defrost was about, nor a gap that may hide one."""
        found = []
        hidden = [each for each in self.spells if each.state == "?"]
        for one, other in zip(self.spells, self.spells[1:], strict=False):
            about = any(
                heat.start - BY_DEFROST <= other.start <= heat.end + BY_DEFROST
                for heat in (*self.defrosts, *hidden)
            )
            if one.state == "runs" and other.state == "off" and not about and not self._by_hand(other.start):
                found.append(other.start)
        return tuple(found)

    def _by_hand(self, at: float) -> bool:
        """Whether what happened then may be what was set then."""
        return any(abs(each.at - at) <= AROUND for each in self.settings if each.what != "door")

    @cached_property
    def starts(self) -> tuple[float, ...]:
        """When it began to run (s)."""
        pairs = zip(self.spells, self.spells[1:], strict=False)
        return tuple(other.start for one, other in pairs if other.state == "runs" and one.state == "off")

    @cached_property
    def running_hours(self) -> float:
        """How long it ran in all."""
        return sum(each.minutes for each in self.spells if each.state == "runs") / 60.0

    @cached_property
    def duty(self) -> float | None:
        """The share of the time it ran, defrosts left out; None where too little is known."""
        known = [each for each in self.spells if each.state in {"runs", "off"}]
        whole = sum(each.minutes for each in known)
        return sum(each.minutes for each in known if each.state == "runs") / whole if whole > 60.0 else None

    def turns(self, place: str) -> tuple[Turn, ...]:
        """The turns of a compartment's temperature."""
        values = self.log.of("celsius", place)
        if values is None:
            return ()
        return turns(self.log.seconds, values, [each.at for each in self.settings])

    @cached_property
    def main(self) -> tuple[Loop, str] | None:
        """The loop that stops the compressor, and the compartment its temperature is told by."""
        # Of a valve's two loops the last keeps the compressor on.
        for loop in reversed(self.plant.loops):
            if loop.drives.startswith("damper"):
                continue
            place = self._place(loop)
            if self.log.of("celsius", place) is not None:
                return loop, place
        return None

    def _place(self, loop: Loop) -> str:
        node, _, name = loop.senses.partition(":")
        if node == "sensor":
            return name
        return next((bulb.place for bulb in self.plant.bulbs if bulb.evaporator == name), "")

    def there(self, place: str) -> bool:
        """Whether a compartment has been at its setting."""
        if self.last is not self:
            return self.last.there(place)
        values, target = self.log.of("celsius", place), targets(self.plant)[place]
        return place in self.unknown or (values is not None and bool((values <= target).any()))

    @cached_property
    def first(self) -> dict[str, float]:
        """What each compartment's thermometer showed first, °C."""
        found = {}
        for room in self.plant.compartments:
            values = self.log.of("celsius", room.place)
            if values is not None and not np.isnan(values).all():
                found[room.place] = float(values[~np.isnan(values)][0])
        return found

    @property
    def falling(self) -> list[str]:
        """The compartments with a thermometer that have not been at their setting yet."""
        return [place for place in self.first if not self.there(place)]

    def settled(self, place: str) -> Floats | None:
        """The last third of a compartment's temperature, six hours at least."""
        values = self.log.of("celsius", place)
        if values is None or not len(values):
            return values
        at, by = grid(self.log.seconds, values)
        last = max(6 * 3600.0, (at[-1] - at[0]) / 3)
        known = by[at >= at[-1] - last]
        return np.asarray(known[~np.isnan(known)])

    @cached_property
    def verdicts(self) -> tuple[Verdict, ...]:
        """All of them."""
        now = self.last
        holds = (now.holds(room.place) for room in now.plant.compartments)
        found = (*holds, self._never(), self._short(), *self._defrost(), self._thaws())
        return tuple(each for each in found if each is not None)

    @cached_property
    def in_order(self) -> tuple[Verdict, ...]:
        """What is bad first, then what is open."""
        marks = ("bad", "open", "good")
        return tuple(sorted(self.verdicts, key=lambda each: marks.index(each.mark)))

    @cached_property
    def found(self) -> dict[str, str]:
        """What was found, by kind and place, of what stands: ``cuts_out`` ``never``."""
        return {each.key: each.found or each.stands for each in self.verdicts if each.stands in {"yes", "no"}}

    @cached_property
    def apart(self) -> str:
        """What it says that the compartment the compressor is run for is as it should be and another is not;
        nothing where that is not so, where it does not cut out, or where they share nothing."""
        holds = [each for each in self.verdicts if each.kind == "holds"]
        good = [each.of for each in holds if each.mark == "good"]
        bad = [each.of for each in holds if each.mark == "bad"]
        stops = all(each.mark != "bad" for each in self.verdicts if each.kind == "cuts_out")
        main = self.last.main
        if not bad or not stops or main is None or main[1] not in good or self.plant.modules:
            return ""
        return (
            "One compartment keeps its setting and another does not: what cools them both does so. Look at"
            " what parts them: air path, damper or valve, fan, door, and the sensor of the one that is off."
        )

    @cached_property
    def proof(self) -> str:
        """What of it is proved, in a sentence."""
        bad, waits = against(self.found), [each for each in self.verdicts if each.mark == "open"]
        if bad:
            return f"Not proved: {joined(bad)}."
        if not waits:
            return "Proved: it comes to its settings, stays there, and does what it should on the way."
        needs = sorted({need for each in waits for need in each.needs})
        until = max((each.until for each in waits if each.until is not None), default=None)
        further = [f"it wants {joined(needs)}"] if needs else []
        further += [f"go on to {until:.0f} h"] if until is not None else []
        said = f": {' and '.join(further)}" if further else ""
        return f"Nothing is against it, and {_open(len(waits))} still open{said}."

    # One by one.

    def holds(self, place: str) -> Verdict:
        """Whether a compartment comes to its setting and stays there; where no loop feels its air, whether it
        is as such compartments are kept."""
        known = self.settled(place)
        if known is None:
            return Verdict("holds", place, "cannot_tell", "No thermometer is in it.", (place,))
        if not len(known) or self.log.hours < 1.0:
            return Verdict(
                "holds", place, "running", "It has not run long enough to tell.", until=self._hour(6.0)
            )
        if place in self.unknown:
            said = f"{format_celsius(round(float(known.mean()), 1))} on the mean of its last hours"
            words = f"{said}; what it should be at this position nobody has said."
            return Verdict("holds", place, "cannot_tell", words)
        mean, kept = float(known.mean()), kept_at(self.plant, place)
        shown = f"{format_celsius(round(mean, 1))} on the mean of its last hours{self._spread(place)}"
        said = f"{shown}; {kept.words}"
        high = kept.most
        if kept.least <= mean <= high:
            return Verdict("holds", place, "yes", f"{said}.")
        values = self.log.of("celsius", place)
        falling = values is not None and _falls(self.log.seconds, values)
        if mean > high and falling:
            return Verdict(
                "holds",
                place,
                "running",
                f"{said}; it is still falling.",
                until=self._hour(self.log.hours + 3),
            )
        off = "warm" if mean > high else "cold"
        return Verdict("holds", place, "no", f"{said}: too {off}.", found=off)

    def _spread(self, place: str) -> str:
        """By how much several thermometers in a compartment differ over the last third, in words."""
        each = self.log.each("celsius", place)
        if len(each) < 2:
            return ""
        late = self.log.seconds >= self.log.seconds[-1] - (self.log.seconds[-1] - self.log.seconds[0]) / 3
        means = [float(np.nanmean(values[late])) for values in each if not np.isnan(values[late]).all()]
        if len(means) < 2:
            return ""
        return f" of {len(means)} thermometers, {max(means) - min(means):.1f} K apart"

    def clock(self, hours: float) -> datetime:
        """The moment so many hours after the log's zero, by its own clock."""
        return self.log.begins + timedelta(hours=hours)

    def _hour(self, hours: float) -> float:
        """Hours after the whole run's first row, of hours after this one's."""
        return hours + (float(self.log.seconds[0]) / 3600.0 if len(self.log.seconds) else 0.0)

    def _level(self, below: float) -> bool | None:
        """Whether the main compartment is so far below its cut-out; None where nothing tells."""
        if self.last is not self:
            return self.last._level(below)  # noqa: SLF001 -- its own kind
        if self.main is None or self.main[1] in self.unknown:
            return None
        loop, place = self.main
        known = self.settled(place)
        if known is None or not len(known):
            return None
        if not _senses_air(loop):
            return float(np.median(known)) < targets(self.plant)[place] - USUAL_BELOW - below
        return float(np.median(known)) < loop.cut_out - below

    @cached_property
    def longest(self) -> float:
        """The hours it ran at a stretch; a defrost is no stop, nor what a gap may have hidden if it is
        short."""
        best = now = 0.0
        marks = set(self.stops)
        moved = [each.at for each in self.moves]
        for each in self.spells:
            if each.start in marks or (each.state == "?" and each.minutes > MOST_GAP):
                now = 0.0
            for since, until in itertools.pairwise(_parted(each, moved)):
                now = 0.0 if since in moved else now
                if each.state == "runs":
                    now += (until - since) / 3600.0
                    best = max(best, now)
        return best

    def _never(self) -> Verdict | None:
        if self.plant.modules:
            return None
        return self._never_by_air() if self.watts is None else self._never_by_watts()

    def _never_by_watts(self) -> Verdict:
        below = self._level(BELOW) if self.longest >= NEVER_HOURS else None
        if self.stops and not below:
            return _cuts_out("yes", f"It cut out {times(len(self.stops))} by its watts.")
        if self.longest >= NEVER_HOURS:
            ran = f"It ran {self.longest:.0f} h without a cut-out"
            words = {
                True: f"{ran}, and is below where it should stop: it never cuts out.",
                False: f"{ran} and does not get cold enough to: it runs on.",
                None: f"{ran}; no thermometer tells whether it is cold enough to.",
            }
            return _cuts_out("no", words[below], found="never" if below else "runs_on")
        if self.running_hours == 0.0 and self.log.hours > SOON:
            return _cuts_out("no", "It never ran at all.", found="dead")
        left = self.log.hours + NEVER_HOURS - self.longest
        return _cuts_out("running", "No cut-out has been seen yet.", until=left)

    def _never_by_air(self) -> Verdict:
        if self.main is None:
            words = "Neither watts nor its compartment’s temperature is here."
            return _cuts_out("cannot_tell", words, ("watts",))
        _, place = self.main
        below = self._level(BELOW_AIR)
        rounds = self._swings(place) / 2
        a_day = rounds * 24.0 / max(self.log.hours, 1.0)
        if self.log.hours >= AIR_HOURS and a_day <= AIR_TURNS and below:
            words = "Its temperature hardly turns and is far below its cut-out: it never cuts out."
            return _cuts_out("no", words, found="never")
        defrosts = any(face.heater for face in self.plant.evaporators)
        if rounds >= FEWEST and below is False and not (defrosts and a_day < AIR_DEFROSTS):
            return _cuts_out(
                "yes", f"Its temperature came and went {times(round(rounds))} about its setting."
            )
        return _cuts_out("cannot_tell", "Air alone does not tell it: watts do.", ("watts",))

    def _swings(self, place: str) -> int:
        """Turns that are as large as a control's: a door's are not."""
        loop = self.main[0] if self.main else None
        least = SWING * (loop.cut_in - loop.cut_out) if loop and _senses_air(loop) else BULB_SWING
        found = self.turns(place)
        pairs = itertools.pairwise(found)
        return sum(abs(one.celsius - other.celsius) >= least for one, other in pairs)

    def _short(self) -> Verdict | None:
        if self.plant.modules:
            return None
        if self.watts is None:
            return Verdict("short_cycles", "", "cannot_tell", "Air does not show them: watts do.", ("watts",))
        if self.log.step > SHORT_STEP:
            words = f"A row every {self.log.step / 60:.0f} min shows no short cycles; a row a minute does."
            return Verdict("short_cycles", "", "cannot_tell", words, ("watts every minute",))
        runs = [
            (one.minutes, each.minutes)
            for one, each, after in zip(self.spells, self.spells[1:], self.spells[2:], strict=False)
            if one.state == "off" and each.state == "runs" and after.state == "off"
        ]
        if not runs:
            stands: Stands = "no" if self.longest >= NEVER_HOURS else "running"
            words = "It runs on." if stands == "no" else "No whole cycle has been seen yet."
            return Verdict("short_cycles", "", stands, words, until=self.log.hours + 2)
        short = sum(rest < SHORT_REST and run < SHORT_MINUTES for rest, run in runs)
        rested, ran = (float(each) for each in np.median(np.array(runs), axis=0))
        said = f"{ran:.0f} min a run, {rested:.0f} between"
        if short >= SHORT_COUNT and short >= SHORT_SHARE * len(runs):
            return Verdict("short_cycles", "", "yes", f"{said}: it starts and gives up.")
        return Verdict("short_cycles", "", "no", f"{said}.")

    def _defrost(self) -> list[Verdict]:
        defrost = self.plant.defrost
        if defrost.kind == "none" or not any(face.heater for face in self.plant.evaporators):
            return []
        coil = next(
            (
                values
                for face in self.plant.evaporators
                if face.heater and (values := self.log.of("celsius", f"coil:{face.id}")) is not None
            ),
            None,
        )
        forced = self._forced(coil)
        if forced and not self.defrosts:
            return [forced]
        if self.watts is None:
            return self._by_coil(coil)
        if self.defrosts:
            longest = max(each.minutes for each in self.defrosts)
            said = f"The heater was on {times(len(self.defrosts))}, {longest:.0f} min at the longest"
            verdicts = [Verdict("defrosts", "", "yes", f"{said}.")]
            ended = longest < defrost.most + BY_TIME
            words = (
                f"It ended after {longest:.0f} min, by its temperature or its time."
                if ended
                else f"It went on for {longest:.0f} min; it should end by {defrost.most:.0f}."
            )
            return [*verdicts, Verdict("defrost_endless", "", "no" if ended else "yes", words)]
        due = defrost.hours + DUE_HOURS
        ran = self._ran_whole
        if ran >= due:
            words = f"It ran {ran:.1f} h without its heater; a defrost was due after {defrost.hours:.0f} h."
            return [Verdict("defrosts", "", "no", words)]
        words = "No defrost has been seen, and none was due yet"
        left = self.log.hours + (due - ran) / max(self.duty or 0.5, 0.1)
        return [
            Verdict("defrosts", "", "not_seen", f"{words}: force one, or go on to {left:.0f} h.", until=left)
        ]

    def _thaws(self) -> Verdict | None:
        """Whether a plate that is defrosted while it stands has lost its ice before it is cooled again: by
        its own thermometer."""
        plates = [
            loop.senses.partition(":")[2]
            for loop in self.plant.loops
            if loop.senses.startswith("bulb:") and not any(face.heater for face in self.plant.evaporators)
        ]
        if not plates:
            return None
        values = self.log.of("celsius", f"coil:{plates[0]}")
        if values is None:
            words = "Whether its plate loses its ice at each stop a thermometer on the plate tells."
            return Verdict("thaws", "", "cannot_tell", words, ("coil",))
        cuts = [each.at for each in self.settings]
        tops = [turn.celsius for turn in turns(self.log.seconds, values, cuts) if turn.top]
        if len(tops) < FEWEST:
            words = f"{len(tops)} stops of its plate have been seen; {FEWEST} tell."
            return Verdict("thaws", "", "not_seen", words, until=self._hour(self.log.hours + 8))
        thawed = sum(top >= COIL_WARM for top in tops)
        said = f"At {thawed} of {len(tops)} stops its plate came above {format_celsius(COIL_WARM)}"
        if thawed == len(tops):
            return Verdict("thaws", "", "yes", f"{said}.")
        coldest = format_celsius(round(min(tops), 1))
        words = f"{said}; it was cooled again from {coldest}: ice stays on it. Its cut-in is too cold."
        return Verdict("thaws", "", "no", words)

    def _forced(self, coil: Floats | None) -> Verdict | None:
        """What came of the last defrost that was forced; None where none was, or nothing tells."""
        asked = [each.at for each in self.settings if each.what == "defrost"]
        if not asked or (self.watts is None and coil is None):
            return None
        at, end = asked[-1], float(self.log.seconds[-1])
        wait = FORCED_HEATS if self.watts is not None else FORCED_WARMS
        said = f"A defrost was forced at {at / 3600:.1f} h"
        hidden = any(start < at + wait and stop > at for start, stop in self.log.gaps)
        if end < at + wait or hidden:
            words = f"{said}; whether it heats is told within {wait / 60:.0f} min."
            return Verdict("defrosts", "", "running", words, until=(at + wait) / 3600)
        if self.watts is not None:
            heats = any(each.end > at - AROUND and each.start < at + wait for each in self.defrosts)
        else:
            near = (self.log.seconds >= at) & (self.log.seconds <= at + 2 * wait)
            heats = bool((coil[near] > COIL_WARM).any()) if coil is not None else False
        if heats:
            return Verdict("defrosts", "", "yes", f"{said}, and it heats.")
        by = "its watts show no heater" if self.watts is not None else "the coil stays below 0 °C"
        return Verdict("defrosts", "", "no", f"{said}, and {by}.")

    @cached_property
    def _ran_whole(self) -> float:
        """The most hours it ran between gaps."""
        best = now = 0.0
        for each in self.spells:
            if each.state == "?":
                now = 0.0
            elif each.state == "runs":
                now += each.minutes / 60.0
                best = max(best, now)
        return best

    def _by_coil(self, coil: Floats | None) -> list[Verdict]:
        """A defrost by the coil's own thermometer."""
        if coil is None:
            words = "Air does not tell a defrost from a door: watts or a thermometer on the coil do."
            return [Verdict("defrosts", "", "cannot_tell", words, ("watts", "coil"))]
        _at, by = grid(self.log.seconds, coil)
        warm = np.nan_to_num(by, nan=-99.0) > COIL_WARM
        edges = np.flatnonzero(np.diff(warm.astype(int)) == 1)
        if len(edges):
            return [Verdict("defrosts", "", "yes", f"The coil was above 0 °C {times(len(edges))}.")]
        hours = self.log.hours
        due = self.plant.defrost.hours / 0.3
        if hours >= due and not self.log.gaps:
            return [Verdict("defrosts", "", "no", f"The coil never came above 0 °C in {hours:.0f} h.")]
        words = f"The coil has not been above 0 °C; force a defrost, or go on to {due:.0f} h."
        return [Verdict("defrosts", "", "not_seen", words, until=due)]


@dataclass(frozen=True)
class KeptAt:
    """Between which means a compartment is as it should be, °C, and what it is kept at in words."""

    least: float
    most: float
    words: str


def kept_at(plant: Thermal, place: str) -> KeptAt:
    """A compartment's: by the loop that feels its air, with what a thermometer and the board's sensor differ
    by; where none does, as such compartments are kept."""
    loop = next((each for each in plant.loops if each.senses == f"sensor:{place}"), None)
    usual = targets(plant)[place]
    low, high = (loop.cut_out, loop.cut_in) if loop else (usual - USUAL_BELOW, usual + USUAL_ABOVE)
    about = ABOUT if loop else 0.0
    who = "its control keeps" if loop else "such a one is usually kept at"
    return KeptAt(low - about, high + about, f"{who} {format_celsius(low)} to {format_celsius(high)}")


def _cuts_out(
    stands: Stands,
    words: str,
    needs: tuple[str, ...] = (),
    until: float | None = None,
    *,
    found: str = "",
) -> Verdict:
    return Verdict("cuts_out", "", stands, words, needs, until, found)


def _senses_air(loop: Loop) -> bool:
    return loop.senses.startswith("sensor:")


COIL_WARM = 2.0


def _parted(spell: Spell, moments: Sequence[float]) -> list[float]:
    """A spell's start, the moments within it, its end."""
    return [spell.start, *(at for at in moments if spell.start < at < spell.end), spell.end]


def _open(count: int) -> str:
    return "one thing is" if count == 1 else f"{count} things are"


def times(count: int) -> str:
    """How often, in words."""
    return {1: "once", 2: "twice"}.get(count, f"{count} times")


def _falls(seconds: Floats, values: Floats) -> bool:
    """Whether it still comes down: its tops over the last quarter (an hour at least) lie below those of the
    quarter before. The slope of a swing is no way down."""
    wide = max(3600.0, float(seconds[-1] - seconds[0]) / 4)
    parts = [
        values[(seconds > seconds[-1] - (n + 1) * wide) & (seconds <= seconds[-1] - n * wide)] for n in (0, 1)
    ]
    known = [part[~np.isnan(part)] for part in parts]
    if min(len(part) for part in known) < FEW_ROWS:
        return False
    last, before = (float(np.percentile(part, 90)) for part in known)
    return before - last > max(STILL, STILL_HOUR * wide / 3600.0)


FEW_ROWS = 5
STILL, STILL_HOUR = 0.3, 0.1
"""Tops that come down by less (K; K an hour) do not."""
