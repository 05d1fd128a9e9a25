"""Where a call stands: a pure function of (sheet, tape). Nothing here is stored, nothing is judged anew.

Replay only puts entries in their places and folds the moments between them, in time linear in the tape.
Whether an entry fits is asked when it is recorded (:mod:`frostcore.tape.take`), never on reading.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from functools import cached_property
from typing import Any, TypeVar

from frostcore.circuit.meter import MeterRange
from frostcore.curves.belief import Belief, believe
from frostcore.curves.kinds import ErrorKinds, explain
from frostcore.curves.known import KnownCurve
from frostcore.curves.verdict import SensorVerdict
from frostcore.display.condition import sensors_in
from frostcore.errors import FrostError
from frostcore.quantity import Dimension, format_value
from frostcore.sheet.model import Code, Sensor, Sheet, burns, squeezed
from frostcore.tape.entries import (
    Attached,
    Body,
    CallTaken,
    Checked,
    CodeSeen,
    Entry,
    ModeSet,
    Observed,
    Outcome,
    PlateRead,
    Power,
    PowerSet,
    ReadingTaken,
    SheetTaken,
    TemperatureTaken,
    Unreadable,
    Withdrawn,
)
from frostcore.tape.learned import CodeLearned
from frostcore.tape.moment import Moment
from frostcore.tape.on_bench import OnBench, on_bench
from frostcore.tape.reading import Fall, JudgedReading, falls_due, judge_reading, limits_of, sensor_of
from frostcore.verdict import Judged, Verdict

Kind = TypeVar("Kind")


@dataclass(frozen=True)
class Slip:
    """An entry as the tape shows it: the moment it was made in, and what became of it since."""

    entry: Entry
    moment: Moment
    superseded_by: str = ""

    @property
    def standing(self) -> bool:
        """Whether the entry still counts (not corrected, not taken back, not itself a taking-back)."""
        return not self.superseded_by and not isinstance(self.entry.body, Withdrawn | Unreadable)

    @property
    def power(self) -> Power:
        """The power state it was made in."""
        return self.moment.power

    @property
    def mode(self) -> str:
        """The mode it was made in."""
        return self.moment.mode


@dataclass(frozen=True)
class Standing:
    """A call as its tape leaves it: the tape as it was recorded, all slips in their order, those that count,
    and the moment now."""

    tape: tuple[Entry, ...]
    slips: tuple[Slip, ...]
    effective: tuple[Slip, ...]
    now: Moment
    _judged: dict[str, Judged | None] = field(default_factory=dict, compare=False, repr=False)
    kept: dict[str, Any] = field(default_factory=dict, compare=False, repr=False)
    """What layers above work out of it once."""

    @property
    def sheet(self) -> Sheet:
        """The sheet the call is worked with now."""
        return self.now.sheet

    @property
    def unit(self) -> str:
        """What unit it is: maker and model of its sheet; where only its kind is known, what its plate says,
        with the kind."""
        if not self.sheet.generic:
            return self.sheet.title
        kind = self.sheet.plate.model
        read = self.plate.model if self.plate else ""
        return f"{read} ({kind})" if read else kind[:1].upper() + kind[1:]

    @property
    def power(self) -> Power:
        """The power state now."""
        return self.now.power

    @property
    def mode(self) -> str:
        """The id of the mode the unit is in now; empty while the power state is not known."""
        return self.now.mode

    @property
    def pulled(self) -> tuple[str, ...]:
        """The connectors that are pulled now, in the order they were."""
        return self.now.pulled

    def latest(self, kind: type[Kind]) -> Kind | None:
        """The newest standing body of a kind."""
        return next(
            (slip.entry.body for slip in reversed(self.effective) if isinstance(slip.entry.body, kind)), None
        )

    def all_of(self, kind: type[Kind]) -> tuple[Kind, ...]:
        """Every standing body of a kind, oldest first."""
        return tuple(slip.entry.body for slip in self.effective if isinstance(slip.entry.body, kind))

    @property
    def call(self) -> CallTaken | None:
        """The call as taken."""
        return self.latest(CallTaken)

    @property
    def plate(self) -> PlateRead | None:
        """The rating plate as read."""
        return self.latest(PlateRead)

    @property
    def outcome(self) -> Outcome | None:
        """How the call ended, or None while it is open."""
        return self.latest(Outcome)

    @cached_property
    def on_bench(self) -> OnBench | None:
        """The board that is out and on the mat, with what has been read on it; None where none is."""
        return on_bench(self.bodies)

    def photographs_of(self, slip: Slip) -> tuple[Attached, ...]:
        """The files kept that show an entry, or one it corrects."""
        mine, at = {slip.entry.id}, slip
        while at.entry.supersedes and (before := self.slip(at.entry.supersedes)):
            mine.add(before.entry.id)
            at = before
        return tuple(body for body in self.all_of(Attached) if body.of in mine)

    def slip(self, identifier: str) -> Slip | None:
        """The slip of an entry's id."""
        return self._by_id.get(identifier)

    @cached_property
    def _by_id(self) -> dict[str, Slip]:
        return {slip.entry.id: slip for slip in self.slips}

    def moment_at(self, made: datetime) -> Moment:
        """The moment an entry made then falls into: an entry that arrives late stands where it was made."""
        later = next(
            (slip for slip in self.slips if not slip.entry.supersedes and slip.entry.at > made), None
        )
        return later.moment if later else self.now

    @cached_property
    def mode_slip(self) -> Slip | None:
        """The slip that put the unit in its mode, or None when it is in it by itself."""
        found = next(
            (slip for slip in reversed(self.effective) if isinstance(slip.entry.body, ModeSet | PowerSet)),
            None,
        )
        entered = found and isinstance(found.entry.body, ModeSet) and found.entry.body.state == "entered"
        return found if entered else None

    @cached_property
    def mode_ends(self) -> datetime | None:
        """When the mode the unit was put in ends by itself; None where it doesn't."""
        mode = next((item for item in self.sheet.modes if item.id == self.mode), None)
        if self.mode_slip is None or mode is None or not mode.timeout_minutes:
            return None
        return self.mode_slip.entry.at + timedelta(minutes=mode.timeout_minutes)

    def needs_power(self, meter: MeterRange) -> Power | None:
        """The power state a meter's position needs, when the tape says another."""
        wanted = Power.LIVE if meter.live else Power.UNPLUGGED
        return None if self.power is wanted else wanted

    def judged(self, slip: Slip) -> Judged | None:
        """The verdict on a slip, judged on the sheet of its moment; None where there is nothing to judge.

        What this version can't judge says so instead of raising.
        """
        identifier = slip.entry.id
        if identifier not in self._judged:
            self._judged[identifier] = _judged(slip)
        return self._judged[identifier]

    def judged_reading(self, slip: Slip) -> JudgedReading | None:
        """The verdict on a reading's slip; None for other kinds and for what can't be judged."""
        found = self.judged(slip)
        return found if isinstance(found, JudgedReading) else None

    def reading_verdict(self, identifier: str) -> JudgedReading | None:
        """The verdict on the reading of an entry's id."""
        slip = self.slip(identifier)
        return self.judged_reading(slip) if slip else None

    @cached_property
    def readings(self) -> tuple[Slip, ...]:
        """Every standing reading's slip, oldest first."""
        return tuple(slip for slip in self.effective if isinstance(slip.entry.body, ReadingTaken))

    @cached_property
    def meter_readings(self) -> tuple[tuple[str, ReadingTaken], ...]:
        """(entry id, reading) of every standing reading between two points with the wiring as it is now,
        oldest first."""
        return tuple(
            (slip.entry.id, slip.entry.body)
            for slip in self.readings
            if isinstance(slip.entry.body, ReadingTaken)
            and slip.entry.body.red
            and slip.moment.plan == self.now.plan
        )

    @cached_property
    def falls_due(self) -> tuple[Fall, ...]:
        """Outputs that must be read again because their mode has been left."""
        readings: list[tuple[ReadingTaken, int]] = []
        entered: dict[str, int] = {}
        every_mode_left = -1
        for place, slip in enumerate(self.effective):
            match slip.entry.body:
                case ReadingTaken() as body if body.red and body.mode and slip.moment.plan == self.now.plan:
                    readings.append((body, place))
                case ModeSet(mode=mode, state="entered"):
                    entered[mode] = place
                case ModeSet() | PowerSet(state="unplugged"):
                    every_mode_left = place
        left = [
            max((at for mode, at in entered.items() if mode != body.mode), default=-1) > place
            or every_mode_left > place
            for body, place in readings
        ]
        return falls_due(
            self.sheet, [(body, gone) for (body, _), gone in zip(readings, left, strict=True)], self.mode
        )

    @cached_property
    def bodies(self) -> tuple[Body, ...]:
        """The bodies that count, oldest first."""
        return tuple(
            slip.entry.body for slip in self.effective if not isinstance(slip.entry.body, Unreadable)
        )

    @cached_property
    def observations(self) -> dict[str, Observed]:
        """The latest answer to each look."""
        return {body.look: body for body in self.all_of(Observed)}

    @cached_property
    def temperatures(self) -> dict[str, TemperatureTaken]:
        """The latest thermometer reading of each compartment."""
        return {body.place: body for body in self.all_of(TemperatureTaken)}

    @cached_property
    def codes(self) -> tuple[CodeSeen, ...]:
        """Every code seen, oldest first."""
        return self.all_of(CodeSeen)

    @cached_property
    def known_codes(self) -> tuple[Code, ...]:
        """The sheet's codes among those seen, each once."""
        known = {code.id: code for code in self.sheet.codes}
        names = dict.fromkeys(self.code_of(seen) for seen in self.codes)
        return tuple(known[name] for name in names if name in known)

    def code_of(self, seen: CodeSeen) -> str:
        """The code it was seen as; where that was none of the sheet's, the one that was learned for it since;
        empty where none was."""
        if seen.code or not self.learned_codes:
            return seen.code
        return self.learned_codes.get(squeezed(seen.shown), "")

    @cached_property
    def learned_codes(self) -> dict[str, str]:
        """The codes that were learned on this call, by what they show."""
        told = self.all_of(CodeLearned)
        known = {code.shown.text: code.id for code in self.sheet.codes}
        return {squeezed(body.shown): known[body.shown] for body in told if body.shown in known}

    @property
    def flammable(self) -> str:
        """The refrigerant, as read from the plate or else as the sheet has it, when either burns."""
        names = (self.plate.refrigerant if self.plate else "", self.sheet.plate.refrigerant)
        return next((name for name in names if burns(name)), "")

    def readings_of(self, sensor: Sensor, newest: int | None = None) -> tuple[tuple[str, SensorVerdict], ...]:
        """(entry id, verdict) of the standing readings that a sensor's curve could judge, oldest first: all
        of them, or the newest so many."""
        found: list[tuple[str, SensorVerdict]] = []
        for slip in reversed(self.readings):
            if newest is not None and len(found) >= newest:
                break
            body = slip.entry.body
            if not isinstance(body, ReadingTaken) or body.sensor not in {"", sensor.id}:
                continue
            mine = sensor_of(slip.moment.sheet, body)
            judged = self.judged_reading(slip) if mine and mine.id == sensor.id else None
            if judged and judged.by_curve:
                found.append((slip.entry.id, judged.by_curve))
        return tuple(reversed(found))

    def error_kinds(self, sensor: Sensor, library: tuple[KnownCurve, ...]) -> ErrorKinds | None:
        """What kind of error explains the newest readings of a sensor, or None before the first."""
        found = self.readings_of(sensor, MOST_POINTS)
        if not found:
            return None
        limits = [
            limits_of(slip.moment.sheet, sensor, slip.entry.body)
            for slip in (self._by_id[identifier] for identifier, _ in found)
            if isinstance(slip.entry.body, ReadingTaken)
        ]
        widest = max(limits, key=lambda each: (each.doubt_kelvin, each.meter))
        points = [verdict.point for _, verdict in found]
        return explain(self.sheet.curve(sensor), points, widest, library)

    def belief(self, sensor: Sensor, verdict: SensorVerdict) -> Belief | None:
        """What the board believes under a reading, for a sensor that holds a set-point.

        Set against its compartment's thermometer.
        """
        error = None if verdict.verdict is Verdict.UNCLEAR else verdict.error_kelvin
        if sensor.set_point_celsius is None or error is None:
            return None
        place = self.sheet.component(sensor.component).place
        while place and place not in self.temperatures:
            place = self.sheet.place(place).inside
        found = self.temperatures[place].temperature.value if place else None
        return believe(sensor.set_point_celsius, error, found)


