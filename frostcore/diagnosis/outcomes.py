"""How tests may come out: the ways of each in words, and P(outcome | hypothesis) of every test of a sheet.

A reading's outcomes are classes of values that no meter and no two good parts could tell apart.
"""

from collections.abc import Sequence
from functools import cached_property

import numpy as np
import numpy.typing as npt

from frostcore.circuit.meter import DEAD_SHORT_OHMS, OPEN_OHMS, MeterRange, show
from frostcore.diagnosis.evidence import (
    AtPlug,
    Changed,
    Evidence,
    Looked,
    Measured,
    Read,
    Said,
    Sensed,
    Turned,
)
from frostcore.diagnosis.hypotheses import Floats
from frostcore.diagnosis.likelihood import dead_short, log_given, widths
from frostcore.diagnosis.posterior import same_thing
from frostcore.diagnosis.probes import Probe, candidates
from frostcore.diagnosis.state import (
    has_look,
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

Test = Probe | Said | Looked | Measured | AtPlug | Turned | Changed | Sensed
"""What can be tested; a look without its answer, a temperature or watts without their value, a harness moved
without what changed, a fan turned by hand without how it turned."""

TURNED_BY_HAND = frozenset({ComponentKind.FAN_AC, ComponentKind.FAN_DC})

UNTOLD = 0.0
NOTHING = Quantity(Dimension.RESISTANCE, 0.0)
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
        self.limits: list[list[float]] = []
        """Between the classes of each reading, in arcsinh of its unit."""
        self.count = np.ones(len(self.probes), int)
        self.pulses = np.array(
            [
                weigher.readings.never_settles(probe.setup.mode) & probe.setup.meter.live
                for probe in self.probes
            ]
        ).reshape(len(self.probes), len(known))
        """Which hypotheses a reading finds up or down by chance (tests × hypotheses)."""
        for number, probe in enumerate(self.probes):
            self.classes[number], texts, limits = self._classes(probe)
            self.texts.append(texts)
            self.limits.append(limits)
            self.count[number] = len(texts)

    def _classes(self, probe: Probe) -> tuple[npt.NDArray[np.int8], tuple[str, ...], list[float]]:
        """The classes of one reading's values: gaps no meter and no two good parts could bridge."""
        readings = self.weigher.readings
        foretold = readings.of(probe).astype(float)
        width = np.minimum(widths(readings, probe, foretold, None), 1.0)
        if not readings.firm(probe):
            found = np.where(dead_short(foretold), 0, 1).astype(np.int8)
            return found, ("a dead short", "anything else"), [float(np.arcsinh(DEAD_SHORT_OHMS))]
        found, limits = value_classes(foretold, width)
        opened, last = found == len(limits) + 1, len(limits) + 1
        texts = [self._text(probe, foretold[(found == number) & ~opened]) for number in range(last)]
        return found, (*texts, "OL"), limits

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
        return [name_of_test(test) for test in self.tests]

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
            once = log_given(self.weigher.readings, self.probes[row], NOTHING, (other, NOTHING))
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
            found[Measured(place.id, UNTOLD)] = (("too warm", "right", "too cold"), blur @ table)
        room = behaviour.state("room")
        found[Measured(ROOM, UNTOLD)] = (
            ("as rooms are", "far from it"),
            np.array([1 - 0.9 * room - 0.02 * (1 - room), 0.9 * room + 0.02 * (1 - room)]),
        )
        for mode, watts in behaviour.watts.items():
            found[AtPlug(mode, UNTOLD)] = _watt_classes(watts)
        for fan, share in behaviour.hertz.items():
            rows = [(share > 0.85), (share > 0) & (share <= 0.85), (share <= 0)]
            found[Turned(fan, UNTOLD)] = (("its rated", "too slow", "none"), np.array(rows, float))
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


def value_classes(foretold: Floats, width: Floats) -> tuple[npt.NDArray[np.int8], list[float]]:
    """The classes of a reading's values (draws × hypotheses, as are its widths on the scale of arcsinh), OL
    the last of them, and the limits between the others: gaps no meter and no two good parts could bridge."""
    opened = ~np.isfinite(foretold) | (foretold > OPEN_OHMS)
    y = np.where(opened, np.inf, np.arcsinh(np.where(opened, 0.0, foretold)))
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
    found[opened] = len(limits) + 1
    return found, limits


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


def name_of_test(test: Test | Evidence) -> object:
    """What a test and its evidence have in common."""
    match test:
        case Read(probe=probe) | Changed(probe=probe):
            return (
                (getattr(test, "how", ""), name_of_test(probe))
                if isinstance(test, Changed)
                else name_of_test(probe)
            )
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
