"""Which kind of unit it is: by what is seen of it, and by what was read of its parts so far.

Each kind either has a feature or has not; a part that was read is there. How likely each kind is then
follows, and which feature is worth looking for next: the one whose answer parts the likely kinds best.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations

from frostcore.quantity import State
from frostcore.sheet.model import Component, Sheet
from frostcore.tape.entries import ReadingTaken
from frostcore.tape.reading import sensor_of
from frostcore.tape.standing import Standing

MISTAKEN = 0.03
"""How often a feature is seen that is not there, or missed."""

ALIKE = 0.12
"""Windings that differ by less are alike: an inverter's three are wound as one, the two of a compressor that
starts by itself never are."""

LEAST_BITS = 0.05


@dataclass(frozen=True)
class Feature:
    """What one sees of a unit: its words, and the part that is behind it."""

    id: str
    words: str
    part: Callable[[Component], bool]

    def of(self, sheet: Sheet) -> bool:
        """Whether a kind has it."""
        return any(self.part(component) for component in sheet.components)


def _kind(*kinds: str) -> Callable[[Component], bool]:
    return lambda component: component.kind in kinds


def _named(*names: str) -> Callable[[Component], bool]:
    return lambda component: component.id in names


FEATURES = (
    Feature("inverter", "An electronics box on the compressor, its three pins alike", _kind("inverter")),
    Feature("knob", "A knob with a bulb that switches the compressor itself", _kind("thermostat")),
    Feature("second_coil", "A coil of the fridge’s own, behind its back wall", _named("fridge_coil_sensor")),
    Feature("damper", "A damper that lets the freezer’s air into the fridge", _kind("damper")),
    Feature("defrost", "A defrost heater under the coil", _named("defrost_heater")),
    Feature("dispenser", "Ice or water through the door", _kind("flap_motor", "auger_motor")),
    Feature("condenser_fan", "A fan beside the compressor", _named("condenser_fan")),
    Feature("run_capacitor", "A run capacitor at the compressor", _kind("run_capacitor")),
    Feature("module", "No compressor: cold plates with a fan each", _kind("module")),
)
"""What parts the kinds that ship."""


@dataclass(frozen=True)
class Likely:
    """A kind, by its place among those asked about: its probability, and what was seen that it has not or
    has not that was seen."""

    place: int
    probability: float
    against: tuple[Feature, ...]


def seen_in(standing: Standing) -> dict[str, bool]:
    """What readings say of a unit's features: a part that was read is there; three windings tell what drives
    the compressor."""
    found: dict[str, bool] = {}
    windings: dict[frozenset[str], float] = {}
    for slip in standing.effective:
        body = slip.entry.body
        if not isinstance(body, ReadingTaken) or body.meter != "ohm" or body.value.state is not State.VALUE:
            continue
        sheet, value = slip.moment.sheet, body.value.value or 0.0
        ends = [_end(sheet, point) for point in (body.red, body.black) if point]
        sensor = sensor_of(sheet, body)
        owners = {sensor.component} if sensor else {owner for owner, _ in ends}
        parts = [part for part in sheet.components if part.id in owners]
        found |= {feature.id: True for part in parts for feature in FEATURES if feature.part(part)}
        pair = frozenset(terminal for _, terminal in ends)
        if len(parts) == 1 and parts[0].kind == "compressor" and len(pair) == 2 and value > 0:
            windings[pair] = value
    for three in combinations(windings, 3):
        if len(frozenset().union(*three)) == 3:
            ohms = [windings[pair] for pair in three]
            found["inverter"] = max(ohms) / min(ohms) < 1 + ALIKE
    return found


def speaks_against(standing: Standing) -> tuple[Feature, ...]:
    """What readings say that the kind a call is worked with has not, or has otherwise."""
    seen = seen_in(standing)
    return tuple(f for f in FEATURES if f.id in seen and f.of(standing.sheet) is not seen[f.id])


def _end(sheet: Sheet, point: str) -> tuple[str, str]:
    """The part and terminal a point's wire leads to."""
    base = point.partition("/")[0]
    run = next((run.points for run in sheet.harness if base in run.points), None)
    owner, _, terminal = (run[-1] if run and sheet.pin(base) else base).partition(".")
    return owner, terminal


def likely(kinds: Sequence[Sheet], answers: Mapping[str, bool]) -> tuple[Likely, ...]:
    """The kinds, likeliest first, after what was seen (by a feature's id)."""
    has = [{feature.id: feature.of(kind) for feature in FEATURES} for kind in kinds]
    weights = [
        math.prod(1 - MISTAKEN if mine[name] is there else MISTAKEN for name, there in answers.items())
        for mine in has
    ]
    whole = math.fsum(weights) or 1.0
    found = [
        Likely(
            place,
            weight / whole,
            tuple(f for f in FEATURES if f.id in answers and has[place][f.id] is not answers[f.id]),
        )
        for place, weight in enumerate(weights)
    ]
    return tuple(sorted(found, key=lambda each: -each.probability))


def look_for(kinds: Sequence[Sheet], answers: Mapping[str, bool]) -> Feature | None:
    """The feature whose answer tells most about which kind it is; None where none tells anything more."""
    chances = {each.place: each.probability for each in likely(kinds, answers)}
    best: tuple[float, Feature] | None = None
    for feature in FEATURES:
        if feature.id in answers:
            continue
        yes = math.fsum(chance for place, chance in chances.items() if feature.of(kinds[place]))
        bits = _bits(yes * (1 - MISTAKEN) + (1 - yes) * MISTAKEN) - _bits(MISTAKEN)
        if bits > LEAST_BITS and (best is None or bits > best[0] + 1e-9):
            best = bits, feature
    return best[1] if best else None


def _bits(chance: float) -> float:
    """The doubt in a yes or no, in bits."""
    return -math.fsum(share * math.log2(share) for share in (chance, 1 - chance) if share > 0)
