"""A rating plate's text as it is typed or copied: model, serial number, mains, refrigerant and the rest,
whatever their order and language."""

import re
from dataclasses import dataclass

ANY_CASE = re.IGNORECASE
GRAMS_PER_OUNCE, MOST_GRAMS = 28.35, 1000.0


@dataclass(frozen=True)
class PlateText:
    """What was understood of a plate. ``model`` is what is left when all else is taken out: the maker and
    model as printed."""

    model: str
    serial: str = ""
    mains_volts: float | None = None
    mains_hertz: float | None = None
    refrigerant: str = ""
    charge_grams: float | None = None
    defrost_heater_watts: float | None = None

    @property
    def words(self) -> str:
        """What was understood beside the model, in words; empty where nothing was."""
        told = (
            self.serial and f"serial {self.serial}",
            self.mains_volts and f"{self.mains_volts:g} V",
            self.mains_hertz and f"{self.mains_hertz:g} Hz",
            self.refrigerant,
            self.charge_grams and f"{self.charge_grams:g} g",
            self.defrost_heater_watts and f"defrost heater {self.defrost_heater_watts:g} W",
        )
        return ", ".join(part for part in told if part)


_NUMBER = r"(\d+(?:[.,]\d+)?)"
_MODEL = re.compile(
    r"\b(?:model|modell|modello|modele|modelo|mod|type|typ|tipo|malli)\b\.?\s*(?:no|nr)?\.?\s*[:=]?",
    ANY_CASE,
)
_SERIAL = re.compile(
    r"\b(?:s\s?/\s?n|serial|ser|serie|serien|sarja)\b[\s.\-]*(?:number|nummer|no|nr|n)?\b"
    r"[\s.:°#-]*([A-Z0-9][A-Z0-9/-]{2,})",
    ANY_CASE,
)
_VOLTS = re.compile(r"(\d{2,3})(?:\s*(?:-|–|…|/|to)\s*(\d{2,3}))?\s*V(?:AC|ac|olts?)?\b\s*[~∼]?", ANY_CASE)
_HERTZ = re.compile(r"(?:(\d{2})\s*[/-]\s*)?(\d{2})\s*Hz\b", ANY_CASE)
_FLUID = re.compile(
    r"\bR\s?-?\s?(600\s?a|290|134\s?a|1270|436\s?A|441\s?A|152\s?a|404\s?A|12|22)\b", ANY_CASE
)
_CHARGE = re.compile(_NUMBER + r"\s*(g|gr|gram|grams|gramm|oz|kg)\b\.?", ANY_CASE)
_HEATER = re.compile(
    r"(?:defrost(?:ing)?|heater|abtau\w*|heizung|sbrinamento|d[ée]givrage|desescarche|sulatus)[^\d]{0,16}"
    + _NUMBER
    + r"\s*W\b",
    ANY_CASE,
)
_OTHER = re.compile(_NUMBER + r"\s*(?:W|A|kg|kWh|l|L|amps?|watts?|litres?)\b\.?")


def read_plate(text: str) -> PlateText:
    """What a plate's text says; what is not understood stays in the model."""
    left = " ".join(text.replace("\n", " ").split())

    def take(pattern: re.Pattern[str]) -> re.Match[str] | None:
        nonlocal left
        found = pattern.search(left)
        if found:
            left = f"{left[: found.start()]} ; {left[found.end() :]}"
        return found

    serial, heater, volts, hertz = take(_SERIAL), take(_HEATER), take(_VOLTS), take(_HERTZ)
    fluid, charge = take(_FLUID), take(_CHARGE)
    while take(_OTHER):
        pass
    return PlateText(
        _model(left),
        serial[1].upper() if serial else "",
        _mains(volts),
        _whole_hertz(hertz, _mains(volts)),
        f"R{fluid[1].replace(' ', '')}" if fluid else "",
        _grams(charge),
        _number(heater[1]) if heater else None,
    )


def _model(left: str) -> str:
    parts = [" ".join(_MODEL.sub(" ", part).split()).strip(" ,:~∼.-") for part in re.split(r"[;,|]", left)]
    return " ".join(part for part in parts if part)[:60].strip()


def _number(text: str) -> float:
    return float(text.replace(",", "."))


def _mains(found: re.Match[str] | None) -> float | None:
    """The mains of a plate: of a range its middle; None for what no house has."""
    if found is None:
        return None
    volts = (float(found[1]) + float(found[2] or found[1])) / 2
    return volts if 90 <= volts <= 260 else None


def _whole_hertz(found: re.Match[str] | None, volts: float | None) -> float | None:
    """The hertz of a plate; of two printed the one that goes with its volts."""
    if found is None or found[2] not in {"50", "60"}:
        return None
    both = {found[1], found[2]} == {"50", "60"} and volts is not None
    return usual_hertz(volts) if both and volts else float(found[2])


def usual_hertz(volts: float) -> float:
    """The hertz that go with mains of so many volts, nearly everywhere."""
    return 60.0 if volts < HERTZ_FROM else 50.0


HERTZ_FROM = 150.0
"""Mains below this many volts have 60 Hz nearly everywhere, others 50."""


def _grams(found: re.Match[str] | None) -> float | None:
    """The charge in grams; None for what no household unit holds (its own weight)."""
    if found is None:
        return None
    grams = _number(found[1]) * {"oz": GRAMS_PER_OUNCE, "kg": 1000.0}.get(found[2].lower(), 1.0)
    return round(grams, 1) if grams <= MOST_GRAMS else None
