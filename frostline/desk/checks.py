"""Quick checks: a form, and what the core answers.

A check is its address: the same query gives the same answer.
"""

from collections.abc import Callable
from typing import Any

from django import forms

from frostcore.circuit.kept import circuits_of
from frostcore.circuit.power import at_plug, draws, judge_plug
from frostcore.curves.kinds import explain
from frostcore.curves.known import fitted, identify
from frostcore.curves.model import Curve
from frostcore.curves.model import describe as describe_curve
from frostcore.curves.picture import draw
from frostcore.curves.table import recognise
from frostcore.curves.verdict import DEFAULT_TOLERANCE, Limits, SensorPoint, judge_all, second_point
from frostcore.diagnosis.checked import CheckTold
from frostcore.display.seen import match_seen
from frostcore.errors import FrostError
from frostcore.parts.loads import (
    heater_by_watts,
    judge_heater,
    judge_single_phase,
    judge_speed,
    judge_three_phase,
)
from frostcore.parts.potentiometer import Against, draw_sweep, judge_potentiometer
from frostcore.parts.thermostat import ContactKind, agreed, judge_stamp, read_stamp
from frostcore.quantity import Dimension, Quantity, parse
from frostline.calls import decoding, sensing
from frostline.desk.bench_checks import (
    BusCheck,
    CapacitorCheck,
    RelayCheck,
    SubstituteCheck,
    TwinCheck,
)
from frostline.desk.calibration_check import CalibrationCheck
from frostline.desk.filed import Filed
from frostline.sheets.models import Sheet, current_sheets
from frostline.ui.forms import FrostForm, QuantityField

POINTS = 3
LEAST_SHOWN = 0.01
"""Curves with less of the likelihood than this are not worth a line."""


class CodeCheck(FrostForm):
    """A code on one sheet, or on all."""

    name, title, template = "code", "Code", "desk/check_code.html"
    sheet = forms.ChoiceField(label="Unit", required=False)
    shown = forms.CharField(required=False, max_length=40)
    frames = forms.CharField(required=False, max_length=400)
    taps = forms.CharField(required=False, max_length=2000)

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["sheet"].choices = [
            ("", "any unit"),
            *((sheet.slug, str(sheet)) for sheet in Sheet.objects.all()),
        ]

    def sheets(self) -> list[Any]:
        """The sheets to look on."""
        chosen = self.data.get("sheet", "")
        sheets = current_sheets()
        return [sheet for sheet in sheets if sheet.id == chosen] or sheets

    def extra(self) -> dict[str, Any]:
        """The pad and the candidates, also before anything is asked."""
        return {
            "pads": decoding.pads(2, self.data.get("frames", "")),
            "quick": True,
            **decoding.candidates(self.sheets(), self.data),
        }

    def answer(self) -> dict[str, Any]:
        """Candidates are in :meth:`extra`; here only what is filed."""
        data = self.cleaned_data
        if not any(data[name] for name in ("shown", "frames", "taps")):
            raise FrostError(
                "Nothing seen yet. Type what the display shows, tap its segments, or tap along with the lamp."
            )
        seen = match_seen(self.sheets(), data["shown"], data["frames"], data["taps"])
        told = (
            "; ".join(
                f"{match.sheet.title} {match.code.id}: {match.code.meaning}" for match in seen.matches[:3]
            )
            or "no code looks like it"
        )
        return {"filed": Filed(seen.shown, "", told)}


