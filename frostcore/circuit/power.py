"""What a unit draws at the plug in a mode, load by load, and what a measured figure says is missing or too
much.

AC loads by P = Re(V·I*); loads on a rail by V·I through a supply of about 80 %.
"""

from dataclasses import dataclass

from frostcore.circuit.element import Analysis, BranchKind
from frostcore.circuit.meter import RAIL_EFFICIENCY, plug_watts
from frostcore.circuit.settle import Settled
from frostcore.quantity import Dimension, format_value
from frostcore.verdict import Band, Judged, Verdict

SHARE, FLOOR_WATTS = 0.12, 3.0
"""A plug meter and the loads' own tolerances together; and what small loads add or leave out."""


@dataclass(frozen=True)
class Draw:
    """One load's watts as seen at the plug."""

    branch: str
    name: str
    component: str
    watts: float


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
    """What each load takes, largest first; those under ``LEAST_WATTS`` are left out."""
    circuit, found = settled.circuit, []
    for place, branch in enumerate(circuit.branches):
        if branch.kind is not BranchKind.LOAD or not circuit.live:
            continue
        watts = 0.0
        for analysis, share in ((Analysis.AC, 1.0), (Analysis.DC, RAIL_EFFICIENCY)):
            solved = settled.solved[analysis]
            a, b = settled.circuit.topology.ends[place]
            watts += (
                float(((solved.x[a] - solved.x[b]) * solved.x[solved.nodes + place].conjugate()).real) / share
            )
        if watts >= LEAST_WATTS:
            found.append(Draw(branch.id, branch.name, branch.part, watts))
    return tuple(sorted(found, key=lambda draw: -draw.watts))


def judge_plug(settled: Settled, measured: float, *, amperes: bool = False) -> PlugVerdict:
    """Watts (or amperes) at the plug in this mode against the sum of the loads.

    Names the load that a gap fits.
    """
    watts, current = plug_watts(settled)
    found = draws(settled)
    nominal, unit = (current, Dimension.CURRENT) if amperes else (watts, Dimension.POWER)
    floor = FLOOR_WATTS / settled.circuit.mains_volts if amperes else FLOOR_WATTS
    band = Band(max(0.0, nominal * (1 - SHARE) - floor), nominal, nominal * (1 + SHARE) + floor)
    verdict = band.verdict(measured)
    shown, expected = format_value(measured, unit), format_value(nominal, unit)
    if verdict is Verdict.IN_BAND:
        return PlugVerdict(
            watts=watts,
            amperes=current,
            draws=found,
            band=band,
            measured=measured,
            verdict=verdict,
            reason=f"{shown}, and the loads add up to {expected}: all of them draw.",
        )
    gap = abs(measured - nominal) * (settled.circuit.mains_volts if amperes else 1.0)
    fits = (
        [draw for draw in found if abs(draw.watts - gap) <= SHARE * max(watts, gap) + FLOOR_WATTS]
        if verdict is Verdict.LOW
        else []
    )
    nearest = sorted(fits, key=lambda draw: abs(draw.watts - gap))[:3]
    hint = f" What is missing fits: {', '.join(draw.name.lower() for draw in nearest)}." if nearest else ""
    if verdict is Verdict.HIGH:
        hint = " Something draws that should not in this mode, or a load is shorted or stalled."
    return PlugVerdict(
        watts=watts,
        amperes=current,
        draws=found,
        band=band,
        measured=measured,
        verdict=verdict,
        reason=f"{shown}, but the loads add up to {expected}.{hint}",
    )
