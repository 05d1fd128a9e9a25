"""What a quick check puts on a call's tape."""

from dataclasses import dataclass

from frostcore.diagnosis.checked import CheckTold


@dataclass(frozen=True)
class Filed:
    """What goes on a tape when a check is filed: a figure, a verdict (or empty), words, and what it is to a
    unit whose sheet has just one such part."""

    figure: str
    verdict: str
    detail: str
    told: CheckTold | None = None
