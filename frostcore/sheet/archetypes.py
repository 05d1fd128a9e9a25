"""Kinds of unit: an archetype's values brought to the mains of the unit at hand."""

from dataclasses import replace

from frostcore.sheet.electrical import Board
from frostcore.sheet.model import Component, Sheet
from frostcore.sheet.plate import usual_hertz

MAINS_FROM = 60.0
"""Rated volts from here on are mains."""

SAME_MAINS = 0.1
"""Mains that differ by less are the same."""


def for_mains(sheet: Sheet, volts: float, hertz: float) -> Sheet:
    """An archetype for other mains: its loads take the watts they take, by other ohms.

    Ohms on the mains go with the square of the volts, amperes against them, a capacitor's farads against
    their square; what runs on a rail stays as it is. The sheet itself where its mains are those already.
    """
    was = sheet.plate.mains_volts
    if abs(volts / was - 1) < SAME_MAINS and hertz == sheet.plate.mains_hertz:
        return sheet
    ratio = volts / was
    on_rails = {part.id for part in sheet.components if _on_a_rail(part)}
    return replace(
        sheet,
        plate=replace(sheet.plate, mains_volts=volts, mains_hertz=hertz),
        components=tuple(part if part.id in on_rails else _scaled(part, ratio) for part in sheet.components),
        boards=tuple(_fed(board, ratio) for board in sheet.boards),
    )


def fitted(sheet: Sheet, volts: float | None, hertz: float | None) -> Sheet:
    """An archetype for the mains a plate says; what the plate leaves out is what goes with the rest."""
    if not sheet.generic or volts is None:
        return sheet
    return for_mains(sheet, volts, hertz or usual_hertz(volts))


def _on_a_rail(part: Component) -> bool:
    """Whether a part runs on a board's rail or an inverter's bus, whatever the mains are."""
    rated = part.nominal
    if rated.volts is not None:
        return rated.volts < MAINS_FROM
    return part.kind in OFF_MAINS or (part.kind == "compressor" and rated.start_ohms is None)


OFF_MAINS = {"inverter", "power_supply", "thermistor", "potentiometer", "damper", "flap_motor", "display"}
"""Kinds of which nothing on a sheet goes with the mains."""


def _scaled(part: Component, ratio: float) -> Component:
    rated = part.nominal

    def times(value: float | None, factor: float) -> float | None:
        return None if value is None else float(f"{value * factor:.3g}")

    return replace(
        part,
        nominal=replace(
            rated,
            ohms=times(rated.ohms, ratio**2),
            start_ohms=times(rated.start_ohms, ratio**2),
            farads=times(rated.farads, ratio**-2),
            amperes=times(rated.amperes, 1 / ratio),
            volts=times(rated.volts, ratio),
        ),
    )


def _fed(board: Board, ratio: float) -> Board:
    if board.feed is None:
        return board
    return replace(board, feed=replace(board.feed, off_ohms=board.feed.off_ohms * ratio**2))
