"""Quick checks of the bench: a capacitor, two boards side by side, what stands in for a board's part."""

from typing import Any

from django import forms

from frostcore import cautions
from frostcore.errors import FrostError, SheetError
from frostcore.parts.capacitor import (
    HIGH_HERTZ,
    LINE_HERTZ,
    Family,
    Look,
    Rating,
    Seen,
    judge_capacitor,
)
from frostcore.parts.drawer import DIMENSIONS, part_of, place_of
from frostcore.parts.relay import COLD, Relay, judge_coil, judge_contact, judge_pull
from frostcore.parts.substitute import Answer, Kind, asked_of, substitutes
from frostcore.parts.twin import differences, read_twin
from frostcore.quantity import Dimension
from frostcore.supply.foretold import Supply, in_series, judge_bus, lamp_told, told
from frostcore.verdict import Judged, Verdict
from frostline.calls.stock import SMALL
from frostline.desk.filed import Filed
from frostline.ui.forms import FrostForm, QuantityField


class CapacitorCheck(FrostForm):
    """An electrolytic capacitor by ohms, farads, look and warmth."""

    name, title, template = "capacitor", "Capacitor", "desk/check_capacitor.html"
    farads = QuantityField(Dimension.CAPACITANCE, label="Printed")
    volts = QuantityField(Dimension.VOLTAGE, label="Rated")
    family = forms.ChoiceField(
        label="Family",
        required=False,
        choices=[("", "not known"), ("low_impedance", "low impedance"), ("standard", "standard")],
    )
    esr = QuantityField(Dimension.RESISTANCE, label="ESR meter", required=False)
    hertz = forms.TypedChoiceField(
        label="It reads at",
        required=False,
        coerce=float,
        choices=[
            (f"{HIGH_HERTZ:.0f}", "100 kHz"),
            ("1000", "1 kHz"),
            (f"{LINE_HERTZ:.0f}", "120 Hz"),
            ("100", "100 Hz"),
        ],
    )
    measured = QuantityField(Dimension.CAPACITANCE, label="Capacitance meter", required=False)
    look = forms.ChoiceField(
        label="How it looks",
        required=False,
        choices=[("", "not looked"), *((str(each), str(each)) for each in Look if each)],
    )
    in_circuit = forms.BooleanField(label="Read in circuit", required=False)
    warm = QuantityField(Dimension.RESISTANCE, label="Warmed or chilled, ohms", required=False)
    warm_at = QuantityField(Dimension.TEMPERATURE, label="and how warm then", required=False)

    def extra(self) -> dict[str, Any]:
        """What is done first."""
        return {"caution": cautions.EMPTY}

    def answer(self) -> dict[str, Any]:
        """What it comes to, and each thing found."""
        data = self.cleaned_data

        def value(name: str) -> float | None:
            return data[name].number if data[name] else None

        rating = Rating(data["farads"].number, data["volts"].number, Family(data["family"]))
        seen = Seen(
            value("esr"),
            data["hertz"] or HIGH_HERTZ,
            25.0,
            value("measured"),
            Look(data["look"]),
            data["in_circuit"],
            value("warm"),
            value("warm_at"),
        )
        found = judge_capacitor(rating, seen)
        shown = data["esr"] or data["measured"]
        figure = shown.text if shown else f"looks {data['look']}"
        detail = f"{data['farads'].text}, {data['volts'].text}: {found.health}. "
        detail += " ".join(finding.text for finding in found.findings)
        return {
            "capacitor": found,
            "figure": figure,
            "filed": Filed(figure, str(found.verdict), detail[:MOST_DETAIL]),
        }


MOST_DETAIL = 800


