"""Forms that become entries of the tape.

Each knows its entry's kind, how to make a body, and how to show one again.
"""

from typing import Any, ClassVar

from django import forms

from frostcore.diagnosis.acts import mendable
from frostcore.display.seen import match_seen
from frostcore.errors import FrostError
from frostcore.quantity import Dimension
from frostcore.sheet.model import Sheet
from frostcore.tape import entries
from frostcore.tape.looks import LOOKS, look
from frostcore.tape.standing import thermometer_places
from frostcore.tape.take import NOT_ON_SHEET
from frostline.calls.actions.open_call import Who
from frostline.calls.learn_forms import LEARN_FORMS
from frostline.calls.models import Customer
from frostline.calls.probe_forms import (
    AmpsForm,
    BarredForm,
    BridgedForm,
    ComplainedForm,
    FeltForm,
    HertzForm,
    MainsForm,
    ModeForm,
    PlugForm,
    ReadingForm,
    StepForm,
    TriedForm,
    WattsForm,
)
from frostline.calls.slip_form import SlipForm
from frostline.sheets.models import current_revisions
from frostline.ui.forms import FrostForm, QuantityField


class CallTakenForm(SlipForm):
    """The call as it came in."""

    body = entries.CallTaken
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


class WhoFields(forms.Form):
    """Whose unit it is."""

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

    def who(self) -> Who:
        """The customer; call only on a valid form."""
        data = self.cleaned_data
        return Who(data["customer"], data["address"], data["phone"])


class CustomerForm(WhoFields, FrostForm):
    """Whose unit it is, to be corrected."""

    @classmethod
    def of(cls, customer: Customer) -> "CustomerForm":
        """The form as it stands now."""
        shown = {"customer": customer.name, "address": customer.address, "phone": customer.phone}
        return cls(initial=shown)


class NewCallForm(WhoFields, CallTakenForm):
    """The call, with the unit it is about and whose it is."""

    revision = forms.ChoiceField(label="Unit")
    practice = forms.BooleanField(
        label="Practice: it counts for nothing", required=False, widget=forms.CheckboxInput
    )
    field_order = ["slip_id", "revision", "customer", "complaint"]

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, sheet=None, **options)
        self.revisions = {str(revision.pk): revision for revision in current_revisions()}
        self.fields["revision"].choices = [
            ("", "Choose maker and model"),
            *(
                (key, f"{revision.sheet}: {revision.sheet.appliance}")
                for key, revision in self.revisions.items()
            ),
        ]


class PlateForm(SlipForm):
    """The rating plate."""

    body = entries.PlateRead
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

    def values(self) -> dict[str, Any]:
        found = super().values()
        measured = ("mains_volts", "mains_hertz", "defrost_heater_watts")
        return found | {name: found[name] and found[name].value for name in measured}

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

    body = entries.PowerSet
    state = forms.ChoiceField(
        label="Power", choices=[("unplugged", "UNPLUGGED"), ("live", "LIVE")], widget=forms.RadioSelect
    )


class ObservedForm(SlipForm):
    """One first-look observation."""

    body = entries.Observed
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


class TemperatureForm(SlipForm):
    """A compartment’s temperature."""

    body = entries.TemperatureTaken
    place = forms.ChoiceField(label="Where")
    temperature = QuantityField(Dimension.TEMPERATURE, label="Thermometer shows")

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["place"].choices = thermometer_places(self.sheet).items()


class CodeForm(SlipForm):
    """What the display shows."""

    body = entries.CodeSeen
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
        if code and code != NOT_ON_SHEET and code not in {item.id for item in self.sheet.codes}:
            raise forms.ValidationError(
                f"“{code}” is not a code of the {self.sheet.title}. Choose one of those shown."
            )
        return code

    def values(self) -> dict[str, Any]:
        """What was seen; which code it is, the core decides."""
        return super().values() | {"shown": self.seen.shown, "code": ""}

    @classmethod
    def initial_of(cls, body: entries.CodeSeen) -> dict[str, Any]:
        """Only what was seen: which code that is, is decided anew."""
        return {"shown": body.shown}


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


HELPED = [("", "not known yet"), ("yes", "yes"), ("for_a_while", "for a while"), ("no", "no")]


