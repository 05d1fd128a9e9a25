"""The handover report in plain words: a pure function of (sheet, tape)."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta

from frostcore import cautions
from frostcore.circuit.kept import circuits_of
from frostcore.diagnosis.acts import unit_name
from frostcore.diagnosis.judge import Judgement
from frostcore.diagnosis.step import name_of, percent
from frostcore.display.condition import describe
from frostcore.errors import FrostError
from frostcore.quantity import format_ohms
from frostcore.remedy.plans.solved import Solved
from frostcore.remedy.wayin import closing, left_over
from frostcore.sentence import day_said, in_sentence
from frostcore.sheet.origin import Source
from frostcore.sheet.points import leads
from frostcore.tape.entries import (
    MENDED,
    PROOFS,
    SUPPLY_HISTORY,
    Attached,
    Awaited,
    CallTaken,
    CodeSeen,
    Mended,
    Outcome,
    PartFitted,
    PartTried,
    PlateRead,
    Programmed,
    ReadingTaken,
    Rewired,
)
from frostcore.tape.looks import answered
from frostcore.tape.reading import sensor_of
from frostcore.tape.standing import Slip, Standing, thermometer_places
from frostcore.verdict import Verdict

SAFE_CELSIUS = {"fridge": 8.0, "freezer": -9.0}
"""Above these, food in a compartment of that kind is in doubt; local rules may be stricter."""


@dataclass(frozen=True)
class ReportReading:
    """One measurement of the report: what, when, as read, what it should be, and its verdict."""

    name: str
    at: datetime
    text: str
    should_be: str
    verdict: Verdict


@dataclass(frozen=True)
class Report:
    """What the customer is told.

    Lists hold whole sentences.
    """

    title: str
    call: CallTaken | None
    plate: PlateRead | None
    found: tuple[str, ...]
    before: tuple[ReportReading, ...]
    """What was measured before anything was changed."""

    after: tuple[ReportReading, ...]
    done: tuple[str, ...]
    changed: tuple[str, ...]
    """What is wired otherwise now, and what that costs."""

    proven: tuple[str, ...]
    unproven: str
    still_open: tuple[str, ...]
    advice: tuple[str, ...]
    outcome: Outcome | None
    recheck: datetime | None
    pictures: tuple[Attached, ...] = ()

    @property
    def readings(self) -> tuple[ReportReading, ...]:
        """Everything that was measured."""
        return self.before + self.after


def handover(standing: Standing, judgement: Judgement | None = None) -> Report:
    """The report of a call as it stands, with what its judgement came to where there is one.

    The call must have been taken.
    """
    sheet, outcome = standing.sheet, standing.outcome
    found = [
        f"The display showed {slip.entry.body.shown}{_meaning(standing, slip, slip.entry.body)}."
        for slip in standing.effective
        if isinstance(slip.entry.body, CodeSeen)
    ]
    found += [
        f"{thermometer_places(sheet).get(body.place, body.place)}: {body.temperature.text} by thermometer."
        for body in standing.temperatures.values()
    ]
    found += [
        f"{seen.name}: {seen.text}."
        for seen in (answered(body.look, body.answer) for body in standing.observations.values())
        if seen.odd
    ]
    done = list(_done(standing))
    found += _judged(judgement) if judgement else ()
    proven: tuple[str, ...] = ()
    unproven, recheck = "", None
    if outcome:
        if outcome.cause:
            found.append(f"Cause: {sheet.part_name(outcome.cause)}.")
        if outcome.done:
            done.append(outcome.done)
        proven = tuple(text for identifier, text in PROOFS if identifier in outcome.proofs)
        if outcome.result in {"repaired", "worked_around"} and "cycled_off" not in outcome.proofs:
            unproven = (
                "The unit was not yet seen to reach its set-point and cycle off. Cold alone is not proof; a"
                " recheck is due."
            )
        if outcome.recheck_days is not None:
            closed = next(
                slip.entry.at for slip in reversed(standing.effective) if isinstance(slip.entry.body, Outcome)
            )
            recheck = closed + timedelta(days=outcome.recheck_days)
    work = _first_work(standing)
    return Report(
        standing.unit,
        standing.call,
        standing.plate,
        tuple(found),
        _readings(standing, standing.effective[:work]),
        _readings(standing, standing.effective[work:]),
        tuple(done),
        tuple(_changed(standing)),
        proven,
        unproven,
        tuple(_still_open(standing)),
        _advice(standing),
        outcome,
        recheck,
        tuple(body for body in standing.all_of(Attached) if body.report),
    )


WORK = (PartFitted, PartTried, Mended, Programmed, Rewired)
"""What changes the unit: what is measured before it is kept apart from what is measured after."""


def _first_work(standing: Standing) -> int:
    """The place of the first slip that changes the unit; after the last one where none does."""
    slips = enumerate(standing.effective)
    return next((at for at, slip in slips if isinstance(slip.entry.body, WORK)), len(standing.effective))


def _readings(standing: Standing, slips: Iterable[Slip]) -> tuple[ReportReading, ...]:
    return tuple(reading for slip in slips if (reading := _reading(standing, slip)))


def _done(standing: Standing) -> Iterator[str]:
    """What was done, in the order it was."""
    sheet = standing.sheet
    for slip in standing.effective:
        match slip.entry.body:
            case PartFitted(component=component, note=note):
                yield f"Fitted: {sheet.part_name(component)}{f' ({note})' if note else ''}."
            case Mended(name=name, done=done, how=how):
                words = dict(MENDED).get(how, "mended or put right").capitalize()
                yield f"{words}: {name}{f' ({done})' if done else ''}."
            case PartTried(component=component):
                yield f"Tried and taken out again: {sheet.part_name(component)}."
            case Programmed(component=component, setting=setting, value=value, was=was):
                before = f", before {was}" if was else ""
                yield f"Set: {setting} to {value}{before} ({in_sentence(sheet.part_name(component))})."
            case Rewired(plan=plan) if plan:
                yield f"Wiring changed: {plan.title}."
            case Rewired():
                yield "Wiring put back as it was built."


def _changed(standing: Standing) -> Iterator[str]:
    """The wiring as it is now, where that is not as built."""
    plan = standing.now.plan
    if plan is None:
        return
    school = f" ({plan.school})" if plan.school else ""
    yield f"{plan.title}{school}. A label inside the unit says so."
    if "lost by the plan" not in standing.kept:
        try:
            standing.kept["lost by the plan"] = Solved(standing.now.unchanged, plan).lost
        except FrostError:
            standing.kept["lost by the plan"] = ()
    lost: tuple[str, ...] = standing.kept["lost by the plan"]
    yield from (f"{line}." for line in lost)
    if plan.stop_gap_until:
        yield f"This is a stop-gap. It must be undone by {day_said(plan.stop_gap_until)}."


def _still_open(standing: Standing) -> Iterator[str]:
    """What is not done yet: places, plugs, fasteners, parts that are awaited."""
    for line in closing(standing.sheet, standing.bodies):
        yield f"Not put back: {in_sentence(line.text)}."
    for text in left_over(standing.sheet, standing.bodies):
        yield f"{text}."
    fitted = {body.component for body in standing.all_of(PartFitted)}
    for body in standing.all_of(Awaited):
        if body.component not in fitted:
            name = in_sentence(standing.sheet.part_name(body.component))
            yield f"Ordered: {name}, looked for on {day_said(body.until)}."


def _judged(judgement: Judgement) -> Iterator[str]:
    """What the judgement of the unit as it came says: what it is, and what it is not."""
    came = judgement.as_it_came
    first = came.suspects[0] if came.suspects else None
    if came.group:
        names = " or ".join(name_of(came, each) for each in came.group)
        yield f"By all that was measured and seen: {names}; no test parts them."
    elif first and first.component and (came.named or first.probability > LIKELIEST):
        sure = "" if came.named else "likeliest, "
        name, chance = name_of(came, first), percent(first.probability)
        yield f"By all that was measured and seen: {sure}{name} ({chance})."
    if came.ruled_out and (came.named or came.group):
        gone = [unit_name(came.sheet, unit) for unit, _ in came.ruled_out[:MOST_TOLD]]
        yield f"Ruled out: {', '.join(gone)}."


LIKELIEST, MOST_TOLD = 0.5, 6
"""What is less likely than not is not told; and so many that were ruled out are."""


def _reading(standing: Standing, slip: Slip) -> ReportReading | None:
    """A slip's line among the measurements, None for slips that measure nothing or can't be judged."""
    body, sheet = slip.entry.body, slip.moment.sheet
    judged = standing.judged_reading(slip)
    if not isinstance(body, ReadingTaken) or judged is None:
        return None
    sensor = sensor_of(sheet, body)
    if judged.by_curve and sensor:
        band = judged.by_curve.band
        name = f"{sheet.sensor_name(sensor)}, at {judged.by_curve.point.temperature.text}"
        should_be = f"{format_ohms(band.low)} to {format_ohms(band.high)}"
        usual = sheet.usual() if sheet.source_of(f"curves.{sensor.curve}") is Source.ARCHETYPE else ""
        should_be += f" ({usual})" if usual else ""
        shown = judged.by_curve.point.resistance.text
        return ReportReading(name, slip.entry.at, shown, should_be, judged.verdict)
    function = next((item.name for item in circuits_of(sheet).functions if item.id == body.function), "")
    where = leads(sheet, body.red, body.black) if body.red else sheet.sensor_name(sensor) if sensor else ""
    mode = sheet.mode(body.mode).name.lower() if body.mode else ""
    name = ", ".join(part for part in (function, where, mode) if part)
    expected = judged.expected
    should_be = (expected.band or expected.text) if expected else "not known"
    usual = sheet.usual(body.function.partition(".")[0])
    should_be += f" ({usual})" if usual and expected else ""
    return ReportReading(name, slip.entry.at, body.value.text, should_be, judged.verdict)


def _meaning(standing: Standing, slip: Slip, seen: CodeSeen) -> str:
    """What a code meant on the sheet it was seen with."""
    name, sheet = standing.code_of(seen), slip.moment.sheet
    code = next((item for item in (*sheet.codes, *standing.sheet.codes) if item.id == name), None)
    if not name or code is None:
        return ", which is not on the sheet"
    return f": {code.meaning} ({describe(sheet, code.condition)})"


def _advice(standing: Standing) -> tuple[str, ...]:
    advice = []
    warm = [
        place.name.lower()
        for place in standing.sheet.compartments
        if place.compartment in SAFE_CELSIUS
        and place.id in standing.temperatures
        and standing.temperatures[place.id].temperature.number > SAFE_CELSIUS[place.compartment]
    ]
    if warm:
        advice.append(
            f"The {' and the '.join(warm)} {'was' if len(warm) == 1 else 'were'} found warm. {cautions.FOOD}"
        )
    history = dict(SUPPLY_HISTORY)
    if standing.call and standing.call.supply_history:
        advice.append(
            "Have the supply looked at"
            f" ({', '.join(history[item] for item in standing.call.supply_history)}): a bad supply kills the"
            " next board too."
        )
    if standing.observations.get("condenser_dust") and standing.observations["condenser_dust"].answer in {
        "dusty",
        "blocked",
    }:
        advice.append("Keep the condenser free of dust: a blocked one makes the compressor run hot and long.")
    if standing.flammable:
        advice.append(f"{standing.flammable}: {cautions.FLAMMABLE}")
    return tuple(advice)
