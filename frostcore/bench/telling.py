"""What the readings of a board mean, in words: the finding, what is changed together, what is read before
power is put on and how, what is asked of the shelf, what the unit's judgement is told."""

from functools import cached_property
from typing import Literal

import numpy as np

from frostcore import cautions
from frostcore.bench.judge import BoardSuspect
from frostcore.bench.ladder import Ladder
from frostcore.bench.live import watts_of
from frostcore.bench.ranges import BenchRange
from frostcore.circuit.figures import WALL_OHMS
from frostcore.diagnosis.hypotheses import ELSEWHERE, WELL
from frostcore.diagnosis.judge import NAMED
from frostcore.diagnosis.step import percent
from frostcore.parts.substitute import Kind
from frostcore.quantity import Dimension, format_ohms, format_value
from frostcore.sentence import in_sentence, joined
from frostcore.sheet.plate import usual_hertz
from frostcore.sheet.supply import BoardPart, BoardPartKind, BoardSupply
from frostcore.supply import foretold
from frostcore.supply.rhythm import Spare, by_degree
from frostcore.tape.noticed import BENCH_BAD, BENCH_SOUND

TELLS = 0.02
"""A part's name is said from this probability on."""


class Telling:
    """A ladder in sentences."""

    def __init__(self, ladder: Ladder) -> None:
        self.ladder, self.judgement = ladder, ladder.judgement
        self.table, self.supply = ladder.table, ladder.supply

    @cached_property
    def found(self) -> Literal["", "bench_sound", "bench_bad"]:
        """What the bench has made of the supply, where it is sure: what the unit's judgement is told."""
        first = self.judgement.suspects[0]
        if first.unit == WELL:
            return BENCH_SOUND if first.probability > SURE_WELL else ""
        bad = sum(each.probability for each in self.judgement.suspects if each.unit not in {WELL, ELSEWHERE})
        return BENCH_BAD if bad > SURE_BAD and self.judgement.readings and self.ladder.first_bad else ""

    @cached_property
    def told(self) -> tuple[str, ...]:
        """What the readings come to, a sentence or two each: the finding, what goes with it, what is still
        owed."""
        named, group = self.judgement.named, self.judgement.group
        if named:
            return (self._finding(named), *self._with(named))
        if group:
            names = joined([self.unit_name(each.unit) for each in group])
            told = f"{names[:1].upper()}{names[1:]}: one of them, and no reading on the board parts them."
            told += " Lift a leg, or look: cracked, burnt?"
            return (told, *(line for each in group for line in self._with(each)))
        first = self.judgement.suspects[0]
        if not self.judgement.readings:
            return ()
        if first.unit == WELL:
            if first.probability > SURE_WELL:
                return ("Nothing of the supply is wrong as far as these readings tell. Look beyond it.",)
            return ()
        likeliest = f"Likeliest: {self._fault_name(first)} ({percent(first.probability)})."
        if self.judgement.next:
            return (likeliest,)
        if first.probability >= NAMED:
            told = "Only figures speak for it, and those it is held against are of usual boards: type what is"
            return (likeliest, f"{told} printed on its parts, or read a good one beside it.")
        return (
            likeliest,
            "No reading is left that tells: lift a leg, look once more, or change what is likeliest.",
        )

    @cached_property
    def replaced(self) -> tuple[tuple[str, dict[str, str]], ...]:
        """What is to be replaced, where the shelf can be asked for it: its name, and what it must be like."""
        named = [self.judgement.named] if self.judgement.named else list(self.judgement.group)
        found = []
        for suspect in named:
            fault = suspect.faults[0][0].fault
            for name in (fault.conditions[0][0], *fault.together) if fault else ():
                part = self.supply.part(name)
                if part.kind in SHELVED:
                    found.append((in_sentence(part.title), _wanted(part)))
        return tuple(found)

    @cached_property
    def suspects(self) -> tuple[tuple[str, str], ...]:
        """What would be fitted, by its likeliest fault, and its probability, in words."""
        found = (each for each in self.judgement.suspects if each.probability >= TELLS)
        return tuple((each.faults[0][0].name, percent(each.probability)) for each in found)

    def unit_name(self, unit: str) -> str:
        """What would be fitted, in words."""
        parts = self.supply.units.get(unit)
        if not parts:
            return unit
        if len(parts) > 1:
            return f"{BLOCKS.get(parts[0].kind, 'block')} {unit}"
        return in_sentence(parts[0].title)

    def _fault_name(self, suspect: BoardSuspect) -> str:
        return in_sentence(suspect.faults[0][0].name)

    def _finding(self, suspect: BoardSuspect) -> str:
        name = suspect.faults[0][0].name
        return f"{name[:1].upper()}{name[1:]}."

    def _with(self, suspect: BoardSuspect) -> tuple[str, ...]:
        """What is changed together with it, and what is read before power is put on again."""
        fault = suspect.faults[0][0].fault
        if fault is None:
            return ()
        found = [f"Why: {fault.why}."]
        if fault.together:
            names = joined([in_sentence(self.supply.part(each).title) for each in fault.together])
            found.append(f"Change together with it: {names}.")
        worn = self._by_degree(fault.conditions[0][0]) if fault.conditions[0][1].kind == "worn" else ""
        found += [worn] if worn else []
        if any(condition.kind == "short" for _, condition in fault.conditions) and fault.together:
            owed = self.before_power
            if owed:
                found.append(f"Before power is put on again read {joined(owed)}.")
        return tuple(found)

    def _by_degree(self, part: str) -> str:
        """What a series capacitor that loses farads does, by how much of it is left."""
        spare = spare_of(self.supply, part, self.table.mains * self.judgement.weigher.ratio)
        if spare is None:
            return ""
        degrees, said = by_degree(spare), list[str]()
        if degrees.silent_below is not None:
            said.append(f"below {degrees.silent_below:.0%} of its farads the relay no longer pulls in")
        if degrees.resets_below is not None and degrees.every is not None:
            rhythm = f"below {degrees.resets_below:.0%} the logic resets every {degrees.every:.1f} s"
            said.append(f"{rhythm} or so as it tries")
        return f"By degree: {'; '.join(said)}." if said else ""

    @cached_property
    def before_power(self) -> tuple[str, ...]:
        """What may be shorted behind the fuse, or gone with it, and has not been read: named as one goes
        along the chain, the diodes of a bridge together."""
        known, risky = self.table.known, set[str]()
        for place in np.flatnonzero(known.takes_fuse):
            if fault := known.all[place].fault:
                risky |= {name for name, _ in fault.conditions}
        risky -= {part.id for part in self.supply.parts if part.kind is BoardPartKind.FUSE}
        read = {self.table.probes[self.table.row[each]].of for each in self.judgement.done}
        bridges = {name: each.id for each in self.supply.rectifiers for name in each.diodes}
        found = dict[str, str]()
        for part in self.supply.parts:
            if part.id in risky - read:
                bridge = bridges.get(part.id)
                found.setdefault(
                    bridge or part.id, "each diode of the bridge" if bridge else in_sentence(part.title)
                )
        return tuple(found.values())

    @cached_property
    def power(self) -> tuple[str, ...]:
        """Whether the mains may be put on, and how."""
        if not self.judgement.power:
            chance = percent(self.judgement.short)
            told = f"No power yet: something behind the fuse is shorted ({chance})."
            return (f"{told} Ohms and diode test first.", *self._fed_by_itself())
        found = ["Power may be put on."]
        supply = as_foretold(self.supply, self.table.mains * self.judgement.weigher.ratio)
        if supply:
            found.append(foretold.lamp_told(supply))
            left = foretold.after_unplugging(supply)
            told = f"After unplugging the bus is under 50 V in {left.ran:.0f} s, with a dead switcher in"
            told += f" {left.dead:.0f} s, with the start resistor open not at all: measure it, every time."
            found.append(told)
        return tuple(found)

    @property
    def _electrolytics(self) -> list[BoardPart]:
        return [part for part in self.supply.parts if part.kind is BoardPartKind.ELECTROLYTIC]

    def _fed_by_itself(self) -> tuple[str, ...]:
        """How the low-voltage side is tried without the mains: a bench supply with a current limit."""
        if not self.supply.isolated:
            return ()
        found = []
        for each in self.supply.switchers:
            watts = watts_of(self.supply, self.table.mains) - each.standby_watts
            amperes = watts * each.efficiency / (each.volts + foretold.DIODE_VOLTS)
            limit = format_value(float(f"{LIMIT_TIMES * amperes:.2g}"), Dimension.CURRENT)
            rail = {each.output, each.ground}
            where = next(part.id for part in self._electrolytics if {part.a, part.b} == rail)
            told = f"The low-voltage side can be tried by itself: {each.volts:g} V from a bench supply"
            found.append(f"{told} across {where}, its limit at {limit}.")
        return tuple(found)

    @property
    def cautions(self) -> tuple[str, ...]:
        """The usual cautions of what is to be read now."""
        following = self.judgement.next
        lines = [cautions.LIVE_PRIMARY if following and following.probe.live else cautions.EMPTY]
        if following and following.probe.range is BenchRange.BESIDE:
            lines.append(cautions.CLIPPED_ON)
        if not self.supply.isolated:
            lines.append(cautions.NOT_ISOLATED)
        return tuple(lines)


