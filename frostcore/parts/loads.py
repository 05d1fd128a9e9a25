"""Loads by arithmetic: heaters, compressor windings, tachometers.

Symbols: R ohms, V volts, I amperes, P watts, f hertz. P = V²/R, I = P/V; rpm = 60·f/pulses per revolution.
"""

from dataclasses import dataclass

from frostcore.errors import FrostError
from frostcore.quantity import Dimension, Quantity, State, format_ohms, format_value
from frostcore.verdict import Band, Judged, Question, Verdict

DEFROST_WATTS = (100.0, 700.0)
"""What defrost heaters of household units are rated at."""

LEAK_OHMS = 2e6
"""A winding or heater that reads less than this to the chassis leaks."""

METER = 0.01
"""A meter's share in ohms."""

LEADS_OHMS = 0.3
"""What leads and their contacts add."""

HEATER_TOLERANCE = 0.08
HEATER_SHORT_OHMS = 1.0
"""A heater under this is shorted, or the leads touch."""

HIGH_MAINS_VOLTS, MAINS = 180.0, (120.0, 230.0)
"""The two kinds of household mains, and what tells them apart."""

BALANCE_SHARE = 0.05
"""Phases of an inverter compressor may differ by this share of their mean."""

SUM_SHARE = 0.03
"""Run to start is the sum of the other two within this share and two contacts of the leads."""

SPEED_TOLERANCE = 0.15


@dataclass(frozen=True, kw_only=True)
class HeaterVerdict(Judged):
    """A heater at a mains voltage: R, P and I, the band they were judged by, the verdict, and what to
    ask."""

    ohms: float | None
    watts: float | None
    amperes: float | None
    volts: float
    band: Band


def plausible_ohms(volts: float) -> tuple[float, float]:
    """The resistances a defrost heater can have on a mains: V²/P at the largest and the smallest
    rating."""
    return volts**2 / DEFROST_WATTS[1], volts**2 / DEFROST_WATTS[0]


def judge_heater(
    volts: float, ohms: Quantity, rated_watts: float | None = None, tolerance: float = HEATER_TOLERANCE
) -> HeaterVerdict:
    """A heater measured unplugged, against its rating or, without one, against what defrost heaters are.

    Raises FrostError for no mains.
    """
    if volts <= 0:
        message = f"A mains of {volts:g} V heats nothing; type it like 230V or 120V."
        raise FrostError(message)
    low, high = plausible_ohms(volts)
    if rated_watts:
        nominal = volts**2 / rated_watts
        band = Band(
            nominal * (1 - tolerance - METER) - LEADS_OHMS,
            nominal,
            nominal * (1 + tolerance + METER) + LEADS_OHMS,
        )
    else:
        band = Band(low, (low * high) ** 0.5, high)
    if ohms.state is State.OPEN:
        text = (
            "Open: nothing heats. Measure heater, thermal fuse and bimetal one by one; a warm bimetal is open"
            " by right."
        )
        return HeaterVerdict(
            ohms=None, watts=0.0, amperes=0.0, volts=volts, band=band, verdict=Verdict.OPEN, reason=text
        )
    value = ohms.value or 0.0
    questions = _unit_slip(volts, value)
    if ohms.state is State.SHORT or value < HEATER_SHORT_OHMS:
        return HeaterVerdict(
            ohms=value,
            watts=None,
            amperes=None,
            volts=volts,
            band=band,
            verdict=Verdict.SHORT,
            reason="Shorted, or the leads touch: a heater never reads so low. Don't switch it on.",
            questions=questions,
        )
    watts, amperes = volts**2 / value, volts / value
    verdict = band.verdict(value)
    elsewhere = MAINS[0] if volts > HIGH_MAINS_VOLTS else MAINS[1]
    other = plausible_ohms(elsewhere)
    if not low <= value <= high and other[0] <= value <= other[1]:
        text = (
            f"{format_ohms(value)} fits a heater for {elsewhere:.0f} V"
            f" ({format_value(elsewhere**2 / value, Dimension.POWER)}), not for {volts:.0f} V. Is this unit’s"
            f" mains really {volts:.0f} V, and the part the right one?"
        )
        questions = (*questions, Question("other_mains", text))
    at = (
        f"{format_value(watts, Dimension.POWER)} and {format_value(amperes, Dimension.CURRENT)} at"
        f" {format_value(volts, Dimension.VOLTAGE)}"
    )
    words = {
        Verdict.IN_BAND: "as it should be" if rated_watts else "plausible for a defrost heater",
        Verdict.HIGH: "too weak: the wire thins, or a joint in the loop is bad",
        Verdict.LOW: "too strong: turns bridged, or another load lies across it",
    }[verdict]
    return HeaterVerdict(
        ohms=value,
        watts=watts,
        amperes=amperes,
        volts=volts,
        band=band,
        verdict=verdict,
        reason=f"{at}: {words}.",
        questions=questions,
    )