def _judged(slip: Slip) -> Judged | None:
    body = slip.entry.body
    if isinstance(body, Checked):
        return Judged(verdict=Verdict(body.verdict), reason=body.detail) if body.verdict else None
    if not isinstance(body, ReadingTaken):
        return None
    try:
        return judge_reading(slip.moment, body)
    except (FrostError, KeyError) as error:
        return Judged(verdict=Verdict.UNCLEAR, reason=f"This can't be judged on this sheet: {error}")


def in_order(entries: Iterable[Entry]) -> list[Entry]:
    """Entries as the tape runs: the call first, then by when each was made.

    What was made at the same time runs as it was recorded; an entry that arrives late, from a screen that
    was out of reach, stands where it was made.
    """
    return sorted(entries, key=lambda entry: (not _opens(entry), entry.at))


def _opens(entry: Entry) -> bool:
    return isinstance(entry.body, CallTaken) and not entry.supersedes


def stand(sheet: Sheet, entries: Iterable[Entry], sheets: Mapping[str, Sheet] | None = None) -> Standing:
    """Replay a tape, its entries given in the order they were recorded.

    A correction counts at the place of what it corrects. ``sheets`` are those the call may have moved to,
    by digest.
    """
    recorded, sheets = tuple(entries), sheets or {}
    latest: dict[str, Entry] = {}
    origin: dict[str, str] = {}
    superseded_by: dict[str, str] = {}
    for entry in recorded:
        slot = origin.get(entry.supersedes, entry.id)
        if slot != entry.id:
            superseded_by[entry.supersedes] = entry.id
        latest[slot], origin[entry.id] = entry, slot
    moment, moments, order = Moment(sheet), {}, []
    for entry in in_order(entry for entry in recorded if origin[entry.id] == entry.id):
        moments[entry.id] = moment
        order.append(entry.id)
        moment = moment.after(latest[entry.id].body, sheets)
    slips = {
        entry.id: Slip(entry, moments[origin[entry.id]], superseded_by.get(entry.id, ""))
        for entry in in_order(recorded)
    }
    effective = tuple(slips[latest[slot].id] for slot in order if slips[latest[slot].id].standing)
    return Standing(recorded, tuple(slips.values()), effective, moment)


