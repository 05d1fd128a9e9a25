"""The one thing to do next on a call, and why: what must come before any searching, then the judgement's own
next act."""

import json
from collections.abc import Sequence
from dataclasses import dataclass, replace

from frostcore.circuit.kept import circuits_of
from frostcore.diagnosis.acts import Instruction, Move, document, instruction, unit_name
from frostcore.diagnosis.evidence import AtPlug, Changed, Looked, Measured, Said, Sensed, Turned
from frostcore.diagnosis.from_tape import judgement_of
from frostcore.diagnosis.hypotheses import Hypothesis
from frostcore.diagnosis.insulation import InsulationDue, insulation_due
from frostcore.diagnosis.judge import Judgement, Suspect
from frostcore.diagnosis.outcomes import Test
from frostcore.diagnosis.planner import Outcome, Proposal
from frostcore.diagnosis.probes import Probe
from frostcore.sentence import in_sentence
from frostcore.sheet.model import ComponentKind, Sensor, Sheet
from frostcore.sheet.points import leads
from frostcore.tape.entries import Power, ReadingTaken, StepDone
from frostcore.tape.stages import Stage
from frostcore.tape.standing import Standing

ENOUGH_LOOKS = 4
"""So many first looks, and looking is done as far as the stages go; the planner may ask for more."""


@dataclass(frozen=True)
class NextStep:
    """What to do now: the stage it belongs to, the act, the reason, how to get there step by step with the
    cautions; where it is a reading the function to trace, the two points, the meter, the mode and the plugs;
    the sensor where it is about one; the part that is named where one is."""

    stage: Stage
    act: str
    why: str
    moves: tuple[Move, ...] = ()
    cautions: tuple[str, ...] = ()
    minutes: float | None = None
    sensor: Sensor | None = None
    trace: str = ""
    red: str = ""
    black: str = ""
    meter: str = ""
    mode: str = ""
    pulled: tuple[str, ...] = ()
    component: str = ""
    asks: str = ""
    """The act in the vocabulary of evidence, as text; empty where it is none of the planner's."""

    @property
    def how(self) -> tuple[str, ...]:
        """How to get there, in words."""
        return tuple(move.text for move in self.moves)


def next_step(standing: Standing) -> NextStep:
    """The next step of a call."""
    return before_all(standing) or _judged(standing)


def before_all(standing: Standing) -> NextStep | None:
    """What comes before any searching: what the call lacks, what safety asks, what must have fallen."""
    if standing.outcome:
        why = "The call is closed; the customer gets it in plain words."
        return NextStep(Stage.HANDOVER, "Print the handover report", why)
    if standing.call is None:
        why = "The customer's own words, before the unit is touched."
        return NextStep(Stage.CALL, "Write down the complaint", why)
    if standing.plate is None:
        why = "Model, mains and refrigerant decide which sheet, which meter range and which cautions apply."
        return NextStep(Stage.CALL, "Read the rating plate", why)
    if standing.power is Power.UNKNOWN:
        why = "Every reading is judged by the power state it was taken in."
        return NextStep(Stage.LOOK, "Say whether the plug is in", why)
    leak = insulation_due(standing)
    if leak:
        return _insulation(leak)
    display = standing.observations.get("display")
    if display and display.answer == "code" and not standing.codes:
        why = "It names a condition the board detected, not a part."
        return NextStep(Stage.DECODE, "Type the code the display shows", why)
    return _fall(standing) or _unconfirmed(standing)


def _fall(standing: Standing) -> NextStep | None:
    """An output read on in a mode that has been left must have fallen."""
    if not standing.falls_due:
        return None
    fall = standing.falls_due[0]
    mode = standing.sheet.mode(fall.mode).name.lower()
    why = (
        f"It was on in {mode}, which you have left: it must have fallen to {fall.now.text}. An output"
        " that stays on is as bad as one that stays off."
    )
    act = f"Read {leads(standing.sheet, fall.reading.red, fall.reading.black)} again"
    return NextStep(Stage.TRACE, act, why, trace=fall.reading.function)


