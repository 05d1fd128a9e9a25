"""What the pages show of the judgement: suspects, why, and whether good parts have been drawn yet.

No rules of the job here.
"""

import threading
from dataclasses import dataclass, replace

from frostcore.circuit.fringe import LEAST_SHARE
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.picture import TracePicture
from frostcore.diagnosis.acts import unit_name
from frostcore.diagnosis.evidence import Evidence
from frostcore.diagnosis.from_tape import evidence_from, judgement_of
from frostcore.diagnosis.judge import Judgement, Suspect
from frostcore.diagnosis.kinds import speaks_against
from frostcore.diagnosis.now import Now, looks_in_order, now_of
from frostcore.diagnosis.planner import planner_of, renew
from frostcore.diagnosis.readings import readings_of
from frostcore.diagnosis.state import has_look
from frostcore.diagnosis.step import NextStep, before_all, in_words, name_of, next_step, percent
from frostcore.diagnosis.suspicion import Fringe, fringes, suspicion_of
from frostcore.diagnosis.telling import LEAST_BITS, Bearing, alike, bearings, settling
from frostcore.diagnosis.weigh import weigher_of
from frostcore.faults.draws import DRAWS
from frostcore.sheet.model import Sheet
from frostcore.tape.kinds import words_of
from frostcore.tape.looks import LOOKS
from frostcore.tape.stages import Stage
from frostcore.tape.standing import Standing

SHOWN, LEAST = 4, 0.01
"""So many suspects are shown, down to this probability."""

WHY_SHOWN = 6

PATIENCE = 0.5
"""So many seconds a page waits for a sheet's judgement to be worked out the first time, and no longer."""

_working: dict[int, threading.Thread] = {}
_ready: set[int] = set()
_begun: dict[int, threading.Event] = {}
_lock = threading.Lock()
in_background = threading.Event()
"""Whether sheets are worked out beside the requests, as a server does; commands and tests wait."""


@dataclass(frozen=True)
class WhyLine:
    """What one slip has done to a suspect: its words, and bits towards it or against."""

    words: str
    bits: float

    @property
    def text(self) -> str:
        """The bits in words."""
        return f"{abs(self.bits):.1f} bits {'for' if self.bits > 0 else 'against'}"


@dataclass(frozen=True)
class SuspectLine:
    """A suspect as the pages show it."""

    unit: str
    component: str
    name: str
    percent: str
    word: str
    share: float
    was: float
    """Its probability before the newest of what is known."""

    faults: tuple[str, ...]
    why: tuple[WhyLine, ...]
    settles: str = ""
    """What would settle it, in a line."""

    part: str = ""
    """Where it is, what it costs, when it can be had, as far as the sheet says."""

    @property
    def bar(self) -> str:
        """How long its rung is, of a hundred."""
        return f"{100 * self.share:.1f}"

    @property
    def tail(self) -> tuple[str, str] | None:
        """From where to where it has moved, of a hundred, as a start and a length; None where it has not."""
        if abs(self.share - self.was) < LEAST_MOVE:
            return None
        return f"{100 * min(self.share, self.was):.1f}", f"{100 * abs(self.share - self.was):.1f}"

    @property
    def moved(self) -> str:
        """In words, what the newest of what is known has done to it."""
        change = round(100 * (self.share - self.was))
        return f"{'up' if change > 0 else 'down'} {abs(change)}" if change else ""


LEAST_MOVE = 0.005
"""Less than this has not moved."""


@dataclass(frozen=True)
class Judged:
    """The judgement as the pages show it; ``drawing`` while it goes by parts as written."""

    suspects: tuple[SuspectLine, ...]
    named: str
    beside: tuple[str, ...]
    unexplained: tuple[str, ...]
    drawing: bool
    others: str = ""
    """The rest in a line."""

    alike: str = ""
    """Why no test parts the last ones."""

    other_kind: bool = False
    """Whether what was read may be of another kind of unit than the call is worked with."""

    ruled_out: tuple[tuple[str, str], ...] = ()
    """Where one is named, what else was suspected, and by what that ended."""


