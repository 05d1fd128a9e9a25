"""The working place of a call: the one act to do now, its own field or its answers to tap, what each way it
may come out would mean, and what could be done instead.

No rules of the job here.
"""

from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django.forms.boundfield import BoundField
from django.http import QueryDict

from frostcore.circuit.meter import MeterRange
from frostcore.diagnosis.evidence import AtPlug, Changed, Looked, Measured, Said, Sensed, Turned
from frostcore.diagnosis.now import Branch, Now
from frostcore.diagnosis.planner import Test
from frostcore.diagnosis.probes import Probe
from frostcore.diagnosis.step import NextStep
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
class Working:
    """What the working place shows."""

    now: Now
    field: Field | None
    others: tuple[tuple[str, Any], ...]
    """Addresses, and what each would be."""

    @property
    def form(self) -> forms.SlipForm | None:
        """The form the page shows."""
        return self.field.form if self.field else None


def working(standing: Standing, query: QueryDict, posted: forms.SlipForm | None) -> Working:
    """What to do now, with the form that puts it on the tape; ``posted`` where it was sent and not taken."""
    now = now_on(standing, str(query.get("act", "")))
    field = _field(standing, now, posted) if not standing.outcome else None
    others = tuple((f"?{urlencode({'act': other.asks})}", other) for other in now.others)
    return Working(now, field, others)


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
