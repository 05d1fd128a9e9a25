"""The one judgement of a call: suspects, what is named, what stays unexplained, what to do next, and why.

Everything that speaks of suspects (pages, report, door) speaks from this.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from frostcore.diagnosis.evidence import Evidence, Fitted, Read
from frostcore.diagnosis.hypotheses import ELSEWHERE, WELL, Hypothesis
from frostcore.diagnosis.likelihood import SCALE, SLIP, SLIP_OPEN
from frostcore.diagnosis.planner import Outcome, Planner, Proposal, planner_of
from frostcore.diagnosis.posterior import SECOND, Posterior, beside, posterior
from frostcore.diagnosis.probes import Probe
from frostcore.diagnosis.state import State, state_of
from frostcore.diagnosis.weigh import Weigher, weigher_of
from frostcore.quantity import State as QuantityState
from frostcore.sheet.model import ComponentKind, Sheet

NAMED = 0.99
"""A repair unit is named from here on: 0.95 loses the rare faults."""

PROVE = 0.9
"""A mended unit that is well this likely is proven; before that the next fault is looked for."""

SPEAKS_BITS = 3.0
"""And only where one piece of evidence speaks so much for it against the runner-up: absence alone names
nothing."""

GROUP = 3
"""So many units at most are named together, where no test can part them."""

UNEXPLAINED_RATIO = 30.0
"""An entry that the likeliest fault explains so many times worse than another is left unexplained."""

MOST_SUSPECTS = 8


@dataclass(frozen=True)
class Suspect:
    """A repair unit: its probability and its likeliest faults with theirs."""

    unit: str
    component: str
    probability: float
    faults: tuple[tuple[Hypothesis, float], ...]


@dataclass(frozen=True)
class Doubt:
    """A reading that fits nothing likely: its place in the evidence, and neighbours whose reading it would
    be. ``alone`` where it fits, and the leading suspect hangs on it alone; ``decides`` where a dear part
    would be ordered for it."""

    entry: int
    neighbours: tuple[Probe, ...]
    alone: bool = False
    decides: bool = False


class Judgement:
    """What the evidence comes to."""

    def __init__(
        self,
        weigher: Weigher,
        evidence: Sequence[Evidence],
        strike: int | None = None,
        sheet: Sheet | None = None,
    ) -> None:
        """``sheet`` is the one whose names are said; the weigher's own where it is not given."""
        self.weigher, self.sheet = weigher, sheet or weigher.sheet
        self.evidence = tuple(evidence)
        self.posterior: Posterior = posterior(weigher, self.evidence, strike)
        self.state: State = state_of(self.sheet, self.evidence)

    @cached_property
    def suspects(self) -> tuple[Suspect, ...]:
        """The repair units, likeliest first, to the last that matters."""
        chances = self.posterior.units
        order = [int(unit) for unit in np.argsort(-chances) if chances[unit] > 1e-3][:MOST_SUSPECTS]
        return tuple(self._suspect(unit) for unit in order)

    def _suspect(self, unit: int) -> Suspect:
        known, now = self.weigher.known, self.posterior.now
        mine = known.of_unit(known.units[unit])
        best = [int(place) for place in mine[np.argsort(-now[mine])] if now[place] > 0.01 * now[mine].sum()][
            :4
        ]
        faults = tuple((known.all[place], float(now[place])) for place in best or mine[:1].tolist())
        chance = float(self.posterior.units[unit])
        return Suspect(known.units[unit], faults[0][0].component, chance, faults)

    def bits(self, suspect: Suspect) -> dict[int, float]:
        """What each entry of the evidence has done to a suspect, in bits towards it."""
        return self.posterior.bits(self.weigher.known.units.index(suspect.unit))

    def steps(self, suspect: Suspect) -> dict[int, float]:
        """What each entry of the evidence did to a suspect when it came, in bits towards it."""
        return self.posterior.steps(self.weigher.known.units.index(suspect.unit))

    @cached_property
    def named(self) -> Suspect | None:
        """The one repair unit that is named, or None."""
        if not self.suspects or self.suspects[0].probability < NAMED:
            return None
        first = self.suspects[0]
        if first.unit in {WELL, ELSEWHERE}:
            return first if first.unit == WELL and self.posterior.fitted and not self.proof else None
        return first if self._spoken_for(first) else None

    @cached_property
    def as_it_came(self) -> "Judgement":
        """What is known of the unit before anything was fitted or mended on this call."""
        for number, item in enumerate(self.evidence):
            if isinstance(item, Fitted) and not item.before:
                return Judgement(self.weigher, self.evidence[:number], sheet=self.sheet)
        return self

    @cached_property
    def proof(self) -> tuple[Proposal, ...]:
        """What a mended unit that reads like a sound one must still show before it is called well, or before
        the search ends for want of tests."""
        first = self.suspects[0] if self.suspects else None
        if first is None or first.unit != WELL or (first.probability < PROVE and self.proposals):
            return ()
        return self.planner.proof(self.posterior, self.state, self.evidence)

    def _dear(self, suspect: Suspect) -> bool:
        """Whether it is a part that nobody wants to have ordered in vain."""
        kinds = {part.id: part.kind for part in self.sheet.components}
        return any(kinds.get(part) in DEAR for part in suspect.unit.split("+"))

    def _spoken_for(self, suspect: Suspect) -> bool:
        """Whether one entry by itself speaks for it against the runner-up; against what is not on the sheet,
        of which nothing is foretold, nothing can."""
        known, joint = self.weigher.known, self.posterior
        mine = known.unit == known.units.index(suspect.unit)
        rivals = [each.unit for each in self.suspects if each.unit not in {suspect.unit, ELSEWHERE}]
        elsewhere = known.unit == known.units.index(ELSEWHERE)
        other = known.unit == known.units.index(rivals[0]) if rivals else ~mine & ~elsewhere
        for log in joint.logs:
            ours, theirs = (under(log, joint.chances, which) for which in (mine, other))
            if (ours - theirs) / math.log(2) >= SPEAKS_BITS:
                return True
        return False

    @cached_property
    def proposals(self) -> tuple[Proposal, ...]:
        """The tests worth most from here, best first; none where nothing is left that tells."""
        return self.planner.propose(self.posterior, self.state, self.evidence)

    @property
    def planner(self) -> Planner:
        """What plans its tests."""
        return planner_of(self.weigher)

    def outcomes(self, proposal: Proposal) -> tuple[Outcome, ...]:
        """What each outcome of a test would leave."""
        return self.planner.outcomes_of(proposal.test, self.posterior)

    @cached_property
    def next(self) -> Proposal | None:
        """The test to make now: what must still be proven of a mended unit, or what tells most; none where
        the fault is named or no test would tell."""
        if self.named or self.group:
            return None
        tests = self.proof or self.proposals
        return tests[0] if tests else None

    @cached_property
    def group(self) -> tuple[Suspect, ...]:
        """Up to three units that are it together, where no test can part them; empty else."""
        if self.named:
            return ()
        best, total = [], 0.0
        for suspect in self.suspects[:GROUP]:
            if suspect.unit in {WELL, ELSEWHERE}:
                continue
            best.append(suspect)
            total += suspect.probability
            if total >= NAMED:
                break
        parted = any(proposal.bits > PARTS_BITS for proposal in self.proposals)
        return tuple(best) if total >= NAMED and not parted and len(best) > 1 else ()

    @cached_property
    def unexplained(self) -> tuple[int, ...]:
        """Entries that the likeliest hypothesis leaves unexplained though another would explain them."""
        chances = self.posterior.chances
        best = int(np.argmax(chances))
        found = []
        for entry, log in zip(self.posterior.counted, self.posterior.logs, strict=True):
            mean = np.exp(log).mean(axis=0)
            if mean[best] * UNEXPLAINED_RATIO < mean[:-1].max():
                found.append(entry)
        return tuple(found)

    @cached_property
    def ruled_out(self) -> tuple[tuple[str, int], ...]:
        """Units that were suspects at some time and are not any more, each with the entry that spoke most
        against it; those that were likeliest first."""
        peak = np.zeros(len(self.weigher.known.units))
        for number in self.posterior.counted:
            earlier = posterior(self.weigher, self.evidence[: number + 1])
            peak = np.maximum(peak, earlier.units)
        names, now = self.weigher.known.units, self.posterior.units
        gone = [unit for unit in np.argsort(-peak) if peak[unit] >= WAS_SUSPECT and now[unit] < RULED_OUT]
        found = []
        for unit in gone:
            moved = self.posterior.bits(int(unit))
            if names[unit] not in {WELL, ELSEWHERE} and moved:
                found.append((names[unit], min(moved, key=moved.__getitem__)))
        return tuple(found)

    @cached_property
    def beside(self) -> tuple[Suspect, ...]:
        """What would explain what the likeliest fault leaves unexplained, as a second fault beside it; empty
        where that leaves nothing, or nothing else would."""
        known, chances = self.weigher.known, self.posterior.chances
        first = int(np.argmax(chances))
        if not self.unexplained or chances[first] < HALF or known.all[first].fault is None:
            return ()
        found = np.log(self.weigher.prior) + np.log(SECOND) + beside(self.posterior.logs, first)
        found[known.unit == known.unit[first]] = -np.inf
        found[[0, -1]] = -np.inf
        most = max(0.0, float(found.max()))
        both = np.exp(found - most)
        shares = both / (both.sum() + np.exp(-most))
        units = np.bincount(known.unit, shares, len(known.units))
        order = [int(unit) for unit in np.argsort(-units)[:GROUP] if units[unit] > LEAST_SECOND]
        return tuple(self._second(unit, shares, float(units[unit])) for unit in order)

    def _second(self, unit: int, shares: np.ndarray, chance: float) -> Suspect:
        known = self.weigher.known
        mine = known.of_unit(known.units[unit])
        best = [int(place) for place in mine[np.argsort(-shares[mine])][:2]]
        faults = tuple((known.all[place], float(shares[place])) for place in best)
        return Suspect(known.units[unit], faults[0][0].component, chance, faults)

    @cached_property
    def again(self) -> Doubt | None:
        """The reading to take once more before anything else: one that fits nothing; or, where no other test
        is left and nothing is named, the one that all hangs on."""
        return self.doubt or self.hangs_on or self.decisive

    @cached_property
    def hangs_on(self) -> Doubt | None:
        """The reading without which another suspect would lead, where nothing is named and nothing is left to
        test: one slip of the leads would be behind it all."""
        if self.named or self.group or self.proposals or not self.suspects:
            return None
        first = self.weigher.known.units.index(self.suspects[0].unit)
        for entry in reversed(self.posterior.counted):
            item = self.evidence[entry]
            if not isinstance(item, Read) or any(_same(item, other) for other in self.evidence[:entry]):
                continue
            without = posterior(self.weigher, self.evidence, entry).units
            if int(np.argmax(without)) != first and without[first] < HANGS * self.suspects[0].probability:
                return Doubt(entry, self._neighbours(item), alone=True)
        return None

    @cached_property
    def decisive(self) -> Doubt | None:
        """The reading that speaks most for a dear part that would be ordered now: it is taken twice, for a
        joint that comes and goes reads so too, now and then."""
        first = self.suspects[0] if self.suspects else None
        ends = self.named or self.group or not self.proposals
        if first is None or not ends or not self._dear(first):
            return None
        bits = self.bits(first)
        reads = [entry for entry in bits if isinstance(self.evidence[entry], Read)]
        entry = max(reads, key=bits.__getitem__, default=None)
        if entry is None or bits[entry] < SPEAKS_BITS:
            return None
        item = self.evidence[entry]
        assert isinstance(item, Read)  # noqa: S101 -- just looked for
        taken = sum(_same(item, other) for other in self.evidence)
        return Doubt(entry, (), decides=True) if taken == 1 else None

    @cached_property
    def doubt(self) -> Doubt | None:
        """The newest reading, where it fits nothing that was likely before it and has not been repeated."""
        at = next(
            (
                number
                for number in reversed(self.posterior.counted)
                if isinstance(self.evidence[number], Read)
            ),
            None,
        )
        if at is None:
            return None
        item = self.evidence[at]
        assert isinstance(item, Read)  # noqa: S101 -- just looked for
        before = Judgement(self.weigher, self.evidence[:at]).posterior if at else None
        chances = before.by_draw if before else self.weigher.prior[None, :]
        log = self.weigher.log(item)
        likely = float((chances * np.exp(log)).sum() / chances.sum()) if log is not None else 1.0
        slip = SLIP * (SLIP_OPEN if item.value.state is QuantityState.OPEN else 1 / SCALE)
        repeated = any(_same(item, other) for other in self.evidence[:at])
        if repeated or likely > FITS_NOTHING * slip:
            return None
        return Doubt(at, self._neighbours(item))

    def _neighbours(self, item: Read) -> tuple[Probe, ...]:
        """Other points of the same setup where a sound unit would read just this."""
        found = []
        for probe in self.planner.outcomes.probes:
            if probe.setup == item.probe.setup and set(probe.pair) & set(item.probe.pair):
                log = self.weigher.log(Read(probe, item.value))
                if (
                    log is not None
                    and probe.pair != item.probe.pair
                    and float(np.exp(log[:, 0]).mean()) > 0.5
                ):
                    found.append(probe)
        return tuple(found[:2])


