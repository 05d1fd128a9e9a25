"""What a fault does, as a few plain acts on the circuit's branches; the same fault in any mode."""

from collections.abc import Iterable
from dataclasses import dataclass, replace

from frostcore.circuit.damage import Change, Damage
from frostcore.circuit.element import Circuit, Impedance, States, fed_by
from frostcore.supply.bus import Source


@dataclass(frozen=True)
class Opened:
    """The branch lets nothing through."""

    branch: str


@dataclass(frozen=True)
class Shorted:
    """The branch is bridged inside by a small resistance."""

    branch: str
    ohms: float = 0.5


@dataclass(frozen=True)
class Scaled:
    """Resistance and inductance multiplied; of a capacitor its farads, its series resistance stays."""

    branch: str
    factor: float


@dataclass(frozen=True)
class InSeries:
    """A resistance added in series: a corroded joint, a burnt contact, a dried-out capacitor behind a
    rail."""

    branch: str
    ohms: float


@dataclass(frozen=True)
class Forced:
    """The branch stays in one of its states, whatever commands it."""

    branch: str
    state: str


@dataclass(frozen=True)
class Becomes:
    """One state of the branch is as another: a seized fan, when it should be turning, draws as a stalled
    one; at rest it is as before."""

    branch: str
    state: str
    like: str


@dataclass(frozen=True)
class Commanded:
    """The branch is commanded whatever the mode says; it still needs the rails it needs."""

    branch: str


@dataclass(frozen=True)
class Bridged:
    """A resistance where none should be: moisture, a solder bridge, a chafed wire on metal."""

    a: str
    b: str
    ohms: float


@dataclass(frozen=True)
class Fed:
    """A supply's branch as another rectifier and capacitor leave it."""

    branch: str
    source: Source


Act = Opened | Shorted | Scaled | InSeries | Forced | Becomes | Commanded | Bridged | Fed


def _altered(impedance: Impedance | None, act: Act) -> Impedance | None:
    if isinstance(act, Shorted):  # what is open shorted too: a contact, a capacitor, a diode at rest
        if impedance is None or impedance.dc_amperes is not None:
            return Impedance(act.ohms)
        return replace(impedance, ohms=min(act.ohms, impedance.ohms), henries=0.0, farads=None)
    match act:
        case Opened() | _ if impedance is None or isinstance(act, Opened):
            return None
        case Scaled(factor=factor) if impedance.farads is not None:
            return replace(impedance, farads=impedance.farads * factor)
        case Scaled(factor=factor):
            return replace(impedance, ohms=impedance.ohms * factor, henries=impedance.henries * factor)
        case Fed(source=source):
            return fed_by(impedance, source) if impedance.dc_volts else impedance
        case InSeries(ohms=ohms):
            return replace(impedance, ohms=impedance.ohms + ohms)
    return impedance


def damage(circuit: Circuit, acts: Iterable[Act]) -> Damage:
    """The acts as changes of this circuit's branches.

    Raises CircuitError for a branch or node the circuit has not.
    """
    changes: dict[str, Change] = {}
    states: States
    bridges = []
    for act in acts:
        if isinstance(act, Bridged):
            bridges.append((act.a, act.b, Impedance(act.ohms)))
            continue
        branch, so_far = circuit.branch(act.branch), changes.get(act.branch, Change())
        if isinstance(act, Forced):
            changes[act.branch] = replace(so_far, forced=act.state)
        elif isinstance(act, Commanded):
            changes[act.branch] = replace(so_far, commanded=True)
        elif isinstance(act, Becomes):
            states = dict(so_far.states or branch.states)
            changes[act.branch] = replace(so_far, states=states | {act.state: states[act.like]})
        else:
            states = {
                name: _altered(impedance, act) for name, impedance in (so_far.states or branch.states).items()
            }
            changes[act.branch] = replace(so_far, states=states)
    return Damage(changes, tuple(bridges))
