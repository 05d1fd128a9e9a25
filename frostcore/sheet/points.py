"""How points and plugs are called to the repairer: one place for every picture, sentence and table.

A pin is called as it is printed. On a unit nobody has described nothing is known to be printed: there it is
called by what it is for, until somebody has read it.
"""

from collections.abc import Iterable

from frostcore.sentence import in_sentence
from frostcore.sheet.electrical import EARTH
from frostcore.sheet.model import Sheet
from frostcore.sheet.origin import Source
from frostcore.sheet.wiring import Stretch, split_pin


def plug_known(sheet: Sheet, connector: str) -> bool:
    """Whether what is printed at a plug is known."""
    return bool(sheet.mark(connector).printed) or not _unprinted(sheet, connector)


def _unprinted(sheet: Sheet, connector: str) -> bool:
    """Whether a plug's own identifier and numbers are an archetype's, printed nowhere."""
    return sheet.source_of(f"connectors.{connector}") is Source.ARCHETYPE


def plug_name(sheet: Sheet, connector: str) -> str:
    """A plug in a sentence: ``CN3``, or ``the heater’s plug at the board``."""
    if printed := sheet.mark(connector).printed:
        return printed
    if plug_known(sheet, connector):
        return connector
    return f"the {in_sentence(sheet.connector(connector).name)}"


def plug_full(sheet: Sheet, connector: str) -> str:
    """A plug with what it is called beside what is printed: ``CN3 (sensor plug)``."""
    called, name = plug_name(sheet, connector), sheet.connector(connector).name
    return called if called == f"the {in_sentence(name)}" else f"{called} ({in_sentence(name)})"


def plug_back(sheet: Sheet, connector: str) -> str:
    """That a plug is to be put back, as a line of a list."""
    called, name = plug_name(sheet, connector), sheet.connector(connector).name
    if plug_known(sheet, connector):
        return f"Plug {called} in again ({in_sentence(name)})"
    return f"Put {called} back"


def plugs_said(sheet: Sheet, connectors: Iterable[str]) -> str:
    """Several plugs in a sentence."""
    return " and ".join(plug_name(sheet, name) for name in connectors)


def printed_pin(sheet: Sheet, point: str) -> str:
    """What is printed of a pin, with its plug; empty where that is not known, or the point is no pin."""
    pin = split_pin(point)
    if pin is None or sheet.pin(point) is None:
        return ""
    if own := sheet.mark(point).printed:
        return own
    if _unprinted(sheet, pin[0]):
        return ""  # the plug may be known, its numbers are not
    return f"{sheet.mark(pin[0]).printed or pin[0]}.{pin[1]}"


def purpose(sheet: Sheet, point: str) -> str:
    """What a pin is for, by what its board calls it or its wire leads to: ``defrost heater’s feed``; the
    point itself where that is not told."""
    found = sheet.wiring.purposes.get(point)
    return _by_its_wire(sheet, point) if found is None else found


def _by_its_wire(sheet: Sheet, point: str) -> str:
    """A pin by the part its wire leads to, or comes from; by the splice it ends at where there is none."""
    run = next((run.points for run in sheet.harness if point in run.points), (point,))
    names = {part.id: part.name for part in sheet.components}
    for end in (run[-1], run[0]):
        owner, _, terminal = end.partition(".")
        if owner in names:
            return f"{in_sentence(names[owner])}’s {terminal}"
    return point if "." in run[-1] else run[-1].replace("_", " ")


def where_at(sheet: Sheet, point: str) -> str:
    """Where a pin is, in words: ``at the board``, ``at the coil’s plug``; empty for other points."""
    pin = sheet.pin(point)
    if pin is None:
        return ""
    connector = pin[0]
    board = sheet.part_name(connector.board) if connector.board else connector.name
    return f"at the {in_sentence(board)}"


def point_name(sheet: Sheet, point: str) -> str:
    """A point as it is called: ``CN3.5``, or of an unknown pin ``defrost heater’s feed at the board``; other
    points by their own name."""
    name, slash, side = point.partition("/")
    if sheet.pin(name) is None:
        return point
    freed = side == "old" or (side == "wire" and name not in sheet.wiring.leaving)
    printed = printed_pin(sheet, name)
    called = printed or f"{purpose(sheet, name)} {where_at(sheet, name)}"
    if freed:
        return f"{called}{FREED}"
    return f"{called}{slash}{side}" if printed else called + (f", {SIDES[side]}" if side in SIDES else "")


