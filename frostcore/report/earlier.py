"""What an earlier call on the same unit left: how it ended, what was fitted or set, how it is wired since."""

from dataclasses import dataclass
from datetime import date

from frostcore.remedy.together import ANYWAY
from frostcore.sentence import in_sentence
from frostcore.sheet.model import Sheet
from frostcore.sheet.plan import Plan
from frostcore.tape.entries import Mended, PartFitted, Programmed
from frostcore.tape.standing import Standing
from frostcore.verdict import Question


@dataclass(frozen=True)
class Earlier:
    """An earlier call: the day of its last entry, its end in words, what was done line by line, the parts
    that were fitted with their days, the change to the wiring it left."""

    day: date
    end: str
    done: tuple[str, ...]
    fitted: tuple[tuple[str, date], ...]
    plan: Plan | None


def earlier_of(standing: Standing) -> Earlier:
    """What a call left, by its tape."""
    sheet, done, fitted = standing.sheet, [], []
    day = standing.tape[-1].at.date() if standing.tape else date.min
    for slip in standing.effective:
        match slip.entry.body:
            case PartFitted(component=component):
                done.append(f"{sheet.part_name(component)} fitted")
                fitted.append((component, slip.entry.at.date()))
            case Mended(name=name):
                done.append(f"{name} put right")
            case Programmed(setting=setting, value=value):
                done.append(f"{setting} set to {value}")
    plan = standing.now.plan
    if plan:
        done.append(f"wiring changed: {in_sentence(plan.title)}")
    end = standing.outcome.result.label if standing.outcome else "still open"
    return Earlier(day, end, tuple(done), tuple(fitted), plan)


def fitted_before(sheet: Sheet, component: str, earlier: Earlier, number: int) -> Question | None:
    """What is asked of a part that call ``number`` fitted to this unit already; None where it did not."""
    day = next((day for name, day in earlier.fitted if name == component), None)
    if day is None:
        return None
    name = in_sentence(sheet.part_name(component))
    told = f"A new {name} was fitted here on {day.day} {day:%B %Y} (call {number})"
    return Question("fitted_before", f"{told}. What killed that one?", no=ANYWAY)