def _unit_slip(volts: float, value: float) -> tuple[Question, ...]:
    """Whether ohms and kilohms were taken for each other: no defrost heater reads these, one reads those."""
    low, high = plausible_ohms(volts)
    for factor, was, meant in ((1000.0, "kΩ", "Ω"), (0.001, "Ω", "kΩ")):
        if value and low <= value / factor <= high:
            plain = format_ohms(value / factor)
            text = (
                f"{format_ohms(value)} would give {format_value(volts**2 / value, Dimension.POWER)}; no"
                f" defrost heater does. Did the meter show {was} where it meant {meant}: {plain}?"
            )
            return (Question("unit_slip", text, "ohms", plain),)
    return ()


def heater_by_watts(volts: float, watts: float) -> tuple[float, float]:
    """(ohms, amperes) of a heater by its rating."""
    if volts <= 0 or watts <= 0:
        message = f"{watts:g} W at {volts:g} V is no heater; both must be above zero."
        raise FrostError(message)
    return volts**2 / watts, watts / volts


@dataclass(frozen=True, kw_only=True)
class WindingsVerdict(Judged):
    """Compressor windings judged: the verdict, each finding with its own verdict, and what the terminals
    are where that follows."""

    findings: tuple[tuple[Verdict, str], ...]
    terminals: dict[str, str]
    run_ohms: float | None = None
    start_ohms: float | None = None


def _earth(earth: Quantity | None) -> tuple[tuple[Verdict, str], ...]:
    if earth is None:
        return ((Verdict.UNCLEAR, "Not measured to the chassis yet: do it at the highest range."),)
    if earth.state is State.OPEN or (earth.value is not None and earth.value >= LEAK_OHMS):
        return ((Verdict.IN_BAND, "No leak to the chassis."),)
    return (
        (Verdict.LOW, f"Leaks to the chassis ({earth.text}): the compressor is finished; don't apply mains."),
    )


def _dead(values: tuple[Quantity, ...], names: tuple[str, ...]) -> tuple[tuple[Verdict, str], ...]:
    found = []
    for quantity, name in zip(values, names, strict=True):
        if quantity.state is State.OPEN:
            found.append((Verdict.OPEN, f"{name} is open."))
        elif quantity.state is State.SHORT or quantity.value == 0:
            found.append((Verdict.SHORT, f"{name} is a dead short."))
    return tuple(found)


def _overall(findings: tuple[tuple[Verdict, str], ...]) -> Verdict:
    bad = [verdict for verdict, _ in findings if verdict not in {Verdict.IN_BAND, Verdict.UNCLEAR}]
    return bad[0] if bad else Verdict.IN_BAND


def judge_three_phase(
    pairs: tuple[Quantity, Quantity, Quantity], earth: Quantity | None = None, limit: float = BALANCE_SHARE
) -> WindingsVerdict:
    """Three pairs of an inverter compressor: equal within a few per cent, none to the chassis.

    ``limit`` is the spread allowed, as a fraction of the mean.
    """
    names = ("U–V", "V–W", "U–W")
    dead = _dead(pairs, names)
    findings: tuple[tuple[Verdict, str], ...]
    if dead:
        opened = sum(verdict is Verdict.OPEN for verdict, _ in dead)
        hint = ((Verdict.OPEN, "Two open pairs share the phase that is broken."),) if opened == 2 else ()
        findings = (*dead, *hint)
    else:
        ohms = [quantity.value or 0.0 for quantity in pairs]
        mean = sum(ohms) / 3
        spread = (max(ohms) - min(ohms)) / mean
        doubt = 2 * METER + LEADS_OHMS / mean
        words = ", ".join(f"{name} {format_ohms(value)}" for name, value in zip(names, ohms, strict=True))
        if spread > limit + doubt:
            odd = max(range(3), key=lambda place: abs(ohms[place] - mean))
            verdict = Verdict.LOW if ohms[odd] < mean else Verdict.HIGH
            findings = (
                (
                    verdict,
                    (
                        f"{words}: {spread * 100:.0f} % apart, {names[odd]} stands out; allowed are"
                        f" {limit * 100:.0f} % and the meter's {doubt * 100:.0f} %."
                    ),
                ),
            )
        else:
            findings = ((Verdict.IN_BAND, f"{words}: {spread * 100:.1f} % apart, balanced."),)
    findings = (*findings, *_earth(earth))
    return WindingsVerdict(
        verdict=_overall(findings),
        findings=findings,
        terminals={},
        reason=" ".join(text for _, text in findings),
    )


