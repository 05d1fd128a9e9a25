"""Where a call stands: a pure function of (sheet, tape).

Nothing here is stored.
"""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from functools import cached_property

from frostcore.circuit.element import CircuitError
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import MeterRange
from frostcore.curves.belief import Belief, believe
from frostcore.curves.divider import Divider
from frostcore.curves.kinds import ErrorKinds, explain
from frostcore.curves.known import KnownCurve
from frostcore.curves.verdict import Limits, SensorVerdict, judge_sensor
from frostcore.display.condition import sensors_in
from frostcore.errors import CurveError, TapeError
from frostcore.quantity import Dimension, format_value
from frostcore.sheet.model import Code, Sensor, Sheet, squeezed
from frostcore.tape.entries import (
    Body,
    CallTaken,
    CodeSeen,
    Entry,
    MeterRead,
    ModeSet,
    Observed,
    Outcome,
    PlateRead,
    PlugMoved,
    Power,
    PowerSet,
    SensorRead,
    StepDone,
    TemperatureTaken,
    Withdrawn,
)
from frostcore.tape.looks import look
from frostcore.tape.probing import Fall, MeterVerdict, falls_due, judge_reading, setup_questions
from frostcore.verdict import Question, Verdict


@dataclass(frozen=True)
class Slip:
    """An entry as the tape shows it: the power state and mode it was made in, and what became of it
    since."""

    entry: Entry
    power: Power
    mode: str = ""
    superseded_by: str = ""

    @property
    def standing(self) -> bool:
        """Whether the entry still counts (not corrected, not taken back, not itself a taking-back)."""
        return not self.superseded_by and not isinstance(self.entry.body, Withdrawn)


