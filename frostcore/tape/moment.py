"""The state a call is in at one moment of its tape, folded from the entries before it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from frostcore.errors import SheetError
from frostcore.quantity import Quantity
from frostcore.sheet.archetypes import fitted
from frostcore.sheet.model import Sheet
from frostcore.sheet.plan import Plan
from frostcore.sheet.rewired import changed_by
from frostcore.tape.carried import counterparts
from frostcore.tape.entries import (
    Body,
    CallTaken,
    ModeSet,
    Outcome,
    PlateRead,
    PlugMoved,
    Power,
    PowerSet,
    Rewired,
    SheetTaken,
    StepDone,
    TemperatureTaken,
    Unreadable,
)
from frostcore.tape.learned import Learned, with_learned


@dataclass(frozen=True)
class Moment:
    """The sheet in force, the plug, the mode, the connectors pulled in the order they were, the newest
    temperature of each place (°C), whether the call has been taken and whether it is closed, the steps of
    ways in that are done, by place and number."""

    sheet: Sheet
    power: Power = Power.UNKNOWN
    mode: str = ""
    pulled: tuple[str, ...] = ()
    celsius: tuple[tuple[str, float], ...] = ()
    taken: bool = False
    closed: bool = False
    opened: tuple[tuple[str, int], ...] = ()
    plan: Plan | None = None
    """What has changed the wiring; ``sheet`` is the changed one."""

    plain: Sheet | None = None
    """The sheet without it."""

    def after(self, body: Body | Unreadable, sheets: Mapping[str, Sheet]) -> "Moment":  # noqa: PLR0911 -- one answer for each kind of entry
        """The moment after an entry. ``sheets`` are those a call may move to, by digest."""
        match body:
            case PowerSet(state=state):
                return replace(self, power=Power(state), mode=self._by_itself(live=state == "live"))
            case ModeSet(mode=mode, state="entered"):
                return replace(self, mode=mode)
            case ModeSet(mode=mode):
                found = next((item for item in self.sheet.modes if item.id == mode), None)
                return replace(self, mode=self._by_itself(live=found is None or found.live))
            case PlugMoved(connector=connector, state=state):
                return self._moved((connector,), out=state == "pulled")
            case StepDone(place=place, step=step, state=state):
                rest = tuple(each for each in self.opened if each != (place, step))
                opened = (*rest, (place, step)) if state == "opened" else rest
                moved = self._moved(self._plugs(place, step), out=state == "opened")
                return replace(moved, opened=opened)
            case TemperatureTaken(place=place, temperature=temperature):
                return self._measured(place, temperature)
            case CallTaken():
                return replace(self, taken=True)
            case Outcome():
                return replace(self, closed=True)
            case Rewired(plan=plan):
                return self._rewired(plan)
        told = self._told(body, sheets)
        return self if told is self.unchanged else self._on(told, self.plan)

    @property
    def unchanged(self) -> Sheet:
        """The sheet of the unit as it was built."""
        return self.plain or self.sheet

    def _on(self, unchanged: Sheet, plan: Plan | None) -> "Moment":
        """The moment on another sheet, with its wiring changed by a plan where there is one; a plan that does
        not fit a sheet changes nothing there."""
        moved = brought(self, _wired(unchanged, plan))
        return replace(moved, plan=plan, plain=unchanged if plan else None)

    def _rewired(self, plan: Plan | None) -> "Moment":
        """The moment after the wiring was changed, or put back: the same unit, its plugs by their names;
        those that are parked are not out, they are gone."""
        unchanged, parked = self.unchanged, set(plan.parked) if plan else set()
        sheet = _wired(unchanged, plan)
        return replace(
            self,
            sheet=sheet,
            plan=plan,
            plain=unchanged if plan else None,
            pulled=tuple(name for name in self.pulled if name not in parked),
            mode=self.mode if self.mode in {item.id for item in sheet.modes} else "",
        )

    def _told(self, body: Body | Unreadable, sheets: Mapping[str, Sheet]) -> Sheet:
        """The sheet after an entry that says something of the unit itself."""
        match body:
            case SheetTaken(digest=digest) if digest in sheets:
                return sheets[digest]
            case PlateRead(mains_volts=volts, mains_hertz=hertz):
                return fitted(self.unchanged, volts, hertz)
            case _ if isinstance(body, Learned):
                return _with(self.unchanged, body)
        return self.unchanged

    def _by_itself(self, *, live: bool) -> str:
        """The mode the unit is in when nobody put it in one: the first that goes with the plug."""
        modes = self.sheet.modes
        return next((mode.id for mode in modes if mode.live is live), modes[0].id if modes else "")

    def _plugs(self, place: str, step: int) -> tuple[str, ...]:
        found = next((item for item in self.sheet.places if item.id == place), None)
        return found.steps[step].plugs if found and 0 <= step < len(found.steps) else ()

    def _measured(self, place: str, temperature: Quantity) -> "Moment":
        if not place or temperature.value is None:
            return self
        return replace(self, celsius=tuple(sorted({**dict(self.celsius), place: temperature.value}.items())))

    def _moved(self, names: tuple[str, ...], *, out: bool) -> "Moment":
        rest = tuple(name for name in self.pulled if name not in names)
        if not out:
            return self if rest == self.pulled else replace(self, pulled=rest)
        new = tuple(name for name in names if name not in self.pulled)
        return replace(self, pulled=(*self.pulled, *new)) if new else self


def _wired(unchanged: Sheet, plan: Plan | None) -> Sheet:
    """A sheet with its wiring changed by a plan; as it was where the plan does not fit it."""
    try:
        return changed_by(unchanged, plan) if plan else unchanged
    except SheetError:
        return unchanged


def _with(sheet: Sheet, learned: Learned) -> Sheet:
    """The sheet with what was learned; as it was where that names what this sheet has not (it was learned on
    another)."""
    try:
        return with_learned(sheet, learned)
    except (KeyError, ValueError, StopIteration):
        return sheet


def brought(moment: Moment, sheet: Sheet) -> Moment:
    """The moment on another sheet: the plugs that are out and the mode by what they are there."""
    there = counterparts(moment.sheet, sheet)
    if there is None:
        return replace(moment, sheet=sheet)
    pulled = tuple(plug for name in moment.pulled if (plug := there.plug(name)))
    opened = tuple(each for each in moment.opened if each[0] in {place.id for place in sheet.places})
    mode = moment.mode if moment.mode in {item.id for item in sheet.modes} else ""
    return replace(moment, sheet=sheet, pulled=pulled, opened=opened, mode=mode)
