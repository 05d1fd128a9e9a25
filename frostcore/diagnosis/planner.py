"""Which test tells most about what to fit, for each minute it takes here and now.

Every test has outcomes; P(outcome | hypothesis) comes from the same predictions as the judgement. A
reading's outcomes are classes of values that no meter and no two good parts could tell apart. Worth is the
mutual information of outcome and repair unit, in bits, by the marginal minutes; the best few are looked at
one step further.
"""

import copy
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import numpy.typing as npt

from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import OPEN_OHMS, MeterRange, show
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
from frostcore.diagnosis.likelihood import SLIP, dead_short, log_given, widths
from frostcore.diagnosis.posterior import Posterior, same_thing
from frostcore.diagnosis.probes import Probe, candidates
from frostcore.diagnosis.state import (
    ACT_MINUTES,
    ASK_MINUTES,
    MOVE_MINUTES,
    THERMOMETER_MINUTES,
    State,
    by_hand_minutes,
    has_look,
    look_minutes,
    plug_minutes,
    probe_minutes,
    turned_minutes,
)
from frostcore.diagnosis.weigh import Weigher, alike_watts
from frostcore.faults.table import Setup
from frostcore.quantity import Dimension, Quantity
from frostcore.sheet.model import ComponentKind
from frostcore.tape.looks import LOOKS, Look
from frostcore.tape.noticed import BY_HAND, FEELINGS, complaints_of
from frostcore.tape.standing import ROOM

APART = 4.0
"""Two values so many widths apart are two outcomes."""

MOST_CLASSES = 6

WORTH_BITS = 0.01
"""A test that tells less is not worth a lead."""

LEAST_RATE = 0.005
"""Bits a minute below which no test is worth its minutes: a bit in three hours is what a part fitted on trial
tells sooner."""

AT_ONCE = 400_000
"""So many classes are counted at once; more are counted in one draw alone."""

TRIFLE = 0.25
"""Nor is one that tells less than this share of what the best would, however little time it takes."""

UNLIKE = 3.0
"""A sound unit hardly shows what some fault shows so many times likelier."""

FEW, AHEAD = 5, 30
"""So many of the best are looked at one step further, and so many are weighed as that step."""

LIKELY_OUTCOME = 0.05
"""Outcomes less likely than this are not looked beyond."""

LIKELY = 2e-4
"""Hypotheses less likely than this move no plan."""


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


Test = Probe | Said | Looked | Measured | AtPlug | Turned | Changed | Sensed
"""What can be tested; a look without its answer, a temperature or watts without their value, a harness moved
without what changed, a fan turned by hand without how it turned."""

TURNED_BY_HAND = frozenset({ComponentKind.FAN_AC, ComponentKind.FAN_DC})

_UNTOLD = 0.0
_NOTHING = Quantity(Dimension.RESISTANCE, 0.0)
"""Stand for the outcome of a test that has not been made."""


