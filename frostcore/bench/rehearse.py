"""Boards rehearsed: a fault, a board of other parts, a meter with its own error, and the judgement's own next
reading answered until it names something."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from frostcore.bench.judge import BenchJudgement
from frostcore.bench.probes import BenchProbe
from frostcore.bench.table import BenchTable, table_of
from frostcore.bench.weigh import BenchReading, BenchWeigher
from frostcore.diagnosis.judge import NAMED
from frostcore.sheet.supply import BoardSupply

TRUTH = 7919
"""The seed of the boards that are rehearsed: of none of the draws they are judged by."""

MOST = 30

HALF = 0.5
"""What comes and goes is there so often as it is read."""


@dataclass(frozen=True)
class Rehearsed:
    """One board: its fault and weight, what was named (units; none where nothing was), how many readings were
    taken (what it did in its unit is asked, not read) and how many of them live, whether the part is among
    what was named, whether its stage is."""

    fault: str
    weight: float
    named: tuple[str, ...]
    readings: int
    live: int
    right: bool
    stage: bool
    to_stage: int
    """Readings until a stage had it."""


def rehearse(
    supply: BoardSupply,
    mains: float,
    *,
    draws: int = 4,
    esr: bool = True,
    truth: BoardSupply | None = None,
    seed: int = 1,
) -> tuple[Rehearsed, ...]:
    """Every fault of a supply on ``draws`` boards each; ``truth`` is what the boards are, where that is not
    what they are judged by."""
    judged = table_of(supply, mains, esr=esr)
    real = table_of(truth or supply, mains, draws, TRUTH, esr=esr)
    chance = np.random.default_rng(seed)
    found = []
    for place, each in enumerate(real.known.all):
        if each.fault is None:
            continue
        found += [_one(judged, real, place, draw, chance) for draw in range(draws)]
    return tuple(found)


def _one(
    judged: BenchTable, real: BenchTable, place: int, draw: int, chance: np.random.Generator
) -> Rehearsed:
    fault = real.known.all[place].fault
    assert fault is not None  # noqa: S101 -- only faults are rehearsed
    weigher, readings = BenchWeigher(judged), list[BenchReading]()
    live, to_stage = 0, MOST
    while True:
        judgement = BenchJudgement(weigher, readings)
        if to_stage == MOST and max(judgement.stages.values()) >= NAMED:
            to_stage = len(readings)
        following = judgement.next
        if following is None or len(readings) >= MOST:
            break
        live += following.probe.live
        row = real.row[following.probe.id]
        if row in real.answers:
            answers = list(following.probe.range.answers)
            said = answers[int(chance.choice(len(answers), p=real.answers[row][:, place]))]
            readings.append(BenchReading(following.probe.id, answer=said))
        else:
            there = place if not fault.comes_and_goes or chance.random() < HALF else 0
            readings.append(answered(following.probe, float(real.values[draw, row, there]), chance))
    named = [judgement.named] if judgement.named else list(judgement.group)
    units = tuple(each.unit for each in named)
    stages = {judged.supply.units[unit][0].stage for unit in units if unit in judged.supply.units}
    return Rehearsed(
        fault.id, float(real.known.prior[place]), units, sum(each.probe != "said" for each in readings), live,
        fault.unit in units, stages == {fault.stage}, to_stage,
    )  # fmt: skip


def answered(probe: BenchProbe, value: float, chance: np.random.Generator) -> BenchReading:
    """A reading of a value by a meter with its own error."""
    if not np.isfinite(value):
        return BenchReading(probe.id)
    share = probe.range.row.share / 2 * chance.normal()
    floor = probe.range.row.floor / 2 * chance.normal()
    return BenchReading(probe.id, max(0.0, value * (1 + share) + floor))


@dataclass(frozen=True)
class Figures:
    """What rehearsals come to, by weight: named rightly (alone or in a group), sure and wrong, mean readings
    and live ones, and boards that needed none of the latter."""

    right: float
    wrong: float
    readings: float
    live: float
    without_live: float
    to_stage: float


def figures(boards: Sequence[Rehearsed]) -> Figures:
    """The figures of some rehearsals."""
    weights = np.array([each.weight for each in boards])
    weights = weights / weights.sum()

    def mean(values: Sequence[float]) -> float:
        return float(weights @ np.array(values, float))

    return Figures(
        mean([each.right or each.stage for each in boards]),
        mean([len(each.named) == 1 and not each.right for each in boards]),
        mean([each.readings for each in boards]),
        mean([each.live for each in boards]),
        mean([each.live == 0 for each in boards]),
        mean([each.to_stage for each in boards]),
    )


def described(supply: BoardSupply) -> BoardSupply:
    """A supply as if its own sheet described it."""
    return replace(supply, source="sheet")
