"""Words of service papers in several languages, brought to one: what a part is called, what a column's head
says."""

import re
import unicodedata

STEMS: tuple[tuple[str, str], ...] = (
    # the particular before what it contains
    (r"abtauheiz\w*|defrost\s?heat\w*", "defrost heater"),
    (r"abtau\w*|sbrin\w*|degivr\w*|desescarch\w*|sulatus\w*|ontdooi\w*|avfrost\w*", "defrost"),
    (r"verfl[u]?ssiger\w*|kondensator\w*|condensa\w*|lauhdut\w*|kondensor\w*", "condenser"),
    (r"verdampfer\w*|evapora\w*|hoyryst\w*|verdamper\w*|forangar\w*", "evaporator"),
    (r"verdichter\w*|kompress\w*|compress\w*", "compressor"),
    (r"gefrier\w*|congela\w*|pakast\w*|vriez\w*|frysd?\w*|freezer\w*", "freezer"),
    (r"kuhl\w*|frigo\w*|refriger\w*|jaakaap\w*|koelk\w*|kylsk\w*|kyl\b", "fridge"),
    (r"lufter\w*|geblase\w*|ventil\w*|ventol\w*|puhall\w*|flakt\w*", "fan"),
    (r"fuhler\w*|sonda\w*|sonde\w*|anturi\w*|givare\w*|voeler\w*|thermistor\w*|ntc|sensore?\w*", "sensor"),
    (r"heizung\w*|heizer\w*|resistenza\w*|resistance|vastus\w*|varmare\w*|verwarm\w*|heater\w*", "heater"),
    (r"turkontakt\w*|turschalter\w*|tur\b|porta\b|porte\b|puerta\b|ovikytk\w*|ovi\b|dorr\w*|deur\w*", "door"),
    (r"schalter\w*|interruttor\w*|interrupteur\w*|kytkin\w*|kontakt\w*|schakelaar\w*", "switch"),
    (r"klappe\w*|serranda\w*|volet\w*|pelti\w*|spjall\w*|damper\w*|flap\b", "damper"),
    (r"beleucht\w*|lampe\w*|licht\w*|luce\b|lampada\w*|valo\w*|belysn\w*|lamp\w*|light\w*", "lamp"),
    (r"anzeige\w*|bedien\w*|display\w*|naytto\w*|paneel\w*|panel\w*|quadro\w*", "display"),
    (r"wechselrichter\w*|inverter\w*|taajuusmuut\w*", "inverter"),
    (r"netz\w*|rete\b|secteur\w*|verkko\w*|mains\w*|supply\s?cord", "mains"),
    (r"platine\w*|steuer\w*|scheda\w*|carte\w*|piirikortti\w*|board\w*|pcb", "board"),
    (r"magnetventil\w*|elettrovalvola\w*|venttiili\w*|valve\w*", "valve"),
    (r"umgebung\w*|raum\w*|ambient\w*|ambiente\w*|huone\w*|room\w*", "room"),
)
"""What stands in papers, and the word it is taken for."""

_COMPILED = tuple((re.compile(rf"\b(?:{stem})"), word) for stem, word in STEMS)


def folded(text: str) -> str:
    """Small letters without marks on them: ``Lüfter`` → ``lufter``."""
    parts = unicodedata.normalize("NFKD", text.casefold())
    return "".join(letter for letter in parts if not unicodedata.combining(letter))


def english(text: str) -> str:
    """A paper's words for a part, in the words that sheets use."""
    found = folded(text)
    for pattern, word in _COMPILED:
        found = pattern.sub(f" {word} ", found)
    return " ".join(found.split())


def tokens(text: str) -> set[str]:
    """The words of a text that tell one part from another."""
    return {word for word in re.findall(r"[a-z0-9]+", english(text)) if word not in _EMPTY}


_EMPTY = {"the", "of", "to", "in", "and", "der", "die", "das", "di", "del", "della", "de", "la", "le", "s"}
