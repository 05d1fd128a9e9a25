"""A good board's readings kept as the reference of its type, and another of that type beside it."""

from collections.abc import Sequence
from dataclasses import dataclass

from frostcore.bench.judge import BenchJudgement
from frostcore.bench.typed import reading_from
from frostcore.bench.weigh import BenchReading
from frostcore.diagnosis.hypotheses import ELSEWHERE, WELL
from frostcore.errors import FrostError
from frostcore.parts.twin import DIMENSIONS, Difference, Pair, differences
from frostcore.quantity import Quantity, State

FAULTY = 0.8
"""A board with a suspect this likely is none to be kept as good."""

LEAST = 4
"""A reference of fewer readings compares nothing."""


@dataclass(frozen=True)
class KeptReading:
    """A reading of the good board, as it was typed at its probe."""

    probe: str
    value: str


def to_keep(judgement: BenchJudgement, pairs: Sequence[tuple[str, str]]) -> tuple[KeptReading, ...]:
    """What of some readings is a figure and may be kept; FrostError where that is too little, or where the
    readings themselves name a fault."""
    figures = [
        KeptReading(probe, typed)
        for probe, typed in dict(pairs).items()
        if not reading_from(judgement, probe, typed)[0].answer
    ]
    if len(figures) < LEAST:
        raise FrostError(f"{len(figures)} readings: a good board is kept with {LEAST} or more.")
    readings = [reading_from(judgement, each.probe, each.value)[0] for each in figures]
    first = BenchJudgement(judgement.weigher, readings).suspects[0]
    if first.unit not in {WELL, ELSEWHERE} and first.probability > FAULTY:
        raise FrostError(f"These readings are no good board’s: {first.faults[0][0].name}.")
    return tuple(figures)


def beside(
    judgement: BenchJudgement, readings: Sequence[BenchReading], good: Sequence[KeptReading]
) -> tuple[Difference, ...]:
    """What was read on both, the oddest first; what this supply has no probe for is left out."""
    here = {each.probe: each for each in readings}
    pairs = []
    for each in good:
        mine = here.get(each.probe)
        if mine is None or mine.answer:
            continue
        try:
            there = reading_from(judgement, each.probe, each.value)[0]
        except FrostError:
            continue
        probe = judgement.table.probes[judgement.table.row[each.probe]]
        meter = probe.range.row.meter
        if meter:
            shown, beside_it = (Quantity(DIMENSIONS[meter], one.value, _state(one)) for one in (mine, there))
            pairs.append(Pair(probe.name, meter, shown, beside_it))
    return differences(tuple(pairs))


def _state(reading: BenchReading) -> State:
    return State.OPEN if reading.value is None else State.VALUE
