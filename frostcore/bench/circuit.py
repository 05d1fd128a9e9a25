"""A supply as a circuit: its parts within their tolerances in a draw, unplugged and on the mains.

Unplugged, junctions are open until a meter's own volts close them. On the mains the parts no linear circuit
has (what a rectifier leaves on its capacitor, what a switcher and a regulator give) are sources beside them,
whose volts :mod:`frostcore.bench.live` finds.
"""

from collections.abc import Iterator
from dataclasses import replace

from frostcore.bench.faults import Condition
from frostcore.circuit.damage import Change, Damage
from frostcore.circuit.element import Branch, BranchKind, Circuit, Coupling, Impedance
from frostcore.circuit.figures import WALL_OHMS
from frostcore.circuit.junction import junction
from frostcore.faults.draws import Draw
from frostcore.sheet.plate import usual_hertz
from frostcore.sheet.supply import BoardPart, BoardPartKind, BoardSupply

K = BoardPartKind

WIDE = 2.0
"""Of a board nobody described what is not printed on a part may as well be so many times what is usual."""

PRINTED = frozenset({K.RESISTOR, K.FUSE, K.FILM_CAPACITOR, K.ELECTROLYTIC, K.LIMITER})
"""Their values are printed on them, and typed before they are judged."""

WIDE_ESR = 1.3
"""Of a capacitor of no known family: its farads and volts are printed, its series ohms are not."""

ESR_TIMES = 1.6
"""Good capacitors' series resistances differ by this factor either way."""

SOURCE_OHMS = 0.02
"""Behind a source that a law finds: what is between it and its node."""

_OWN_TOLERANCE = frozenset({K.DIODE, K.ZENER, K.SWITCH, K.REGULATOR})
"""Of these the tolerance is of a junction's volts, whoever made the board."""

_JUNCTIONS = frozenset({K.DIODE, K.ZENER})
JUNCTIONS = _JUNCTIONS | {K.SWITCH, K.REGULATOR}
"""What has a junction a meter finds."""


def drawn(supply: BoardSupply, draw: Draw) -> BoardSupply:
    """The supply of one good board: each part somewhere within its tolerance."""
    wide = WIDE if supply.source == "archetype" else 1.0
    return replace(supply, parts=tuple(_drawn(part, draw, wide) for part in supply.parts))


def _drawn(part: BoardPart, draw: Draw, wide: float) -> BoardPart:
    def off(name: str, ratio: float) -> float:
        return float(ratio ** draw.off(f"{part.id} {name}"))

    own = 1.0 if part.kind in _OWN_TOLERANCE | PRINTED else wide
    esr = ESR_TIMES * (WIDE_ESR if wide > 1 else 1.0)
    about = 1 + part.tolerance
    return replace(
        part,
        ohms=part.ohms * off("ohms", about * own) if part.ohms else None,
        farads=part.farads * off("farads", about * own) if part.farads else None,
        esr_ohms=part.esr_ohms * off("esr", esr) if part.esr_ohms else None,
        drop_volts=part.drop_volts * off("drop", 1 + min(part.tolerance, 0.1)) if part.drop_volts else None,
    )


def _branch(part: BoardPart, impedance: Impedance | None) -> Branch:
    return Branch(part.id, part.a, part.b, BranchKind.RESISTOR, part.id, part.title, {"": impedance}, "")


def _of_part(part: BoardPart, *, soft: bool = False) -> Iterator[Branch]:
    """A part's branches, the first of its own name."""
    if part.kind in JUNCTIONS:  # the one inside a transistor conducts from b to a
        ends = (part.a, part.b) if part.kind in _JUNCTIONS else (part.b, part.a)
        yield junction(part.id, part.title, ends, part.drop_volts or 0.6, soft=soft)
        if part.kind is K.REGULATOR and part.ohms:
            inner = _electronics(part.ohms, soft=soft)
            for name, node in (("in", part.a), ("own", part.b)):
                of = f"{part.id}.{name}"
                yield Branch(of, node, part.c, BranchKind.LOAD, part.id, part.title, {"": inner}, "")
    elif part.kind in {K.SUPPRESSOR, K.FEEDBACK}:
        yield _branch(part, None)
    elif part.kind in {K.FILM_CAPACITOR, K.ELECTROLYTIC}:
        yield _branch(part, Impedance(part.esr_ohms or 0.05, farads=part.farads))
    elif part.kind is K.LOAD:
        yield _branch(part, _electronics(part.ohms or 1e3, soft=soft))
    else:
        yield _branch(part, Impedance(part.ohms or 1.0))


