"""Form fields for quantities as people type them, and the base of all forms."""

from typing import Any

from django import forms
from django.urls import reverse_lazy

from frostcore.errors import QuantityError
from frostcore.quantity import Ambiguous, Dimension, Quantity, parse


class AmbiguousQuantityError(forms.ValidationError):
    """A typed quantity with more than one meaning; the template offers ``choices``."""

    def __init__(self, ambiguous: Ambiguous) -> None:
        self.ambiguous = ambiguous
        options = " or ".join(choice.text for choice in ambiguous.choices)
        told = f"“{ambiguous.typed}” can mean {options}: {ambiguous.why}. Tap the one you mean."
        super().__init__(
            told.replace("%", "%%"),  # params are written into what is not doubled
            code="ambiguous",
            params={"ambiguous": ambiguous},
        )


KEYS = {
    Dimension.RESISTANCE: ("k", "M", "OL"),
    Dimension.VOLTAGE: ("m", "-"),
    Dimension.TEMPERATURE: ("-",),
    Dimension.FREQUENCY: (),
    Dimension.POWER: (),
    Dimension.CURRENT: ("m",),
}
"""What a telephone's keypad of digits lacks for a figure of a kind, as keys of our own under the field."""


class QuantityField(forms.CharField):
    """A quantity.

    Cleans to :class:`~frostcore.quantity.Quantity`, or None when left empty and not required.
    """

    def __init__(self, dimension: Dimension, **options: Any) -> None:
        self.dimension = dimension
        options.setdefault("max_length", 40)
        super().__init__(**options)
        self.widget.attrs.update(
            {
                "autocomplete": "off",
                "autocapitalize": "off",
                "spellcheck": "false",
                "class": "field-figure",
                "enterkeyhint": "done",
            }
        )
        if dimension in KEYS:
            self.widget.attrs["inputmode"] = "decimal"
        self.keys = KEYS.get(dimension, ())
        self.understood_url = reverse_lazy("ui:understood", args=[str(dimension)])

    def clean(self, value: Any) -> Quantity | None:
        typed = super().clean(value)
        if not typed:
            return None
        try:
            understood = parse(typed, self.dimension)
        except QuantityError as error:
            raise forms.ValidationError(str(error), code="quantity") from None
        if isinstance(understood, Ambiguous):
            raise AmbiguousQuantityError(understood)
        return understood

    def prepare_value(self, value: Any) -> Any:
        """As it was typed, where that would be understood as the same again here; else in full."""
        if not isinstance(value, Quantity):
            return value
        try:
            again = parse(value.typed, value.dimension)
        except QuantityError:
            return value.canonical
        same = isinstance(again, Quantity) and again.value == value.value
        return value.typed if same else value.canonical


class FrostForm(forms.Form):
    """Every form: no colons after labels, errors tied to their fields, the chosen meanings of ambiguous
    ones."""

    def __init__(self, *arguments: Any, **options: Any) -> None:
        options.setdefault("label_suffix", "")
        super().__init__(*arguments, **options)
        for field in self.fields.values():
            if isinstance(field.widget, forms.TextInput | forms.Textarea):
                field.widget.attrs.setdefault("dir", "auto")  # a name may run from right to left

    def clean(self) -> dict[str, Any]:
        """What the fields cleaned to."""
        super().clean()
        return self.cleaned_data

    def ambiguities(self) -> list[tuple[str, Ambiguous]]:
        """(field name, ambiguity) of every field whose text has more than one meaning."""
        return [
            (name, (error.params or {})["ambiguous"])
            for name, errors in self.errors.as_data().items()
            for error in errors
            if error.code == "ambiguous"
        ]
