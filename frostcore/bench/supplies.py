"""Which supply a board has: its sheet's, or the usual one of a kind."""

from frostcore.bench.usual import USUAL
from frostcore.errors import FrostError
from frostcore.parts.loads import HIGH_MAINS_VOLTS
from frostcore.sheet.model import Sheet
from frostcore.sheet.supply import BoardSupply


def kinds() -> tuple[str, ...]:
    """The kinds of supply there are usual values of."""
    return tuple(USUAL)


def usual(kind: str, mains: float) -> BoardSupply:
    """The usual supply of a kind for such mains; FrostError for a kind there is none of."""
    if kind not in USUAL:
        raise FrostError(f"There is no kind of supply “{kind}”; there are {', '.join(kinds())}.")
    return USUAL[kind](mains)


def supply_of(sheet: Sheet | None, board: str, kind: str | None, mains: float) -> BoardSupply:
    """A board's supply: of its sheet where that has it, else the usual one of ``kind``. FrostError where
    neither is."""
    described = sheet.supplies if sheet else ()
    if board and sheet and board not in {each.component for each in sheet.boards}:
        names = ", ".join(each.component for each in sheet.boards) or "none"
        raise FrostError(f"There is no board “{board}” on the {sheet.title}; it has {names}.")
    mine = [each for each in described if not board or each.board == board]
    if mine and not kind:
        return mine[0]
    if kind:
        return usual(kind, mains)
    what = (
        f"The {sheet.title} does not describe that board’s supply"
        if sheet
        else "Nothing says what supply it is"
    )
    raise FrostError(f"{what}: choose its kind, {', '.join(kinds())}.")


def mains_of(volts: float) -> float:
    """The mains a supply is made for, of those there are."""
    return 230.0 if volts > HIGH_MAINS_VOLTS else 120.0