class SensorCheck(FrostForm):
    """A sensor's points against a known curve, a pasted table, or none."""

    name, title, template = "sensor", "Sensor", "desk/check_sensor.html"
    curve = forms.ChoiceField(
        label="Curve",
        required=False,
        error_messages={
            "invalid_choice": "No sheet has this curve any more: it went, or was corrected. Choose it anew."
        },
    )
    table = forms.CharField(
        label="or paste a table",
        required=False,
        max_length=4000,
        widget=forms.Textarea(
            attrs={
                "rows": 4,
                "spellcheck": "false",
                "class": "field-code",
                "placeholder": "°C    kΩ\n0     15.3\n25    5.0",
            }
        ),
    )
    temperature_unit = forms.ChoiceField(
        label="Its temperatures", required=False, choices=[("", "as recognised"), ("°C", "°C"), ("°F", "°F")]
    )
    resistance_unit = forms.ChoiceField(
        label="Its resistances", required=False, choices=[("", "as recognised"), ("Ω", "Ω"), ("kΩ", "kΩ")]
    )
    tolerance = QuantityField(Dimension.FRACTION, label="Sensor good to", required=False)
    doubt = QuantityField(Dimension.TEMPERATURE_DIFFERENCE, label="Thermometer good to", required=False)
    meter = QuantityField(Dimension.FRACTION, label="Meter good to", required=False)

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.known = {known.id: known for known in sensing.known_curves()}
        self.fields["curve"].choices = [
            ("", "not known: find it"),
            *((key, known.name) for key, known in self.known.items()),
        ]
        for number in range(1, POINTS + 1):
            self.fields[f"ohms{number}"] = QuantityField(
                Dimension.RESISTANCE, label=f"Meter {number}", required=False
            )
            self.fields[f"celsius{number}"] = QuantityField(
                Dimension.TEMPERATURE, label=f"Thermometer {number}", required=False
            )
            for name in ("ohms", "celsius"):
                # One point is needed, each point needs both; the check says so where one is missing.
                self.fields[f"{name}{number}"].needed = True

    def extra(self) -> dict[str, Any]:
        """The points' fields in pairs."""
        return {
            "point_fields": [
                (self[f"ohms{number}"], self[f"celsius{number}"]) for number in range(1, POINTS + 1)
            ]
        }

    def _points(self) -> list[SensorPoint]:
        points = []
        for number in range(1, POINTS + 1):
            ohms, celsius = self.cleaned_data[f"ohms{number}"], self.cleaned_data[f"celsius{number}"]
            if ohms is not None and celsius is None:
                raise FrostError(
                    f"Point {number} has no temperature. A resistance can't be judged without it; type what"
                    " the thermometer shows."
                )
            if ohms is not None:
                points.append(SensorPoint(ohms, celsius))
        return points

    def answer(self) -> dict[str, Any]:
        """Verdicts, kinds of error and picture under a curve.

        Without one, the known curves by likelihood.
        """
        data = self.cleaned_data
        limits = Limits(
            *(
                data[name].value if data[name] is not None else usual
                for name, usual in (("tolerance", DEFAULT_TOLERANCE), ("doubt", 0.5), ("meter", 0.01))
            )
        )
        result: dict[str, Any] = {}
        curve: Curve | None = None
        name = ""
        if data["table"].strip():
            table = recognise(data["table"], data["temperature_unit"], data["resistance_unit"])
            result["table"] = table
            curve, name = table.checked.curve(), "the pasted table"
        elif data["curve"]:
            curve, name = self.known[data["curve"]].curve, self.known[data["curve"]].name
        points = self._points()
        if not points:
            if curve is None:
                raise FrostError(
                    "Nothing to check yet. Type at least one reading with its temperature; two or three tell"
                    " more."
                )
            return {
                **result,
                "picture": draw(curve, limits),
                "curve_name": name,
                "curve_text": describe_curve(curve),
            }
        if curve is None:
            found = identify(
                points,
                self.known.values(),
                Limits(min(limits.tolerance, 0.05), limits.doubt_kelvin, limits.meter),
            )
            best = found[0]
            free = fitted(points)
            detail = f"Fits {best.known.name} best ({best.weight * 100:.0f} % of the likelihood)."
            return {
                **result,
                "identified": [item for item in found[:8] if item.weight >= LEAST_SHOWN] or found[:3],
                "fitted": free,
                "second_point": second_point(points[0].temperature.number)[1],
                "filed": Filed(points[0].resistance.text, "", detail),
            }
        deciding, verdicts = judge_all(curve, points, limits)
        kinds = explain(curve, points, limits, self.known.values())
        detail = (
            f"Against {name}: "
            + ", ".join(
                f"{verdict.point.resistance.text} at {verdict.point.temperature.text} {verdict.verdict.label}"
                for verdict in verdicts
            )
            + f". {kinds.text}"
        )
        point = deciding.point
        told = CheckTold("sensor", point.resistance, celsius=point.temperature, curve=curve)
        filed = Filed(point.resistance.text, str(deciding.verdict), detail, told)
        return {
            **result,
            "verdict": deciding,
            "verdicts": verdicts,
            "kinds": kinds,
            "picture": draw(curve, limits, verdicts),
            "curve_name": name,
            "curve_text": describe_curve(curve),
            "filed": filed,
        }


