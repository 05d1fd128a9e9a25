"""What boards show on the mains: the laws of each (:mod:`frostcore.bench.laws`) worked round the circuit
until nothing changes, under every fault of every draw at once."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from frostcore.bench.circuit import plugged
from frostcore.bench.faults import Condition
from frostcore.bench.laws import PATIENT, Board
from frostcore.bench.probes import RELAY_IN, BenchProbe
from frostcore.circuit.damage import HEALTHY
from frostcore.circuit.element import Analysis
from frostcore.circuit.faulted import SettledFaults
from frostcore.circuit.settle import Settled, settle
from frostcore.sheet.supply import BoardPartKind, BoardSupply
from frostcore.supply.bus import Bus, Charging, Load, at_rest_all

K = BoardPartKind
Floats = npt.NDArray[np.float64]

ROUNDS, CLOSE = 12, 2e-3
"""So many rounds at most, until nothing changes by more than this share."""


@dataclass(frozen=True)
class Live:
    """What meters show (draws × probes × hypotheses), and where they swing."""

    values: Floats
    swings: npt.NDArray[np.bool_]


def relay_wire(supply: BoardSupply) -> tuple[str, str] | None:
    """The nodes a wire joins to pull a relay in: across the transistor at its coil."""
    for coil in supply.parts:
        if coil.kind is K.COIL:
            for switch in supply.parts:
                if switch.kind is K.SWITCH and switch.a == coil.b:
                    return switch.a, switch.b
    return None


def read_live(
    supplies: Sequence[BoardSupply],
    probes: Sequence[BenchProbe],
    conditions: Sequence[Sequence[dict[str, Condition]]],
    mains: float,
) -> Live:
    """Good boards (draws), each under the conditions of its own draw: what each probe shows."""
    shape = (len(supplies), len(probes), len(conditions[0]))
    values, swings = np.zeros(shape), np.zeros(shape, bool)
    bench = _Bench(supplies, conditions, mains)
    for setup in ("", RELAY_IN):
        rows = [row for row, probe in enumerate(probes) if probe.setup == setup]
        if not rows:
            continue
        boards = bench.worked(relay_wire(supplies[0]) if setup else None)
        for draw, mine in enumerate(boards):
            for column, board in enumerate(mine):
                for row in rows:
                    values[draw, row, column], swings[draw, row, column] = board.shown(probes[row])
    return Live(values, swings)


class _Bench:
    """Boards of every draw under every fault; a relay pulled in goes on from how they stood without it."""

    def __init__(
        self,
        supplies: Sequence[BoardSupply],
        conditions: Sequence[Sequence[dict[str, Condition]]],
        mains: float,
    ) -> None:
        first = plugged(supplies[0], mains)
        circuits = [first, *(replace(plugged(each, mains), like=first.topology) for each in supplies[1:])]
        self._bases = [settle(each) for each in circuits]
        self._boards = [
            [Board(supply, each, circuit) for each in mine]
            for supply, mine, circuit in zip(supplies, conditions, circuits, strict=True)
        ]
        self._known: dict[tuple[Charging, Load], Bus] = {}

    def worked(self, relay: tuple[str, str] | None) -> list[list[Board]]:
        """Every board with its laws worked round until nothing changes."""
        moving = self._boards
        for _ in range(ROUNDS):
            _solve(self._bases, moving, relay)
            cases = [(board, board.asks()) for mine in moving for board in mine]
            new = list({case for _, each in cases for case in each.values()} - self._known.keys())
            self._known |= dict(zip(new, at_rest_all(new), strict=True))
            moved = {
                id(board)
                for board, each in cases
                if board.take({name: self._known[case] for name, case in each.items()}) >= CLOSE
                or board.round <= PATIENT
            }
            moving = [[board for board in mine if id(board) in moved] for mine in moving]
            if not moved:
                break
        return self._boards


@lru_cache(maxsize=32)
def watts_of(supply: BoardSupply, mains: float) -> float:
    """What a sound board of these very values takes, with its outputs off, in W."""
    board = _Bench([supply], [[{}]], mains).worked(None)[0][0]
    found = 0.0
    for each in supply.rectifiers:
        watts, bus = board.rectifier_watts(each), board.bus.get(each.id)
        if watts is not None:
            found += watts
        elif bus:
            found += bus.mean * max(board.given(f"{each.id}.dc"), 0.0)
    return found


def _solve(
    bases: Sequence[Settled], boards: Sequence[Sequence[Board]], relay: tuple[str, str] | None
) -> None:
    """Solve the boards of every draw with what their laws give now."""
    most = max(len(mine) for mine in boards)
    damages = [
        [*(board.damaged(relay) for board in mine), *([HEALTHY] * (most - len(mine)))] for mine in boards
    ]
    settled = SettledFaults(bases, damages)
    ac, dc = (settled.edited(analysis).x for analysis in (Analysis.AC, Analysis.DC))
    for draw, mine in enumerate(boards):
        for number, board in enumerate(mine):
            board.ac, board.dc = ac[draw * most + number], dc[draw * most + number]
