"""Forms that become entries of the tape.

Each knows its entry's kind, how to make a body, and how to show one again.
"""

from typing import Any, ClassVar

from django import forms

from frostcore.display.seen import match_seen
from frostcore.errors import FrostError
from frostcore.quantity import Dimension
from frostcore.sheet.model import Sheet
from frostcore.tape import entries
from frostcore.tape.looks import LOOKS, look
from frostcore.tape.standing import divider_of, thermometer_places
from frostline.calls.probe_forms import MeterForm, ModeForm, PlugForm, StepForm
from frostline.calls.slip_form import SlipForm, answered
from frostline.sheets.models import current_revisions
from frostline.ui.forms import QuantityField


class CallTakenForm(SlipForm):
    """The call as it came in."""

    kind = "call_taken"
    customer = forms.CharField(
        label="Customer", max_length=120, widget=forms.TextInput(attrs={"autocomplete": "off"})
    )
    address = forms.CharField(
        label="Address", max_length=200, required=False, widget=forms.TextInput(attrs={"autocomplete": "off"})
    )
    phone = forms.CharField(
        label="Telephone",
        max_length=40,
        required=False,
        widget=forms.TextInput(attrs={"autocomplete": "off", "inputmode": "tel"}),
    )
    complaint = forms.CharField(
        label="Complaint, in the customer’s words", max_length=1000, widget=forms.Textarea(attrs={"rows": 2})
    )
    age_years = forms.FloatField(
        label="Age, years",
        min_value=0,
        max_value=60,
        required=False,
        widget=forms.TextInput(attrs={"inputmode": "decimal"}),
    )
    replaced_before = forms.CharField(
        label="Replaced before",
        max_length=300,
        required=False,
        help_text="A part replaced three times is not the fault.",
    )
    replacement_helped = forms.ChoiceField(
        label="Did that help?",
        required=False,
        choices=[("", "not asked"), ("yes", "yes"), ("for_a_while", "for a while"), ("no", "no")],
    )
    supply_history = forms.MultipleChoiceField(
        label="The supply: has there been …",
        required=False,
        choices=entries.SUPPLY_HISTORY,
        widget=forms.CheckboxSelectMultiple,
    )

    def to_body(self) -> entries.CallTaken:
        data = self.cleaned_data
        return entries.CallTaken(
            "call_taken",
            data["customer"],
            data["complaint"],
            data["address"],
            data["phone"],
            data["age_years"],
            data["replaced_before"],
            data["replacement_helped"],
            tuple(data["supply_history"]),
        )


class NewCallForm(CallTakenForm):
    """The call, with the unit it is about."""

    revision = forms.ChoiceField(label="Unit")
    field_order = ["slip_id", "revision", "customer", "complaint"]

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, sheet=None, **options)
        self.revisions = {str(revision.pk): revision for revision in current_revisions()}
        self.fields["revision"].choices = [
            ("", "Choose maker and model"),
            *(
                (key, f"{revision.sheet}: {revision.content.plate.appliance}")
                for key, revision in self.revisions.items()
            ),
        ]


