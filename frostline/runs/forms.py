"""Forms of runs: a logger's file, and what its columns are of."""

from datetime import date, timedelta
from typing import Any

from django import forms
from django.utils import timezone

from frostcore.errors import FrostError
from frostcore.quantity import Dimension, Quantity, parse
from frostcore.remedy.recheck import COLDEST, WARMEST, ToRead
from frostcore.sheet.model import Sheet
from frostcore.thermal.log import Log
from frostcore.thermal.of_sheet import thermal_of
from frostcore.thermal.setting import AROUND, WORDS, moment_of, set_to
from frostline.ui.forms import FrostForm, QuantityField


class FileForm(FrostForm):
    """A logger's file, or its rows pasted."""

    slip_id = forms.UUIDField(widget=forms.HiddenInput)
    file = forms.FileField(label="The logger’s file", required=False)
    rows = forms.CharField(
        label="Or its rows, pasted", required=False, widget=forms.Textarea, max_length=400_000
    )

    def clean(self) -> dict[str, Any]:
        """One of the two."""
        data = super().clean() or {}
        if not data.get("file") and not (data.get("rows") or "").strip():
            self.add_error("file", "Choose the logger’s file, or paste its rows with their heads.")
        return data


HOW_FULL = (("", "not known"), ("empty", "nearly empty"), ("half", "about half full"), ("full", "full"))


