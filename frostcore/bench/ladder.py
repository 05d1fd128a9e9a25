"""The ladder: one picture of a board from mains to rails, each stage a rung with what to read there, where it
should be, what was read, and the first rung that fails; with what that means and how power is put on."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np

from frostcore import cautions
from frostcore.bench.judge import LIVE_SHORT, BenchJudgement, BoardSuspect
from frostcore.bench.live import watts_of
from frostcore.bench.probes import ANSWERS, FLOORS, GOOD, NOTHING, SHARES, BenchProbe, BenchRange, leads
from frostcore.bench.table import ELSEWHERE, WELL
from frostcore.bench.weigh import UNITS, BenchReading
from frostcore.diagnosis.step import percent
from frostcore.errors import FrostError, QuantityError
from frostcore.parts.loads import HIGH_MAINS_VOLTS
from frostcore.parts.substitute import Kind
from frostcore.quantity import Dimension, Quantity, State, format_ohms, format_value, parse
from frostcore.rows import quantity
from frostcore.sentence import in_sentence, joined
from frostcore.sheet.plate import usual_hertz
from frostcore.sheet.supply import BoardPart, BoardPartKind, BoardSupply
from frostcore.supply import foretold
from frostcore.supply.rhythm import Spare, by_degree
from frostcore.tape.noticed import BENCH_BAD, BENCH_SOUND
from frostcore.verdict import Band, Verdict

UNREAD, GOOD_RUNG, BAD_RUNG, FIRST_BAD = "unread", "good", "bad", "first_bad"
"""How a rung stands."""

RUNG_WORDS = {
    UNREAD: "not read yet",
    GOOD_RUNG: "as it should be",
    BAD_RUNG: "off too",
    FIRST_BAD: "the first that fails",
}

SAID_FROM = 0.005
TELLS = 0.02
"""A part's name is said from this probability on."""


@dataclass(frozen=True)
class RungReading:
    """A reading of a rung: the probe, what a sound board shows, what was read and where that stands."""

    probe: BenchProbe
    expected: str
    shown: str
    verdict: Verdict | None
    wanted: bool
    leads: str = ""
    """Where the leads go, where its name does not say it."""

    @property
    def answers(self) -> dict[str, str]:
        """The answers there are, where it is no figure."""
        return ANSWERS.get(self.probe.range, {})


@dataclass(frozen=True)
class Rung:
    """A stage of the chain: how it stands, how likely the fault is here, its readings."""

    id: str
    name: str
    side: str
    state: str
    chance: float
    readings: tuple[RungReading, ...]

    @property
    def wanted(self) -> RungReading | None:
        """The reading to take now, where it is one of this rung."""
        return next((each for each in self.readings if each.wanted), None)

    @property
    def read(self) -> tuple[RungReading, ...]:
        """What has been read here."""
        return tuple(each for each in self.readings if each.shown)

    @property
    def unread(self) -> tuple[RungReading, ...]:
        """What has not."""
        return tuple(each for each in self.readings if not each.shown)

    @property
    def percent(self) -> str:
        """How likely the fault is here, in words; empty where it hardly is."""
        return percent(self.chance) if self.chance >= SAID_FROM else ""

    @property
    def word(self) -> str:
        """How it stands, in words."""
        return RUNG_WORDS[self.state]


