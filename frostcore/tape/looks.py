"""Looks: what to look at, in the order a repairer walks round the unit, nothing opened but for the last two;
and the answers there are.

One table; screens, reports and the weighing of suspects read it. An answer marked ``odd`` is not what a
healthy unit does.
"""

from dataclasses import dataclass


@dataclass(frozen=True)
class Answer:
    """One possible answer; ``odd`` when a healthy unit would not give it."""

    id: str
    text: str
    odd: bool = False


@dataclass(frozen=True)
class Look:
    """One thing to look at: what to do, the answers, and whether a thermometer reading belongs to it."""

    id: str
    name: str
    how: str
    answers: tuple[Answer, ...]
    caution: str = ""

    def answer(self, identifier: str) -> Answer:
        """The answer of that id; KeyError when there is none."""
        return {answer.id: answer for answer in self.answers}[identifier]


def _look(
    identifier: str, name: str, how: str, *answers: tuple[str, str], odd: str, caution: str = ""
) -> Look:
    odd_ids = set(odd.split())
    return Look(
        identifier, name, how, tuple(Answer(key, text, key in odd_ids) for key, text in answers), caution
    )


LOOKS: tuple[Look, ...] = (
    _look(
        "display",
        "Display",
        "Look at it before touching a button.",
        ("normal", "normal"),
        ("code", "shows a code"),
        ("dead", "dead"),
        ("flickers", "flickers or resets"),
        odd="code dead flickers",
    ),
    _look(
        "vent_air",
        "Air at the vent",
        "Hold a strip of paper at the vent.",
        ("moves", "moves"),
        ("weak", "weak"),
        ("none", "none"),
        odd="weak none",
    ),
    _look(
        "evaporator_fan",
        "Evaporator fan",
        "Hold the door switch in and listen.",
        ("runs", "runs"),
        ("noisy", "noisy"),
        ("still", "still"),
        odd="noisy still",
    ),
    _look(
        "light",
        "Light inside",
        "Open the door, then hold its switch in.",
        ("on", "comes on, goes out"),
        ("dark", "stays dark"),
        ("stays", "stays on"),
        odd="dark stays",
    ),
    _look(
        "compressor",
        "Compressor",
        "Hand near it, then on its shell.",
        ("runs_hot", "vibrating, hot"),
        ("runs_warm", "vibrating, warm"),
        ("still_hot", "still, hot"),
        ("still_cold", "still, cold"),
        ("clicks", "clicks, rhythmic"),
        odd="still_hot still_cold clicks",
        caution="Shell and discharge line can burn.",
    ),
    _look(
        "condenser_fan",
        "Condenser fan",
        "Look behind the kick plate.",
        ("runs", "runs"),
        ("still", "still"),
        ("none", "has none"),
        odd="still",
        caution="Blades cut; keep fingers out.",
    ),
    _look(
        "lines",
        "Discharge and suction line",
        "Feel both, a hand's breadth from the compressor.",
        ("normal", "discharge hot, suction cool"),
        ("both_warm", "both at room warmth"),
        ("suction_frosted", "suction frosted"),
        odd="both_warm suction_frosted",
        caution="Discharge lines burn.",
    ),
    _look(
        "frame_loop",
        "Door frame",
        "Feel the frame between the doors.",
        ("normal", "hand-warm"),
        ("hot", "hotter than usual"),
        ("cold", "cold"),
        odd="hot cold",
    ),
    _look(
        "frost",
        "Frost",
        "On the evaporator cover, without opening it.",
        ("none", "none"),
        ("even", "whole face, even"),
        ("inlet", "only at the inlet"),
        ("ball", "a ball round one spot"),
        ("cover_frozen", "cover frozen in"),
        ("food", "on the food"),
        odd="inlet ball cover_frozen food",
    ),
    _look(
        "condenser_dust",
        "Condenser",
        "A torch through the grille.",
        ("clean", "clean"),
        ("dusty", "dusty"),
        ("blocked", "blocked"),
        odd="dusty blocked",
    ),
    _look(
        "door_seal",
        "Door seal",
        "Pull a strip of paper at each side.",
        ("holds", "holds"),
        ("loose", "loose or torn"),
        odd="loose",
    ),
    _look(
        "water",
        "Water",
        "Floor, drawer bottom, behind.",
        ("none", "none"),
        ("inside", "inside"),
        ("floor", "on the floor"),
        odd="inside floor",
        caution="Wet floor: plug out first.",
    ),
    _look(
        "settings",
        "Settings",
        "Read them aloud: cold asked for, holiday, demonstration, service settings.",
        ("right", "as they should be"),
        ("wrong", "something set wrong"),
        odd="wrong",
    ),
    _look(
        "vents",
        "Vents inside",
        "Food before them, ice in their mouths?",
        ("free", "free"),
        ("blocked", "blocked"),
        odd="blocked",
    ),
    _look(
        "gaps",
        "Room to breathe",
        "The gaps behind and above, the niche’s own vents.",
        ("enough", "enough"),
        ("boxed_in", "boxed in"),
        odd="boxed_in",
    ),
    _look(
        "bulbs",
        "Bulbs and sensors",
        "Those in sight: clipped where they belong, pushed home?",
        ("in_place", "in place"),
        ("out", "out of place"),
        ("hidden", "none in sight"),
        odd="out",
    ),
    _look(
        "dispenser_dip",
        "Dispenser pressed",
        "Watch the display while you press.",
        ("steady", "display steady"),
        ("blacks_out", "display blacks out"),
        ("none", "has none"),
        odd="blacks_out",
    ),
    _look(
        "timer_shaft",
        "Defrost timer’s shaft",
        "Mark it; look again after twenty minutes of running.",
        ("moved", "has moved on"),
        ("stands", "stands where it was"),
        odd="stands",
    ),
    _look(
        "coil",
        "Evaporator, cover off",
        "Only once its cover is off: the whole coil, and what lies on it.",
        ("even", "bare after a defrost, or even frost"),
        ("iced", "iced solid"),
        ("inlet", "frost on the first turns only"),
        ("bare", "bare and warm while it should cool"),
        odd="iced inlet bare",
        caution="Fins cut; thaw ice with warmth, never with a blade.",
    ),
    _look(
        "board_label",
        "Board’s label",
        "The model on the board’s label or in its service mode, against the rating plate.",
        ("right", "this model’s"),
        ("other", "another model’s, or none set"),
        ("unreadable", "can’t be read"),
        odd="other",
    ),
)

_BY_ID = {look.id: look for look in LOOKS}


@dataclass(frozen=True)
class Answered:
    """A look and the answer it got, in words; ``odd`` where a healthy unit does not show it."""

    name: str
    text: str
    odd: bool


def answered(identifier: str, answer: str) -> Answered:
    """A look's answer in words; one this version's table has not is said by its ids."""
    try:
        found = look(identifier)
        chosen = found.answer(answer)
    except KeyError:
        return Answered(identifier.replace("_", " "), answer.replace("_", " "), odd=False)
    return Answered(found.name, chosen.text, chosen.odd)


def look(identifier: str) -> Look:
    """The look of that id; KeyError when there is none."""
    return _BY_ID[identifier]
