"""A mechanical thermostat set by turns of its screws or dial, an electronic one by its offset: what a turn
does, how far to turn next, when to stop.

A cut-out is taken as y = a + b·r + c·d over the turns r of the range screw and d of the differential screw,
b from the sheet or −4.5 ± 2.2 K a turn (an engineer's of such thermostats), by Bayesian least squares; a bulb
that is moved begins another a. A cut-out's own doubt is σ² = 0.35²/n + 0.25² (a cycle's noise over the n that
count, and what the hand's turn adds). The first two cycles after a turn do not count.

    next turn d = (target − now)·b/(b² + σ_b²),   stop when P(|now − target| ≤ 1 K) ≥ 0.92

With a cut-in wanted too, it is y = a' + (b + e)·r + w·d: the range screw moves both, for it is one spring.
Both turns come of the same rule with matrices: (BᵀB + Σ)⁻¹Bᵀ(target − now), Σ the doubts of B's columns.
Which way a differential screw goes nobody knows before it was turned: half a turn is to learn.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from frostcore.errors import FrostError
from frostcore.quantity import format_celsius
from frostcore.sentence import joined

Floats = npt.NDArray[np.float64]

SLOPE, SLOPE_DOUBT = -4.5, 2.2
CYCLE_NOISE, TURN_NOISE = 0.35, 0.25
LEVEL_DOUBT = 40.0
"""Before anything is read a cut-out may be anywhere: ± so many K."""

DROPPED, WANTED = 2, 4
"""So many cycles after a turn do not count; so many are waited for."""

ACROSS, ACROSS_DOUBT = 0.0, 0.8
"""What the differential screw does to the cut-out, K a turn, and its doubt: little."""

WIDENS, WIDENS_DOUBT = 0.0, 4.0
"""And to the cut-in: it is its own, either way."""

APART = 0.5
"""By how much the range screw moves the cut-in otherwise than the cut-out, K a turn: doubt about nothing."""

TO_LEARN = 0.5
"""A turn that is to tell which way a screw goes."""

OF: dict[str, tuple[str, float, float]] = {
    "screw": ("range screw, turns", SLOPE, SLOPE_DOUBT),
    "dial": ("dial, by its numbers", -2.0, 1.5),
    "offset": ("offset, kelvin", 1.0, 0.1),
}
"""What is turned: in words, and what one of it does to the cut-out (K) with its doubt. A dial's numbers run
colder; an offset is kelvin by its own word."""

THAWS = 3.0
"""A plate that is defrosted while it stands has lost its ice only where its cut-in lies above this, °C."""

WITHIN, ENOUGH = 1.0, 0.92
MOST_TURNS, FINEST = 4.0, 1 / 24


@dataclass(frozen=True)
class TurnAct:
    """An act: where the range screw stands then (turns from where it was found), the cut-outs (°C) since, in
    their order; the cut-ins likewise, where they were seen; where the differential screw stands; how often
    the bulb was moved by then."""

    turns: float
    cut_outs: tuple[float, ...]
    cut_ins: tuple[float, ...] = ()
    differential: float = 0.0
    bulb: int = 0

    @property
    def counted(self) -> tuple[float, ...]:
        """The cut-outs that count: without the first two, where there are more."""
        return _counted(self.cut_outs)


def _counted(levels: tuple[float, ...]) -> tuple[float, ...]:
    return levels[DROPPED:] if len(levels) > DROPPED else levels[-1:]


@dataclass(frozen=True)
class Calibration:
    """What is known: K a turn with its doubt, the cut-out now with its doubt, how likely it is within a
    kelvin (the cut-in too, where one is wanted), the next turn (signed as the acts' turns; 0 where to stop),
    whether to stop, and what is still wanted in words; the cut-in now with its doubt, and the differential
    screw's next turn."""

    slope: float
    slope_doubt: float
    now: float
    now_doubt: float
    within: float
    next_turn: float
    stop: bool
    words: str
    waits: bool = False
    cut_in: float | None = None
    cut_in_doubt: float | None = None
    next_differential: float = 0.0

    @property
    def act(self) -> str:
        """What to do now, in a few words."""
        if self.stop:
            return "Leave it"
        if self.waits or not (self.next_turn or self.next_differential):
            return "Wait"
        told = _both(self.next_turn, self.next_differential).removeprefix("the ")
        return f"{told[:1].upper()}{told[1:]}"

    @property
    def slope_words(self) -> str:
        """What a turn does, with its doubt."""
        return f"{self.slope:.1f} ± {self.slope_doubt:.1f} K".replace("-", "\u2212")

    @property
    def cut_in_words(self) -> str:
        """The cut-in now, with its doubt; nothing where none is wanted."""
        if self.cut_in is None or self.cut_in_doubt is None:
            return ""
        return f"{format_celsius(round(self.cut_in, 1))} ± {self.cut_in_doubt:.1f} K"

    @property
    def within_words(self) -> str:
        """How likely it is within a kelvin now."""
        return f"{self.within:.0%}"


def _solved(
    design: Floats, seen: Floats, noise: Floats, expected: Floats, doubts: Floats
) -> tuple[Floats, Floats]:
    """Bayesian least squares: coefficients and their covariance, from rows, what they showed with its doubt,
    and what was expected with its doubt."""
    precision = np.diag(1 / doubts**2)
    covariance = np.linalg.inv(precision + design.T @ (design / noise[:, None] ** 2))
    mean = covariance @ (precision @ expected + design.T @ (seen / noise**2))
    return np.asarray(mean, dtype=float), np.asarray(covariance, dtype=float)


def _intercepts(acts: Sequence[TurnAct], seen: Floats) -> tuple[Floats, Floats]:
    """A column for each of the bulb's places, and what is expected of each: what was first seen there."""
    bulbs = [act.bulb for act in acts]
    places = sorted(set(bulbs))
    columns = np.array([[float(bulb == place) for place in places] for bulb in bulbs])
    return columns, np.array([seen[bulbs.index(place)] for place in places])


def calibrate(
    acts: Sequence[TurnAct],
    target: float,
    *,
    slope: float = SLOPE,
    doubt: float = SLOPE_DOUBT,
    cut_in: float | None = None,
) -> Calibration:
    """What some acts tell, and the next turn towards a target cut-out; towards a ``cut_in`` too, by both
    screws, where one is wanted.

    FrostError without an act, for one without a cut-out, and for one without a cut-in where one is wanted.
    """
    if not acts or any(not act.cut_outs for act in acts):
        raise FrostError(
            "Each act needs at least one cut-out: turn=temperature, such as 0=-24C and 0.5=-26C."
        )
    if doubt <= 0 or slope == 0:
        raise FrostError("A turn does something: its slope is not nothing, nor known without doubt.")
    if cut_in is not None:
        return _two(acts, target, cut_in, (slope, doubt))
    seen, noise = _shown([act.cut_outs for act in acts])
    at, first = _intercepts(acts, seen)
    screws = np.array([[act.turns, act.differential] for act in acts])
    expected = np.array([*first, slope, ACROSS])
    doubts = np.array([*([LEVEL_DOUBT] * len(first)), doubt, ACROSS_DOUBT])
    design = np.hstack([at, screws])
    mean, covariance = _solved(design, seen, noise, expected, doubts)
    now, now_doubt = _at(design[-1], mean, covariance)
    b, b_doubt = float(mean[-2]), math.sqrt(float(covariance[-2, -2]))
    within = _within(now - target, now_doubt)
    step = _made((target - now) * b / (b * b + b_doubt**2))
    stop, early = within >= ENOUGH, _early(acts[-1])
    words = _words(acts[-1], step, 0.0, within, stop=stop)
    return Calibration(
        b, b_doubt, now, now_doubt, within, 0.0 if stop else step, stop, words, waits=early and not stop
    )


def _shown(levels: Sequence[tuple[float, ...]]) -> tuple[Floats, Floats]:
    """The mean of the levels that count, act by act, and its doubt."""
    seen = np.array([float(np.mean(_counted(each))) for each in levels])
    return seen, np.array([_doubt(each) for each in levels])


def _at(row: Floats, mean: Floats, covariance: Floats) -> tuple[float, float]:
    return float(row @ mean), math.sqrt(float(row @ covariance @ row))


def _two(acts: Sequence[TurnAct], target: float, wanted: float, slope: tuple[float, float]) -> Calibration:
    """Both levels by both screws, in one least squares: intercepts of either, then b, e, c, w."""
    if any(not act.cut_ins for act in acts):
        raise FrostError("Each act needs at least one cut-in too, where one is wanted.")
    if wanted <= target:
        raise FrostError("A thermostat cuts in warmer than it cuts out.")
    outs, out_noise = _shown([act.cut_outs for act in acts])
    ins, in_noise = _shown([act.cut_ins for act in acts])
    (at, out_first), (_, in_first) = _intercepts(acts, outs), _intercepts(acts, ins)
    r, d = np.array([[act.turns] for act in acts]), np.array([[act.differential] for act in acts])
    none = np.zeros_like(r)
    out_rows = np.hstack([at, np.zeros_like(at), r, none, d, none])
    in_rows = np.hstack([np.zeros_like(at), at, r, r, none, d])
    levels = [LEVEL_DOUBT] * (2 * len(out_first))
    mean, covariance = _solved(
        np.vstack([out_rows, in_rows]),
        np.concatenate([outs, ins]),
        np.concatenate([out_noise, in_noise]),
        np.array([*out_first, *in_first, slope[0], 0.0, ACROSS, WIDENS]),
        np.array([*levels, slope[1], APART, ACROSS_DOUBT, WIDENS_DOUBT]),
    )
    now, now_doubt = _at(out_rows[-1], mean, covariance)
    into, into_doubt = _at(in_rows[-1], mean, covariance)
    b, e, c, w = mean[-4:]
    var = np.diag(covariance)[-4:]
    does = np.array([[b, c], [b + e, w]])
    off = np.array([target - now, wanted - into])
    doubts = np.diag([2 * var[0] + var[1], var[2] + var[3]])
    turns = np.linalg.solve(does.T @ does + doubts, does.T @ off)
    steps = [_made(float(each)) for each in turns]
    learns = var[3] > w * w and abs(float(off[1] - does[1] @ steps)) > WITHIN
    if learns:
        steps = [_made(float(off[0] * b / (b * b + var[0]))), TO_LEARN]
    within = _within(-off[0], now_doubt) * _within(-off[1], into_doubt)
    stop, early = within >= ENOUGH, _early(acts[-1])
    words = _words(acts[-1], steps[0], steps[1], within, stop=stop)
    if learns and not stop and not early:
        words += " The differential screw’s is to learn which way it goes."
    if wanted < THAWS:
        words += f" A plate that defrosts while it stands keeps ice with a cut-in below {THAWS:.0f} °C."
    return Calibration(
        float(b), math.sqrt(float(var[0])), now, now_doubt, within, 0.0 if stop else steps[0], stop, words,
        early and not stop, into, into_doubt, 0.0 if stop else steps[1],
    )  # fmt: skip


def _made(turn: float) -> float:
    """A turn as far as a hand makes it at once, and as fine."""
    return round(float(np.clip(turn, -MOST_TURNS, MOST_TURNS)) / FINEST) * FINEST


def _early(act: TurnAct) -> bool:
    return len(act.cut_outs) <= DROPPED


def _doubt(levels: tuple[float, ...]) -> float:
    """Of what an act's mean level says; of one whose cycles do not count yet also what is left of the
    settling (2 K, falling to four tenths with each)."""
    count = len(_counted(levels))
    early = 2.0 * 0.4 ** (len(levels) - 1) if len(levels) <= DROPPED else 0.0
    return math.sqrt(CYCLE_NOISE**2 / count + TURN_NOISE**2 + early**2)


def _within(off: float, doubt: float) -> float:
    def below(x: float) -> float:
        return 0.5 * math.erfc(-x / (doubt * math.sqrt(2)))

    return below(WITHIN - off) - below(-WITHIN - off)


def _words(act: TurnAct, step: float, other: float, within: float, *, stop: bool) -> str:
    if stop:
        return f"Leave it: within a kelvin with {within:.0%}. Label the setting."
    if _early(act):
        left = WANTED - len(act.cut_outs)
        return f"Wait for {left} more cycles: the first {DROPPED} after a turn do not count yet."
    if step == 0.0 and other == 0.0:
        return "A turn too small to make; wait for another cycle."
    turn = f"Turn {_both(step, other)}" if other else f"Turn by {_turns(step)}"
    return f"{turn}, then wait for {WANTED} cycles: the first {DROPPED} do not count."


def _both(step: float, other: float) -> str:
    """Turns of both screws in words; of one alone without its name."""
    if not other:
        return _turns(step)
    parts = [f"the range screw {_turns(step)}"] if step else []
    return joined([*parts, f"the differential screw {_turns(other)}"])


def _turns(step: float) -> str:
    """A turn as a hand makes it."""
    whole = abs(step)
    named = {0.25: "a quarter turn", 0.5: "half a turn", 1.0: "a full turn", 0.75: "three quarters of a turn"}
    near = min(named, key=lambda each: abs(each - whole))
    said = named[near] if abs(near - whole) < FINEST else f"{whole:.2f} of a turn ({whole * 360:.0f}°)"
    return f"{said} {'on' if step > 0 else 'back'}"


def how_long(found: Calibration) -> str:
    """What waiting for an act's cycles takes, and the shorter form there is."""
    if found.stop:
        return "Then have the customer read a thermometer in a glass of water there the next morning."
    return (
        f"{WANTED} cycles take five to ten hours. Short of that: two cycles now, confirmed by the customer’s"
        " thermometer tomorrow."
    )