class Outcomes:
    """P(outcome | draw, hypothesis) of every test of a sheet, worked out once for its draws.

    Readings are classes by number (tests × draws × hypotheses, 0 to C − 1); other tests are tables.
    """

    def __init__(self, weigher: Weigher) -> None:
        self.weigher, self.sheet = weigher, weigher.sheet
        self.probes = candidates(weigher.sheet)
        known = weigher.known
        draws = max(weigher.readings.draws, 1)
        self.classes = np.zeros((len(self.probes), draws, len(known)), np.int8)
        self.row = {probe: row for row, probe in enumerate(self.probes)}
        self._rows_of: dict[frozenset[str], list[int]] = {}
        for row, probe in enumerate(self.probes):
            self._rows_of.setdefault(frozenset(probe.pair), []).append(row)
        self._kept_alike: dict[tuple[int, Probe], npt.NDArray[np.bool_]] = {}
        self.texts: list[tuple[str, ...]] = []
        self.count = np.ones(len(self.probes), int)
        self.pulses = np.array(
            [
                weigher.readings.never_settles(probe.setup.mode) & probe.setup.meter.live
                for probe in self.probes
            ]
        ).reshape(len(self.probes), len(known))
        """Which hypotheses a reading finds up or down by chance (tests × hypotheses)."""
        for number, probe in enumerate(self.probes):
            self.classes[number], texts = self._classes(probe)
            self.texts.append(texts)
            self.count[number] = len(texts)

    def _classes(self, probe: Probe) -> tuple[npt.NDArray[np.int8], tuple[str, ...]]:
        """The classes of one reading's values: gaps no meter and no two good parts could bridge."""
        readings = self.weigher.readings
        foretold = readings.of(probe).astype(float)
        width = np.minimum(widths(readings, probe, foretold, None), 1.0)
        opened = ~np.isfinite(foretold) | (foretold > OPEN_OHMS)
        y = np.where(opened, np.inf, np.arcsinh(np.where(opened, 0.0, foretold)))
        if not readings.firm(probe):
            return np.where(dead_short(foretold), 0, 1).astype(np.int8), ("a dead short", "anything else")
        order = np.argsort(y, axis=None)
        sorted_y, sorted_w = y.ravel()[order], width.ravel()[order]
        finite = np.isfinite(sorted_y)
        gaps = np.diff(sorted_y[finite]) / np.maximum(
            np.maximum(sorted_w[finite][1:], sorted_w[finite][:-1]), 1e-3
        )
        cuts = np.flatnonzero(gaps > APART)
        if len(cuts) > MOST_CLASSES - 2:
            cuts = np.sort(cuts[np.argsort(-gaps[cuts])[: MOST_CLASSES - 2]])
        limits = [(sorted_y[finite][cut] + sorted_y[finite][cut + 1]) / 2 for cut in cuts]
        limits = _about_sound(limits, y[:, 0], width[:, 0], sorted_y[finite])
        found = np.searchsorted(np.array(limits), y).astype(np.int8)
        last = len(limits) + 1
        found[opened] = last
        texts = [self._text(probe, foretold[(found == number) & ~opened]) for number in range(last)]
        return found, (*texts, "OL")

    def read_again(self, evidence: Sequence[Evidence]) -> list[int]:
        """The readings (rows) of two points that have been read in another setup."""
        pairs = [frozenset(item.probe.pair) for item in evidence if isinstance(item, Read)]
        return sorted({row for pair in pairs for row in self._rows_of.get(pair, ())})

    def again(self, row: int, evidence: Sequence[Evidence]) -> npt.NDArray[np.bool_]:
        """Which hypotheses foretell a reading just as they do one of the same two points that has been
        taken: it would tell nothing new of them."""
        found = np.zeros(len(self.weigher.known), bool)
        for item in evidence:
            if isinstance(item, Read) and same_thing(Read(self.probes[row], item.value), item):
                found |= self._alike(row, item.probe)
        return found

    @cached_property
    def tests(self) -> list[Test]:
        """All of them: the readings, then the others."""
        return [*self.probes, *(test for tests, _ in self.stacked for test in tests)]

    @cached_property
    def names(self) -> list[object]:
        """What each has in common with its evidence."""
        return [_name(test) for test in self.tests]

    @cached_property
    def stacked(self) -> list[tuple[list[Test], Floats]]:
        """The tests that are no readings, by how many outcomes they have: tests, and tables (T × O × H)."""
        found: dict[int, list[Test]] = {}
        for test, (_, table) in self.tables.items():
            found.setdefault(len(table), []).append(test)
        return [(tests, np.array([self.tables[test][1] for test in tests])) for tests in found.values()]

    def _alike(self, row: int, other: Probe) -> npt.NDArray[np.bool_]:
        """Where a candidate and another reading of its points are foretold alike, with parts as they mostly
        are."""
        key = (row, other)
        if key not in self._kept_alike:
            once = log_given(self.weigher.readings, self.probes[row], _NOTHING, (other, _NOTHING))
            self._kept_alike[key] = ~np.isnan(once[0])
        return self._kept_alike[key]

    def watts_again(self, test: AtPlug, table: Floats, modes: Sequence[str]) -> Floats:
        """A table of watts at the plug where modes that take the same have been read."""
        watts = self.weigher.behaviour.watts
        told = np.zeros(table.shape[1], bool)
        for mode in modes:
            told |= alike_watts(watts[test.mode], watts[mode])
        return np.where(told, table[:, :1], table)

    @staticmethod
    def _text(probe: Probe, values: Floats) -> str:
        if not len(values):
            return "–"
        meter = probe.setup.meter
        low, high = show(meter, float(values.min())), show(meter, float(values.max()))
        return low if low == high else f"{low} to {high}"

    @cached_property
    def tables(self) -> dict[Test, tuple[tuple[str, ...], Floats]]:
        """The tests that are no readings: words for the outcomes, and P(outcome | hypothesis)."""
        found: dict[Test, tuple[tuple[str, ...], Floats]] = {}
        behaviour = self.weigher.behaviour
        names = complaints_of(self.sheet)
        found[Said("")] = (tuple(names.values()), np.array([behaviour.complaints[name] for name in names]))
        for look in LOOKS:
            if has_look(self.sheet, look.id):
                words = tuple(answer.text for answer in look.answers)
                table = behaviour.looks[look.id]
                if look.id == "display":
                    words, table = self._display(look, table)
                found[Looked(look.id, "")] = (words, table)
        for place in self.sheet.compartments:
            zone = behaviour.zone(place.id)
            table = np.array([zone["warm"], zone["right"], zone["cold"]])
            blur = np.array([[0.9, 0.06, 0.0], [0.1, 0.9, 0.1], [0.0, 0.04, 0.9]])
            found[Measured(place.id, _UNTOLD)] = (("too warm", "right", "too cold"), blur @ table)
        room = behaviour.state("room")
        found[Measured(ROOM, _UNTOLD)] = (
            ("as rooms are", "far from it"),
            np.array([1 - 0.9 * room - 0.02 * (1 - room), 0.9 * room + 0.02 * (1 - room)]),
        )
        for mode, watts in behaviour.watts.items():
            found[AtPlug(mode, _UNTOLD)] = _watt_classes(watts)
        for fan, share in behaviour.hertz.items():
            rows = [(share > 0.85), (share > 0) & (share <= 0.85), (share <= 0)]
            found[Turned(fan, _UNTOLD)] = (("its rated", "too slow", "none"), np.array(rows, float))
        found |= self._by_hand()
        stretches = {(each.start, each.end) for each in self.sheet.wiring.stretches}
        for probe in self.probes:
            along = (probe.red, probe.black.partition("/")[0]) in stretches
            if probe.setup == self._resting or (along and not probe.setup.meter.live):
                moved = Changed("move", probe, changes=True)
                log = self.weigher.log(moved)
                changes = np.exp(log).mean(axis=0) if log is not None else np.zeros(len(self.weigher.known))
                found[moved] = (("it changes", "it stays"), np.array([changes, 1 - changes]))
        return found

    def _by_hand(self) -> dict[Test, tuple[tuple[str, ...], Floats]]:
        """How each fan turns by hand."""
        found: dict[Test, tuple[tuple[str, ...], Floats]] = {}
        for part in self.sheet.components:
            if part.kind in TURNED_BY_HAND:
                turns = [self.weigher.log(Sensed(part.id, what)) for what in BY_HAND]
                words = tuple(FEELINGS[what].words for what in BY_HAND)
                found[Sensed(part.id, "")] = (words, np.exp([row[0] for row in turns if row is not None]))
        return found

    def _display(self, look: Look, table: Floats) -> tuple[tuple[str, ...], Floats]:
        """The display's answers, with each code that it may show in the place of “a code”."""
        codes = self.weigher.behaviour.codes
        if not codes:
            return tuple(answer.text for answer in look.answers), table
        chances = np.array(list(codes.values()))
        each = chances / np.maximum(chances.sum(axis=0), 1e-12)
        words, rows = list[str](), list[Floats]()
        for answer, row in zip(look.answers, table, strict=True):
            if answer.id == "code":
                words += [f"shows {name}" for name in codes]
                rows += [row * share for share in each]
            else:
                words.append(answer.text)
                rows.append(row)
        return tuple(words), np.array(rows)

    @property
    def _resting(self) -> Setup:
        return Setup(self.sheet.resting_mode, MeterRange.OHM)


