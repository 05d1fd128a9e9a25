"""What a unit draws at the plug in a mode, load by load, and what a measured figure says is missing or too
much.

AC loads by P = Re(V·I*); loads on a rail by V·I through a supply of about 80 %. Amperes are more than watts
by volts: with the fundamental's active part P/V and reactive part Q/V, and the harmonics H of what
rectifies, I² = (P/V)² + (Q/V)² + H², where H of a rectifier of power factor λ is (P/V)·√(1/λ² − 1).
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial

from frostcore.circuit.element import Analysis, Branch, BranchKind, Impedance
from frostcore.circuit.figures import RAIL_EFFICIENCY, RECTIFIER_FACTOR
from frostcore.circuit.settle import Settled
from frostcore.circuit.waves import energy
from frostcore.quantity import Dimension, format_value
from frostcore.verdict import Band, Judged, Verdict

SHARE, FLOOR_WATTS = 0.12, 3.0
"""A plug meter and the loads' own tolerances together; and what small loads add or leave out."""

UNKNOWN_SHARE = 0.1
"""Loads of unknown power factor may make up this share of the watts before amperes can't be judged."""


@dataclass(frozen=True)
class Draw:
    """One load's watts as seen at the plug."""

    branch: str
    name: str
    component: str
    watts: float


@dataclass(frozen=True)
class AtPlug:
    """What a unit takes: watts; the least, likely and most amperes; and the share of the watts whose power
    factor no sheet gives."""

    watts: float
    amperes: Band
    unknown: float

    @property
    def amperes_text(self) -> str:
        """The amperes in words: one figure where the power factor leaves one."""
        low, high = (format_value(each, Dimension.CURRENT) for each in (self.amperes.low, self.amperes.high))
        return low if low == high else f"{low} to {high}"

    @property
    def tells_amperes(self) -> bool:
        """Whether amperes can be judged: the power factor is known."""
        return self.unknown <= UNKNOWN_SHARE


@dataclass(frozen=True, kw_only=True)
class PlugVerdict(Judged):
    """A figure at the plug against what the sheet adds up to."""

    watts: float
    amperes: float
    draws: tuple[Draw, ...]
    band: Band
    measured: float


LEAST_WATTS = 0.1


def draws(settled: Settled) -> tuple[Draw, ...]:
    """What each load takes at the plug, largest first; those under ``LEAST_WATTS`` are left out, and those
    fed by another load, which has taken theirs already."""
    found, blocked, passed = [], settled.blocked, energy(settled.wave) if settled.wave else 1.0
    for place, branch in enumerate(settled.circuit.branches):
        if branch.kind is BranchKind.LOAD and branch.metered and settled.circuit.live:
            watts = _power(settled, place, Analysis.AC).real
            if blocked:  # as it conducts for a part of each wave, as it blocks for the rest
                watts = passed * watts + (1 - passed) * _power(blocked, place, Analysis.AC).real
            watts += _power(settled, place, Analysis.DC).real / RAIL_EFFICIENCY
            if watts >= LEAST_WATTS:
                found.append(Draw(branch.id, branch.name, branch.part, watts))
    return tuple(sorted(found, key=lambda draw: -draw.watts))


def _power(settled: Settled, place: int, analysis: Analysis) -> complex:
    """V·I* of a branch, in VA."""
    solved = settled.solved[analysis]
    a, b = settled.circuit.topology.ends[place]
    return complex((solved.x[a] - solved.x[b]) * solved.x[solved.nodes + place].conjugate())


def _loads(settled: Settled) -> Iterator[tuple[Branch, Impedance, complex]]:
    """The loads on the mains as they settled, with their V·I*."""
    for place, branch in enumerate(settled.circuit.branches):
        impedance = settled.impedance(place)
        if branch.kind is BranchKind.LOAD and branch.metered and impedance is not None:
            yield branch, impedance, _power(settled, place, Analysis.AC)


