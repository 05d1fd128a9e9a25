"""A blink rhythm from taps: short and long, the pause between groups, the repeating pattern.

A tap is a start in seconds and, where it was held as long as the lamp was lit, an end. The pauses between
taps fall into classes (within a group, between groups, between repeats); the split into classes that
describes the taps most briefly wins: tight classes, few of them, and repeats that agree. The pattern is
what most repeats say, so one missed or doubled tap among several repeats does no harm.
"""

import math
import statistics
from collections import Counter
from dataclasses import dataclass
from itertools import pairwise

from frostcore.errors import FrostError

DOUBLE_SECONDS = 0.09
CLASS_WIDTH = 0.16
"""Usual spread of a pause, as ln: a tenth of jitter at either end."""

OUTLIER_COST = 9.0
CLASS_COST = 3.0
DISSENT_COST = 3.0
GROUP_COST = 3.5
"""Each group of the pattern has to be told too: three groups seen once are likelier one group seen three
times."""

LONG_RATIO = 1.7
"""A long blink is at least so many times as long as a short one."""

ALL_LONG_SECONDS = 0.55
"""Blinks all of one length are long from here on."""

DOUBLE_SHARE = 0.4
"""A tap sooner than this share of the usual time is a bounce."""

PAUSE_RATIO = 1.25
"""Two pauses nearer than this are of one class."""

LEAST_DARK = 0.02
"""Seconds; a tap that ends after the next began was held a little long."""

SHORT_LIT, LONG_LIT, DARK, GROUP_PAUSE, REPEAT_PAUSE = 0.25, 0.8, 0.3, 0.9, 2.0
"""Seconds of the replay."""


@dataclass(frozen=True)
class Tap:
    """One tap: start and end in seconds; without an end only the start is known."""

    start: float
    end: float | None = None


@dataclass(frozen=True)
class Rhythm:
    """The pattern found: groups written with s, l, or ?

    where short and long can't be told; how many repeats, how many agree.
    """

    groups: tuple[str, ...]
    repeats: int
    agreeing: int
    text: str

    @property
    def typed(self) -> str:
        """The pattern as a repairer would type it."""
        if any("?" in group for group in self.groups):
            return "-".join(str(len(group)) for group in self.groups)
        return " ".join(self.groups)

    def replay(self) -> tuple[tuple[float, float], ...]:
        """(on, off) times in seconds of one repeat; the last off is followed by REPEAT_PAUSE."""
        times, now = [], 0.0
        for group in self.groups:
            for letter in group:
                lit = LONG_LIT if letter == "l" else SHORT_LIT
                times.append((round(now, 3), round(now + lit, 3)))
                now += lit + DARK
            now += GROUP_PAUSE - DARK
        return tuple(times)


def read_taps(text: str) -> tuple[Tap, ...]:
    """Taps from text: seconds with commas between, each a start or start-end: ``0.0,0.4`` or
    ``0.0-0.2,0.4-1.2``."""
    taps = []
    for part in text.replace(";", ",").split(","):
        start, _, end = part.strip().partition("-")
        try:
            taps.append(Tap(float(start), float(end) if end else None))
        except ValueError:
            message = (
                f"“{part.strip()}” is no tap; write seconds with commas between, such as 0.0,0.4,0.8 or held"
                " taps as 0.0-0.2."
            )
            raise FrostError(message) from None
    return tuple(taps)


def find_rhythm(taps: tuple[Tap, ...]) -> Rhythm:
    """The repeating pattern of the taps.

    Raises FrostError for taps that go back in time, are not numbers, or are none.
    """
    starts = [tap.start for tap in taps]
    times = [time for tap in taps for time in (tap.start, tap.end) if time is not None]
    if not taps or not all(map(math.isfinite, times)) or starts != sorted(starts):
        message = (
            "No rhythm in that: tap along with the lamp, at least one whole repeat, times rising from the"
            " first tap."
        )
        raise FrostError(message)
    taps = _without_doubles(taps)
    letters = _letters(taps)
    # Where the lamp's own length is known, the dark between two blinks is what tells a pause; a long blink
    # is none.
    held = "?" not in letters
    gaps = [max(after.start - _dark_from(before, held=held), LEAST_DARK) for before, after in pairwise(taps)]
    best = min(_readings(letters, gaps), key=lambda reading: reading[0])
    repeats = best[1]
    groups, agreeing = _vote(repeats)
    count = "once" if len(repeats) == 1 else f"{len(repeats)} times"
    text = (
        f"Tapped {count}; {agreeing} of {len(repeats)} agree."
        if len(repeats) > 1
        else "Tapped once: tap three repeats to be sure."
    )
    return Rhythm(groups, len(repeats), agreeing, text)