def _unconfirmed(standing: Standing) -> NextStep | None:
    """The newest reading that may be a phantom and that no low-impedance reading has followed."""
    readings = standing.meter_readings
    for place, (identifier, reading) in reversed(list(enumerate(readings))):
        found = standing.reading_verdict(identifier)
        if not found or not found.confirm:
            continue
        same = (reading.red, reading.black, "vac_loz")
        if any((other.red, other.black, other.meter) == same for _, other in readings[place + 1 :]):
            return None
        why = (
            "An output that is off shows volts. A phantom, behind which the loop is open, falls to about 0 V"
            " on the low-impedance range; an output that stays on does not."
        )
        act = f"Confirm {leads(standing.sheet, reading.red, reading.black)} on low impedance"
        return NextStep(
            Stage.TRACE,
            act,
            why,
            trace=reading.function,
            red=reading.red,
            black=reading.black,
            meter="vac_loz",
        )
    return None


def _insulation(due: InsulationDue) -> NextStep:
    why = (
        f"It leaks ({due.leaks}): find and mend that first, plug by plug. Plugged in, its metal may be live."
        if due.leaks
        else "After any work, before the plug goes in: live and neutral to bare metal, on the highest range."
        " Above 2 MΩ is sound; less is a leak, or a pinched wire."
    )
    act = "Don’t plug it in" if due.leaks else "Measure the plug’s live pin to the chassis"
    return NextStep(Stage.TRACE, act, why, red=due.red, black=due.black, meter="ohm")


def _judged(standing: Standing) -> NextStep:
    """What the judgement asks for, or comes to."""
    if not circuits_of(standing.sheet).functions:
        return _without_circuit(standing)
    judgement = judgement_of(standing)
    if judgement.again:
        again = _again(judgement)
        if again:
            return again
    if judgement.named:
        return _named(judgement, judgement.named)
    if judgement.group:
        return _grouped(judgement, judgement.group)
    if judgement.next is None:
        return _nothing_left(judgement)
    return proposed(judgement, judgement.next)


def _again(judgement: Judgement) -> NextStep | None:
    """A reading that fits nothing, or that all hangs on, is read again first."""
    doubt = judgement.again
    read = judgement.evidence[doubt.entry] if doubt else None
    probe = getattr(read, "probe", None)
    if doubt is None or not isinstance(probe, Probe):
        return None
    sheet = judgement.sheet
    near = " or ".join(leads(sheet, *each.pair) for each in doubt.neighbours)
    why = (
        "Nothing likely explains that reading: a slipped lead, a neighbouring pin, a meter on another range."
    )
    if doubt.alone:
        name = in_sentence(name_of(judgement, judgement.suspects[0]))
        why = f"Without that one reading it would not be {name}, and nothing else is left that tells."
    elif doubt.decides:
        name = in_sentence(name_of(judgement, judgement.suspects[0]))
        why = (
            f"It speaks most for the {name}, which is dear to order in vain: once more, and move the wires"
            " while you read. A joint that comes and goes reads so too, now and then."
        )
    elif near:
        why += f" Between {near} it would be just right."
    return _reading(judgement, probe, f"Read {leads(sheet, *probe.pair)} again", why, Instruction("", ()))


def _named(judgement: Judgement, suspect: Suspect) -> NextStep:
    name = name_of(judgement, suspect)
    if suspect.unit == "well":
        why = f"With the {_fitted(judgement)} it reads and behaves like a sound unit, as far as it was tried."
        return NextStep(Stage.CLOSE, "Close up and write down what was mended", why)
    first = suspect.faults[0][0]
    how_sure = percent(suspect.probability)
    both = _both(judgement, first)
    why = f"{how_sure}: {first.name}. {both}Fit or mend it, quote it, or work around it; then prove it."
    return NextStep(Stage.CLOSE, f"Decide on {in_sentence(name)}", why, component=suspect.component)