class BusCheck(FrostForm):
    """A supply on the mat: what its bus shows, and for how long it is dangerous."""

    name, title, template = "bus", "Bus and bulk capacitor", "desk/check_bus.html"
    mains = QuantityField(Dimension.VOLTAGE, label="Mains measured here", initial="230 V")
    watts = QuantityField(Dimension.POWER, label="The board takes", initial="3 W")
    farads = QuantityField(Dimension.CAPACITANCE, label="Bulk capacitor", initial="22u")
    esr = QuantityField(Dimension.RESISTANCE, label="Its ESR", required=False)
    series = QuantityField(Dimension.RESISTANCE, label="In its way", required=False)
    start = QuantityField(Dimension.RESISTANCE, label="Start resistor", required=False)
    reads = QuantityField(Dimension.VOLTAGE, label="Bus read, DC", required=False)
    ripple = QuantityField(Dimension.VOLTAGE, label="on the AC range", required=False)
    lamp = QuantityField(Dimension.POWER, label="Lamp in series", required=False)

    def extra(self) -> dict[str, Any]:
        """What is done first."""
        return {"caution": cautions.LIVE_PRIMARY}

    def answer(self) -> dict[str, Any]:
        """What is to be read, and what was read by it."""
        data = self.cleaned_data

        def value(name: str, usual: float) -> float:
            return data[name].number if data[name] else usual

        supply = Supply(
            data["mains"].number,
            data["watts"].number,
            data["farads"].number,
            value("esr", 1.0),
            value("series", 12.0),
            start_ohms=value("start", 470e3),
        )
        found: dict[str, Any] = {"rungs": told(supply), "lamp_told": lamp_told(supply)}
        if data["lamp"]:
            found["lamp"] = in_series(supply, data["lamp"].number)
        if not (data["reads"] or data["ripple"]):
            return found
        judged = judge_bus(
            supply, *(data[name].number if data[name] else None for name in ("reads", "ripple"))
        )
        figure = " and ".join(data[name].text for name in ("reads", "ripple") if data[name])
        filed = Filed(figure, str(judged.verdict), judged.reason)
        return found | {"judged": judged, "figure": figure, "filed": filed}


class RelayCheck(FrostForm):
    """A board's relay: coil, pull, contact."""

    name, title, template = "relay", "Relay", "desk/check_relay.html"
    volts = QuantityField(Dimension.VOLTAGE, label="Coil, printed", initial="12 V")
    ohms = QuantityField(Dimension.RESISTANCE, label="Its ohms", initial="360")
    celsius = QuantityField(Dimension.TEMPERATURE, label="How warm it is", required=False)
    coil = QuantityField(Dimension.RESISTANCE, label="Coil measured", required=False)
    pull = QuantityField(Dimension.VOLTAGE, label="Volts at the coil", required=False)
    drop = QuantityField(Dimension.VOLTAGE, label="Across the contact", required=False)
    amperes = QuantityField(Dimension.CURRENT, label="Load through it", required=False)

    def extra(self) -> dict[str, Any]:
        """What is done first."""
        return {"caution": cautions.LIVE_RELAY}

    def answer(self) -> dict[str, Any]:
        """A verdict on each that was measured."""
        data = self.cleaned_data
        relay = Relay(data["volts"].number, data["ohms"].number)
        celsius = data["celsius"].number if data["celsius"] else COLD
        found: list[tuple[str, str, Judged]] = []
        if data["coil"]:
            found.append(("Coil", data["coil"].text, judge_coil(relay, data["coil"], celsius)))
        if data["pull"]:
            found.append(("Drive", data["pull"].text, judge_pull(relay, data["pull"].number, celsius)))
        if data["drop"]:
            if not data["amperes"]:
                raise FrostError("Type the load’s amperes too: millivolts alone tell nothing of a contact.")
            judged = judge_contact(data["drop"].number, data["amperes"].number)
            found.append(("Contact", data["drop"].text, judged))
        if not found:
            raise FrostError(
                "Nothing measured yet: the coil’s ohms, the volts there, or what the contact drops."
            )
        worst = next((each for each in found if each[2].verdict is not Verdict.IN_BAND), found[0])
        detail = " ".join(f"{name}: {judged.reason}" for name, _, judged in found)
        return {"parts": found, "filed": Filed(worst[1], str(worst[2].verdict), detail[:MOST_DETAIL])}


class TwinCheck(FrostForm):
    """The same points read on two boards."""

    name, title, template = "twin", "Two boards side by side", "desk/check_twin.html"
    readings = forms.CharField(
        label="Readings",
        max_length=60_000,
        widget=forms.Textarea(
            attrs={
                "rows": 9,
                "spellcheck": "false",
                "class": "field-code",
                "placeholder": "point,meter,here,there\n12 V rail,esr,1.9,0.07\nfan output,diode,0.02,0.55",
            }
        ),
    )

    def extra(self) -> dict[str, Any]:
        """What is done first."""
        return {"caution": cautions.EMPTY}

    def answer(self) -> dict[str, Any]:
        """Every point, the oddest first."""
        try:
            pairs = read_twin(self.cleaned_data["readings"])
        except SheetError as error:
            raise FrostError(" ".join(str(problem) for problem in error.problems[:5])) from None
        if not pairs:
            raise FrostError("No reading yet. Paste a table: point, meter, here, there; a line a point.")
        found = differences(pairs)
        odd = [each for each in found if each.odd]
        detail = (
            "; ".join(f"{each.pair.point}: {each.text}" for each in odd) or "alike, as two sound boards are"
        )
        figure = f"{len(odd)} of {len(found)} points differ"
        mark = Verdict.HIGH if odd else Verdict.IN_BAND
        return {
            "differences": found,
            "odd": len(odd),
            "filed": Filed(figure, str(mark), detail[:MOST_DETAIL]),
        }


