"""The working place of a call: the one act to do now, its own field or its answers to tap, what each way it
may come out would mean, and what could be done instead.

No rules of the job here.
"""

import uuid
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django.forms.boundfield import BoundField
from django.http import QueryDict

from frostcore.circuit.meter import MeterRange
from frostcore.diagnosis.acts import Move
from frostcore.diagnosis.evidence import AtPlug, Changed, Looked, Measured, Said, Sensed, Turned
from frostcore.diagnosis.now import Branch, Now, dimension_of, taken_branch
from frostcore.diagnosis.planner import Test
from frostcore.diagnosis.probes import Probe
from frostcore.diagnosis.step import NextStep
from frostcore.errors import QuantityError
from frostcore.quantity import Ambiguous, parse
from frostcore.remedy.wayin import way_to
from frostcore.sheet.points import plug_known, plug_name
from frostcore.tape.entries import Power
from frostcore.tape.stages import Stage
from frostcore.tape.standing import Standing
from frostline.calls import forms
from frostline.calls.judging import now_on

READING = ("value",)


@dataclass(frozen=True)
class Field:
    """How an act is put on the tape: its form, what of it is hidden, the fields that are typed, or the name
    of the one that is tapped with its answers; and in words how it is kept."""

    form: forms.SlipForm
    hidden: tuple[tuple[str, str], ...]
    typed: tuple[BoundField, ...] = ()
    tapped: str = ""
    answers: tuple[Branch, ...] = ()
    kept: str = ""


@dataclass(frozen=True)
class Tap:
    """An entry of its own on the way to an act: its form's kind and hidden fields, the button's words, the
    fasteners that come out where any are counted."""

    kind: str
    fields: tuple[tuple[str, str], ...]
    label: str
    slip_id: uuid.UUID
    counted: int = 0


@dataclass(frozen=True)
class MoveShown:
    """A step on the way to the act, with the taps that record it."""

    text: str
    taps: tuple[Tap, ...] = ()
    caution: str = ""


@dataclass(frozen=True)
class Working:
    """What the working place shows."""

    now: Now
    field: Field | None
    moves: tuple[MoveShown, ...]
    others: tuple[tuple[str, Any], ...]
    """Addresses, and what each would be."""

    @property
    def cautions(self) -> tuple[str, ...]:
        """Those of the act that do not stand at one of its steps."""
        there = {move.caution for move in self.moves}
        return tuple(line for line in self.now.step.cautions if line not in there)

    @property
    def form(self) -> forms.SlipForm | None:
        """The form the page shows."""
        return self.field.form if self.field else None


def working(standing: Standing, query: QueryDict, posted: forms.SlipForm | None) -> Working:
    """What to do now, with the form that puts it on the tape; ``posted`` where it was sent and not taken."""
    now = now_on(standing, str(query.get("act", "")))
    field = _field(standing, now, posted) if not standing.outcome else None
    others = tuple((f"?{urlencode({'act': other.asks})}", other) for other in now.others)
    moves = tuple(shown for move in now.step.moves for shown in _moves(standing, move))
    return Working(now, field, moves, others)


def _moves(standing: Standing, move: Move) -> Iterator[MoveShown]:
    """A step on the way as it is shown: a place to be opened by each of its steps that is still to do."""
    if standing.outcome:
        yield MoveShown(move.text)
        return
    match move.kind:
        case "unplug":
            yield MoveShown(move.text, (_tap("power_set", "Plug is out", {"state": "unplugged"}),))
        case "open":
            yield from _opening(standing, move)
        case "pull" | "back":
            state, word = ("pulled", "out") if move.kind == "pull" else ("plugged", "in")
            taps = (
                _tap("plug_moved", f"{_plug(standing, name)} {word}", {"connector": name, "state": state})
                for name in move.of
            )
            yield MoveShown(move.text, tuple(taps))
        case "mode" if standing.mode != move.of[0]:
            yield MoveShown(move.text, (_entered(standing, move.of[0]),))
        case _:
            yield MoveShown(move.text)


def _plug(standing: Standing, name: str) -> str:
    """A plug as a tap says it: what is printed there, or that it is the plug just told of."""
    return plug_name(standing.sheet, name) if plug_known(standing.sheet, name) else "It is"


def _opening(standing: Standing, move: Move) -> Iterator[MoveShown]:
    (name,) = move.of
    steps = [step for step in way_to(standing.sheet, name, standing.bodies).steps if step.place.id == name]
    if not steps:
        yield MoveShown(move.text)
    for item in steps:
        if item.done:
            continue
        fields = {"place": name, "step": str(item.number), "state": "opened"}
        tap = _tap("step_done", "Done", fields, item.step.fasteners)
        yield MoveShown(item.sentence, (tap,), item.step.caution)


def _entered(standing: Standing, mode: str) -> Tap:
    """That the unit is in a mode, and its plug in where that is a mode of that kind."""
    fields = {"mode": mode, "state": "entered"}
    if standing.sheet.mode(mode).live and standing.power is not Power.LIVE:
        fields["set_power"] = "live"
    return _tap("mode_set", "It is in it", fields)


