"""What the unit does under each hypothesis: functions from the settled circuit, states and looks through the
causal table, codes by the board's own rules on the signals it would see.

Everything is a chance per hypothesis (H), in one fixed order; nothing here looks at a call.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from frostcore.circuit.kept import circuits_of
from frostcore.diagnosis.causal import (
    COMPLAINTS,
    LOOKS,
    MISTAKEN,
    NOT_MEANT,
    RAISED_FOR_NOTHING,
    SHOWN,
    STATES,
    UNNOTICED,
    USUAL,
    Link,
)
from frostcore.diagnosis.functions import Functions
from frostcore.diagnosis.hypotheses import Floats, hypotheses_of
from frostcore.diagnosis.rules import Rules
from frostcore.sheet.model import ComponentKind, Sheet
from frostcore.tape.looks import LOOKS as TO_LOOK_AT
from frostcore.tape.looks import look as look_named


@dataclass(frozen=True)
class Behaviour:
    """What each hypothesis (H) does: states by name, each look's answers (answers × H), how surely each
    code's rule holds and how likely it is shown, watts at the plug by mode."""

    states: dict[str, Floats]
    looks: dict[str, Floats]
    rules: dict[str, Floats]
    codes: dict[str, Floats]
    watts: dict[str, Floats]
    hertz: dict[str, Floats]
    """By fan: what its tachometer gives, as a share of a sound one's."""

    noticed: Floats
    """How likely each makes somebody call a repairer."""

    complaints: dict[str, Floats]
    """By complaint: how likely it is what they call for."""

    def state(self, name: str) -> Floats:
        """A state's chance; none where nothing brings it about."""
        return self.states.get(name, np.zeros_like(self.no_code))

    def look(self, look: str, answer: str) -> Floats:
        """The chance of an answer."""
        answers = [item.id for item in look_named(look).answers]
        found: Floats = self.looks[look][answers.index(answer)]
        return found

    @cached_property
    def no_code(self) -> Floats:
        """The chance that no code is shown."""
        found: Floats = np.ones(next(iter(self.looks.values())).shape[1])
        for chance in self.codes.values():
            found = found * (1 - chance)
        return found

    def zone(self, zone: str) -> Mapping[str, Floats]:
        """How likely a compartment is too warm, right, or too cold."""
        warm = self.state(f"warm {zone}")
        cold = self.state(f"cold {zone}") * (1 - warm)
        return {"warm": warm, "right": 1 - warm - cold, "cold": cold}


def behaviour_of(sheet: Sheet) -> Behaviour:
    """A sheet's, kept with its circuits; CircuitError where they foretell nothing."""
    kept = circuits_of(sheet).foretelling.kept
    if "behaviour" not in kept:
        kept["behaviour"] = behave(sheet)
    found: Behaviour = kept["behaviour"]
    return found


AMOUNTS = (0.15, 0.85)
"""Beside its usual one a fault that comes in amounts is looked at by these shares of its spread."""


def behave(sheet: Sheet) -> Behaviour:
    """What the unit does; of faults that come in amounts, on the mean over their amounts."""
    whole = _behave(Functions(sheet))
    spread = np.array([bool(item.fault and item.fault.spread) for item in hypotheses_of(sheet).all])
    if not spread.any():
        return whole
    every = [whole, *(_behave(Functions(sheet, share)) for share in AMOUNTS)]

    def mean(name: str) -> dict[str, Floats]:
        tables = [getattr(each, name) for each in every]
        nothing = np.zeros(len(spread))
        keys = dict.fromkeys(key for table in tables for key in table)
        rows = {key: [table.get(key, nothing) for table in tables] for key in keys}
        return {key: np.where(spread, np.mean(row, axis=0), row[0]) for key, row in rows.items()}

    noticed = np.where(spread, np.mean([each.noticed for each in every], axis=0), whole.noticed)
    states, looks, rules, codes, watts, complaints = (
        mean(name) for name in ("states", "looks", "rules", "codes", "watts", "complaints")
    )
    return Behaviour(states, looks, rules, codes, watts, whole.hertz, noticed, complaints)


