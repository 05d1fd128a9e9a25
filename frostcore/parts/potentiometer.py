"""A user potentiometer: end to end, both stops, and a sweep of the wiper.

Symbols: R end to end; readings of the wiper against one end, along the turn, all in ohms.
"""

import statistics
from dataclasses import dataclass
from itertools import pairwise

from frostcore.errors import FrostError
from frostcore.quantity import Quantity, State, format_ohms
from frostcore.verdict import Band, Judged, Verdict

DEFAULT_TOLERANCE = 0.20
STOP_SHARE = 0.03
"""A wiper at its stop reads at most this share of the nominal resistance."""

SHORT_SHARE = 0.02
"""End to end below this share of the nominal resistance is a short."""

LIFTED_SHARE = 1.05
"""A wiper above this share of the whole track has lifted off it."""

SLACK_SHARE = 0.01
"""A wiper may go back by this share of the whole: a meter's last digits."""

LEAST_SWEEP = 4
"""A sweep at fewer places shows nothing."""

JUMP_TIMES = 1.7
JUMP_SHARE = 0.25
"""A step in the sweep is a jump when it is this many times the usual step and this share of the whole."""


@dataclass(frozen=True, kw_only=True)
class PotVerdict(Judged):
    """The judgement on a potentiometer: overall, each part (name, verdict, words), and the band end to
    end."""

    band: Band
    parts: tuple[tuple[str, Verdict, str], ...]


def judge_potentiometer(
    nominal_ohms: float,
    end_to_end: Quantity,
    stops: list[Quantity],
    sweep: list[Quantity],
    tolerance: float = DEFAULT_TOLERANCE,
) -> PotVerdict:
    """Judge what was measured.

    ``stops`` are the wiper's readings against the near end at each stop, ``sweep`` those along the turn.

    Raises FrostError for a nominal value or tolerance that makes no sense.
    """
    if not nominal_ohms > 0 or not 0 < tolerance < 1:
        message = (
            f"A potentiometer of {nominal_ohms:g} Ω ± {tolerance * 100:g} % can't be; type the value stamped"
            " on it, such as 10k."
        )
        raise FrostError(message)
    band = Band(nominal_ohms * (1 - tolerance), nominal_ohms, nominal_ohms * (1 + tolerance))
    parts = [("end_to_end", *_end_to_end(end_to_end, band))]
    parts += [(f"stop_{number}", *_stop(number, stop, nominal_ohms)) for number, stop in enumerate(stops, 1)]
    if sweep:
        parts.append(("sweep", *_sweep(sweep, end_to_end, nominal_ohms)))
    worst = next(
        (verdict for _, verdict, _ in parts if verdict not in {Verdict.IN_BAND, Verdict.UNCLEAR}), None
    )
    overall = worst or (Verdict.IN_BAND if sweep and len(sweep) >= LEAST_SWEEP else Verdict.UNCLEAR)
    if worst is None and overall is Verdict.UNCLEAR:
        parts.append(
            (
                "sweep_missing",
                Verdict.UNCLEAR,
                (
                    "Nothing wrong so far, but the wiper was not swept: read it at four or more places along"
                    " the turn, most of all where it is always set."
                ),
            )
        )
    return PotVerdict(
        verdict=overall, band=band, parts=tuple(parts), reason=" ".join(words for _, _, words in parts)
    )


def _end_to_end(reading: Quantity, band: Band) -> tuple[Verdict, str]:
    limits = f"{format_ohms(band.low)} to {format_ohms(band.high)}"
    if reading.state is State.OPEN:
        return Verdict.OPEN, "End to end is open: the track is broken."
    if reading.state is State.SHORT or reading.number < SHORT_SHARE * band.nominal:
        return Verdict.SHORT, "End to end is shorted."
    verdict = band.verdict(reading.number)
    return verdict, f"End to end {format_ohms(reading.number)}: {verdict.label} ({limits})."


def _stop(number: int, reading: Quantity, nominal: float) -> tuple[Verdict, str]:
    most = STOP_SHARE * nominal
    if reading.state is State.OPEN:
        return Verdict.OPEN, f"Stop {number} is open: the wiper has lost the track there."
    if reading.number > most:
        return (
            Verdict.HIGH,
            (
                f"Stop {number} reads {format_ohms(reading.number)}; near zero is wanted (at most"
                f" {format_ohms(most)})."
            ),
        )
    return Verdict.IN_BAND, f"Stop {number} is near zero."


def _sweep(sweep: list[Quantity], end_to_end: Quantity, nominal: float) -> tuple[Verdict, str]:
    """Monotonic, no jump, never open, never above the whole track."""
    for place, reading in enumerate(sweep, 1):
        if reading.state is State.OPEN:
            return Verdict.OPEN, f"The wiper is open at place {place} of {len(sweep)}: a dead spot."
    values = [reading.number for reading in sweep]
    whole = end_to_end.value or nominal
    for place, value in enumerate(values, 1):
        if value > LIFTED_SHARE * whole:
            return (
                Verdict.HIGH,
                (
                    f"Place {place} reads {format_ohms(value)}, more than the whole track: the wiper lifts"
                    " off there."
                ),
            )
    steps = [after - before for before, after in pairwise(values)]
    if not steps:
        return Verdict.UNCLEAR, "One place is no sweep; read it at four or more."
    way = 1 if sum(steps) >= 0 else -1
    slack = SLACK_SHARE * whole
    for place, step in enumerate(steps, 1):
        if step * way < -slack:
            return (
                Verdict.LOW if way > 0 else Verdict.HIGH,
                (
                    f"Between places {place} and {place + 1} the wiper goes back"
                    f" ({format_ohms(values[place - 1])} to {format_ohms(values[place])}): a worn track."
                ),
            )
    usual = statistics.median(abs(step) for step in steps)
    for place, step in enumerate(steps, 1):
        if (
            len(values) >= LEAST_SWEEP
            and abs(step) > JUMP_TIMES * max(usual, slack)
            and abs(step) > JUMP_SHARE * whole
        ):
            return (
                Verdict.HIGH,
                (
                    f"Between places {place} and {place + 1} the wiper jumps by {format_ohms(abs(step))}: a"
                    " worn track or a dirty wiper."
                ),
            )
    return Verdict.IN_BAND, f"The sweep is smooth over {len(values)} places."