def _tap(kind: str, label: str, fields: dict[str, str], counted: int = 0) -> Tap:
    return Tap(kind, tuple(fields.items()), label, uuid.uuid4(), counted)


def _field(standing: Standing, now: Now, posted: forms.SlipForm | None) -> Field | None:
    kind, hidden, typed, tapped = _asked(standing, now.step, now.test)
    if not kind:
        return None
    form = posted if posted is not None and _is_of(posted, kind, hidden) else None
    form = form or forms.FORMS[kind](initial=dict(hidden), sheet=standing.sheet)
    bound = tuple(form[name] for name in typed)
    if bound:
        bound[0].field.widget.attrs["data-focus"] = True
    answers = now.branches or tuple(Branch(words, state, None, ()) for state, words in PLUG.items())
    return Field(form, tuple(hidden), bound, tapped, answers, _kept(standing, dict(hidden)))


def _is_of(posted: forms.SlipForm, kind: str, hidden: list[tuple[str, str]]) -> bool:
    """Whether a form that was sent is of the act that stands there; another's figure is never shown as if it
    were this one's."""
    told = {name: value for name, value in hidden if name != "set_power"}
    return posted.kind == kind and all(posted.data.get(name, "") == value for name, value in told.items())


def typed_branch(standing: Standing, query: QueryDict) -> dict[str, Any]:
    """Which branch of the act the figure being typed would take, and what it would leave; empty where it is
    no figure yet."""
    instead, typed = str(query.get("act", "")), str(query.get("typed", "")).strip()
    dimension = dimension_of(now_on(standing, instead).test)
    if not typed or dimension is None:
        return {}
    try:
        quantity = parse(typed, dimension)
    except QuantityError:
        return {}
    taken = None if isinstance(quantity, Ambiguous) else taken_branch(standing, quantity, instead)
    return {"number": taken.number, "leaves": taken.leaves} if taken else {}


PLUG = {"live": "Plug is in", "unplugged": "Plug is out"}


Asked = tuple[str, list[tuple[str, str]], tuple[str, ...], str]


def _asked(standing: Standing, step: NextStep, test: Test | None) -> Asked:
    """A form's kind, its hidden fields, the typed ones, the tapped one; none where the act is done
    elsewhere."""
    match test:
        case None:
            return _before(standing, step)
        case Probe():
            return _reading(standing, step, test)
        case Said():
            return "complained", [], (), "complaint"
        case Changed(how=how, probe=probe):
            return "tried", [("how", how), *_points(step, probe)], (), "changes"
    kind, name, field, typed, tapped = ONE_FIELD[type(test)]
    return kind, [(name, getattr(test, field))], typed, tapped


ONE_FIELD: dict[type, tuple[str, str, str, tuple[str, ...], str]] = {
    Looked: ("observed", "look", "look", (), "answer"),
    Sensed: ("felt", "component", "component", (), "what"),
    Measured: ("temperature_taken", "place", "place", ("temperature",), ""),
    AtPlug: ("watts_taken", "mode", "mode", ("watts",), ""),
    Turned: ("hertz_taken", "component", "fan", ("hertz",), ""),
}
"""Of tests with one field beside their outcome: the form's kind, its hidden field and the test's, what is
typed, what is tapped."""


def _before(standing: Standing, step: NextStep) -> Asked:
    """What comes before any searching."""
    if step.stage is Stage.LOOK and standing.power is Power.UNKNOWN:
        return "power_set", [], (), "state"
    if step.stage is Stage.DECODE:
        return "code_seen", [], ("shown",), ""
    if step.red and step.meter:
        return _reading(standing, step, None)
    return "", [], (), ""


def _points(step: NextStep, probe: Probe | None) -> list[tuple[str, str]]:
    pulled = probe.setup.pulled if probe else step.pulled
    return [
        ("red", step.red),
        ("black", step.black),
        ("meter", step.meter),
        ("mode", step.mode),
        ("pulled", " ".join(pulled)),
    ]


def _reading(standing: Standing, step: NextStep, probe: Probe | None) -> Asked:
    hidden = [*_points(step, probe), ("function", step.trace)]
    need = "live" if MeterRange(step.meter).live else "unplugged"
    if standing.power != need:
        hidden.append(("set_power", need))
    if step.sensor and step.stage is Stage.PROBE:
        return "reading", [*hidden, ("sensor", step.sensor.id)], ("value", "temperature"), ""
    return "reading", hidden, READING, ""


def _kept(standing: Standing, hidden: dict[str, str]) -> str:
    """How what is typed will be kept, in words: the plug, the mode, the connectors that are out."""
    if "meter" not in hidden:
        return ""
    live = MeterRange(hidden["meter"]).live
    mode = standing.sheet.mode(hidden["mode"]).name.lower() if live and hidden["mode"] else ""
    out = f"{' and '.join(hidden['pulled'].split())} pulled" if hidden["pulled"] else ""
    told = ["plug in" if live else "plug out", mode, out]
    return ", ".join(word for word in told if word)
