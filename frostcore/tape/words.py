"""A slip in words, for the tape on screen and on paper."""

from dataclasses import dataclass

from frostcore.circuit.meter import MeterRange
from frostcore.quantity import format_celsius
from frostcore.tape.entries import (
    PROOFS,
    CallTaken,
    Checked,
    CodeSeen,
    MeterRead,
    ModeSet,
    Noted,
    Observed,
    Outcome,
    PartFitted,
    PlateRead,
    PlugMoved,
    PowerSet,
    SensorRead,
    StepDone,
    TemperatureTaken,
    Withdrawn,
)
from frostcore.tape.looks import look
from frostcore.tape.standing import Slip, Standing, thermometer_places


@dataclass(frozen=True)
class SlipWords:
    """A slip's parts: what it is about, the main figure or word, what was typed for it, and the rest.

    ``odd`` marks what a healthy unit does not show.
    """

    title: str
    figure: str
    typed: str = ""
    detail: str = ""
    points: str = ""
    odd: bool = False


def words(standing: Standing, slip: Slip) -> SlipWords:
    """The words of one slip."""
    sheet, body = standing.sheet, slip.entry.body
    match body:
        case CallTaken():
            return SlipWords("Call", body.customer, detail=f"“{body.complaint}”")
        case PlateRead():
            parts = (
                body.serial and f"serial {body.serial}",
                body.mains_volts and f"{body.mains_volts:g} V",
                body.mains_hertz and f"{body.mains_hertz:g} Hz",
                body.refrigerant,
            )
            return SlipWords("Rating plate", body.model, detail=", ".join(part for part in parts if part))
        case PowerSet():
            return SlipWords("Power", "UNPLUGGED" if body.state == "unplugged" else "LIVE")
        case Observed():
            answer = look(body.look).answer(body.answer)
            return SlipWords(look(body.look).name, answer.text, detail=body.note, odd=answer.odd)
        case TemperatureTaken():
            return SlipWords(
                thermometer_places(sheet)[body.place],
                format_celsius(body.temperature.value),
                body.temperature.typed,
                "by thermometer",
            )
        case CodeSeen():
            code = sheet.code(body.code) if body.code else None
            lamps = f"; lamps lit: {', '.join(body.lamps)}" if body.lamps else ""
            return SlipWords(
                "Code", body.shown, detail=(code.meaning if code else "not on this sheet") + lamps, odd=True
            )
        case SensorRead():
            verdict = standing.verdicts[slip.entry.id]
            name = sheet.sensor_name(sheet.sensor(body.sensor))
            points = " to ".join(point for point in (body.red, body.black) if point)
            kept = ", kept as typed when asked" if body.kept else ""
            if body.volts:
                points = f"{points}, {body.volts.text} at the board"
            return SlipWords(
                name,
                body.resistance.text,
                (body.volts or body.resistance).typed,
                f"at {format_celsius(body.temperature.value)}: {verdict.verdict.label}{kept}",
                points,
            )
        case ModeSet():
            mode = sheet.mode(body.mode)
            return SlipWords("Mode entered" if body.state == "entered" else "Mode left", mode.name)
        case PlugMoved():
            return SlipWords(
                "Plug pulled" if body.state == "pulled" else "Plug put back",
                body.connector,
                detail=sheet.connector(body.connector).name,
            )
        case StepDone():
            place = sheet.place(body.place)
            step = place.steps[body.step]
            counted = step.fasteners if body.counted is None else body.counted
            count = f"{counted} × {step.fastener}" if counted else ""
            return SlipWords(
                "Opened" if body.state == "opened" else "Closed again",
                place.name,
                detail=step.do,
                points=count,
            )
        case MeterRead():
            verdict = standing.meter_verdicts[slip.entry.id]
            setup = ", ".join(
                part
                for part in (
                    MeterRange(body.meter).label,
                    sheet.mode(body.mode).name.lower(),
                    " and ".join(body.pulled) + " pulled" if body.pulled else "",
                )
                if part
            )
            name = "phantom voltage" if verdict.phantom else verdict.verdict.label
            kept = ", kept as typed when asked" if body.kept else ""
            return SlipWords(
                f"{body.red} to {body.black}",
                body.value.text,
                body.value.typed,
                f"{name}; should be {verdict.expected.text}{kept}",
                setup,
            )
        case PartFitted():
            return SlipWords("Part fitted", sheet.component(body.component).name, detail=body.note)
        case Noted():
            return SlipWords("Note", "", detail=body.text)
        case Checked():
            return SlipWords(
                f"Quick check: {body.check}",
                body.figure,
                detail=body.detail,
                odd=body.verdict not in {"", "in_band", "unclear"},
            )
        case Outcome():
            proofs = ", ".join(text for identifier, text in PROOFS if identifier in body.proofs)
            return SlipWords(
                "Outcome",
                body.result.label,
                detail=" ".join(part for part in (body.done, f"Proof: {proofs}." if proofs else "") if part),
            )
        case Withdrawn():
            return SlipWords("Taken back", "", detail=body.why)