def judged(standing: Standing) -> Judged | None:
    """What a call comes to so far; None where its sheet has no circuit to judge by."""
    sheet = standing.sheet
    if not circuits_of(sheet).functions or standing.call is None or not ready(sheet):
        return None
    judgement, told = judgement_of(standing), evidence_from(standing)
    before = _before(judgement)
    shown = tuple(each for each in judgement.suspects[:SHOWN] if each.probability >= LEAST)
    settled = settling(judgement, shown)
    lines = tuple(
        replace(
            _line(standing, judgement, told, suspect, before.get(suspect.unit, 0.0)),
            settles=settled[suspect.unit].text if suspect.unit in settled else "",
        )
        for suspect in shown
    )
    return Judged(
        lines,
        name_of(judgement, judgement.named) if judgement.named else "",
        tuple(f"{name_of(judgement, each)} ({percent(each.probability)})" for each in judgement.beside),
        tuple(_words(standing, told, number) for number in judgement.unexplained),
        drawing=judgement.weigher.readings.draws < DRAWS,
        others=_others(judgement, lines),
        alike=alike(judgement),
        other_kind=standing.sheet.generic and bool(judgement.unexplained or speaks_against(standing)),
        ruled_out=_ruled_out(standing, judgement, told) if judgement.named else (),
    )


def bearings_on(standing: Standing) -> dict[str, Bearing]:
    """What each slip has done to the suspects, by its id; none where nothing can be judged, or not yet."""
    judgement = judgement_for(standing) if standing.call else None
    if judgement is None:
        return {}
    told = evidence_from(standing)
    return {told[entry][1]: bearing for entry, bearing in bearings(judgement).items()}


def _ruled_out(
    standing: Standing, judgement: Judgement, told: tuple[tuple[Evidence, str], ...]
) -> tuple[tuple[str, str], ...]:
    return tuple(
        (unit_name(judgement.sheet, unit), _words(standing, told, entry))
        for unit, entry in judgement.ruled_out[:MOST_RULED_OUT]
    )


MOST_RULED_OUT = 6


def _before(judgement: Judgement) -> dict[str, float]:
    """Every unit's probability before the newest of what is known."""
    earlier = Judgement(judgement.weigher, judgement.evidence[:-1])
    return dict(zip(judgement.weigher.known.units, earlier.posterior.units.tolist(), strict=True))


def _others(judgement: Judgement, lines: tuple[SuspectLine, ...]) -> str:
    """How many more there are, and how likely all of them together."""
    rest = 1 - sum(line.share for line in lines)
    count = len(judgement.weigher.known.units) - len(lines)
    return f"{count} others together {percent(rest)}" if rest >= LEAST_REST else ""


LEAST_REST = 0.005
"""Others less likely together are not told of."""


def frost_on(standing: Standing, picture: TracePicture) -> tuple[tuple[Fringe, ...], str]:
    """Where suspicion lies on a picture, and how much of it at no place of the unit (set wrongly, a room too
    warm), empty where that is little; nowhere while nothing is known."""
    if standing.call is None or not evidence_from(standing) or not ready(standing.sheet):
        return (), ""
    found = suspicion_of(judgement_of(standing))
    return fringes(picture, found), percent(found.apart) if found.apart >= LEAST_SHARE else ""


def judgement_for(standing: Standing) -> Judgement | None:
    """The judgement of a call; None where nothing can be judged, or not yet."""
    if not circuits_of(standing.sheet).functions or not ready(standing.sheet):
        return None
    return judgement_of(standing)


def leading(standing: Standing) -> str:
    """The likeliest suspect with its probability, in words; empty where nothing is known yet."""
    sheet = standing.sheet
    if not circuits_of(sheet).functions or not evidence_from(standing) or not ready(sheet):
        return ""
    judgement = judgement_of(standing)
    first = judgement.suspects[0] if judgement.suspects else None
    return f"{name_of(judgement, first)} {percent(first.probability)}" if first else ""


def untested(standing: Standing) -> tuple[str, ...]:
    """The suspects that nothing on the tape has moved either way, likeliest first."""
    if not circuits_of(standing.sheet).functions or standing.call is None or not ready(standing.sheet):
        return ()
    judgement = judgement_of(standing)
    return tuple(
        name_of(judgement, suspect)
        for suspect in judgement.suspects
        if suspect.component and all(abs(bits) < LEAST_BITS for bits in judgement.steps(suspect).values())
    )