@dataclass(frozen=True)
class Standing:
    """A call as its tape leaves it."""

    sheet: Sheet
    slips: tuple[Slip, ...]
    effective: tuple[Slip, ...]

    def _latest(self, kind: type[Body]) -> Body | None:
        return next(
            (slip.entry.body for slip in reversed(self.effective) if isinstance(slip.entry.body, kind)), None
        )

    @property
    def call(self) -> CallTaken | None:
        """The call as taken."""
        return self._latest(CallTaken)

    @property
    def plate(self) -> PlateRead | None:
        """The rating plate as read."""
        return self._latest(PlateRead)

    @property
    def outcome(self) -> Outcome | None:
        """How the call ended, or None while it is open."""
        return self._latest(Outcome)

    @property
    def power(self) -> Power:
        """The power state now."""
        latest = self._latest(PowerSet)
        return Power(latest.state) if latest else Power.UNKNOWN

    @cached_property
    def mode(self) -> str:
        """The id of the mode the unit is in now; empty while the power state is not known."""
        return _mode_now(self.sheet, list(self.bodies))

    @cached_property
    def mode_slip(self) -> Slip | None:
        """The slip that put the unit in its mode, or None when it is in it by itself."""
        latest = next(
            (slip for slip in reversed(self.effective) if isinstance(slip.entry.body, ModeSet | PowerSet)),
            None,
        )
        return (
            latest
            if latest and isinstance(latest.entry.body, ModeSet) and latest.entry.body.state == "entered"
            else None
        )

    @cached_property
    def mode_ends(self) -> datetime | None:
        """When the mode the unit was put in ends by itself; None where it doesn't."""
        minutes = self.sheet.mode(self.mode).timeout_minutes if self.mode_slip else None
        return self.mode_slip.entry.at + timedelta(minutes=minutes) if self.mode_slip and minutes else None

    def needs_power(self, meter: MeterRange) -> Power | None:
        """The power state a meter's position needs, when the tape says another."""
        wanted = Power.LIVE if meter.live else Power.UNPLUGGED
        return None if self.power is wanted else wanted

    @cached_property
    def pulled(self) -> tuple[str, ...]:
        """The connectors that are pulled now, in the order they were."""
        found: dict[str, None] = {}
        for slip in self.effective:
            match slip.entry.body:
                case PlugMoved(connector=connector, state=state):
                    names, out = (connector,), state == "pulled"
                case StepDone(place=place, step=step, state=state):
                    names, out = self.sheet.place(place).steps[step].plugs, state == "opened"
                case _:
                    continue
            for name in names:
                if out:
                    found[name] = None
                else:
                    found.pop(name, None)
        return tuple(found)

    @cached_property
    def meter_readings(self) -> tuple[tuple[str, MeterRead], ...]:
        """(entry id, reading) of every standing meter reading, oldest first."""
        return tuple(
            (slip.entry.id, slip.entry.body)
            for slip in self.effective
            if isinstance(slip.entry.body, MeterRead)
        )

    @cached_property
    def meter_verdicts(self) -> dict[str, MeterVerdict]:
        """The verdict on each meter reading that stands or ever stood, by entry id."""
        return {
            slip.entry.id: judge_reading(self.sheet, slip.entry.body)
            for slip in self.slips
            if isinstance(slip.entry.body, MeterRead)
        }

    @cached_property
    def falls_due(self) -> tuple[Fall, ...]:
        """Outputs that must be read again because their mode has been left."""
        readings: list[tuple[MeterRead, bool]] = []
        for slip in self.effective:
            body = slip.entry.body
            if isinstance(body, MeterRead):
                readings.append((body, False))
            elif isinstance(body, ModeSet | PowerSet):
                readings = [(reading, left or _leaves(reading, body)) for reading, left in readings]
        return falls_due(self.sheet, readings, self.mode)

    @cached_property
    def bodies(self) -> tuple[Body, ...]:
        """The bodies that count, oldest first."""
        return tuple(slip.entry.body for slip in self.effective)

    @cached_property
    def observations(self) -> dict[str, Observed]:
        """The latest answer to each look."""
        return {
            slip.entry.body.look: slip.entry.body
            for slip in self.effective
            if isinstance(slip.entry.body, Observed)
        }

    @cached_property
    def temperatures(self) -> dict[str, TemperatureTaken]:
        """The latest thermometer reading of each compartment."""
        return {
            slip.entry.body.place: slip.entry.body
            for slip in self.effective
            if isinstance(slip.entry.body, TemperatureTaken)
        }

    @cached_property
    def codes(self) -> tuple[CodeSeen, ...]:
        """Every code seen, oldest first."""
        return tuple(slip.entry.body for slip in self.effective if isinstance(slip.entry.body, CodeSeen))

    @cached_property
    def known_codes(self) -> tuple[Code, ...]:
        """The sheet's codes among those seen, each once."""
        return tuple(
            self.sheet.code(identifier)
            for identifier in dict.fromkeys(seen.code for seen in self.codes if seen.code)
        )

    @cached_property
    def verdicts(self) -> dict[str, SensorVerdict]:
        """The verdict on each sensor reading that stands or ever stood, by entry id."""
        return {
            slip.entry.id: self.judge(slip.entry.body)
            for slip in self.slips
            if isinstance(slip.entry.body, SensorRead)
        }

    def judge(self, reading: SensorRead) -> SensorVerdict:
        """The verdict on one reading under this sheet."""
        sensor = self.sheet.sensor(reading.sensor)
        return judge_sensor(self.sheet.curve(sensor), reading.point, self.limits_of(reading), sensor.role)

    def limits_of(self, reading: SensorRead) -> Limits:
        """The limits of a reading.

        One taken in volts at the board has the pull-up's tolerance in its meter's share.
        """
        limits = reading.limits(self.sheet.sensor(reading.sensor).working_tolerance)
        divider = divider_of(self.sheet, reading.sensor)
        if reading.volts is None or divider is None:
            return limits
        return replace(limits, meter=min(0.9, divider.doubt_share(reading.volts.value, reading.meter)))

    def error_kinds(self, sensor: Sensor, library: tuple[KnownCurve, ...]) -> ErrorKinds | None:
        """What kind of error explains all readings of a sensor, or None before the first."""
        bodies = [
            slip.entry.body
            for slip in self.effective
            if isinstance(slip.entry.body, SensorRead) and slip.entry.body.sensor == sensor.id
        ]
        if not bodies:
            return None
        widest = max(
            (self.limits_of(body) for body in bodies), key=lambda limits: (limits.doubt_kelvin, limits.meter)
        )
        return explain(self.sheet.curve(sensor), [body.point for body in bodies], widest, library)

    def belief(self, sensor: Sensor, verdict: SensorVerdict) -> Belief | None:
        """What the board believes under a reading, for a sensor that holds a set-point.

        Set against its compartment's thermometer.
        """
        if (
            sensor.set_point_celsius is None
            or verdict.error_kelvin is None
            or verdict.verdict is Verdict.UNCLEAR
        ):
            return None
        place = self.sheet.component(sensor.component).place
        while place and place not in self.temperatures:
            place = self.sheet.place(place).inside
        found = self.temperatures[place].temperature.value if place else None
        return believe(sensor.set_point_celsius, verdict.error_kelvin, found)

    def readings_of(self, sensor: Sensor) -> tuple[tuple[str, SensorVerdict], ...]:
        """(entry id, verdict) of every standing reading of a sensor, oldest first."""
        return tuple(
            (slip.entry.id, self.verdicts[slip.entry.id])
            for slip in self.effective
            if isinstance(slip.entry.body, SensorRead) and slip.entry.body.sensor == sensor.id
        )


