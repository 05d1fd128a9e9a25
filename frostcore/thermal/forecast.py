"""When a compartment will reach its setting, and whether at all: by an ensemble of simulations of this unit.

A pull-down is no exponential (a damper closes, the compressor moves less as it gets colder, contents lag
behind), so nothing is fitted to one. Units of this type that differ (contents, walls, what the compressor
moves), sound ones and some that never get there, are simulated from where this one began. Of each the same
features are taken as of the log: what every thermometer showed at quarters of what has been seen, and how
fast it fell at last. The log of the time left is regressed on them over the members that are near
(weights 1/(1 + d²/q), a ridge), and its doubt is what each member would have been off by, foretold by the
others.
"""

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from frostcore.thermal.faults import Broken, broken
from frostcore.thermal.log import Log
from frostcore.thermal.plant import Thermal, targets
from frostcore.thermal.simulate import Plant, simulate
from frostcore.thermal.step import MINUTE

Floats = npt.NDArray[np.float64]

MEMBERS, FAULTY = 240, 60
HOURS = 30.0
QUARTERS = (0.25, 0.5, 0.75, 1.0)
SOONEST = 20.0
"""Minutes that must have been seen."""

RIDGE = 0.03
NEVER_PRIOR = 0.15
"""How often a unit that is watched does not get there."""

SAID_NEVER = 0.9

TAIL = 0.1
"""Of an interval that holds four in five."""

FULL: dict[str, tuple[float, float]] = {
    "": (0.4, 2.2),
    "empty": (0.4, 0.7),
    "half": (0.7, 1.25),
    "full": (1.25, 2.2),
}
"""How much its compartments may hold, as a share of the usual: not known, or as one sees at a look."""

NEVER_CLASSES = (
    Broken(changes=("charge_lost",)),
    Broken(changes=("charge_short", "weak")),
    Broken(changes=("weak", "dirty", "seal")),
    Broken(stands=frozenset({"evaporator_fan", "freezer_fan", "cabinet_fan"})),
    Broken(stands=frozenset({"compressor"})),
)


@dataclass(frozen=True, eq=False)
class Ensemble:
    """Members of one unit: what thermometers showed by the minute (members × rows × channels, each minute's
    node in :attr:`channels`), when each compartment was first at its setting (members × compartments, in
    minutes; inf where never), and which are faulty."""

    plant: Thermal
    channels: tuple[str, ...]
    places: tuple[str, ...]
    seen: Floats
    reached: Floats
    faulty: npt.NDArray[np.bool_]


@dataclass(frozen=True)
class Forecast:
    """Of one compartment: how long has been seen, when it will be at its setting (minutes from the start:
    the middle and between which with four in five), how likely never, whether it is there already."""

    place: str
    seen: float
    median: float
    low: float
    high: float
    never: float
    there: bool = False
    now: float = np.nan
    target: float = np.nan
    shape: tuple[float, ...] = ()
    """How it comes down from what it shows now to its setting, as its members do: the share of the way at
    even shares of the time left."""

    def way(self, minute: float) -> list[tuple[float, float]]:
        """The way there, reached at some minute from the start: minutes and °C."""
        steps = np.linspace(0.0, 1.0, len(self.shape))
        at = self.seen + steps * (minute - self.seen)
        down = self.now + (self.target - self.now) * np.array(self.shape)
        return list(zip(at.tolist(), down.tolist(), strict=True))

    @property
    def words(self) -> str:
        """In a sentence."""
        if self.there:
            return f"It was at its setting after {_clock(self.median)}."
        if self.never >= SAID_NEVER:
            return "By what it has done so far it will not come to its setting."
        left = [max(0.0, each - self.seen) for each in (self.low, self.median, self.high)]
        doubt = f" ({self.never:.0%} that it never does)" if self.never >= DOUBTED else ""
        return (
            f"At its setting in about {_clock(left[1])}, with four in five between {_clock(left[0])} and"
            f" {_clock(left[2])}{doubt}."
        )


DOUBTED = 0.1


def _clock(minutes: float) -> str:
    hours, rest = divmod(round(minutes), 60)
    return f"{hours} h {rest:02d} min" if hours else f"{rest} min"


