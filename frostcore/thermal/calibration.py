"""A mechanical thermostat set by turns of its screw or dial: what a turn does, how far to turn next, when to
stop.

The cut-out is taken as y = a + b·s over the turns s, b from the sheet or −4.5 ± 2.2 K a turn (an engineer's
of such thermostats), by Bayesian least squares; a cut-out's own doubt is σ² = 0.35²/n + 0.25² (a cycle's
noise over the n that count, and what the hand's turn adds). The first two cycles after a turn do not count.

    next turn d = (target − now)·b/(b² + σ_b²),   stop when P(|now − target| ≤ 1 K) ≥ 0.92
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from frostcore.errors import FrostError

SLOPE, SLOPE_DOUBT = -4.5, 2.2
CYCLE_NOISE, TURN_NOISE = 0.35, 0.25
LEVEL_DOUBT = 40.0
"""Before anything is read a cut-out may be anywhere: ± so many K."""

DROPPED, WANTED = 2, 4
"""So many cycles after a turn do not count; so many are waited for."""

WITHIN, ENOUGH = 1.0, 0.92
MOST_TURNS, FINEST = 4.0, 1 / 24


@dataclass(frozen=True)
class TurnAct:
    """An act: where the screw stands then (turns from where it was found), and the cut-outs (°C) since, in
    their order."""

    turns: float
    cut_outs: tuple[float, ...]

    @property
    def counted(self) -> tuple[float, ...]:
        """Those that count: without the first two, where there are more."""
        return self.cut_outs[DROPPED:] if len(self.cut_outs) > DROPPED else self.cut_outs[-1:]


@dataclass(frozen=True)
class Calibration:
    """What is known: K a turn with its doubt, the cut-out now with its doubt, how likely it is within a
    kelvin, the next turn (signed as the acts' turns; 0 where to stop), whether to stop, and what is still
    wanted in words."""

    slope: float
    slope_doubt: float
    now: float
    now_doubt: float
    within: float
    next_turn: float
    stop: bool
    words: str
    waits: bool = False

    @property
    def act(self) -> str:
        """What to do now, in a few words."""
        if self.stop:
            return "Leave it"
        return _turns(self.next_turn).capitalize() if self.next_turn and not self.waits else "Wait"

    @property
    def slope_words(self) -> str:
        """What a turn does, with its doubt."""
        return f"{self.slope:.1f} ± {self.slope_doubt:.1f} K".replace("-", "\u2212")

    @property
    def within_words(self) -> str:
        """How likely it is within a kelvin now."""
        return f"{self.within:.0%}"


def calibrate(
    acts: Sequence[TurnAct], target: float, *, slope: float = SLOPE, doubt: float = SLOPE_DOUBT
) -> Calibration:
    """What some acts tell, and the next turn towards a target cut-out.

    FrostError without an act, or for one without a cut-out.
    """
    if not acts or any(not act.cut_outs for act in acts):
        raise FrostError(
            "Each act needs at least one cut-out: turn=temperature, such as 0=-24C and 0.5=-26C."
        )
    if doubt <= 0 or slope == 0:
        raise FrostError("A turn does something: its slope is not nothing, nor known without doubt.")
    turns = np.array([act.turns for act in acts])
    seen = np.array([float(np.mean(act.counted)) for act in acts])
    noise = np.array([_doubt(act) for act in acts])
    # y = a + b s with priors on both; one Bayesian least squares.
    design = np.stack([np.ones_like(turns), turns], axis=1)
    prior = np.diag([1 / LEVEL_DOUBT**2, 1 / doubt**2])
    precision = prior + design.T @ (design / noise[:, None] ** 2)
    covariance = np.linalg.inv(precision)
    mean = covariance @ (prior @ np.array([seen[0], slope]) + design.T @ (seen / noise**2))
    b, b_doubt = float(mean[1]), math.sqrt(float(covariance[1, 1]))
    at = np.array([1.0, turns[-1]])
    now, now_doubt = float(at @ mean), math.sqrt(float(at @ covariance @ at))
    within = _within(now - target, now_doubt)
    far = float(np.clip((target - now) * b / (b * b + b_doubt**2), -MOST_TURNS, MOST_TURNS))
    step = round(far / FINEST) * FINEST
    waits = len(acts[-1].cut_outs) < WANTED
    stop = within >= ENOUGH
    early = waits and len(acts[-1].cut_outs) <= DROPPED
    words = _words(acts[-1], step, within, waits, stop)
    return Calibration(
        b, b_doubt, now, now_doubt, within, 0.0 if stop else step, stop, words, waits=early and not stop
    )


def _doubt(act: TurnAct) -> float:
    """Of what an act's mean cut-out says; of one whose cycles do not count yet also what is left of the
    settling (2 K, falling to four tenths with each)."""
    count = len(act.counted)
    early = 2.0 * 0.4 ** (len(act.cut_outs) - 1) if len(act.cut_outs) <= DROPPED else 0.0
    return math.sqrt(CYCLE_NOISE**2 / count + TURN_NOISE**2 + early**2)


def _within(off: float, doubt: float) -> float:
    def below(x: float) -> float:
        return 0.5 * math.erfc(-x / (doubt * math.sqrt(2)))

    return below(WITHIN - off) - below(-WITHIN - off)


def _words(act: TurnAct, step: float, within: float, waits: bool, stop: bool) -> str:
    if stop:
        return f"Leave it: within a kelvin with {within:.0%}. Label the setting."
    if waits and len(act.cut_outs) <= DROPPED:
        left = WANTED - len(act.cut_outs)
        return f"Wait for {left} more cycles: the first {DROPPED} after a turn do not count yet."
    if step == 0.0:
        return "A turn too small to make; wait for another cycle."
    return f"Turn by {_turns(step)}, then wait for {WANTED} cycles: the first {DROPPED} do not count."


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
