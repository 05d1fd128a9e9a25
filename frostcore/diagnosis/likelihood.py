"""How likely a reading is under each hypothesis.

On the scale y = asinh(value / 1 V or 1 Ω), which is linear near nothing and of ratios far from it, with OL a
place of its own. What is foretold has the meter's error and, between the draws of good parts, a kernel's
width; three readings in a hundred are slips: a wrong pin, OL, nothing, anything at all.
"""

import math

import numpy as np
import numpy.typing as npt

from frostcore.circuit.meter import DEAD_SHORT_OHMS, METER_FLOOR, METER_SHARE, OPEN_OHMS, MeterRange
from frostcore.diagnosis.probes import Probe
from frostcore.diagnosis.readings import Readings
from frostcore.quantity import Quantity, State

Floats = npt.NDArray[np.float64]

SLIP = 0.03
"""The share of readings that are of something else than was meant."""

SLIP_OPEN, SLIP_NOTHING, SLIP_ANYTHING = 0.3, 0.2, 0.5
SCALE = 24.0
"""The length of the scale that anything at all is spread over: −6 to 18."""

KERNEL_SHARE = 0.75
"""A kernel's width as a share of what the draws differ by: (4/3n)^(1/5) for six of them."""

WRITTEN_WIDTH = 0.08
"""Before any draw has been made: what good parts make readings differ by."""

MAINS_UNKNOWN, MAINS_MEASURED = 0.03, 0.01
"""How well the mains here are known, as a share."""

PHANTOM_WIDTH = 0.6
"""A phantom is known to about a factor of three each way."""

PULSES_UP, PULSES_DOWN = 0.47, 0.47
"""The shares of a reading that are of a unit that never settles as it is up, and as it is down."""

STRANGE = 0.2
"""How often something that nobody models moves a reading."""

_NEAR_OPEN = 0.25
"""A resistance that near OPEN_OHMS, in ratio, may as well show as OL."""


def log_likelihood(readings: Readings, probe: Probe, value: Quantity, mains: float | None = None) -> Floats:
    """Ln P(value | hypothesis, draw), draws × hypotheses; ``mains`` are the volts measured here."""
    foretold = readings.of(probe).astype(float)
    width = widths(readings, probe, foretold, mains)
    if mains is not None and probe.setup.meter in {MeterRange.VAC, MeterRange.VAC_LOZ}:
        foretold = foretold * (mains / readings.sheet.plate.mains_volts)
    opened = value.state is State.OPEN
    y = math.inf if opened else math.asinh(value.value or 0.0)
    fits = density(foretold, width, y)
    # Of six draws of all parts at once hardly one has this rail low and that sensor high: what a hypothesis
    # leaves as it is tells nothing of the draw, and is as likely as it is in good units on the whole.
    well = density(foretold[:, :1], width[:, :1], y).mean(axis=0, keepdims=True)
    fits = np.where(_touched(probe, foretold), fits, well)
    loose = np.zeros(foretold.shape, bool)
    if not readings.firm(probe):
        # Electronics at rest: a dead short tells, anything else is the meter's doing as much as theirs.
        loose = ~dead_short(foretold)
        short = not opened and (value.value or 0.0) < DEAD_SHORT_OHMS
        whole = math.asinh(DEAD_SHORT_OHMS)
        fits = np.where(loose, 0.0 if short else 1 / SCALE, 1 / whole if short else fits)
    known = readings.hypotheses
    fits = np.where(known.comes_and_goes & ~loose, 0.5 * fits + 0.5 * well, fits)
    if probe.setup.meter.live:
        # What never settles shows in turn what it shows down, what it shows up, or something on the way.
        pulses = PULSES_UP * well + PULSES_DOWN * fits + (1 - PULSES_UP - PULSES_DOWN) / SCALE
        fits = np.where(readings.never_settles(probe.setup.mode), pulses, fits)
    return with_slips(fits, float(well[0, 0]), y)


