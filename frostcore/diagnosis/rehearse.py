"""The judgement rehearsed: units with known faults, diagnosed test by test, and what came of it.

The truth is a unit of its own: other draws of its parts, another seed, its mains off by some per cent, a
meter with its own error, now and then a slip. What a first look shows is drawn from the same causal table
the judgement uses, for there is no other; figures without looks stand beside.
"""

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace

import numpy as np

from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import METER_FLOOR, METER_SHARE, MeterRange
from frostcore.diagnosis.causal import MISTAKEN
from frostcore.diagnosis.evidence import (
    AtPlug,
    Cannot,
    Changed,
    Evidence,
    Looked,
    Mains,
    Measured,
    Read,
    Said,
    Shown,
    Turned,
)
from frostcore.diagnosis.judge import GROUP, Judgement
from frostcore.diagnosis.likelihood import dead_short
from frostcore.diagnosis.planner import Proposal, Test
from frostcore.diagnosis.probes import Probe
from frostcore.diagnosis.readings import Readings
from frostcore.diagnosis.state import to_open
from frostcore.diagnosis.weigh import COLDER, RIGHT_KELVIN, WARMER, Weigher, setting, weigher_of
from frostcore.quantity import Quantity
from frostcore.quantity import State as Kind
from frostcore.sheet.model import Sheet
from frostcore.tape.looks import look as look_named
from frostcore.tape.standing import ROOM

MOST_TESTS = 45

TRUTH_SEED = 7919
"""The truth's parts are drawn with another seed than the judgement's."""

SLIPS = 0.01
"""Of the readings and looks in a rehearsal, so many are of something else; the judgement allows for three
times as many."""

PULSES = (0.45, 0.45, 0.1)
"""How often what never settles is read up, down, and on the way."""

LOOSE_DECADES = 1.9, 6.8
"""Good electronics at rest read anything between these powers of ten, in ohms."""

TRUTHS = 3
"""So many units are made of each fault, with other parts."""


@dataclass(frozen=True)
class Ended:
    """How one rehearsal ended: the fault, what was named (units, one or a group), the first suspect and
    the probability stated of it, tests made, minutes."""

    fault: str
    unit: str
    named: tuple[str, ...]
    first: str
    stated: float
    tests: int
    minutes: float
    weight: float
    intermittent: bool
    board: bool

    @property
    def right(self) -> bool:
        """Whether the unit at fault is what was named, or in the group."""
        return self.unit in self.named

    @property
    def sure_and_wrong(self) -> bool:
        """Whether another unit was named outright."""
        return len(self.named) == 1 and not self.right

    @property
    def wrong_board(self) -> bool:
        """Whether a board was condemned that is sound."""
        return self.sure_and_wrong and self.board