class PlateForm(SlipForm):
    """The rating plate."""

    kind = "plate_read"
    model = forms.CharField(label="Model, as printed", max_length=60)
    serial = forms.CharField(label="Serial number", max_length=60, required=False)
    mains_volts = QuantityField(Dimension.VOLTAGE, label="Mains", required=False)
    mains_hertz = QuantityField(Dimension.FREQUENCY, label="Frequency", required=False)
    refrigerant = forms.CharField(label="Refrigerant", max_length=20, required=False)
    charge_grams = forms.FloatField(
        label="Charge, grams",
        min_value=0,
        max_value=5000,
        required=False,
        widget=forms.TextInput(attrs={"inputmode": "decimal"}),
    )
    defrost_heater_watts = QuantityField(Dimension.POWER, label="Defrost heater", required=False)

    def to_body(self) -> entries.PlateRead:
        data = self.cleaned_data
        volts, hertz, watts = (
            data[name] and data[name].value for name in ("mains_volts", "mains_hertz", "defrost_heater_watts")
        )
        return entries.PlateRead(
            "plate_read",
            data["model"],
            data["serial"],
            volts,
            hertz,
            data["refrigerant"],
            data["charge_grams"],
            watts,
        )

    @classmethod
    def initial_of(cls, body: entries.PlateRead) -> dict[str, Any]:
        units = {"mains_volts": "V", "mains_hertz": "Hz", "defrost_heater_watts": "W"}
        shown = super().initial_of(body)
        return shown | {
            name: f"{getattr(body, name):g} {unit}"
            for name, unit in units.items()
            if getattr(body, name) is not None
        }

    @classmethod
    def initial_of_sheet(cls, sheet: Sheet) -> dict[str, Any]:
        """What the sheet says the plate should say, to be checked against the plate."""
        plate = sheet.plate
        return cls.initial_of(
            entries.PlateRead(
                "plate_read",
                plate.model,
                "",
                plate.mains_volts,
                plate.mains_hertz,
                plate.refrigerant,
                plate.charge_grams,
                plate.defrost_heater_watts,
            )
        )


class PowerForm(SlipForm):
    """The plug, out or in."""

    kind = "power_set"
    state = forms.ChoiceField(
        label="Power", choices=[("unplugged", "UNPLUGGED"), ("live", "LIVE")], widget=forms.RadioSelect
    )

    def to_body(self) -> entries.PowerSet:
        return entries.PowerSet("power_set", self.cleaned_data["state"])


class ObservedForm(SlipForm):
    """One first-look observation."""

    kind = "observed"
    look = forms.ChoiceField(label="Look", choices=[(item.id, item.name) for item in LOOKS])
    answer = forms.ChoiceField(
        label="Answer",
        choices=sorted({(answer.id, answer.text) for item in LOOKS for answer in item.answers}),
    )
    note = forms.CharField(label="Remark", max_length=300, required=False)

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        shown = self.data.get("look") or (self.initial or {}).get("look")
        if shown in {item.id for item in LOOKS}:
            self.fields["answer"].choices = [(answer.id, answer.text) for answer in look(shown).answers]

    def to_body(self) -> entries.Observed:
        return entries.Observed(
            "observed", self.cleaned_data["look"], self.cleaned_data["answer"], self.cleaned_data["note"]
        )


class TemperatureForm(SlipForm):
    """A compartment’s temperature."""

    kind = "temperature_taken"
    place = forms.ChoiceField(label="Where")
    temperature = QuantityField(Dimension.TEMPERATURE, label="Thermometer shows")

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["place"].choices = thermometer_places(self.sheet).items()

    def to_body(self) -> entries.TemperatureTaken:
        return entries.TemperatureTaken(
            "temperature_taken", self.cleaned_data["place"], self.cleaned_data["temperature"]
        )


class CodeForm(SlipForm):
    """What the display shows."""

    kind = "code_seen"
    NOT_ON_SHEET = "-"
    shown = forms.CharField(label="The display shows", max_length=40, required=False)
    frames = forms.CharField(required=False, max_length=400, widget=forms.HiddenInput)
    taps = forms.CharField(required=False, max_length=2000, widget=forms.HiddenInput)
    lamps = forms.MultipleChoiceField(
        label="Lamps lit beside it", required=False, widget=forms.CheckboxSelectMultiple
    )
    code = forms.CharField(required=False, widget=forms.HiddenInput, max_length=40)

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["lamps"].choices = [(lamp, lamp) for lamp in self.sheet.display.lamps]

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        if not any(cleaned.get(name) for name in ("shown", "frames", "taps")):
            self.add_error(
                "shown",
                "Nothing seen yet. Type what the display shows, such as E4, tap its segments, or tap along"
                " with the lamp.",
            )
            return cleaned
        try:
            self.seen = match_seen(
                [self.sheet], cleaned.get("shown", ""), cleaned.get("frames", ""), cleaned.get("taps", "")
            )
        except FrostError as error:
            self.add_error("shown", str(error))
        return cleaned

    def clean_code(self) -> str:
        code = self.cleaned_data["code"]
        if code and code != self.NOT_ON_SHEET and code not in {item.id for item in self.sheet.codes}:
            raise forms.ValidationError(
                f"“{code}” is not a code of the {self.sheet.title}. Choose one of those shown."
            )
        return code

    @property
    def chosen(self) -> bool:
        """Whether one of the candidates (or «not on the sheet») was picked."""
        return bool(self.cleaned_data.get("code"))

    def to_body(self) -> entries.CodeSeen:
        code = self.cleaned_data["code"]
        data = self.cleaned_data
        return entries.CodeSeen(
            "code_seen",
            self.seen.shown,
            "" if code == self.NOT_ON_SHEET else code,
            data["frames"],
            data["taps"],
            tuple(data["lamps"]),
        )

    @classmethod
    def initial_of(cls, body: entries.CodeSeen) -> dict[str, Any]:
        """Only what was seen: which code that is, is decided anew."""
        return {"shown": body.shown}


