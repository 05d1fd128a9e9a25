"""Forms of the trace and the way in: modes, plugs, steps, meter readings."""

from typing import Any

from django import forms

from frostcore.circuit.meter import MeterRange
from frostcore.quantity import Dimension
from frostcore.sheet.points import plug_full
from frostcore.tape import entries
from frostcore.tape.noticed import FEELINGS, complaints_of
from frostline.calls.slip_form import SlipForm
from frostline.ui.forms import QuantityField


class ModeForm(SlipForm):
    """A mode, entered or left."""

    body = entries.ModeSet
    mode = forms.ChoiceField(label="Mode")
    state = forms.ChoiceField(
        label="The unit", choices=[("entered", "was put in it"), ("left", "was taken out of it")]
    )

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["mode"].choices = [(mode.id, mode.name) for mode in self.sheet.modes]


class WattsForm(SlipForm):
    """Watts at the plug, in a mode."""

    body = entries.WattsTaken
    mode = forms.ChoiceField(label="Mode")
    watts = QuantityField(Dimension.POWER, label="Plug meter shows")

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["mode"].choices = [(mode.id, mode.name) for mode in self.sheet.modes if mode.live]


class AmpsForm(SlipForm):
    """Amperes at the plug, in a mode."""

    body = entries.AmpsTaken
    mode = forms.ChoiceField(label="Mode")
    amperes = QuantityField(Dimension.CURRENT, label="Clamp shows")

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["mode"].choices = [(mode.id, mode.name) for mode in self.sheet.modes if mode.live]


class HertzForm(SlipForm):
    """Hertz of a fan's tachometer."""

    body = entries.HertzTaken
    component = forms.ChoiceField(label="Fan")
    hertz = QuantityField(Dimension.FREQUENCY, label="Meter on hertz shows")

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["component"].choices = [
            (part.id, part.name)
            for part in self.sheet.components
            if part.nominal.rpm and part.nominal.pulses_per_revolution
        ]


class ComplainedForm(SlipForm):
    """What the customer notices."""

    body = entries.Complained
    complaint = forms.ChoiceField(label="Customer notices")

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["complaint"].choices = list(complaints_of(self.sheet).items())


class FeltForm(SlipForm):
    """Something heard, felt or smelt at a part."""

    body = entries.Felt
    component = forms.ChoiceField(label="Part")
    what = forms.ChoiceField(
        label="Heard or felt", choices=[(name, feeling.words) for name, feeling in FEELINGS.items()]
    )

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["component"].choices = [(part.id, part.name) for part in self.sheet.components]


BARRED_WHY = (
    "no way to reach it",
    "no such meter here",
    "frozen in",
    "not safe here",
    "the customer says no",
)
"""Why something can't be done, one tap each."""


class BarredForm(SlipForm):
    """A proposed test that can't be made here."""

    body = entries.Barred
    act = forms.CharField(max_length=600, widget=forms.HiddenInput)
    name = forms.CharField(max_length=200, widget=forms.HiddenInput)
    why = forms.CharField(label="Why not", max_length=100, required=False)


class MainsForm(SlipForm):
    """Volts at the outlet."""

    body = entries.MainsTaken
    volts = QuantityField(Dimension.VOLTAGE, label="Outlet gives")


class TriedForm(SlipForm):
    """A harness moved, or a place warmed or chilled, with the meter on two points."""

    body = entries.Tried
    how = forms.ChoiceField(
        label="What was done",
        choices=[("move", "harness moved"), ("warm", "warmed"), ("chill", "chilled")],
    )
    red = forms.CharField(label="Red lead", max_length=60)
    black = forms.CharField(label="Black lead", max_length=60)
    meter = forms.ChoiceField(label="Meter on", choices=[(item.value, item.label) for item in MeterRange])
    mode = forms.CharField(label="Mode", max_length=60, required=False)
    pulled = forms.CharField(label="Connectors pulled", max_length=200, required=False)
    changes = forms.ChoiceField(label="The figure", choices=[("yes", "changes"), ("no", "stays")])

    def values(self) -> dict[str, Any]:
        names = self.cleaned_data.get("pulled", "").replace(",", " ").split()
        return super().values() | {"pulled": tuple(dict.fromkeys(names)) if "pulled" in self.data else None}

    @classmethod
    def initial_of(cls, body: entries.Tried) -> dict[str, Any]:
        return super().initial_of(body) | {"pulled": " ".join(body.pulled or ())}


class BridgedForm(SlipForm):
    """A load fed past its board."""

    body = entries.Bridged
    component = forms.ChoiceField(label="Load")
    runs = forms.ChoiceField(label="Fed past its board", choices=[("yes", "it runs"), ("no", "it does not")])

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["component"].choices = [(part.id, part.name) for part in self.sheet.components]


