"""A quick check filed into a call as what it is: the same act as if it had been made there.

Only where the sheet leaves no doubt which part was checked; else the check says nothing to the judgement.
"""

from dataclasses import dataclass
from typing import Any

from frostcore.curves.model import Curve
from frostcore.diagnosis.state import tach_pins
from frostcore.quantity import Quantity
from frostcore.sheet.model import ComponentKind, Sheet


@dataclass(frozen=True)
class CheckTold:
    """What was typed into a quick check: which check, the unit and mode it names (empty where none), the
    figure, the thermometer's beside it, and the curve it was held against."""

    check: str
    figure: Quantity
    sheet: str = ""
    mode: str = ""
    celsius: Quantity | None = None
    curve: Curve | None = None


def _same(one: Curve, other: Curve) -> bool:
    """Whether two curves are one, however they were read."""
    if one.domain != other.domain:
        return False
    low, high = one.domain
    some = [low + (high - low) * share / 6 for share in range(7)]
    return bool((one.ohms(some) == other.ohms(some)).all())


def acts_of(sheet: Sheet, told: CheckTold) -> list[dict[str, Any]]:
    """A check in the vocabulary of evidence; nothing where more than one part could have been meant."""
    value = told.figure.typed or told.figure.text
    match told.check:
        case "watts" | "amperes" if told.sheet == sheet.id:
            return [{"act": "plug", "mode": told.mode, told.check: value}]
        case "sensor" if told.celsius is not None and told.curve is not None:
            mine = [item for item in sheet.sensors if _same(sheet.curve(item), told.curve)]
            if len(mine) == 1:
                celsius = told.celsius.number
                return [{"act": "sensor", "sensor": mine[0].id, "celsius": celsius, "value": value}]
        case "heater":
            heaters = [part.id for part in sheet.components if part.kind is ComponentKind.HEATER]
            if len(heaters) == 1 and not sheet.component(heaters[0]).terminals:
                ends = {"red": f"{heaters[0]}.1", "black": f"{heaters[0]}.2"}
                return [{"act": "read", "range": "ohm", "value": value} | ends]
        case "speed":
            fans = [
                part.id
                for part in sheet.components
                if part.nominal.rpm and any(f"{part.id}.tach" in run.points for run in sheet.harness)
            ]
            live = next((mode.id for mode in sheet.modes if mode.live), "")
            if len(fans) == 1 and live:
                red, black = tach_pins(sheet, fans[0])
                ends = {"red": red, "black": black, "mode": live}
                return [{"act": "read", "range": "hz", "value": value} | ends]
    return []