def _about_sound(limits: list[float], sound: Floats, width: Floats, every: Floats) -> list[float]:
    """The limits of classes with those of a good unit's band in the place of any within it: faults that come
    in amounts leave no gap beside it, and a reading beside it tells all the same."""
    if not np.isfinite(sound).all():
        return limits
    reach = BAND * float(width.max())
    low, high = float(sound.min()) - reach, float(sound.max()) + reach
    kept = [limit for limit in limits if not low <= limit <= high]
    kept += [edge for edge in (low, high) if ((every < edge).any() and (every > edge).any())]
    return sorted(kept)


BAND = 2.0
"""A good unit's band reaches so many widths beyond its draws."""


def _watt_classes(watts: Floats) -> tuple[tuple[str, ...], Floats]:
    """Watts at the plug in classes that a plug meter and the loads' tolerances leave apart."""
    order = np.sort(watts)
    gaps = np.diff(order) - 0.14 * order[:-1] - 5.0
    cuts = np.flatnonzero(gaps > 0)
    limits = [(order[cut] + order[cut + 1]) / 2 for cut in cuts]
    classes = np.searchsorted(np.array(limits), watts)
    table = np.zeros((len(limits) + 1, len(watts)))
    table[classes, np.arange(len(watts))] = 1.0
    texts = []
    for number in range(len(limits) + 1):
        mine = watts[classes == number]
        low, high = f"{mine.min():.0f}", f"{mine.max():.0f}"
        texts.append(f"{low} W" if low == high else f"{low} to {high} W")
    return tuple(texts), table


