"""What can raise a code in this unit: computed from the rule and the circuit, weighed by what is known of the
call; the sheet adds its own words."""

from collections.abc import Iterator
from dataclasses import dataclass

from frostcore.circuit.kept import circuits_of
from frostcore.diagnosis.behaviour import behaviour_of
from frostcore.diagnosis.from_tape import judgement_of
from frostcore.diagnosis.hypotheses import hypotheses_of
from frostcore.sheet.model import Code, Sheet
from frostcore.tape.standing import Standing

RAISES = 0.1
"""A fault that raises a code this surely is a cause of it."""

MOST_CAUSES = 8


@dataclass(frozen=True)
class Cause:
    """A component that can raise a code: how, in the sheet's words or the catalogue's, and how likely it is
    the one at fault by all that is known (None where nothing can be judged)."""

    component: str
    why: str
    probability: float | None = None


@dataclass(frozen=True)
class Unlike:
    """Where a sheet's stated causes and the computed ones differ."""

    code: str
    component: str
    why: str


def stated(code: Code) -> tuple[Cause, ...]:
    """The causes a sheet states, where nothing has been computed."""
    return tuple(Cause(item.component, item.why) for item in code.implicates)


def causes_of(standing: Standing, code: Code) -> tuple[Cause, ...]:
    """The causes of a code, likeliest first."""
    sheet = standing.sheet
    words = {item.component: item.why for item in code.implicates}
    if not circuits_of(sheet).functions:
        return stated(code)
    known, rules = hypotheses_of(sheet), behaviour_of(sheet).rules[code.id]
    now = judgement_of(standing).posterior.now
    found: dict[str, tuple[float, float, str]] = {}
    for place, item in enumerate(known.all):
        if item.fault is None or rules[place] < RAISES:
            continue
        chance, best, why = found.get(item.component, (0.0, 0.0, ""))
        weight = float(now[place] * rules[place])
        if weight > best:
            best, why = weight, item.name
        found[item.component] = (chance + float(now[place]), best, why)
    ranked = sorted(found.items(), key=lambda each: -each[1][0])
    causes = [
        Cause(component, words.get(component, why), chance)
        for component, (chance, _, why) in ranked[:MOST_CAUSES]
        if component
    ]
    causes += [Cause(name, why, 0.0) for name, why in words.items() if name not in found]
    return tuple(causes)


def unlike(sheet: Sheet) -> Iterator[Unlike]:
    """The causes a sheet states that no fault of its circuit would bring about."""
    if not circuits_of(sheet).functions:
        return
    known, rules = hypotheses_of(sheet), behaviour_of(sheet).rules
    for code in sheet.codes:
        raising = {item.component for place, item in enumerate(known.all) if rules[code.id][place] >= RAISES}
        for item in code.implicates:
            if item.component not in raising:
                yield Unlike(code.id, item.component, item.why)