class PotCheck(FrostForm):
    """A user potentiometer."""

    name, title, template = "pot", "Potentiometer", "desk/check_pot.html"
    nominal = QuantityField(Dimension.RESISTANCE, label="Stamped", initial="10k")
    ends = QuantityField(Dimension.RESISTANCE, label="End to end")
    against = forms.ChoiceField(
        label="Stops read against",
        required=False,
        choices=[("", "not noted"), ("nearer", "each its own end"), ("same", "both the same end")],
    )
    stop1 = QuantityField(Dimension.RESISTANCE, label="Wiper at one stop", required=False)
    stop2 = QuantityField(Dimension.RESISTANCE, label="Wiper at the other stop", required=False)
    sweep = forms.CharField(
        label="Wiper along the turn",
        required=False,
        max_length=300,
        help_text="Four readings or more, spaces between: 100 2k5 5k 7k4 9k7",
        widget=forms.TextInput(attrs={"class": "field-figure", "autocomplete": "off"}),
    )
    tolerance = QuantityField(Dimension.FRACTION, label="Good to", required=False, initial="20 %")

    def extra(self) -> dict[str, Any]:
        """Nothing more."""
        return {}

    def answer(self) -> dict[str, Any]:
        """The verdict on it and on each part."""
        data = self.cleaned_data
        sweep = [_plain(text) for text in data["sweep"].split()]
        stops = [stop for stop in (data["stop1"], data["stop2"]) if stop is not None]
        verdict = judge_potentiometer(
            data["nominal"].value or 0.0,
            data["ends"],
            stops,
            sweep,
            data["tolerance"].value if data["tolerance"] else 0.2,
            Against(data["against"]),
        )
        tolerance = data["tolerance"].value if data["tolerance"] else 0.2
        drawn = draw_sweep(sweep, data["ends"], tolerance) if len(sweep) > 1 and data["ends"].value else None
        return {
            "pot": verdict,
            "swept": drawn,
            "ends": data["ends"],
            "filed": Filed(data["ends"].text, str(verdict.verdict), verdict.reason),
        }


class ThermostatCheck(FrostForm):
    """A bimetal, a mechanical thermostat or a thermal fuse."""

    name, title, template = "thermostat", "Thermostat, bimetal, fuse", "desk/check_thermostat.html"
    kind = forms.ChoiceField(
        label="Which",
        choices=[
            ("bimetal", "defrost bimetal"),
            ("thermostat", "mechanical thermostat"),
            ("thermal_fuse", "thermal fuse"),
        ],
    )
    opens = forms.CharField(
        label="Stamped",
        max_length=20,
        widget=forms.TextInput(attrs={"class": "field-figure", "autocomplete": "off"}),
    )
    differential = forms.CharField(
        label="Differential",
        required=False,
        max_length=20,
        widget=forms.TextInput(attrs={"class": "field-figure", "autocomplete": "off"}),
    )
    unit = forms.ChoiceField(
        label="Stamped in", required=False, choices=[("", "not marked"), ("°C", "°C"), ("°F", "°F")]
    )
    at = QuantityField(Dimension.TEMPERATURE, label="Its temperature now")
    reads = QuantityField(Dimension.RESISTANCE, label="Meter shows")

    def extra(self) -> dict[str, Any]:
        """Nothing more."""
        return {}

    def answer(self) -> dict[str, Any]:
        """One verdict for each way to read the stamp."""
        data = self.cleaned_data
        verdicts = judge_stamp(
            ContactKind(data["kind"]),
            read_stamp(data["opens"], data["differential"], data["unit"]),
            data["at"].value,
            data["reads"],
        )
        overall = agreed(verdicts)
        return {
            "contacts": verdicts,
            "overall": overall,
            "filed": Filed(
                data["reads"].text,
                str(overall),
                " ".join(
                    f"Read as {verdict.rating.named}: {verdict.reason}"
                    for verdict in verdicts
                    if not verdict.implausible or all(each.implausible for each in verdicts)
                ),
            ),
        }