class PlugForm(SlipForm):
    """A connector, pulled or put back."""

    body = entries.PlugMoved
    connector = forms.ChoiceField(label="Connector")
    state = forms.ChoiceField(label="It was", choices=[("pulled", "pulled"), ("plugged", "put back")])

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["connector"].choices = [
            (connector.id, plug_full(self.sheet, connector.id)) for connector in self.sheet.connectors
        ]


class StepForm(SlipForm):
    """A step of a way in, done or undone, with what was counted."""

    body = entries.StepDone
    place = forms.ChoiceField(label="Where")
    step = forms.IntegerField(label="Step, counted from 0", min_value=0, max_value=50)
    state = forms.ChoiceField(label="It was", choices=[("opened", "opened"), ("closed", "closed again")])
    counted = forms.IntegerField(
        label="Fasteners counted",
        min_value=0,
        max_value=99,
        required=False,
        widget=forms.TextInput(attrs={"inputmode": "numeric", "autocomplete": "off"}),
    )

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["place"].choices = [(place.id, place.name) for place in self.sheet.places]


def focused(form: SlipForm, *, where: str = "") -> SlipForm:
    """A reading's form whose figure is what is typed next on its page; ``fine`` where a keypad would
    hide what is looked at first."""
    form.fields["value"].widget.attrs["data-focus"] = where
    return form


class ReadingForm(SlipForm):
    """A reading, in the setup the page shows: between two points, of a sensor, or both.

    ``value`` takes ohms or volts, as the meter is set.
    """

    body = entries.ReadingTaken
    meter = forms.ChoiceField(
        label="Meter on", choices=[(item.value, item.label) for item in MeterRange], initial="ohm"
    )
    value = QuantityField(Dimension.RESISTANCE, label="Meter shows")
    red = forms.CharField(label="Red lead", max_length=60, required=False)
    black = forms.CharField(label="Black lead", max_length=60, required=False)
    sensor = forms.ChoiceField(label="Sensor", required=False)
    temperature = QuantityField(Dimension.TEMPERATURE, label="Thermometer shows", required=False)
    doubt = QuantityField(
        Dimension.TEMPERATURE_DIFFERENCE, label="Thermometer good to", initial="0.5 K", required=False
    )
    accuracy = QuantityField(Dimension.FRACTION, label="Meter good to", initial="1 %", required=False)
    mode = forms.CharField(label="Mode", max_length=60, required=False)
    pulled = forms.CharField(label="Connectors pulled", max_length=200, required=False)
    function = forms.CharField(required=False, max_length=80, widget=forms.HiddenInput)
    kept = forms.CharField(required=False, widget=forms.HiddenInput)

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        sensors = [(sensor.id, self.sheet.sensor_name(sensor)) for sensor in self.sheet.sensors]
        self.fields["sensor"].choices = [("", "by the points"), *sensors]
        self.fields["temperature"].needed = bool(self._shown("sensor"))
        meter = self._shown("meter")
        if meter in {item.value for item in MeterRange}:
            label, attributes = self.fields["value"].label, self.fields["value"].widget.attrs
            self.fields["value"] = QuantityField(MeterRange(meter).dimension, label=label)
            self.fields["value"].widget.attrs.update({"id": attributes["id"]})

    def _shown(self, name: str) -> Any:
        return self.data.get(name) if self.is_bound else (self.initial or {}).get(name)

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        if cleaned.get("sensor") and cleaned.get("temperature") is None and "temperature" not in self.errors:
            self.add_error(
                "temperature",
                "Nothing typed. A sensor can’t be judged without its temperature; type what the thermometer"
                " shows, such as 21C.",
            )
        for name, top, example in (("doubt", 50, "0.5 K"), ("accuracy", 1, "1 %")):
            if cleaned.get(name) is not None and cleaned[name].value >= top:
                typed = cleaned[name].typed
                self.add_error(name, f"“{typed}” is too much to judge anything by. Type it like {example}.")
        return cleaned

    def pulled_names(self) -> tuple[str, ...] | None:
        """The connectors told as pulled; None where the form says nothing of plugs."""
        if "pulled" not in self.data:
            return None
        return tuple(dict.fromkeys(self.cleaned_data.get("pulled", "").replace(",", " ").split()))

    def values(self) -> dict[str, Any]:
        found, data = super().values(), self.cleaned_data
        del found["kept"], found["accuracy"]
        if data["doubt"] is not None:
            found["doubt_kelvin"] = data["doubt"].value
        if data["accuracy"] is not None:
            found["accuracy"] = data["accuracy"].value
        return found | {"pulled": self.pulled_names()}

    @classmethod
    def initial_of(cls, body: entries.ReadingTaken) -> dict[str, Any]:
        shown = {
            "value": body.value.typed or body.value.text,
            "doubt": f"{body.doubt_kelvin:g} K",
            "accuracy": f"{body.accuracy * 100:g} %",
            "kept": " ".join(body.kept),
        }
        return super().initial_of(body) | shown | {"pulled": " ".join(body.pulled or ())}
