"""Which kind of error explains all of a sensor's readings best.

Each kind is a way from the sensor's own resistance R to the reading:

    none                R
    series_resistance   R + Rs          a corroded joint
    parallel_leakage    R·Rp/(R + Rp)   moisture
    scale               s·R
    shifted_curve       R of another curve: a known one, or any Beta curve through the points
    intermittent        some readings are R, others anything

Each is fitted by generalised least squares (see :mod:`frostcore.curves.known`); every free parameter, and
every choice among curves, costs a fixed penalty, so that freedom has to be earned. Weights are exp(−(misfit
+ penalty)/2), normalised.
"""

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from frostcore.curves.known import (
    PROFILE_CELSIUS,
    KnownCurve,
    Sensitivity,
    curve_misfit,
    fitted,
    misfit,
    numbers,
)
from frostcore.curves.model import REFERENCE_CELSIUS, BetaCurve, Curve, Floats
from frostcore.curves.verdict import (
    GUIDE_POINTS,
    NEAR_KELVIN,
    Limits,
    SensorPoint,
    SensorVerdict,
    judge_sensor,
)
from frostcore.quantity import Dimension, State, format_celsius, format_ohms, format_value
from frostcore.verdict import Verdict


class ErrorKind(StrEnum):
    """What is wrong with a sensor or its wiring, as far as its readings tell."""

    NONE = "none"
    SERIES_RESISTANCE = "series_resistance"
    PARALLEL_LEAKAGE = "parallel_leakage"
    SHIFTED_CURVE = "shifted_curve"
    SCALE = "scale"
    INTERMITTENT = "intermittent"
    CANNOT_TELL = "cannot_tell"


PENALTY = {
    ErrorKind.NONE: 0.0,
    ErrorKind.SERIES_RESISTANCE: 4.0,
    ErrorKind.PARALLEL_LEAKAGE: 4.0,
    ErrorKind.SHIFTED_CURVE: 4.0,
    ErrorKind.SCALE: 8.0,
    ErrorKind.INTERMITTENT: 6.0,
}
"""Cost of each kind's freedom in units of χ².

A bare scale error is the rarest: parts that are off by a factor are other parts.
"""

GENERIC_CURVE_PENALTY = 2.0
"""On top, where the shifted curve is a generic one, of which there are many."""

UNKNOWN_CURVE_PENALTY = 10.0
"""On top, where the shifted curve is none of the known ones and its two parameters are free."""
STRAY_COST = 6.0
"""Cost of a reading that is anything at all, for an intermittent joint: 2·ln of the decades it may lie in
over a reading's width."""
OPEN_COST = 30.0
"""Cost of an open or short reading for a kind that gives a number."""

CONVINCING_WEIGHT = 0.8
APART_KELVIN = 5.0
"""Two points closer than this count as one temperature."""

SPREAD = np.geomspace(1e-4, 1e4, 161)
KIND_NAMES = {
    ErrorKind.NONE: "no error",
    ErrorKind.SERIES_RESISTANCE: "resistance in series (joint)",
    ErrorKind.PARALLEL_LEAKAGE: "leak in parallel (moisture)",
    ErrorKind.SHIFTED_CURVE: "another curve (wrong part)",
    ErrorKind.SCALE: "off by a factor",
    ErrorKind.INTERMITTENT: "comes and goes",
    ErrorKind.CANNOT_TELL: "can't tell",
}
MEANINGS = {
    ErrorKind.NONE: "The sensor is good: every reading fits its curve.",
    ErrorKind.SERIES_RESISTANCE: (
        "Resistance added in series: a corroded joint or a damp, green plug between the board and the sensor."
    ),
    ErrorKind.PARALLEL_LEAKAGE: "A leak in parallel: moisture in the sensor, its splice or its plug.",
    ErrorKind.SHIFTED_CURVE: "Another curve: the wrong part is fitted.",
    ErrorKind.SCALE: "Every reading is off by the same factor: the wrong part, or a meter to be checked.",
    ErrorKind.INTERMITTENT: (
        "A break that comes and goes: some readings fit, others do not. Move the harness while you measure."
    ),
    ErrorKind.CANNOT_TELL: "These readings can't tell the kinds of error apart.",
}


