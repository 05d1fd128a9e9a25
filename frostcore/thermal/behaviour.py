"""What a run of a unit shows under each of its faults: found by running each thermal class and judging its
log as any other is judged.

What a run found is a handful of words (``cuts_out`` ``never``, ``holds:freezer`` ``warm``): a class that
shows the same by its own simulation is as likely as units of a type are alike, one that shows another is not
ruled out, for no unit is its usual plant. The whole is tempered, and never more than six bits: a log alone
names nothing, it multiplies odds.
"""

import math
from collections.abc import Mapping

from frostcore.circuit.kept import circuits_of
from frostcore.faults.known import Fault
from frostcore.sheet.model import Sheet
from frostcore.thermal.control import DAY, openings
from frostcore.thermal.faults import SOUND, Broken, broken, broken_by
from frostcore.thermal.logged import logged
from frostcore.thermal.of_sheet import thermal_of
from frostcore.thermal.plant import Thermal
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
    by_class = {by: _tempered(found, known[by]) for by in {SOUND, *of_fault.values()}}
    flat = TEMPERED * sum(-math.log(len(CODES[key.partition(":")[0]])) for key in found)
    best = max(*by_class.values(), flat)
    floor = best - MOST_BITS * math.log(2)
    told: dict[str | None, float] = {name: max(by_class[by], floor) for name, by in of_fault.items()}
    return told | {"": max(by_class[SOUND], floor), None: max(flat, floor)}


def _tempered(found: Mapping[str, str], shown: Mapping[str, str]) -> float:
    whole = 0.0
    for key, code in found.items():
        others = len(CODES[key.partition(":")[0]])
        if key not in shown:
            whole -= math.log(others)
        else:
            whole += math.log(ALIKE if shown[key] == code else (1 - ALIKE) / (others - 1))
    return TEMPERED * whole