def judge_single_phase(
    ab: Quantity, bc: Quantity, ac: Quantity, earth: Quantity | None = None
) -> WindingsVerdict:
    """Three terminals of a single-phase compressor, A, B, C: run to start is the sum of run to common and
    start to common.

    The common is opposite the largest reading; of the other two, run has the lower resistance to it.
    """
    dead = _dead((ab, bc, ac), ("A–B", "B–C", "A–C"))
    if dead:
        findings = (*dead, *_earth(earth))
        return WindingsVerdict(
            verdict=_overall(findings),
            findings=findings,
            terminals={},
            reason=" ".join(text for _, text in findings),
        )
    ohms = {"AB": ab.value or 0.0, "BC": bc.value or 0.0, "AC": ac.value or 0.0}
    largest = max(ohms, key=lambda name: ohms[name])
    common = next(letter for letter in "ABC" if letter not in largest)
    to_common = {
        letter: next(value for name, value in ohms.items() if set(name) == {letter, common})
        for letter in largest
    }
    run, start = sorted(to_common, key=lambda letter: to_common[letter])
    total = to_common[run] + to_common[start]
    allowed = SUM_SHARE * total + 2 * LEADS_OHMS
    gap = ohms[largest] - total
    words = (
        f"{largest[0]}–{largest[1]} {format_ohms(ohms[largest])} against {format_ohms(to_common[run])} +"
        f" {format_ohms(to_common[start])} = {format_ohms(total)}"
    )
    if abs(gap) <= allowed:
        findings = (
            (Verdict.IN_BAND, f"{words}: they add up. {common} is the common, {run} run, {start} start."),
        )
    else:
        verdict = Verdict.HIGH if gap > 0 else Verdict.LOW
        findings = (
            (
                verdict,
                (
                    f"{words}: they don't add up by {format_ohms(abs(gap))}; a winding is damaged, or a start"
                    " device was still plugged on. Take it off and measure again."
                ),
            ),
        )
    findings = (*findings, *_earth(earth))
    return WindingsVerdict(
        verdict=_overall(findings),
        findings=findings,
        terminals={"common": common, "run": run, "start": start},
        run_ohms=to_common[run],
        start_ohms=to_common[start],
        reason=" ".join(text for _, text in findings),
    )


@dataclass(frozen=True, kw_only=True)
class SpeedVerdict(Judged):
    """A fan's speed from its tachometer, against its rating where one is known."""

    rpm: float


def judge_speed(
    hertz: float, pulses: float, rated_rpm: float | None = None, tolerance: float = SPEED_TOLERANCE
) -> SpeedVerdict:
    """Rpm = 60·f / pulses per revolution. Raises FrostError for no pulses."""
    if pulses <= 0 or hertz < 0:
        message = (
            f"{hertz:g} Hz at {pulses:g} pulses a turn is no speed; a fan gives 1 to 6 pulses a turn,"
            " mostly 2."
        )
        raise FrostError(message)
    rpm = 60 * hertz / pulses
    if not rated_rpm:
        return SpeedVerdict(
            rpm=rpm,
            verdict=Verdict.UNCLEAR if rpm else Verdict.OPEN,
            band=None,
            reason=(
                f"{rpm:.0f} rpm. Without a rated speed this only shows that it turns."
                if rpm
                else "No pulses: still, or no speed signal."
            ),
        )
    band = Band(rated_rpm * (1 - tolerance), rated_rpm, rated_rpm * (1 + tolerance))
    if rpm == 0:
        return SpeedVerdict(
            rpm=rpm,
            verdict=Verdict.OPEN,
            band=band,
            reason=(
                "No pulses. See whether it turns: turning without pulses is a dead tachometer or its wire;"
                " still is the fan, its supply or its command."
            ),
        )
    verdict = band.verdict(rpm)
    words = {
        Verdict.IN_BAND: "as rated",
        Verdict.LOW: "too slow: stiff bearing, ice, or low volts",
        Verdict.HIGH: "too fast: no load on the blades, or other pulses a turn than thought",
    }[verdict]
    return SpeedVerdict(
        rpm=rpm, verdict=verdict, band=band, reason=f"{rpm:.0f} rpm for {rated_rpm:.0f} rated: {words}."
    )