@dataclass(frozen=True)
class KindFit:
    """One kind with its weight among all, its parameters (SI, by name) and what it predicts."""

    kind: ErrorKind
    weight: float
    parameters: dict[str, float | str]
    predict: Callable[[Floats], Floats]


@dataclass(frozen=True)
class ErrorKinds:
    """The kind that explains the readings, all kinds by weight, in words, and the point that would tell
    more (or None).

    ``borne_out`` is False while all readings lie at one temperature: the weights then say little.
    """

    kind: ErrorKind
    kinds: tuple[KindFit, ...]
    text: str
    next_celsius: float | None
    next_text: str
    borne_out: bool = True
    misses: "Missed | None" = None


@dataclass(frozen=True)
class Missed:
    """How wrong a sensor could still be that gives these readings: kelvins, and the temperature they are at
    (°C)."""

    kelvin: float
    celsius: float

    @property
    def text(self) -> str:
        """The same in words."""
        error = format_value(self.kelvin, Dimension.TEMPERATURE_DIFFERENCE)
        return f"An error of up to {error} at {format_celsius(self.celsius)} would still be missed."


UNKNOWN_SCALE, UNKNOWN_BETA = math.log(2), 0.3
"""How far a wrong part may be off before anything is measured: ln R at the reference, and Beta as a share
(one standard deviation each)."""

WORKING_CELSIUS = (-20.0, 25.0)
"""Where a refrigerator's sensors work."""


def missed(curve: Curve, points: list[SensorPoint], limits: Limits) -> Missed | None:
    """The largest error, at either end of where sensors work, that these readings leave room for.

    A part that is off by s in ln R and by the share b in Beta reads ln R + s + l·b (l the lever of
    :class:`Sensitivity`). With wide normal priors on both, readings of variance v leave the normal posterior
    P = (diag(prior)⁻¹ + HᵀV⁻¹H)⁻¹, m = P·HᵀV⁻¹r, H = [1 l]; the error at T is at most
    (|hᵀm| + 2·√(hᵀPh))/|α(T)| in 19 of 20. None without a number.
    """
    celsius, ohms = numbers(points)
    if not len(ohms):
        return None
    moves = Sensitivity.of(curve, celsius)
    variance = ((moves.alphas * limits.doubt_kelvin) ** 2 + limits.meter_tells**2) / 3
    seen = np.stack([np.ones(len(ohms)), moves.levers], axis=1)
    left = np.linalg.inv(
        np.diag([1 / UNKNOWN_SCALE**2, 1 / UNKNOWN_BETA**2]) + (seen / variance[:, None]).T @ seen
    )
    mean = left @ (seen.T @ ((np.log(ohms) - np.log(curve.ohms(celsius))) / variance))
    ends = np.array(WORKING_CELSIUS)
    there = Sensitivity.of(curve, ends)
    across = np.stack([np.ones(len(ends)), there.levers], axis=1)
    doubt = np.sqrt(np.einsum("ij,jk,ik->i", across, left, across))
    kelvins = (np.abs(across @ mean) + 2 * doubt) / np.abs(there.alphas)
    worst = int(np.argmax(kelvins))
    return Missed(float(kelvins[worst]), float(ends[worst]))


SAME_CURVE = 0.02
"""Two curves nearer than this everywhere (ln R) are one, whatever the sensor is good to."""

LEAST_BETA, MOST_BETA = 1500.0, 6000.0
"""No thermistor has a Beta outside these, in kelvin."""


def explain(
    curve: Curve, points: list[SensorPoint], limits: Limits, library: Iterable[KnownCurve] = ()
) -> ErrorKinds:
    """Weigh every kind of error against the readings."""
    celsius, ohms = numbers(points)
    lost = len(points) - len(ohms)
    if not len(ohms):
        return ErrorKinds(
            ErrorKind.CANNOT_TELL,
            (),
            "Open or short at every point: a break or a pinched wire. Measure again at the sensor's own"
            " plug.",
            None,
            "",
        )
    fits = [
        _plain(curve, celsius, ohms, limits),
        _one_parameter(ErrorKind.SERIES_RESISTANCE, curve, celsius, ohms, limits),
        _one_parameter(ErrorKind.PARALLEL_LEAKAGE, curve, celsius, ohms, limits),
        _one_parameter(ErrorKind.SCALE, curve, celsius, ohms, limits),
    ]
    library = tuple(library)
    fits += _shifted(curve, points, celsius, ohms, limits, library)
    fits = [
        (kind, score + PENALTY[kind] + OPEN_COST * lost, parameters, predict)
        for kind, score, parameters, predict in fits
    ]
    if (stray := _intermittent(curve, points, limits)) is not None:
        fits.append(stray)
    scores = np.array([score for _, score, _, _ in fits])
    weights = np.exp(-(scores - scores.min()) / 2)
    weights /= weights.sum()
    ranked = tuple(
        KindFit(kind, float(weight), parameters, predict)
        for weight, (kind, _, parameters, predict) in sorted(
            zip(weights, fits, strict=True), key=lambda pair: -pair[0]
        )
    )
    found = _conclude(curve, points, limits, ranked)
    told = _would_fit(curve, points, limits, library)
    return replace(found, text=f"{found.text} {told}") if told else found


