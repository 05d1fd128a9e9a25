"""What is connected to what: the nodes mains reach, and the load an output switches."""

from collections.abc import Iterator

from frostcore.circuit.element import Analysis, Branch, BranchKind, Circuit
from frostcore.circuit.settle import Settled

CONDUCTS = {BranchKind.WIRE, BranchKind.JOINT, BranchKind.CONTACT, BranchKind.SWITCH, BranchKind.LOAD}


def mains_nodes(circuit: Circuit) -> frozenset[str]:
    """The nodes that mains reach through wires, contacts, outputs and the loads on them; not through
    electronics, which keep it to themselves."""
    ways: dict[str, list[str]] = {}
    for branch in circuit.branches:
        states = [state for state in branch.states.values() if state is not None]
        if branch.kind in CONDUCTS and all(state.firm for state in states) and not _low(branch):
            ways.setdefault(branch.a, []).append(branch.b)
            ways.setdefault(branch.b, []).append(branch.a)
    found, open_ends = {"wall_l", "wall_n"}, ["wall_l", "wall_n"]
    while open_ends:
        for other in ways.get(open_ends.pop(), ()):
            if other not in found and other != circuit.reference:
                found.add(other)
                open_ends.append(other)
    return frozenset(found)


def _low(branch: Branch) -> bool:
    """Whether a branch's own control looks at direct current: a fan, an output on a rail."""
    control = branch.control
    return (
        control is not None
        and branch.kind is BranchKind.LOAD
        and all(sense.analysis is Analysis.DC for sense in control.senses)
    )


def _near(circuit: Circuit, start: str, without: set[str]) -> Iterator[Branch]:
    """Every branch met from a node along wires, joints and contacts, nearest first; nodes ``without`` are not
    passed."""
    ways: dict[str, list[Branch]] = {}
    for branch in circuit.branches:
        ways.setdefault(branch.a, []).append(branch)
        ways.setdefault(branch.b, []).append(branch)
    met, ends = {start}, [start]
    for node in ends:  # grows as it goes
        for branch in ways.get(node, ()):
            yield branch
            if branch.kind in PASSES:
                for other in {branch.a, branch.b} - met - without:
                    met.add(other)
                    ends.append(other)


PASSES = {BranchKind.WIRE, BranchKind.JOINT, BranchKind.CONTACT}


def _supplies(circuit: Circuit) -> set[str]:
    """The nodes that supplies hold."""
    return {
        node
        for branch in circuit.branches
        if branch.kind is BranchKind.SOURCE or branch.id.endswith(".feed")
        for node in (branch.a, branch.b)
    }


def load_of(circuit: Circuit, switch: Branch) -> Branch | None:
    """The load an output switches: the nearest by wires, joints and contacts from the end of it that is no
    supply's."""
    supplies = _supplies(circuit)
    for start in {switch.a, switch.b} - supplies:
        for branch in _near(circuit, start, supplies):
            if branch.kind is BranchKind.LOAD and branch.part != switch.part:
                return branch
    return None


def contacts_of(circuit: Circuit, load: Branch) -> tuple[Branch, ...]:
    """The contacts in a load's own loop: those met from its ends before a supply."""
    supplies = _supplies(circuit)
    found = {
        branch.id: branch
        for start in (load.a, load.b)
        for branch in _near(circuit, start, supplies)
        if branch.kind is BranchKind.CONTACT
    }
    return tuple(found.values())


def joined(settled: Settled, node: str) -> frozenset[str]:
    """The nodes wires and joints make one with a node, as they stand: a broken wire joins nothing."""
    circuit, met, ends = settled.circuit, {node}, [node]
    whole = [
        branch
        for place, branch in enumerate(circuit.branches)
        if branch.kind in {BranchKind.WIRE, BranchKind.JOINT} and settled.impedance(place) is not None
    ]
    for end in ends:  # grows as it goes
        for branch in whole:
            if end in {branch.a, branch.b}:
                new = {branch.a, branch.b} - met
                met |= new
                ends += new
    return frozenset(met)
