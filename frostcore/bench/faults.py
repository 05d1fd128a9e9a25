"""How a board's parts fail: for each kind the ways, how often, and what becomes of the part.

Weights are shares among boards on a bench, an engineer's memory of many and nobody's count. A part that takes
others with it (``dies_with``) fails together with them: a blown fuse is an effect, and by itself it is rare.
"""

from dataclasses import dataclass, replace
from typing import Literal

from frostcore.faults.draws import Draw
from frostcore.sheet.supply import BoardPart, BoardPartKind, BoardSupply

K = BoardPartKind


@dataclass(frozen=True)
class Condition:
    """What has become of a part: ``open``; a ``short`` of some ohms; ``scaled`` ohms; ``worn``, farads and
    ESR times a factor each; ``dead``, as good as ever unplugged and doing nothing."""

    kind: Literal["open", "short", "scaled", "worn", "dead"]
    ohms: float = 0.3
    factor: float = 1.0
    esr: float = 1.0


OPEN = Condition("open")
DEAD = Condition("dead")


@dataclass(frozen=True)
class BoardFaultRow:
    """One way a kind of part fails. ``takes`` says whether what dies with the part does so here; ``spread``,
    the least and most of the short's ohms, the factor, or of a capacitor's wear."""

    kind: BoardPartKind
    mode: str
    name: str
    weight: float
    why: str
    condition: Condition
    takes: bool = False
    spread: tuple[float, float] | None = None
    looks: float = 0.0
    """How often one sees it: burnt, cracked, domed."""

    comes_and_goes: bool = False


ROWS: tuple[BoardFaultRow, ...] = (
    BoardFaultRow(K.FUSE, "open", "open by itself", 4, "tired by inrush; mostly it is an effect", OPEN),
    BoardFaultRow(
        K.SUPPRESSOR, "short", "shorted", 22, "a surge; it dies so that the rest does not",
        Condition("short", 2.0), takes=True, spread=(0.5, 30.0), looks=0.7,
    ),
    BoardFaultRow(K.SUPPRESSOR, "open", "burst open", 2, "a surge too many", OPEN, looks=0.8),
    BoardFaultRow(
        K.FILM_CAPACITOR, "short", "shorted", 2, "damp between its films",
        Condition("short", 1.0), takes=True, spread=(0.5, 10.0), looks=0.4,
    ),
    BoardFaultRow(
        K.FILM_CAPACITOR, "worn", "has lost farads", 5, "its film burns away around each surge",
        Condition("worn", factor=0.5), spread=(0.2, 0.7),
    ),
    BoardFaultRow(K.CHOKE, "open", "open", 6, "a wire cracked at its pin, or burnt by a short", OPEN),
    BoardFaultRow(K.LIMITER, "open", "open", 12, "cracks from heat and cold", OPEN, looks=0.5),
    BoardFaultRow(
        K.DIODE, "short", "shorted", 10, "surge or heat",
        Condition("short", 0.3), takes=True, spread=(0.1, 2.0),
    ),
    BoardFaultRow(K.DIODE, "open", "open", 3, "its bond lifts", OPEN),
    BoardFaultRow(
        K.ZENER, "short", "shorted", 8, "it burns off what the rail does not take",
        Condition("short", 0.5), spread=(0.2, 5.0), looks=0.3,
    ),
    BoardFaultRow(K.ZENER, "open", "open", 3, "burnt through", OPEN, looks=0.5),
    BoardFaultRow(
        K.ELECTROLYTIC, "worn", "dried out", 45, "heat and years; its ESR rises before its farads fall",
        Condition("worn", factor=0.5, esr=8.0), spread=(2.5, 40.0), looks=0.35,
    ),
    BoardFaultRow(K.ELECTROLYTIC, "open", "open", 4, "a leg corroded through", OPEN, looks=0.2),
    BoardFaultRow(
        K.ELECTROLYTIC, "short", "shorted", 3, "its oxide breaks down",
        Condition("short", 0.5), takes=True, spread=(0.1, 3.0), looks=0.5,
    ),
    BoardFaultRow(K.RESISTOR, "open", "open", 6, "burnt, or cracked by its own volts", OPEN, looks=0.3),
    BoardFaultRow(
        K.RESISTOR, "up", "has risen", 4, "its film wears under volts and heat",
        Condition("scaled", factor=3.0), spread=(1.5, 8.0),
    ),
    *(
        BoardFaultRow(
            kind, "joint", "its joint cracked, comes and goes", weight,
            "heavy or warm, it works its solder loose",
            OPEN, looks=0.3, comes_and_goes=True,
        )
        for kind, weight in ((K.WINDING, 2), (K.CHOKE, 3), (K.COIL, 6), (K.SWITCH, 2))
    ),
    BoardFaultRow(K.WINDING, "open", "open", 2, "a wire cracked at its pin", OPEN),
    BoardFaultRow(
        K.SWITCH, "short", "shorted", 16, "volts or heat beyond it",
        Condition("short", 0.3), takes=True, spread=(0.1, 3.0), looks=0.3,
    ),
    BoardFaultRow(K.SWITCH, "dead", "dead", 9, "it switches no more; unplugged no meter shows it", DEAD),
    BoardFaultRow(K.SWITCH, "open", "open", 4, "its bond lifts", OPEN),
    BoardFaultRow(K.REGULATOR, "dead", "gives nothing", 8, "heat; no meter shows it unplugged", DEAD),
    BoardFaultRow(
        K.REGULATOR, "short", "shorted through", 3, "an overload behind it", Condition("short", 0.5),
    ),
    BoardFaultRow(K.FEEDBACK, "dead", "lost", 7, "its lamp ages", DEAD),
    BoardFaultRow(K.COIL, "open", "open", 3, "thin wire, corroded", OPEN),
    BoardFaultRow(
        K.LOAD, "short", "shorted", 8, "static or a surge through a sensor’s wire",
        Condition("short", 2.0), spread=(0.5, 10.0),
    ),
)  # fmt: skip