DEAR = (ComponentKind.BOARD, ComponentKind.INVERTER, ComponentKind.COMPRESSOR)
"""Before one of these is ordered the reading that speaks most for it is taken twice."""

HANGS = 0.3
"""A suspect hangs on a reading without which it keeps less than this share of its probability."""

WAS_SUSPECT, RULED_OUT = 0.04, 0.01
"""What was once this likely was a suspect; what is less likely than this is none any more."""

HALF, LEAST_SECOND = 0.5, 0.05
"""A second fault is looked for beside one that is likelier than not, and told from this probability on."""

PARTS_BITS = 0.02
"""A test of fewer bits parts nothing."""

FITS_NOTHING = 2.5
"""A reading this near to a slip's own likelihood fits nothing."""

NEIGHBOUR_FITS = 0.5
"""The density from which on a reading fits a sound unit at a neighbour."""


def _same(one: Read, other: Evidence) -> bool:
    return (
        isinstance(other, Read)
        and other.probe.setup == one.probe.setup
        and set(other.probe.pair) == set(one.probe.pair)
    )


def under(log: np.ndarray, chances: np.ndarray, which: np.ndarray) -> float:
    """Ln P(entry | some of the hypotheses), weighed by how likely they are."""
    weights = chances[which]
    if weights.sum() <= 0:
        return -math.inf
    return float(np.log((np.exp(log[:, which]).mean(axis=0) * weights).sum() / weights.sum()))


def judge(sheet: Sheet, evidence: Sequence[Evidence], strike: int | None = None) -> Judgement:
    """The judgement of all evidence, or with one entry struck."""
    return Judgement(weigher_of(sheet), evidence, strike, sheet)
