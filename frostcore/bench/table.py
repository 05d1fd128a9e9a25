"""What every probe of a board shows under every fault, on several good boards: the table its judgement looks
things up in."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
import numpy.typing as npt

from frostcore.bench.circuit import drawn
from frostcore.bench.faults import BoardFault, faults_of
from frostcore.bench.live import read_live
from frostcore.bench.probes import BenchProbe, driven, probes_of
from frostcore.bench.ranges import BenchRange
from frostcore.bench.unplugged import esr_shown, farads_shown, read_unplugged
from frostcore.diagnosis.hypotheses import ELSEWHERE, ELSEWHERE_SHARE, FAULTY_SHARE, WELL, WELL_SHARE, Grouped
from frostcore.faults.draws import Draw
from frostcore.sheet.supply import BoardPartKind, BoardSupply

Floats = npt.NDArray[np.float64]

DRAWS = 8
"""So many good boards."""

LOOKS_BAD = 0.03
"""A good part looks burnt or domed so often: from heat beside it, or glue."""

_METERED = frozenset({BenchRange.OHM, BenchRange.DIODE})
_VOLTS = frozenset({BenchRange.VAC, BenchRange.VDC})


@dataclass(frozen=True)
class BoardHypothesis:
    """One way the board may be: its id, what would be fitted, words, its fault (None where it is well or
    wrong in a way no list has), its probability before anything is read."""

    id: str
    unit: str
    name: str
    fault: BoardFault | None
    prior: float

    @property
    def comes_and_goes(self) -> bool:
        """Whether its fault does."""
        return bool(self.fault and self.fault.comes_and_goes)


class BoardHypotheses(Grouped[BoardHypothesis]):
    """All of a supply's."""

    def __init__(self, supply: BoardSupply) -> None:
        self.faults = faults_of(supply)
        weight = sum(fault.weight for fault in self.faults)
        super().__init__(
            (
                BoardHypothesis(WELL, WELL, "nothing of its supply is wrong", None, WELL_SHARE),
                *(
                    BoardHypothesis(
                        fault.id, fault.unit, fault.name, fault, FAULTY_SHARE * fault.weight / weight
                    )
                    for fault in self.faults
                ),
                BoardHypothesis(
                    ELSEWHERE, ELSEWHERE, "something no list of faults has", None, ELSEWHERE_SHARE
                ),
            )
        )
        fuses = {part.id for part in supply.parts if part.kind is BoardPartKind.FUSE}
        self.takes_fuse = np.array(
            [bool(each.fault and fuses & set(each.fault.together)) for each in self.all]
        )
        """Which take the fuse with them."""


@dataclass(frozen=True, eq=False)
class BenchTable:
    """A supply's probes and hypotheses, and what each of the first shows under each of the second (draws ×
    probes × hypotheses): its value (inf for OL), what another meter makes of ohms with junctions or
    electronics in the way, and whether a reading swings. Of what is no figure ``answers`` has by the probe's
    row how often each answer is given (answers × hypotheses)."""

    supply: BoardSupply
    mains: float
    probes: tuple[BenchProbe, ...]
    known: BoardHypotheses
    values: Floats
    other: Floats
    swings: npt.NDArray[np.bool_]
    answers: dict[int, Floats]

    @cached_property
    def row(self) -> dict[str, int]:
        """Where each probe stands, by id."""
        return {probe.id: row for row, probe in enumerate(self.probes)}


@lru_cache(maxsize=32)
def table_of(
    supply: BoardSupply, mains: float, draws: int = DRAWS, seed: int = 0, *, esr: bool = True
) -> BenchTable:
    """The table of a supply on such mains."""
    known, probes = BoardHypotheses(supply), probes_of(supply, esr=esr)
    units = [Draw(number, draws, seed) for number in range(draws)]
    boards = [drawn(supply, draw) for draw in units]
    conditions = [[each.fault.at(draw) if each.fault else {} for each in known.all[:-1]] for draw in units]
    shape = (draws, len(probes), len(known) - 1)
    values, swings = np.zeros(shape), np.zeros(shape, bool)
    others = list[Floats]()
    metered = [row for row, probe in enumerate(probes) if probe.range in _METERED]
    lively = [row for row, probe in enumerate(probes) if probe.range in _VOLTS]
    for number, (board, mine) in enumerate(zip(boards, conditions, strict=True)):
        found = read_unplugged(board, [probes[row] for row in metered], mine)
        values[number, metered] = found.values
        others.append(found.other)
        for row, probe in enumerate(probes):
            shown = _OTHERWISE.get(probe.range)
            if shown:
                values[number, row] = [shown(board, probe, each) for each in mine]
    live = read_live(boards, [probes[row] for row in lively], conditions, mains)
    values[:, lively], swings[:, lively] = live.values, live.swings
    other = values.copy()
    other[:, metered] = others
    whole = [np.concatenate([each, each[:, :, :1]], axis=2) for each in (values, other, swings)]
    answers = {}
    for row, probe in enumerate(probes):
        if probe.range in _OF_TWO:
            often = np.array([_OF_TWO[probe.range](each.fault, probe) for each in known.all])
            answers[row] = np.array([often, 1 - often])
        elif probe.range is BenchRange.SAID:
            answers[row] = _did(supply, probes, whole[0], whole[2])
        elif probe.range is BenchRange.WARMED:
            answers[row] = np.array([_warmed(each.fault, probe) for each in known.all]).T
        elif probe.range is BenchRange.DRIVEN:
            pulls = _driven(supply, probes, whole[0], known, probe)
            answers[row] = np.array([pulls, 1 - pulls])
    return BenchTable(supply, mains, probes, known, whole[0], whole[1], whole[2], answers)


