"""The handover report in plain words: a pure function of (sheet, tape)."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta

from frostcore import cautions
from frostcore.circuit.kept import circuits_of
from frostcore.diagnosis.acts import unit_name
from frostcore.diagnosis.judge import Judgement
from frostcore.diagnosis.step import name_of, percent
from frostcore.display.condition import describe
from frostcore.quantity import format_ohms
from frostcore.sheet.origin import Source
from frostcore.sheet.points import leads
from frostcore.tape.entries import (
    PROOFS,
    SUPPLY_HISTORY,
    CallTaken,
    CodeSeen,
    Mended,
    Outcome,
    PartFitted,
    PartTried,
    PlateRead,
    ReadingTaken,
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
    readings: tuple[ReportReading, ...]
    done: tuple[str, ...]
    proven: tuple[str, ...]
    unproven: str
    advice: tuple[str, ...]
    outcome: Outcome | None
    recheck: datetime | None


def handover(standing: Standing, judgement: Judgement | None = None) -> Report:
    """The report of a call as it stands, with what its judgement came to where there is one.

    The call must have been taken.
    """
    sheet, outcome = standing.sheet, standing.outcome
    found = [f"The display showed {seen.shown}{_meaning(standing, seen)}." for seen in standing.codes]
    found += [
        f"{thermometer_places(sheet).get(body.place, body.place)}: {body.temperature.text} by thermometer."
        for body in standing.temperatures.values()
    ]
    found += [
        f"{seen.name}: {seen.text}."
        for seen in (answered(body.look, body.answer) for body in standing.observations.values())
        if seen.odd
    ]
    fitted = [slip.entry.body for slip in standing.effective if isinstance(slip.entry.body, PartFitted)]
    done = [
        f"Fitted: {sheet.part_name(body.component)}{f' ({body.note})' if body.note else ''}."
        for body in fitted
    ]
    done += [
        f"Mended or put right: {body.name}{f' ({body.done})' if body.done else ''}."
        for body in standing.all_of(Mended)
    ]
    done += [
        f"Tried and taken out again: {sheet.part_name(body.component)}."
        for body in standing.all_of(PartTried)
    ]
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
    readings = tuple(reading for slip in standing.effective if (reading := _reading(standing, slip)))
    return Report(
        standing.unit,
        standing.call,
        standing.plate,
        tuple(found),
        readings,
        tuple(done),
        proven,
        unproven,
        _advice(standing),
        outcome,
        recheck,
    )


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


def _meaning(standing: Standing, seen: CodeSeen) -> str:
    if not seen.code:
        return ", which is not on the sheet"
    code = next((item for item in standing.sheet.codes if item.id == seen.code), None)
    if code is None:
        return ", which is not on the sheet"
    return f": {code.meaning} ({describe(standing.sheet, code.condition)})"


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
