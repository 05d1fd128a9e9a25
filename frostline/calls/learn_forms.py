"""Forms for what is learned of the unit itself: pins and colours, values, parts, codes, curves, stated
readings."""

from typing import Any

from django import forms

from frostcore.errors import QuantityError
from frostcore.quantity import Ambiguous, Dimension, parse
from frostcore.sheet.code_rules import choices, guessed
from frostcore.tape import learned
from frostcore.tape.learned_words import VALUE_DIMENSIONS, VALUE_NAMES
from frostline.calls.slip_form import SlipForm
from frostline.ui.forms import QuantityField

COLOURS = (
    *("black", "brown", "red", "orange", "yellow", "green", "blue", "violet", "grey", "white"),
    *("pink", "turquoise", "tan", "green-yellow"),
)


class _Printed(forms.CharField):
    """What is printed at a pin."""

    def __init__(self, label: str) -> None:
        attributes = {"autocomplete": "off", "autocapitalize": "characters", "placeholder": "CN2-5"}
        super().__init__(label=label, max_length=20, required=False, widget=forms.TextInput(attrs=attributes))


class _Colour(forms.ChoiceField):
    """A wire's colour."""

    def __init__(self, label: str) -> None:
        super().__init__(label=label, required=False, choices=[("", "not read"), *((c, c) for c in COLOURS)])


class PinsForm(SlipForm):
    """What is printed at the two leads' pins, and the colours of their wires."""

    body = learned.PinsLearned
    red_point = forms.CharField(max_length=60, widget=forms.HiddenInput)
    red_printed = _Printed("Printed at the red lead")
    red_colour = _Colour("Its wire")
    black_point = forms.CharField(max_length=60, required=False, widget=forms.HiddenInput)
    black_printed = _Printed("Printed at the black lead")
    black_colour = _Colour("Its wire")

    def values(self) -> dict[str, Any]:
        data, pins = self.cleaned_data, list[learned.PinSeen]()
        for lead in ("red", "black"):
            printed, colour = data[f"{lead}_printed"].strip(), data[f"{lead}_colour"]
            if data[f"{lead}_point"] and (printed or colour):
                pins.append(learned.PinSeen(data[f"{lead}_point"], printed, colour))
        return {"pins": tuple(pins)}

    @classmethod
    def initial_of(cls, body: learned.PinsLearned) -> dict[str, Any]:
        shown: dict[str, Any] = {}
        for lead, pin in zip(("red", "black"), body.pins, strict=False):
            shown |= {
                f"{lead}_point": pin.point,
                f"{lead}_printed": pin.printed,
                f"{lead}_colour": pin.colour,
            }
        return shown


class ValueForm(SlipForm):
    """A part's value, as printed or measured."""

    body = learned.ValueLearned
    component = forms.ChoiceField(label="Part")
    name = forms.ChoiceField(label="Its", choices=list(VALUE_NAMES.items()))
    value = forms.CharField(
        label="Value",
        max_length=40,
        widget=forms.TextInput(
            attrs={"autocomplete": "off", "inputmode": "decimal", "class": "field-figure"}
        ),
        error_messages={"required": "Nothing typed. Type the figure as printed, such as 118."},
    )
    source = forms.ChoiceField(
        label="Where from", choices=[("printed", "printed"), ("measured", "measured on a sound one")]
    )

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["component"].choices = [(part.id, part.name) for part in self.sheet.components]

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        name, typed = cleaned.get("name"), cleaned.get("value")
        if name and isinstance(typed, str) and typed:
            try:
                found = parse(typed, VALUE_DIMENSIONS[name])
            except QuantityError as error:
                self.add_error("value", str(error))
                return cleaned
            if isinstance(found, Ambiguous):
                options = " or ".join(choice.text for choice in found.choices)
                self.add_error("value", f"“{typed}” can mean {options}. Type it with its unit.")
                return cleaned
            cleaned["value"] = found
        return cleaned

    @classmethod
    def initial_of(cls, body: learned.ValueLearned) -> dict[str, Any]:
        return super().initial_of(body) | {"value": body.value.typed or body.value.text}


