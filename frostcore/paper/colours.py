"""Wire colours as papers abbreviate them.

Which system a paper uses is decided by its whole column, never by a cell: ``BL`` is black in one and blue in
another.
"""

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from frostcore.sheet.words import folded

_IEC = (
    "bk black bn brown rd red og orange ye yellow gn green bu blue vt violet gy grey wh white pk pink"
    " tq turquoise"
)
_SYSTEMS: tuple[tuple[str, str, str], ...] = (
    ("iec", "two letters, international", f"{_IEC} gnye green-yellow"),
    (
        "us",
        "two and three letters, American",
        (
            "blk black bk black brn brown br brown red red rd red org orange or orange yel yellow"
            " yl yellow grn green gn green blu blue bl blue vio violet pur violet vt violet gry"
            " grey gy grey wht white wh white pnk pink pk pink tan tan tn tan"
        ),
    ),
    (
        "us1",
        "single letters, American",
        "b black n brown r red o orange y yellow g green l blue v violet s grey w white p pink t tan",
    ),
    (
        "german",
        "German",
        (
            "sw black br brown rt red or orange ge yellow gn green bl blue vi violet gr grey ws"
            " white rs pink tk turquoise gnge green-yellow gg green-yellow"
        ),
    ),
    (
        "french",
        "French",
        (
            "n black ma brown m brown r red o orange j yellow ve green v green b blue bl blue vi"
            " violet g grey gr grey bc white ro pink"
        ),
    ),
    (
        "italian",
        "Italian",
        "ne black ma brown ro red ar orange gi yellow ve green bl blue vi violet gr grey bi white",
    ),
    (
        "spanish",
        "Spanish",
        "ne black ma brown ro red na orange am yellow ve green az blue vi violet gr grey bl white",
    ),
    (
        "finnish",
        "Finnish",
        "mu black ru brown pu red or orange ke yellow vi green si blue vio violet ha grey va white",
    ),
    (
        "dutch",
        "Dutch",
        "zw black br brown rd red or orange ge yellow gn green bl blue vi violet gs grey wt white rz pink",
    ),
    (
        "swedish",
        "Swedish",
        "sv black br brown ro red or orange gu yellow gr green bl blue vi violet gra grey vit white rs pink",
    ),
    (
        "words",
        "written out",
        (
            "black black brown brown red red orange orange yellow yellow green green blue blue"
            " violet violet purple violet grey grey gray grey white white pink pink turquoise"
            " turquoise tan tan schwarz black braun brown rot red gelb yellow grun green blau blue"
            " violett violet grau grey weiss white rosa pink noir black marron brown rouge red"
            " jaune yellow vert green bleu blue gris grey blanc white nero black marrone brown"
            " rosso red arancio orange giallo yellow verde green blu blue viola violet grigio grey"
            " bianco white musta black ruskea brown punainen red keltainen yellow vihrea green"
            " sininen blue harmaa grey valkoinen white svart black brun brown rod red gul yellow"
            " gron green bla blue vit white zwart black bruin brown rood red geel yellow groen"
            " green blauw blue grijs grey wit white negro black rojo red amarillo yellow azul blue"
            " blanco white"
        ),
    ),
)


def _pairs(text: str) -> dict[str, str]:
    words = text.split()
    return dict(zip(words[::2], words[1::2], strict=True))


SYSTEMS: dict[str, tuple[str, dict[str, str]]] = {
    name: (label, _pairs(text)) for name, label, text in _SYSTEMS
}
"""By its name: what a system is called, and its colours by abbreviation."""

JOINED = re.compile(r"[/\-.+ ]|\bw/|\btracer\b|\bstripe\b|\bmit\b")


@dataclass(frozen=True)
class Decided:
    """The system of a column: its name, empty where several read every cell (``choices``) or none does."""

    system: str
    choices: tuple[str, ...] = ()
    unread: tuple[str, ...] = ()


def decide(cells: Iterable[str], legend: Mapping[str, str] | None = None) -> Decided:
    """The one system in which every cell of a column has a meaning; several that differ are to be asked
    about."""
    texts = [text for text in dict.fromkeys(cells) if text.strip()]
    if legend or not texts:
        return Decided("legend" if legend else "")
    readings = {name: tuple(read(text, table) for text in texts) for name, (_, table) in SYSTEMS.items()}
    whole = {name: found for name, found in readings.items() if all(found)}
    if not whole:
        best = max(readings, key=lambda name: sum(1 for found in readings[name] if found))
        unread = tuple(text for text, found in zip(texts, readings[best], strict=True) if not found)
        return Decided(best if len(unread) < len(texts) else "", (), unread)
    alike = dict[tuple[str, ...], str]()
    for name, found in whole.items():
        alike.setdefault(found, name)
    names = tuple(alike.values())
    return Decided(names[0] if len(names) == 1 else "", names if len(names) > 1 else ())


def read(text: str, table: Mapping[str, str]) -> str:
    """A cell's colour in one system; its base first, a stripe after a dash; empty where it has none there."""
    plain = folded(text).strip()
    if plain in table:
        return table[plain]
    parts = [part for part in JOINED.split(plain) if part and part != "w"]
    found = [table.get(part, "") for part in parts]
    if not found and len(plain) in {4, 6}:
        half = len(plain) // 2
        found = [table.get(plain[:half], ""), table.get(plain[half:], "")]
    if len(found) == 1 and len(plain) in {4, 6} and not found[0]:
        half = len(plain) // 2
        found = [table.get(plain[:half], ""), table.get(plain[half:], "")]
    if not found or not all(found) or len(found) > 2:
        return ""
    return "-".join(found)
