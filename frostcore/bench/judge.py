"""The judgement of a board on the mat: suspects, the stage, what is named, what to read next and when the
mains may be put on."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from frostcore.bench.probes import BenchProbe
from frostcore.bench.ranges import BenchRange
from frostcore.bench.table import DRAWS, BenchTable, BoardHypothesis, table_of
from frostcore.bench.weigh import BenchPosterior, BenchReading, BenchWeigher
from frostcore.diagnosis.belief import Belief
from frostcore.diagnosis.hypotheses import ELSEWHERE, WELL, Floats
from frostcore.diagnosis.judge import GROUP, NAMED, SPEAKS_BITS, under
from frostcore.diagnosis.outcomes import value_classes
from frostcore.sheet.supply import BoardPartKind, BoardSupply

GROUP_BITS = 0.03
"""Parts are named together where no reading tells more than that of them."""

LIVE_SHORT = 0.03
"""The mains are put on only while a short before the rails is less likely than this."""

STILL_TELLS = 0.4
"""Nor while a reading with the plug out tells more bits than this."""

LEAST_BITS = 0.02

FIGURES = 3.0
"""Within so many times what is usual, either way, a figure alone makes nothing sure of a board nobody
described."""


@dataclass(frozen=True)
class BoardSuspect:
    """Something that would be fitted: its name and probability, its likeliest faults with theirs."""

    unit: str
    probability: float
    faults: tuple[tuple[BoardHypothesis, float], ...]


@dataclass(frozen=True)
class NextProbe:
    """A reading worth taking: its bits and bits a minute."""

    probe: BenchProbe
    bits: float
    rate: float


class BenchJudgement:
    """What the readings on a board come to."""

    def __init__(self, weigher: BenchWeigher, readings: Sequence[BenchReading]) -> None:
        self.weigher, self.table = weigher, weigher.table
        self.readings = tuple(readings)
        self.posterior = BenchPosterior(weigher, readings)

    @property
    def supply(self) -> BoardSupply:
        """The board's supply."""
        return self.table.supply

    @cached_property
    def suspects(self) -> tuple[BoardSuspect, ...]:
        """What would be fitted, likeliest first."""
        units = self.posterior.units
        order = [int(each) for each in np.argsort(-units) if units[each] > 1e-3][:8]
        return tuple(self._suspect(each) for each in order)

    def _suspect(self, unit: int) -> BoardSuspect:
        known, chances = self.table.known, self.posterior.chances
        mine = np.flatnonzero(known.unit == unit)
        best = mine[np.argsort(-chances[mine])][:3]
        faults = tuple(
            (known.all[each], float(chances[each]))
            for each in best
            if chances[each] > 0.02 * chances[mine].sum()
        )
        return BoardSuspect(known.units[unit], float(self.posterior.units[unit]), faults)

    @cached_property
    def done(self) -> frozenset[str]:
        """The probes that have been read."""
        return frozenset(each.probe for each in self.readings)

    @cached_property
    def short(self) -> float:
        """How likely it is that something is shorted which takes the fuse with it: then no power is put
        on."""
        return float(self.posterior.chances[self.table.known.takes_fuse].sum())

    @cached_property
    def proposals(self) -> tuple[NextProbe, ...]:
        """The readings worth most a minute, best first; live ones only where power may be put on and nothing
        without it still tells."""
        bits = self.bits
        fresh = [row for row, probe in enumerate(self.table.probes) if probe.id not in self.done]
        dead = max((bits[row] for row in fresh if not self.table.probes[row].live), default=0.0)
        power = self.power and dead <= STILL_TELLS
        found = [
            NextProbe(
                self.table.probes[row], float(bits[row]), float(bits[row]) / self.table.probes[row].minutes
            )
            for row in fresh
            if bits[row] > LEAST_BITS and (power or not self.table.probes[row].live)
        ]
        return tuple(sorted(found, key=lambda each: -each.rate))

    @cached_property
    def bits(self) -> Floats:
        """I(outcome; what would be fitted) of every probe, in bits."""
        outcomes = outcomes_of(self.table)
        belief = Belief(self.table.known, self.posterior.by_draw)
        found = belief.of_classes(outcomes.classes, outcomes.count, outcomes.pulses)
        for row, answers in self.table.answers.items():
            found[row] = belief.of_tables(answers[None])[0]
        return np.asarray(found)

    @cached_property
    def owed(self) -> tuple[BenchProbe, ...]:
        """What must be read before a fuse is named alone: the bridge's diodes and across the bus."""
        wanted = []
        for each in self.supply.rectifiers:
            for name in each.diodes:
                part = self.supply.part(name)
                wanted.append((BenchRange.DIODE, part.a, part.b))
            wanted.append((BenchRange.OHM, each.plus, each.minus))
        ids = [f"{which}:{a}-{b}" for which, a, b in wanted]
        return tuple(self.table.probes[self.table.row[each]] for each in ids if each not in self.done)

    @cached_property
    def named(self) -> BoardSuspect | None:
        """What is named; never a fuse by itself before bridge and bus are read, and of a board nobody
        described nothing that only stands on how many ohms or volts there are."""
        first = self.suspects[0]
        if first.probability < NAMED or first.unit in {WELL, ELSEWHERE}:
            return None
        if self._only_fuse(first) and self.owed:
            return None
        return first if self.supply.source == "sheet" or self._plain(first) else None

    def _plain(self, suspect: BoardSuspect) -> bool:
        """Whether something that is no mere figure speaks for a suspect against the runner-up: how many ohms
        or volts there are says little of a board nobody described."""
        known, chances = self.table.known, self.posterior.chances
        mine = known.unit == known.units.index(suspect.unit)
        rivals = [each.unit for each in self.suspects if each.unit not in {suspect.unit, ELSEWHERE}]
        other = known.unit == known.units.index(rivals[0]) if rivals else ~mine
        for reading, log in zip(self.posterior.readings, self.posterior.logs, strict=True):
            told = under(log, chances, mine) - under(log, chances, other)
            if told / math.log(2) >= SPEAKS_BITS and not self._mere_figure(reading):
                return True
        return False

    def _mere_figure(self, reading: BenchReading) -> bool:
        """Whether a reading is a figure within some times what a sound board shows: no answer, no OL where a
        figure should be nor one where OL should, no short, no nothing."""
        row = self.table.row[reading.probe]
        if row in self.table.answers or reading.value is None:
            return False
        position = self.table.probes[row].range.row
        sound = float(np.median(self.weigher.foretold(row)[:, 0])) * position.unit
        if not math.isfinite(sound) or reading.value <= max(position.short, 2 * position.floor):
            return False
        return 1 / FIGURES < reading.value / max(sound, position.floor) < FIGURES

    def _only_fuse(self, suspect: BoardSuspect) -> bool:
        part = self.supply.find(suspect.unit)
        return part is not None and part.kind is BoardPartKind.FUSE

    @cached_property
    def group(self) -> tuple[BoardSuspect, ...]:
        """Up to three that are it together, where no reading parts them."""
        if self.named or any(each.bits > GROUP_BITS for each in self.proposals):
            return ()
        best, total = list[BoardSuspect](), 0.0
        for suspect in self.suspects[:GROUP]:
            if suspect.unit in {WELL, ELSEWHERE} or suspect.probability < 0.02:
                continue
            best.append(suspect)
            total += suspect.probability
        return tuple(best) if total >= GROUP_SURE else ()

    @cached_property
    def next(self) -> NextProbe | None:
        """What to read now; None where something is named or nothing tells."""
        if self.named:
            return None
        first = self.suspects[0]
        if first.probability >= NAMED and self._only_fuse(first) and self.owed:
            return NextProbe(self.owed[0], 0.0, 0.0)
        return self.proposals[0] if self.proposals else None

    @cached_property
    def stages(self) -> dict[str, float]:
        """P(the fault is of a stage)."""
        found = {stage.id: 0.0 for stage in self.supply.stages}
        for place, each in enumerate(self.table.known.all):
            if each.fault:
                found[each.fault.stage] += float(self.posterior.chances[place])
        return found

    @property
    def power(self) -> bool:
        """Whether the mains may be put on."""
        return self.short <= LIVE_SHORT