class Planner:
    """The tests of a sheet, weighed against a posterior."""

    def __init__(self, weigher: Weigher) -> None:
        self.weigher, self.sheet, self.outcomes = weigher, weigher.sheet, Outcomes(weigher)

    def propose(
        self, posterior: Posterior, state: State, evidence: Sequence[Evidence], most: int = 6
    ) -> tuple[Proposal, ...]:
        """The tests worth most by what each tells for its minutes, best first; those already made or that
        can't be made are left out."""
        return tuple(self._weighed(_Belief(posterior), state, evidence)[:most])

    def two_steps(
        self, posterior: Posterior, state: State, evidence: Sequence[Evidence], most: int = 6
    ) -> tuple[Proposal, ...]:
        """The tests worth most, the best few by what they and the best test after each outcome tell together,
        for the minutes both take."""
        belief = _Belief(posterior)
        known = self._weighed(belief, state, evidence)
        few, then = known[:FEW], known[:AHEAD]
        found = [replace(each, rate=self._onward(each, belief, state, then)) for each in few]
        found.sort(key=lambda each: -each.rate)
        return (*found, *known[FEW:most])[:most]

    def _weighed(self, belief: "_Belief", state: State, evidence: Sequence[Evidence]) -> list[Proposal]:
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
        belief = _Belief(posterior)
        tests = [test for test in self.outcomes.tables if _name(test) in wanted]
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
        bits = self._bits(_Belief(posterior, mine))
        order = np.argsort(-bits)[:MOST_PARTING]
        return [(self.outcomes.tests[at], float(bits[at])) for at in order]

    def rates_of(self, tests: Sequence[Test], posterior: Posterior, state: State) -> list[float]:
        """Bits a minute of some tests, made or not."""
        bits = self._bits_of(_Belief(posterior), tests)
        return [float(told) / self.minutes(test, state) for test, told in zip(tests, bits, strict=True)]

    def _onward(self, proposal: Proposal, belief: "_Belief", state: State, then: Sequence[Proposal]) -> float:
        """Bits of a test and of the best after each of its outcomes, by the minutes of both."""
        after = (
            state.after(self.sheet, Read(proposal.test, _NOTHING))
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

    def _bits_of(self, belief: "_Belief", tests: Sequence[Test]) -> Floats:
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

    def _bits(self, belief: "_Belief", evidence: Sequence[Evidence] = ()) -> Floats:
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
        belief = _Belief(posterior)
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

    def sound_outcome(self, test: Test) -> int:
        """Which of its outcomes a test mostly has on a unit that is well."""
        if isinstance(test, Probe):
            found = np.bincount(self.outcomes.classes[self.outcomes.row[test], :, 0])
            return int(np.argmax(found))
        return int(np.argmax(self.outcomes.tables[test][1][:, 0]))


class _Belief:
    """A posterior cut down to the hypotheses that still matter."""

    def __init__(self, posterior: Posterior, only: npt.NDArray[np.bool_] | None = None) -> None:
        known = posterior.weigher.known
        now = posterior.by_draw if only is None else posterior.by_draw * only
        if posterior.fitted and only is None:  # the unit as it stands, whichever its good parts are
            now = np.broadcast_to(posterior.now / len(now), now.shape)
        now = now / now.sum()
        self._kept = np.flatnonzero(now.sum(axis=0) > LIKELY)
        weights = now[:, self._kept]
        self.weights: Floats = weights / weights.sum()
        """P(draw, hypothesis) of those that are kept."""
        names, self._unit = np.unique(known.unit[self._kept], return_inverse=True)
        self.units = tuple(known.units[name] for name in names)
        self._goes = known.comes_and_goes[self._kept]
        of_each = self.weights.sum(axis=0)
        self.by_unit: Floats = np.asarray(np.bincount(self._unit, of_each, len(self.units)), float)

    def after(self, likelihoods: Floats) -> Iterator[tuple[float, "_Belief"]]:
        """Each outcome's chance, and the belief it would leave."""
        chances = self.weights.sum(axis=0)
        for row in likelihoods[:, self._kept]:
            weights = self.weights * row
            chance = float((chances * row).sum())
            if chance > 0:
                left = copy.copy(self)
                left.weights = weights / weights.sum()
                of_each = left.weights.sum(axis=0)
                left.by_unit = np.asarray(np.bincount(self._unit, of_each, len(self.units)), float)
                yield chance, left

    def of_classes(
        self, classes: npt.NDArray[np.int8], count: npt.NDArray[np.int_], pulses: npt.NDArray[np.bool_]
    ) -> Floats:
        """The bits of many readings at once, from their classes (T × D × H) and which of them (T × H) are as
        likely to show as sound."""
        draws = len(self.weights)
        if classes.shape[1] != draws or len(classes) * draws * len(self._kept) > AT_ONCE:
            draws = 1  # while so much may be wrong, one unit's values say enough
        weights = self.weights if draws > 1 else self.weights.sum(axis=0, keepdims=True)
        some = np.concatenate([[0], self._kept])
        first, back = _alike_rows(
            np.concatenate(
                [
                    classes[:, :draws, some].reshape(len(classes), -1),
                    pulses[:, some].astype(np.int8),
                    count[:, None].astype(np.int8),
                ],
                axis=1,
            )
        )
        bits = self._of_classes(classes[first, :draws], count[first], pulses[first], weights)
        return np.asarray(bits[back])

    def _of_classes(
        self,
        classes: npt.NDArray[np.int8],
        count: npt.NDArray[np.int_],
        pulses: npt.NDArray[np.bool_],
        weights: Floats,
    ) -> Floats:
        tests, draws = classes.shape[:2]
        most, units = int(count.max()), len(self.units)
        kept = classes[:, :, self._kept].astype(np.int64)
        sound = classes[:, :, :1].astype(np.int64)
        at = np.arange(tests)[:, None, None] * (most * units) + self._unit
        # What comes and goes is there or not: reading the same again plans nothing, moving it does.
        kept = np.where(self._goes, sound, kept)
        joint = self._counted(at + kept * units, weights, tests * most * units)
        rows, columns = np.nonzero(pulses[:, self._kept])
        if len(rows):
            # What never settles shows as often as if it were sound.
            half = 0.5 * np.broadcast_to(weights[:, columns].T, (len(rows), draws))
            base = (rows * (most * units) + self._unit[columns])[:, None]
            there, gone = (base + each * units for each in (kept[rows, :, columns], sound[rows, :, 0]))
            size = tests * most * units
            joint += np.bincount(gone.ravel(), half.ravel(), size)
            joint -= np.bincount(there.ravel(), half.ravel(), size)
        joint = joint.reshape(tests, most, units)
        slips = np.where(np.arange(most) < count[:, None], 1 / np.maximum(count, 1)[:, None], 0.0)
        joint = (1 - SLIP) * joint + SLIP * slips[:, :, None] * self.by_unit
        return information(joint, self.by_unit)

    @staticmethod
    def _counted(places: npt.NDArray[np.int64], weights: Floats, size: int) -> Floats:
        """The weights (D × H) added up by place (T × D × H)."""
        spread = np.broadcast_to(weights, places.shape)
        return np.asarray(np.bincount(places.ravel(), spread.ravel(), size), float)

    def joint_of_classes(
        self, classes: npt.NDArray[np.int8], count: int, pulses: npt.NDArray[np.bool_]
    ) -> Floats:
        """P(outcome, unit) of one reading (C × U)."""
        draws = len(self.weights) if len(classes) == len(self.weights) else 1
        weights = self.weights if draws > 1 else self.weights.sum(axis=0, keepdims=True)
        joint = np.zeros((count, len(self.units)))
        for draw in range(draws):
            mine = np.where(self._goes, classes[draw, 0], classes[draw, self._kept])
            half = np.where(pulses[self._kept], 0.5, 0.0) * weights[draw]
            np.add.at(joint, (mine, self._unit), weights[draw] - half)
            np.add.at(joint, (np.full_like(mine, classes[draw, 0]), self._unit), half)
        return np.asarray((1 - SLIP) * joint + SLIP / count * self.by_unit)

    def of_tables(self, tables: Floats) -> Floats:
        """The bits of tests by their tables (T × O × H)."""
        kept = tables[:, :, self._kept] * self.weights.sum(axis=0)
        at = np.arange(tables.shape[0] * tables.shape[1])[:, None] * len(self.units) + self._unit
        size = tables.shape[0] * tables.shape[1] * len(self.units)
        joint = np.bincount(at.ravel(), kept.ravel(), size).reshape(*tables.shape[:2], len(self.units))
        return information(np.asarray(joint), self.by_unit)

    def joint_of_table(self, table: Floats) -> Floats:
        """P(outcome, unit) of a test by its table of P(outcome | hypothesis) (O × H)."""
        kept = table[:, self._kept] * self.weights.sum(axis=0)
        joint = np.zeros((len(table), len(self.units)))
        np.add.at(joint.T, self._unit, kept.T)
        return joint


def _alike_rows(rows: npt.NDArray[np.int8]) -> tuple[list[int], npt.NDArray[np.intp]]:
    """The first of each kind of row, and which kind each row is of: tests that part what is still suspected
    alike are counted once."""
    kinds: dict[bytes, int] = {}
    first = list[int]()
    back = np.zeros(len(rows), np.intp)
    for number, row in enumerate(np.ascontiguousarray(rows)):
        kind = kinds.setdefault(row.tobytes(), len(first))
        if kind == len(first):
            first.append(number)
        back[number] = kind
    return first, back


def information(joint: Floats, units: Floats) -> Floats:
    """I(outcome; unit) in bits of joint probabilities (T × C × U)."""
    outcome = joint.sum(axis=2, keepdims=True)
    apart = outcome * units
    with np.errstate(divide="ignore", invalid="ignore"):
        terms = np.where(joint > 0, joint * np.log2(joint / np.where(apart > 0, apart, 1.0)), 0.0)
    return np.asarray(np.maximum(terms.sum(axis=(1, 2)), 0.0))


def _name(test: Test | Evidence) -> object:
    """What a test and its evidence have in common."""
    match test:
        case Read(probe=probe) | Changed(probe=probe):
            return (getattr(test, "how", ""), _name(probe)) if isinstance(test, Changed) else _name(probe)
        case Probe():
            warm = test.at_temperature
            return ("read", test.setup.mode, test.setup.meter, test.setup.pulled, frozenset(test.pair), warm)
        case Said():
            return "said"
    kind, field = _NAMED_BY.get(type(test), ("", ""))
    return (kind, getattr(test, field)) if kind else test


_NAMED_BY: dict[type, tuple[str, str]] = {
    Looked: ("look", "look"),
    Measured: ("temperature", "place"),
    AtPlug: ("plug", "mode"),
    Turned: ("hertz", "fan"),
    Sensed: ("by hand", "component"),
}
"""What a test and its evidence have in common: a word, and the field that says what it is at."""


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
                yield _name(of)
            case Shown():
                yield _name(Looked("display", ""))  # a code read is a display looked at
            case Read() | Said() | Looked() | Measured() | AtPlug() | Turned() | Changed():
                yield _name(item)
            case Sensed(what=what) if what in BY_HAND:
                yield _name(item)


MOST_PARTING = 20
"""So many tests are looked through for one that parts the last suspects."""


def put_off(evidence: Sequence[Evidence]) -> Callable[[Test], bool]:
    """Whether a test is one that can't be made here."""
    names = {_name(item.of) for item in evidence if isinstance(item, Cannot)}
    return lambda test: _name(test) in names


def made(evidence: Sequence[Evidence]) -> Callable[[Test], bool]:
    """Whether a test has been made."""
    names = set(_names([item for item in evidence if not isinstance(item, Cannot)]))
    return lambda test: _name(test) in names


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
