"""What is still to be paid from a belief: the best of three, to give up, to try parts in the order that pays,
or to go on testing until the fault is known and put that right (its cost on the mean, and the doubt left by
what a bit costs here).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from frostcore.remedy.expected import COST, MINUTES, STOPS, Flags, Floats, Table, Tolls, many
from frostcore.remedy.rates import Rates

ONWARD = 1.3
"""Bits cost more the fewer are left: by so much, on the mean of whole calls."""


def bit_cost(rates: Rates, best: float) -> float:
    """Money a bit of doubt costs from here, by the most bits a minute any test brings; as much as giving up
    where none is left."""
    return ONWARD * rates.labour(1.0) / best if best > 0 else rates.stop


@dataclass(frozen=True)
class Ask:
    """A belief (U) that is asked what it takes from there: with which chance, what is open, what is tried
    first whatever it costs, and whether testing on is another way."""

    chance: float
    beliefs: Floats
    opened: Flags
    first: tuple[int, ...] = ()
    on: bool = False


class Onward:
    """What follows from beliefs over the units of a table; ``bit`` is the money a bit of doubt costs."""

    def __init__(self, table: Table, bit: float) -> None:
        self._table, self._rates, self._bit = table, table.rates, bit

    def tried(self, asks: Sequence[Ask]) -> Tolls:
        """What trying in the order that pays comes to."""
        beliefs, opened = np.array([ask.beliefs for ask in asks]), np.array([ask.opened for ask in asks])
        return many(self._table, beliefs, opened, [ask.first for ask in asks])

    def best(self, asks: Sequence[Ask]) -> Tolls:
        """What is still to be paid, by the best of giving up, trying, and testing on where that is open."""
        tried = self.tried(asks)
        figures, bought = tried.figures.copy(), tried.bought.copy()
        known, those = self.known(asks)
        on = np.array([ask.on for ask in asks])
        better = on & (known[:, COST] < figures[:, COST])
        figures[better], bought[better] = known[better], those[better]
        stop = on & (figures[:, COST] >= self._rates.stop)
        figures[stop], bought[stop] = 0.0, 0.0
        figures[stop, COST], figures[stop, STOPS] = self._rates.stop, 1.0
        return Tolls(self._table, figures, bought, tried.first)

    def known(self, asks: Sequence[Ask]) -> tuple[Floats, Floats]:
        """Testing on until it is known, then the right part: its cost on the mean, and the doubt by what a
        bit costs here. What is not on the sheet ends in giving up. Figures (B × 7), and what is bought
        (B × U)."""
        table, beliefs = self._table, np.array([ask.beliefs for ask in asks])
        opened, places = np.unique(np.array([ask.opened for ask in asks]), axis=0, return_inverse=True)
        right = table.right(opened)[places.reshape(-1)]
        bought = beliefs * table.had
        figures = np.einsum("bu,buf->bf", bought, right)
        doubt = _bits(beliefs) * self._bit
        figures[:, COST] += doubt
        figures[:, MINUTES] += 60 * doubt / max(self._rates.hour, 1e-9)
        lost = beliefs.sum(axis=1) - bought.sum(axis=1)
        figures[:, COST] += lost * self._rates.stop
        figures[:, STOPS] += lost
        return figures, bought


def _bits(beliefs: Floats) -> Floats:
    """The doubt between units (B × U), in bits (B)."""
    shares = np.where(beliefs > 1e-9, beliefs, 1.0)
    return np.asarray(-(shares * np.log2(shares)).sum(axis=1))