MOST_NAMED = 2
"""Known curves named for a reading that no temperature of its own explains."""


def _would_fit(curve: Curve, points: list[SensorPoint], limits: Limits, library: Iterable[KnownCurve]) -> str:
    """Which known curves all readings are right for, where one of them is right for no temperature on its
    own; those of sheets first."""
    outside = {Verdict.HIGH, Verdict.LOW}
    verdicts = [judge_sensor(curve, point, limits) for point in points]
    if all(each.implied_celsius is not None or each.verdict not in outside for each in verdicts):
        return ""
    right = [
        known
        for known in library
        if all(
            judge_sensor(known.curve, point, limits).verdict in {Verdict.IN_BAND, Verdict.UNCLEAR}
            for point in points
        )
    ]
    right.sort(key=lambda known: known.source == "generic")
    names = " or ".join(known.name for known in right[:MOST_NAMED])
    return f"It would be right for {names}." if names else "No curve that is known here reads so."


Scored = tuple[ErrorKind, float, dict[str, float | str], Callable[[Floats], Floats]]


def _plain(curve: Curve, celsius: Floats, ohms: Floats, limits: Limits) -> Scored:
    return ErrorKind.NONE, curve_misfit(curve, celsius, ohms, limits), {}, curve.ohms


def _reading(kind: ErrorKind, own: Floats, parameter: Floats | float) -> tuple[Floats, Floats]:
    """(reading, its sensitivity w to the sensor's own resistance) for one parameter of a kind."""
    match kind:
        case ErrorKind.SERIES_RESISTANCE:
            return own + parameter, own / (own + parameter)
        case ErrorKind.PARALLEL_LEAKAGE:
            return own * parameter / (own + parameter), parameter / (own + parameter)
    return own * parameter, np.ones_like(own * parameter)


def _one_parameter(kind: ErrorKind, curve: Curve, celsius: Floats, ohms: Floats, limits: Limits) -> Scored:
    # The optimiser's import takes longer than all the rest; a question it is not needed for goes without.
    from scipy.optimize import minimize_scalar  # noqa: PLC0415

    own, moves = curve.ohms(celsius), Sensitivity.of(curve, celsius)
    unit = 1.0 if kind is ErrorKind.SCALE else float(np.exp(np.mean(np.log(own))))

    def scores_at(log_parameters: Floats) -> Floats:
        """Scores of parameters given by their logarithm, shape (m,)."""
        reading, weights = _reading(kind, own, np.exp(log_parameters)[:, None])
        return misfit(np.log(ohms) - np.log(reading), moves, weights, limits)

    starts = np.log(SPREAD * unit)
    scores = scores_at(starts)
    best = int(np.argmin(scores))
    found = minimize_scalar(
        lambda start: float(scores_at(np.array([start]))[0]),
        bounds=(starts[max(best - 1, 0)], starts[min(best + 1, len(starts) - 1)]),
        method="bounded",
        options={"xatol": 1e-9},
    )
    parameter = float(np.exp(found.x))
    name = {
        ErrorKind.SERIES_RESISTANCE: "series_ohms",
        ErrorKind.PARALLEL_LEAKAGE: "parallel_ohms",
        ErrorKind.SCALE: "factor",
    }[kind]
    return (
        kind,
        min(float(found.fun), float(scores[best])),
        {name: parameter},
        lambda at: _reading(kind, curve.ohms(at), parameter)[0],
    )