class SensorForm(SlipForm):
    """A sensor’s resistance at a temperature."""

    kind = "sensor_read"
    sensor = forms.ChoiceField(label="Sensor")
    resistance = QuantityField(Dimension.RESISTANCE, label="Meter shows", required=False)
    volts = QuantityField(Dimension.VOLTAGE, label="DC volts at the pin", required=False)
    temperature = QuantityField(Dimension.TEMPERATURE, label="Thermometer shows")
    doubt = QuantityField(Dimension.TEMPERATURE_DIFFERENCE, label="Thermometer good to", initial="0.5 K")
    meter = QuantityField(Dimension.FRACTION, label="Meter good to", initial="1 %")
    red = forms.CharField(label="Red lead", max_length=20, required=False)
    black = forms.CharField(label="Black lead", max_length=20, required=False)
    kept = forms.CharField(required=False, widget=forms.HiddenInput)
    set_power = forms.ChoiceField(
        required=False,
        choices=[("", ""), ("unplugged", "unplugged"), ("live", "live")],
        widget=forms.HiddenInput,
    )

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        for name in ("resistance", "volts"):
            # Either is needed; which one depends on the form they stand in.
            self.fields[name].needed = True
        self.fields["sensor"].choices = [
            (sensor.id, self.sheet.sensor_name(sensor)) for sensor in self.sheet.sensors
        ]

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        if cleaned.get("volts") is not None and cleaned.get("sensor"):
            self._resistance_from_volts(cleaned)
        elif (
            cleaned.get("resistance") is None
            and "resistance" not in self.errors
            and "volts" not in self.errors
        ):
            self.add_error(
                "volts" if "volts" in self.data and "resistance" not in self.data else "resistance",
                "Nothing typed. Type what the meter shows, such as 2k7 or OL.",
            )
        for name, top, example in (("doubt", 50, "0.5 K"), ("meter", 1, "1 %")):
            if cleaned.get(name) is not None and cleaned[name].value >= top:
                self.add_error(
                    name, f"“{cleaned[name].typed}” is too much to judge anything by. Type it like {example}."
                )
        for name in ("red", "black"):
            if cleaned.get(name) and self.sheet.pin(cleaned[name]) is None:
                self.add_error(
                    name,
                    f"There is no pin “{cleaned[name]}” on this sheet. Type connector and number such as"
                    " CN3.5, or leave it empty.",
                )
        return cleaned

    def _resistance_from_volts(self, cleaned: dict[str, Any]) -> None:
        divider = divider_of(self.sheet, cleaned["sensor"])
        if divider is None:
            self.add_error(
                "volts",
                "The sheet does not tell this sensor's pull-up. Measure its resistance with the plug out"
                " instead.",
            )
            return
        try:
            cleaned["resistance"] = divider.resistance(cleaned["volts"].value)
        except FrostError as error:
            self.add_error("volts", str(error))

    def to_body(self) -> entries.SensorRead:
        data = self.cleaned_data
        return entries.SensorRead(
            "sensor_read",
            data["sensor"],
            data["resistance"],
            data["temperature"],
            data["doubt"].value,
            data["meter"].value,
            data["red"],
            data["black"],
            answered(self.data),
            data["volts"],
        )

    @classmethod
    def initial_of(cls, body: entries.SensorRead) -> dict[str, Any]:
        return super().initial_of(body) | {
            "doubt": f"{body.doubt_kelvin:g} K",
            "meter": f"{body.meter * 100:g} %",
            "kept": " ".join(body.kept),
        }


