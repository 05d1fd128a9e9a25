"""A quick check of another kind: a thermostat set by turns of its screw or dial."""

from typing import Any

from django import forms

from frostcore import cautions
from frostcore.errors import FrostError
from frostcore.quantity import Ambiguous, Dimension, format_celsius, parse
from frostcore.thermal.calibration import OF, WANTED, TurnAct, calibrate, how_long
from frostcore.verdict import Verdict
from frostline.desk.filed import Filed
from frostline.ui.forms import FrostForm, QuantityField

ACTS = 4


class CalibrationCheck(FrostForm):
    """A mechanical thermostat by its turns and the cut-outs they gave."""

    name, title, template = "calibration", "Thermostat by turns", "desk/check_calibration.html"
    of = forms.ChoiceField(
        label="What is turned", choices=[(name, words) for name, (words, _, _) in OF.items()], required=False
    )
    target = QuantityField(Dimension.TEMPERATURE, label="Cut-out wanted")
    cut_in = QuantityField(Dimension.TEMPERATURE, label="Cut-in wanted", required=False)

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        for number in range(ACTS):
            self.fields[f"turns_{number}"] = forms.FloatField(
                label="It stands at",
                required=False,
                initial=0 if number == 0 else None,
                min_value=-20,
                max_value=20,
                widget=forms.TextInput({"class": "field-figure", "inputmode": "text", "autocomplete": "off"}),
            )
            self.fields[f"seen_{number}"] = forms.CharField(
                label="Cut-outs since",
                required=False,
                max_length=120,
                widget=forms.TextInput({"class": "field-figure", "autocomplete": "off"}),
            )

            self.fields[f"screw_{number}"] = forms.FloatField(
                label="Differential screw at, turns",
                required=False,
                min_value=-20,
                max_value=20,
                widget=forms.TextInput({"class": "field-figure", "inputmode": "text", "autocomplete": "off"}),
            )
            self.fields[f"ins_{number}"] = forms.CharField(
                label="Cut-ins since",
                required=False,
                max_length=120,
                widget=forms.TextInput({"class": "field-figure", "autocomplete": "off"}),
            )
            self.fields[f"bulb_{number}"] = forms.BooleanField(
                label="The bulb was moved before this", required=False
            )

    @property
    def rows(self) -> list[tuple[Any, Any]]:
        """The fields of each act."""
        return [(self[f"turns_{number}"], self[f"seen_{number}"]) for number in range(ACTS)]

    @property
    def more(self) -> list[tuple[Any, Any, Any]]:
        """Those of a second screw and the bulb."""
        return [
            (self[f"screw_{number}"], self[f"ins_{number}"], self[f"bulb_{number}"]) for number in range(ACTS)
        ]

    @property
    def has_more(self) -> bool:
        """Whether any of them is filled in."""
        return any(field.value() for row in self.more for field in row) or bool(self["cut_in"].value())

    def extra(self) -> dict[str, Any]:
        """The caution of the place."""
        return {"caution": cautions.LIVE_THERMOSTAT, "wanted": WANTED}

    def answer(self) -> dict[str, Any]:
        """What a turn does, and the next one."""
        data = self.cleaned_data
        acts, moved = [], 0
        for number in range(ACTS):
            seen, ins = data[f"seen_{number}"].strip(), data[f"ins_{number}"].strip()
            turns, screw = (data[f"{name}_{number}"] or 0.0 for name in ("turns", "screw"))
            moved += data[f"bulb_{number}"]
            if seen:
                acts.append(TurnAct(turns, _cut_outs(seen), _cut_outs(ins), screw, moved))
        _, slope, doubt = OF[data["of"] or "screw"]
        wanted = data["cut_in"].number if data["cut_in"] else None
        found = calibrate(acts, data["target"].number, slope=slope, doubt=doubt, cut_in=wanted)
        verdict = Verdict.IN_BAND if found.stop else Verdict.UNCLEAR
        now = format_celsius(round(found.now, 1))
        return {
            "found": found,
            "now": now,
            "how_long": how_long(found),
            "filed": Filed(f"cut-out {now}", str(verdict), found.words),
        }


def _cut_outs(text: str) -> tuple[float, ...]:
    """Temperatures parted by blanks or semicolons; a bare figure is °C."""
    found = []
    for cell in text.replace(";", " ").split():
        understood = parse(cell, Dimension.TEMPERATURE, bare_unit="°C")
        if isinstance(understood, Ambiguous) or understood.value is None:
            raise FrostError(f"“{cell}” is no cut-out. Write temperatures with blanks between: -21 -22.5.")
        found.append(understood.value)
    return tuple(found)