def stand(sheet: Sheet, entries: Iterable[Entry]) -> Standing:
    """Replay a tape.

    A correction counts at the place of what it corrects.     Raises TapeError when an entry does not fit
    what stands before it.
    """
    order: list[str] = []
    latest: dict[str, Entry] = {}
    origin: dict[str, str] = {}
    superseded_by: dict[str, str] = {}
    entries = tuple(entries)
    for entry in entries:
        check_fits(sheet, entry, {slot: latest[slot] for slot in order}, origin)
        if entry.supersedes:
            slot = origin[entry.supersedes]
            superseded_by[entry.supersedes] = entry.id
        else:
            slot = entry.id
            order.append(slot)
        latest[slot], origin[entry.id] = entry, slot
    power, power_at, mode_at, bodies = Power.UNKNOWN, {}, {}, []
    for slot in order:
        power_at[slot], mode_at[slot] = power, _mode_now(sheet, bodies)
        bodies.append(latest[slot].body)
        if isinstance(latest[slot].body, PowerSet):
            power = Power(latest[slot].body.state)
    slips = {
        entry.id: Slip(
            entry, power_at[origin[entry.id]], mode_at[origin[entry.id]], superseded_by.get(entry.id, "")
        )
        for entry in entries
    }
    effective = tuple(
        slips[latest[slot].id] for slot in order if not isinstance(latest[slot].body, Withdrawn)
    )
    return Standing(sheet, tuple(slips.values()), effective)


def _leaves(reading: MeterRead, body: ModeSet | PowerSet) -> bool:
    """Whether an act takes the unit out of the mode a reading was taken in."""
    if isinstance(body, PowerSet):
        return body.state == "unplugged"
    return body.state == "left" or body.mode != reading.mode


def _mode_now(sheet: Sheet, bodies: list[Body]) -> str:
    """The mode after these bodies: the one entered last.

    Without one, the first that goes with the power state.
    """
    power = Power.UNKNOWN
    for body in reversed(bodies):
        if isinstance(body, PowerSet):
            power = Power(body.state)
            break
        if isinstance(body, ModeSet) and body.state == "entered":
            return body.mode
        if isinstance(body, ModeSet):
            power = Power.LIVE if sheet.mode(body.mode).live else Power.UNPLUGGED
            break
    if power is Power.UNKNOWN:
        return ""
    return next(
        (mode.id for mode in sheet.modes if mode.live is (power is Power.LIVE)),
        sheet.modes[0].id if sheet.modes else "",
    )


def divider_of(sheet: Sheet, sensor: str) -> Divider | None:
    """The pull-up divider the board reads a sensor through, or None when the sheet does not tell."""
    for board in sheet.boards:
        for channel in board.sensor_inputs:
            if channel.sensor == sensor:
                return Divider(channel.reference_volts, channel.pullup_ohms)
    return None


