"""What it takes to put one repair unit right: parts, minutes, the way to it, an order."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace

from frostcore.diagnosis.hypotheses import ELSEWHERE, WELL
from frostcore.diagnosis.state import way_in
from frostcore.remedy.rates import Rates
from frostcore.remedy.stock import WORDS, StockItem, matches
from frostcore.sheet.model import Component, ComponentKind, Sheet, Supply

FIT_MINUTES = 20.0
"""Minutes to fit a part of which the sheet says nothing."""

PROGRAM_MINUTES = 10.0
"""Minutes to tell a new board what unit it is in, and to see that it took it."""

LICENSED = (ComponentKind.SEALED_SYSTEM,)
"""What only licensed hands open: no course of this workshop's."""

USUAL_PRICE = 60.0
"""Money for a part of which the sheet says none: it counts, and is said to be a guess."""

USUAL_LEAD = 3
"""Days until a part comes that is to be ordered."""


@dataclass(frozen=True)
class Work:
    """One repair unit: its parts' price, minutes at it, the places to be opened (from the outside in),
    whether it is ordered and how many days that takes; ``had`` is False for what can't be had any more,
    ``guessed`` says that its price is one, ``part`` that a part is fitted."""

    unit: str
    price: float
    minutes: float
    places: tuple[str, ...]
    order: bool = False
    lead_days: float = 0.0
    had: bool = True
    guessed: bool = False
    part: bool = False
    shelf: str = ""
    """What of it is on the workshop's shelf, and where."""


class Works:
    """The work of every repair unit of a sheet, and what opening costs."""

    def __init__(
        self,
        sheet: Sheet,
        rates: Rates,
        prices: Mapping[str, float] | None = None,
        stock: tuple[StockItem, ...] = (),
    ) -> None:
        """``prices`` of units, in the place of those their parts add up to; ``stock`` is what is on the
        workshop's shelf."""
        self.sheet, self.rates, self._prices = sheet, rates, dict(prices or {})
        self._stock = stock
        self._parts = {part.id: part for part in sheet.components}
        self._ways = {place.id: tuple(way_in(sheet, place.id)) for place in sheet.places}
        self._known: dict[str, Work | None] = {}

    def of(self, unit: str) -> Work | None:
        """The work of a unit; None where nothing on this sheet puts it right."""
        if unit not in self._known:
            made = self._made(unit)
            if made and unit in self._prices:
                made = replace(made, price=self._prices[unit])
            self._known[unit] = made
        return self._known[unit]

    def _made(self, unit: str) -> Work | None:
        if unit == ELSEWHERE:
            return None
        if unit == WELL:
            return Work(unit, 0.0, 0.0, ())
        owner, _, rest = unit.partition(":")
        parts = [self._parts[each] for each in owner.split("+") if each in self._parts]
        if rest and parts and parts[0].kind is ComponentKind.HARNESS:
            where = self._ways.get(self._harness_place(rest), ())
            return Work(unit, self.rates.harness_price, self.rates.harness_minutes, where)
        if rest or not parts:
            return Work(unit, 0.0, self.rates.by_hand_minutes, ())
        return self._fitted(unit, self._with(parts))

    def _with(self, parts: list[Component]) -> list[Component]:
        """Parts with those that are changed with them."""
        named = dict.fromkeys(name for part in parts for name in (part.id, *part.change_with))
        return [self._parts[name] for name in named if name in self._parts]

    def _shelved(self, part: Component) -> tuple[Component, str]:
        """A part as the shelf has it, and where it lies; as the sheet says where the shelf has none."""
        best = next(iter(matches(self.sheet, part.id, self._stock)), None) if self._stock else None
        if best is None:
            return part, ""
        price = part.price if best.item.price is None else best.item.price
        told = f"{best.item.name}{f', {best.item.shelf}' if best.item.shelf else ''}"
        equal = "" if best.same else f" (as good by {', '.join(WORDS[each] for each in best.agrees)})"
        return replace(part, supply=Supply.IN_STOCK, price=price), f"{told}{equal}"

    def _fitted(self, unit: str, parts: list[Component]) -> Work:
        seen = [self._shelved(part) for part in parts]
        parts, shelf = [part for part, _ in seen], "; ".join(where for _, where in seen if where)
        ordered = [part for part in parts if part.supply is Supply.TO_ORDER]
        lead = [USUAL_LEAD if part.lead_days is None else part.lead_days for part in ordered]
        places = dict.fromkeys(place for part in parts for place in self._ways.get(part.place, ()))
        programmed = PROGRAM_MINUTES if any(part.programmed for part in parts) else 0.0
        minutes = sum(FIT_MINUTES if part.fit_minutes is None else part.fit_minutes for part in parts)
        return Work(
            unit,
            sum(USUAL_PRICE if part.price is None else part.price for part in parts),
            minutes + programmed,
            tuple(places),
            order=bool(ordered),
            lead_days=float(max(lead, default=0)),
            had=all(part.supply is not Supply.NO_LONGER_MADE and part.kind not in LICENSED for part in parts),
            guessed=any(part.price is None for part in parts),
            part=True,
            shelf=shelf,
        )

    def _harness_place(self, rest: str) -> str:
        """Where a stretch or a plug of the harness is reached."""
        plugs = {connector.id: connector.place for connector in self.sheet.connectors}
        for end in rest.split("-"):
            owner = end.partition(".")[0]
            if owner in plugs:
                return plugs[owner]
            if owner in self._parts:
                return self._parts[owner].place
        return ""

    def opening(self, places: Collection[str], opened: Collection[str]) -> float:
        """Minutes to open and close again what is not open yet."""
        wheres = (self.sheet.place(place) for place in places if place not in opened)
        return sum((where.open_minutes or 1.0) + (where.close_minutes or 0.5) for where in wheres)


Beliefs = Mapping[str, float]
"""P(repair unit)."""
