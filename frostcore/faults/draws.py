"""Units whose parts lie within their tolerances: the same fault in several good units.

A Latin hypercube: in so many draws every part takes one value of each of as many equally likely slices of
what it may have (a normal curve cut at its tolerance, of which that is two standard deviations). A draw is
one unit: a part has the same value in all its modes and with whatever plug pulled. The mains are no part,
and stay as they are; what they are is measured.
"""

import zlib
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from scipy.special import ndtri

from frostcore.circuit.element import Branch, Circuit, Impedance
from frostcore.faults.edits import Act, Bridged, InSeries, Scaled, Shorted
from frostcore.faults.known import Fault

DRAWS = 6
"""Four leave two verdicts in five sure and wrong; six leave few."""

_HOUSE = "wall"
_SIGMAS = 2.0


@dataclass(frozen=True)
class Draw:
    """One of ``of`` units, by its number and a seed."""

    number: int
    of: int = DRAWS
    seed: int = 0

    def share(self, name: str) -> float:
        """Where between 0 and 1 something of that name lies in this unit: in each draw in another slice."""
        return _shares(name, self.of, self.seed)[self.number]

    def off(self, name: str) -> float:
        """How far off its nominal value a part of that name is, in tolerances: −1 to 1."""
        share = min(max(self.share(name), 1e-6), 1 - 1e-6)
        return min(max(float(ndtri(share)) / _SIGMAS, -1.0), 1.0)


@lru_cache(maxsize=100_000)
def _shares(name: str, of: int, seed: int) -> tuple[float, ...]:
    """Where something of that name lies in each of so many draws."""
    chance = np.random.default_rng([seed, zlib.crc32(name.encode())])
    shares: list[float] = ((chance.permutation(of) + chance.random(of)) / of).tolist()
    return tuple(shares)


def varied(draw: Draw) -> Callable[[Circuit], Circuit]:
    """What makes a unit's circuits those of a draw; what may stand either way stands one way or the
    other."""
    known: dict[int, tuple[Branch, Branch]] = {}  # by the branch's own identity, and so it is kept alive

    def vary(circuit: Circuit) -> Circuit:
        branches = []
        for branch in circuit.branches:
            if id(branch) not in known:
                known[id(branch)] = (branch, _varied(branch, draw))
            branches.append(known[id(branch)][1])
        return replace(circuit, branches=tuple(branches), like=circuit.topology)

    return vary


def _varied(branch: Branch, draw: Draw) -> Branch:
    if branch.id.split(".", maxsplit=1)[0] == _HOUSE:
        return branch
    states = {
        name: _off(impedance, draw, branch.id) if impedance else None
        for name, impedance in branch.states.items()
    }
    if branch.may and draw.share(f"{branch.id} stands") < 0.5:
        return replace(branch, states=states, start=branch.may, may="")
    return replace(branch, states=states, may="")


def _off(impedance: Impedance, draw: Draw, name: str) -> Impedance:
    size = 1 + impedance.tolerance * draw.off(name)
    source = 1 + impedance.source_tolerance * draw.off(f"{name} source")
    ripple = 1 + (impedance.ripple_tolerance or 0.0) * draw.off(f"{name} ripple")
    return replace(
        impedance,
        ohms=impedance.ohms * size,
        henries=impedance.henries * size,
        dc_volts=impedance.dc_volts * source,
        ac_volts=impedance.ac_volts * (ripple if impedance.ripple_tolerance is not None else source),
    )


def acts_of(fault: Fault, draw: Draw) -> tuple[Act, ...]:
    """What a fault does in a draw: where it comes in amounts, another amount in each, evenly over its
    spread on a scale of ratios."""
    return acts_at(fault, draw.share(f"{fault.id} amount"))


def acts_at(fault: Fault, share: float) -> tuple[Act, ...]:
    """What a fault does by the amount at a share of its spread, on a scale of ratios."""
    if fault.spread is None:
        return fault.acts
    low, high = fault.spread
    amount = low * (high / low) ** share
    acts, done = list[Act](), False
    for act in fault.acts:
        if isinstance(act, Scaled) and not done:
            acts.append(replace(act, factor=amount))
        elif isinstance(act, Bridged | InSeries | Shorted) and not done:
            acts.append(replace(act, ohms=amount))
        else:
            acts.append(act)
            continue
        done = True
    return tuple(acts)