GROUP_SURE = 0.95
"""A group is named from here on."""


class BenchOutcomes:
    """The classes of every probe's readings (probes × draws × hypotheses) and how many each has."""

    def __init__(self, table: BenchTable) -> None:
        weigher, (draws, probes, size) = BenchWeigher(table), table.values.shape
        self.classes = np.zeros((probes, draws, size), np.int8)
        self.count = np.ones(probes, int)
        self.pulses = np.zeros((probes, size), bool)
        for row in set(range(probes)) - table.answers.keys():
            width = np.minimum(weigher.widths(row), 1.0)
            self.classes[row], limits = value_classes(weigher.foretold(row), width)
            self.count[row] = len(limits) + 2


@lru_cache(maxsize=32)
def outcomes_of(table: BenchTable) -> BenchOutcomes:
    """A table's, kept as it is."""
    return BenchOutcomes(table)


def judge_board(
    supply: BoardSupply,
    readings: Sequence[BenchReading],
    mains: float,
    *,
    measured: float | None = None,
    esr: bool = True,
) -> BenchJudgement:
    """The judgement of a board by its readings; ``mains`` those it is made for, ``measured`` those here."""
    return BenchJudgement(BenchWeigher(table_of(supply, mains, DRAWS, esr=esr), measured), readings)
