"""The display pad laid out: seven segments to a digit, as polygons in user units, y downward."""

from dataclasses import dataclass

from frostcore.display.frames import SEGMENTS, Frame

DIGIT_WIDTH, DIGIT_HEIGHT, GAP, THICK = 74.0, 130.0, 26.0, 17.0
SLANT = 0.06
MARGIN = 12.0


@dataclass(frozen=True)
class PadSegment:
    """One segment: digit from 1, letter, polygon points, whether lit."""

    digit: int
    letter: str
    points: str
    lit: bool

    @property
    def name(self) -> str:
        """Where the segment is, in words."""
        return {
            "a": "top",
            "b": "upper right",
            "c": "lower right",
            "d": "bottom",
            "e": "lower left",
            "f": "upper left",
            "g": "middle",
        }[self.letter]


@dataclass(frozen=True)
class Pad:
    """One frame of the pad."""

    width: float
    height: float
    segments: tuple[PadSegment, ...]


def lay_out_pad(frame: Frame, digits: int) -> Pad:
    """A pad of ``digits`` digits with the frame's segments lit."""
    half, middle = THICK / 2, DIGIT_HEIGHT / 2
    bars = {"a": (0.0, half), "g": (0.0, middle), "d": (0.0, DIGIT_HEIGHT - half)}
    posts = {"f": (half, 0), "b": (DIGIT_WIDTH - half, 0), "e": (half, 1), "c": (DIGIT_WIDTH - half, 1)}
    segments = []
    for place in range(digits):
        left = MARGIN + SLANT * DIGIT_HEIGHT + place * (DIGIT_WIDTH + GAP)
        lit = frame[place] if place < len(frame) else frozenset()
        for letter in SEGMENTS:
            if letter in bars:
                y = bars[letter][1]
                xs, inset = (half + 2, DIGIT_WIDTH - half - 2), half - 1
                shape = [
                    (xs[0], y),
                    (xs[0] + inset, y - inset),
                    (xs[1] - inset, y - inset),
                    (xs[1], y),
                    (xs[1] - inset, y + inset),
                    (xs[0] + inset, y + inset),
                ]
            else:
                x, lower = posts[letter]
                top, bottom, inset = (
                    (half + 2, middle - 2, half - 1)
                    if not lower
                    else (middle + 2, DIGIT_HEIGHT - half - 2, half - 1)
                )
                shape = [
                    (x, top),
                    (x + inset, top + inset),
                    (x + inset, bottom - inset),
                    (x, bottom),
                    (x - inset, bottom - inset),
                    (x - inset, top + inset),
                ]
            points = " ".join(f"{left + x - SLANT * y:.1f},{MARGIN + y:.1f}" for x, y in shape)
            segments.append(PadSegment(place + 1, letter, points, letter in lit))
    return Pad(
        2 * MARGIN + SLANT * DIGIT_HEIGHT + digits * DIGIT_WIDTH + (digits - 1) * GAP,
        2 * MARGIN + DIGIT_HEIGHT,
        tuple(segments),
    )