def _both(judgement: Judgement, first: Hypothesis) -> str:
    """That of two parts which failed together neither is to be fitted alone."""
    if first.fault is None or not first.fault.also:
        return ""
    sheet = judgement.sheet
    load, other = (in_sentence(sheet.part_name(part)) for part in (first.fault.also, first.fault.component))
    return f"Both, the {load} and the {other}: a new {other} on the shorted {load} fails again. "


def _grouped(judgement: Judgement, group: tuple[Suspect, ...]) -> NextStep:
    names = _list(judgement, group)
    why = f"It is one of {names}, and no test that can be made here parts them further."
    return NextStep(Stage.CLOSE, "Decide among the last suspects", why, component=group[0].component)


def _nothing_left(judgement: Judgement) -> NextStep:
    first = judgement.suspects[0]
    names = _list(judgement, judgement.suspects[:3])
    if first.unit in {"well", "elsewhere"}:
        why = f"Every test that tells anything here has been made. What is left: {names}."
        return NextStep(Stage.CLOSE, "Decide: the circuit is sound as far as it was tested", why)
    why = f"No test that is left tells much. Likeliest: {names}."
    return NextStep(Stage.CLOSE, "Decide", why, component=first.component)


def _list(judgement: Judgement, suspects: Sequence[Suspect]) -> str:
    return ", ".join(
        f"{in_sentence(name_of(judgement, each))} ({percent(each.probability)})" for each in suspects
    )


def percent(chance: float) -> str:
    """A probability as people say it."""
    return "> 99 %" if chance > 0.995 else f"{100 * chance:.0f} %"


CHANCES = (
    (0.99, "all but certain"),
    (0.9, "very likely"),
    (0.6, "likely"),
    (0.3, "quite possible"),
    (0.1, "possible"),
    (0.03, "not likely"),
)


def in_words(chance: float) -> str:
    """A probability in a word or two."""
    return next((words for least, words in CHANCES if chance >= least), "hardly")


def name_of(judgement: Judgement, suspect: Suspect) -> str:
    """A suspect's name in words."""
    return unit_name(judgement.sheet, suspect.unit, [item.name for item, _ in suspect.faults])


def proposed(judgement: Judgement, proposal: Proposal) -> NextStep:
    """The planner's act, with what it is in the vocabulary of evidence."""
    asks = json.dumps(document(judgement.sheet, proposal.test), ensure_ascii=False)
    worded = _worded(judgement, proposal)
    if judgement.proof:
        why = f"With the {_fitted(judgement)} it reads like a sound unit; proven it is once this is seen too."
        worded = replace(worded, act=f"Prove it. {worded.act}", why=f"{why} {worded.why}".strip())
    return replace(worded, asks=asks)


def _fitted(judgement: Judgement) -> str:
    """What has been fitted or mended."""
    names = [in_sentence(unit_name(judgement.sheet, unit, [])) for unit in judgement.posterior.fitted]
    return f"{' and '.join(names)} fitted"


def _worded(judgement: Judgement, proposal: Proposal) -> NextStep:
    """The planner's act, worded, with where on the pages it is done."""
    words = instruction(judgement.sheet, judgement.state, proposal.test)
    why = why_of(judgement, judgement.outcomes(proposal))
    test: Test = proposal.test
    minutes = proposal.minutes
    match test:
        case Looked() | Measured() | Said() | Sensed():
            return NextStep(Stage.LOOK, words.act, why, words.moves, words.cautions, minutes)
        case AtPlug(mode=mode):
            return NextStep(Stage.LOOK, words.act, why, words.moves, words.cautions, minutes, mode=mode)
        case Turned(fan=fan):
            return NextStep(
                Stage.TRACE, words.act, why, words.moves, words.cautions, minutes, trace=f"{fan}.tach"
            )
        case Changed(probe=probe):
            return _reading(judgement, probe, words.act, why, words, minutes)
    return _reading(judgement, test, words.act, why, words, minutes)