class ColumnsForm(FrostForm):
    """What each column is of, how warm the room was, how full the unit."""

    slip_id = forms.UUIDField(widget=forms.HiddenInput)
    room = QuantityField(Dimension.TEMPERATURE, label="Room", required=False)
    full = forms.ChoiceField(label="How full it is", choices=HOW_FULL, required=False)

    def __init__(self, *arguments: Any, log: Log, sheet: Sheet, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.log = log
        self.names = {f"column_{number}": column.head for number, column in enumerate(log.columns)}
        for number, column in enumerate(log.columns):
            choices = _choices(sheet, watts=column.quantity == "watts")
            self.fields[f"column_{number}"] = forms.ChoiceField(
                label=column.head, choices=choices, initial=column.where or "-"
            )

    def clean(self) -> dict[str, Any]:
        """One plug meter; of several thermometers in one place their mean is judged."""
        data = super().clean() or {}
        taken: dict[str, str] = {}
        for name, head in self.names.items():
            place = data.get(name, "-")
            if place == "plug" and place in taken:
                self.add_error(name, f"“{taken[place]}” is of the plug too. Leave one of the two out.")
            taken.setdefault(place, head)
        return data

    @property
    def columns(self) -> dict[str, str]:
        """What was chosen, by head."""
        return {head: self.cleaned_data[name] for name, head in self.names.items()}

    @property
    def rows(self) -> list[tuple[Any, str, str]]:
        """Each column's field, what it measures, and the first of its values."""
        found = []
        for number, column in enumerate(self.log.columns):
            unit = "W" if column.quantity == "watts" else "°C"
            shown = [f"{value:.1f}" for value in self.log.values[number][:3].tolist()]
            was = " (was °F)" if column.fahrenheit else ""
            found.append((self[f"column_{number}"], f"{unit}{was}", ", ".join(shown)))
        return found


class LiveForm(FrostForm):
    """What a logger on the network reads, how warm the room is, how full the unit."""

    places = forms.MultipleChoiceField(label="What it reads", widget=forms.CheckboxSelectMultiple)
    room = QuantityField(Dimension.TEMPERATURE, label="Room", required=False)
    full = forms.ChoiceField(label="How full it is", choices=HOW_FULL, required=False)

    def __init__(self, *arguments: Any, sheet: Sheet, **options: Any) -> None:
        super().__init__(*arguments, **options)
        places = [each for each in _choices(sheet, watts=False) if each[0] != "-"]
        self.fields["places"].choices = [*places, ("plug", "Watts at the plug")]

    @staticmethod
    def room_of(typed: str) -> Quantity | None:
        """A room's temperature as it was typed."""
        found = parse(typed, Dimension.TEMPERATURE)
        return found if isinstance(found, Quantity) else None


class RecheckForm(FrostForm):
    """When a unit is looked at again, by whom, where."""

    slip_id = forms.UUIDField(widget=forms.HiddenInput)
    day = forms.DateField(
        label="On which day", widget=forms.DateInput(format="%Y-%m-%d", attrs={"type": "date"})
    )
    by = forms.ChoiceField(label="By whom", choices=(("customer", "the customer"), ("us", "us")))
    places = forms.MultipleChoiceField(label="What is read", widget=forms.CheckboxSelectMultiple)

    def __init__(self, *arguments: Any, sheet: Sheet, **options: Any) -> None:
        super().__init__(*arguments, **options)
        rooms = [(room.id, room.name) for room in sheet.compartments]
        self.fields["places"].choices = rooms
        self.fields["places"].initial = [place for place, _ in rooms]
        self.fields["day"].initial = timezone.localdate() + timedelta(days=RECHECK_DAYS)

    def clean_day(self) -> date:
        """A day to come."""
        day: date = self.cleaned_data["day"]
        if not timezone.localdate() <= day <= timezone.localdate() + timedelta(days=366):
            raise forms.ValidationError("A recheck lies ahead: today or a day of the next year.")
        return day


RECHECK_DAYS = 2
"""A unit that was mended is asked about so many days on: what was loaded is cold, a defrost has been."""


class ToldForm(FrostForm):
    """What whoever reads the thermometer writes."""

    quiet = forms.ChoiceField(
        label="Is it quiet at times, with nothing running?",
        choices=(
            ("", "I don’t know"),
            ("yes", "yes, it stops and starts"),
            ("no", "no, it runs all the time"),
        ),
        required=False,
    )
    display = forms.CharField(label="What its display shows, if it has one", max_length=60, required=False)
    note = forms.CharField(
        label="Anything else", max_length=300, required=False, widget=forms.Textarea(attrs={"rows": 3})
    )

    def __init__(self, *arguments: Any, read: tuple[ToRead, ...], **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.read = read
        rest = dict(self.fields)
        self.fields.clear()
        for each in read:
            self.fields[f"at_{each.place}"] = QuantityField(
                Dimension.TEMPERATURE, label=f"{each.name}, such as 5 °C", required=False
            )
        self.fields.update(rest)

    @property
    def rows(self) -> list[tuple[ToRead, Any]]:
        """What is read, and its field."""
        return [(each, self[f"at_{each.place}"]) for each in self.read]

    @property
    def rest(self) -> list[Any]:
        """The other fields."""
        return [self[name] for name in ("quiet", "display", "note")]

    def clean(self) -> dict[str, Any]:
        """Something is told, and temperatures are a refrigerator's."""
        data = super().clean() or {}
        for each in self.read:
            name = f"at_{each.place}"
            value = data.get(name)
            if value is not None and value.value is not None and not COLDEST <= value.value <= WARMEST:
                text = f"{value.text} is no temperature in a refrigerator; write such as 5 C or 41 F."
                self.add_error(name, text)
        if not self.errors and not any(data.values()):
            raise forms.ValidationError("Nothing is written yet: a temperature, or what you noticed.")
        return data

    @property
    def told(self) -> dict[str, Any]:
        """What is on the tape of it."""
        data = self.cleaned_data
        read = {each.place: data[f"at_{each.place}"] for each in self.read if data[f"at_{each.place}"]}
        return {"temperatures": read} | {name: data[name] for name in ("quiet", "display", "note")}


def _choices(sheet: Sheet, *, watts: bool) -> list[tuple[str, str]]:
    if watts:
        return [("plug", "Watts at the plug"), ("-", "Left out")]
    plant = thermal_of(sheet)
    names = {room.id: room.name for room in sheet.compartments}
    rooms = [(room.place, names.get(room.place, room.place)) for room in plant.compartments]
    coils = [(f"coil:{face.id}", f"On the coil ({face.id.replace('_', ' ')})") for face in plant.evaporators]
    return [*rooms, *coils, ("room", "The room"), ("-", "Left out")]


class SettingForm(FrostForm):
    """Something set on a run's way."""

    slip_id = forms.UUIDField(widget=forms.HiddenInput)
    at = forms.CharField(label="When, from its first row: 3.5 h", max_length=40)
    what = forms.ChoiceField(label="What was done", choices=tuple(WORDS.items()))
    to = forms.CharField(label="To what: 4, or −20 °C", max_length=60, required=False)
    place = forms.ChoiceField(label="Of which compartment", required=False)

    def __init__(
        self, *arguments: Any, sheet: Sheet, hours: float = 0.0, now: bool = False, **options: Any
    ) -> None:
        super().__init__(*arguments, **options)
        self.hours = hours
        if now:
            self.fields["at"].required = False
            self.fields["at"].label = "When, from its first row; empty is now"
        rooms = [(room.id, room.name) for room in sheet.compartments]
        self.fields["place"].choices = rooms if len(rooms) == 1 else [("", "All of it"), *rooms]

    def clean(self) -> dict[str, Any]:
        """A setting within the run."""
        data = super().clean() or {}
        if self.errors:
            return data
        try:
            at = moment_of(data["at"]) if data["at"] else self.hours * 3600.0
        except FrostError as error:
            self.add_error("at", str(error))
            return data
        if at > self.hours * 3600.0 + AROUND:
            self.add_error("at", f"The run is {self.hours:.1f} h long; this is after its end.")
            return data
        try:
            self.setting = set_to(at, data["what"], data["to"], data["place"])
        except FrostError as error:
            self.add_error("to", str(error))
        return data
