"""Which test tells most about what to fit, for each minute it takes here and now.

Worth is the mutual information of outcome and repair unit, in bits, by the marginal minutes; the best few are
looked at one step further.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from frostcore.circuit.kept import circuits_of
from frostcore.diagnosis.belief import Belief
from frostcore.diagnosis.evidence import (
    AtPlug,
    Cannot,
    Changed,
    Evidence,
    Fitted,
    Looked,
    Measured,
    Read,
    Said,
    Sensed,
    Shown,
    Turned,
)
from frostcore.diagnosis.hypotheses import Floats
from frostcore.diagnosis.likelihood import SLIP
from frostcore.diagnosis.outcomes import NOTHING, Outcomes, Test, name_of_test
from frostcore.diagnosis.posterior import Posterior
from frostcore.diagnosis.probes import Probe
from frostcore.diagnosis.state import (
    ACT_MINUTES,
    ASK_MINUTES,
    MOVE_MINUTES,
    THERMOMETER_MINUTES,
    State,
    by_hand_minutes,
    look_minutes,
    plug_minutes,
    probe_minutes,
    turned_minutes,
)
from frostcore.diagnosis.weigh import Weigher
from frostcore.tape.noticed import BY_HAND

WORTH_BITS = 0.01
"""A test that tells less is not worth a lead."""

LEAST_RATE = 0.005
"""Bits a minute below which no test is worth its minutes: a bit in three hours is what a part fitted on trial
tells sooner."""

TRIFLE = 0.25
"""Nor is one that tells less than this share of what the best would, however little time it takes."""

UNLIKE = 3.0
"""A sound unit hardly shows what some fault shows so many times likelier."""

FEW, AHEAD = 5, 30
"""So many of the best are looked at one step further, and so many are weighed as that step."""

LIKELY_OUTCOME = 0.05
"""Outcomes less likely than this are not looked beyond."""


@dataclass(frozen=True)
class Outcome:
    """One way a test may come out: in words, how likely, the repair units it would leave, likeliest first,
    and its place among the ways, figures from low to high."""

    text: str
    chance: float
    leaves: tuple[tuple[str, float], ...]
    number: int


@dataclass(frozen=True)
class Proposal:
    """A test worth making: which, its minutes, its bits, and its outcomes."""

    test: "Test"
    minutes: float
    bits: float
    rate: float


class Planner:
    """The tests of a sheet, weighed against a posterior."""

    def __init__(self, weigher: Weigher) -> None:
        self.weigher, self.sheet, self.outcomes = weigher, weigher.sheet, Outcomes(weigher)

    def propose(
        self, posterior: Posterior, state: State, evidence: Sequence[Evidence], most: int = 6
    ) -> tuple[Proposal, ...]:
        """The tests worth most by what each tells for its minutes, best first; those already made or that
        can't be made are left out."""
        return tuple(self._weighed(Belief.of(posterior), state, evidence)[:most])

    def two_steps(
        self, posterior: Posterior, state: State, evidence: Sequence[Evidence], most: int = 6
    ) -> tuple[Proposal, ...]:
        """The tests worth most, the best few by what they and the best test after each outcome tell together,
        for the minutes both take."""
        belief = Belief.of(posterior)
        known = self._weighed(belief, state, evidence)
        few, then = known[:FEW], known[:AHEAD]
        found = [replace(each, rate=self._onward(each, belief, state, then)) for each in few]
        found.sort(key=lambda each: -each.rate)
        return (*found, *known[FEW:most])[:most]

    def _weighed(self, belief: "Belief", state: State, evidence: Sequence[Evidence]) -> list[Proposal]:
        """All tests worth making, best first."""
        bits, tests = self._bits(belief, evidence), self.outcomes.tests
        done = _done(evidence)
        fresh = np.array([name not in done for name in self.outcomes.names])
        worth = np.where(fresh, bits, 0.0)
        least = max(WORTH_BITS, TRIFLE * float(worth.max(initial=0.0)))
        found = []
        for at in np.flatnonzero(worth > least):
            minutes, told = self.minutes(tests[at], state), float(bits[at])
            if told > LEAST_RATE * minutes:
                found.append(Proposal(tests[at], minutes, told, told / minutes))
        return sorted(found, key=lambda each: -each.rate)

    def proof(self, posterior: Posterior, state: State, evidence: Sequence[Evidence]) -> tuple[Proposal, ...]:
        """What a mended unit must still show before it is called well, the shortest first: the complaint, the
        display, the temperature of each compartment, and whatever a sound unit would hardly have shown
        before. Empty where nothing was mended."""
        last = _last_fit(evidence)
        if last is None:
            return ()
        wanted: set[object] = {"said", ("look", "display")}
        wanted |= {("temperature", place.id) for place in self.sheet.compartments}
        for entry, log in zip(posterior.counted, posterior.logs, strict=True):
            likely = np.exp(log).mean(axis=0)
            if entry < last and likely[0] * UNLIKE < likely.max():
                wanted.update(_names([evidence[entry]]))
        wanted -= _done(evidence)
        belief = Belief.of(posterior)
        tests = [test for test in self.outcomes.tables if name_of_test(test) in wanted]
        bits, minutes = self._bits_of(belief, tests), [self.minutes(test, state) for test in tests]
        found = [
            Proposal(test, took, float(told), float(told) / took)
            for test, told, took in zip(tests, bits, minutes, strict=True)
        ]
        return tuple(sorted(found, key=lambda each: each.minutes))

    def parting(self, units: Sequence[str], posterior: Posterior) -> list[tuple[Test, float]]:
        """What every test, made or not, would tell of some repair units if it were one of them: tests and
        bits, the most first."""
        known = self.weigher.known
        mine = np.isin(known.unit, [known.units.index(unit) for unit in units])
        bits = self._bits(Belief.of(posterior, mine))
        order = np.argsort(-bits)[:MOST_PARTING]
        return [(self.outcomes.tests[at], float(bits[at])) for at in order]

    def rates_of(self, tests: Sequence[Test], posterior: Posterior, state: State) -> list[float]:
        """Bits a minute of some tests, made or not."""
        bits = self._bits_of(Belief.of(posterior), tests)
        return [float(told) / self.minutes(test, state) for test, told in zip(tests, bits, strict=True)]

    def _onward(self, proposal: Proposal, belief: "Belief", state: State, then: Sequence[Proposal]) -> float:
        """Bits of a test and of the best after each of its outcomes, by the minutes of both."""
        after = (
            state.after(self.sheet, Read(proposal.test, NOTHING))
            if isinstance(proposal.test, Probe)
            else state
        )
        others = [each.test for each in then if each.test != proposal.test]
        times = np.array([self.minutes(test, after) for test in others])
        bits, minutes = proposal.bits, proposal.minutes
        if not others:
            return bits / minutes
        for chance, left in belief.after(self._likelihoods(proposal.test)):
            if chance >= LIKELY_OUTCOME:
                worth = self._bits_of(left, others)
                best = int(np.argmax(worth / times))
                if worth[best] > WORTH_BITS:
                    bits, minutes = bits + chance * float(worth[best]), minutes + chance * float(times[best])
        return bits / minutes

    def _bits_of(self, belief: "Belief", tests: Sequence[Test]) -> Floats:
        """I(outcome; repair unit) of some tests, in bits."""
        outcomes, found = self.outcomes, np.zeros(len(tests))
        rows = [(at, outcomes.row[test]) for at, test in enumerate(tests) if isinstance(test, Probe)]
        if rows:
            places, which = (list(each) for each in zip(*rows, strict=True))
            found[places] = belief.of_classes(
                outcomes.classes[which], outcomes.count[which], outcomes.pulses[which]
            )
        for at, test in enumerate(tests):
            if not isinstance(test, Probe):
                found[at] = belief.of_tables(outcomes.tables[test][1][None])[0]
        return found

    def _likelihoods(self, test: Test) -> Floats:
        """P(outcome | hypothesis) of a test, outcomes × H, over the draws; what comes and goes, and what
        never settles, shows as often as if it were sound."""
        if not isinstance(test, Probe):
            return self.outcomes.tables[test][1]
        at = self.outcomes.row[test]
        count = int(self.outcomes.count[at])
        told = (self.outcomes.classes[at][None] == np.arange(count)[:, None, None]).mean(axis=1)
        unsteady = self.weigher.known.comes_and_goes | self.outcomes.pulses[at]
        told = np.where(unsteady, 0.5 * (told + told[:, :1]), told)
        return np.asarray((1 - SLIP) * told + SLIP / count)

    def minutes(self, test: Test, state: State) -> float:
        """The minutes a test takes from here."""
        return ACT_MINUTES + self._minutes(test, state)

    def _minutes(self, test: Test, state: State) -> float:
        match test:
            case Probe():
                return probe_minutes(self.sheet, state, test)
            case Said():
                return ASK_MINUTES
            case Looked(look=look):
                return look_minutes(self.sheet, state, look)
            case Measured():
                return THERMOMETER_MINUTES
            case Turned(fan=fan):
                return turned_minutes(self.sheet, state, fan)
            case Sensed(component=component):
                return by_hand_minutes(self.sheet, state, component)
            case Changed(probe=probe):
                return probe_minutes(self.sheet, state, probe) + MOVE_MINUTES
        return plug_minutes(self.sheet, state, test.mode)

    def _bits(self, belief: "Belief", evidence: Sequence[Evidence] = ()) -> Floats:
        """I(outcome; repair unit) of every test, in bits, after what has been tested."""
        outcomes = self.outcomes
        bits = [belief.of_classes(outcomes.classes, outcomes.count, outcomes.pulses)]
        again = {row: outcomes.again(row, evidence) for row in outcomes.read_again(evidence)}
        if again:
            rows = list(again)
            known = np.array(list(again.values()))[:, None, :]
            classes = np.where(known, outcomes.classes[rows][:, :, :1], outcomes.classes[rows])
            bits[0][rows] = belief.of_classes(classes, outcomes.count[rows], outcomes.pulses[rows])
        watts = [item.mode for item in evidence if isinstance(item, AtPlug)]
        for some, tables in outcomes.stacked:
            if watts and any(isinstance(test, AtPlug) for test in some):
                pairs = zip(some, tables, strict=True)
                told = np.array(
                    [
                        outcomes.watts_again(test, table, watts) if isinstance(test, AtPlug) else table
                        for test, table in pairs
                    ]
                )
                bits.append(belief.of_tables(told))
            else:
                bits.append(belief.of_tables(tables))
        return np.concatenate(bits)

    def outcomes_of(self, test: Test, posterior: Posterior, most: int = 3) -> tuple[Outcome, ...]:
        """How a test may come out, and what each outcome would leave."""
        belief = Belief.of(posterior)
        if isinstance(test, Probe):
            at = self.outcomes.row[test]
            joint = belief.joint_of_classes(
                self.outcomes.classes[at], int(self.outcomes.count[at]), self.outcomes.pulses[at]
            )
            texts = self.outcomes.texts[at]
        else:
            texts, table = self.outcomes.tables[test]
            joint = belief.joint_of_table(table)
        found = []
        for number, (text, row) in enumerate(zip(texts, joint, strict=True)):
            chance = float(row.sum())
            if chance < 0.01:
                continue
            best = np.argsort(-row)[:most]
            some = [unit for unit in best if row[unit] > 0.02 * chance]
            leaves = tuple((belief.units[unit], float(row[unit] / chance)) for unit in some)
            found.append(Outcome(text, chance, leaves, number))
        return tuple(sorted(found, key=lambda each: -each.chance))

    def outcome_of(self, test: Test, seen: Evidence, posterior: Posterior) -> int | None:
        """Which of its outcomes a test has had, by the evidence it gave; None where nothing can be said."""
        if isinstance(test, Probe) and isinstance(seen, Read):
            row = self.outcomes.row[test]
            if seen.value.value is None:
                return int(self.outcomes.count[row]) - 1
            return int(np.searchsorted(np.array(self.outcomes.limits[row]), np.arcsinh(seen.value.value)))
        log, table = self.weigher.log(seen), self.outcomes.tables.get(test)
        if log is None or table is None:
            return None
        likely = np.exp(log).mean(axis=0) * posterior.now
        return int(np.argmax((table[1] @ likely) / np.maximum(table[1] @ posterior.now, 1e-12)))

    def sound_outcome(self, test: Test) -> int:
        """Which of its outcomes a test mostly has on a unit that is well."""
        if isinstance(test, Probe):
            found = np.bincount(self.outcomes.classes[self.outcomes.row[test], :, 0])
            return int(np.argmax(found))
        return int(np.argmax(self.outcomes.tables[test][1][:, 0]))