START_TIMES = 2.5
"""A start resistor stands under the bus's volts all its life, a switcher's capacitor beside a hot heat sink:
so many times as often as others of their kind do they fail."""

QUIET_SHARE = 0.2
"""A fault that changes nothing the board does is looked for this much less: nobody would have called."""


@dataclass(frozen=True)
class BoardFault:
    """One way a board may be: its id, what would be fitted, words, its weight, and what has become of which
    parts; ``together``, the parts changed with it."""

    id: str
    unit: str
    stage: str
    name: str
    weight: float
    why: str
    conditions: tuple[tuple[str, Condition], ...]
    spread: tuple[float, float] | None = None
    together: tuple[str, ...] = ()
    looks: float = 0.0
    comes_and_goes: bool = False

    def at(self, draw: Draw) -> dict[str, Condition]:
        """What has become of which parts in a draw: another amount in each, on a scale of ratios."""
        found = dict(self.conditions)
        if self.spread:
            low, high = self.spread
            amount = low * (high / low) ** draw.share(f"{self.id} amount")
            name, first = self.conditions[0]
            found[name] = _by(first, amount)
        return found


def _by(condition: Condition, amount: float) -> Condition:
    """A condition by its amount: a short's ohms, a factor; of a worn electrolytic the ESR's, its farads
    falling as it rises."""
    if condition.kind == "short":
        return replace(condition, ohms=amount)
    if condition.esr != 1.0:
        return replace(condition, esr=amount, factor=amount**WEAR)
    return replace(condition, factor=amount)


WEAR = -0.35
"""A dried capacitor's farads go with its ESR to this power: at ten times the ohms 45 % are left."""


def faults_of(supply: BoardSupply) -> tuple[BoardFault, ...]:
    """Every fault of a supply's parts."""
    laws = supply.switchers
    own = {each.switch for each in laws} | {each.switch for each in supply.bucks}
    plain = {part.id for part in supply.parts if part.kind is K.SWITCH} - own
    often = {name for each in laws for name in (each.start_resistor, each.own_capacitor)}
    found = [
        _fault(supply, part, row, START_TIMES if part.id in often else 1.0)
        for part in supply.parts
        for row in ROWS
        if row.kind is part.kind and not (part.id in plain and row.mode == "dead")
    ]
    return tuple(fault for fault in found if fault)


def _fault(supply: BoardSupply, part: BoardPart, row: BoardFaultRow, times: float) -> BoardFault | None:
    takes = _taken(supply, part) if row.takes else ()
    conditions = ((part.id, row.condition), *((other, OPEN) for other in takes))
    others = [supply.part(other).title for other in takes]
    name = f"{part.title}: {row.name}" + (f", with {' and '.join(others)}" if others else "")
    quiet = QUIET_SHARE if _quiet(supply, part, row) else 1.0
    weight = row.weight * times * quiet / len(_alike(supply, part))
    return BoardFault(
        f"{part.id}:{row.mode}", part.block or part.id, part.stage, name, weight, row.why,
        conditions, row.spread, takes, row.looks, row.comes_and_goes,
    )  # fmt: skip


def _taken(supply: BoardSupply, part: BoardPart) -> tuple[str, ...]:
    """What dies with a part: what the sheet says, and with a diode across the mains their fuse."""
    mains = {name for each in supply.rectifiers if not each.winding for name in each.diodes}
    fuses = tuple(each.id for each in supply.parts if each.kind is K.FUSE)
    limited = {each.rectifier for each in supply.droppers}
    blows = part.id in mains and not any(each.id in limited for each in supply.rectifiers)
    return part.dies_with or (fuses[:1] if blows else ())


def _alike(supply: BoardSupply, part: BoardPart) -> tuple[str, ...]:
    """The diodes of one rectifier share what a bridge fails by."""
    for each in supply.rectifiers:
        if part.id in each.diodes:
            return tuple(each.diodes[:2])
    return (part.id,)


def _quiet(supply: BoardSupply, part: BoardPart, row: BoardFaultRow) -> bool:
    """Whether a board does all it should with this fault."""
    limits = {each.capacitor for each in supply.droppers}
    acts = {name for each in supply.switchers for name in (each.start_resistor, each.sense)}
    acts |= {name for each in supply.rectifiers for name in each.series}
    outputs = {other for each in supply.parts for other in each.dies_with}
    if part.kind is K.SUPPRESSOR and row.mode == "open":
        return True
    rectifies = {name for each in supply.rectifiers for name in each.diodes}
    rectifies |= {name for each in supply.switchers for name in (each.rectifier, each.own_diode)}
    if part.kind is K.DIODE and row.mode == "open":
        return part.id not in rectifies
    if part.kind is K.FILM_CAPACITOR and row.mode == "worn":
        return part.id not in limits
    return part.kind is K.RESISTOR and part.id not in acts | outputs