DEAD_VOLTS = 1.0
"""Below this nothing is live."""

ROOM = "room"


def thermometer_places(sheet: Sheet) -> dict[str, str]:
    """Where a thermometer (not the display) is read on a first look: id and name of each compartment, and
    the room."""
    return {place.id: place.name for place in sheet.compartments} | {ROOM: "Room"}


def check_fits(sheet: Sheet, entry: Entry, latest: dict[str, Entry], origin: dict[str, str]) -> None:
    """Raise TapeError, worded for the repairer, when an entry can't follow the tape before it.

    ``latest`` holds the newest entry of each slot, ``origin`` the slot of every entry so far.
    """
    body = entry.body
    if entry.id in origin:
        message = "This slip is already on the tape."
        raise TapeError(message)
    if entry.supersedes:
        slot = origin.get(entry.supersedes)
        if slot is None:
            message = (
                "The slip to correct is not on this call's tape. Open it from the tape and correct it there."
            )
            raise TapeError(message)
        current = latest[slot]
        if current.id != entry.supersedes:
            message = "That slip was corrected already. Correct its newest version."
            raise TapeError(message)
        if not isinstance(body, Withdrawn) and type(current.body) is not type(body):
            message = (
                f"A slip can be corrected only by one of its own kind: this one is “{current.body.kind}”, not"
                f" “{body.kind}”."
            )
            raise TapeError(message)
        if isinstance(current.body, CallTaken) and isinstance(body, Withdrawn):
            message = "The call itself can't be taken back; correct it instead."
            raise TapeError(message)
    else:
        if isinstance(body, Withdrawn):
            message = "Taking back needs the slip that is taken back."
            raise TapeError(message)
        if any(isinstance(slot_entry.body, Outcome) for slot_entry in latest.values()):
            message = "This call is closed. Take back its outcome on the tape to go on with it."
            raise TapeError(message)
    _check_names(sheet, body)


def _check_names(sheet: Sheet, body: Body) -> None:
    """Names on a slip must lead somewhere on the sheet or in the tables of the trade."""
    try:
        match body:
            case SensorRead():
                sheet.sensor(body.sensor)
                judge_sensor(sheet.curve(sheet.sensor(body.sensor)), body.point, body.limits(0.1))
            case CodeSeen(code=code) if code:
                sheet.code(code)
            case TemperatureTaken():
                thermometer_places(sheet)[body.place]
            case Observed():
                look(body.look).answer(body.answer)
            case ModeSet():
                sheet.mode(body.mode)
            case PlugMoved():
                sheet.connector(body.connector)
            case StepDone():
                _check_step(sheet, body)
            case MeterRead():
                meter_setup(sheet, body)
    except KeyError as error:
        message = f"There is no {error} for the {sheet.title}. Choose one of those shown."
        raise TapeError(message) from None
    except (CurveError, CircuitError) as error:
        raise TapeError(str(error)) from None
    component = getattr(body, "component", "") or getattr(body, "cause", "")
    if component and component not in {item.id for item in sheet.components}:
        message = (
            f"There is no part “{component}” on the sheet of the {sheet.title}. Choose one from the list."
        )
        raise TapeError(message)


def _check_step(sheet: Sheet, body: StepDone) -> None:
    steps = sheet.place(body.place).steps
    if not 0 <= body.step < len(steps):
        message = (
            f"The way to {sheet.place(body.place).name.lower()} has {len(steps)} steps, and no step"
            f" {body.step + 1}. Choose one of those shown."
        )
        raise TapeError(message)


def meter_setup(sheet: Sheet, body: MeterRead) -> None:
    """Raise CircuitError or KeyError when a reading's points, mode or connectors are not on the sheet."""
    circuits_of(sheet).reading(body.mode, MeterRange(body.meter), body.red, body.black, body.pulled)