def _shifted(
    curve: Curve,
    points: list[SensorPoint],
    celsius: Floats,
    ohms: Floats,
    limits: Limits,
    library: tuple[KnownCurve, ...],
) -> list[Scored]:
    """The known curve that fits best, and the free Beta curve through the points, whichever scores
    better."""
    candidates: list[Scored] = []
    own = np.log(curve.ohms(PROFILE_CELSIUS))
    others = [
        known for known in library if np.abs(known.profile - own).max() > max(limits.tolerance, SAME_CURVE)
    ]
    scored = [
        (
            curve_misfit(known.curve, celsius, ohms, limits)
            + GENERIC_CURVE_PENALTY * (known.source == "generic"),
            index,
        )
        for index, known in enumerate(others)
    ]
    if scored:
        score, index = min(scored)
        known = others[index]
        candidates.append(
            (
                ErrorKind.SHIFTED_CURVE,
                score,
                {"curve": known.name, "r25_ohms": known.r25_ohms, "beta_kelvin": known.beta_kelvin},
                known.curve.ohms,
            )
        )
    if (other := _other_beta(curve, celsius, ohms, limits)) is not None:
        candidates.append(other)
    # Two free parameters fit any two points; only a third can bear them out.
    free = fitted(points) if len(celsius) >= 3 else None
    if free is not None and free.sense == curve.sense and LEAST_BETA < abs(free.beta_kelvin) < MOST_BETA:
        parameters: dict[str, float | str] = {
            "curve": "",
            "r25_ohms": free.reference_ohms,
            "beta_kelvin": free.beta_kelvin,
        }
        candidates.append(
            (
                ErrorKind.SHIFTED_CURVE,
                curve_misfit(free, celsius, ohms, limits) + UNKNOWN_CURVE_PENALTY,
                parameters,
                free.ohms,
            )
        )
    return [min(candidates, key=lambda scored: scored[1])] if candidates else []


BETAS = np.linspace(LEAST_BETA, MOST_BETA, 91)
"""In steps of 50 K."""


def _other_beta(curve: Curve, celsius: Floats, ohms: Floats, limits: Limits) -> Scored | None:
    """A part of the same resistance at 25 °C and another Beta, the likeliest.

    It costs no more than a curve that is known: parts are bought by that resistance. None for one
    temperature, and for sensors whose resistance rises with it.
    """
    if np.ptp(celsius) < APART_KELVIN or curve.sense != "ntc":
        return None
    r25, own = float(curve.ohms(REFERENCE_CELSIUS)), np.log(curve.ohms(PROFILE_CELSIUS))
    others = [BetaCurve(r25, beta) for beta in BETAS.tolist()]
    found = min(
        (curve_misfit(other, celsius, ohms, limits), other.beta_kelvin)
        for other in others
        if np.abs(np.log(other.ohms(PROFILE_CELSIUS)) - own).max() > max(limits.tolerance, SAME_CURVE)
    )
    other = BetaCurve(r25, found[1])
    parameters: dict[str, float | str] = {"curve": "", "r25_ohms": r25, "beta_kelvin": found[1]}
    return ErrorKind.SHIFTED_CURVE, found[0], parameters, other.ohms


def _intermittent(curve: Curve, points: list[SensorPoint], limits: Limits) -> Scored | None:
    """Some readings in band, the others stray; None unless there are both."""
    verdicts = [judge_sensor(curve, point, limits).verdict for point in points]
    good = [
        point
        for point, verdict in zip(points, verdicts, strict=True)
        if verdict in {Verdict.IN_BAND, Verdict.UNCLEAR}
    ]
    strays = len(points) - len(good)
    if not good or not strays:
        return None
    celsius, ohms = numbers(good)
    score = curve_misfit(curve, celsius, ohms, limits) + PENALTY[ErrorKind.INTERMITTENT] + STRAY_COST * strays
    # A stray reading has no width of its own; give it that of a reading, so that scores compare.
    score += strays * float(
        np.log(limits.meter_tells**2 / 3 + (curve.alpha(0.0) * limits.doubt_kelvin) ** 2 / 3)
    )
    return ErrorKind.INTERMITTENT, score, {"strays": float(strays)}, curve.ohms