LABELS = {
    "farads": "Farads",
    "ohms": "Ohms",
    "volts": "Rated volts",
    "volts_ac": "AC volts",
    "amperes": "Amperes",
    "celsius": "Good to",
    "esr_ohms": "ESR at 100 kHz",
    "ripple_amperes": "Ripple current",
    "hours": "Life, hours",
    "joules": "Energy, J",
    "watts": "Watts",
    "diameter_mm": "Diameter, mm",
    "height_mm": "Height, mm",
    "pitch_mm": "Pitch, mm",
    "shaft_mm": "Shaft, mm",
    "polarised": "Polarised",
    "safety": "Safety class",
    "breaking_amperes": "Breaking capacity",
    "time_class": "Time class",
    "coil_volts": "Coil volts",
    "coil_ohms": "Coil ohms",
    "contact_amperes": "Contact amperes",
    "contact_form": "Contact form",
    "pinout": "Pins",
    "law": "Law",
    "flameproof": "Flame-proof",
    "family": "Type or family",
    "role": "It is for",
    "measured_volts": "Volts measured there",
    "mains_volts": "Mains",
    "bulk_farads": "Bulk capacitor",
    "room_diameter_mm": "Room across, mm",
    "room_height_mm": "Room above, mm",
}
"""Names of a part's properties as they are asked."""

ROLE_NAMES = [
    ("", "not known"),
    ("rail", "a rail"),
    ("bulk", "behind the bridge"),
    ("switcher", "the switcher’s own supply"),
    ("linear", "a linear regulator’s output"),
    ("timing", "a time"),
    ("dropper", "a capacitive dropper"),
]


CHOICES = {
    "role": ROLE_NAMES,
    "polarised": [("", "not known"), ("yes", "yes"), ("no", "no: bipolar")],
    "flameproof": [
        ("", "not known"),
        ("no", "ordinary"),
        ("flameproof", "flame-proof"),
        ("fusible", "fusible"),
    ],
    "time_class": [("", "not known"), ("slow", "slow (T)"), ("quick", "quick (F)")],
    "law": [("", "not known"), ("linear", "linear"), ("logarithmic", "logarithmic")],
}
"""Properties of which one of a few is meant."""


class SubstituteCheck(FrostForm):
    """What of the workshop's small parts may stand in for a board's part."""

    name, title, template = "substitute", "What stands in for a part", "desk/check_substitute.html"
    kind = forms.ChoiceField(
        label="Which part", choices=[(str(each), each.replace("_", " ")) for each in Kind]
    )

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        given = self.data.get("kind", "")
        self.asked = Kind(given) if given in set(Kind) else Kind.ELECTROLYTIC
        self.of_part, self.of_place = asked_of(self.asked)
        for name in (*self.of_part, *self.of_place):
            if name in CHOICES:
                self.fields[name] = forms.ChoiceField(
                    label=LABELS[name], required=False, choices=CHOICES[name]
                )
            else:
                attributes = {"class": "field-figure", "autocomplete": "off"}
                self.fields[name] = forms.CharField(
                    label=LABELS[name], required=False, max_length=40, widget=forms.TextInput(attributes)
                )

    def extra(self) -> dict[str, Any]:
        """The fields of this kind, and how many small parts there are."""
        return {
            "part_fields": [self[name] for name in self.of_part],
            "place_fields": [self[name] for name in self.of_place],
            "in_drawer": len(SMALL.now()),
        }

    def answer(self) -> dict[str, Any]:
        """Every part of the kind, what may be taken first."""
        data = self.cleaned_data
        asked = {name: data[name] for name in self.of_part if data[name]}
        if not any(name in asked for name in (*DIMENSIONS, "family")):
            raise FrostError("Type what is printed on the old one, as far as it can be read.")
        old = part_of({"id": "the old one", "kind": str(self.asked)} | asked)
        place = place_of({name: data[name] for name in self.of_place if data[name]})
        shelf = SMALL.now()
        found = substitutes(old, shelf, place)
        if not found:
            kind = self.asked.replace("_", " ")
            raise FrostError(f"No {kind} is among the {len(shelf)} small parts of this workshop.")
        rows = [
            (
                each,
                each.answer.verdict,
                [(item, item.answer.verdict) for item in each.properties if item.answer is not Answer.HOLDS],
                [item for item in each.properties if item.answer is Answer.HOLDS],
            )
            for each in found
        ]
        return {"candidates": rows}
