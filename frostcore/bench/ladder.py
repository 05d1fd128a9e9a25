"""The ladder: one picture of a board from mains to rails, each stage a rung with what to read there, where it
should be, what was read, and the first rung that fails."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from frostcore.bench.judge import BenchJudgement
from frostcore.bench.probes import BenchProbe, leads
from frostcore.bench.ranges import BenchRange
from frostcore.bench.typed import shown_value
from frostcore.bench.weigh import BenchReading
from frostcore.diagnosis.step import percent
from frostcore.verdict import Band, Verdict

UNREAD, GOOD_RUNG, BAD_RUNG, FIRST_BAD = "unread", "good", "bad", "first_bad"
"""How a rung stands."""

RUNG_WORDS = {
    UNREAD: "not read yet",
    GOOD_RUNG: "as it should be",
    BAD_RUNG: "off too",
    FIRST_BAD: "the first that fails",
}

SAID_FROM = 0.005
"""A rung’s chance is said from here on."""


@dataclass(frozen=True)
class RungReading:
    """A reading of a rung: the probe, what a sound board shows, what was read and where that stands."""

    probe: BenchProbe
    expected: str
    shown: str
    verdict: Verdict | None
    wanted: bool
    leads: str = ""
    """Where the leads go, where its name does not say it."""

    @property
    def answers(self) -> dict[str, str]:
        """The answers there are, where it is no figure."""
        return self.probe.range.answers


@dataclass(frozen=True)
class Rung:
    """A stage of the chain: how it stands, how likely the fault is here, its readings."""

    id: str
    name: str
    side: str
    state: str
    chance: float
    readings: tuple[RungReading, ...]

    @property
    def wanted(self) -> RungReading | None:
        """The reading to take now, where it is one of this rung."""
        return next((each for each in self.readings if each.wanted), None)

    @property
    def read(self) -> tuple[RungReading, ...]:
        """What has been read here."""
        return tuple(each for each in self.readings if each.shown)

    @property
    def unread(self) -> tuple[RungReading, ...]:
        """What has not."""
        return tuple(each for each in self.readings if not each.shown)

    @property
    def percent(self) -> str:
        """How likely the fault is here, in words; empty where it hardly is."""
        return percent(self.chance) if self.chance >= SAID_FROM else ""

    @property
    def word(self) -> str:
        """How it stands, in words."""
        return RUNG_WORDS[self.state]


class Ladder:
    """A board's judgement as rungs and sentences."""

    def __init__(self, judgement: BenchJudgement) -> None:
        self.judgement, self.table = judgement, judgement.table
        self.supply = judgement.supply
        self._shown = {each.probe: each for each in judgement.readings}

    @cached_property
    def asked(self) -> RungReading | None:
        """What is asked of the board as it was, before anything is read."""
        return next(
            (self._reading(probe) for probe in self.table.probes if probe.range is BenchRange.SAID), None
        )

    @cached_property
    def rungs(self) -> tuple[Rung, ...]:
        """The stages from mains to rails."""
        stages, found, failed = self.judgement.stages, list[Rung](), False
        for stage in self.supply.stages:
            mine = [
                self._reading(probe)
                for probe in self.table.probes
                if probe.stage == stage.id and probe.range is not BenchRange.SAID
            ]
            verdicts = [each.verdict for each in mine if each.verdict]
            bad = any(each is not Verdict.IN_BAND and each is not Verdict.UNCLEAR for each in verdicts)
            state = (BAD_RUNG if failed else FIRST_BAD) if bad else GOOD_RUNG if verdicts else UNREAD
            failed = failed or bad
            found.append(Rung(stage.id, stage.name, stage.side, state, stages[stage.id], tuple(mine)))
        return tuple(found)

    @property
    def first_bad(self) -> Rung | None:
        """The first rung that fails."""
        return next((rung for rung in self.rungs if rung.state == FIRST_BAD), None)

    def _reading(self, probe: BenchProbe) -> RungReading:
        following = self.judgement.next
        wanted = following is not None and following.probe.id == probe.id
        taken = self._shown.get(probe.id)
        row = self.table.row[probe.id]
        if row in self.table.answers:
            shown = probe.range.answers[taken.answer] if taken else ""
            verdict = None
            if taken and probe.range is not BenchRange.SAID:
                verdict = Verdict.IN_BAND if taken.answer == probe.range.row.clears else Verdict.UNCLEAR
            return RungReading(probe, "", shown, verdict, wanted)
        shown = shown_value(probe.range, taken.value) if taken else ""
        told = self.expected(probe), shown, self.verdict(probe, taken)
        return RungReading(probe, *told, wanted, leads(self.supply, probe))

    def band(self, probe: BenchProbe) -> Band | None:
        """Where a sound board's reading lies; None where it is OL or electronics' doing."""
        row, weigher = self.table.row[probe.id], self.judgement.weigher
        values = self.table.values[:, row, 0]
        if not np.isfinite(values).all() or weigher.spoilt(row)[:, 0].any():
            return None
        values = weigher.foretold(row)[:, 0] * probe.range.row.unit
        share, floor = probe.range.row.share, probe.range.row.floor
        low, high = float(values.min()), float(values.max())
        wide = MORE * (high - low) / 2
        share += ROUNDED
        return Band(
            max(0.0, low * (1 - share) - floor - wide),
            float(np.median(values)),
            high * (1 + share) + floor + wide,
        )

    def expected(self, probe: BenchProbe) -> str:
        """What a sound board shows there, in words."""
        row = self.table.row[probe.id]
        if np.isinf(self.table.values[:, row, 0]).all():
            return "OL"
        band = self.band(probe)
        if band is None:
            return "no dead short"
        low, high = (shown_value(probe.range, each) for each in (band.low, band.high))
        if band.low <= 0:
            return f"under {high}"
        return f"{low} to {high}"

    def verdict(self, probe: BenchProbe, taken: BenchReading | None) -> Verdict | None:
        """Where a reading stands against a sound board's; None where nothing was read."""
        if taken is None:
            return None
        row, value = self.table.row[probe.id], taken.value
        band = self.band(probe)
        if band is None:
            opened = bool(np.isinf(self.table.values[:, row, 0]).all())
            if value is not None and value < probe.range.row.short:
                return Verdict.SHORT
            return Verdict.IN_BAND if value is None or not opened else Verdict.LOW
        if value is None:
            return Verdict.OPEN
        return band.verdict(value)


ROUNDED = 0.005
"""What rounding to three figures may move a limit by."""

MORE = 0.5
"""Good boards stray beyond the few that were drawn by this share of what those differ by, either way."""
