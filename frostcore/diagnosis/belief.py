"""A posterior cut down to what still matters, and what a test would tell of it: the mutual information of
outcome and repair unit."""

import copy
from collections.abc import Iterator
from typing import Protocol

import numpy as np
import numpy.typing as npt

from frostcore.diagnosis.hypotheses import Floats
from frostcore.diagnosis.likelihood import SLIP
from frostcore.diagnosis.posterior import Posterior

AT_ONCE = 400_000
"""So many classes are counted at once; more are counted in one draw alone."""

LIKELY = 2e-4
"""Hypotheses less likely than this move no plan."""


class Known(Protocol):
    """Hypotheses: the repair unit of each by its place among the units, and which come and go."""

    unit: npt.NDArray[np.intp]
    units: tuple[str, ...]
    comes_and_goes: npt.NDArray[np.bool_]


class Belief:
    """A posterior cut down to the hypotheses that still matter."""

    def __init__(self, known: Known, now: Floats) -> None:
        """``now``: P(draw, hypothesis)."""
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

    @classmethod
    def of(cls, posterior: Posterior, only: npt.NDArray[np.bool_] | None = None) -> "Belief":
        """That of a posterior, or of some of its hypotheses."""
        now = posterior.by_draw if only is None else posterior.by_draw * only
        if posterior.fitted and only is None:  # the unit as it stands, whichever its good parts are
            now = np.broadcast_to(posterior.now / len(now), now.shape)
        return cls(posterior.weigher.known, now)

    def after(self, likelihoods: Floats) -> Iterator[tuple[float, "Belief"]]:
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