def _without_doubles(taps: tuple[Tap, ...]) -> tuple[Tap, ...]:
    """Taps without bounces: a start too soon after the one before is the same tap."""
    gaps = sorted(after.start - before.start for before, after in pairwise(taps))
    usual = statistics.median(gaps[: max(1, (len(gaps) + 1) // 2)]) if gaps else 1.0
    kept = [taps[0]]
    for tap in taps[1:]:
        if tap.start - kept[-1].start > max(DOUBLE_SECONDS, DOUBLE_SHARE * usual):
            kept.append(tap)
    return tuple(kept)


def _dark_from(tap: Tap, *, held: bool) -> float:
    """When the dark after a tap begins: at its end where it was held, else at its start."""
    return tap.end if held and tap.end is not None else tap.start


def _letters(taps: tuple[Tap, ...]) -> str:
    """Short or long of each tap where all were held, split at the widest step between lengths; ?

    where they were not.
    """
    lengths = [tap.end - tap.start for tap in taps if tap.end is not None and tap.end > tap.start]
    if len(lengths) < len(taps):
        return "?" * len(taps)
    ordered = sorted(lengths)
    step, limit = max(
        ((after / before, math.sqrt(after * before)) for before, after in pairwise(ordered)),
        default=(1.0, 0.0),
    )
    if step < LONG_RATIO and ordered[-1] / ordered[0] < 2 * LONG_RATIO:
        limit = 0.0 if statistics.median(lengths) > ALL_LONG_SECONDS else math.inf
    return "".join("l" if length > limit else "s" for length in lengths)


Repeats = list[tuple[str, ...]]


def _readings(letters: str, gaps: list[float]) -> list[tuple[float, Repeats]]:
    """(cost, repeats) of every way to split the gaps into up to three classes."""
    ordered = sorted(gaps)
    steps = [(before, after) for before, after in pairwise(ordered) if after / before > PAUSE_RATIO]
    limits = [math.sqrt(before * after) for before, after in steps]
    splits: list[tuple[float, float]] = [(math.inf, math.inf)]
    splits += [(limit, limit) for limit in limits]
    splits += [(low, high) for index, low in enumerate(limits) for high in limits[index + 1 :]]
    # One pause between groups and none between repeats: a pattern seen once.
    splits += [(limit, math.inf) for limit in limits]
    return [(_cost(letters, gaps, split), _split(letters, gaps, split)) for split in splits]


def _split(letters: str, gaps: list[float], limits: tuple[float, float]) -> Repeats:
    repeats: list[list[str]] = [[letters[0]]]
    for letter, gap in zip(letters[1:], gaps, strict=True):
        if gap > limits[1]:
            repeats.append([letter])
        elif gap > limits[0]:
            repeats[-1].append(letter)
        else:
            repeats[-1][-1] += letter
    return [tuple(repeat) for repeat in repeats]


def _cost(letters: str, gaps: list[float], limits: tuple[float, float]) -> float:
    low, high = limits
    classes = [
        [gap for gap in gaps if gap <= low],
        [gap for gap in gaps if low < gap <= high],
        [gap for gap in gaps if gap > high],
    ]
    cost = 0.0
    for members in classes:
        if members:
            middle = statistics.median(members)
            width = CLASS_WIDTH if "?" in letters else 2 * CLASS_WIDTH
            cost += CLASS_COST + sum(
                min(OUTLIER_COST, (math.log(gap / middle) / width) ** 2) for gap in members
            )
    repeats = _split(letters, gaps, limits)
    pattern, agreeing = _vote(repeats)
    return cost + GROUP_COST * len(pattern) + DISSENT_COST * (len(repeats) - agreeing)


def _vote(repeats: Repeats) -> tuple[tuple[str, ...], int]:
    """The pattern most repeats say (the longer one at a tie), and how many say just that."""
    shapes = Counter(tuple(len(group) for group in repeat) for repeat in repeats)
    shape = max(shapes, key=lambda lengths: (shapes[lengths], sum(lengths)))
    fitting = [repeat for repeat in repeats if tuple(len(group) for group in repeat) == shape]
    groups = tuple(
        "".join(
            Counter(repeat[group][place] for repeat in fitting).most_common(1)[0][0]
            for place in range(length)
        )
        for group, length in enumerate(shape)
    )
    return groups, shapes[shape]
