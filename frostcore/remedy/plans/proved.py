"""Why a plan is refused.

By what it does, not by how it is drawn: a protection that no longer acts, a heater nothing ends, earth
current in either polarity, volts a part is not made for, mains on low-voltage wires, contacts and wires
beyond what they carry, a compressor no temperature decides, a joint where water stands, something put in
that never acts, something lost that the plan says it keeps.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from frostcore import cautions
from frostcore.circuit.element import Analysis, BranchKind, Circuit
from frostcore.circuit.settle import BOTH
from frostcore.diagnosis.state import place_of
from frostcore.remedy.plans.guards import stands_in
from frostcore.remedy.plans.running import RUNS_SHARE, K, Running, across, on_mains, part_of, rated_volts
from frostcore.remedy.plans.solved import (
    LOW_AC,
    MOTOR_SHARE,
    Solved,
    heater_of_coil,
    is_wet,
    reached,
    through,
    to_earth,
)
from frostcore.sentence import in_sentence
from frostcore.sheet.electrical import EARTH
from frostcore.sheet.model import Component
from frostcore.sheet.rewired import PLACED
from frostcore.sheet.wiring import OLD_SIDE, WIRE_SIDE

EARTH_AMPERES = 0.75e-3
"""What may flow to earth through a unit that works."""

OVER = 1.2
"""Volts above the rated ones by more are refused."""

CARRIES = ((0.2, 1.0), (0.5, 3.0), (0.75, 6.0), (1.0, 10.0), (1.5, 16.0), (2.5, 25.0))
"""Square millimetres, and the amperes a wire of these carries for good in a unit."""

IDLE_AMPERES = 1e-3
"""Below this a contact carries nothing but what strays."""


@dataclass(frozen=True)
class Refusal:
    """Why a plan may not be done: which rule, of what, and in words."""

    rule: str
    of: str
    text: str


class Proof(Solved):
    """A plan on a sheet, with every reason why it may not be done; Unfit where it leads nowhere."""

    @cached_property
    def refusals(self) -> tuple[Refusal, ...]:
        """Every reason why it may not be done; empty where it may."""
        found = [refusal for rule in RULES for refusal in rule(self)]
        return tuple(dict.fromkeys(found))

    @property
    def refused(self) -> bool:
        """Whether there is any reason."""
        return any(True for rule in RULES for _ in rule(self))


def _guards_lost(proof: Proof) -> Iterator[Refusal]:
    """A protection that no longer takes a load's power away."""
    parts = proof.running.parts
    for load, now in sorted(proof.guards.of.items()):
        was = proof.before.guards.of.get(load)
        if was is None:
            continue
        added = [parts[name] for name in now - was]
        for lost in sorted(was - now):
            if not stands_in(parts[lost], added):
                name = in_sentence(parts[lost].name)
                of = in_sentence(parts[part_of(load)].name)
                told = f"The {name} no longer protects the {of}: with it open the {of} still runs."
                yield Refusal("protector", lost, f"{told} {cautions.BYPASS}")


def _unguarded(proof: Proof) -> Iterator[Refusal]:
    """A load on the mains with no fuse of its unit before it, where there was none before to compare with."""
    parts = proof.running.parts
    for load, now in sorted(proof.guards.of.items()):
        part = parts[part_of(load)]
        if load in proof.before.guards.of or part.kind is K.RELAY:
            continue
        fused = any(parts[name].kind is K.FUSE for name in now)
        if not fused and any(name.kind is K.FUSE for name in proof.before.sheet.components):
            told = f"The {in_sentence(part.name)} has no fuse before it: put one in, of no more amperes"
            yield Refusal("fuse", part.id, told)


def _heaters(proof: Proof) -> Iterator[Refusal]:
    """A heater that nothing ends."""
    parts = proof.running.parts
    for load, guards in sorted(proof.guards.of.items()):
        part = parts[part_of(load)]
        if part.kind is not K.HEATER or not heater_of_coil(proof.sheet, part.id):
            continue
        ended = any(parts[name].kind is K.BIMETAL for name in guards)
        if not ended and not proof.guards.switched_by_board.get(load):
            told = "nothing ends its defrost: no bimetal takes its power away, and no live board switches it"
            yield Refusal("heater", part.id, f"The {in_sentence(part.name)} heats on, because {told}.")