class PartFittedForm(_ComponentForm):
    """A part fitted."""

    body = entries.PartFitted
    component_field, none_label = "component", "Choose the part"
    component = forms.ChoiceField(label="Part")
    helped = forms.ChoiceField(label="Did it help?", required=False, choices=HELPED)
    note = forms.CharField(label="Remark", max_length=300, required=False)


class PartTriedForm(_ComponentForm):
    """A part put in on trial and taken out again."""

    body = entries.PartTried
    component_field, none_label = "component", "Choose the part"
    component = forms.ChoiceField(label="Part")
    helped = forms.ChoiceField(label="Did it help meanwhile?", choices=HELPED[1:])
    note = forms.CharField(label="Remark", max_length=300, required=False)


class MendedForm(SlipForm):
    """Something mended, cleaned or put right without a part."""

    body = entries.Mended
    unit = forms.ChoiceField(label="What was mended or cleaned")
    how = forms.ChoiceField(label="In which way", required=False, choices=[("", "Choose"), *entries.MENDED])
    done = forms.CharField(
        label="What was done",
        max_length=300,
        required=False,
        help_text="Of a board which of its parts; of what was adjusted how far.",
    )
    helped = forms.ChoiceField(label="Did it help?", required=False, choices=HELPED)

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.names = mendable(self.sheet)
        self.fields["unit"].choices = [("", "Choose what"), *self.names.items()]

    def values(self) -> dict[str, Any]:
        found = super().values()
        return found | {"name": self.names[found["unit"]]}


class ProgrammedForm(_ComponentForm):
    """A board told what unit it is in, or a setting of it changed."""

    body = entries.Programmed
    component_field, none_label = "component", "Choose the part"
    component = forms.ChoiceField(label="Of which part")
    setting = forms.CharField(
        label="Which setting",
        max_length=80,
        help_text="As printed: unit code, defrost interval.",
        widget=forms.TextInput({"list": "settings-known"}),
    )
    value = forms.CharField(label="Set to", max_length=80)
    was = forms.CharField(label="What it was", max_length=80, required=False)
    shown_by = forms.CharField(label="What shows that it took it", max_length=200, required=False)


class AwaitedForm(_ComponentForm):
    """A part ordered for this unit."""

    body = entries.Awaited
    component_field, none_label = "component", "Choose the part"
    component = forms.ChoiceField(label="Part")
    until = forms.DateField(
        label="Looked for on", widget=forms.DateInput({"type": "date"}, format="%Y-%m-%d")
    )
    note = forms.CharField(label="Remark", max_length=200, required=False)

    def values(self) -> dict[str, Any]:
        found = super().values()
        return found | {"until": found["until"].isoformat()}


class NoteForm(SlipForm):
    """A note."""

    body = entries.Noted
    text = forms.CharField(label="Note", max_length=1000, widget=forms.Textarea(attrs={"rows": 2}))


class OutcomeForm(_ComponentForm):
    """How the call ended."""

    body = entries.Outcome
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
    price = forms.FloatField(
        label="What it costs the customer",
        min_value=0,
        max_value=entries.MOST_PRICE,
        required=False,
        widget=forms.TextInput(attrs={"inputmode": "decimal"}),
    )

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean()
        if cleaned.get("result") in {"repaired", "worked_around"} and not cleaned.get("done"):
            self.add_error("done", "Say in a line what was done; it stands on the customer’s report.")
        return cleaned

    def values(self) -> dict[str, Any]:
        found = super().values()
        return found | {"result": entries.Result(found["result"])}


class WithdrawForm(SlipForm):
    """A slip taken back."""

    body = entries.Withdrawn
    why = forms.CharField(label="Why is it taken back?", max_length=200)


_BY_HAND: tuple[type[SlipForm], ...] = (
    CallTakenForm,
    PlateForm,
    PowerForm,
    ObservedForm,
    TemperatureForm,
    CodeForm,
    ModeForm,
    PlugForm,
    StepForm,
    ReadingForm,
    WattsForm,
    MainsForm,
    TriedForm,
    BridgedForm,
    AmpsForm,
    HertzForm,
    ComplainedForm,
    FeltForm,
    BarredForm,
    PartTriedForm,
    MendedForm,
    ProgrammedForm,
    AwaitedForm,
    PartFittedForm,
    NoteForm,
    OutcomeForm,
    WithdrawForm,
    *LEARN_FORMS,
)
FORMS: dict[str, type[SlipForm]] = {form.kind: form for form in _BY_HAND}
