"""The prediction table: what the meter shows between every pair of points, in every setup, for the
healthy unit and for every fault.

One factorisation a circuit; every fault is a low-rank edit of it, all of them solved together
(:mod:`frostcore.circuit.lowrank`).
"""

from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from frostcore.circuit.bases import Ports
from frostcore.circuit.build import Builder, Warmth, build, with_pulled
from frostcore.circuit.damage import Damage
from frostcore.circuit.element import Analysis, Circuit, Wave
from frostcore.circuit.faulted import SettledFaults
from frostcore.circuit.meter import METER_FLOOR, METER_OHMS, OPEN_OHMS, MeterRange, node_of
from frostcore.circuit.settle import Settled, settle
from frostcore.circuit.solver import Array, Places
from frostcore.circuit.trace import probes
from frostcore.circuit.waves import mean_and_square, shown_ac
from frostcore.circuit.written import differing
from frostcore.faults.edits import Act, Bridged, damage
from frostcore.faults.known import Fault
from frostcore.sheet.model import Sheet
from frostcore.sheet.wiring import split_pin


@dataclass(frozen=True)
class Setup:
    """How a reading is taken: mode, meter position, connectors pulled, and places' temperatures where they
    were measured."""

    mode: str
    meter: MeterRange
    pulled: tuple[str, ...] = ()
    celsius: Warmth = ()


Pair = tuple[str, str]


@dataclass(frozen=True)
class Prediction:
    """Readings (setups × faults + 1 × pairs), the healthy unit first among the faults.

    Infinite where the meter shows OL; volts as the meter shows them (r.m.s. for AC), nothing with the
    plug out.
    """

    setups: tuple[Setup, ...]
    faults: tuple[Fault, ...]
    pairs: tuple[Pair, ...]
    values: npt.NDArray[np.float64]
    unsettled: dict[tuple[str, str], tuple[str, ...]]
    solved: int
    """How many circuits that took: what has the same parts and does the same is solved once."""

    def of(self, setup: Setup, pair: Pair, fault: str = "") -> float:
        """One reading; ``fault`` empty for the healthy unit."""
        row = (
            0 if not fault else 1 + next(index for index, item in enumerate(self.faults) if item.id == fault)
        )
        return float(self.values[self.setups.index(setup), row, self.pairs.index(pair)])


def usual_pairs(sheet: Sheet) -> tuple[Pair, ...]:
    """The pairs a repairer probes: each function's feed and return at every connector it passes, and at
    its load."""
    return probes(sheet, build(sheet, sheet.resting_mode, live=False))


def usual_setups(sheet: Sheet) -> tuple[Setup, ...]:
    """Every live mode in AC, low-impedance AC and DC volts.

    Ohms with the plug out, all plugs in, and with each connector pulled.
    """
    live = [
        Setup(mode.id, meter)
        for mode in sheet.modes
        if mode.live
        for meter in (MeterRange.VAC, MeterRange.VAC_LOZ, MeterRange.VDC)
    ]
    off = sheet.resting_mode
    return (
        *live,
        Setup(off, MeterRange.OHM),
        *(Setup(off, MeterRange.OHM, (connector.id,)) for connector in sheet.connectors),
    )


def predict(
    sheet: Sheet, setups: Sequence[Setup], pairs: Sequence[Pair], faults: Sequence[Fault]
) -> Prediction:
    """The table of these setups, pairs and faults."""
    values = np.zeros((len(setups), len(faults) + 1, len(pairs)))
    asked = [Asked(setup, tuple(pairs)) for setup in setups]
    found = foretell(sheet, asked, faults, into=tuple(values))
    return Prediction(tuple(setups), tuple(faults), tuple(pairs), values, found.unsettled, found.solved)


@dataclass(frozen=True)
class Asked:
    """Some pairs of points to be foretold in a setup."""

    setup: Setup
    pairs: tuple[Pair, ...]


@dataclass(frozen=True)
class Foretold:
    """What was asked, answered: for each the readings (faults + 1 × pairs), the healthy unit first; what
    never settles by mode and fault; how many circuits that took."""

    values: tuple[npt.NDArray[np.float64], ...]
    unsettled: dict[tuple[str, str], tuple[str, ...]]
    solved: int


Vary = Callable[[Circuit], Circuit]
"""Parts of other values in the same circuit: within what good parts differ by."""


def as_written(circuit: Circuit) -> Circuit:
    """Every part as the sheet has it."""
    return circuit