SHELVED = {
    BoardPartKind.ELECTROLYTIC: Kind.ELECTROLYTIC,
    BoardPartKind.FILM_CAPACITOR: Kind.FILM_CAPACITOR,
    BoardPartKind.SUPPRESSOR: Kind.SUPPRESSOR,
    BoardPartKind.FUSE: Kind.FUSE,
    BoardPartKind.LIMITER: Kind.NTC,
    BoardPartKind.RESISTOR: Kind.RESISTOR,
}
"""Kinds the workshop's shelf of small parts has, as it calls them."""


def _wanted(part: BoardPart) -> dict[str, str]:
    """A part as the shelf is asked for one that stands in for it."""
    found: dict[str, str] = {"kind": str(SHELVED[part.kind])}
    if part.farads:
        found["farads"] = format_value(part.farads, Dimension.CAPACITANCE)
    if part.volts:
        found["volts_ac" if part.kind is BoardPartKind.SUPPRESSOR else "volts"] = f"{part.volts:g} V"
    if part.esr_ohms:
        found["esr_ohms"] = f"{part.esr_ohms:.3g}"
    if part.amperes:
        found["amperes"] = f"{part.amperes:g} A"
    if part.ohms and part.kind in {BoardPartKind.RESISTOR, BoardPartKind.LIMITER}:
        found["ohms"] = format_ohms(part.ohms)
    return found


