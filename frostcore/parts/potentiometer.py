"""A user potentiometer: end to end, both stops, and a sweep of the wiper.

Symbols: R end to end; readings of the wiper against one end, along the turn, all in ohms.
"""

import statistics
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise

from frostcore.errors import FrostError
from frostcore.quantity import Quantity, State, format_ohms
from frostcore.verdict import Band, Judged, Question, Verdict

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


class Against(StrEnum):
    """Which end of the track the wiper was read against at its stops: nobody said, at each stop the nearer,
    or at both the same one."""

    UNKNOWN = ""
    NEARER = "nearer"
    SAME = "same"


def judge_potentiometer(
    nominal_ohms: float,
    end_to_end: Quantity,
    stops: list[Quantity],
    sweep: list[Quantity],
    tolerance: float = DEFAULT_TOLERANCE,
    against: Against = Against.UNKNOWN,
) -> PotVerdict:
    """Judge what was measured.

    ``stops`` are the wiper's readings at each stop, ``against`` which end; ``sweep`` those along the turn.
    A stop reads next to nothing against its own end and the whole track against the other.

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
    whole = end_to_end.value or nominal_ohms
    places = [_where(stop, nominal_ohms, whole) for stop in stops]
    parts += [
        (f"stop_{number}", *_stop(number, stop, where, nominal_ohms, against))
        for number, (stop, where) in enumerate(zip(stops, places, strict=True), 1)
    ]
    if against is Against.SAME and places in (["near", "near"], ["far", "far"]):
        told = "Both stops read alike against the same end: the wiper does not travel the track."
        parts.append(("travel", Verdict.LOW if places[0] == "near" else Verdict.HIGH, told))
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
        verdict=overall,
        band=band,
        parts=tuple(parts),
        reason=" ".join(words for _, _, words in parts),
        questions=_which_end(places, against),
    )


def _which_end(places: list[str], against: Against) -> tuple[Question, ...]:
    """Ask which end the stops were read against, where the readings leave it open."""
    if "far" not in places or against is not Against.UNKNOWN:
        return ()
    mixed = "near" in places
    text = (
        "One stop reads next to nothing and the other the whole track. Were both read against the same end?"
        " Then that is as it should be."
        if mixed
        else "A stop reads the whole track. Was the other lead on the far end there? Then that is as it"
        " should be; against its own end it reads next to nothing."
    )
    return (Question("stop_end", text, "against", Against.SAME if mixed else ""),)


def _end_to_end(reading: Quantity, band: Band) -> tuple[Verdict, str]:
    limits = f"{format_ohms(band.low)} to {format_ohms(band.high)}"
    if reading.state is State.OPEN:
        return Verdict.OPEN, "End to end is open: the track is broken."
    if reading.state is State.SHORT or reading.number < SHORT_SHARE * band.nominal:
        return Verdict.SHORT, "End to end is shorted."
    verdict = band.verdict(reading.number)
    return verdict, f"End to end {format_ohms(reading.number)}: {verdict.label} ({limits})."


def _where(reading: Quantity, nominal: float, whole: float) -> str:
    """What a stop's reading looks like: ``near`` its own end, ``far`` from it, ``between``, or ``open``."""
    if reading.state is State.OPEN:
        return "open"
    if reading.number <= STOP_SHARE * nominal:
        return "near"
    return "far" if abs(reading.number - whole) <= STOP_SHARE * nominal else "between"


def _stop(
    number: int, reading: Quantity, where: str, nominal: float, against: Against
) -> tuple[Verdict, str]:
    match where:
        case "open":
            return Verdict.OPEN, f"Stop {number} is open: the wiper has lost the track there."
        case "near":
            return Verdict.IN_BAND, f"Stop {number} is near zero."
        case "far" if against is Against.NEARER:
            text = (
                f"Stop {number} reads the whole track: the lead is on the other end. Move it and read again."
            )
            return Verdict.UNCLEAR, text
        case "far":
            return Verdict.IN_BAND, f"Stop {number} reads the whole track: it was read against the other end."
    most = format_ohms(STOP_SHARE * nominal)
    return Verdict.HIGH, (
        f"Stop {number} reads {format_ohms(reading.number)}; near zero is wanted (at most {most}), or the"
        " whole track against the other end."
    )