def _electronics(ohms: float, *, soft: bool) -> Impedance:
    """Electronics at rest: other ohms to another meter."""
    return Impedance(ohms * (OTHER_METER if soft else 1.0), firm=False)


OTHER_METER = 0.5


def unplugged(supply: BoardSupply, *, soft: bool = False) -> Circuit:
    """The board on the mat with nothing on it but a meter; ``soft``, with its junctions as they are at a few
    tenths of a volt, and electronics as another meter finds them."""
    branches = tuple(branch for part in supply.parts for branch in _of_part(part, soft=soft))
    return Circuit("", False, 50.0, 0.0, supply.neutral, branches, (), frozenset(), stirred=True)


def plugged(supply: BoardSupply, mains: float) -> Circuit:
    """The board on the mains, with a source for each law, open until :mod:`frostcore.bench.live` says what
    it gives."""
    branches = [branch for part in supply.parts for branch in _live_part(supply, part)]
    wall = Impedance(WALL_OHMS, ac_volts=mains)
    branches.append(
        Branch("mains", supply.line, supply.neutral, BranchKind.SOURCE, "", "mains", {"": wall}, "")
    )
    couplings = []
    for name, a, b in law_sources(supply):
        branches.append(Branch(name, a, b, BranchKind.SOURCE, "", name, {"": None}, ""))
    for name, (of, share) in law_draws(supply).items():
        couplings.append(Coupling(name, of, share))
    return Circuit(
        "", True, usual_hertz(mains), mains, supply.neutral, tuple(branches), (), frozenset(),
        couplings=tuple(couplings),
    )  # fmt: skip


def _live_part(supply: BoardSupply, part: BoardPart) -> Iterator[Branch]:
    """A part as it works: logic takes its amperes at its rail's volts."""
    if part.kind is K.LOAD and part.amperes:
        volts = next((each.volts for each in supply.regulators if supply.part(each.part).b == part.a), 5.0)
        yield _branch(part, Impedance(volts / part.amperes))
        return
    found = tuple(_of_part(part))
    yield from (found[:1] if part.kind is K.REGULATOR else found)


def law_sources(supply: BoardSupply) -> Iterator[tuple[str, str, str]]:
    """The sources of the laws: name, plus, minus."""
    for each in supply.rectifiers:
        yield f"{each.id}.dc", each.plus, each.minus
        yield f"{each.id}.ac", each.ac_a, each.ac_b
    for switcher in supply.switchers:
        yield f"{switcher.id}.out", switcher.output, switcher.ground
        yield f"{switcher.id}.own", switcher.own_supply, switcher.minus
    for buck in supply.bucks:
        yield f"{buck.id}.out", buck.output, buck.ground
        yield f"{buck.id}.draw", buck.plus, buck.ground
    for regulator in supply.regulators:
        part = supply.part(regulator.part)
        yield f"{part.id}.out", part.b, part.c
        yield f"{part.id}.draw", part.a, part.c


def law_draws(supply: BoardSupply) -> dict[str, tuple[str, float]]:
    """What takes its current from another law's: branch, and of which by what share."""
    found = {f"{each.part}.draw": (f"{each.part}.out", 1.0) for each in supply.regulators}
    for buck in supply.bucks:
        share = buck.volts / (buck.efficiency * _feeding_volts(supply, buck.plus))
        found[f"{buck.id}.draw"] = (f"{buck.id}.out", share)
    return found


def _feeding_volts(supply: BoardSupply, node: str) -> float:
    return next((each.volts for each in supply.switchers if each.output == node), 12.0)


def change(part: BoardPart, condition: Condition) -> Change | None:
    """What a condition does to a part's branch; None where no direct current and no mains see it."""
    match condition.kind:
        case "open":
            left: Impedance | None = None
        case "short":
            left = Impedance(condition.ohms)
        case "scaled":
            left = Impedance((part.ohms or 1.0) * condition.factor)
        case "worn":
            esr, farads = (part.esr_ohms or 0.05) * condition.esr, (part.farads or 0.0) * condition.factor
            left = Impedance(esr, farads=farads)
        case _:
            return None
    return Change({"on": left, "off": left} if part.kind in JUNCTIONS else {"": left})


def damage(supply: BoardSupply, conditions: dict[str, Condition]) -> Damage:
    """What has become of some parts, as changes of the circuit's branches."""
    found = {}
    for name, condition in conditions.items():
        made = change(supply.part(name), condition)
        if made:
            found[name] = made
    return Damage(found)