def at_plug(settled: Settled) -> AtPlug:
    """What is drawn: the mains source's own volt-amperes, and what the rails give out through a supply."""
    circuit = settled.circuit
    if not circuit.live:
        return AtPlug(0.0, Band(0.0, 0.0, 0.0), 0.0)
    volts, wall, chopped = circuit.mains_volts, _wall(settled), 0.0
    passed = energy(settled.wave) if settled.wave else 1.0
    if settled.blocked:
        off = _wall(settled.blocked)
        chopped = passed * (wall - off).real
        wall = off + chopped
    rails = _rails(settled) / RAIL_EFFICIENCY
    watts = wall.real + rails
    sides: list[list[tuple[float, float]]] = [[], []]
    reactive, unknown = [wall.imag, wall.imag], 0.0
    for _, impedance, power in _loads(settled):
        if impedance.power_factor is None or power.real < LEAST_WATTS:
            continue
        low, high = impedance.power_factor
        unknown += power.real if high > low else 0.0
        if impedance.henries:  # a motor: it is its reactive part that nobody knows
            for side, factor in enumerate((high, low)):
                reactive[side] += power.real * math.tan(math.acos(factor)) - power.imag
        else:
            for side, factor in enumerate((high, low)):
                sides[side].append((power.real, factor))
    for side, factor in enumerate(reversed(RECTIFIER_FACTOR)):
        sides[side].append((rails, factor))
        if chopped:
            sides[side].append((chopped, math.sqrt(passed)))
    unknown += rails
    least, most = (_amperes(watts, reactive[side], sides[side], volts) for side in (0, 1))
    return AtPlug(watts, Band(least, (least + most) / 2, most), unknown / watts if watts > 0 else 0.0)


def _wall(settled: Settled) -> complex:
    """The volt-amperes the mains give."""
    ac, circuit = settled.solved[Analysis.AC], settled.circuit
    return circuit.mains_volts * complex(-ac.x[ac.nodes + circuit.branch_index["wall"]]).conjugate()


def _amperes(watts: float, reactive: float, rectified: list[tuple[float, float]], volts: float) -> float:
    """I of active and reactive power and of (watts, power factor) of what rectifies; their pulses fall
    together, so their harmonics add."""
    harmonics = sum(each * math.sqrt(1 / factor**2 - 1) for each, factor in rectified)
    return math.sqrt(watts**2 + reactive**2 + harmonics**2) / volts


def _rails(settled: Settled) -> float:
    """Watts that the rails' own sources give out; what one rail feeds another is counted once."""
    dc, found = settled.solved[Analysis.DC], 0.0
    fed = {coupling.of for coupling in settled.circuit.couplings}
    for place, branch in enumerate(settled.circuit.branches):
        impedance = settled.impedance(place)
        if impedance is not None and impedance.dc_volts and branch.id not in fed:
            found += impedance.dc_volts * max(0.0, -dc.x[dc.nodes + place].real)
    return found


def judge_plug(settled: Settled, measured: float, *, amperes: bool = False) -> PlugVerdict:
    """Watts (or amperes) at the plug in this mode against the sum of the loads.

    Names the load that a gap fits.
    """
    plug, found = at_plug(settled), draws(settled)
    unit, floor = (
        (Dimension.CURRENT, FLOOR_WATTS / settled.circuit.mains_volts)
        if amperes
        else (Dimension.POWER, FLOOR_WATTS)
    )
    wanted = plug.amperes if amperes else Band(plug.watts, plug.watts, plug.watts)
    band = Band(max(0.0, wanted.low * (1 - SHARE) - floor), wanted.nominal, wanted.high * (1 + SHARE) + floor)
    told = partial(
        PlugVerdict,
        watts=plug.watts,
        amperes=plug.amperes.nominal,
        draws=found,
        band=band,
        measured=measured,
    )
    shown, expected = format_value(measured, unit), format_value(wanted.nominal, unit)
    verdict = band.verdict(measured)
    if amperes and not plug.tells_amperes:
        limits = f"{format_value(band.low, unit)} to {format_value(band.high, unit)}"
        text = (
            f"{shown}, and the loads may take {limits}: the power factor of most of them is not known"
            " (rectifier inputs take their watts in pulses), so amperes can't judge them. Read watts, or"
            " write the power factors in the sheet."
        )
        return told(verdict=Verdict.UNCLEAR, reason=text)
    if verdict is Verdict.IN_BAND:
        if plug.watts <= FLOOR_WATTS:
            text = f"{shown}: nothing draws, as it should be here. That is the proof of this state."
        else:
            text = f"{shown}, and the loads add up to {expected}: all of them draw."
        return told(verdict=verdict, reason=text)
    gap = abs(measured - wanted.nominal) * (settled.circuit.mains_volts if amperes else 1.0)
    fits = (
        [draw for draw in found if abs(draw.watts - gap) <= SHARE * max(plug.watts, gap) + FLOOR_WATTS]
        if verdict is Verdict.LOW
        else []
    )
    nearest = sorted(fits, key=lambda draw: abs(draw.watts - gap))[:3]
    hint = f" What is missing fits: {', '.join(draw.name.lower() for draw in nearest)}." if nearest else ""
    if verdict is Verdict.HIGH:
        hint = " Something draws that should not in this mode, or a load is shorted or stalled."
    return told(verdict=verdict, reason=f"{shown}, but the loads add up to {expected}.{hint}")
