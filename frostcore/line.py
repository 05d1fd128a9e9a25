"""The line: where a quantity stands against the value it should have, as geometry for any screen.

A reading's height is 0 on the line, within ±``BAND_HEIGHT`` inside its band, and nears ±1 far outside, so
that a picture needs no scale of its own. Ratios count, as they do for resistances: twice and half stand
equally far.
"""

import math

from frostcore.verdict import Band, Verdict

BAND_HEIGHT = 0.36


def height(value: float, band: Band) -> float:
    """Height of a positive value above (or below, negative) the line, in −1..1.

    The band's limits lie at ±BAND_HEIGHT.
    """
    if value <= 0:
        return -1.0
    limit = band.high if value >= band.nominal else band.low
    reach = abs(math.log(limit / band.nominal)) if limit > 0 and limit != band.nominal else 1e-6
    share = math.log(value / band.nominal) / reach
    if abs(share) <= 1:
        return BAND_HEIGHT * share
    return math.copysign(BAND_HEIGHT + (1 - BAND_HEIGHT) * (1 - math.exp(-(abs(share) - 1) / 3)), share)


def verdict_height(verdict: Verdict, value: float | None, band: Band) -> float | None:
    """Height of a reading, or None when an open circuit breaks the line."""
    if verdict is Verdict.OPEN or value is None:
        return None
    return -1.0 if verdict is Verdict.SHORT else height(value, band)