class HeaterCheck(FrostForm):
    """A heater by ohms, watts, amperes."""

    name, title, template = "heater", "Heater", "desk/check_heater.html"
    mains = QuantityField(Dimension.VOLTAGE, label="Mains here", initial="230 V")
    ohms = QuantityField(Dimension.RESISTANCE, label="Meter shows", required=False)
    watts = QuantityField(Dimension.POWER, label="Rated", required=False)

    def extra(self) -> dict[str, Any]:
        """Nothing more."""
        return {}

    def answer(self) -> dict[str, Any]:
        """The verdict on a measured heater; of a rating alone, the ohms to expect."""
        data = self.cleaned_data
        volts = data["mains"].value or 0.0
        watts = data["watts"].value if data["watts"] else None
        if data["ohms"] is None:
            if watts is None:
                raise FrostError(
                    "Type what the meter shows, such as 240, or the rating alone, such as 220 W, to see the"
                    " ohms to expect."
                )
            ohms, amperes = heater_by_watts(volts, watts)
            return {"expected_ohms": ohms, "expected_amperes": amperes, "rated": watts}
        verdict = judge_heater(volts, data["ohms"], watts)
        return {
            "heater": verdict,
            "ohms": data["ohms"],
            "filed": Filed(
                data["ohms"].text, str(verdict.verdict), verdict.reason, CheckTold("heater", data["ohms"])
            ),
        }


class WindingsCheck(FrostForm):
    """A compressor's windings."""

    name, title, template = "windings", "Compressor windings", "desk/check_windings.html"
    phases = forms.ChoiceField(
        label="Compressor",
        choices=[("1", "single-phase: run, start, common"), ("3", "inverter: three phases")],
    )
    ab = QuantityField(Dimension.RESISTANCE, label="A to B (U–V)")
    bc = QuantityField(Dimension.RESISTANCE, label="B to C (V–W)")
    ac = QuantityField(Dimension.RESISTANCE, label="A to C (U–W)")
    earth = QuantityField(Dimension.RESISTANCE, label="Any to the chassis", required=False)

    def extra(self) -> dict[str, Any]:
        """Nothing more."""
        return {}

    def answer(self) -> dict[str, Any]:
        """The verdict and its findings."""
        data = self.cleaned_data
        pairs = (data["ab"], data["bc"], data["ac"])
        found = (
            judge_three_phase(pairs, data["earth"])
            if data["phases"] == "3"
            else judge_single_phase(*pairs, data["earth"])
        )
        return {
            "windings": found,
            "filed": Filed(", ".join(quantity.text for quantity in pairs), str(found.verdict), found.reason),
        }


class SpeedCheck(FrostForm):
    """A fan's tachometer."""

    name, title, template = "speed", "Fan speed", "desk/check_speed.html"
    hertz = QuantityField(Dimension.FREQUENCY, label="Meter shows")
    pulses = forms.FloatField(
        label="Pulses a turn",
        initial=2,
        min_value=0.5,
        max_value=24,
        widget=forms.TextInput(
            attrs={"class": "field-figure", "autocomplete": "off", "inputmode": "decimal"}
        ),
    )
    rpm = forms.FloatField(
        label="Rated rpm",
        required=False,
        min_value=1,
        max_value=20000,
        widget=forms.TextInput(
            attrs={"class": "field-figure", "autocomplete": "off", "inputmode": "numeric"}
        ),
    )

    def extra(self) -> dict[str, Any]:
        """Nothing more."""
        return {}

    def answer(self) -> dict[str, Any]:
        """The speed, against its rating where one is given."""
        data = self.cleaned_data
        found = judge_speed(data["hertz"].value or 0.0, data["pulses"], data["rpm"])
        told = CheckTold("speed", data["hertz"])
        filed = Filed(f"{found.rpm:.0f} rpm", str(found.verdict), found.reason, told)
        return {"speed": found, "filed": filed}


