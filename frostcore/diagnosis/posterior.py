"""How likely each hypothesis is after all that is known, and what each piece of evidence has done to that.

The newest reading at the same points in the same setup counts, and a repeat counts once. A part fitted parts
the evidence: what came before is of the unit as it was, what comes after of one in which faults of that part
are gone.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

from frostcore.circuit.meter import MeterRange
from frostcore.diagnosis.evidence import (
    AtPlug,
    Changed,
    Drawn,
    Evidence,
    Fitted,
    Looked,
    Mains,
    Measured,
    Ran,
    Read,
    Said,
    Sensed,
    Shown,
    Turned,
)
from frostcore.diagnosis.hypotheses import Floats
from frostcore.diagnosis.weigh import Weigher
from frostcore.tape.noticed import BY_HAND

Places = npt.NDArray[np.intp]
"""Hypotheses by their places."""

LN2 = float(np.log(2))

SECOND = 0.05
"""How often a unit has a second fault beside the one that has been mended."""


def joint_of(prior: Floats, logs: Sequence[Floats], draws: int) -> Floats:
    """Ln P(draw, hypothesis), normalised, of a prior and what each entry said (draws × hypotheses each)."""
    found = np.log(prior)[None, :] - np.log(draws) + sum(logs, np.zeros((draws, 1)))
    most = found.max()
    return np.asarray(found - (most + np.log(np.exp(found - most).sum())))


@dataclass(frozen=True)
class Posterior:
    """Probabilities of the hypotheses with what led to them: the evidence that counts (its places in the
    list), and what each said (draws × hypotheses)."""

    weigher: Weigher
    counted: tuple[int, ...]
    logs: tuple[Floats, ...]
    fitted: tuple[str, ...]
    """Parts fitted on this call."""

    after: tuple[int, ...] = ()
    """Which of the logs are of the unit with them in."""

    @cached_property
    def joint(self) -> Floats:
        """Ln of draws × hypotheses, normalised."""
        return self._without(None)

    def _without(self, strike: int | None) -> Floats:
        logs = [log for number, log in enumerate(self.logs) if number != strike]
        return joint_of(self.weigher.prior, logs, max(self.weigher.readings.draws, 1))

    @cached_property
    def by_draw(self) -> Floats:
        """P(draw, hypothesis)."""
        return np.asarray(np.exp(self.joint))

    @cached_property
    def chances(self) -> Floats:
        """P(hypothesis) of the unit as it came."""
        return np.asarray(self.by_draw.sum(axis=0))

    @cached_property
    def left(self) -> Places:
        """What each hypothesis has become with the parts fitted on this call."""
        return left(self.weigher, self.fitted)

    @cached_property
    def mended(self) -> np.ndarray:
        """Which faults a part fitted on this call has mended."""
        return np.asarray((self.left == 0) & (np.arange(len(self.left)) > 0))

    @cached_property
    def now(self) -> Floats:
        """P(hypothesis) of the unit as it stands: what a part fitted has mended is well, or has another fault
        beside it that what was read since tells."""
        if not self.fitted:
            return np.asarray(self.chances)
        found = np.bincount(self.left, np.where(self.mended, 0.0, self.chances), len(self.left))
        cured = float(self.chances[self.mended].sum())
        since = sum((self.logs[number] for number in self.after), np.zeros((1, 1)))
        likely = np.exp(since - since[:, :1]).mean(axis=0) * np.exp(self._left_by(self.mended))
        weights = np.where(self.mended, 0.0, self.weigher.prior * likely)
        weights[0] = 0.0
        second = SECOND * weights / self.weigher.prior[1:].sum()
        whole = 1.0 + float(second.sum())
        found += cured * second / whole
        found[0] += cured / whole
        return np.asarray(found / found.sum())

    def _left_by(self, mended: np.ndarray) -> Floats:
        """How much better what was known before the mending is explained with each hypothesis beside the
        likeliest of the faults that were mended than by that fault alone, in ln."""
        if not (self.chances[mended] > 0).any():
            return np.zeros(len(self.chances))
        first = int(np.argmax(np.where(mended, self.chances, -1.0)))
        logs = [log for number, log in enumerate(self.logs) if number not in self.after]
        return beside(logs, first)

    @cached_property
    def units(self) -> Floats:
        """P(repair unit) of the unit as it stands."""
        known = self.weigher.known
        return np.asarray(np.bincount(known.unit, self.now, len(known.units)), float)

    def bits(self, unit: int) -> dict[int, float]:
        """What each piece of evidence has done to a repair unit's odds, in bits towards it: those with it
        against those without it."""
        return {at: float(self._moved[number, unit]) for number, at in enumerate(self.counted)}

    def steps(self, unit: int) -> dict[int, float]:
        """What each piece of evidence did to a repair unit's odds when it came, in bits towards it; two that
        say the same each have their step here, though neither would be missed (:meth:`bits`)."""
        return {at: float(self._stepped[number, unit]) for number, at in enumerate(self.counted)}

    @cached_property
    def _stepped(self) -> Floats:
        """Evidence × units, in bits, in the order it came."""
        found = np.log(self.weigher.prior)[None, :] + np.zeros((max(self.weigher.readings.draws, 1), 1))
        odds = [self._odds_of(found)]
        for log in self.logs:
            found = found + log
            odds.append(self._odds_of(found))
        return np.diff(np.array(odds), axis=0) / LN2

    @cached_property
    def _moved(self) -> Floats:
        """Evidence × units, in bits."""
        whole = self._odds(None)
        rows = [whole - self._odds(number) for number in range(len(self.counted))]
        return np.array(rows).reshape(len(self.counted), len(whole)) / LN2

    def _odds(self, strike: int | None) -> Floats:
        """Ln odds of every unit."""
        return self._odds_of(self.joint if strike is None else self._without(strike))

    def _odds_of(self, joint: Floats) -> Floats:
        """Ln odds of every unit by a ln joint of draws × hypotheses, normalised or not."""
        known = self.weigher.known
        chances = np.exp(joint - joint.max()).sum(axis=0)
        chances = chances / chances.sum()
        units = np.bincount(known.unit, chances, len(known.units))
        tiny = np.finfo(float).tiny
        return np.asarray(np.log(units + tiny) - np.log(np.maximum(units.sum() - units, 1e-15) + tiny))


def beside(logs: Sequence[Floats], first: int) -> Floats:
    """Ln P(evidence | two faults) − ln P(evidence | the first alone), for each as the second.

    Of two faults together an entry says what each alone makes of it against a sound unit: where one does
    nothing to it, what the other does; at best what the better of the two explains.
    """
    found = np.zeros(logs[0].shape[1] if logs else 1)
    for log in logs:
        mean = np.log(np.exp(log).mean(axis=0))
        together = mean[first] + mean - mean[0]
        found = found + np.minimum(together, np.maximum(mean, mean[first])) - mean[first]
    return np.asarray(found)


def left(weigher: Weigher, fitted: Sequence[str]) -> Places:
    """What each hypothesis is with these parts fitted: the unit that is well where its part is among them;
    of two parts that failed together what the other one leaves; else itself."""
    known, new = weigher.known, set(fitted)
    found = np.arange(len(known))
    for place, item in enumerate(known.all):
        if item.fault is None or not {item.component, item.unit, item.fault.also} & new:
            continue
        alone = dict(item.fault.alone)
        rest = [alone[part] for part in alone if part in new]
        # What the other one leaves, where it is a fault by itself; else all of it happens again.
        found[place] = known.place.get(rest[0], place) if len(rest) == 1 else 0
    return found


def posterior(weigher: Weigher, evidence: Sequence[Evidence], strike: int | None = None) -> Posterior:
    """The posterior of all the evidence, or with one of its entries struck."""
    mains = next((item.volts for item in reversed(evidence) if isinstance(item, Mains)), None)
    newest = {
        _key(item, _fits(evidence, number)): number
        for number, item in enumerate(evidence)
        if number != strike
    }
    counted, logs = list[int](), list[Floats]()
    fitted, after = list[str](), list[int]()
    became: Places | None = None
    for number, item in enumerate(evidence):
        if number == strike:
            continue
        counts = newest[_key(item, _fits(evidence, number))] == number
        log = None
        if counts and not _overruled(item, evidence, strike):
            newer = _newer(weigher, evidence, number, strike)
            log = weigher.log_given(item, newer, mains) if newer else weigher.log(item, mains)
        if log is not None:
            counted.append(number)
            if fitted:
                after.append(len(logs))
            # With a part fitted its faults show as what they have become.
            logs.append(log if became is None else log[:, became])
        if isinstance(item, Fitted) and not item.before:
            fitted.append(item.component)
            became = left(weigher, fitted)
    return Posterior(weigher, tuple(counted), tuple(logs), tuple(fitted), tuple(after))


def _fits(evidence: Sequence[Evidence], number: int) -> int:
    """How many parts had been fitted before an entry."""
    return sum(isinstance(item, Fitted) and not item.before for item in evidence[:number])


def _newer(
    weigher: Weigher, evidence: Sequence[Evidence], number: int, strike: int | None
) -> Evidence | None:
    """The next entry that reads the same two points, or the plug, in another setup; else the next that errs
    together with it."""
    item, fits = evidence[number], _fits(evidence, number)
    for place in range(number + 1, len(evidence)):
        other = evidence[place]
        if place != strike and same_thing(item, other) and _fits(evidence, place) == fits:
            return other
    for place in range(number + 1, len(evidence)):
        other = evidence[place]
        if (
            place != strike
            and isinstance(item, Read)
            and isinstance(other, Read)
            and set(item.probe.pair) != set(other.probe.pair)
            and item.probe.setup.meter.dimension is other.probe.setup.meter.dimension
            and weigher.kin(item.probe, other.probe)
            and _fits(evidence, place) == fits
        ):
            return other
    return None


def same_thing(item: Evidence, other: Evidence) -> bool:
    """Whether two entries are of the same two points by the same kind of meter, or both of the plug."""
    if isinstance(item, Read) and isinstance(other, Read):
        return (
            set(item.probe.pair) == set(other.probe.pair)
            and item.probe.setup.meter.dimension is other.probe.setup.meter.dimension
            and (item.probe.setup.meter is MeterRange.VDC) == (other.probe.setup.meter is MeterRange.VDC)
            and item.probe.setup != other.probe.setup
        )
    return isinstance(item, AtPlug) and isinstance(other, AtPlug) and item.mode != other.mode


def _key(item: Evidence, fits: int) -> object:
    """What two entries share of which the newer counts alone."""
    match item:
        case Read(probe=probe):
            return ("read", probe.setup, frozenset(probe.pair), fits)
        case Changed(how=how, probe=probe):
            return ("changed", how, probe.setup, frozenset(probe.pair), fits)
        case Looked(look=of) | Said(complaint=of) | Measured(place=of) | AtPlug(mode=of) | Turned(fan=of):
            return (type(item), of, fits)
        case Shown() | Ran():
            return (type(item), fits)
        case Drawn(mode=mode):
            return ("amperes", mode, fits)
        case Sensed(component=component, what=what):
            by_hand = what if what not in BY_HAND else "by hand"
            return ("felt", component, by_hand, fits)
        case Mains():
            return ("mains",)
    return item


def _overruled(item: Evidence, evidence: Sequence[Evidence], strike: int | None) -> bool:
    """The display's look says less than the code it shows, and nothing beside it."""
    return (
        isinstance(item, Looked)
        and item.look == "display"
        and item.answer in {"code", "normal"}
        and any(isinstance(other, Shown) and number != strike for number, other in enumerate(evidence))
    )
