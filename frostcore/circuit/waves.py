"""Outputs that pass only part of each wave: what a meter makes of them.

A triac that conducts from the angle δ after the mains' zero to the end of the half wave, in both half waves
or in one only, leaves a load the volts of the conducting circuit for that part of the time and those of the
blocked circuit for the rest, where both are resistive. Of a phasor V = |V|·e^{jφ} that stands from θ₁ to θ₂
of a turn the mean is √2|V|(cos(θ₁ + φ) − cos(θ₂ + φ))/2π, and the mean square
|V|²(θ₂ − θ₁ − (sin 2(θ₂ + φ) − sin 2(θ₁ + φ))/2)/2π.

On DC a meter shows the mean. On AC, which it takes through a capacitor, one that answers to the r.m.s. shows
√(r.m.s.² − mean²), one that answers to the average π/(2√2) times the mean deviation, as if it were a sine.
"""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from frostcore.circuit.element import Wave
from frostcore.circuit.solver import Array

Floats = npt.NDArray[np.float64]

SINE_FORM = math.pi / (2 * math.sqrt(2))
"""The form factor of a sine: what an averaging meter multiplies by."""

_STEPS = 3600
"""Steps of a turn for the mean deviation, which has no closed form."""


@dataclass(frozen=True)
class Shape:
    """Chopped volts: their mean, and what AC meters show that answer to the r.m.s. and to the average."""

    mean: float
    rms: float
    average: float


def spans(wave: Wave) -> tuple[tuple[float, float], ...]:
    """The parts of a turn in which it conducts, in radians."""
    both = (wave.delay, math.pi), (math.pi + wave.delay, 2 * math.pi)
    return (both[wave.backwards],) if wave.half else both


def energy(wave: Wave) -> float:
    """The share of its full watts that a resistance gets: half, or 1 − δ/π + sin 2δ/2π of whatever passes."""
    passed = 1 - wave.delay / math.pi + math.sin(2 * wave.delay) / (2 * math.pi)
    return passed / 2 if wave.half else passed


def mean_and_square(on: Array, off: Array, wave: Wave) -> tuple[Floats, Floats]:
    """Mean and mean square of volts that are those of ``on`` while it conducts and of ``off`` else, from
    their phasors (of any shape, r.m.s.)."""
    mean, square = _of(off, 0.0, 2 * math.pi)
    for span in spans(wave):
        for phasors, sign in ((on, 1.0), (off, -1.0)):
            its_mean, its_square = _of(phasors, *span)
            mean, square = mean + sign * its_mean, square + sign * its_square
    return mean, square


def _of(phasors: Array, start: float, end: float) -> tuple[Floats, Floats]:
    size, angle = np.abs(phasors), np.angle(phasors)
    mean = math.sqrt(2) * size * (np.cos(start + angle) - np.cos(end + angle)) / (2 * math.pi)
    swing = (np.sin(2 * (end + angle)) - np.sin(2 * (start + angle))) / 2
    return mean, size**2 * (end - start - swing) / (2 * math.pi)


def shown_ac(on: Array, off: Array, wave: Wave) -> Floats:
    """What an AC meter shows that answers to the r.m.s., from the phasors."""
    mean, square = mean_and_square(on, off, wave)
    shown: Floats = np.sqrt(np.maximum(square - mean**2, 0.0))
    return shown


def shape(on: complex, off: complex, wave: Wave) -> Shape:
    """All that meters make of one pair's volts."""
    mean, square = mean_and_square(np.array(on), np.array(off), wave)
    theta = (np.arange(_STEPS) + 0.5) * 2 * math.pi / _STEPS
    conducts = np.any([(theta >= start) & (theta < end) for start, end in spans(wave)], axis=0)
    volts: Any = math.sqrt(2) * np.where(conducts, *(np.imag(v * np.exp(1j * theta)) for v in (on, off)))
    deviation = float(np.mean(np.abs(volts - np.mean(volts))))
    return Shape(float(mean), math.sqrt(max(float(square - mean**2), 0.0)), SINE_FORM * deviation)
