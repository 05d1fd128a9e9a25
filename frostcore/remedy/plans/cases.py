"""Which parts of a case a change to the wiring could go round."""

from frostcore.diagnosis.judge import Judgement
from frostcore.remedy.plans.proposed import MAKERS

SUSPECTED = 0.1
"""What is less likely is not worked around."""


def suspected(judgement: Judgement) -> tuple[str, ...]:
    """The parts likely enough to be worked around, likeliest first: those at fault, and what feeds them."""
    chances = dict(zip(judgement.weigher.known.units, judgement.posterior.units, strict=True))
    found: dict[str, float] = {}
    for unit, chance in chances.items():
        for part in unit.split("+"):
            found[part] = found.get(part, 0.0) + float(chance)
    kinds = {part.id: part.kind for part in judgement.sheet.components}
    likely = sorted(found.items(), key=lambda item: -item[1])
    return tuple(part for part, chance in likely if chance >= SUSPECTED and kinds.get(part) in MAKERS)
