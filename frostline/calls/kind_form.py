"""The form of a call for a unit nobody has described: what kind it is, its plate, the complaint."""

from typing import Any

from django import forms
from django.urls import reverse_lazy

from frostcore.sheet.plate import PlateText, read_plate
from frostcore.tape.entries import PlateRead
from frostline.calls.forms import CallTakenForm, WhoFields
from frostline.sheets.models import Revision, current_revisions


class PlateField(forms.CharField):
    """A rating plate's text; what is understood of it is shown as it is typed."""

    understood_url = reverse_lazy("calls:plate")


class KindCallForm(WhoFields, CallTakenForm):
    """A call on a kind of unit: three fields, and whose it is where that was told."""

    revision = forms.ChoiceField(
        label="It is this kind of unit",
        widget=forms.RadioSelect,
        error_messages={"required": "Tap the kind of unit that looks most like it. It can be changed later."},
    )
    plate = PlateField(
        label="Rating plate, as printed",
        max_length=400,
        help_text="Maker, model, volts, refrigerant, in any order: Norwick NX-300 230 V 50 Hz R600a 52 g",
        widget=forms.TextInput(attrs={"autocomplete": "off", "spellcheck": "false"}),
        error_messages={"required": "Nothing typed. Type maker and model, or what can still be read."},
    )
    practice = forms.BooleanField(
        label="Practice: it counts for nothing", required=False, widget=forms.CheckboxInput
    )
    field_order = ["slip_id", "revision", "plate", "complaint", "customer"]

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, sheet=None, **options)
        self.kinds = [item for item in current_revisions(generic=True) if not item.unreadable]
        self.fields["revision"].choices = [(str(item.pk), item.content.plate.model) for item in self.kinds]
        self.fields["customer"].required = False

    @property
    def shown_kinds(self) -> list[tuple[Revision, bool]]:
        """Each kind, and whether it is the one chosen."""
        chosen = str(self["revision"].value() or "")
        return [(item, str(item.pk) == chosen) for item in self.kinds]

    def chosen(self) -> Revision:
        """The kind that was chosen."""
        return next(item for item in self.kinds if str(item.pk) == self.cleaned_data["revision"])

    def plate_text(self) -> PlateText:
        """The plate as it was understood."""
        return read_plate(self.cleaned_data["plate"])

    def plate_read(self) -> PlateRead:
        """The plate as the tape has it."""
        found = self.plate_text()
        return PlateRead(
            "plate_read",
            found.model or self.cleaned_data["plate"][:60],
            found.serial[:60],
            found.mains_volts,
            found.mains_hertz,
            found.refrigerant,
            found.charge_grams,
            found.defrost_heater_watts,
        )
