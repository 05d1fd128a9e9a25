"""What a board on the mat can be asked with a meter: ohms and diode test across its parts, ESR and farads of
its capacitors, volts on the mains, a look."""

from collections.abc import Iterator
from dataclasses import dataclass

from frostcore.bench.ranges import BenchRange
from frostcore.sheet.supply import BoardPart, BoardPartKind, BoardSupply

K = BoardPartKind

RELAY_IN = "relay in"


@dataclass(frozen=True)
class BenchProbe:
    """A reading, or a look at a part: the position, the points (red, black), the part or stage it is of, and
    the setup (a relay pulled in by a wire)."""

    range: BenchRange
    red: str
    black: str
    of: str
    stage: str
    name: str
    setup: str = ""

    @property
    def id(self) -> str:
        """How it is named at the door and where it is kept."""
        if self.range is BenchRange.SAID:
            return "said"
        ends = f"{self.red}-{self.black}" if self.red else self.of
        return f"{self.range}:{ends}" + ("+relay" if self.setup == RELAY_IN else "")

    @property
    def live(self) -> bool:
        """Whether the board is on the mains for it."""
        return self.range.row.live

    @property
    def minutes(self) -> float:
        """How long it takes."""
        return self.range.row.minutes


LOOKED_AT = frozenset({K.SUPPRESSOR, K.ELECTROLYTIC, K.FILM_CAPACITOR, K.LIMITER, K.SWITCH, K.RESISTOR})
WARMED_UP = frozenset({K.ELECTROLYTIC, K.SWITCH, K.REGULATOR, K.FEEDBACK})
"""What warmth changes: an electrolyte conducts better warm, a tired semiconductor worse."""

JOINTED = frozenset({K.WINDING, K.CHOKE, K.COIL, K.SWITCH})
"""Heavy or warm parts, whose solder cracks."""

_ACROSS = frozenset(
    {K.FUSE, K.CHOKE, K.LIMITER, K.RESISTOR, K.WINDING, K.COIL, K.SUPPRESSOR, K.FILM_CAPACITOR}
)


def probes_of(supply: BoardSupply, *, esr: bool = True) -> tuple[BenchProbe, ...]:
    """Every probe worth having, each pair of points once a range; without ESR where no meter has it (most
    have farads)."""
    found: dict[str, BenchProbe] = {}
    for part in supply.parts:
        for probe in _of_part(part):
            twin = f"{probe.range}:{probe.black}-{probe.red}"
            if probe.range is BenchRange.DIODE or twin not in found:
                found.setdefault(probe.id, probe)
    for probe in _live(supply):
        found.setdefault(probe.id, probe)
    last = supply.stages[-1].id
    found["said"] = BenchProbe(BenchRange.SAID, "", "", "board", last, "what the board did in its unit")
    left = (each for each in found.values() if esr or each.range is not BenchRange.ESR)
    return tuple(left)


def _of_part(part: BoardPart) -> Iterator[BenchProbe]:
    def probe(which: BenchRange, red: str, black: str, words: str) -> BenchProbe:
        return BenchProbe(which, red, black, part.id, part.stage, words)

    title = part.title
    if part.kind in _ACROSS:
        yield probe(BenchRange.OHM, part.a, part.b, f"across {title}")
    if part.kind in {K.DIODE, K.ZENER}:
        yield probe(BenchRange.DIODE, part.a, part.b, f"{title}, red on its anode")
        yield probe(BenchRange.DIODE, part.b, part.a, f"{title}, red on its cathode")
    if part.kind is K.SWITCH:
        yield probe(BenchRange.DIODE, part.b, part.a, f"{title}, red on its source")
        yield probe(BenchRange.DIODE, part.a, part.b, f"{title}, red on its drain")
    if part.kind is K.REGULATOR:
        yield probe(BenchRange.DIODE, part.b, part.a, f"{title}, red on its output")
        yield probe(BenchRange.OHM, part.b, part.a, f"{title}, output to input")
        yield probe(BenchRange.OHM, part.b, part.c, f"{title}, output to ground")
    if part.kind is K.ELECTROLYTIC:
        yield probe(BenchRange.OHM, part.a, part.b, f"across {title}")
        yield probe(BenchRange.ESR, part.a, part.b, f"{title}")
        yield probe(BenchRange.FARADS, part.a, part.b, f"{title}")
    if part.kind is K.FILM_CAPACITOR:
        yield probe(BenchRange.FARADS, part.a, part.b, f"{title}")
    yield from _by_answer(part)


