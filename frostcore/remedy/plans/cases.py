"""Which parts of a case a change to the wiring could go round."""

from frostcore.diagnosis.judge import Judgement
from frostcore.remedy.courses import Around
from frostcore.remedy.plans.proposed import MAKERS, proposals
from frostcore.remedy.plans.proved import Proof
from frostcore.sheet.kept import KeptBySheet
from frostcore.sheet.model import ComponentKind, Sheet

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


PRICES = {
    ComponentKind.THERMOSTAT: 38.0,
    ComponentKind.POWER_SUPPLY: 18.0,
    ComponentKind.RELAY: 9.0,
    ComponentKind.FUSE: 3.0,
    ComponentKind.DEFROST_TIMER: 32.0,
    ComponentKind.CYCLE_TIMER: 28.0,
    ComponentKind.SWITCH: 5.0,
    ComponentKind.TERMINAL: 2.0,
}
"""What parts for a changed wiring usually cost: guesses, said to be."""

METRE = 1.0


MOST_ROUND = 3
"""So many plans round one part are courses; the rest are a tap away."""


class Rounds:
    """The ways round the parts of a sheet, each worked out once."""

    def __init__(self, sheet: Sheet) -> None:
        self.sheet = sheet
        self._known: dict[str, tuple[Around, ...]] = {}

    def of(self, part: str) -> tuple[Around, ...]:
        """The plans round one part as courses, but for refused ones."""
        if part not in self._known:
            plans = proposals(self.sheet, [part], FAR).plans[:MOST_ROUND]
            proofs = [Proof(self.sheet, plan) for plan in plans]
            self._known[part] = tuple(_around(part, proof) for proof in proofs if not proof.refused)
        return self._known[part]


FAR = "2999-12-31"
"""Some day: a stop-gap's own is said when it is made."""


def _around(part: str, proof: Proof) -> Around:
    plan = proof.plan
    price = sum(PRICES.get(each.kind, 10.0) for each in plan.added)
    price += METRE * sum(wire.metres for wire in plan.wires)
    school = f" ({plan.school})" if plan.school else ""
    joints = sum(len(wire.points) for wire in plan.wires) + 2 * len(plan.parked)
    return Around(part, f"{plan.title}{school}", price, joints, proof.lost)


_rounds = KeptBySheet(Rounds, 8)


def around(judgement: Judgement) -> tuple[Around, ...]:
    """The plans that fit a case, as courses."""
    kept = _rounds.of(judgement.sheet)
    return tuple(each for part in suspected(judgement) for each in kept.of(part))