def questions_about(standing: Standing, body: Body, power: Power | None = None) -> tuple[Question, ...]:
    """What to ask before a body goes on the tape: a contradiction with the power state, a unit slip.

    ``power`` is the state at the place of a correction; the present one when None. Questions already
    answered with «as typed» (``body.kept``) are not asked again.
    """
    if not isinstance(body, SensorRead | MeterRead):
        return ()
    state = standing.power if power is None else power
    questions = []
    if isinstance(body, MeterRead) and MeterRange(body.meter).live:
        if state is not Power.LIVE:
            said = "UNPLUGGED" if state is Power.UNPLUGGED else "nothing of the plug"
            text = (
                f"The tape says {said}, and you read {body.value.text}. Volts need the plug in; with it out"
                " they mean a charged capacitor or a second supply: keep clear. Was the plug in?"
            )
            if state is Power.UNKNOWN or (body.value.value or 0.0) > DEAD_VOLTS:
                questions.append(Question("volts_unplugged", text, "power", "live"))
    elif isinstance(body, SensorRead) and body.volts is not None:
        if state is not Power.LIVE:
            questions.append(
                Question(
                    "volts_unplugged",
                    "Volts at the board need the plug in, and the tape does not say LIVE. Was it in when you"
                    " read this?",
                    "power",
                    "live",
                )
            )
    elif state is Power.LIVE:
        questions.append(
            Question(
                "ohms_live",
                "The tape says LIVE, and ohms are measured with the plug out: a live circuit falsifies the"
                " reading and can kill the meter. Was the plug out?",
                "power",
                "unplugged",
            )
        )
    elif state is Power.UNKNOWN:
        questions.append(
            Question(
                "ohms_power_unknown",
                "The power state is not on the tape yet. Ohms need the plug out. Was it out?",
                "power",
                "unplugged",
            )
        )
    if isinstance(body, MeterRead):
        questions += setup_questions(standing.sheet, body)
    elif body.volts is None:
        questions += standing.judge(body).questions
    return tuple(question for question in questions if question_id(question) not in body.kept)


def question_id(question: Question) -> str:
    """A stable name for one question, to remember that it was answered."""
    return f"{question.kind}:{question.field}" if question.field else question.kind


def suspect_sensors(standing: Standing) -> tuple[tuple[Sensor, str], ...]:
    """Sensors worth measuring, likeliest first, each with why: watched by a code seen, implicated by one,
    then the rest."""
    sheet = standing.sheet
    ranked: dict[str, str] = {}
    for code in standing.known_codes:
        for sensor in sensors_in(sheet, code.condition):
            ranked.setdefault(sensor.id, f"code {code.id} watches it")
    for code in standing.known_codes:
        for implicated in code.implicates:
            for sensor in sheet.sensors:
                if sensor.component == implicated.component:
                    ranked.setdefault(sensor.id, f"code {code.id}: {implicated.why}")
    for sensor in sheet.sensors:
        ranked.setdefault(
            sensor.id, "can be read from the board with nothing opened" if sensor.pins else "not measured yet"
        )
    return tuple((sheet.sensor(identifier), why) for identifier, why in ranked.items())


def plate_differences(standing: Standing) -> tuple[str, ...]:
    """Where the plate as read differs from the sheet the call is worked with."""
    read, sheet = standing.plate, standing.sheet.plate
    if read is None:
        return ()
    pairs = (
        ("mains", read.mains_volts, sheet.mains_volts, Dimension.VOLTAGE),
        ("frequency", read.mains_hertz, sheet.mains_hertz, Dimension.FREQUENCY),
        ("defrost heater", read.defrost_heater_watts, sheet.defrost_heater_watts, Dimension.POWER),
    )
    found = [
        f"{name}: plate {format_value(ours, dimension)}, sheet {format_value(theirs, dimension)}"
        for name, ours, theirs, dimension in pairs
        if ours is not None and theirs is not None and abs(ours - theirs) > 0.1 * theirs
    ]
    if read.refrigerant and sheet.refrigerant and read.refrigerant.upper() != sheet.refrigerant.upper():
        found.append(f"refrigerant: plate {read.refrigerant}, sheet {sheet.refrigerant}")
    known = {squeezed(name) for name in (sheet.model, *sheet.models)}
    if not any(squeezed(read.model).startswith(name) for name in known):
        found.append(f"model: plate {read.model}, sheet {sheet.model}")
    return tuple(found)
