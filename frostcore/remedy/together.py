"""What is asked of a part before it is fitted: whether what killed it is still there, and what is changed
with it.
"""

from frostcore.diagnosis.acts import unit_name
from frostcore.diagnosis.judge import Judgement
from frostcore.diagnosis.step import percent
from frostcore.sentence import in_sentence, joined
from frostcore.sheet.model import Sheet
from frostcore.tape.entries import PartFitted
from frostcore.tape.standing import Standing
from frostcore.verdict import Question

KILLED = 0.1
"""What killed a part is asked about from this chance on, given that the part is the fault."""

ANYWAY = "Put it on the tape all the same"


def questions_of_fit(
    standing: Standing, body: PartFitted, judgement: Judgement | None
) -> tuple[Question, ...]:
    """What to ask before a part is on the tape as fitted; ``judgement`` is the call's, None where there is
    none yet."""
    found = list[Question]()
    fitted = {entry.component for entry in _fitted(standing)} | {body.component}
    partners = [part for part in _with(standing.sheet, body.component) if part not in fitted]
    if partners:
        names = joined([f"the {in_sentence(standing.sheet.part_name(part))}" for part in partners])
        verb = "is" if len(partners) == 1 else "are"
        told = f"{names[:1].upper()}{names[1:]} {verb} changed with it. Was that done?"
        found.append(Question("changed_with", told, no=ANYWAY))
    if judgement:
        found += _killers(judgement, body.component, fitted)
    return tuple(found)


def _fitted(standing: Standing) -> list[PartFitted]:
    bodies = (slip.entry.body for slip in standing.effective)
    return [body for body in bodies if isinstance(body, PartFitted)]


def _with(sheet: Sheet, component: str) -> tuple[str, ...]:
    known = {part.id: part for part in sheet.components}
    return known[component].change_with if component in known else ()


def _killers(judgement: Judgement, component: str, fitted: set[str]) -> list[Question]:
    """The loads that may have killed a part, and would kill the new one."""
    known, now = judgement.weigher.known, judgement.posterior.units
    chances = {unit: float(now[place]) for place, unit in enumerate(known.units)}
    both = {unit: chance for unit, chance in chances.items() if "+" in unit and component in unit.split("+")}
    whole = chances.get(component, 0.0) + sum(both.values())
    for unit, chance in sorted(both.items(), key=lambda item: -item[1]):
        other = next(part for part in unit.split("+") if part != component)
        if whole <= 0 or chance / whole < KILLED or other in fitted:
            continue
        name, load = (in_sentence(unit_name(judgement.sheet, each)) for each in (component, other))
        told = (
            f"If it was the {name}, then with {percent(chance / whole)} a bad {load} killed it, and kills the"
            f" new one too. Read the {load} first, or change it with it."
        )
        return [Question("killed_by", told, no=ANYWAY)]
    return []