def _reading(
    judgement: Judgement, probe: Probe, act: str, why: str, words: Instruction, minutes: float | None = None
) -> NextStep:
    sheet, setup = judgement.sheet, probe.setup
    sensor = next((item for item in sheet.sensors if item.pins and set(item.pins) == set(probe.pair)), None)
    function = function_of(sheet, probe)
    named = next((item.name for item in circuits_of(sheet).functions if item.id == function), "")
    return NextStep(
        Stage.PROBE if probe.at_temperature else Stage.TRACE,
        f"{named}: {in_sentence(act)}" if named else act,
        why,
        words.moves,
        words.cautions,
        minutes,
        sensor=sensor,
        trace=function,
        red=probe.red,
        black=probe.black,
        meter=setup.meter.value,
        mode=setup.mode,
        pulled=setup.pulled,
    )


def function_of(sheet: Sheet, probe: Probe) -> str:
    """The function whose path both points lie on, else one of them; empty where none does."""
    best = ("", 0)
    for item in circuits_of(sheet).functions:
        path = circuits_of(sheet).trace(item.id, sheet.resting_mode, live=False)
        labels = {name for point in path.points for name in (point.label, point.node)}
        hits = len(labels & set(probe.pair))
        if hits > best[1]:
            best = (item.id, hits)
    return best[0]


def why_of(judgement: Judgement, outcomes: tuple[Outcome, ...]) -> str:
    """What each likely outcome would leave, in a line."""
    told = []
    for each in outcomes[:3]:
        if each.leaves and each.chance >= LIKELY_OUTCOME:
            unit, chance = each.leaves[0]
            known = judgement.weigher.known
            best = max(known.of_unit(unit), key=lambda place: judgement.posterior.now[place])
            name = unit_name(judgement.sheet, unit, [known.all[int(best)].name])
            told.append(f"{each.text}: {in_sentence(name)} ({percent(chance)})")
    return "; ".join(told) + "." if told else ""


LIKELY_OUTCOME = 0.03
"""Outcomes less likely than this are not told beforehand."""


def _without_circuit(standing: Standing) -> NextStep:
    """A sheet without harness lines has no circuit to judge by: its looks and sensors are what there is."""
    sheet = standing.sheet
    if len(standing.observations) < ENOUGH_LOOKS:
        why = "This sheet has no harness lines, so nothing is foretold of its circuit: look first."
        return NextStep(Stage.LOOK, "Look before you open anything", why)
    for sensor in sheet.sensors:
        if not standing.readings_of(sensor):
            name = sheet.sensor_name(sensor).lower()
            why = "This sheet has no harness lines; its sensors can be measured all the same."
            return NextStep(Stage.PROBE, f"Measure the {name}", why, sensor=sensor)
    why = "This sheet has no harness lines, and its sensors are measured: what is left is yours to judge."
    return NextStep(Stage.CLOSE, "Decide", why)


def stage_done(standing: Standing, stage: Stage) -> bool:
    """Whether a stage has what the next one builds on."""
    match stage:
        case Stage.CALL:
            return standing.call is not None and standing.plate is not None
        case Stage.LOOK:
            return standing.power is not Power.UNKNOWN and len(standing.observations) >= ENOUGH_LOOKS
        case Stage.DECODE:
            return bool(standing.codes)
        case Stage.OPEN:
            return any(isinstance(body, StepDone) for body in standing.bodies)
        case Stage.PROBE:
            return any(body.temperature is not None for body in standing.all_of(ReadingTaken))
        case Stage.TRACE:
            return any(reading.function for _, reading in standing.meter_readings)
    return standing.outcome is not None and stage is Stage.CLOSE


def function_to_trace(sheet: Sheet, component: str) -> str:
    """The function that tells most about a component, empty for sensors (they have a stage of their own)
    and parts without a circuit."""
    if sheet.component(component).kind is ComponentKind.THERMISTOR:
        return ""
    return next((item.id for item in circuits_of(sheet).functions if item.component == component), "")