class PlugCheck(FrostForm):
    """Watts or amperes at the plug, in a mode of a sheet."""

    name, title, template = "plug", "At the plug", "desk/check_plug.html"
    sheet = forms.ChoiceField(label="Unit")
    mode = forms.CharField(label="Mode", max_length=60, required=False, widget=forms.Select)
    watts = QuantityField(Dimension.POWER, label="Plug meter, watts", required=False)
    amperes = QuantityField(Dimension.CURRENT, label="or clamp, amperes", required=False)

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.wired = {sheet.id: sheet for sheet in current_sheets() if sheet.harness}
        self.fields["sheet"].choices = [(identifier, sheet.title) for identifier, sheet in self.wired.items()]
        content = self.wired.get(self.data.get("sheet", "")) or next(iter(self.wired.values()), None)
        self.fields["mode"].widget.choices = (
            [(mode.id, mode.name) for mode in content.modes if mode.live] if content else []
        )

    def extra(self) -> dict[str, Any]:
        """Nothing more."""
        return {}

    def answer(self) -> dict[str, Any]:
        """What the loads add up to, and the verdict on what was measured."""
        data = self.cleaned_data
        content = self.wired[data["sheet"]]
        live = [mode.id for mode in content.modes if mode.live]
        settled = circuits_of(content).scene(data["mode"] if data["mode"] in live else live[0])
        measured = data["watts"] or data["amperes"]
        known = {
            "at_plug": at_plug(settled),
            "draws": draws(settled),
            "mode_name": content.mode(settled.circuit.mode).name,
            "unit": content.title,
        }
        if measured is None:
            return known
        found = judge_plug(settled, measured.value or 0.0, amperes=data["watts"] is None)
        return {
            **known,
            "plug": found,
            "measured": measured,
            "filed": Filed(
                measured.text,
                str(found.verdict),
                f"{content.mode(settled.circuit.mode).name}: {found.reason}",
                CheckTold(
                    "watts" if data["watts"] is not None else "amperes",
                    measured,
                    content.id,
                    settled.circuit.mode,
                ),
            ),
        }


def _plain(text: str) -> Quantity:
    understood = parse(text, Dimension.RESISTANCE)
    if not isinstance(understood, Quantity):
        raise FrostError(f"“{text}” can be read in two ways ({understood.why}). Type it like 1k or 1000.")
    return understood


HINTS = {
    "code": "type, tap or blink it",
    "sensor": "verdict, kind of error, which curve",
    "heater": "ohms, watts, amperes",
    "windings": "balanced, and which pin is which",
    "speed": "hertz to rpm",
    "plug": "watts against what should run",
    "pot": "ends, stops, sweep",
    "thermostat": "by stamp and temperature",
    "bus": "DC, ripple, inrush, charge left",
    "capacitor": "ESR, farads, look, warmth",
    "relay": "coil, drive, contact under load",
    "substitute": "from the small parts, and why",
    "twin": "a good board beside the bad one",
    "calibration": "cut-outs, the next turn, when to stop",
}
"""What each check is for, in a few words."""

CHECKS: dict[str, Callable[..., FrostForm]] = {
    check.name: check
    for check in (
        CodeCheck,
        SensorCheck,
        HeaterCheck,
        WindingsCheck,
        SpeedCheck,
        PlugCheck,
        PotCheck,
        ThermostatCheck,
        BusCheck,
        CapacitorCheck,
        RelayCheck,
        SubstituteCheck,
        TwinCheck,
        CalibrationCheck,
    )
}
