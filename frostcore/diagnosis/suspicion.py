"""Where on the unit the likelihood lies: on which wire, plug, part and stage of a board; and a picture's
fringes by it."""

from collections.abc import Iterator
from dataclasses import dataclass, field

from frostcore.circuit.fringe import LEAST_SHARE, along, around
from frostcore.circuit.picture import TracePicture
from frostcore.diagnosis.hypotheses import ELSEWHERE, WELL, Hypothesis
from frostcore.diagnosis.judge import Judgement
from frostcore.diagnosis.step import percent

STAGE_WIDTH, STAGE_HEIGHT = 96.0, 20.0
"""The room a board's stage takes on a picture."""


@dataclass(frozen=True)
class Suspicion:
    """Probability by place: a stretch of the harness, a connector, a component, a board's stage
    (``board.k_defrost``). What stands nowhere on the unit (set wrongly, too warm a room) is ``apart``."""

    wires: dict[str, float] = field(default_factory=dict)
    plugs: dict[str, float] = field(default_factory=dict)
    parts: dict[str, float] = field(default_factory=dict)
    stages: dict[str, float] = field(default_factory=dict)
    apart: float = 0.0


@dataclass(frozen=True)
class Fringe:
    """Strokes on a picture (an SVG path), their share, what they stand at in words, and where the share is
    written."""

    path: str
    share: float
    words: str
    x: float
    y: float

    @property
    def text(self) -> str:
        """The share as people say it."""
        return percent(self.share)


def suspicion_of(judgement: Judgement) -> Suspicion:
    """Where it lies by all that is known. A fault of two parts lies on both."""
    found, apart = Suspicion(), 0.0
    known, now = judgement.weigher.known, judgement.posterior.now
    for item, chance in zip(known.all, now.tolist(), strict=True):
        places = list(_places(found, item))
        for kept, place in places:
            kept[place] = kept.get(place, 0.0) + chance
        if not places and item.unit not in {WELL, ELSEWHERE}:
            apart += chance
    return Suspicion(found.wires, found.plugs, found.parts, found.stages, apart)


def _places(found: Suspicion, item: Hypothesis) -> Iterator[tuple[dict[str, float], str]]:
    """The places a hypothesis stands at."""
    fault = item.fault
    if fault is None:
        return
    owner, _, rest = item.unit.partition(":")
    if fault.also:
        yield found.parts, fault.also
    if fault.where.startswith(f"{fault.component}."):
        yield found.stages, fault.where
    elif owner == fault.component and rest and rest == fault.where:
        yield found.wires, rest
    elif owner == fault.component and rest and fault.where:
        yield found.plugs, rest
    elif fault.component:
        yield found.parts, fault.component


def _wire(picture: TracePicture, identifier: str) -> str:
    """A stretch of the harness in words: from which pin or part's end to which."""
    names = {box.id: box.name for box in picture.boxes if box.kind == "component"}
    ends = []
    for end in identifier.split("-"):
        owner, _, terminal = end.partition(".")
        ends.append(f"{names[owner].lower()} {terminal}" if owner in names else end)
    return f"wire {' to '.join(ends)}"


def fringes(picture: TracePicture, found: Suspicion) -> tuple[Fringe, ...]:
    """The fringes of everything on a picture that there is suspicion on."""
    drawn = [
        Fringe(along(wire.path, share), share, _wire(picture, wire.id), wire.text_x, wire.text_y + 18)
        for wire in picture.wires
        if (share := found.wires.get(wire.id, 0.0)) >= LEAST_SHARE
    ]
    for box in picture.boxes:
        share = (found.parts if box.kind == "component" else found.plugs).get(box.id, 0.0)
        if share >= LEAST_SHARE:
            path = around(box.x, box.y, box.width, box.height, share)
            drawn.append(Fringe(path, share, box.name or box.id, box.x + box.width, box.y - 5))
    for inside in picture.insides:
        for stage, x, y, name in inside.stages:
            share = found.stages.get(stage, 0.0) + found.parts.get(stage, 0.0)
            if share >= LEAST_SHARE:
                left, top = x - 8, y - STAGE_HEIGHT / 2
                path = around(left, top, STAGE_WIDTH, STAGE_HEIGHT, share)
                drawn.append(Fringe(path, share, name, left + STAGE_WIDTH, y + STAGE_HEIGHT + 4))
    return tuple(sorted(drawn, key=lambda each: -each.share))