def varied(plant: Thermal, chance: np.random.Generator, full: str = "") -> Thermal:
    """Another unit of the type: its contents, walls, seals, compressor, condenser and thermometers as they
    may be; as ``full`` as is known (:data:`FULL`)."""
    least, most = np.log(FULL[full])

    def about(share: float) -> float:
        return float(np.exp(chance.normal(0.0, share)))

    rooms = tuple(
        replace(
            room,
            contents=room.contents * float(np.exp(chance.uniform(least, most))),
            wall=room.wall * about(0.1),
            wall_room=room.wall_room * about(0.08),
            seal=room.seal * about(0.2),
            thermometer_lag=room.thermometer_lag * about(0.4),
            openings=0,
        )
        for room in plant.compartments
    )
    faces = tuple(
        replace(face, serves={name: w * about(0.08) for name, w in face.serves.items()})
        for face in plant.evaporators
    )
    compressor = plant.compressor and replace(
        plant.compressor,
        map=replace(plant.compressor.map, strength=plant.compressor.map.strength * about(0.08)),
    )
    condenser = plant.condenser and replace(plant.condenser, runs=plant.condenser.runs * about(0.12))
    modules = tuple(
        replace(each, seebeck=each.seebeck * about(0.03), sink_sheds=each.sink_sheds * about(0.1))
        for each in plant.modules
    )
    return plant.changed(
        compartments=rooms, evaporators=faces, compressor=compressor, condenser=condenser, modules=modules,
        room=plant.room + float(chance.normal(0.0, 0.5)),
    )  # fmt: skip


def beginning(plant: Thermal, first: dict[str, float]) -> dict[str, float]:
    """A state to start from, by the first readings: a compartment's air, contents and wall are what its
    thermometer showed."""
    found = {}
    for room in plant.compartments:
        if room.place in first:
            for node in ("air", "contents", "wall", "sensor", "hung"):
                found[f"{node}:{room.place}"] = first[room.place]
    return found


def ensemble(
    plant: Thermal,
    first: dict[str, float],
    *,
    members: int = MEMBERS,
    faulty: int = FAULTY,
    seed: int = 1,
    full: str = "",
) -> Ensemble:
    """Simulations of a unit from where it began (``first`` readings by compartment), as full as is known
    (:data:`FULL`)."""
    chance = np.random.default_rng(seed)
    places = tuple(room.place for room in plant.compartments)
    channels = (
        *(f"hung:{place}" for place in places),
        *(f"coil:{face.id}" for face in plant.evaporators),
    )
    wanted = targets(plant)
    seen, reached = [], []
    for number in range(members + faulty):
        one = varied(plant, chance, full)
        if number >= members:
            one = broken(one, NEVER_CLASSES[number % len(NEVER_CLASSES)])
        run = simulate(Plant(one), HOURS / 24.0, start=beginning(one, first) or None)
        seen.append(np.stack([run.of(name) for name in channels], axis=1))
        reached.append([_first(run.of(f"hung:{place}"), wanted[place]) for place in places])
    flags = np.arange(members + faulty) >= members
    return Ensemble(plant, channels, places, np.array(seen), np.array(reached), flags)


def _first(values: Floats, target: float) -> float:
    """The minute a temperature is first at its target; inf where never."""
    at = np.flatnonzero(values <= target)
    return float(at[0]) if len(at) else np.inf


def forecast(members: Ensemble, log: Log, place: str) -> Forecast | None:
    """When a compartment will be at its setting, from what a log has shown; None where it has no
    thermometer or too little has been seen."""
    own = log.of("celsius", place)
    if own is None or place not in members.places:
        return None
    at = (log.seconds - log.seconds[0]) / MINUTE
    seen = float(at[-1])
    target = targets(members.plant)[place]
    there = np.flatnonzero(own <= target)
    if len(there):
        when = float(at[there[0]])
        return Forecast(place, seen, when, when, when, 0.0, there=True)
    if seen < SOONEST or seen >= members.seen.shape[1] - 2:
        return None
    used, mine = _features(members, log, at, seen)
    if not used:
        return None
    theirs = np.stack([_of_rows(members.seen[:, :, column], seen) for column in used], axis=1)
    theirs = theirs.reshape(len(theirs), -1)
    found = _regressed(members, place, seen, mine, theirs)
    known = own[~np.isnan(own)]
    return replace(found, now=float(np.median(known[-NOW_ROWS:])), target=target)


NOW_ROWS = 5
STEPS = 21
"""Points of a way down."""


def _shape(curves: Floats, seen: float, reached: Floats, target: float, weights: Floats) -> tuple[float, ...]:
    """The weighted mean way from now to the setting, of members' curves (members × minutes)."""
    at = seen + np.linspace(0.0, 1.0, STEPS)[None, :] * (reached - seen)[:, None]
    at = np.minimum(at, curves.shape[1] - 1.0)
    low = np.floor(at).astype(int)
    high = np.minimum(low + 1, curves.shape[1] - 1)
    rows = np.arange(len(curves))[:, None]
    values = curves[rows, low] + (at - low) * (curves[rows, high] - curves[rows, low])
    whole = np.minimum(target - values[:, :1], -0.2)
    share = np.clip((values - values[:, :1]) / whole, -0.5, 1.5)
    mean = weights @ share / weights.sum()
    mean[-1] = 1.0
    return tuple(mean.tolist())


