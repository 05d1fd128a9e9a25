"""Forms of the trace and the way in: modes, plugs, steps, meter readings."""

from typing import Any

from django import forms

from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import MeterRange
from frostcore.errors import FrostError
from frostcore.quantity import Dimension
from frostcore.tape import entries
from frostline.calls.slip_form import SlipForm, answered
from frostline.ui.forms import QuantityField


class ModeForm(SlipForm):
    """A mode, entered or left."""

    kind = "mode_set"
    mode = forms.ChoiceField(label="Mode")
    state = forms.ChoiceField(
        label="The unit", choices=[("entered", "was put in it"), ("left", "was taken out of it")]
    )

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["mode"].choices = [(mode.id, mode.name) for mode in self.sheet.modes]

    def to_body(self) -> entries.ModeSet:
        return entries.ModeSet("mode_set", self.cleaned_data["mode"], self.cleaned_data["state"])


class PlugForm(SlipForm):
    """A connector, pulled or put back."""

    kind = "plug_moved"
    connector = forms.ChoiceField(label="Connector")
    state = forms.ChoiceField(label="It was", choices=[("pulled", "pulled"), ("plugged", "put back")])

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["connector"].choices = [
            (connector.id, f"{connector.id} {connector.name}") for connector in self.sheet.connectors
        ]

    def to_body(self) -> entries.PlugMoved:
        return entries.PlugMoved("plug_moved", self.cleaned_data["connector"], self.cleaned_data["state"])


class StepForm(SlipForm):
    """A step of a way in, done or undone, with what was counted."""

    kind = "step_done"
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

    def to_body(self) -> entries.StepDone:
        data = self.cleaned_data
        return entries.StepDone("step_done", data["place"], data["step"], data["state"], data["counted"])


class MeterForm(SlipForm):
    """A reading between two points, in the setup the page shows."""

    kind = "meter_read"
    red = forms.CharField(label="Red lead", max_length=60)
    black = forms.CharField(label="Black lead", max_length=60)
    meter = forms.ChoiceField(label="Meter on", choices=[(item.value, item.label) for item in MeterRange])
    value = QuantityField(Dimension.RESISTANCE, label="Meter shows")
    mode = forms.CharField(label="Mode", max_length=60)
    pulled = forms.CharField(label="Connectors pulled", max_length=200, required=False)
    function = forms.CharField(required=False, max_length=80, widget=forms.HiddenInput)
    kept = forms.CharField(required=False, widget=forms.HiddenInput)
    set_power = forms.ChoiceField(
        required=False,
        choices=[("", ""), ("unplugged", "unplugged"), ("live", "live")],
        widget=forms.HiddenInput,
    )

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        chosen = self.data.get("meter") if self.is_bound else (self.initial or {}).get("meter")
        if chosen in {item.value for item in MeterRange}:
            # The same field takes ohms or volts, as the meter is set.
            label, attributes = self.fields["value"].label, self.fields["value"].widget.attrs
            self.fields["value"] = QuantityField(MeterRange(chosen).dimension, label=label)
            self.fields["value"].widget.attrs.update({"id": attributes["id"]})

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        if {"red", "black", "meter", "mode"} <= cleaned.keys():
            try:
                circuits_of(self.sheet).reading(
                    cleaned["mode"],
                    MeterRange(cleaned["meter"]),
                    cleaned["red"],
                    cleaned["black"],
                    self.pulled_names(),
                )
            except FrostError as error:
                self.add_error(None, str(error))
        return cleaned

    def pulled_names(self) -> tuple[str, ...]:
        """The connectors pulled, as names."""
        return tuple(dict.fromkeys(self.cleaned_data.get("pulled", "").replace(",", " ").split()))

    def to_body(self) -> entries.MeterRead:
        data = self.cleaned_data
        return entries.MeterRead(
            "meter_read",
            data["red"],
            data["black"],
            data["meter"],
            data["value"],
            data["mode"],
            self.pulled_names(),
            data["function"],
            answered(self.data),
        )

    @classmethod
    def initial_of(cls, body: entries.MeterRead) -> dict[str, Any]:
        return super().initial_of(body) | {
            "value": body.value.typed or body.value.text,
            "pulled": " ".join(body.pulled),
            "kept": " ".join(body.kept),
        }
