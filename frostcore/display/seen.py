"""What was seen on a display, however it was entered (typed, tapped on the pad, tapped along), and the
codes it may be."""

from collections.abc import Iterable
from dataclasses import dataclass

from frostcore.display.decode import decode
from frostcore.display.frames import decode_frames, nearest_text, read_frames
from frostcore.display.rhythm import Rhythm, find_rhythm, read_taps
from frostcore.sheet.model import Code, Sheet


@dataclass(frozen=True)
class SeenMatch:
    """A code of a sheet that may be what was seen.

    ``remark`` says what must be wrong with the display for it.
    """

    sheet: Sheet
    code: Code
    distance: float
    remark: str = ""

    @property
    def exact(self) -> bool:
        """Whether just this code was seen."""
        return self.distance == 0


@dataclass(frozen=True)
class Seen:
    """What was seen, as people would type it, with its rhythm where it was tapped along, and the matches,
    nearest first."""

    shown: str
    matches: tuple[SeenMatch, ...]
    rhythm: Rhythm | None = None


def match_seen(sheets: Iterable[Sheet], shown: str = "", frames: str = "", taps: str = "") -> Seen:
    """Match what was seen against the sheets; segments beat taps, taps beat typed text.

    Raises FrostError on what can't be read.
    """
    sheets, rhythm = tuple(sheets), None
    if frames:
        read = read_frames(frames)
        shown = nearest_text(read)
        matches = [
            SeenMatch(sheet, match.code, match.distance, match.display_suspect)
            for sheet in sheets
            for match in decode_frames(sheet, read)
        ]
    else:
        if taps:
            rhythm = find_rhythm(read_taps(taps))
            shown = rhythm.typed
        matches = [
            SeenMatch(sheet, match.code, match.distance) for sheet in sheets for match in decode(sheet, shown)
        ]
    return Seen(
        shown,
        tuple(sorted(matches, key=lambda match: (match.distance, match.sheet.title, match.code.id))),
        rhythm,
    )