def _features(members: Ensemble, log: Log, at: Floats, seen: float) -> tuple[list[int], Floats]:
    """The channels a log has, and its features."""
    used, mine = list[int](), list[Floats]()
    for column, name in enumerate(members.channels):
        node, _, where = name.partition(":")
        values = log.of("celsius", where if node == "hung" else name)
        if values is None or np.isnan(values).all():
            continue
        known = ~np.isnan(values)
        even = np.interp(np.arange(int(seen) + 1), at[known], values[known])
        used.append(column)
        mine.append(_of_rows(even[None], seen)[0])
    return used, np.concatenate(mine) if mine else np.zeros(0)


def _of_rows(rows: Floats, seen: float) -> Floats:
    """Features of temperatures by the minute (members × rows): the mean about each quarter of what was seen,
    and the slope over the last quarter."""
    last = int(seen)
    wide = max(2, last // 16)
    found = []
    for share in QUARTERS:
        end = min(int(share * last), last)
        low, high = max(0, end - wide), min(last, end + (wide if share < 1.0 else 0)) + 1
        found.append(rows[:, low:high].mean(axis=1))
    quarter = max(4, last // 4)
    piece = rows[:, last - quarter : last + 1]
    x = np.arange(piece.shape[1]) - (piece.shape[1] - 1) / 2
    found.append((piece @ x) / (x @ x) * 60.0)
    return np.stack(found, axis=1)


def _regressed(members: Ensemble, place: str, seen: float, mine: Floats, theirs: Floats) -> Forecast:
    reached = members.reached[:, members.places.index(place)]
    scale = np.maximum(theirs[~members.faulty].std(axis=0), 0.05)
    away = ((theirs - mine) / scale) ** 2
    distance = away.mean(axis=1)
    later = reached > seen
    never = ~np.isfinite(reached)
    # How likely never: by how near those are that never get there, at their prior.
    near = np.exp(-0.5 * np.minimum(away.sum(axis=1) / 4.0, 200.0))
    bad, good = near[later & never], near[later & ~never & ~members.faulty]
    odds = (
        NEVER_PRIOR * (bad.mean() if len(bad) else 0.0),
        (1 - NEVER_PRIOR) * (good.mean() if len(good) else 0.0),
    )
    chance = float(odds[0] / (odds[0] + odds[1])) if sum(odds) > 0 else float(NEVER_PRIOR)
    use = later & ~never
    if use.sum() < 2 * theirs.shape[1]:
        middle = float(np.median(reached[use])) if use.any() else np.inf
        return Forecast(place, seen, middle, seen, np.inf, max(chance, 0.5))
    x = np.concatenate([np.ones((int(use.sum()), 1)), (theirs[use] - mine) / scale], axis=1)
    y = np.log(reached[use] - seen)
    weights = 1 / (1 + distance[use] / max(float(np.quantile(distance[use], 0.15)), 1e-9))
    whole = x.T @ (x * weights[:, None])
    ridge = RIDGE * weights.sum() * np.eye(x.shape[1])
    ridge[0, 0] = 0.0
    inverse = np.linalg.inv(whole + ridge)
    fit = inverse @ (x.T @ (weights * y))
    # Each member foretold by the others: what it would have been off by is what this run may be off by.
    own = weights * np.einsum("ij,jk,ik->i", x, inverse, x)
    off = (y - x @ fit) / np.maximum(1 - own, 0.05)
    low, high = _quantiles(off, weights, TAIL)
    stretch = float(np.sqrt(1 + inverse[0, 0] * weights.mean()))
    middle = float(fit[0])
    left = [float(np.exp(middle + step * stretch)) for step in (low, 0.0, high)]
    curves = members.seen[use][:, :, members.channels.index(f"hung:{place}")]
    shape = _shape(curves, seen, reached[use], targets(members.plant)[place], weights)
    return Forecast(place, seen, seen + left[1], seen + left[0], seen + left[2], chance, shape=shape)


def _quantiles(values: Floats, weights: Floats, tail: float) -> tuple[float, float]:
    """Below and above which a tail of the weight lies."""
    order = np.argsort(values)
    share = np.cumsum(weights[order]) / weights.sum()
    low, high = np.interp([tail, 1 - tail], share, values[order])
    return min(float(low), 0.0), max(float(high), 0.0)