def _earthed(proof: Proof) -> Iterator[Refusal]:
    """Current to earth, whichever way round the plug is."""
    most = max(EARTH_AMPERES, 2 * proof.before.earth_amperes)
    for state in (*proof.running.states, *proof.running.turned):
        amperes = to_earth(state)
        if state.settled.states[state.settled.circuit.branch_index["wall"]] == "out":
            told = (
                f"So much flows to the chassis that the house’s residual-current device trips ({state.name})"
            )
            yield Refusal("earth", "", f"{told}. Metal could be live.")
            return
        if amperes > most:
            told = f"{amperes:.3g} A flow to the chassis ({state.name}); a sound unit lets no more than a"
            yield Refusal("earth", "", f"{told} thousandth of an ampere through. Metal could be live.")
            return


def _trips(proof: Proof) -> Iterator[Refusal]:
    for state in (*proof.running.states, *proof.running.turned):
        for words in state.settled.tripped:
            if state.settled.states[state.settled.circuit.branch_index["wall"]] != "out":
                yield Refusal("trips", "", f"{words}, with the unit in {state.name}.")
                return


def _idle(proof: Proof) -> Iterator[Refusal]:
    """Something put in that never does anything: a clock without power, a contact nothing flows through."""
    for part in proof.plan.added:
        name = in_sentence(part.name)
        told = f"The {name} is put in and"
        most = max(
            (
                through(state.settled, branch)
                for state in proof.running.states
                for branch in contacts_of(proof.running, part)
            ),
            default=1.0,
        )
        if most < IDLE_AMPERES:
            yield Refusal("idle", part.id, f"{told} nothing ever flows through it: a wire is missing.")
        if not _turns(proof, part):
            yield Refusal("idle", part.id, f"{told} never has power: its contacts would stay as they are.")


def _turns(proof: Proof, part: Component) -> bool:
    """Whether what moves a part put in has its volts in some state: a timer's clock, a relay's coil."""
    moves = {K.DEFROST_TIMER: "motor", K.CYCLE_TIMER: "clock", K.RELAY: "coil"}
    if part.kind not in moves or (part.kind is K.CYCLE_TIMER and part.nominal.ohms is None):
        return True
    name = f"{part.id}.{moves[part.kind]}"
    rated = rated_volts(proof.sheet, part)
    return any(
        max(across(state.settled, state.settled.circuit.branch(name), each) for each in BOTH)
        >= RUNS_SHARE * rated
        for state in proof.running.states
        if name in state.settled.circuit.branch_index
    )


def _over_volts(proof: Proof) -> Iterator[Refusal]:
    """Volts a load is not made for."""
    sheet = proof.sheet
    for state in proof.running.states:
        for _, branch, part in proof.running.loads(state.settled.circuit):
            if branch.id.rpartition(".")[2] in {"u", "v", "w"}:
                continue
            rated, mains = rated_volts(sheet, part), on_mains(sheet, part)
            ac, dc = (across(state.settled, branch, each) for each in (Analysis.AC, Analysis.DC))
            wrong = ac > OVER * rated if mains else dc > OVER * rated or ac > LOW_AC
            if wrong:
                told = f"{max(ac, dc):.3g} V lie on the {in_sentence(part.name)}, made for {rated:g} V"
                yield Refusal("volts", part.id, f"{told} ({state.name}).")


def _mains_on_low(proof: Proof) -> Iterator[Refusal]:
    """Mains on wires, plugs and inputs laid for low volts."""
    was, now = proof.before.mains, reached(proof.running)
    before = {_built(stretch.id): stretch for stretch in proof.before.sheet.wiring.stretches}
    for stretch in proof.sheet.wiring.stretches:
        old = before.get(_built(stretch.id))
        if old is None or {old.wire_side, old.far} & was or EARTH in {stretch.near, stretch.far}:
            continue
        if {stretch.wire_side, stretch.far} & now:
            told = f"Mains would lie on the wire from {stretch.start} to {stretch.end}, laid for low volts"
            yield Refusal(
                "low_wires", stretch.id, f"{told}: its insulation and its plugs are not made for it."
            )
            return


def _built(stretch: str) -> str:
    """A stretch's name as it was built, without the free ends a plan has made."""
    return stretch.replace(WIRE_SIDE, "").replace(OLD_SIDE, "")