def foretell(
    sheet: Sheet,
    asked: Sequence[Asked],
    faults: Sequence[Fault],
    vary: Vary = as_written,
    into: tuple[npt.NDArray[np.float64], ...] = (),
) -> Foretold:
    """The readings asked for, of the healthy unit and of every fault, written ``into`` arrays of theirs where
    there are some already."""
    values = into or tuple(np.zeros((len(faults) + 1, len(each.pairs))) for each in asked)
    unsettled: dict[tuple[str, str], tuple[str, ...]] = {}
    distinct: dict[tuple[Act, ...], int] = {(): 0}
    # Two faults that do the same (a break, and one that comes and goes) are solved once, the healthy unit
    # as a fault that does nothing.
    places = np.array([0, *(distinct.setdefault(fault.acts, len(distinct)) for fault in faults)])
    named: dict[int, list[str]] = {}
    for fault, place in zip(faults, places[1:].tolist(), strict=True):
        named.setdefault(place, []).append(fault.id)
    builder, damages, solved = Builder(sheet), _Damages(list(distinct)), 0
    # The plug out first: what can be solved in the background begins early.
    groups = [_Group(builder, asked, vary, live=live) for live in (False, True)]
    with ThreadPoolExecutor(1) as pool:
        for part in _one_ahead(_parts(sheet, groups, damages, len(distinct), pool)):
            for edit, names in part.found.unsettled.items():
                base, place = divmod(edit, len(distinct))
                unsettled |= {
                    (scene.mode, name): names
                    for scene, at in part.group.scenes.items()
                    if at == part.first + base
                    for name in named.get(place, ())
                }
            for analysis, members in part.group.members.items():
                volts, seen = _across(part.found, analysis, part.ends, live=part.group.live)
                solved += len(seen)
                chopped = _Chopped(part.found, part.ends) if part.found.wave else None
                for index in members:
                    setup = asked[index].setup
                    scene = part.group.scenes[_Group.scene(setup)] - part.first
                    if not 0 <= scene < len(part.ends):
                        continue
                    mine = slice(scene * len(distinct), (scene + 1) * len(distinct))
                    shown = _shown(setup.meter, None if volts is None else volts[mine], seen[mine])
                    if chopped:
                        shown = chopped.shown(setup.meter, mine, shown)
                    columns = part.group.columns[index]
                    mine_alone = shown if len(columns) == shown.shape[1] else shown[:, columns]
                    mine_alone.take(places, axis=0, out=values[index], mode="clip")
    return Foretold(values, unsettled, solved)


FIGURES_AT_ONCE = 1_000_000
"""So many figures (edits × nodes and pairs) are worked out together: enough that arrays outweigh the calls
around them, few enough that a unit's memory grows with its table and not with all its setups at once."""


@dataclass(frozen=True)
class _Part:
    """Some of a group's scenes, from the ``first`` on, with every fault settled in them."""

    group: "_Group"
    first: int
    ends: Places
    found: SettledFaults


