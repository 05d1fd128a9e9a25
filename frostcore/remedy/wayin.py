"""The way in, ticked off as the unit comes apart, and the way out: the same steps in reverse, with
nothing left over."""

from collections.abc import Iterable
from dataclasses import dataclass

from frostcore.sentence import in_sentence, joined
from frostcore.sheet.model import Place, Sheet, Step
from frostcore.sheet.points import plug_back
from frostcore.tape.entries import Body, PlugMoved, Rewired, StepDone


@dataclass(frozen=True)
class WayStep:
    """One step of a way in: where it belongs, its number, what it says, whether it is done, and the
    fasteners counted out."""

    place: Place
    number: int
    step: Step
    done: bool
    counted: int | None

    @property
    def sentence(self) -> str:
        """The step in a line: where, what to do, what comes out and what is unplugged."""
        step = self.step
        told = [f"{step.fasteners} × {step.fastener}"] if step.fasteners else []
        told += [f"unplug {joined(step.plugs)}"] if step.plugs else []
        more = f" ({'; '.join(told)})" if told else ""
        return f"{self.place.name}: {in_sentence(step.do)}{more}."


@dataclass(frozen=True)
class Way:
    """The way to a place: the places on it from the outside in, its steps, and what they add up to."""

    place: Place
    steps: tuple[WayStep, ...]
    minutes: float

    @property
    def open(self) -> bool:
        """Whether every step is done."""
        return all(step.done for step in self.steps)

    @property
    def fasteners(self) -> int:
        """How many fasteners come out in all."""
        return sum(step.step.fasteners for step in self.steps)

    @property
    def next(self) -> WayStep | None:
        """The first step not yet done."""
        return next((step for step in self.steps if not step.done), None)


@dataclass(frozen=True)
class Closing:
    """One line of the reassembly list: a step to undo, or a plug to put back."""

    text: str
    place: str = ""
    number: int = 0
    fasteners: int = 0
    fastener: str = ""
    plugs: tuple[str, ...] = ()
    connector: str = ""
    caution: str = ""


def way_to(sheet: Sheet, place: str, bodies: Iterable[Body]) -> Way:
    """The steps from the outside to a place; KeyError when the sheet has no such place."""
    done = _done(bodies)
    chain = [sheet.place(place)]
    while chain[-1].inside:
        chain.append(sheet.place(chain[-1].inside))
    steps = tuple(
        WayStep(found, number, step, (found.id, number) in done, done.get((found.id, number)))
        for found in reversed(chain)
        for number, step in enumerate(found.steps)
    )
    return Way(
        sheet.place(place),
        steps,
        sum(
            found.open_minutes
            for found in chain
            if not all((found.id, number) in done for number in range(len(found.steps)))
        ),
    )


def ways(sheet: Sheet, bodies: Iterable[Body]) -> tuple[Way, ...]:
    """The way to every place that must be opened."""
    bodies = tuple(bodies)
    return tuple(way_to(sheet, place.id, bodies) for place in sheet.places if place.steps)


def closing(sheet: Sheet, bodies: Iterable[Body]) -> tuple[Closing, ...]:
    """What is still to be put back, last out first."""
    bodies = tuple(body for body in bodies if _here(sheet, body))
    lines: dict[tuple[str, ...], Closing] = {}
    for body in bodies:
        match body:
            case StepDone(place=place, step=number, state="opened"):
                step = sheet.place(place).steps[number]
                lines.pop(("step", place, str(number)), None)
                lines["step", place, str(number)] = Closing(
                    step.do,
                    place,
                    number,
                    body.counted if body.counted is not None else step.fasteners,
                    step.fastener,
                    step.plugs,
                    "",
                    step.caution,
                )
            case StepDone(place=place, step=number):
                lines.pop(("step", place, str(number)), None)
            case PlugMoved(connector=connector, state="pulled"):
                lines["plug", connector] = Closing(
                    plug_back(sheet, connector),
                    connector=connector,
                )
            case PlugMoved(connector=connector):
                lines.pop(("plug", connector), None)
            case Rewired(plan=plan) if plan:
                for connector in plan.parked:  # these stay out
                    lines.pop(("plug", connector), None)
    return tuple(reversed(lines.values()))


def _here(sheet: Sheet, body: Body) -> bool:
    """Whether a sheet has what an entry moved; one it was made on may have had more."""
    match body:
        case StepDone(place=place, step=step):
            return any(item.id == place and step < len(item.steps) for item in sheet.places)
        case PlugMoved(connector=connector):
            return any(item.id == connector for item in sheet.connectors)
    return True


def left_over(sheet: Sheet, bodies: Iterable[Body]) -> tuple[str, ...]:
    """What does not add up: fasteners counted out and not all back in, of each step that was closed
    again."""
    found, out = [], {}
    for body in bodies:
        if not isinstance(body, StepDone) or not _here(sheet, body):
            continue
        step = sheet.place(body.place).steps[body.step]
        counted = step.fasteners if body.counted is None else body.counted
        if body.state == "opened":
            out[body.place, body.step] = counted
        elif counted != out.get((body.place, body.step), step.fasteners):
            gap = out.get((body.place, body.step), step.fasteners) - counted
            words = f"{gap} left over" if gap > 0 else f"{-gap} more than came out"
            found.append(
                f"{step.do}: {words} ({step.fastener or 'fasteners'}, {sheet.place(body.place).name.lower()})"
            )
    return tuple(found)


def _done(bodies: Iterable[Body]) -> dict[tuple[str, int], int | None]:
    done: dict[tuple[str, int], int | None] = {}
    for body in bodies:
        if isinstance(body, StepDone):
            if body.state == "opened":
                done[body.place, body.step] = body.counted
            else:
                done.pop((body.place, body.step), None)
    return done
