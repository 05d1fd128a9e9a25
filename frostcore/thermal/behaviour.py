"""What a run of a unit shows under each of its faults: found by running each thermal class and judging its
log as any other is judged.

What a run found is a handful of words (``cuts_out`` ``never``, ``holds:freezer`` ``warm``): a class that
shows the same by its own simulation is as likely as units of a type are alike, one that shows another is not
ruled out, for no unit is its usual plant. The whole is tempered, and never more than six bits: a log alone
names nothing, it multiplies odds.
"""

import math
from collections.abc import Collection, Mapping
from dataclasses import replace

from frostcore.circuit.kept import circuits_of
from frostcore.faults.known import Fault
from frostcore.sheet.model import Sheet
from frostcore.thermal.control import DAY, Act, openings
from frostcore.thermal.faults import SOUND, Broken, broken, broken_by
from frostcore.thermal.log import Log
from frostcore.thermal.logged import logged
from frostcore.thermal.of_sheet import thermal_of
from frostcore.thermal.plant import Thermal
from frostcore.thermal.setting import Setting
from frostcore.thermal.simulate import simulate
from frostcore.thermal.verdicts import Judged

ALIKE = 0.88
"""How often a unit with a fault of a class shows what its usual plant with it does."""

TEMPERED, MOST_BITS = 0.5, 6.0

DAYS = 2.0

CODES: dict[str, tuple[str, ...]] = {
    "holds": ("yes", "warm", "cold"),
    "cuts_out": ("yes", "never", "runs_on", "dead"),
    "short_cycles": ("yes", "no"),
    "defrosts": ("yes", "no"),
    "defrost_endless": ("yes", "no"),
    "thaws": ("yes", "no"),
}
"""What is found of each kind of verdict."""


def is_found(key: str, code: str) -> bool:
    """Whether that can be found of a run: ``holds:freezer`` ``warm``."""
    return code in CODES.get(key.partition(":")[0], ())


def shown_by(plant: Thermal, by: Broken) -> dict[str, str]:
    """What two days of a plant with a class of fault show on the second, every thermometer hung, watts on."""
    run = simulate(broken(plant, by), DAYS, acts=openings(plant, DAYS))
    return Judged(plant, logged(run).as_log(since=(DAYS - 1) * DAY)).found


WATCHED: dict[str, tuple[str, float]] = {
    "forced": ("Force a defrost and read the watts", 40.0),
    "air": ("Log a thermometer in each compartment, a day", 1440.0),
    "watts": ("Log the watts too, a day", 1440.0),
    "coil": ("Log a thermometer on the coil too, a day", 1440.0),
}
"""Ways of watching a unit: in words, and how long each takes (min)."""


def shown_watched(plant: Thermal, by: Broken) -> dict[str, dict[str, str]]:
    """What each way of watching shows of a plant with a class of fault."""
    real = broken(plant, by)
    log = logged(simulate(real, DAYS, acts=openings(plant, DAYS))).as_log(since=(DAYS - 1) * DAY)
    forced = simulate(real, 1.0 + FORCED, acts=(*openings(plant, 1.0), Act(DAY, "defrost")))
    seen = _without(logged(forced).as_log(since=DAY - 1800.0), "celsius")
    begun = Setting(float(seen.seconds[0]) + 1800.0, "defrost")
    defrost = Judged(plant, seen, [begun]).found
    return {
        "forced": {key: code for key, code in defrost.items() if key.startswith("defrost")},
        "air": Judged(plant, _without(log, "watts", coil=True)).found,
        "watts": Judged(plant, _without(log, coil=True)).found,
        "coil": Judged(plant, log).found,
    }


FORCED = 75.0 / 1440.0
"""Days watched after a defrost was forced: its longest and what follows."""


def _without(log: Log, quantity: str = "", *, coil: bool = False) -> Log:
    """A log without the columns of a quantity, and without a coil's."""
    kept = [
        number
        for number, column in enumerate(log.columns)
        if column.quantity != quantity and not (coil and column.where.startswith("coil:"))
    ]
    return replace(log, columns=tuple(log.columns[n] for n in kept), values=log.values[kept])


def classes_of(sheet: Sheet) -> dict[Broken, dict[str, str]]:
    """What each thermal class of a sheet's faults shows, as far as it has been asked for; kept with its
    circuits."""
    kept = circuits_of(sheet).foretelling.kept
    found: dict[Broken, dict[str, str]] = kept.setdefault("thermal classes", {})
    return found


def log_of_run(sheet: Sheet, faults: tuple[Fault, ...], found: Mapping[str, str]) -> dict[str | None, float]:
    """Ln P(what a run found | fault) by the fault's id, tempered and bounded; ``""`` is a sound unit, None
    one that is wrong as nobody models."""
    plant, known = thermal_of(sheet), classes_of(sheet)
    of_fault = dict(zip((fault.id for fault in faults), broken_by(sheet, plant, faults), strict=True))
    for by in {SOUND, *of_fault.values()}:
        if by not in known:
            known[by] = shown_by(plant, by)
    by_class = {by: tempered(found, known[by]) for by in {SOUND, *of_fault.values()}}
    flat = TEMPERED * sum(-math.log(len(CODES[key.partition(":")[0]])) for key in found)
    best = max(*by_class.values(), flat)
    floor = best - MOST_BITS * math.log(2)
    told: dict[str | None, float] = {name: max(by_class[by], floor) for name, by in of_fault.items()}
    return told | {"": max(by_class[SOUND], floor), None: max(flat, floor)}


def tempered(found: Mapping[str, str], shown: Mapping[str, str], keys: Collection[str] = ()) -> float:
    """Ln P(what was found | a class that shows this), tempered; of ``keys`` where they are given, of which
    either may show nothing."""
    whole = 0.0
    for key in keys or found:
        code, others = found.get(key), len(CODES[key.partition(":")[0]])
        if key not in shown or code is None:
            whole -= math.log(others)
        else:
            whole += math.log(ALIKE if shown[key] == code else (1 - ALIKE) / (others - 1))
    return TEMPERED * whole