class Ladder:
    """A board's judgement as rungs and sentences."""

    def __init__(self, judgement: BenchJudgement) -> None:
        self.judgement, self.table = judgement, judgement.table
        self.supply = judgement.supply
        self._shown = {each.probe: each for each in judgement.readings}

    @cached_property
    def asked(self) -> RungReading | None:
        """What is asked of the board as it was, before anything is read."""
        return next(
            (self._reading(probe) for probe in self.table.probes if probe.range is BenchRange.SAID), None
        )

    @cached_property
    def rungs(self) -> tuple[Rung, ...]:
        """The stages from mains to rails."""
        stages, found, failed = self.judgement.stages, list[Rung](), False
        for stage in self.supply.stages:
            mine = [
                self._reading(probe)
                for probe in self.table.probes
                if probe.stage == stage.id and probe.range is not BenchRange.SAID
            ]
            verdicts = [each.verdict for each in mine if each.verdict]
            bad = any(each is not Verdict.IN_BAND and each is not Verdict.UNCLEAR for each in verdicts)
            state = (BAD_RUNG if failed else FIRST_BAD) if bad else GOOD_RUNG if verdicts else UNREAD
            failed = failed or bad
            found.append(Rung(stage.id, stage.name, stage.side, state, stages[stage.id], tuple(mine)))
        return tuple(found)

    @property
    def first_bad(self) -> Rung | None:
        """The first rung that fails."""
        return next((rung for rung in self.rungs if rung.state == FIRST_BAD), None)

    def _reading(self, probe: BenchProbe) -> RungReading:
        following = self.judgement.next
        wanted = following is not None and following.probe.id == probe.id
        taken = self._shown.get(probe.id)
        row = self.table.row[probe.id]
        if row in self.table.answers:
            shown = ANSWERS[probe.range][taken.answer] if taken else ""
            verdict = None
            if taken and probe.range is not BenchRange.SAID:
                verdict = Verdict.IN_BAND if taken.answer in CLEARS else Verdict.UNCLEAR
            return RungReading(probe, "", shown, verdict, wanted)
        shown = shown_value(probe.range, taken.value) if taken else ""
        told = self.expected(probe), shown, self.verdict(probe, taken)
        return RungReading(probe, *told, wanted, leads(self.supply, probe))

    def band(self, probe: BenchProbe) -> Band | None:
        """Where a sound board's reading lies; None where it is OL or electronics' doing."""
        row, weigher = self.table.row[probe.id], self.judgement.weigher
        values = self.table.values[:, row, 0]
        if not np.isfinite(values).all() or weigher.spoilt(row)[:, 0].any():
            return None
        values = weigher.foretold(row)[:, 0] * UNITS[probe.range]
        share, floor = SHARES[probe.range], FLOORS[probe.range]
        low, high = float(values.min()), float(values.max())
        wide = MORE * (high - low) / 2
        share += ROUNDED
        return Band(
            max(0.0, low * (1 - share) - floor - wide),
            float(np.median(values)),
            high * (1 + share) + floor + wide,
        )

    def expected(self, probe: BenchProbe) -> str:
        """What a sound board shows there, in words."""
        row = self.table.row[probe.id]
        if np.isinf(self.table.values[:, row, 0]).all():
            return "OL"
        band = self.band(probe)
        if band is None:
            return "no dead short"
        low, high = (shown_value(probe.range, each) for each in (band.low, band.high))
        if band.low <= 0:
            return f"under {high}"
        return f"{low} to {high}"

    def verdict(self, probe: BenchProbe, taken: BenchReading | None) -> Verdict | None:
        """Where a reading stands against a sound board's; None where nothing was read."""
        if taken is None:
            return None
        row, value = self.table.row[probe.id], taken.value
        band = self.band(probe)
        if band is None:
            opened = bool(np.isinf(self.table.values[:, row, 0]).all())
            if value is not None and value < DEAD_SHORT[probe.range]:
                return Verdict.SHORT
            return Verdict.IN_BAND if value is None or not opened else _lower(probe)
        if value is None:
            return Verdict.OPEN
        return band.verdict(value)

    @cached_property
    def found(self) -> Literal["", "bench_sound", "bench_bad"]:
        """What the bench has made of the supply, where it is sure: what the unit's judgement is told."""
        first = self.judgement.suspects[0]
        if first.unit == WELL:
            return BENCH_SOUND if first.probability > SURE_WELL else ""
        bad = sum(each.probability for each in self.judgement.suspects if each.unit not in {WELL, ELSEWHERE})
        return BENCH_BAD if bad > SURE_BAD and self.judgement.readings and self.first_bad else ""

    # What it means.

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
        return (f"Likeliest: {self._fault_name(first)} ({percent(first.probability)}).",)

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
        fuses = {part.id for part in self.supply.parts if part.kind is BoardPartKind.FUSE}
        risky = set[str]()
        for fault in self.table.known.faults:
            if fuses & set(fault.together):
                risky |= {fault.conditions[0][0], *fault.together} - fuses
        read = {self.table.probes[self.table.row[each]].of for each in self._shown}
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
        short = self.judgement.short
        if short > LIVE_SHORT:
            told = f"No power yet: something behind the fuse is shorted ({percent(short)})."
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

