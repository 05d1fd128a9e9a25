"""Words of service papers in several languages, brought to one: what a part is called, what a column's head
says."""

import re
import unicodedata

STEMS: tuple[tuple[str, str], ...] = (
    # The particular before what it contains; German joins words, so most stand within others too.
    (r"abtauheizung\w*|defrost\s?heat\w*", "defrost heater"),
    (r"abtau(?:ung|end\w*)?|sbrin\w*|degivr\w*|desescarch\w*|sulatus\w*|ontdooi\w*|avfrost\w*", "defrost"),
    (r"verflussiger|kondensator|condensat\w*|condenseur|lauhdut\w*|kondensor", "condenser"),
    (r"verdampfer|evapora\w*|hoyryst\w*|verdamper|forangar\w*", "evaporator"),
    (r"verdichter|kompress\w*|compress\w*", "compressor"),
    (r"gefrier(?:raum|teil|fach|gut)?|congela\w*|pakast\w*|vriez\w*|\bfrysd?\w*|freezer", "freezer"),
    (r"kuhl(?:raum|teil|schrank|fach)?|frigo\w*|refriger\w*|jaakaap\w*|koelk\w*|kylsk\w*|\bkyl\b", "fridge"),
    (r"lufter|geblase|ventilator\w*|ventilateur\w*|ventol\w*|puhall\w*|flakt\w*", "fan"),
    (r"fuhler|\bsonda|\bsonde|anturi\w*|givare\w*|voeler|thermistor|\bntc\b|sensore?", "sensor"),
    (r"heizung|heizer|resistenza|\bresistance\b|vastus\w*|varmare\w*|verwarm\w*|heater", "heater"),
    (r"turkontakt|turschalter|\btur\b|\bporta\b|\bporte\b|\bpuerta\b|\bovi\w*|\bdorr\w*|\bdeur\w*", "door"),
    (r"schalter|interruttor\w*|interrupteur|kytkin|kontakt|schakelaar", "switch"),
    (r"klappe|serranda|\bvolet|pelti|spjall\w*|damper|\bflap\b", "damper"),
    (r"beleuchtung|\blampe|licht\b|\bluce\b|\blampada|\bvalo\w*|belysn\w*|\blamps?\b|\blights?\b", "lamp"),
    (r"anzeige|bedien\w*|displays?|naytto|paneel|panels?|\bquadro", "display"),
    (r"wechselrichter|inverters?|taajuusmuut\w*", "inverter"),
    (r"\bnetz\w*|\brete\b|\bsecteur|\bverkko\w*|\bmains\b|supply\s?cord", "mains"),
    (r"platine|steuerung|\bscheda|\bcarte\b|piirikortti|\bboards?\b|\bpcb\b", "board"),
    (r"magnetventil|elettrovalvola|venttiili|valves?\b", "valve"),
    (r"umgebung\w*|\braum\b|ambient\w*|huone\w*|\broom\b", "room"),
)
"""What stands in papers, and the word it is taken for."""

_COMPILED = tuple((re.compile(stem), word) for stem, word in STEMS)


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