def _conclude(
    curve: Curve, points: list[SensorPoint], limits: Limits, ranked: tuple[KindFit, ...]
) -> ErrorKinds:
    best = ranked[0]
    all_fit = all(
        judge_sensor(curve, point, limits).verdict in {Verdict.IN_BAND, Verdict.UNCLEAR} for point in points
    )
    # Any one-parameter kind passes through a single temperature; only a second one can bear it out.
    borne_out = bool(np.ptp(numbers(points)[0]) >= APART_KELVIN)
    named = borne_out or best.kind in {ErrorKind.NONE, ErrorKind.INTERMITTENT}
    kind = best.kind if best.weight >= CONVINCING_WEIGHT and named else ErrorKind.CANNOT_TELL
    if best.kind is ErrorKind.NONE or (all_fit and kind is ErrorKind.CANNOT_TELL):
        kind = ErrorKind.NONE if all_fit else ErrorKind.CANNOT_TELL
    celsius, text = (
        (None, "") if kind is not ErrorKind.CANNOT_TELL else _telling_point(curve, points, limits, ranked)
    )
    misses = missed(curve, points, limits) if kind is ErrorKind.NONE else None
    told = _words(kind, best, points) + (f" {misses.text}" if misses else "")
    return ErrorKinds(kind, ranked, told, celsius, text, borne_out, misses)


def _words(kind: ErrorKind, best: KindFit, points: list[SensorPoint]) -> str:
    words = MEANINGS[kind]
    match kind:
        case ErrorKind.NONE if len(points) == 1:
            return (
                "The one reading fits its curve. That is weak evidence; take a second at another temperature."
            )
        case ErrorKind.SERIES_RESISTANCE:
            words += f" About {format_ohms(float(best.parameters['series_ohms']))} too much."
        case ErrorKind.PARALLEL_LEAKAGE:
            words += f" About {format_ohms(float(best.parameters['parallel_ohms']))} beside it."
        case ErrorKind.SCALE:
            words += f" Factor {best.parameters['factor']:.2f}."
        case ErrorKind.SHIFTED_CURVE:
            name = best.parameters["curve"] or "none of the known ones"
            words += (
                f" It reads like {name}: {format_ohms(float(best.parameters['r25_ohms']))} at 25 °C, B"
                f" {best.parameters['beta_kelvin']:.0f} K."
            )
    return words


def _telling_point(
    curve: Curve, points: list[SensorPoint], limits: Limits, ranked: tuple[KindFit, ...]
) -> tuple[float | None, str]:
    """The temperature at which the likeliest kinds part most, weighed by how well a reading there could
    tell."""
    taken = [point.temperature.number for point in points if point.resistance.state is State.VALUE]
    if ranked[0].kind is ErrorKind.INTERMITTENT or len(ranked) < 2:
        return None, "Measure the same point again while you move the harness."
    first, second = (
        ranked[0],
        next((fit for fit in ranked[1:] if fit.kind is not ErrorKind.INTERMITTENT), ranked[1]),
    )
    best: tuple[float, float, str] | None = None
    for celsius, words in GUIDE_POINTS:
        if any(abs(celsius - other) < NEAR_KELVIN for other in taken):
            continue
        width = float(np.hypot(limits.meter_tells, curve.alpha(celsius) * limits.doubt_kelvin))
        apart = (
            abs(float(np.log(first.predict(np.array(celsius)) / second.predict(np.array(celsius))))) / width
        )
        if best is None or apart > best[0]:
            best = (apart, celsius, words)
    if best is None:
        return (
            None,
            "Measure one point again while you move the harness, and check the thermometer in an ice bath.",
        )
    names = " from ".join(KIND_NAMES[fit.kind] for fit in (first, second))
    return best[1], f"Measure it {best[2]}, about {format_celsius(best[1])}: that tells {names}."


def guide_points(verdicts: Iterable[SensorVerdict]) -> tuple[tuple[float, str, SensorVerdict | None], ...]:
    """The points a repairer can make anywhere, (celsius, where, the reading taken there or None), warm to
    cold."""
    taken = list(verdicts)
    points = []
    for celsius, where in sorted(GUIDE_POINTS[:3], reverse=True):
        near = [
            verdict for verdict in taken if abs(verdict.point.temperature.number - celsius) <= NEAR_KELVIN
        ]
        points.append((celsius, where, near[-1] if near else None))
    return tuple(points)