def _behave(functions: Functions) -> Behaviour:
    """All that follows from what runs."""
    sheet, states = functions.sheet, _States(functions)
    rules = Rules(functions, states.found)
    holds = {code.id: rules.holds(code) for code in sheet.codes}
    lit = 1 - states.of("display dark")
    codes = {
        name: (RAISED_FOR_NOTHING + (SHOWN - RAISED_FOR_NOTHING) * chance) * lit
        for name, chance in holds.items()
    }
    shown = 1 - np.prod([1 - chance for chance in codes.values()], axis=0) if codes else functions.none
    looks = {
        look.id: _answers(look.id, [answer.id for answer in look.answers], states, shown)
        for look in TO_LOOK_AT
    }
    noticed, complaints = _noticed(functions.zones, states, shown)
    wired = {point for run in sheet.harness for point in run.points}
    fans = [part for part in sheet.components if part.kind is ComponentKind.FAN_DC and part.nominal.rpm]
    fans = [fan for fan in fans if f"{fan.id}.tach" in wired]
    hertz = {fan.id: functions.turning(fan) for fan in fans}
    return Behaviour(states.found, looks, holds, codes, functions.watts, hertz, noticed, complaints)


def _noticed(zones: list[str], states: "_States", code: Floats) -> tuple[Floats, dict[str, Floats]]:
    """How likely somebody calls, and how likely it is for what, given that they do."""
    each: dict[str, Floats] = {}
    for name, causes in COMPLAINTS.items():
        for zone in zones if "{zone}" in name else [""]:
            left: Floats = np.ones_like(code)
            for state, chance in causes:
                there = code if state == "code" else states.of(state.format(zone=zone))
                left = left * (1 - chance * there)
            each[name.format(zone=zone)] = 1 - left
    noticed: Floats = 1 - np.prod([1 - chance for chance in each.values()], axis=0)
    each["other"] = np.full_like(code, UNNOTICED)
    whole = np.sum(list(each.values()), axis=0)
    for name, share in each.items():
        each[name] = (1 - NOT_MEANT) * share / whole + NOT_MEANT / len(each)
        each[name][-1] = 1 / len(each)  # what nobody models is complained of in any way
    return np.asarray(UNNOTICED + (1 - UNNOTICED) * noticed), each


class _States:
    """The states of the unit, from its causes by one pass through the table."""

    def __init__(self, functions: Functions) -> None:
        self.found, self._none = dict(functions.causes), functions.none
        for link in STATES:
            placed = "{zone}" in link.effect or "{zone}" in link.cause
            for zone in functions.zones if placed else [""]:
                self._join(link, zone)
        for name in ("air still", "air weak", "fan slow", "cold", "lamp stays on", "shut off"):
            for zone in functions.zones:
                self._add(f"any {name}", self.of(f"{name} {zone}"))

    def of(self, name: str) -> Floats:
        """A state's chance; none where nothing brings it about."""
        return self.found.get(name, self._none)

    def _join(self, link: Link, zone: str) -> None:
        self._add(link.effect.format(zone=zone), self.brings(link, zone))

    def brings(self, link: Link, zone: str = "") -> Floats:
        """How likely a link brings about its effect."""
        found = link.chance * self.of(link.cause.format(zone=zone))
        return found * (1 - self.of(link.unless.format(zone=zone))) if link.unless else found

    def _add(self, name: str, chance: Floats) -> None:
        self.found[name] = 1 - (1 - self.of(name)) * (1 - chance)


def _answers(look: str, answers: list[str], states: _States, code: Floats) -> Floats:
    """P(answer | hypothesis), answers × H: what causes an answer, else what is usual, and mistakes."""
    raw = np.zeros((len(answers), len(code)))
    for link in LOOKS:
        owner, _, answer = link.effect.partition(":")
        if owner == look:
            at = answers.index(answer)
            raw[at] = 1 - (1 - raw[at]) * (1 - states.brings(link))
    if "code" in answers:
        raw[answers.index("code")] = code
    some = 1 - np.prod(1 - raw, axis=0)
    usual = np.array([USUAL[look].get(answer, 0.0) for answer in answers])
    found = some * raw / np.maximum(raw.sum(axis=0), 1e-12) + (1 - some) * usual[:, None] / usual.sum()
    flat: Floats = (1 - MISTAKEN) * found + MISTAKEN / len(answers)
    flat[:, -1] = 1 / len(answers)  # what nobody models foretells nothing
    return flat