class PartForm(SlipForm):
    """A part's number and price."""

    body = learned.PartLearned
    component = forms.ChoiceField(label="Part")
    part_number = forms.CharField(label="Part number", max_length=60, required=False)
    price = forms.FloatField(
        label="Price",
        min_value=0,
        max_value=1_000_000,
        required=False,
        widget=forms.TextInput(attrs={"inputmode": "decimal"}),
    )

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["component"].choices = [(part.id, part.name) for part in self.sheet.components]


class CodeLearnedForm(SlipForm):
    """A code that the sheet has not, and what it stands for."""

    body = learned.CodeLearned
    shown = forms.CharField(label="Code, as shown", max_length=12)
    meaning = forms.CharField(
        label="What its paper says",
        max_length=200,
        widget=forms.TextInput(attrs={"autocomplete": "off"}),
    )
    rule = forms.ChoiceField(label="So the board detected", required=False)

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["rule"].choices = [("", "by those words"), *choices(self.sheet)]

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        cleaned["rule"] = cleaned.get("rule") or guessed(self.sheet, cleaned.get("meaning", ""))
        if not cleaned["rule"] and "rule" not in self.errors and cleaned.get("meaning"):
            told = f"“{cleaned['meaning']}” does not say what the board detected. Choose it from the list."
            self.add_error("rule", told)
        return cleaned

    def values(self) -> dict[str, Any]:
        rule, _, of = self.cleaned_data["rule"].partition(":")
        return super().values() | {"rule": rule, "of": of}

    @classmethod
    def initial_of(cls, body: learned.CodeLearned) -> dict[str, Any]:
        return super().initial_of(body) | {"rule": f"{body.rule}:{body.of}"}


class CurveLearnedForm(SlipForm):
    """A sensor's ohms at 25 °C."""

    body = learned.CurveLearned
    sensor = forms.ChoiceField(label="Sensor")
    ohms = QuantityField(Dimension.RESISTANCE, label="Ohms at 25 °C")
    beta_kelvin = forms.FloatField(
        label="Beta, kelvin", initial=3800, widget=forms.TextInput(attrs={"inputmode": "numeric"})
    )

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["sensor"].choices = [
            (item.id, self.sheet.sensor_name(item)) for item in self.sheet.sensors
        ]

    @classmethod
    def initial_of(cls, body: learned.CurveLearned) -> dict[str, Any]:
        return super().initial_of(body) | {"ohms": body.ohms.typed or body.ohms.text}


class StatedLearnedForm(SlipForm):
    """What the unit's paper states between two points."""

    body = learned.StatedLearned
    red = forms.CharField(max_length=60, widget=forms.HiddenInput)
    black = forms.CharField(max_length=60, widget=forms.HiddenInput)
    meter = forms.CharField(max_length=8, widget=forms.HiddenInput)
    mode = forms.CharField(max_length=60, required=False, widget=forms.HiddenInput)
    pulled = forms.CharField(max_length=200, required=False, widget=forms.HiddenInput)
    low = QuantityField(Dimension.RESISTANCE, label="From")
    high = QuantityField(Dimension.RESISTANCE, label="to")

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        meter = self.data.get("meter") if self.is_bound else (self.initial or {}).get("meter")
        if meter and meter != "ohm":
            for name in ("low", "high"):
                field = self.fields[name]
                self.fields[name] = QuantityField(Dimension.VOLTAGE, label=field.label)
                self.fields[name].widget.attrs["id"] = field.widget.attrs["id"]

    def values(self) -> dict[str, Any]:
        return super().values() | {"pulled": tuple(self.cleaned_data["pulled"].split())}

    @classmethod
    def initial_of(cls, body: learned.StatedLearned) -> dict[str, Any]:
        shown = {"low": body.low.typed or body.low.text, "high": body.high.typed or body.high.text}
        return super().initial_of(body) | shown | {"pulled": " ".join(body.pulled)}


LEARN_FORMS: tuple[type[SlipForm], ...] = (
    PinsForm,
    ValueForm,
    PartForm,
    CodeLearnedForm,
    CurveLearnedForm,
    StatedLearnedForm,
)