def with_slips(fits: Floats, sound: float, y: float) -> Floats:
    """Ln P(y | draw, hypothesis) of its densities where no slip is made, with slips, and the last hypothesis:
    what nobody models leaves most of the circuit as it should be."""
    fits[:, -1] = (1 - STRANGE) * sound + STRANGE / SCALE
    return np.asarray(np.log((1 - SLIP) * fits + SLIP * slip_density(y)))


def _touched(probe: Probe, foretold: Floats) -> npt.NDArray[np.bool_]:
    """Which hypotheses (H) make a reading another than a good unit with the same parts shows."""
    return np.asarray((~_alike(probe, foretold, foretold[:, :1])).any(axis=0))


def _alike(probe: Probe, foretold: Floats, other: Floats) -> npt.NDArray[np.bool_]:
    """Where two readings are foretold the same, as far as a meter tells."""
    apart = np.abs(np.arcsinh(_finite(foretold)) - np.arcsinh(_finite(other)))
    opened = [~np.isfinite(each) | (each > OPEN_OHMS) for each in (foretold, other)]
    return np.where(opened[0] | opened[1], opened[0] & opened[1], apart < _own(probe, foretold))


def _own(probe: Probe, foretold: Floats) -> Floats:
    """A meter's error on the scale."""
    return METER_SHARE + METER_FLOOR[probe.setup.meter] / (1 + np.abs(_finite(foretold)))


def kin(readings: Readings, probe: Probe, other: Probe) -> float | None:
    """How far apart on the scale two readings of good units lie that err together, as two of one rail or one
    heater do; None where they don't."""
    if not (readings.firm(probe) and readings.firm(other)):
        return None
    sound = [readings.of(each)[:, 0].astype(float) for each in (probe, other)]
    if len(sound[0]) < LEAST_DRAWS or not all(np.isfinite(each).all() for each in sound):
        return None
    one, two = (np.arcsinh(each) for each in sound)
    differ = float(np.std(one))
    if differ < float(_own(probe, sound[0]).min()) or np.std(one - two) > KIN * differ:
        return None
    return float(np.mean(one - two))


LEAST_DRAWS, KIN = 4, 0.25
"""So many draws tell whether two readings err together: their difference varies by less than this share."""


def log_given(readings: Readings, probe: Probe, value: Quantity, newer: tuple[Probe, Quantity]) -> Floats:
    """Ln P(value | hypothesis, draw) of a reading where one of the same thing has been taken since: the same
    two points in another setup that foretells the same there, or two others that err together with them.
    Then the two count once.

    ``nan`` where the two are foretold differently, or the reading comes and goes: there each counts.
    """
    foretold, since = readings.of(probe).astype(float), readings.of(newer[0]).astype(float)
    if not (readings.firm(probe) and readings.firm(newer[0])):
        return np.full(foretold.shape, np.nan)
    offset = 0.0
    if set(probe.pair) == set(newer[0].pair):
        alike = _alike(probe, foretold, since)
    else:
        offset = kin(readings, probe, newer[0]) or 0.0
        touched = _touched(probe, foretold) | _touched(newer[0], since)
        alike = np.broadcast_to(~touched, foretold.shape)
    unsteady = readings.hypotheses.comes_and_goes
    for each in (probe, newer[0]):
        if each.setup.meter.live:
            unsteady = unsteady | readings.never_settles(each.setup.mode)
    y, y_since = (
        math.inf if each.state is State.OPEN else math.asinh(each.value or 0.0) for each in (value, newer[1])
    )
    if math.isinf(y) or math.isinf(y_since):
        fits = 1.0 if y == y_since else 0.0
    else:
        width = max(float(_own(probe, foretold).min()), AGAIN_WIDTH)
        fits = math.exp(-0.5 * ((y - y_since - offset) / width) ** 2) / (width * math.sqrt(2 * math.pi))
    once = math.log((1 - SLIP) * fits + SLIP * slip_density(y))
    found: Floats = np.where(alike & ~unsteady, once, np.nan)
    return found


AGAIN_WIDTH = 0.02
"""How far the same reading lies from itself, at least."""


def _finite(values: Floats) -> Floats:
    return np.where(np.isfinite(values), values, 0.0)


