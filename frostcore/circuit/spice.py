"""The circuit as a SPICE deck: an open format that any circuit simulator reads.

Node 0 is the chassis; comment lines ``* node n3 = CN7.1`` tell which name stands for which node of the
sheet. Open branches are left out, inductances and capacitances in series get nodes of their own. The deck
holds both sources: DC values for the operating point, r.m.s. phasors for the AC analysis at mains
frequency.
"""

import cmath
import math
import re
from collections.abc import Iterator, Mapping, Sequence

from frostcore.circuit.element import INSULATION_OHMS, Analysis, Circuit, Coupling, Impedance
from frostcore.circuit.settle import Settled

SHORTEST_OHMS = 1e-9
"""What stands for a branch without any resistance, which SPICE would refuse."""


def names(circuit: Circuit) -> dict[str, str]:
    """Sheet node -> SPICE node."""
    return {circuit.reference: "0"} | {node: f"n{place}" for place, node in enumerate(circuit.nodes, 1)}


def deck(
    settled: Settled,
    title: str,
    *,
    added: Sequence[tuple[str, str, Impedance, str]] = (),
    analyses: Sequence[Analysis] = tuple(Analysis),
    aliases: Mapping[str, str] | None = None,
    answer: str = "",
) -> str:
    """The deck of a settled circuit.

    It runs by itself in batch mode and prints every node's voltage. ``added`` puts more branches in
    (a meter): from, to, impedance, name. ``aliases`` gives more names of nodes, such as pins.
    ``answer`` is an expression in SPICE's own terms, printed last as ``reading``.
    """
    circuit = settled.circuit
    spice = names(circuit)
    lines = [f"* {_plain(title)}"]
    lines += [f"* node {name} = {_plain(node)}" for node, name in spice.items()]
    others = [(alias, node) for alias, node in (aliases or {}).items() if alias != node]
    lines += [f"* node {spice[node]} = {_plain(alias)}" for alias, node in others]
    watched = {coupling.of for coupling in circuit.couplings}
    shares = {coupling.branch: coupling for coupling in circuit.couplings}
    for place, branch in enumerate(circuit.branches):
        impedance = settled.impedance(place)
        if branch.id in shares:
            lines += _coupled(settled, place, spice, shares[branch.id])
            continue
        if impedance is None:
            lines.append(f"* {_plain(branch.id)} is open")
            continue
        state = f", {settled.states[place]}" if settled.states[place] else ""
        lines.append(f"* {_plain(f'{branch.id}: {branch.name}{state}')}")
        ends = spice[branch.a], spice[branch.b]
        lines += _series(f"b{place}", *ends, impedance, watched=branch.id in watched)
    for place, (a, b, impedance, name) in enumerate(added):
        lines.append(f"* {_plain(name)}")
        lines += _series(f"x{place}", spice[a], spice[b], impedance)
    lines.append("* insulation and stray capacitance")
    lines += [
        f"Rins{place} {name} 0 {INSULATION_OHMS:.12g}" for place, name in enumerate(list(spice.values())[1:])
    ]
    lines += [
        f"Cstr{place} {spice[stray.a]} {spice[stray.b]} {stray.farads:.12g}"
        for place, stray in enumerate(circuit.strays)
    ]
    lines += [".control", "set numdgt=15", "set width=200"]
    for analysis in analyses:
        lines += [
            "op" if analysis is Analysis.DC else f"ac lin 1 {circuit.hertz:.12g} {circuit.hertz:.12g}",
            "print all",
        ]
    lines += [f"let reading = {answer}", "print reading"] if answer else []
    lines += ["quit", ".endc"]
    return "\n".join([*lines, ".end"]) + "\n"


def _coupled(settled: Settled, place: int, spice: Mapping[str, str], coupling: Coupling) -> Iterator[str]:
    """What a branch draws that takes a share of another's current."""
    branch, of = settled.circuit.branches[place], settled.circuit.branch_index[coupling.of]
    if settled.impedance(of) is None:
        yield f"* {_plain(branch.id)}: nothing to draw for"
        return
    yield f"* {_plain(f'{branch.id}: {branch.name}')}"
    yield f"Fb{place} {spice[branch.a]} {spice[branch.b]} Vb{of} {-coupling.share:.15g}"


def _series(name: str, a: str, b: str, impedance: Impedance, *, watched: bool = False) -> Iterator[str]:
    """One branch as R, L, C and a source in a row, with inner nodes named after it; or a source of
    current.

    What is ``watched`` has a source whatever its volts, for SPICE reads a current through one.
    """
    if impedance.dc_amperes is not None:
        yield f"I{name} {a} {b} DC {impedance.dc_amperes:.15g} AC 0"
        return
    pieces = [("R", f"{max(impedance.ohms, SHORTEST_OHMS):.15g}")]
    if impedance.henries:
        pieces.append(("L", f"{impedance.henries:.15g}"))
    if impedance.farads is not None:
        pieces.append(("C", f"{impedance.farads:.15g}"))
    if impedance.dc_volts or impedance.ac_volts or watched:
        phasor = complex(impedance.ac_volts)
        pieces.append(("V", f"DC {impedance.dc_volts:.15g} AC {abs(phasor):.15g} {_degrees(phasor):.15g}"))
    nodes = [a, *(f"{name}i{number}" for number in range(len(pieces) - 1)), b]
    for (letter, value), start, end in zip(pieces, nodes, nodes[1:], strict=False):
        yield f"{letter}{name} {start} {end} {value}"


def _degrees(value: complex) -> float:
    return math.degrees(cmath.phase(value))


def _plain(text: str) -> str:
    """Text that no SPICE reader takes for more than words: one line of letters, digits and a few signs."""
    words = " ".join(text.encode("ascii", "replace").decode().split())
    return re.sub(r"[^A-Za-z0-9_ .,:()/+=-]", "?", words)