class Truth:
    """A unit with one fault, and a repairer with a meter."""

    def __init__(self, weigher: Weigher, truth: Readings, place: int, rng: np.random.Generator) -> None:
        self._weigher, self._truth, self._place, self._rng = weigher, truth, place, rng
        self._draw = int(rng.integers(max(truth.draws, 1)))
        self.mains = float(rng.normal(1.0, 0.03))
        self._goes = bool(weigher.known.comes_and_goes[place])

    def answer(self, test: Test) -> Evidence:
        """What the test shows."""
        match test:
            case Probe():
                return Read(test, self._reading(test))
            case Looked(look=look):
                told = self._weigher.behaviour.looks[look][:, self._place]
                seen = np.maximum(told - MISTAKEN / len(told), 0.0)  # what there is to see
                chances = (1 - SLIPS) * seen / seen.sum() + SLIPS / len(seen)
                at = int(self._rng.choice(len(chances), p=chances))
                answer = look_named(look).answers[at].id
                return self._code() if answer == "code" else Looked(look, answer)
            case Said():
                return self._said()
            case Measured(place=place):
                return Measured(place, self._temperature(place))
            case Turned(fan=fan):
                nominal = self._weigher.sheet.component(fan).nominal
                full = (nominal.rpm or 0.0) * (nominal.pulses_per_revolution or 0.0) / 60
                share = self._weigher.behaviour.hertz[fan][self._place if self._there() else 0]
                return Turned(fan, max(0.0, float(share * full * self._rng.normal(1.0, 0.04))))
            case Changed(how=how, probe=probe):
                return Changed(how, probe, self._changes(test))
        watts = float(self._weigher.behaviour.watts[test.mode][self._place if self._there() else 0])
        shown = watts * self.mains**2 * self._rng.normal(1.0, 0.04) + self._rng.normal(0, 0.5)
        return AtPlug(test.mode, max(0.0, float(shown)))

    def _said(self) -> Said:
        """What the customer called for."""
        names = list(self._weigher.behaviour.complaints)
        chances = np.array([self._weigher.behaviour.complaints[name][self._place] for name in names])
        return Said(names[int(self._rng.choice(len(names), p=chances / chances.sum()))])

    def _code(self) -> Evidence:
        """The code the display shows, typed at once."""
        codes = self._weigher.behaviour.codes
        chances = np.array([float(chance[self._place]) for chance in codes.values()])
        if not len(chances) or chances.sum() <= 0:
            return Looked("display", "code")
        return Shown(list(codes)[int(self._rng.choice(len(chances), p=chances / chances.sum()))])

    def _changes(self, test: Changed) -> bool:
        log = self._weigher.log(replace(test, changes=True))
        return log is not None and bool(self._rng.random() < float(np.exp(log[:, self._place]).mean()))

    def _there(self) -> bool:
        return not self._goes or bool(self._rng.random() < 0.5)

    def _reading(self, probe: Probe) -> Quantity:
        meter = probe.setup.meter
        values = self._truth.of(probe)
        value = float(values[min(self._draw, len(values) - 1), self._place if self._there() else 0])
        if meter.live and self._truth.never_settles(probe.setup.mode)[self._place]:
            # Its reader sees it up, down, or on the way.
            up = float(values[min(self._draw, len(values) - 1), 0])
            way = float(self._rng.uniform(0.0, 1.0))
            value = float(self._rng.choice([up, value, value + way * (up - value)], p=PULSES))
        if self._rng.random() < SLIPS:
            value = float(self._rng.choice([0.0, math.inf if meter is MeterRange.OHM else 0.0]))
        if not self._truth.firm(probe) and not dead_short(values.astype(float))[self._draw, self._place]:
            # What a meter's few volts find in electronics is anything.
            value = float(10 ** self._rng.uniform(*LOOSE_DECADES))
        if math.isinf(value):
            return Quantity(meter.dimension, None, Kind.OPEN)
        if meter in {MeterRange.VAC, MeterRange.VAC_LOZ}:
            value *= self.mains
        error = METER_SHARE * abs(value) / 2 + METER_FLOOR[meter] / 2
        shown = value + float(self._rng.normal(0, error / 2))
        return Quantity(meter.dimension, max(shown, 0.0) if meter is not MeterRange.VDC else shown)

    def _temperature(self, place: str) -> float:
        if place == ROOM:
            odd = float(self._weigher.behaviour.state("room")[self._place]) > self._rng.random()
            return 36.0 if odd else float(self._rng.normal(21, 3))
        zone = self._weigher.behaviour.zone(place)
        chances = np.array([float(zone[name][self._place]) for name in ("warm", "right", "cold")])
        at = int(self._rng.choice(3, p=chances / chances.sum()))
        mean, sigma = (WARMER, (0.0, RIGHT_KELVIN), COLDER)[at]
        return (setting(self._weigher.sheet, place) or 0.0) + float(self._rng.normal(mean, sigma))


Policy = Callable[[Judgement, np.random.Generator], Proposal | None]


def by_bits(judgement: Judgement, rng: np.random.Generator) -> Proposal | None:
    """The judgement's own next test, after a reading that is to be taken again."""
    doubt = judgement.again
    read = judgement.evidence[doubt.entry] if doubt else None
    if isinstance(read, Read):
        return Proposal(read.probe, judgement.planner.minutes(read.probe, judgement.state), 0.0, 0.0)
    return judgement.next


def outward(judgement: Judgement, rng: np.random.Generator) -> Proposal | None:
    """Nothing opened first, then as the sheet lists them: every test that is not yet made."""
    if judgement.named or judgement.group:
        return None
    planner = judgement.planner
    done = {item.probe for item in judgement.evidence if isinstance(item, Read)}
    best: tuple[float, int] | None = None
    for at, probe in enumerate(planner.outcomes.probes):
        if probe not in done:
            key = (sum(judgement.sheet.place(p).open_minutes for p in _opening(judgement, probe)), at)
            best = key if best is None or key < best else best
    if best is None:
        return None
    probe = planner.outcomes.probes[best[1]]
    return Proposal(probe, planner.minutes(probe, judgement.state), 0.0, 0.0)


def _opening(judgement: Judgement, probe: Probe) -> tuple[str, ...]:
    return to_open(judgement.sheet, judgement.state, probe)


def in_order(judgement: Judgement, rng: np.random.Generator) -> Proposal | None:
    """As the sheet lists them, wherever that leads."""
    if judgement.named or judgement.group:
        return None
    planner = judgement.planner
    done = {item.probe for item in judgement.evidence if isinstance(item, Read)}
    probe = next((each for each in planner.outcomes.probes if each not in done), None)
    return Proposal(probe, planner.minutes(probe, judgement.state), 0.0, 0.0) if probe else None


