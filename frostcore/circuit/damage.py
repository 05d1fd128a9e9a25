"""What a fault does to a circuit, and the circuit with it written in."""

from dataclasses import dataclass, field, replace

from frostcore.circuit.element import Branch, BranchKind, Circuit, Impedance, States


@dataclass(frozen=True)
class Change:
    """What a fault does to one branch: new states, a state it is forced into, a command that is always
    there."""

    states: States | None = None
    forced: str | None = None
    commanded: bool = False

    def states_of(self, branch: Branch) -> States:
        """The branch's states under the change."""
        return branch.states if self.states is None else self.states

    def start_of(self, branch: Branch) -> str:
        """The state it starts in, and stays in when it is forced."""
        return branch.start if self.forced is None else self.forced


@dataclass(frozen=True)
class Damage:
    """What a fault does to a circuit: changes by branch id, and impedances added between nodes (in both
    analyses)."""

    changes: dict[str, Change] = field(default_factory=dict)
    bridges: tuple[tuple[str, str, Impedance], ...] = ()


HEALTHY = Damage()


def damaged(circuit: Circuit, damage: Damage) -> Circuit:
    """The circuit with a fault written into its branches, to be solved or exported by itself."""
    branches = []
    for branch in circuit.branches:
        change = damage.changes.get(branch.id)
        branches.append(_changed(branch, change) if change else branch)
    for number, (a, b, impedance) in enumerate(damage.bridges):
        branches.append(
            Branch(f"fault.{number}", a, b, BranchKind.RESISTOR, "", "fault", {"": impedance}, "")
        )
    return replace(circuit, branches=tuple(branches), like=circuit.topology)


def _changed(branch: Branch, change: Change) -> Branch:
    """A branch with a fault's change written into it."""
    control = None if change.forced is not None else branch.control
    if control and change.commanded:
        control = replace(control, signal="")
    may = "" if change.forced is not None else branch.may
    return replace(
        branch, states=change.states_of(branch), start=change.start_of(branch), control=control, may=may
    )