class CheckedForm(SlipForm):
    """A quick check filed here; it can be taken back, not rewritten."""

    kind = "checked"


class _ComponentForm(SlipForm):
    """A form that names a component of the sheet."""

    component_field: ClassVar[str]
    none_label: ClassVar[str]

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields[self.component_field].choices = [
            ("", self.none_label),
            *((component.id, component.name) for component in self.sheet.components),
        ]


class PartFittedForm(_ComponentForm):
    """A part fitted."""

    kind = "part_fitted"
    component_field, none_label = "component", "Choose the part"
    component = forms.ChoiceField(label="Part")
    note = forms.CharField(label="Remark", max_length=300, required=False)

    def to_body(self) -> entries.PartFitted:
        return entries.PartFitted("part_fitted", self.cleaned_data["component"], self.cleaned_data["note"])


class NoteForm(SlipForm):
    """A note."""

    kind = "noted"
    text = forms.CharField(label="Note", max_length=1000, widget=forms.Textarea(attrs={"rows": 2}))

    def to_body(self) -> entries.Noted:
        return entries.Noted("noted", self.cleaned_data["text"])


class OutcomeForm(_ComponentForm):
    """How the call ended."""

    kind = "outcome"
    component_field, none_label = "cause", "not known"
    result = forms.ChoiceField(
        label="How did it end?",
        choices=[(result.value, result.label) for result in entries.Result],
        widget=forms.RadioSelect,
    )
    cause = forms.ChoiceField(label="What was at fault", required=False)
    done = forms.CharField(
        label="What was done, for the customer",
        max_length=1000,
        required=False,
        widget=forms.Textarea(attrs={"rows": 2}),
    )
    proofs = forms.MultipleChoiceField(
        label="What proves it",
        required=False,
        choices=entries.PROOFS,
        widget=forms.CheckboxSelectMultiple,
        help_text="Cold alone is not proof: a unit that never cuts out is still broken.",
    )
    recheck_days = forms.IntegerField(
        label="Recheck in days",
        min_value=1,
        max_value=365,
        required=False,
        widget=forms.TextInput(attrs={"inputmode": "numeric"}),
    )

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        if cleaned.get("result") in {"repaired", "worked_around"} and not cleaned.get("done"):
            self.add_error("done", "Say in a line what was done; it stands on the customer’s report.")
        return cleaned

    def to_body(self) -> entries.Outcome:
        data = self.cleaned_data
        return entries.Outcome(
            "outcome",
            entries.Result(data["result"]),
            data["done"],
            data["cause"],
            tuple(data["proofs"]),
            data["recheck_days"],
        )


class WithdrawForm(SlipForm):
    """A slip taken back."""

    kind = "withdrawn"
    why = forms.CharField(label="Why is it taken back?", max_length=200)

    def to_body(self) -> entries.Withdrawn:
        return entries.Withdrawn("withdrawn", self.cleaned_data["why"])


FORMS: dict[str, type[SlipForm]] = {
    form.kind: form
    for form in (
        CallTakenForm,
        PlateForm,
        PowerForm,
        ObservedForm,
        TemperatureForm,
        CodeForm,
        SensorForm,
        ModeForm,
        PlugForm,
        StepForm,
        MeterForm,
        CheckedForm,
        PartFittedForm,
        NoteForm,
        OutcomeForm,
        WithdrawForm,
    )
}