def dead_short(foretold: Floats) -> npt.NDArray[np.bool_]:
    """Where electronics at rest are bridged by something else; what their own watts and volts come to is no
    reading, however few ohms that are."""
    return np.asarray((foretold < DEAD_SHORT_OHMS) & (foretold < BRIDGED_SHARE * foretold[:, :1]))


BRIDGED_SHARE = 0.5
"""What is bridged is below this share of what the bridge is across."""


def widths(readings: Readings, probe: Probe, foretold: Floats, mains: float | None) -> Floats:
    """How far a reading may lie from what is foretold, on the scale (draws × hypotheses)."""
    meter = probe.setup.meter
    finite = np.where(np.isfinite(foretold), foretold, 0.0)
    slope = 1 / np.sqrt(1 + finite**2)
    own = slope * (METER_SHARE * np.abs(finite) + METER_FLOOR[meter]) / 2
    if len(foretold) > 1:
        scaled = np.where(np.isfinite(foretold), np.arcsinh(finite), np.nan)
        spread = KERNEL_SHARE * draws_differ(scaled, own)
    else:
        # Faults that come in amounts lie anywhere from near the healthy reading to far beyond their own.
        y = np.arcsinh(finite[0])
        spread = np.where(readings.hypotheses.in_amounts, 0.5 * np.abs(y - y[0]), 0.0)
        spread = np.maximum(spread, WRITTEN_WIDTH)
    found = np.sqrt(own**2 + spread**2)
    if meter in {MeterRange.VAC, MeterRange.VAC_LOZ}:
        share = MAINS_UNKNOWN if mains is None else MAINS_MEASURED
        found = np.sqrt(found**2 + (share * np.abs(finite) * slope) ** 2)
        found = np.where(readings.phantoms(probe), np.maximum(found, PHANTOM_WIDTH), found)
    result: Floats = found
    return result


def draws_differ(scaled: Floats, own: Floats) -> Floats:
    """What draws differ by, for each hypothesis; where they fall into two clusters with nothing between (a
    supply that holds with some parts and gives up with others), what they differ by within them."""
    with np.errstate(invalid="ignore"):
        whole = np.nan_to_num(np.std(scaled, axis=0))
        ordered = np.sort(scaled, axis=0)
        gaps = np.diff(ordered, axis=0)
        place = np.argmax(gaps, axis=0)
        low = np.arange(len(scaled))[:, None] <= place
        means = [
            np.sum(np.where(side, ordered, 0.0), axis=0) / np.maximum(side.sum(axis=0), 1)
            for side in (low, ~low)
        ]
        within = np.sqrt(np.mean((ordered - np.where(low, *means)) ** 2, axis=0))
    apart = np.take_along_axis(gaps, place[None], axis=0)[0]
    clusters = apart > CLUSTERS * (within + own.max(axis=0))
    found: Floats = np.where(clusters, within, whole)
    return found


CLUSTERS = 6.0
"""Two clusters of draws lie so many times their own spread apart."""


def density(foretold: Floats, width: Floats, y: float) -> Floats:
    """The density of a reading on the scale, or for OL its probability, where no slip is made."""
    open_too = foretold > OPEN_OHMS * math.exp(-_NEAR_OPEN)
    if math.isinf(y):
        return np.where(open_too, 1.0, 0.0)
    apart = (y - np.arcsinh(np.where(np.isfinite(foretold), foretold, 0.0))) / width
    # A wider second hump: parts and meters stray further than a normal curve says.
    hump = 0.93 * np.exp(-0.5 * apart**2) / width + 0.07 * np.exp(-0.5 * (apart / 3) ** 2) / (3 * width)
    return np.where(np.isfinite(foretold), hump / math.sqrt(2 * math.pi), 0.0)


def slip_density(y: float) -> float:
    """The density of a slip: OL, about nothing, anything."""
    if math.isinf(y):
        return SLIP_OPEN
    return SLIP_ANYTHING / SCALE + (SLIP_NOTHING if abs(y) < 0.5 else 0.0)
