"""The agent's work: a row every so many seconds, on the disk, and sent."""

import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

from agent.config import Config
from agent.meter import Meter, MeterError
from agent.post import Post
from agent.spool import Spool


class Asked(Protocol):
    """What is asked for figures: a :class:`~agent.meter.Meter`."""

    def figure(self, query: str) -> float | None:
        """What a query is answered."""


@dataclass
class Loop:
    """Rows by a monotonic clock, so that none drifts: the n-th is due n intervals after the first."""

    config: Config
    meter: Asked
    post: Post
    say: Callable[[str], None] = print
    clock: Callable[[], float] = time.time
    monotonic: Callable[[], float] = time.monotonic
    sleep: Callable[[float], None] = time.sleep

    def run(self, most: int | None = None) -> int:
        """Read and send until the run ends (StoppedError) or so many rows are read; how many were."""
        begun, count = self.monotonic(), 0
        while most is None or count < most:
            self._row()
            count += 1
            self.post.send()
            if self.post.told:
                self.say(self.post.told)
            due = begun + count * self.config.every
            late = self.monotonic() - due
            if late > self.config.every:  # what was missed is missed; the next keeps to the rhythm
                begun += (late // self.config.every + 1) * self.config.every
                due = begun + count * self.config.every
            self.sleep(max(0.0, due - self.monotonic()))
        return count

    def _row(self) -> None:
        """A row, whatever of it can be read: a channel that does not answer is none, and said."""
        at, values = self.clock(), list[float | None]()
        for channel in self.config.channels:
            try:
                values.append(self.meter.figure(channel.query))
            except MeterError as error:
                values.append(None)
                self.say(f"{channel.head}: {error}")
        if any(value is not None for value in values):
            self.post.spool.add(at, tuple(values))


def loop_of(config: Config, meter: Meter, folder: Path) -> Loop:
    """The work a configuration asks for."""
    spool = Spool(folder / config.spool)
    heads = tuple(channel.head for channel in config.channels)
    first = spool.rows[0].seq if spool.rows else spool.next
    return Loop(config, meter, Post(config.feed, config.token, heads, spool, wanted=first))
