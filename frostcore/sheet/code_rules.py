"""What a code's words mean to its board: a short list of rules that boards have, found by the words a paper
prints beside the code or chosen from the list."""

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from frostcore.curves.verdict import Role
from frostcore.quantity import celsius_from_fahrenheit
from frostcore.sheet.model import (
    ComponentKind,
    Condition,
    Sheet,
    Signal,
    SignalKind,
    SignalTest,
    TestState,
)
from frostcore.sheet.words import english, folded

DEFROST_ENDS_CELSIUS, DEFROST_SECONDS = 8.0, 2400.0
"""What a coil has reached at the end of a defrost, and how long one lasts at most, where a paper says
nothing."""

TOO_WARM_KELVIN, TOO_WARM_SECONDS = 8.0, 4 * 3600.0
"""How far above its set-point a compartment raises a code, and for how long, where a paper says nothing."""

LOW_RAIL_SHARE = 0.85


@dataclass(frozen=True)
class CodeRule:
    """One rule: its id, words with a place for what it is of, what it can be of on a sheet (id and name),
    its condition, and words by which papers tell it."""

    id: str
    words: str
    things: Callable[[Sheet], Iterator[tuple[str, str]]]
    condition: Callable[[Sheet, str], Condition]
    cues: re.Pattern[str]


def _sensors(sheet: Sheet) -> Iterator[tuple[str, str]]:
    for sensor in sheet.sensors:
        yield sensor.id, sheet.sensor_name(sensor)


def _coils(sheet: Sheet) -> Iterator[tuple[str, str]]:
    for sensor in sheet.sensors:
        if sensor.role is Role.DEFROST_END:
            yield sensor.id, sheet.sensor_name(sensor)


def _cabinets(sheet: Sheet) -> Iterator[tuple[str, str]]:
    for sensor in sheet.sensors:
        if sensor.set_point_celsius is not None:
            yield sensor.id, sheet.sensor_name(sensor)


def _fans(sheet: Sheet) -> Iterator[tuple[str, str]]:
    wired = {point for run in sheet.harness for point in run.points}
    for part in sheet.components:
        if part.kind is ComponentKind.FAN_DC and f"{part.id}.tach" in wired:
            yield part.id, part.name


_LINKED = {ComponentKind.INVERTER, ComponentKind.DISPLAY, ComponentKind.BOARD}


def _links(sheet: Sheet) -> Iterator[tuple[str, str]]:
    first = sheet.boards[0].component if sheet.boards else ""
    for part in sheet.components:
        if part.kind in _LINKED and part.id != first:
            yield part.id, part.name


def _rails(sheet: Sheet) -> Iterator[tuple[str, str]]:
    for board in sheet.boards:
        for rail in board.rails:
            yield rail.id, f"{rail.name} rail"


def _switches(sheet: Sheet) -> Iterator[tuple[str, str]]:
    for part in sheet.components:
        if part.kind is ComponentKind.DOOR_SWITCH:
            yield part.id, part.name


def _lost(_sheet: Sheet, of: str) -> Condition:
    signal = Signal(SignalKind.SENSOR, of)
    return Condition((SignalTest(signal, TestState.OPEN), SignalTest(signal, TestState.SHORT)))


def defrost_modes(sheet: Sheet) -> tuple[str, ...]:
    """The modes in which it defrosts, by their ids."""
    return tuple(mode.id for mode in sheet.modes if "defrost" in mode.id)


def _ends_by_time(sheet: Sheet, of: str) -> Condition:
    during = next(iter(defrost_modes(sheet)), "")
    test = SignalTest(
        Signal(SignalKind.SENSOR, of),
        TestState.NOT_ABOVE,
        DEFROST_ENDS_CELSIUS,
        "celsius",
        DEFROST_SECONDS,
        during,
    )
    return Condition((test,))


def _too_warm(sheet: Sheet, of: str) -> Condition:
    limit = (sheet.sensor(of).set_point_celsius or 0.0) + TOO_WARM_KELVIN
    test = SignalTest(Signal(SignalKind.SENSOR, of), TestState.ABOVE, limit, "celsius", TOO_WARM_SECONDS)
    return Condition((test,))


def _no_speed(_sheet: Sheet, of: str) -> Condition:
    return Condition((SignalTest(Signal(SignalKind.TACH, of), TestState.NO_PULSES, seconds=15.0),))


def _no_answer(_sheet: Sheet, of: str) -> Condition:
    return Condition((SignalTest(Signal(SignalKind.LINK, of), TestState.NO_ANSWER, seconds=30.0),))


def _low_rail(sheet: Sheet, of: str) -> Condition:
    volts = next(rail.volts for board in sheet.boards for rail in board.rails if rail.id == of)
    limit = round(LOW_RAIL_SHARE * volts, 2)
    test = SignalTest(Signal(SignalKind.RAIL, of), TestState.BELOW, limit, "volts", 2.0)
    return Condition((test,))


def _door(_sheet: Sheet, of: str) -> Condition:
    test = SignalTest(Signal(SignalKind.SWITCH, of), TestState.STAYS_OPEN, seconds=600.0)
    return Condition((test,))


def _words(*stems: str) -> re.Pattern[str]:
    return re.compile("|".join(stems), re.IGNORECASE)