LIMIT_TIMES = 2.0
"""A bench supply's limit stands at so many times what the rail takes."""

BLOCKS = {BoardPartKind.CHOKE: "choke", BoardPartKind.WINDING: "transformer", BoardPartKind.DIODE: "bridge"}

SURE_WELL, SURE_BAD = 0.8, 0.95
"""From here on a supply is said to be sound, or to have a fault, to the unit's judgement."""


def as_foretold(supply: BoardSupply, mains: float) -> foretold.Supply | None:
    """A board's bus as the quick check foretells it; None where no switcher hangs on the mains."""
    for each in supply.switchers:
        for rectifier in supply.rectifiers:
            if rectifier.winding or rectifier.plus != each.plus:
                continue
            bulk = supply.part(rectifier.bulk)
            start = supply.part(each.start_resistor)
            return foretold.Supply(
                mains,
                watts_of(supply, mains),
                bulk.farads or 22e-6,
                bulk.esr_ohms or 1.0,
                sum(supply.part(name).ohms or 0.0 for name in rectifier.series) + WALL_OHMS,
                start_ohms=start.ohms or 470e3,
            )
    return None


def spare_of(supply: BoardSupply, part: str, mains: float) -> Spare | None:
    """The rail a series capacitor feeds, with what hangs on it; None for any other part."""
    for each in supply.droppers:
        if each.capacitor != part:
            continue
        rectifier = next(item for item in supply.rectifiers if item.id == each.rectifier)
        coil = next((item for item in supply.parts if item.kind is BoardPartKind.COIL), None)
        logic = sum(item.amperes or 0.0 for item in supply.parts if item.kind is BoardPartKind.LOAD)
        return Spare(
            mains,
            usual_hertz(mains),
            supply.part(part).farads or 0.0,
            supply.part(each.zener).volts or 24.0,
            supply.part(rectifier.bulk).farads or 1e-4,
            logic,
            (coil.ohms if coil else None) or 1e6,
            half=each.half_wave,
        )
    return None