def at_random(judgement: Judgement, rng: np.random.Generator) -> Proposal | None:
    """Any test that is not yet made."""
    if judgement.named or judgement.group:
        return None
    planner = judgement.planner
    done = {item.probe for item in judgement.evidence if isinstance(item, Read)}
    left = [each for each in planner.outcomes.probes if each not in done]
    probe = left[int(rng.integers(len(left)))] if left else None
    return Proposal(probe, planner.minutes(probe, judgement.state), 0.0, 0.0) if probe else None


def two_steps(judgement: Judgement, rng: np.random.Generator) -> Proposal | None:
    """The best of the few best, looked at one step further."""
    if judgement.named or judgement.group:
        return None
    found = judgement.planner.two_steps(judgement.posterior, judgement.state, judgement.evidence)
    return found[0] if found else None


POLICIES: dict[str, Policy] = {
    "bits": by_bits,
    "two-step": two_steps,
    "sheet": in_order,
    "outward": outward,
    "random": at_random,
}


@dataclass
class Rehearsal:
    """All that ended."""

    ended: list[Ended] = field(default_factory=list)

    def share(
        self,
        what: Callable[[Ended], bool],
        of: Callable[[Ended], bool] = lambda each: True,
        *,
        weighted: bool = False,
    ) -> float:
        """The share of some of the runs of which something holds."""
        chosen = [each for each in self.ended if of(each)]
        whole = sum(each.weight if weighted else 1.0 for each in chosen)
        held = sum(each.weight if weighted else 1.0 for each in chosen if what(each))
        return held / whole if chosen else math.nan

    def mean(self, what: Callable[[Ended], float]) -> float:
        """The mean of a figure."""
        return sum(what(each) for each in self.ended) / len(self.ended) if self.ended else math.nan


def rehearse(
    sheet: Sheet,
    places: Iterable[int],
    *,
    seed: int = 1,
    policy: str = "bits",
    looks: bool = True,
    most: int = MOST_TESTS,
) -> Rehearsal:
    """Diagnose units with each of these hypotheses."""
    weigher = weigher_of(sheet)
    weigher.readings.prepare()
    truth, found = _truth_of(sheet), Rehearsal()
    for place in places:
        rng = np.random.default_rng([seed, place])
        unit = Truth(weigher, truth, place, rng)
        worked = _worked(weigher, unit, _begun(weigher, unit, looks=looks), (POLICIES[policy], rng, most))
        found.ended.append(_ended(weigher, place, *worked))
    return found


def _truth_of(sheet: Sheet) -> Readings:
    """The units that are diagnosed: other draws than the judgement's."""
    kept = circuits_of(sheet).kept
    if "truth" not in kept:
        kept["truth"] = Readings(sheet, TRUTH_SEED)
        kept["truth"].prepare(TRUTHS)
    found: Readings = kept["truth"]
    return found


def _begun(weigher: Weigher, truth: Truth, *, looks: bool) -> list[Evidence]:
    """What is known before the first test: the mains; without looks, that there are none."""
    evidence: list[Evidence] = [Mains(round(truth.mains * weigher.sheet.plate.mains_volts))]
    if not looks:
        evidence += [Cannot(Looked(look, ""), "") for look in weigher.behaviour.looks]
        evidence += [Cannot(Measured(zone.id, 0.0), "") for zone in weigher.sheet.compartments]
    return evidence


def _worked(
    weigher: Weigher, truth: Truth, evidence: list[Evidence], by: tuple[Policy, np.random.Generator, int]
) -> tuple[Judgement, int, float]:
    """Test by test until something is named, nothing more tells, or it takes too long."""
    policy, rng, most = by
    minutes, tests, judgement = 0.0, 0, Judgement(weigher, evidence)
    while tests < most and (proposal := policy(judgement, rng)):
        evidence.append(truth.answer(proposal.test))
        minutes, tests = minutes + proposal.minutes, tests + 1
        judgement = Judgement(weigher, evidence)
    return judgement, tests, minutes


def _ended(weigher: Weigher, place: int, judgement: Judgement, tests: int, minutes: float) -> Ended:
    known, first = weigher.known, judgement.suspects[0]
    group = judgement.group or judgement.suspects[:GROUP]
    named = (judgement.named.unit,) if judgement.named else tuple(each.unit for each in group)
    boards, item = {board.component for board in weigher.sheet.boards}, known.all[place]
    return Ended(
        item.id,
        item.unit,
        named,
        first.unit,
        first.probability,
        tests,
        minutes,
        item.prior,
        intermittent=bool(known.comes_and_goes[place]),
        board=bool(set(named) & boards),
    )