def sheets_wanted(entries: Iterable[Entry]) -> tuple[str, ...]:
    """The digests of the sheets a tape moves to."""
    return tuple(dict.fromkeys(entry.body.digest for entry in entries if isinstance(entry.body, SheetTaken)))


MOST_POINTS = 12
"""Readings of a sensor weighed together: more than anyone takes on a call, few enough to weigh at once."""

ROOM = "room"


def thermometer_places(sheet: Sheet) -> dict[str, str]:
    """Where a thermometer (not the display) is read on a first look: id and name of each compartment, and
    the room."""
    return {place.id: place.name for place in sheet.compartments} | {ROOM: "Room"}


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
            sensor.id,
            "can be read from the board with nothing opened" if sensor.pins else "not measured yet",
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
        if ours is not None and theirs is not None and abs(ours - theirs) > PLATE_SHARE * theirs
    ]
    if read.refrigerant and sheet.refrigerant and squeezed(read.refrigerant) != squeezed(sheet.refrigerant):
        found.append(f"refrigerant: plate {read.refrigerant}, sheet {sheet.refrigerant}")
    known = {squeezed(name) for name in (sheet.model, *sheet.models)}
    if not standing.sheet.generic and not any(squeezed(read.model).startswith(name) for name in known):
        found.append(f"model: plate {read.model}, sheet {sheet.model}")
    return tuple(found)


PLATE_SHARE = 0.1
"""A plate's value differs from the sheet's when it is further off than this share of it."""