def _parts(
    sheet: Sheet,
    groups: Sequence["_Group"],
    damages: "_Damages",
    distinct: int,
    pool: ThreadPoolExecutor,
) -> Iterator[_Part]:
    """The scenes of the groups, a part at a time."""
    for group in groups:
        if not group.bases:
            continue
        ends = _ends(sheet, group)
        width = len(group.bases[0].circuit.nodes) + ends.shape[1]
        step = max(1, FIGURES_AT_ONCE // (distinct * width))
        for first in range(0, len(group.bases), step):
            bases = group.bases[first : first + step]
            mine = ends[first : first + step]
            probed = mine[0] if (mine == mine[0]).all() else None
            found = SettledFaults(bases, damages.of([base.circuit for base in bases]), pool, probed)
            yield _Part(group, first, mine, found)


def _one_ahead(parts: Iterator[_Part]) -> Iterator[_Part]:
    """The same parts, each begun while the one before it is still being read."""
    current = next(parts, None)
    while current is not None:
        following = next(parts, None)
        yield current
        current = following


class _Group:
    """The setups with the plug in, or those with it out, and the healthy unit settled in each of their
    scenes (mode, pulled connectors)."""

    def __init__(self, builder: Builder, asked: Sequence[Asked], vary: Vary, *, live: bool) -> None:
        self.live, self.bases = live, list[Settled]()
        self.pairs = list[dict[Pair, int]]()
        """The pairs looked at in each base, in columns."""
        self.columns: dict[int, Places] = {}
        """The columns of what is asked, by its place."""
        self.members: dict[Analysis, list[int]] = {}
        """The setups by the circuit they look at; volts with the plug out are nothing, and in none."""
        self.scenes: dict[Setup, int] = {}
        """Which base each scene (a setup whatever its meter) is: scenes that ask the same of the unit are
        one."""
        circuits: dict[tuple[str, Warmth], Circuit] = {}
        for index, (setup, pairs) in enumerate((each.setup, each.pairs) for each in asked):
            if setup.meter.live is not live or (live and not builder.sheet.mode(setup.mode).live):
                continue
            self.members.setdefault(setup.meter.analysis, []).append(index)
            if self.scene(setup) not in self.scenes:
                state = (setup.mode, setup.celsius)
                if state not in circuits:
                    circuits[state] = vary(builder.circuit(setup.mode, live=live, celsius=setup.celsius))
                self.scenes[self.scene(setup)] = self._base(
                    with_pulled(builder.sheet, circuits[state], setup.pulled)
                )
            known = self.pairs[self.scenes[self.scene(setup)]]
            self.columns[index] = np.array([known.setdefault(pair, len(known)) for pair in pairs], int)

    def _base(self, circuit: Circuit) -> int:
        """The base of a scene: one that asks the same of the unit, or a new one."""
        for number, base in enumerate(self.bases):
            if _alike(base.circuit, circuit):
                return number
        self.bases.append(settle(circuit))
        self.pairs.append({})
        return len(self.bases) - 1

    @staticmethod
    def scene(setup: Setup) -> Setup:
        """The scene a setup looks at: the same for every meter."""
        return replace(setup, meter=MeterRange.OHM)


def _alike(one: Circuit, other: Circuit) -> bool:
    return one.signals == other.signals and one.pulled == other.pulled and not differing(one, other)


class _Damages:
    """What each hypothesis does in each circuit.

    Where its branches have the states they have in the first circuit, the same object.
    """

    def __init__(self, acts: Sequence[tuple[Act, ...]]) -> None:
        self._acts = acts
        self._first: tuple[Circuit, list[Damage]] | None = None
        self._touching: dict[str, list[int]] = {}
        for place, each in enumerate(acts):
            for act in each:
                if not isinstance(act, Bridged):
                    self._touching.setdefault(act.branch, []).append(place)

    def of(self, circuits: Sequence[Circuit]) -> list[list[Damage]]:
        """A list for each circuit, the same one where nothing differs."""
        found = []
        for circuit in circuits:
            if self._first is None:
                self._first = (circuit, [damage(circuit, each) for each in self._acts])
            first, mine = self._first
            changed = [
                name
                for name in differing(first, circuit)
                if circuit.branch(name).states != first.branch(name).states
            ]
            places = {place for name in changed for place in self._touching.get(name, ())}
            if places:
                mine = list(mine)
                for place in places:
                    mine[place] = damage(circuit, self._acts[place])
            found.append(mine)
        return found


def _ends(sheet: Sheet, group: _Group) -> Places:
    """The two rows of every pair in every base (bases × pairs × 2), short lists filled up with their
    last."""
    meter = MeterRange.VAC if group.live else MeterRange.OHM
    width, nodes = max(len(pairs) for pairs in group.pairs), dict[tuple[str, bool], str]()

    def node(circuit: Circuit, point: str) -> str:
        # Only its own plug decides where a point is touched.
        pin = split_pin(point)
        key = (point, pin is not None and pin[0] in circuit.pulled)
        if key not in nodes:
            nodes[key] = node_of(sheet, circuit, point, meter)
        return nodes[key]

    found = np.empty((len(group.bases), width, 2), int)
    for number, (base, pairs) in enumerate(zip(group.bases, group.pairs, strict=True)):
        circuit = base.circuit
        named = list(dict.fromkeys(point for pair in pairs for point in pair))
        at = {point: place for place, point in enumerate(named)}
        rows = circuit.topology.rows_of([node(circuit, point) for point in named])
        ends = rows[np.array([[at[red], at[black]] for red, black in pairs], int)]
        found[number] = ends[np.minimum(np.arange(width), len(ends) - 1)]
    return found


def _across(
    found: SettledFaults, analysis: Analysis, ends: Places, *, live: bool
) -> tuple[Array | None, Array]:
    """Open-circuit volts of the pairs (none with the plug out) and the impedance they show (F×P each)."""
    ports, edited = Ports(found.based[analysis], ends), found.edited(analysis)
    return edited.volts(ports) if live else None, edited.seen(ports)


Shown = npt.NDArray[np.float64]


class _Chopped:
    """The pairs' AC volts where an output chops the waves, as it conducts and as it blocks."""

    def __init__(self, found: SettledFaults, ends: Places) -> None:
        assert found.wave is not None  # noqa: S101 -- only then it is asked for
        self._wave: Wave = found.wave
        ports = Ports(found.based[Analysis.AC], ends)
        self._both = [
            (each.volts(ports), each.seen(ports)) for each in (found.edited(Analysis.AC), found.blocked())
        ]

    def shown(self, meter: MeterRange, mine: slice, steady: Shown) -> Shown:
        """What the meter shows of these, where ``steady`` is what it does of whole waves and DC."""
        shunt = METER_OHMS[meter]
        on, off = (volts[mine] * shunt / (shunt + seen[mine]) for volts, seen in self._both)
        if meter.analysis is Analysis.AC:
            return np.where(np.abs(on - off) > METER_FLOOR[meter], shown_ac(on, off, self._wave), steady)
        mean, _ = mean_and_square(on, off, self._wave)
        return np.where(np.abs(on - off) > METER_FLOOR[meter], steady + mean, steady)


def _shown(meter: MeterRange, volts: Array | None, seen: Array) -> npt.NDArray[np.float64]:
    """What the meter shows: ohms, or the volts left over its own impedance."""
    if volts is None:
        return np.where(seen.real > OPEN_OHMS, np.inf, np.maximum(seen.real, 0.0))
    shunt = METER_OHMS[meter]
    loaded = volts * shunt / (shunt + seen)
    return np.abs(loaded) if meter.analysis is Analysis.AC else loaded.real