ROUNDED = 0.005
"""What rounding to three figures may move a limit by."""

MORE = 0.5
"""Good boards stray beyond the few that were drawn by this share of what those differ by, either way."""

SURE_WELL, SURE_BAD = 0.8, 0.95
"""From here on a supply is said to be sound, or to have a fault, to the unit's judgement."""

CLEARS = frozenset({GOOD, NOTHING})
"""Answers as a sound part gives them."""

DEAD_SHORT = {
    BenchRange.OHM: 5.0, BenchRange.DIODE: 0.05, BenchRange.ESR: 0.01, BenchRange.FARADS: 0.0,
    BenchRange.VAC: 0.0, BenchRange.VDC: 0.0,
}  # fmt: skip
"""Under that a reading that should be OL is a short."""


def _lower(probe: BenchProbe) -> Verdict:
    """A figure where OL should be."""
    return Verdict.LOW if probe.range is not BenchRange.LOOK else Verdict.UNCLEAR


def shown_value(which: BenchRange, value: float | None) -> str:
    """A value as a meter's screen says it."""
    if value is None or math.isinf(value):
        return "OL"
    if which in {BenchRange.OHM, BenchRange.ESR}:
        return format_ohms(value) if value >= MILLI else f"{value:.2f} Ω"
    if which is BenchRange.FARADS:
        return format_value(value, Dimension.CAPACITANCE)
    if which is BenchRange.DIODE or abs(value) < 1:
        return f"{value:.2f} V"
    return format_value(value, Dimension.VOLTAGE)


MILLI = 1.0


def reading_from(judgement: BenchJudgement, probe_id: str, typed: str) -> tuple[BenchReading, str]:
    """A reading as typed at a probe, and how it is understood; FrostError for a probe the board has not, an
    answer there is none of, a value no meter shows there."""
    table = judgement.table
    if probe_id not in table.row:
        some = ", ".join(probe.id for probe in table.probes[:4])
        raise FrostError(f"There is no reading “{probe_id}” on this board; there are {some} and others.")
    probe = table.probes[table.row[probe_id]]
    answers = ANSWERS.get(probe.range)
    if answers:
        word = typed.strip().lower()
        if word not in answers:
            options = " or ".join(answers)
            raise FrostError(f"{probe.name}: “{typed.strip()}” is no answer; write {options}.")
        return BenchReading(probe_id, answer=word), answers[word]
    dimension = probe.range.dimension
    assert dimension is not None  # noqa: S101 -- what is no answer is a figure
    if _is_open(typed):
        if probe.live:
            raise FrostError(f"{probe.name}: volts are never OL; type what the meter shows, such as 12.1 V.")
        return BenchReading(probe_id), "OL"
    found: Quantity = quantity(probe.name, typed, dimension)
    value = 0.0 if found.state is State.SHORT else abs(found.number)
    most = MOST[probe.range]
    if value > most:
        raise FrostError(f"{probe.name}: {found.text} is none; up to {shown_value(probe.range, most)}.")
    return BenchReading(probe_id, value), shown_value(probe.range, value)


def _is_open(typed: str) -> bool:
    """Whether OL was typed, which a diode test and a capacitance meter show too."""
    try:
        found = parse(typed, Dimension.RESISTANCE)
    except QuantityError:
        return False
    return isinstance(found, Quantity) and found.state is State.OPEN


MOST = {
    BenchRange.OHM: 1e9, BenchRange.DIODE: 5.0, BenchRange.ESR: 1e5, BenchRange.FARADS: 0.1,
    BenchRange.VAC: 500.0, BenchRange.VDC: 600.0,
}  # fmt: skip
"""The most a meter shows in a position, and a board of this kind has."""


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
                sum(supply.part(name).ohms or 0.0 for name in rectifier.series) + 0.4,
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


def mains_of(volts: float) -> float:
    """The mains a supply is made for, of those there are."""
    return 230.0 if volts > HIGH_MAINS_VOLTS else 120.0


def readings_from(judgement: BenchJudgement, pairs: Sequence[tuple[str, str]]) -> list[BenchReading]:
    """Several readings as typed, the newest at a probe last."""
    return [reading_from(judgement, probe, typed)[0] for probe, typed in pairs]