def chances_of(standing: Standing) -> dict[str, float]:
    """How likely each fault is by all that is known, by its id; none where nothing can be judged."""
    if not circuits_of(standing.sheet).functions or not ready(standing.sheet):
        return {}
    judgement = judgement_of(standing)
    known, now = judgement.weigher.known, judgement.posterior.now
    return {item.id: float(now[place]) for place, item in enumerate(known.all)}


def _line(
    standing: Standing,
    judgement: Judgement,
    told: tuple[tuple[Evidence, str], ...],
    suspect: Suspect,
    was: float,
) -> SuspectLine:
    moved = sorted(judgement.steps(suspect).items(), key=lambda item: -abs(item[1]))
    why = tuple(
        WhyLine(_words(standing, told, entry), bits)
        for entry, bits in moved[:WHY_SHOWN]
        if abs(bits) >= LEAST_BITS
    )
    return SuspectLine(
        suspect.unit,
        suspect.component,
        name_of(judgement, suspect),
        percent(suspect.probability),
        in_words(suspect.probability),
        suspect.probability,
        was,
        tuple(item.name for item, _ in suspect.faults[:2]),
        why,
        _part(standing.sheet, suspect.component),
    )


def _part(sheet: Sheet, component: str) -> str:
    part = next((item for item in sheet.components if item.id == component), None)
    if part is None:
        return ""
    told = [sheet.place(part.place).name] if part.place else []
    if part.price is not None:
        told.append(f"part {part.price:g}")
    if part.fit_minutes:
        told.append(f"{part.fit_minutes:g} min to fit")
    if part.lead_days:
        told.append(f"{part.lead_days} days to get")
    return ", ".join(told)


def _words(standing: Standing, told: tuple[tuple[Evidence, str], ...], number: int) -> str:
    slip = standing.slip(told[number][1])
    if slip is None:
        return ""
    words = words_of(standing, slip)
    return f"{words.title}: {words.figure}" if words.figure else words.title


def ready(sheet: Sheet) -> bool:
    """Whether a sheet's judgement is worked out; the first who asks has it begun, and waits a moment.

    By parts as written first; then good parts are drawn, and who asks meanwhile is answered by the former.
    """
    readings = readings_of(sheet)
    if id(readings) in _ready:
        return True
    if not in_background.is_set():
        return True  # worked out by whoever needs it
    with _lock:
        if id(readings) not in _working:
            begun = threading.Event()
            _working[id(readings)] = threading.Thread(
                target=_work_out, args=(sheet, begun), name="judgement", daemon=True
            )
            _begun[id(readings)] = begun
            _working[id(readings)].start()
    return _begun[id(readings)].wait(PATIENCE)


def _work_out(sheet: Sheet, begun: threading.Event) -> None:
    """All that a judgement needs of a sheet, and then of good parts."""
    readings = readings_of(sheet)
    readings.prepare(0)
    weigher = weigher_of(sheet)
    planner_of(weigher).outcomes.tables  # noqa: B018 -- worked out here and not in a request
    _ready.add(id(readings))
    begun.set()
    readings.prepare()
    renew(weigher)


def step_of(standing: Standing) -> NextStep:
    """The next step of a call; while its sheet is being worked out, what can be done without."""
    if not circuits_of(standing.sheet).functions or ready(standing.sheet):
        return next_step(standing)
    return before_all(standing) or NextStep(Stage.LOOK, "Look before you open anything", MEANWHILE)


def now_on(standing: Standing, instead: str = "") -> Now:
    """What to do now on a call; while its sheet is being worked out, what can be done without."""
    if not circuits_of(standing.sheet).functions or ready(standing.sheet):
        return now_of(standing, instead)
    return Now(step_of(standing))


def looks_on(standing: Standing) -> tuple[str, ...]:
    """The looks of a call's unit in the order of what they would tell; as the table has them while that is
    being worked out."""
    if not circuits_of(standing.sheet).functions or ready(standing.sheet):
        return looks_in_order(standing)
    return tuple(item.id for item in LOOKS if has_look(standing.sheet, item.id))


MEANWHILE = (
    "The suspects of this unit are being worked out, which takes some seconds the first time. What you look"
    " at meanwhile counts."
)