def _sweep(sweep: list[Quantity], end_to_end: Quantity, nominal: float) -> tuple[Verdict, str]:
    """Monotonic, no jump, never open, never above the whole track."""
    found = _oddities(sweep, end_to_end.value or nominal)
    order = list(Oddity)
    first = min(found, key=lambda each: (order.index(each[1]), each[0]), default=None)
    if first is None and len(sweep) < 2:
        return Verdict.UNCLEAR, "One place is no sweep; read it at four or more."
    if first is None:
        return Verdict.IN_BAND, f"The sweep is smooth over {len(sweep)} places."
    place, what = first
    if what is Oddity.OPEN:
        return Verdict.OPEN, f"The wiper is open at place {place + 1} of {len(sweep)}: a dead spot."
    value = sweep[place].number
    if what is Oddity.LIFTED:
        told = f"Place {place + 1} reads {format_ohms(value)}, more than the whole track"
        return Verdict.HIGH, f"{told}: the wiper lifts off there."
    before = sweep[place - 1].number
    between = f"Between places {place} and {place + 1} the wiper"
    if what is Oddity.BACK:
        told = f"{between} goes back ({format_ohms(before)} to {format_ohms(value)}): a worn track."
        return Verdict.LOW if value < before else Verdict.HIGH, told
    told = f"{between} jumps by {format_ohms(abs(value - before))}: a worn track or a dirty wiper."
    return Verdict.HIGH, told


class Oddity(StrEnum):
    """What is wrong at a place of a sweep, the gravest first."""

    OPEN = "open"
    LIFTED = "lifted"
    BACK = "back"
    JUMP = "jump"


def _oddities(sweep: list[Quantity], whole: float) -> list[tuple[int, Oddity]]:
    """Places that are open, read more than the track, go back, or come after a jump."""
    values = [None if each.state is State.OPEN else each.number for each in sweep]
    found = [(place, Oddity.OPEN) for place, value in enumerate(values) if value is None]
    found += [
        (place, Oddity.LIFTED)
        for place, value in enumerate(values)
        if value is not None and value > LIFTED_SHARE * whole
    ]
    steps = [
        (place, after - before)
        for place, (before, after) in enumerate(pairwise(values), 1)
        if before is not None and after is not None
    ]
    if not steps:
        return found
    way = 1 if sum(step for _, step in steps) >= 0 else -1
    slack = SLACK_SHARE * whole
    usual = statistics.median(abs(step) for _, step in steps)
    for place, step in steps:
        if step * way < -slack:
            found.append((place, Oddity.BACK))
        elif (
            len(values) >= LEAST_SWEEP
            and abs(step) > JUMP_TIMES * max(usual, slack)
            and abs(step) > JUMP_SHARE * whole
        ):
            found.append((place, Oddity.JUMP))
    return found


WIDE, HIGH, MARGIN = 480.0, 220.0, 34.0
"""A sweep's picture, in points, with room for its words."""


@dataclass(frozen=True)
class SweepDot:
    """A place of the sweep: where it lies, what it reads, and whether it is where the verdict says."""

    x: float
    y: float
    text: str
    odd: bool


@dataclass(frozen=True)
class SweepPicture:
    """The wiper's ohms over the turn: the band a sound linear one lies in, the line as read (parted where the
    wiper is open), its places, and the whole track's level; in points of WIDE × HIGH."""

    band: str
    line: str
    dots: tuple[SweepDot, ...]
    whole_y: float
    whole: str
    summary: str


def draw_sweep(
    sweep: list[Quantity], end_to_end: Quantity, tolerance: float = DEFAULT_TOLERANCE
) -> SweepPicture:
    """A sweep at even steps of the turn as a picture; FrostError for less than two places or no track."""
    whole = end_to_end.value or 0.0
    if len(sweep) < 2 or whole <= 0:
        raise FrostError("A sweep needs two places or more, and the whole track’s ohms.")
    known = [reading.number for reading in sweep if reading.state is not State.OPEN]
    rising = not known or known[-1] >= known[0]
    top = max([whole * (1 + tolerance), *known])

    def at(place: float, ohms: float) -> tuple[float, float]:
        x = MARGIN + (WIDE - 2 * MARGIN) * place / (len(sweep) - 1)
        return round(x, 1), round(HIGH - MARGIN - (HIGH - 2 * MARGIN) * ohms / top, 1)

    def ideal(place: float) -> float:
        share = place / (len(sweep) - 1)
        return whole * (share if rising else 1 - share)

    last = len(sweep) - 1
    wide = tolerance * whole / 2
    corners = [
        at(0, max(0.0, ideal(0) - wide)),
        at(0, ideal(0) + wide),
        at(last, ideal(last) + wide),
        at(last, max(0.0, ideal(last) - wide)),
    ]
    odd = {place for place, _ in _oddities(sweep, whole)}
    dots = []
    parts, drawn = list[str](), False
    for place, reading in enumerate(sweep):
        if reading.state is State.OPEN:
            x, y = at(place, 0.0)
            dots.append(SweepDot(x, y, "OL", odd=True))
            drawn = False
            continue
        x, y = at(place, reading.number)
        dots.append(SweepDot(x, y, format_ohms(reading.number), place in odd))
        parts.append(f"{'L' if drawn else 'M'}{x} {y}")
        drawn = True
    told = ", ".join(dot.text for dot in dots)
    return SweepPicture(
        "M" + "L".join(f"{x} {y}" for x, y in corners) + "Z",
        "".join(parts),
        tuple(dots),
        at(0, whole)[1],
        format_ohms(whole),
        f"Along the turn: {told}; the whole track is {format_ohms(whole)}.",
    )