def _contacts(proof: Proof) -> Iterator[Refusal]:
    """Contacts put in that carry more than they are made for."""
    for part in proof.plan.added:
        if part.kind not in {*PLACED, K.RELAY}:
            continue
        name = in_sentence(part.name)
        runs, starts = _carried(proof, part)
        rated, rated_start = part.nominal.amperes, part.nominal.start_amperes
        if not runs:
            continue
        if rated is None:
            told = f"What the {name}’s contact carries is not said; write its amperes"
            yield Refusal("contact", part.id, f"{told}: {runs:.2g} A flow through it.")
        elif runs > rated:
            told = f"The {name}’s contact is made for {rated:g} A, and {runs:.2g} A flow through it."
            yield Refusal("contact", part.id, told)
        elif starts > MOTOR_SHARE * runs and starts > (rated_start or rated):
            told = f"the motors behind it take {starts:.2g} A as they start"
            stands = f"{rated_start:g} A for that" if rated_start else f"{rated:g} A"
            yield Refusal("start", part.id, f"The {name}’s contact is made for {stands}, and {told}.")


def _carried(proof: Proof, part: Component) -> tuple[float, float]:
    """The most amperes through a part's contacts, running and starting."""
    names = contacts_of(proof.running, part)
    runs, at = 0.0, proof.running.states[0]
    for state in proof.running.states:
        here = max((through(state.settled, name) for name in names), default=0.0)
        if here > runs:
            runs, at = here, state
    if not runs:
        return 0.0, 0.0
    starting = proof.running.starting(at)
    return runs, max(through(starting, name) for name in names)


def contacts_of(running: Running, part: Component) -> list[str]:
    """The branches of a part's contacts."""
    branches = running.states[0].settled.circuit.branches
    return [each.id for each in branches if each.part == part.id and each.kind is BranchKind.CONTACT]


def _wires(proof: Proof) -> Iterator[Refusal]:
    """Wires put in that are too thin."""
    stretches = _stretches(proof.running.states[0].settled.circuit) if proof.running.states else {}
    for wire in proof.plan.wires:
        limit = max((amperes for area, amperes in CARRIES if area <= wire.mm2), default=0.0)
        pairs = {frozenset(pair) for pair in zip(wire.points, wire.points[1:], strict=False)}
        names = [name for pair in pairs for name in stretches.get(pair, ())]
        most = max(
            (through(state.settled, name) for state in proof.running.states for name in names), default=0.0
        )
        if most > max(limit, IDLE_AMPERES):
            told = f"The wire from {wire.points[0]} to {wire.points[-1]} carries {most:.2g} A"
            yield Refusal("wire", wire.points[0], f"{told}; {wire.mm2:g} mm² are good for {limit:g} A.")


def _stretches(circuit: Circuit) -> dict[frozenset[str], list[str]]:
    """The stretches of wire by the two points they join, as a plan names these."""
    found: dict[frozenset[str], list[str]] = {}
    for branch in circuit.branches:
        if branch.kind is BranchKind.WIRE and len(branch.ends) == 2:
            ends = frozenset(end.replace(OLD_SIDE, WIRE_SIDE) for end in branch.ends)
            found.setdefault(ends, []).append(branch.id)
    return found


def _undecided(proof: Proof) -> Iterator[Refusal]:
    """A compressor that no temperature stops."""
    if proof.plan.stop_gap_until:
        return
    for load, deciders in sorted(proof.guards.deciders.items()):
        part = proof.running.parts[part_of(load)]
        if part.kind is K.COMPRESSOR and not deciders:
            told = "No temperature stops the compressor: food freezes or spoils, and it wears."
            yield Refusal("undecided", part.id, f"{told} Only as a stop-gap, with the day it is undone by.")
            return


def _kept(proof: Proof) -> Iterator[Refusal]:
    """Something the plan says it keeps, and that runs in no state."""
    for name in proof.plan.keeps:
        if name not in proof.running.parts_running:
            told = f"The {in_sentence(proof.running.parts[name].name)} is to be kept and runs in no state"
            yield Refusal("keeps", name, f"{told}: look for a wire that is not joined, a neutral above all.")


def _joints(proof: Proof) -> Iterator[Refusal]:
    """Joints where water stands."""
    for wire in proof.plan.wires:
        for point in wire.points:
            place = place_of(proof.sheet, point)
            if place and is_wet(proof.sheet, proof.sheet.place(place)):
                where = in_sentence(proof.sheet.place(place).name)
                told = (
                    f"The joint at {point} would lie where water stands ({where}); join at its plug outside."
                )
                yield Refusal("wet", point, told)


RULES = (
    _kept,
    _idle,
    _guards_lost,
    _unguarded,
    _heaters,
    _earthed,
    _trips,
    _over_volts,
    _mains_on_low,
    _contacts,
    _wires,
    _undecided,
    _joints,
)