FREED = "’s free wire"
"""Said of a wire that has left its pin."""

SIDES = {"wire": "the wire’s side", "board": "the board’s side"}


def short_name(sheet: Sheet, point: str) -> str:
    """A point beside its plug, as in a picture: the number, or what it is for."""
    return printed_pin(sheet, point).rpartition(".")[2] or purpose(sheet, point)


def point_said(sheet: Sheet, point: str) -> str:
    """A point in a sentence: a pin as it is called, a part's end by the part's name, the chassis."""
    if point == EARTH:
        return "the chassis"
    if sheet.pin(point.partition("/")[0]):
        called = point_name(sheet, point)
        return called if printed_pin(sheet, point.partition("/")[0]) else f"the {in_sentence(called)}"
    owner, _, terminal = point.partition(".")
    names = {part.id: part.name for part in sheet.components}
    return f"the {in_sentence(names[owner])}’s {terminal}" if owner in names else point


def pair_said(sheet: Sheet, red: str, black: str) -> str:
    """Two points in a sentence: two ends of one part by its name, two unknown pins of one plug by what they
    are for."""
    one, other = red.partition("."), black.partition(".")
    names = {part.id: part.name for part in sheet.components}
    if one[0] == other[0] and one[0] in names:
        return f"the {in_sentence(names[one[0]])}, {one[2]} to {other[2]},"
    at = _both_at(sheet, red, black)
    if not at:
        return f"{point_said(sheet, red)} to {point_said(sheet, black)}"
    of, what, back = _parted(sheet, red, black)
    if of:
        return f"the {in_sentence(of)}’s {what} to its {back} {at}"
    return f"the {in_sentence(what)} to the {in_sentence(back)} {at}"


def leads(sheet: Sheet, red: str, black: str) -> str:
    """Two points as a title: ``CN3.5 to CN3.6``, or ``Defrost heater’s feed to return, at the board``."""
    at = _both_at(sheet, red, black)
    if not at:
        return f"{point_name(sheet, red)} to {point_name(sheet, black)}"
    of, what, back = _parted(sheet, red, black)
    return f"{of}’s {what} to {back}, {at}" if of else f"{what} to {back}, {at}"


def _both_at(sheet: Sheet, red: str, black: str) -> str:
    """Where two pins of unknown numbers are, where both are at one place; empty for others."""
    if "/" in red + black or printed_pin(sheet, red) or printed_pin(sheet, black):
        return ""
    at = where_at(sheet, red)
    return at if at == where_at(sheet, black) else ""


def _parted(sheet: Sheet, red: str, black: str) -> tuple[str, str, str]:
    """(whose, what, what): two purposes, by the part they are of where that is one."""
    one, other = purpose(sheet, red), purpose(sheet, black)
    of, _, what = one.rpartition("’s ")
    mine, _, back = other.rpartition("’s ")
    return (of, what, back) if of and of == mine else ("", one, other)


def wire_ends(sheet: Sheet, stretch: Stretch) -> str:
    """A stretch of wire by its two ends."""
    return f"{_end(sheet, stretch.start)} to {_end(sheet, stretch.end)}"


def _end(sheet: Sheet, point: str) -> str:
    return point_said(sheet, point) if sheet.pin(point) else point


def wire_name(sheet: Sheet, stretch: Stretch) -> str:
    """A stretch of wire by its colour, where that is known, and its two ends."""
    return f"{f'{stretch.colour} wire'.strip()} {wire_ends(sheet, stretch)}"


def point_named(sheet: Sheet, typed: str) -> str:
    """The point that is meant by what was typed: its identifier, or what is printed there; as typed where it
    is neither."""
    text = typed.strip()
    name, slash, side = text.partition("/")
    if sheet.pin(name) is None:
        wanted = name.casefold()
        for point, mark in (sheet.marks or {}).items():
            if mark.printed.casefold() == wanted and sheet.pin(point):
                return f"{point}{slash}{side}"
    return text
