"""A display as it is seen: frames of lit segments, matched to the sheet's codes with dead and stuck
segments allowed for.

A frame is a tuple of digits, a digit the set of its lit segments (letters a to g). A segment dark in
every frame may be dead, one lit in every frame stuck; each such segment costs once, a segment that merely
disagrees costs in every frame.
"""

import re
from dataclasses import dataclass

from frostcore.display.segments import CHARACTERS, lit
from frostcore.errors import FrostError
from frostcore.sheet.model import Code, Sheet

Digit = frozenset[str]
Frame = tuple[Digit, ...]

DEAD_COST = 0.35
STUCK_COST = 0.5
WRONG_COST = 1.0
UNSEEN_FRAME_COST = 0.5
FOREIGN_FRAME_COST = 0.4
MOST_PER_DIGIT = 1.5
SEGMENTS = "abcdefg"


@dataclass(frozen=True)
class FrameMatch:
    """A code that may be what was seen.

    ``dead`` and ``stuck`` are (digit counted from 1, segment) the match needs.
    """

    code: Code
    distance: float
    dead: tuple[tuple[int, str], ...]
    stuck: tuple[tuple[int, str], ...]

    @property
    def exact(self) -> bool:
        """Whether the display showed just this code, every frame of it."""
        return self.distance == 0

    @property
    def display_suspect(self) -> str:
        """In words why the display itself is a suspect, or empty."""
        told = [
            f"segment {segment} of digit {digit} looks {state}"
            for state, found in (("dead", self.dead), ("stuck", self.stuck))
            for digit, segment in found
        ]
        return f"If this is the code, the display itself is a suspect: {', '.join(told)}." if told else ""


LONGEST = 400
"""Characters that all frames of one round are written with at most."""


def read_frames(text: str) -> tuple[Frame, ...]:
    """Frames from text: ``/`` between frames, each digit a character or its lit segments in brackets:
    ``E[acdfg] / [g][g]``.

    Raises FrostError saying what can't be read.
    """
    if len(text) > LONGEST:
        message = f"{len(text):,} characters of frames; no display shows so many. Write one round of them."
        raise FrostError(message)
    frames = []
    for part in text.split("/"):
        digits: list[Digit] = []
        for shown in re.findall(r"\[[^\]]*\]?|\S", part):
            if shown.startswith("["):
                inside = shown[1:].removesuffix("]")
                if not shown.endswith("]") or set(inside) - set(SEGMENTS):
                    message = (
                        f"“{shown}” is no digit; write its lit segments from a to g in brackets, such as"
                        " [adefg]."
                    )
                    raise FrostError(message)
                digits.append(frozenset(inside))
            elif lit(shown) or shown == " ":
                digits.append(lit(shown))
            else:
                message = (
                    f"“{shown}” can't be shown on seven segments; write its lit segments in brackets, such as"
                    " [adefg]."
                )
                raise FrostError(message)
        frames.append(tuple(digits))
    frames = [frame for frame in frames if frame]
    if not frames:
        message = (
            "No frame given. Write what the display shows, such as E5, or its segments: [adefg][acdfg]; /"
            " stands between frames."
        )
        raise FrostError(message)
    return tuple(frames)


def nearest_text(frames: tuple[Frame, ...]) -> str:
    """The frames as the characters they look most like, for the tape."""
    return " / ".join("".join(_nearest(digit) for digit in frame) for frame in frames)


def _nearest(digit: Digit) -> str:
    return min(
        CHARACTERS,
        key=lambda character: (len(CHARACTERS[character] ^ digit), not character.isdigit(), character),
    )


def decode_frames(sheet: Sheet, frames: tuple[Frame, ...]) -> tuple[FrameMatch, ...]:
    """Codes that may be what was seen, likeliest first.

    Codes that blink are not matched here.
    """
    matches = []
    for code in sheet.codes:
        if code.shown.kind == "blinks":
            continue
        expected = [
            _frame_of(text)
            for text in (code.shown.frames if code.shown.kind == "frames" else (code.shown.text,))
        ]
        match = _match(code, expected, frames)
        if match is not None:
            matches.append(match)
    return tuple(sorted(matches, key=lambda match: (match.distance, match.code.id)))


def _frame_of(text: str) -> Frame:
    return tuple(lit(character) for character in text if character not in " .:")


def _match(code: Code, expected: list[Frame], seen: tuple[Frame, ...]) -> FrameMatch | None:
    width = max(len(frame) for frame in (*expected, *seen))
    expected = [_wide(frame, width) for frame in expected]
    seen = tuple(_wide(frame, width) for frame in seen)
    everywhere = [frozenset.intersection(*(frame[place] for frame in seen)) for place in range(width)]
    nowhere = [
        frozenset(SEGMENTS) - frozenset.union(*(frame[place] for frame in seen)) for place in range(width)
    ]
    dead: set[tuple[int, str]] = set()
    stuck: set[tuple[int, str]] = set()
    # Each seen frame goes to the expected frame it disagrees with least; a frame nothing expects is another
    # screen of the unit.
    used, cost = set(), 0.0
    for frame in seen:
        costs = [_disagreement(want, frame, everywhere, nowhere) for want in expected]
        best = min(range(len(expected)), key=lambda index: costs[index])
        if costs[best] > MOST_PER_DIGIT * width and len(seen) > 1:
            cost += FOREIGN_FRAME_COST
            continue
        used.add(best)
        for place in range(width):
            missing, extra = expected[best][place] - frame[place], frame[place] - expected[best][place]
            dead |= {(place + 1, segment) for segment in missing & nowhere[place]}
            stuck |= {(place + 1, segment) for segment in extra & everywhere[place]}
            cost += WRONG_COST * (len(missing - nowhere[place]) + len(extra - everywhere[place]))
    if not used:
        return None
    cost += DEAD_COST * len(dead) + STUCK_COST * len(stuck) + UNSEEN_FRAME_COST * (len(expected) - len(used))
    if cost > MOST_PER_DIGIT * width:
        return None
    return FrameMatch(code, round(cost, 4), tuple(sorted(dead)), tuple(sorted(stuck)))


def _wide(frame: Frame, width: int) -> Frame:
    return (*frame, *(frozenset() for _ in range(width - len(frame))))


def _disagreement(want: Frame, frame: Frame, everywhere: list[Digit], nowhere: list[Digit]) -> float:
    cost = 0.0
    for place, (wanted, shown) in enumerate(zip(want, frame, strict=True)):
        missing, extra = wanted - shown, shown - wanted
        cost += DEAD_COST * len(missing & nowhere[place]) + STUCK_COST * len(extra & everywhere[place])
        cost += WRONG_COST * (len(missing - nowhere[place]) + len(extra - everywhere[place]))
    return cost