_OTHERWISE = {BenchRange.ESR: esr_shown, BenchRange.FARADS: farads_shown}


def _did(
    supply: BoardSupply, probes: Sequence[BenchProbe], values: Floats, swings: npt.NDArray[np.bool_]
) -> Floats:
    """How often a board is said to be dead, to try, to live (3 × hypotheses): by whether
    its logic has its volts, and whether they come and go, by themselves or as it pulls its relay."""
    wanted = {
        f"vdc:{supply.part(each.part).b}-{supply.part(each.part).c}": each.volts for each in supply.regulators
    }
    rows = {wanted[probe.id]: row for row, probe in enumerate(probes) if probe.id in wanted}
    volts, row = min(rows.items())
    pulled = {probe.id: number for number, probe in enumerate(probes)}.get(f"{probes[row].id}+relay")
    lives = values[:, row] >= LOGIC_SHARE * volts
    falls = values[:, pulled] < LOGIC_SHARE * volts if pulled is not None else np.zeros_like(lives)
    tries = (swings[:, row] | (lives & falls)).mean(axis=0)
    dead = (~lives & ~swings[:, row]).mean(axis=0)
    said = np.array([dead, tries, 1 - dead - tries])
    said[:, -1] = 1 / 3
    return np.asarray(SAID_BLUR / 3 + (1 - SAID_BLUR) * said)


LOGIC_SHARE = 0.8
"""Below this share of its volts no logic runs."""

SAID_BLUR = 0.15
"""How often what a board did is told wrongly."""


WARMED = {"worn": (0.75, 0.02), "dead": (0.08, 0.4)}
"""How often what is wrong gets better and worse as the part at fault is warmed: usual practice, nobody's
count. A dried electrolyte conducts again; a semiconductor at its end fails the sooner."""

WARMED_ELSE = 0.03
"""How often something changes by itself as another part is warmed, either way."""


def _warmed(fault: BoardFault | None, probe: BenchProbe) -> tuple[float, float, float]:
    """P(helps), P(worsens), P(nothing) of warming a part under a fault."""
    helps, worsens = WARMED_ELSE, WARMED_ELSE
    if fault and fault.conditions[0][0] == probe.of:
        helps, worsens = WARMED.get(fault.conditions[0][1].kind, (helps, worsens))
    return helps, worsens, 1 - helps - worsens


BESIDE = {"worn": 0.85, "open": 0.9}
"""How often a board works with a good capacitor beside one that is worn or open: it takes over what the other
no longer does. Across one that is short it does nothing."""


def _beside(fault: BoardFault | None, probe: BenchProbe) -> float:
    """P(it works) with a good capacitor clipped across a part, under a fault."""
    mine = fault is not None and fault.conditions[0][0] == probe.of
    return BESIDE.get(fault.conditions[0][1].kind, WARMED_ELSE) if fault and mine else WARMED_ELSE


MOVED, MOVED_ELSE = 0.8, 0.03
"""How often a cracked joint shows as its part is pressed, and how often something changes by itself."""


PULLS, PULLS_NOT, DRIVES = 0.98, 0.02, 0.7
"""How often a sound relay that is driven is heard, and one that can't pull; and the share of its rail's volts
that takes."""


def _driven(
    supply: BoardSupply,
    probes: Sequence[BenchProbe],
    values: Floats,
    known: BoardHypotheses,
    probe: BenchProbe,
) -> Floats:
    """P(it switches) of a driven output under each fault: its parts whole, its rail up with the relay in."""
    coil, switch = next(pair for pair in driven(supply) if pair[1].id == probe.of)
    rows = [
        number
        for number, each in enumerate(probes)
        if each.setup and each.range in _VOLTS and each.red == coil.a
    ]
    found = np.full(len(known), PULLS)
    if rows:
        volts = values[:, rows[0]]
        found = np.where((volts > DRIVES * volts[:, :1]).mean(axis=0) > HALF, PULLS, PULLS_NOT)
    for place, each in enumerate(known.all):
        broken = each.fault and each.fault.conditions[0][0] in {coil.id, switch.id}
        if broken and each.fault:
            found[place] = HALF if each.fault.comes_and_goes else PULLS_NOT
    return np.asarray(found)


HALF = 0.5


def _moved(fault: BoardFault | None, probe: BenchProbe) -> float:
    """P(it changes) as a part is pressed, under a fault."""
    mine = fault is not None and fault.comes_and_goes and fault.conditions[0][0] == probe.of
    return MOVED if mine else MOVED_ELSE


def _looks(fault: BoardFault | None, probe: BenchProbe) -> float:
    """How often a part looks bad under a fault: as often as such a fault is seen, where it is that part's."""
    if fault and fault.conditions[0][0] == probe.of:
        return max(fault.looks, LOOKS_BAD)
    return LOOKS_BAD


_OF_TWO = {BenchRange.LOOK: _looks, BenchRange.BESIDE: _beside, BenchRange.MOVED: _moved}
"""Of what has two answers: how often the first is given under a fault."""