def _last_fit(evidence: Sequence[Evidence]) -> int | None:
    """Where in the evidence something was mended last on this call."""
    fits = (at for at, item in enumerate(evidence) if isinstance(item, Fitted) and not item.before)
    return max(fits, default=None)


def _done(evidence: Sequence[Evidence]) -> set[object]:
    """What has been tested, or can't be. What was tested before something was mended is tested anew: the
    unit is another since."""
    since = _last_fit(evidence) or 0
    barred = [item for item in evidence[:since] if isinstance(item, Cannot)]
    return set(_names([*barred, *evidence[since:]]))


def _names(evidence: Sequence[Evidence]) -> Iterator[object]:
    for item in evidence:
        match item:
            case Cannot(of=of):
                yield name_of_test(of)
            case Shown():
                yield name_of_test(Looked("display", ""))  # a code read is a display looked at
            case Read() | Said() | Looked() | Measured() | AtPlug() | Turned() | Changed():
                yield name_of_test(item)
            case Sensed(what=what) if what in BY_HAND:
                yield name_of_test(item)


MOST_PARTING = 20
"""So many tests are looked through for one that parts the last suspects."""


def put_off(evidence: Sequence[Evidence]) -> Callable[[Test], bool]:
    """Whether a test is one that can't be made here."""
    names = {name_of_test(item.of) for item in evidence if isinstance(item, Cannot)}
    return lambda test: name_of_test(test) in names


def made(evidence: Sequence[Evidence]) -> Callable[[Test], bool]:
    """Whether a test has been made."""
    names = set(_names([item for item in evidence if not isinstance(item, Cannot)]))
    return lambda test: name_of_test(test) in names


def planner_of(weigher: Weigher) -> Planner:
    """A sheet's, kept with its circuits; made anew by :func:`renew` once good parts have been drawn."""
    kept = circuits_of(weigher.sheet).kept
    if "planner" not in kept:
        kept["planner"] = Planner(weigher)
    found: Planner = kept["planner"]
    return found


def renew(weigher: Weigher) -> None:
    """Work the outcomes out anew, of all the draws there are."""
    circuits_of(weigher.sheet).kept["planner"] = Planner(weigher)
