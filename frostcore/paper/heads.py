"""What the heads of a paper's columns say, in several languages: which column of which table it is, and the
unit it is in."""

import re

from frostcore.sheet.words import folded

HEADS: dict[str, dict[str, str]] = {
    "sensors": {
        "celsius": r"temp|°|\bc\b|\bf\b|lampotila|gradi",
        "volts": r"volt|spannung|tension|jannite|\bv\b|\bvdc\b",
        "ohms": r"resist|widerstand|resistenza|vastus|ohm|ω|\br\b|kω|\bk\b",
        "sensor": r"sensor|fuhler|sonda|sonde|anturi|where|position|ort\b",
    },
    "plugs": {
        "pin": r"\bpins?\b|klemme|napa|contact\b|kontakt|pole|\bno\b|\bnr\b|borne|morsetto|polo",
        "plug": r"plug|stecker|liitin|connect|connettore|connecteur|\bcon\b|\bjack\b|socket|steckplatz",
        "colour": r"colou?r|farbe|\bader|vari\b|couleur|colore|wire|kleur|farg|johdin",
        "label": r"label|marking|bezeichnung|signal|aufdruck|name|sigla|merkinta|function code",
        "goes_to": r"goes|\bto\b|ziel|nach|mihin|component|bauteil|verso|vers\b|destin|funktion|function",
    },
    "codes": {
        "code": r"code|anzeige|koodi|display|fehler\s?n|codice|error\b|blink|led\b",
        "meaning": r"meaning|bedeutung|vika|descr|cause|ursache|fault|fehler\b|significat|failure|problem",
        "clears": r"clear|reset|losch|kuittaus|cancella",
        "check": r"check|remedy|abhilfe|prufung|action|rimedio|toimenpide|verifica",
    },
    "parts": {
        "position": r"\bpos\b|position|\bref\b|\bitem\s?no|\bitem\s?#",
        "number": r"part\s?(?:no|n|#)|best|art\.?-?\s?n|order|codice|teile\w*n|tuoten|\bp/?n\b|sku|number",
        "part": r"part\b|benennung|bezeichnung|description|teil\b|osa\b|descrizione|ricambio|item|name",
        "price": r"price|preis|hinta|prezzo|prix|eur|€|\bkr\b|cost",
        "quantity": r"qty|quant|menge|kpl|stk|anzahl|\bq\b",
        "ohms": r"ohm|ω|widerstand|resist|vastus",
        "watts": r"watt|\bw\b|leistung|teho|potenza",
    },
    "stated": {
        "red": r"red|from|von|plus|punkt 1|point a",
        "black": r"black|\bto\b|nach|minus|punkt 2|point b",
        "low": r"value|reading|wert|soll|expected|nominal|lukema|valore",
        "mode": r"mode|state|zustand|betrieb|tila|condition",
    },
}
"""By section: each column's heads, the particular before what it contains."""

NOT_KEPT = {"check", "quantity", "position", "volts"}
"""Columns that are read and not kept."""

NOMINAL, LEAST, MOST = (
    re.compile(r"nom|typ|soll|nim"),
    re.compile(r"\bmin"),
    re.compile(r"\bmax|maks"),
)
FAHRENHEIT, CELSIUS = re.compile(r"°\s?f|\bf\b|fahren"), re.compile(r"°\s?c|\bc\b|cels|grad")
KILO = re.compile(r"kω|kohm|k\s?ohm|\bk\b|kilo")
OHM = re.compile(r"ω|ohm|\br\b|resist|widerst|vastus")


def head_of(section: str, text: str) -> str:
    """The column a head is of; empty where it is of none."""
    plain = folded(text).replace("ω", "ω")
    for key, pattern in HEADS.get(section, {}).items():
        if re.search(pattern, plain):
            return key
    return ""