def _by_answer(part: BoardPart) -> Iterator[BenchProbe]:
    """What is asked of a part and answered by no figure."""

    def probe(which: BenchRange, words: str) -> BenchProbe:
        return BenchProbe(which, "", "", part.id, part.stage, f"{part.title}{words}")

    if part.kind in JOINTED:
        yield probe(BenchRange.MOVED, " pressed with something that insulates")
    if part.kind is K.ELECTROLYTIC:
        yield probe(BenchRange.BESIDE, " with a good one of its value clipped across it")
    if part.kind in WARMED_UP:
        yield probe(BenchRange.WARMED, " warmed with a hair dryer")
    if part.kind in LOOKED_AT:
        yield probe(BenchRange.LOOK, ": domed, cracked, burnt?")


def _live(supply: BoardSupply) -> Iterator[BenchProbe]:
    """What is read on the mains: along the chain, across what lies in series, and the rails with a relay
    in."""
    stages = {stage.id for stage in supply.stages}
    for which, red, black, of, words, setup in _asked_live(supply):
        yield BenchProbe(which, red, black, of, of if of in stages else supply.part(of).stage, words, setup)


_Asked = tuple[BenchRange, str, str, str, str, str]
"""Position, red, black, part or stage, words, setup."""


def _asked_live(supply: BoardSupply) -> Iterator[_Asked]:
    vac, vdc = BenchRange.VAC, BenchRange.VDC
    yield from _at_rectifiers(supply)
    for transformer in supply.transformers:
        part = supply.part(transformer.primary)
        yield vac, part.a, part.b, part.id, "at the primary", ""
    for each in supply.switchers:
        yield vdc, each.own_supply, each.minus, each.start_resistor, "the controller’s own supply", ""
        yield vdc, each.output, each.ground, each.rectifier, f"{each.volts:g} V rail", ""
    for regulator in supply.regulators:
        part = supply.part(regulator.part)
        yield vdc, part.b, part.c, part.id, f"{regulator.volts:g} V rail", ""
    for buck in supply.bucks:
        yield vdc, buck.output, buck.ground, buck.switch, "at the module’s plug", ""
    for part, ground in outputs(supply):
        yield vdc, part.b, ground, part.id, f"behind {part.title}", ""
    for coil, switch in driven(supply):
        yield BenchRange.DRIVEN, "", "", switch.id, f"{coil.title} driven by its transistor’s control", ""
    if any(part.kind is K.COIL for part in supply.parts):
        for node, ground, of in rails(supply):
            yield vdc, node, ground, of, "with the relay in", RELAY_IN


def _at_rectifiers(supply: BoardSupply) -> Iterator[_Asked]:
    vac, vdc = BenchRange.VAC, BenchRange.VDC
    for each in supply.rectifiers:
        yield vac, each.ac_a, each.ac_b, supply.part(each.diodes[0]).stage, "into the bridge", ""
        yield vdc, each.plus, each.minus, each.bulk, "bus, DC", ""
        yield vac, each.plus, each.minus, each.bulk, "bus, AC range", ""
        if not each.winding:
            for part in (supply.part(name) for name in each.series):
                if part.kind is not K.RESISTOR:
                    yield vac, part.a, part.b, part.id, f"across {part.title}", ""


def leads(supply: BoardSupply, probe: BenchProbe) -> str:
    """Where the leads go, in words; empty where the reading's own name says it."""
    red, black = (_lead(supply, node) for node in (probe.red, probe.black))
    return f"Red on {red}, black on {black}." if red and black else ""


def _lead(supply: BoardSupply, node: str) -> str:
    for part in supply.parts:
        if part.kind is K.ELECTROLYTIC and node in {part.a, part.b}:
            return f"{part.id} {'+' if node == part.a else '−'}"
    if any(node in {each.ac_a, each.ac_b} for each in supply.rectifiers):
        return "the bridge’s AC pin"
    return ""


def outputs(supply: BoardSupply) -> Iterator[tuple[BoardPart, str]]:
    """What leads from a rail to an output (a relay's coil, a fan's resistor), and the ground there."""
    for node, ground, _ in rails(supply):
        for part in supply.parts:
            if part.a == node and part.kind in {K.COIL, K.RESISTOR} and part.b != ground:
                yield part, ground


def driven(supply: BoardSupply) -> Iterator[tuple[BoardPart, BoardPart]]:
    """What a transistor switches, and the transistor: a relay's coil."""
    for coil in supply.parts:
        if coil.kind is K.COIL:
            yield from ((coil, each) for each in supply.parts if each.kind is K.SWITCH and each.a == coil.b)


def rails(supply: BoardSupply) -> Iterator[tuple[str, str, str]]:
    """The rails a relay's coil may drag down: node, ground, the part that makes it."""
    for each in supply.rectifiers:
        if each.winding or supply.droppers:
            yield each.plus, each.minus, each.bulk
    for switcher in supply.switchers:
        yield switcher.output, switcher.ground, switcher.rectifier
    for regulator in supply.regulators:
        part = supply.part(regulator.part)
        yield part.b, part.c, part.id
