"""How likely a reading on the bench is under each fault of the board, and what is suspected after several."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

from frostcore.bench.probes import BenchProbe
from frostcore.bench.ranges import BenchRange
from frostcore.bench.table import BenchTable
from frostcore.diagnosis.likelihood import KERNEL_SHARE, density, draws_differ, with_slips
from frostcore.diagnosis.posterior import joint_of

Floats = npt.NDArray[np.float64]

SPOILT_SHARE, SPOILT_WIDTH = 0.1, 0.8
"""Ohms that another meter finds this much otherwise are known to about a factor of two."""

MAINS_SHARE = 0.015
"""How far mains move between the reading at the outlet and the next."""

SWINGS_WIDTH = 0.5
"""A meter that swings shows anything within this on the scale."""

SPIKES_WIDTH = 0.3
"""Ripple of short pulses shows as another figure on another meter."""


@dataclass(frozen=True)
class BenchReading:
    """What was read at a probe: a value (None for OL), or of what is no figure the answer."""

    probe: str
    value: float | None = None
    answer: str = ""


class BenchWeigher:
    """Likelihoods from a table, with the mains as measured here."""

    def __init__(self, table: BenchTable, mains: float | None = None) -> None:
        self.table = table
        self.ratio = (mains or table.mains) / table.mains

    def foretold(self, row: int) -> Floats:
        """Draws × hypotheses of a probe, on its scale's unit; what follows the mains by those here, what
        another meter shows otherwise halfway between."""
        probe, found = self.table.probes[row], self.table.values[:, row]
        scaled = (found * self.ratio if self._follows(probe) else found) / probe.range.row.unit
        spoilt = self.spoilt(row)
        if spoilt.any():
            ends = [np.arcsinh(each) for each in (scaled, self.table.other[:, row] / probe.range.row.unit)]
            low = np.where(np.isinf(ends[0]), ends[1] + 1.0, (ends[0] + ends[1]) / 2)
            scaled = np.where(spoilt, np.sinh(low), scaled)
        return np.asarray(scaled)

    def spoilt(self, row: int) -> npt.NDArray[np.bool_]:
        """Where junctions or electronics make of ohms what they are (draws × hypotheses)."""
        values, other = self.table.values[:, row], self.table.other[:, row]
        with np.errstate(invalid="ignore"):
            apart = np.abs(values - other) > SPOILT_SHARE * values
        return np.asarray(apart & np.isfinite(other) | (np.isinf(values) & np.isfinite(other)))

    def _follows(self, probe: BenchProbe) -> bool:
        if probe.range is BenchRange.VAC:
            return True
        supply = self.table.supply
        limited = {each.rectifier for each in supply.droppers}
        buses = {each.plus for each in supply.rectifiers if each.id not in limited}
        return probe.range is BenchRange.VDC and probe.red in buses

    def widths(self, row: int) -> Floats:
        """How far a reading may lie from what is foretold, on the scale."""
        probe, foretold = self.table.probes[row], self.foretold(row)
        own_row = probe.range.row
        finite = np.where(np.isfinite(foretold), foretold, 0.0)
        slope = 1 / np.sqrt(1 + finite**2)
        share = own_row.share + (MAINS_SHARE if self._follows(probe) else 0.0)
        own = slope * (share * np.abs(finite) + own_row.floor / own_row.unit) / 2
        scaled = np.where(np.isfinite(foretold), np.arcsinh(finite), np.nan)
        found = np.sqrt(own**2 + (KERNEL_SHARE * draws_differ(scaled, own)) ** 2)
        found = np.where(self.spoilt(row), np.maximum(found, SPOILT_WIDTH), found)
        if probe.range is BenchRange.VAC:
            ends = {each.plus for each in self.table.supply.rectifiers}
            found = np.where(probe.red in ends, np.maximum(found, SPIKES_WIDTH), found)
        return np.asarray(np.where(self.table.swings[:, row], np.maximum(found, SWINGS_WIDTH), found))

    def log(self, reading: BenchReading) -> Floats:
        """Ln P(reading | draw, hypothesis)."""
        row = self.table.row[reading.probe]
        probe = self.table.probes[row]
        if row in self.table.answers:
            given = list(probe.range.answers).index(reading.answer)
            return np.asarray(np.log(self.table.answers[row][given])[None, :])
        y = math.inf if reading.value is None else math.asinh(reading.value / probe.range.row.unit)
        foretold, width = self.foretold(row), self.widths(row)
        fits = density(foretold, width, y)
        # What is open but for a junction may as well show as open.
        either = self.spoilt(row) & np.isinf(self.table.values[:, row])
        fits = np.where(either, 0.5 if math.isinf(y) else 0.5 * fits, fits)
        sound = density(foretold[:, :1], width[:, :1], y).mean(axis=0, keepdims=True)
        fits = np.where(self.touched(row), fits, sound)
        goes = self.table.known.comes_and_goes
        fits = np.where(goes, 0.5 * fits + 0.5 * sound, fits)
        return with_slips(fits, float(sound[0, 0]), y)

    def touched(self, row: int) -> npt.NDArray[np.bool_]:
        """Which hypotheses make a reading another than a good board of the same parts shows."""
        foretold, width = self.foretold(row), self.widths(row)
        opened = ~np.isfinite(foretold)
        finite = np.arcsinh(np.where(opened, 0.0, foretold))
        apart = np.abs(finite - finite[:, :1]) > TOUCHED * width
        both = opened | opened[:, :1]
        return np.asarray(np.where(both, opened != opened[:, :1], apart).any(axis=0))


TOUCHED = 0.05
"""Two readings this share of a width apart are not the same."""


class BenchPosterior:
    """Probabilities after some readings; the newest at a probe counts."""

    def __init__(self, weigher: BenchWeigher, readings: Sequence[BenchReading]) -> None:
        self.weigher, self.readings = weigher, tuple({each.probe: each for each in readings}.values())
        self.logs = tuple(weigher.log(each) for each in self.readings)

    @cached_property
    def by_draw(self) -> Floats:
        """P(draw, hypothesis)."""
        table = self.weigher.table
        return np.asarray(np.exp(joint_of(table.known.prior, self.logs, len(table.values))))

    @cached_property
    def chances(self) -> Floats:
        """P(hypothesis)."""
        return np.asarray(self.by_draw.sum(axis=0))

    @cached_property
    def units(self) -> Floats:
        """P(what would be fitted)."""
        known = self.weigher.table.known
        return np.asarray(np.bincount(known.unit, self.chances, len(known.units)))
