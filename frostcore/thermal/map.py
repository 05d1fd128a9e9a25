"""What a compressor moves, by evaporating and condensing temperature: piecewise linear and continuous.

    Q(Te, Tc) = Q0 e^{a (Te − Te0)} − b Q0 (Tc − Tc0),   P = P0 (1 + p (Te − Te0) + q (Tc − Tc0))

The usual ten-coefficient polynomials of compressor data cut short. The exponential is taken in chords shifted
down by half their gap, for a chord lies above what is convex; the cross term has one coefficient for all, or
Q would jump between two pieces and the evaporator chatter there.
"""

import math
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

BREAKS = (-44.0, -36.0, -29.0, -23.0, -17.0, -10.0, -2.0, 10.0)
"""Evaporating temperatures between two pieces; beyond the last Q rises no more."""


@dataclass(frozen=True)
class CompressorMap:
    """A compressor: watts moved and taken at its two reference temperatures (°C), and how both change."""

    moves: float
    takes: float
    evaporating: float = -25.0
    condensing: float = 45.0
    a: float = 0.045
    b: float = 0.009
    p: float = 0.011
    q: float = 0.006
    strength: float = 1.0
    """What is left of what it moves (a weak compressor, a short charge)."""

    @cached_property
    def pieces(self) -> tuple[tuple[float, float], ...]:
        """(constant, slope) of the moved watts in each piece of Te, at the condensing reference."""

        def whole(te: float) -> float:
            return self.strength * self.moves * math.exp(self.a * (te - self.evaporating))

        # At each break the chord's ends are lowered by half the mean gap of its neighbours: still continuous.
        gaps = []
        for low, high in pairwise(BREAKS):
            slope = (whole(high) - whole(low)) / (high - low)
            touch = self.evaporating + math.log(slope / (self.strength * self.moves * self.a)) / self.a
            gaps.append(whole(low) + slope * (touch - low) - whole(touch))
        at = [
            whole(te) - (gaps[max(0, n - 1)] + gaps[min(n, len(gaps) - 1)]) / 4 for n, te in enumerate(BREAKS)
        ]
        found = []
        for n, (low, high) in enumerate(pairwise(BREAKS)):
            slope = (at[n + 1] - at[n]) / (high - low)
            found.append((at[n] - slope * low, slope))
        first = found[0]
        return (first, *found[1:], (at[-1], 0.0))

    def piece(self, te: float) -> int:
        """The piece of an evaporating temperature."""
        return sum(te >= each for each in BREAKS[1:])

    def bounds(self, piece: int) -> tuple[float, float]:
        """Between which evaporating temperatures a piece is."""
        low = -math.inf if piece == 0 else BREAKS[piece]
        high = math.inf if piece == len(BREAKS) - 1 else BREAKS[piece + 1]
        return low, high

    @property
    def cross(self) -> float:
        """dQ/dTc, the same in every piece, in W/K."""
        return -self.b * self.strength * self.moves

    def moved(self, te: float, tc: float) -> float:
        """Q as it is stepped, in W."""
        constant, slope = self.pieces[self.piece(te)]
        return constant + slope * te + self.cross * (tc - self.condensing)

    def moved_exactly(self, te: float, tc: float) -> float:
        """Q by the exponential itself (level from the last break on), in W."""
        reach = min(te, BREAKS[-1])
        whole = self.moves * math.exp(self.a * (reach - self.evaporating))
        return self.strength * whole + self.cross * (tc - self.condensing)

    def taken(self, te: float, tc: float) -> float:
        """P, in W."""
        return self.takes * (1 + self.p * (te - self.evaporating) + self.q * (tc - self.condensing))