RULES: tuple[CodeRule, ...] = (
    CodeRule(
        "defrost_by_time",
        "a defrost that does not reach its end, by {}",
        _coils,
        _ends_by_time,
        _words(r"defrost", r"abtau", r"sbrin", r"d[ée]giv", r"desescarch", r"sulat", r"avfrost"),
    ),
    CodeRule(
        "no_speed",
        "{} gives no speed signal",
        _fans,
        _no_speed,
        _words(r"\bfan\b", r"speed", r"l[üu]fter", r"drehzahl", r"ventil", r"puhallin", r"fl[äa]kt"),
    ),
    CodeRule(
        "no_answer",
        "{} does not answer",
        _links,
        _no_answer,
        _words(
            r"communi", r"answer", r"\blink\b", r"inverter", r"kommuni", r"antwort", r"verbind", r"yhteys"
        ),
    ),
    CodeRule(
        "too_warm",
        "too warm for too long, by {}",
        _cabinets,
        _too_warm,
        _words(r"too warm", r"high temp", r"over ?temp", r"zu warm", r"übertemp", r"troppo cald", r"liian l"),
    ),
    CodeRule(
        "low_rail",
        "{} sags",
        _rails,
        _low_rail,
        _words(r"\bsupply\b", r"voltage", r"undervolt", r"unterspann", r"alimentaz", r"jännite"),
    ),
    CodeRule(
        "door_open",
        "{} stays open",
        _switches,
        _door,
        _words(r"\bdoor\b", r"\bt[üu]r\b", r"porta", r"porte", r"puerta", r"ovi\b"),
    ),
    CodeRule(
        "sensor_lost",
        "{} reads open or short",
        _sensors,
        _lost,
        _words(
            r"sensor", r"thermistor", r"ntc", r"probe", r"f[üu]hler", r"sonda", r"sonde", r"anturi", r"givare"
        ),
    ),
)
"""Every rule, the particular before the general: a defrost sensor's open wire is told by “sensor” alone."""

_OPEN_OR_SHORT = _words(
    r"\bopen\b", r"short", r"unterbr", r"kurzschl", r"offen", r"apert", r"poikki", r"oikosul"
)


def rule_named(identifier: str) -> CodeRule:
    """The rule of an id; KeyError where there is none."""
    return next((rule for rule in RULES if rule.id == identifier), None) or _none(identifier)


def _none(identifier: str) -> CodeRule:
    raise KeyError(identifier)


def choices(sheet: Sheet) -> list[tuple[str, str]]:
    """Every rule that can be of something on a sheet, as (``rule:thing``, words)."""
    return [
        (f"{rule.id}:{of}", rule.words.format(f"the {name[:1].lower()}{name[1:]}"))
        for rule in RULES
        for of, name in rule.things(sheet)
    ]


def guessed(sheet: Sheet, meaning: str) -> str:
    """The rule that a paper's words mean, as in :func:`choices`; empty where they tell none, or more than one
    thing alike."""
    plain = english(meaning)
    rules = list(RULES)
    if _OPEN_OR_SHORT.search(folded(meaning)) or (_ABOUT_SENSOR.search(plain) and not _ENDS.search(plain)):
        rules.sort(key=lambda rule: rule.id != "sensor_lost")
    for rule in rules:
        lost = rule.id == "sensor_lost" and _OPEN_OR_SHORT.search(folded(meaning))
        if not lost and not rule.cues.search(f"{folded(meaning)} {plain}"):
            continue
        things = list(rule.things(sheet))
        if len(things) == 1:
            return f"{rule.id}:{things[0][0]}"
        scored = sorted(((_shared(name, plain), of) for of, name in things), reverse=True)
        if scored and scored[0][0] > 0 and (len(scored) == 1 or scored[0][0] > scored[1][0]):
            return f"{rule.id}:{scored[0][1]}"
        if things:
            return ""
    return ""


_ABOUT_SENSOR = _words(r"\bsensor\b")
_ENDS = _words(r"\bend", r"time", r"reach", r"beendet", r"zeit", r"termin", r"temperature", r"warm")
"""Words of what a sensor is to see, not of the sensor itself."""

_PLAIN = {"sensor", "fan", "switch", "rail", "the", "of", "board", "box"}


def _shared(name: str, meaning: str) -> float:
    """How many words of a thing's name the meaning has, but for those that every such thing has; a little
    less for each that it has not."""
    said = set(re.findall(r"\w+", meaning.lower()))
    own = {word for word in re.findall(r"\w+", name.lower()) if word not in _PLAIN}
    return len(own & said) - 0.1 * len(own - said)


_DEGREES = re.compile(r"([-+\u2212]?\d+(?:[.,]\d+)?)\s*°?\s*([CF])\b")
_LASTS = re.compile(
    r"(\d+(?:[.,]\d+)?)\s*(h|hours?|std|stunden|min|minutes?|minuten|s|sec|sek)\b", re.IGNORECASE
)


def with_figures(condition: Condition, meaning: str) -> Condition:
    """A condition with the temperature and the time its paper prints, where it prints them: “above −6 °C for
    4 h”."""
    degrees, lasts = _DEGREES.search(meaning), _LASTS.search(meaning)
    tests = []
    for test in condition.tests:
        changed = test
        if degrees and changed.unit == "celsius":
            value = float(degrees[1].replace("\u2212", "-").replace(",", "."))
            celsius = celsius_from_fahrenheit(value) if degrees[2] == "F" else value
            changed = replace(changed, threshold=round(celsius, 2))
        if lasts and changed.seconds is not None:
            unit = lasts[2][0].lower()
            seconds = float(lasts[1].replace(",", ".")) * {"h": 3600, "m": 60}.get(unit, 1)
            seconds *= 3600 if lasts[2].lower().startswith("st") else 1
            changed = replace(changed, seconds=seconds)
        tests.append(changed)
    return replace(condition, tests=tuple(tests))
