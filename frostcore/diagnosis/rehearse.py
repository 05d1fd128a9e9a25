"""The judgement rehearsed: units with known faults, diagnosed test by test, and what came of it.

The truth is a unit of its own: other draws of its parts, another seed, its mains off by some per cent, a
meter with its own error, now and then a slip. What a first look shows is drawn from the same causal table
the judgement uses, for there is no other; figures without looks stand beside.
"""

import math
from collections.abc import Callable, Iterable, Sequence
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
    Sensed,
    Shown,
    Turned,
)
from frostcore.diagnosis.hypotheses import Floats
from frostcore.diagnosis.judge import GROUP, Judgement
from frostcore.diagnosis.likelihood import dead_short
from frostcore.diagnosis.outcomes import Test
from frostcore.diagnosis.planner import Proposal
from frostcore.diagnosis.probes import Probe
from frostcore.diagnosis.readings import Readings
from frostcore.diagnosis.state import to_open
from frostcore.diagnosis.weigh import COLDER, RIGHT_KELVIN, WARMER, Weigher, setting, weigher_of
from frostcore.quantity import Quantity
from frostcore.quantity import State as Kind
from frostcore.sheet.model import Sheet
from frostcore.tape.looks import look as look_named
from frostcore.tape.noticed import BY_HAND
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
    the probability stated of it, tests made and how many of them with a meter, minutes, how likely somebody
    notices such a fault at all."""

    fault: str
    unit: str
    named: tuple[str, ...]
    first: str
    stated: float
    tests: int
    readings: int
    minutes: float
    weight: float
    noticed: float
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
    """A unit with one fault, or two at once, and a repairer with a meter."""

    def __init__(
        self, weigher: Weigher, truth: Readings, places: Sequence[int], rng: np.random.Generator
    ) -> None:
        self._weigher, self._truth, self.places, self._rng = weigher, truth, tuple(places), rng
        self._draw = int(rng.integers(max(truth.draws, 1)))
        self.mains = float(rng.normal(1.0, 0.03))

    def answer(self, test: Test) -> Evidence:
        """What the test shows."""
        behaviour = self._weigher.behaviour
        match test:
            case Probe():
                return Read(test, self._reading(test))
            case Looked(look=look):
                seen = self._mixed(behaviour.looks[look], MISTAKEN)
                chances = (1 - SLIPS) * seen + SLIPS / len(seen)
                at = int(self._rng.choice(len(chances), p=chances))
                answer = look_named(look).answers[at].id
                return self._code() if answer == "code" else Looked(look, answer)
            case Said():
                names = list(behaviour.complaints)
                chances = np.mean(
                    [np.array(list(behaviour.complaints.values()))[:, at] for at in self.places], 0
                )
                return Said(names[int(self._rng.choice(len(names), p=chances / chances.sum()))])
            case Measured(place=place):
                return Measured(place, self._temperature(place))
            case Turned(fan=fan):
                nominal = self._weigher.sheet.component(fan).nominal
                full = (nominal.rpm or 0.0) * (nominal.pulses_per_revolution or 0.0) / 60
                share = min(float(behaviour.hertz[fan][at]) for at in self._there())
                return Turned(fan, max(0.0, float(share * full * self._rng.normal(1.0, 0.04))))
            case Sensed(component=component):
                chances = np.array([np.exp(self._sensed(component, what)) for what in BY_HAND])
                at = int(self._rng.choice(len(BY_HAND), p=chances / chances.sum()))
                return Sensed(component, BY_HAND[at])
            case Changed(how=how, probe=probe):
                return Changed(how, probe, self._changes(test))
        watts = behaviour.watts[test.mode]
        taken = float(watts[0] + sum(watts[at] - watts[0] for at in self._there()))
        shown = taken * self.mains**2 * self._rng.normal(1.0, 0.04) + self._rng.normal(0, 0.5)
        return AtPlug(test.mode, max(0.0, float(shown)))

    def _mixed(self, table: Floats, mistaken: float) -> Floats:
        """What there is to see of a table (answers × hypotheses): of two faults what each makes of a sound
        unit."""
        seen = np.maximum(table - mistaken / len(table), 0.0)
        found = seen[:, self.places[0]]
        for at in self.places[1:]:
            found = (found + HARDLY) * (seen[:, at] + HARDLY) / (seen[:, 0] + HARDLY)
        return np.asarray(found / found.sum()) if found.sum() > 0 else seen[:, self.places[0]]

    def _either(self, chance: Floats) -> float:
        """That one fault or the other brings something about."""
        return float(1 - np.prod([1 - chance[at] for at in self.places]))

    def _code(self) -> Evidence:
        """The code the display shows, typed at once."""
        codes = self._weigher.behaviour.codes
        chances = np.array([self._either(chance) for chance in codes.values()])
        if not len(chances) or chances.sum() <= 0:
            return Looked("display", "code")
        return Shown(list(codes)[int(self._rng.choice(len(chances), p=chances / chances.sum()))])

    def _changes(self, test: Changed) -> bool:
        log = self._weigher.log(replace(test, changes=True))
        return log is not None and bool(self._rng.random() < self._either(np.exp(log).mean(axis=0)))

    def _sensed(self, component: str, what: str) -> float:
        """Ln P(a part is felt to be so), of two faults by the one that says so most."""
        log = self._weigher.log(Sensed(component, what))
        return float(max(log[:, at].mean() for at in self.places)) if log is not None else 0.0

    def _there(self) -> tuple[int, ...]:
        """The faults that are there just now: what comes and goes is half the time."""
        goes = self._weigher.known.comes_and_goes
        found = tuple(at for at in self.places if not goes[at] or self._rng.random() < HALF)
        return found or (0,)

    def _values(self, probe: Probe, places: tuple[int, ...]) -> tuple[float, float]:
        """What a unit with these faults shows, and a sound one of the same parts."""
        values = self._truth.of(probe)
        row = values[min(self._draw, len(values) - 1)]
        if len(places) == 1:
            return float(row[places[0]]), float(row[0])
        return self._truth.together(probe, places, self._draw), float(row[0])

    def _reading(self, probe: Probe) -> Quantity:
        meter, places = probe.setup.meter, self._there()
        value, sound = self._values(probe, places)
        if meter.live and any(self._truth.never_settles(probe.setup.mode)[at] for at in places):
            # Its reader sees it up, down, or on the way.
            way = float(self._rng.uniform(0.0, 1.0))
            value = float(self._rng.choice([sound, value, value + way * (sound - value)], p=PULSES))
        if self._rng.random() < SLIPS:
            value = float(self._rng.choice([0.0, math.inf if meter is MeterRange.OHM else 0.0]))
        if not self._truth.firm(probe) and not dead_short(np.array([[sound, value]]))[0, 1]:
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
        behaviour = self._weigher.behaviour
        if place == ROOM:
            odd = self._either(behaviour.state("room")) > self._rng.random()
            return 36.0 if odd else float(self._rng.normal(21, 3))
        zone = behaviour.zone(place)
        warm, cold = self._either(zone["warm"]), self._either(zone["cold"])
        chances = np.array([warm, max(0.0, 1 - warm - cold), cold])
        at = int(self._rng.choice(3, p=chances / chances.sum()))
        mean, sigma = (WARMER, (0.0, RIGHT_KELVIN), COLDER)[at]
        return (setting(self._weigher.sheet, place) or 0.0) + float(self._rng.normal(mean, sigma))


HALF, HARDLY = 0.5, 0.01
"""What comes and goes is there half the time; what a fault is not seen to do is hardly seen."""


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
    truth, found = truth_of(sheet), Rehearsal()
    for number, place in enumerate(places):
        rng = np.random.default_rng([seed, place, number])
        unit = Truth(weigher, truth, (place,), rng)
        came = worked(weigher, unit, begun(weigher, unit, looks=looks), (POLICIES[policy], rng, most))
        found.ended.append(_ended(weigher, place, *came))
    return found


def truth_of(sheet: Sheet) -> Readings:
    """The units that are diagnosed: other draws than the judgement's."""
    kept = circuits_of(sheet).kept
    if "truth" not in kept:
        kept["truth"] = Readings(sheet, TRUTH_SEED)
        kept["truth"].prepare(TRUTHS)
    found: Readings = kept["truth"]
    return found


def begun(weigher: Weigher, truth: Truth, *, looks: bool) -> list[Evidence]:
    """What is known before the first test: the mains; without looks, that there are none."""
    evidence: list[Evidence] = [Mains(round(truth.mains * weigher.sheet.plate.mains_volts))]
    if not looks:
        evidence += [Cannot(Looked(look, ""), "") for look in weigher.behaviour.looks]
        evidence += [Cannot(Measured(zone.id, 0.0), "") for zone in weigher.sheet.compartments]
    return evidence


def worked(
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
        sum(isinstance(each, Read) for each in judgement.evidence),
        minutes,
        item.prior,
        float(weigher.behaviour.noticed[place]),
        intermittent=bool(known.comes_and_goes[place]),
        board=bool(set(named) & boards),
    )
